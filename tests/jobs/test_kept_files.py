"""Delivered files that are kept by content: not made a second time, and fetched when replaced."""

from __future__ import annotations

import io
import zipfile
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from copper_sieve.core.image.raster import Picture
from copper_sieve.services import deliveries, delivery_worker
from copper_sieve.services.context import Context
from copper_sieve.services.delivery_preview import cells_of
from copper_sieve.store.delivery_rows import StoredDelivery
from tests.conftest import MakePhoto
from tests.jobs.conftest import set_of
from tests.serving import open_client

TARGETS = ["orm-y-down", "gltf-metal-rough"]  # textures alone, and a document beside


@pytest.fixture
def keeping(context: Context) -> Context:
    """A context that keeps what it delivers."""
    settings = context.settings.model_copy(update={"kept_bytes": 50_000_000})
    return Context(settings, context.database, context.enqueue)


@pytest.fixture
def client(keeping: Context) -> TestClient:
    return open_client(keeping)


@pytest.fixture
def set_id(keeping: Context, project: str, make_photo: MakePhoto, tmp_path: Path) -> int:
    return set_of(keeping, project, make_photo(seed=171), tmp_path)


def deliver(context: Context, project: str, set_id: int, **wish: Any) -> StoredDelivery:
    cells = cells_of([set_id], TARGETS)
    asked = deliveries.create_delivery(context, project, cells, deliveries.DeliveryRequest(**wish))
    delivery_worker.run(context, asked.id)
    done = deliveries.get(context, asked.id)
    assert done.state == "done", [part.error for part in done.parts]
    return done


def change(client: TestClient, project: str, set_id: int, metallic: float) -> None:
    """Every file but the normal's and the color's comes out otherwise."""
    body = {"do": "constant", "kind": "metallic", "value": [metallic]}
    done = client.post(f"/api/v1/projects/{project}/changes",
                       json={"set_ids": [set_id], "change": body})  # fmt: skip
    assert done.status_code == 200


def files_of(done: StoredDelivery) -> dict[tuple[str, str], bytes]:
    return {
        (part.target_id, path.name): path.read_bytes()
        for part in done.parts
        for path in part.folder.iterdir()
    }


def refuse(context: Context, monkeypatch: pytest.MonkeyPatch) -> None:
    """From here on nothing can be computed."""

    def load(sha256: str) -> Picture:
        raise AssertionError("imported picture was read")

    monkeypatch.setattr(context, "load_source", load)
    context.memory.shrink(0)
    monkeypatch.setattr(context.batch_cache, "get", lambda key: None)
    monkeypatch.setattr(context.cache, "get", lambda key: None)


def test_what_was_delivered_once_is_not_made_again(
    keeping: Context, client: TestClient, project: str, set_id: int,
    monkeypatch: pytest.MonkeyPatch,
) -> None:  # fmt: skip
    change(client, project, set_id, 0.25)
    first = files_of(deliver(keeping, project, set_id))
    change(client, project, set_id, 0.75)
    assert files_of(deliver(keeping, project, set_id)) != first
    change(client, project, set_id, 0.25)
    refuse(keeping, monkeypatch)
    third = deliver(keeping, project, set_id)
    assert files_of(third) == first  # manifests, documents and the measured depth as well
    assert [(part.written, part.kept) for part in third.parts] == [(1, 2), (3, 2)]


def test_bytes_that_are_not_what_they_were_are_made_anew(
    keeping: Context, client: TestClient, project: str, set_id: int
) -> None:
    change(client, project, set_id, 0.25)
    first = files_of(deliver(keeping, project, set_id))
    change(client, project, set_id, 0.75)
    deliver(keeping, project, set_id)
    held = [one for one in (keeping.settings.home / "kept").rglob("*") if one.is_file()]
    for path in held:
        path.write_bytes(path.read_bytes()[:-1] + b"!")
    change(client, project, set_id, 0.25)
    assert files_of(deliver(keeping, project, set_id)) == first


def test_every_file_is_made_where_that_is_wanted_and_where_nothing_is_kept(
    keeping: Context, context: Context, project: str, set_id: int,
    monkeypatch: pytest.MonkeyPatch,
) -> None:  # fmt: skip
    deliver(keeping, project, set_id)
    asked: list[str] = []
    find = keeping.stock.find
    monkeypatch.setattr(keeping.stock, "find", lambda key: asked.append(key) or find(key))
    deliver(keeping, project, set_id, rewrite=True)
    assert asked == []
    plain = Context(replace_home(context), context.database, context.enqueue)
    deliver(plain, project, set_id, rewrite=True)
    assert not (plain.settings.home / "kept").exists()


def replace_home(context: Context) -> Any:
    return context.settings.model_copy(update={"home": context.settings.home / "other"})


def test_a_replaced_delivery_is_fetched_as_it_was(
    keeping: Context, client: TestClient, project: str, set_id: int
) -> None:
    first = deliver(keeping, project, set_id)
    due = client.get(f"/api/v1/deliveries/{first.id}/files.zip").content
    change(client, project, set_id, 0.5)
    deliver(keeping, project, set_id)
    told = client.get(f"/api/v1/deliveries/{first.id}").json()["parts"]
    assert [(part["disk_state"], part["bytes_kept"]) for part in told] == [("replaced", True)] * 2
    found = client.get(f"/api/v1/deliveries/{first.id}/files.zip").content
    assert unpacked(found) == unpacked(due)
    # One file less, and there is none of it any more.
    (kept,) = [one for one in first.parts[0].entries if one["name"] == "T_wall_ORM.tga"]
    path = keeping.stock.path(str(kept["sha256"]))
    assert path
    path.unlink()
    told = client.get(f"/api/v1/deliveries/{first.id}").json()["parts"]
    assert [part["bytes_kept"] for part in told] == [False, True]
    rest = unpacked(client.get(f"/api/v1/deliveries/{first.id}/files.zip").content)
    assert b"overwritten by delivery" in rest.pop("MISSING.txt")
    assert 0 < len(rest) < len(unpacked(due))


def unpacked(content: bytes) -> dict[str, bytes]:
    with zipfile.ZipFile(io.BytesIO(content)) as archive:
        return {name: archive.read(name) for name in archive.namelist()}


def test_no_more_is_kept_than_there_is_room_for(
    keeping: Context, client: TestClient, project: str, set_id: int
) -> None:
    settings = keeping.settings.model_copy(update={"kept_bytes": 60_000})
    small = Context(settings, keeping.database, keeping.enqueue)
    for step in range(4):
        change(client, project, set_id, step / 8)
        deliver(small, project, set_id)
    held = [one.stat().st_size for one in (settings.home / "kept").rglob("*") if one.is_file()]
    assert 0 < sum(held) <= 60_000
