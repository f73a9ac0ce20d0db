"""./sieve sets and ./sieve deliver against a server that runs, with its token."""

from __future__ import annotations

import json
import threading
import time
from collections.abc import Iterator
from pathlib import Path

import pytest
import uvicorn

from copper_sieve.api.access import Access
from copper_sieve.api.access_token import AccessToken
from copper_sieve.api.application import make_application
from copper_sieve.api.credentials import Credentials
from copper_sieve.cli.__main__ import main
from copper_sieve.services import delivery_worker, sets
from copper_sieve.services.context import Context
from copper_sieve.services.sources import import_source
from tests.conftest import MakePhoto

Said = pytest.CaptureFixture[str]
TOKEN = "a-token-of-the-tests"


@pytest.fixture
def server(context: Context) -> Iterator[str]:
    """The address of a server that asks for a token; deliveries are carried out at once."""
    access = Access(Credentials(AccessToken.chosen(TOKEN), context.database))
    config = uvicorn.Config(make_application(context, access), port=0, log_level="error")
    running = uvicorn.Server(config)
    stopping = threading.Event()

    def work() -> None:
        while not stopping.wait(0.05):
            delivery_worker.run(context)

    threads = [threading.Thread(target=running.run), threading.Thread(target=work)]
    for one in threads:
        one.start()
    while not running.started:
        time.sleep(0.01)
    yield f"http://127.0.0.1:{running.servers[0].sockets[0].getsockname()[1]}"
    running.should_exit = True
    stopping.set()
    for one in threads:
        one.join()


@pytest.fixture
def two(context: Context, project: str, make_photo: MakePhoto, tmp_path: Path) -> list[int]:
    """Two sets: crane_a and crane_b."""
    ids = []
    for seed, letter in enumerate("ab", 95):
        photo = make_photo(f"crane_{letter}.png", size=(32, 32), seed=seed)
        copy = tmp_path / "sent" / photo.name
        copy.parent.mkdir(exist_ok=True)
        copy.write_bytes(photo.read_bytes())
        ids.append(import_source(context, project, copy, photo.name).set_id)
    return ids


def run(server: str, *words: str, token: str = TOKEN) -> int:
    return int(main([*words, "--server", server, "--token", token]))


def test_sets_are_delivered_and_then_only_what_is_stale(
    server: str, context: Context, project: str, two: list[int], capsys: Said
) -> None:
    assert run(server, "deliver", project, "--target", "separate-png") == 0
    assert "2 parts, 0 unchanged" in capsys.readouterr().out
    assert run(server, "sets", project, "--find", "crane b") == 0
    assert capsys.readouterr().out == "crane_b: separate-png delivered\n"
    assert run(server, "deliver", project, "--stale") == 0
    assert "everything is up to date" in capsys.readouterr().out
    view = sets.get_view(context, two[0])
    surface = view.texture_set.surface.model_copy(update={"relief": 20.0})
    changed = view.texture_set.model_copy(update={"surface": surface})
    sets.change(context, two[0], view.version, changed)
    assert run(server, "deliver", project, "--stale", "--json") == 0
    told = json.loads(capsys.readouterr().out)
    assert [part["set_name"] for part in told["parts"]] == ["crane_a"]
    assert (told["state"], told["parts"][0]["kept"] > 0) == ("done", True)
    words = ("--target", "orm-y-down", "--set", "crane_b")
    assert run(server, "deliver", project, *words, "--no-wait") == 0


def test_what_fails_is_told_with_its_status(
    server: str, context: Context, project: str, two: list[int], capsys: Said
) -> None:
    folder = context.settings.delivery_root / project / "separate-png"
    folder.parent.mkdir(parents=True, exist_ok=True)
    folder.write_text("a file in the way", "utf-8")
    words = ("deliver", project, "--target", "separate-png", "--set", "crane_a")
    assert run(server, *words) == 1
    assert "crane_a for separate-png: " in capsys.readouterr().err


def test_what_is_wrong_with_the_asking_is_told(
    server: str, project: str, two: list[int], capsys: Said
) -> None:
    def said(*words: str, at: str = server, token: str = TOKEN) -> str:
        assert run(at, *words, token=token) == 2
        return capsys.readouterr().err

    assert "there is no project nowhere" in said("sets", "nowhere")
    assert "Give --token or set SIEVE_TOKEN" in said("sets", project, token="wrong")
    assert "no set crane_z" in said("deliver", project, "--set", "crane_z", "--stale")
    assert "give --target, or --stale" in said("deliver", project)
    assert "there is no target x" in said("deliver", project, "--target", "x")
    assert "is unreachable" in said("sets", project, at="http://127.0.0.1:9")
