"""Names, paths, archives and models of somebody who means harm, at every way in.

Each is refused with a sentence or taken under a harmless name: no unexpected error, no path of the
server in an answer, and nothing read, written or removed outside of the folders that are open.
"""

from __future__ import annotations

import io
import json
import os
import random
import time
import zipfile
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import fsspec
import pytest
from fastapi.testclient import TestClient
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from copper_sieve.api.schemas.jobs import read_job
from copper_sieve.cli.__main__ import main
from copper_sieve.core.errors import ForeignFileError, SieveError, UnsafeNameError
from copper_sieve.core.export.atomic_swap import own_files
from copper_sieve.core.export.shared_folder import SharedStagedFolder
from copper_sieve.core.untrusted_paths import AnchoredFolder, open_file
from copper_sieve.services import deliveries, delivery_worker
from copper_sieve.services.context import Context
from copper_sieve.services.jobs import listing
from copper_sieve.services.sources import import_source
from copper_sieve.store.copies import copy_to
from tests.conftest import MakePhoto, photo_codes
from tests.serving import open_client, refused

NAMES = (
    "", " ", ".", "..", "../../etc/passwd", "/etc/passwd", "..\\..\\x", "a/b", "a\\b", "C:x", "CON",
    "con.png", "nul", "LPT1.txt", "a\0b", "a\nb", "\x7f", "x" * 300, "ü" * 150, "\udcff", "😀" * 90,
    "manifest.json", ".hidden", "a.", "a ", "%2e%2e/x", "{set}", "{target}/../..", "~root", "-rf",
    "file:///etc/passwd", "\u202egnp.exe", "🏮/../..", "a" * 100_000,
)  # fmt: skip
names = st.one_of(st.sampled_from(NAMES), st.text(max_size=40))
_QUICK = settings(
    deadline=None, max_examples=len(NAMES) + 30, suppress_health_check=list(HealthCheck)
)


@pytest.fixture
def outside(tmp_path: Path) -> Iterator[Path]:
    """A folder that nothing may touch."""
    folder = tmp_path / "outside"
    folder.mkdir()
    (folder / "kept.txt").write_text("kept")
    yield folder
    assert [one.name for one in folder.iterdir()] == ["kept.txt"]
    assert (folder / "kept.txt").read_text() == "kept"


@pytest.fixture
def client(context: Context, outside: Path) -> Iterator[TestClient]:
    with open_client(context) as made:
        yield made


def png() -> bytes:
    from PIL import Image

    out = io.BytesIO()
    Image.fromarray(photo_codes((24, 16))).save(out, "png")
    return out.getvalue()


def zipped(files: dict[str, bytes]) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        for name, data in files.items():
            archive.writestr(zipfile.ZipInfo(name), data)
    return out.getvalue()


def check(context: Context, answer: Any) -> None:
    """No unexpected error, and nothing of where the server keeps its files."""
    assert answer.status_code < 500 or answer.status_code == 507, answer.text
    text = answer.text
    if answer.status_code == 202 and "error_code" in answer.json():  # a job: what came of it
        job = answer.json()
        while job["state"] in ("queued", "running"):
            time.sleep(0.002)
            job = read_job(listing.get(context, job["id"])).model_dump()
        assert job["error_code"] != "unexpected", job["error"]
        text = job["error"] or ""
    if answer.status_code >= 400 or text != answer.text:
        assert str(context.settings.home / "passing") not in text
        assert "/site-packages/" not in text


def by_text(client: TestClient, project: str, set_id: int, text: str) -> Iterator[Any]:
    """Every address that takes a name, a text or a path."""
    here = f"/api/v1/projects/{project}"
    changes: tuple[dict[str, Any], ...] = (
        {"do": "rename", "name": text}, {"do": "replace_in_names", "find": "hull", "into": text},
        {"do": "tags", "add": [text]}, {"do": "notes", "text": text}, {"do": "card", "name": text},
    )  # fmt: skip
    for change in changes:
        yield client.post(f"{here}/changes", json={"set_ids": [set_id], "change": change})
    yield client.post("/api/v1/projects", json={"title": text})
    yield client.patch(here, json={"title": text})
    yield client.post("/api/v1/recipes", json={"set_id": set_id, "name": text})
    yield client.post("/api/v1/folders", json={"folder": text, "name": text})
    short = text[:4000]  # no client sends more in an address
    yield client.get("/api/v1/folders", params={"folder": short})
    yield client.put(f"{here}/destinations/orm-y-down", json={"folder": text, "pattern": text})
    yield client.post(f"{here}/watched-folders", json={"path": text})
    yield client.post(f"{here}/webhooks", json={"url": text})
    for sent in ("sources", "arrivals", "models", "environments"):
        yield client.post(f"{here}/{sent}", params={"name": short}, content=png())


@_QUICK
@given(text=names)
def test_every_address_that_takes_a_name(
    context: Context, client: TestClient, project: str, make_photo: MakePhoto, tmp_path: Path,
    text: str,
) -> None:  # fmt: skip
    set_id = _a_set(context, project, make_photo, tmp_path)
    try:
        text.encode()
    except UnicodeEncodeError:  # no client can send it
        text = text.encode("utf-8", "replace").decode()
    for answer in by_text(client, project, set_id, text):
        check(context, answer)
    for row in client.get(f"/api/v1/projects/{project}/tray").json()["rows"]:
        assert not {"/", "\\", "\0"} & set(row["name"])
        assert row["name"].split(".")[0].lower() not in ("con", "nul", "lpt1")


_made: dict[str, int] = {}


def _a_set(context: Context, project: str, make_photo: MakePhoto, tmp_path: Path) -> int:
    if project not in _made:
        photo = make_photo("hull.png", size=(16, 16), seed=7)
        _made[project] = import_source(context, project, photo, photo.name).set_id
    return _made[project]


@_QUICK
@given(text=names)
def test_every_archive_and_file_that_names_others(
    context: Context, client: TestClient, project: str, tmp_path: Path, text: str
) -> None:
    text = text.encode("utf-8", "replace").decode()
    here = f"/api/v1/projects/{project}"
    entry = text[:20_000] or "x"
    model = zipped({entry: b"v 0 0 0", "a.obj": b"v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n"})
    gltf = {"asset": {"version": "2.0"}, "images": [{"uri": text}], "buffers": [{"uri": text}],
            "textures": [{"source": 0}], "meshes": [{"primitives": [{"attributes": {}}]}],
            "materials": [{"normalTexture": {"index": 0}}]}  # fmt: skip
    for address, name, data in (
        (f"{here}/arrivals", "drop.zip", zipped({entry: png(), f"{entry}/{entry}.png": png()})),
        (f"{here}/arrivals", "one.gltf", json.dumps(gltf).encode()),
        (f"{here}/models", "model.zip", model),
        (f"{here}/models", "model.gltf", json.dumps(gltf).encode()),
        ("/api/v1/project-archives", "quay.zip", _project(text)),
    ):
        check(context, client.post(address, params={"name": name}, content=data))
    for project_read in client.get("/api/v1/projects").json():
        assert 1 <= len(project_read["title"].strip()) <= 80


def test_an_entry_without_a_name(context: Context, client: TestClient, project: str) -> None:
    """A name is cut at its first NUL: of this one nothing is left."""
    data = zipped({"abc": b"x"}).replace(b"abc", b"\0bc")
    for address in (f"/api/v1/projects/{project}/arrivals", f"/api/v1/projects/{project}/models",
                    "/api/v1/project-archives"):  # fmt: skip
        answer = client.post(address, params={"name": "drop.zip"}, content=data)
        if address.endswith("arrivals"):
            assert answer.status_code == 422
        else:
            refused(client, answer)


def _project(text: str) -> bytes:
    definition = {"name": text, "maps": {"roughness": {"how": "constant", "value": [0.5]}}}
    sha256 = "0" * 64
    file = {"title": text, "sets": [{"definition": definition, "tags": [text], "notes": text}],
            "originals": [{"sha256": sha256, "name": text}]}  # fmt: skip
    return zipped({"project.json": json.dumps(file).encode(), f"originals/{sha256}": b"x"})


@pytest.mark.parametrize(
    "change",
    [{"title": " "}, {"title": "x" * 81}, {"notes": "x" * 5_000_000}, {"tags": ["x" * 100_000]},
     {"tags": [" "]}, {"tags": ["a,b"]}, {"name": "CON"}, {"name": "a/b"}, {"name": ""}],
)  # fmt: skip
def test_a_project_file_is_held_to_the_rules_of_the_api(
    client: TestClient, change: dict[str, Any]
) -> None:
    definition = {"name": change.get("name", "wall"),
                  "maps": {"roughness": {"how": "constant", "value": [0.5]}}}  # fmt: skip
    one = {"definition": definition, "tags": change.get("tags", ["ok"]),
           "notes": change.get("notes", "")}  # fmt: skip
    file = {"title": change.get("title", "Quay"), "sets": [one], "originals": []}
    data = zipped({"project.json": json.dumps(file).encode()})
    answer = client.post("/api/v1/project-archives?name=quay.zip", content=data)
    assert len(refused(client, answer)) < 1000


def test_archives_that_were_changed_at_random(
    context: Context, client: TestClient, project: str
) -> None:
    """250 mutations of three kinds of archives."""
    random_ = random.Random(33)
    here = f"/api/v1/projects/{project}"
    obj = b"v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n"
    kinds = (
        (f"{here}/arrivals", zipped({"deep/wall_color.png": png(), "wall_rough.png": png()})),
        (f"{here}/models", zipped({"a/model.obj": obj, "a/model.mtl": b"newmtl x\n"})),
        ("/api/v1/project-archives", _project("Quay")),
    )
    for n in range(250):
        address, whole = kinds[n % len(kinds)]
        data = bytearray(whole)
        for _ in range(random_.choice((1, 1, 2, 8, 40))):
            at = random_.randrange(len(data))
            if random_.random() < 0.5:  # the directory at the end decides most
                at = len(data) - 1 - random_.randrange(min(150, len(data)))
            data[at] = random_.randrange(256)
        if n % 7 == 0:
            del data[random_.randrange(len(data)) :]
        answer = client.post(address, params={"name": "drop.zip"}, content=bytes(data))
        check(context, answer)


def _manifest(folder: Path, *entries: str, name: str = "manifest.json") -> None:
    files = [{"name": one, "sha256": "0" * 64, "bytes": 4} for one in entries]
    (folder / name).write_text(json.dumps({"files": files}))


@pytest.mark.parametrize("name", ["../../outside/kept.txt", "/etc/passwd", "a/../x", "..", "a\\b"])
def test_a_manifest_at_a_copy_destination_removes_nothing_elsewhere(
    tmp_path: Path, outside: Path, name: str
) -> None:
    """What a stranger's manifest names outside of its folder is never removed."""
    there, folder = tmp_path / "copies" / "wall", tmp_path / "wall"
    there.mkdir(parents=True)
    folder.mkdir()
    _manifest(there, name)
    _manifest(folder)
    copy_to(f"file://{there}", folder, "manifest.json")
    files = fsspec.filesystem("file")
    assert files.exists(str(there / "manifest.json"))
    assert own_files(there) <= {"manifest.json"}
    (folder / "new.png").write_text("new!")
    (there / "new.png").write_text("theirs")
    _manifest(there, name, "new.png")  # then nothing in it counts
    _manifest(folder, "new.png")
    with pytest.raises(ForeignFileError):
        copy_to(f"file://{there}", folder, "manifest.json")


def test_a_list_that_was_left_in_a_shared_folder_removes_nothing_elsewhere(
    tmp_path: Path, outside: Path
) -> None:
    folder = tmp_path / "shared"
    (folder / ".sieve-old-9").mkdir(parents=True)
    names = {"before": [], "new": ["../outside/kept.txt"]}
    (folder / ".sieve-old-9" / ".list.json.done").write_text(json.dumps(names))
    with pytest.raises(UnsafeNameError):
        SharedStagedFolder(folder, "7", "wall.manifest.json").settle_the_dead()


@pytest.mark.parametrize("at", ["target", "set"])
def test_a_link_leads_no_delivery_out_of_the_roots(
    context: Context, client: TestClient, project: str, make_photo: MakePhoto, tmp_path: Path,
    outside: Path, at: str,
) -> None:  # fmt: skip
    """Refused in the dry run; a link that appears after it is refused by the worker."""
    photo = make_photo("hull.png", size=(16, 16), seed=8)
    taken = import_source(context, project, photo, photo.name)
    asked = deliveries.create_delivery(context, project, [(taken.set_id, "orm-y-down")])
    folder = asked.parts[0].folder
    link = folder if at == "set" else folder.parent
    link.parent.mkdir(parents=True, exist_ok=True)
    link.symlink_to(outside, target_is_directory=True)
    delivery_worker.run(context, asked.id)
    part = deliveries.get(context, asked.id).parts[0]
    assert part.state == "failed"
    assert "isn't in an allowed folder" in str(part.error)
    body = {"set_ids": [taken.set_id], "target_ids": ["orm-y-down"]}
    (planned,) = client.post(f"/api/v1/projects/{project}/dry-runs", json=body).json()
    assert "it is a link that leads elsewhere" in planned["error"]


def test_a_link_that_appears_in_the_middle_changes_nothing(tmp_path: Path, outside: Path) -> None:
    root = tmp_path / "root"
    (root / "a").mkdir(parents=True)
    (root / "a" / "read.txt").write_text("inside")
    held = AnchoredFolder(root, root / "a" / "b")
    (root / "a").rename(root / "moved")
    (root / "a").symlink_to(outside, target_is_directory=True)
    (held.path / "new.txt").write_text("new")  # reaches the folder that was opened
    assert (root / "moved" / "b" / "new.txt").read_text() == "new"
    held.close()
    for reach in (lambda: AnchoredFolder(root, root / "a" / "b"),
                  lambda: open_file(root, root / "a" / "kept.txt"),
                  lambda: open_file(root, tmp_path / "elsewhere")):  # fmt: skip
        with pytest.raises(SieveError):
            reach()
    (root / "pipe").parent.mkdir(exist_ok=True)
    (root / "leaf").symlink_to(outside / "kept.txt")
    with pytest.raises(OSError, match="symbolic links"):
        open_file(root, root / "leaf")


@pytest.mark.parametrize("text", NAMES, ids=range(len(NAMES)))
def test_lists_and_arguments_of_the_command_line(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], text: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    """One line on standard error and status 2 (1 where a set of several failed)."""
    here = tmp_path / "nothing" / "in" / "it"
    here.mkdir(parents=True)
    monkeypatch.chdir(here)
    listed = here / "list.txt"
    listed.write_bytes(text.encode("utf-8", "surrogateescape"))
    to: tuple[str, ...] = ("--target", "orm-y-down", "--out", str(tmp_path / "out"))
    commands = [("make", "--list", str(listed), *to), ("make", *to), ("make", "--sets", *to)]
    if text and "\0" not in text and not text.startswith("-"):
        given = os.fsencode(text.encode("utf-8", "surrogateescape").decode("utf-8", "replace"))
        word = given.decode("utf-8", "replace")
        commands += [("make", word, *to), ("make", "--sets", word, *to), ("assay", word),
                     ("inspect", word), ("split", word, "--out", str(tmp_path / "out")),
                     ("make", "--list", word, *to)]  # fmt: skip
    for words in commands:
        status = _status(lambda words=words: main(words))  # type: ignore[misc]
        said = capsys.readouterr()
        assert "Traceback" not in said.err
        if words[0] == "inspect" and text in (".", ".."):  # an empty folder is no error
            continue
        assert status in (1, 2), (words, said)
        assert said.err.startswith("sieve: ")
        assert len(said.err) < 6000


def _status(run: Callable[[], int]) -> int:
    try:
        return run()
    except SystemExit as stop:
        return int(stop.code or 0)
