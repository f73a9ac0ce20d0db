"""Where deliveries go, through the API: allowed folders, layouts, and what a project wants."""

from __future__ import annotations

import os
from pathlib import Path
from typing import Any

import fsspec
import pytest
from fastapi.testclient import TestClient

from copper_sieve.services.context import Context
from tests.api.test_board import board, deliver
from tests.api.test_targets import copy_of
from tests.conftest import MakePhoto

ORM, PLAIN = "orm-y-down", "separate-png"


@pytest.fixture
def ids(client: TestClient, project: str, make_photo: MakePhoto) -> list[int]:
    """Two sets: dock_a and dock_b."""
    for seed, letter in enumerate("ab", 81):
        photo = make_photo(f"dock_{letter}.png", size=(32, 32), seed=seed)
        client.post(f"/api/v1/projects/{project}/sources?name={photo.name}",
                    content=photo.read_bytes())  # fmt: skip
    return [row["id"] for row in client.get(f"/api/v1/projects/{project}/tray").json()["rows"]]


@pytest.fixture
def root(context: Context, tmp_path: Path) -> Path:
    """A further folder that deliveries may go to."""
    made = tmp_path / "engine"
    made.mkdir()
    context.settings.roots = os.pathsep.join([str(made), str(tmp_path / "missing")])
    return made


def choose(
    client: TestClient, project: str, target: str, status: int = 200, **wanted: Any
) -> dict[str, Any]:
    answer = client.put(f"/api/v1/projects/{project}/destinations/{target}", json=wanted)
    assert answer.status_code == status, answer.text
    found: dict[str, Any] = answer.json()
    return found


def state(client: TestClient, project: str, set_id: int, target: str = ORM) -> str:
    return str(board(client, project)[set_id, target]["state"])


def test_folders_are_looked_through_under_what_is_allowed(
    client: TestClient, context: Context, root: Path, tmp_path: Path
) -> None:
    (root / "Content").mkdir()
    (root / "art").mkdir()
    (root / ".hidden").mkdir()
    assert client.get("/api/v1/folders/roots").json() == [
        str(context.settings.delivery_root.resolve()), str(root), str(tmp_path / "missing")
    ]  # fmt: skip
    found = client.get(f"/api/v1/folders?path={root}").json()
    assert (found["folders"], found["parent"]) == (["art", "Content"], None)
    assert found["is_writable"]
    made = client.post("/api/v1/folders", json={"folder": str(root / "art"), "name": " stone "})
    assert (made.status_code, made.json()["folder"]) == (201, str(root / "art" / "stone"))
    assert made.json()["parent"] == str(root / "art")
    again = client.post("/api/v1/folders", json={"folder": str(root / "art"), "name": "stone"})
    assert again.status_code == 409
    for name in ("..", "a/b", "con"):
        refused = client.post("/api/v1/folders", json={"folder": str(root), "name": name})
        assert refused.status_code == 422, name
    outside = client.get(f"/api/v1/folders?path={tmp_path}")
    assert outside.status_code == 409
    assert "SIEVE_ROOTS" in outside.json()["detail"]
    (root / "out").symlink_to("/")
    for path in (f"{root}/../", f"{root}/out/etc"):
        assert client.get(f"/api/v1/folders?path={path}").status_code == 409
    later = client.get(f"/api/v1/folders?path={root}/nowhere").json()
    assert (later["is_there"], later["is_writable"], later["parent"]) == (False, False, str(root))
    (root / "notes.txt").write_text("no folder", "utf-8")
    assert client.get(f"/api/v1/folders?path={root}/notes.txt").status_code == 404
    usual = client.get("/api/v1/folders").json()
    assert usual["folder"] == str(context.settings.delivery_root.resolve())


def test_a_relative_folder_is_refused_without_naming_the_servers_own(client: TestClient) -> None:
    refused = client.get("/api/v1/folders", params={"path": "art"})
    assert refused.status_code == 409
    assert refused.json()["detail"] == "art isn't an absolute path. Use an absolute path"


def test_sets_go_where_the_project_chose(
    client: TestClient, context: Context, project: str, ids: list[int], root: Path
) -> None:
    body = {"set_ids": ids[:1], "target_ids": [ORM]}
    deliver(client, context, project, body)
    assert state(client, project, ids[0]) == "delivered"
    chosen = choose(client, project, ORM, folder=str(root), pattern="tex/{set}/{target}")
    assert (chosen["is_default"], chosen["shares"]) == (False, False)
    assert chosen["example"] == str(root / "tex" / "old_brick" / ORM)
    assert state(client, project, ids[0]) == "stale"  # it is not there yet
    look = client.post(f"/api/v1/projects/{project}/delivery-previews", json=body).json()
    assert look["shown"][0]["folder"] == str(root / "tex" / "dock_a" / ORM)
    deliver(client, context, project, body)
    assert (root / "tex" / "dock_a" / ORM / "T_dock_a_N.tga").exists()
    assert state(client, project, ids[0]) == "delivered"
    listed = client.get(f"/api/v1/projects/{project}/destinations?example=dock_a").json()
    one = next(one for one in listed if one["target_id"] == ORM)
    assert one["example"] == str(root / "tex" / "dock_a" / ORM)
    usual = client.delete(f"/api/v1/projects/{project}/destinations/{ORM}").json()
    assert (usual["is_default"], usual["pattern"]) == (True, "{target}/{set}")
    assert state(client, project, ids[0]) == "stale"


def test_several_sets_and_targets_lie_in_one_folder(
    client: TestClient, context: Context, project: str, ids: list[int], root: Path
) -> None:
    (root / "notes.txt").write_text("mine", "utf-8")
    for target in (ORM, PLAIN):
        assert choose(client, project, target, folder=str(root), pattern="")["shares"]
    body = {"set_ids": ids, "target_ids": [ORM, PLAIN]}
    number = deliver(client, context, project, body)
    names = {one.name for one in root.iterdir()}
    manifests = {f"{one}.{target}.manifest.json" for one in ("dock_a", "dock_b")
                 for target in (ORM, PLAIN)}  # fmt: skip
    assert manifests | {"notes.txt", "T_dock_a_N.tga", "dock_b_normal.png"} <= names
    parts = client.get(f"/api/v1/deliveries/{number}").json()["parts"]
    assert {part["disk_state"] for part in parts} == {"intact"}
    assert client.get(f"/api/v1/deliveries/{number}/files.zip").status_code == 200
    assert {state(client, project, one, PLAIN) for one in ids} == {"delivered"}
    (root / "dock_b_normal.png").unlink()
    parts = client.get(f"/api/v1/deliveries/{number}").json()["parts"]
    disk_state = {
        part["set_name"]: part["disk_state"] for part in parts if part["target_id"] == PLAIN
    }
    assert disk_state == {"dock_a": "intact", "dock_b": "modified"}


def test_two_sets_never_write_the_same_file(
    client: TestClient, project: str, ids: list[int], root: Path
) -> None:
    preset = copy_of(client, PLAIN, "plain-names")
    for file in preset["files"]:
        file["name"] = "surface_{suffix}"
    made = client.post("/api/v1/targets", json=preset)
    assert made.status_code == 201, made.text
    choose(client, project, "plain-names", folder=str(root), pattern="")
    body = {"set_ids": ids, "target_ids": ["plain-names"]}
    look = client.post(f"/api/v1/projects/{project}/delivery-previews", json=body).json()
    assert look["blocked"] == 1
    told = look["causes"][0]["text"]
    assert "dock_a for plain-names would also write surface_base_color.png" in told
    # Nor do two targets of one set.
    choose(client, project, "gltf-metal-rough", folder=str(root), pattern="")
    choose(client, project, PLAIN, folder=str(root), pattern="")
    both = {"set_ids": ids[:1], "target_ids": ["gltf-metal-rough", PLAIN]}
    look = client.post(f"/api/v1/projects/{project}/delivery-previews", json=both).json()
    assert look["blocked"] == 1
    assert "dock_a for gltf-metal-rough would also write" in look["causes"][0]["text"]
    client.delete("/api/v1/targets/plain-names")


@pytest.mark.parametrize(
    ("wanted", "says"),
    [
        ({"pattern": "{material}"}, "unknown variable {material}"),
        ({"pattern": "a/../b"}, "isn't allowed"),
        ({"pattern": "/etc"}, "Remove the leading slash"),
        ({"pattern": "{set"}, "unbalanced braces"),
        ({"folder": "/etc"}, "SIEVE_ROOTS"),
        ({"folder": "art"}, "an absolute path"),
        ({"options": {"off": ["BC", "ORM", "N"]}}, "wouldn't write any files"),
        ({"options": {"format": "tiff", "padding": {"mask": "normal"}}}, "can't be a mask"),
        ({"options": {"format": "bmp"}}, "bmp isn't an output format"),
    ],
)
def test_what_cannot_be_is_told_while_it_is_typed(
    client: TestClient, project: str, root: Path, wanted: dict[str, Any], says: str
) -> None:
    body = {"folder": str(root), "pattern": "{target}/{set}", "dry": True, **wanted}
    answer = client.put(f"/api/v1/projects/{project}/destinations/{ORM}", json=body)
    assert answer.status_code in (409, 422), answer.text
    assert says in answer.json()["detail"]
    one = next(one for one in client.get(f"/api/v1/projects/{project}/destinations").json()
               if one["target_id"] == ORM)  # fmt: skip
    assert one["is_default"]  # nothing was kept


def test_a_project_wants_a_target_otherwise(
    client: TestClient, context: Context, project: str, ids: list[int]
) -> None:
    body = {"set_ids": ids[:1], "target_ids": [ORM]}
    usual = client.get(f"/api/v1/projects/{project}/destinations").json()
    folder = next(one for one in usual if one["target_id"] == ORM)["folder"]
    deliver(client, context, project, body)
    options = {"longer_side": 16, "format": "png", "off": ["BC"],
               "padding": {"mode": "border", "mask": "mask_1"}}  # fmt: skip
    Path(folder).mkdir(parents=True, exist_ok=True)
    chosen = choose(client, project, ORM, folder=folder, pattern="{target}/{set}", options=options)
    assert {one["name"]: one["is_on"] for one in chosen["files"]} == {
        "BC": False, "ORM": True, "N": True
    }  # fmt: skip
    assert state(client, project, ids[0]) == "stale"
    (part,) = client.post(f"/api/v1/projects/{project}/delivery-previews", json=body).json()[
        "shown"
    ]
    files = {one["name"]: (one["width"], one["format"]) for one in part["files"]}
    assert files == {"T_dock_a_ORM.png": (16, "png"), "T_dock_a_N.png": (16, "png")}
    assert part["other_files"]["T_dock_a_BC.tga"] == "left"
    deliver(client, context, project, body | {"delete_obsolete": True})
    assert state(client, project, ids[0]) == "delivered"
    lying = {one.name for one in (Path(folder) / ORM / "dock_a").iterdir()}
    assert lying == {"T_dock_a_ORM.png", "T_dock_a_N.png", "manifest.json"}
    assert copy_of(client, ORM, ORM)["files"][0]["format"] == "tga"  # the target stays


def test_nothing_goes_where_it_may_not_go_any_more(
    client: TestClient, context: Context, project: str, ids: list[int], root: Path
) -> None:
    choose(client, project, ORM, folder=str(root), pattern="{target}/{set}")
    context.settings.roots = ""  # the server was started again without it
    body = {"set_ids": ids[:1], "target_ids": [ORM]}
    look = client.post(f"/api/v1/projects/{project}/delivery-previews", json=body).json()
    assert "SIEVE_ROOTS" in look["causes"][0]["text"]
    assert client.post(f"/api/v1/projects/{project}/deliveries", json=body).status_code == 409
    assert list(root.iterdir()) == []


def test_a_copy_goes_to_a_place_by_url(
    client: TestClient, context: Context, project: str, ids: list[int]
) -> None:
    there = fsspec.filesystem("memory")
    there.store.clear()
    context.settings.copies = "memory://textures/engine memory://other"
    assert client.get("/api/v1/folders/copy-destinations").json() == [
        "memory://textures/engine",
        "memory://other",
    ]
    usual = str(context.settings.delivery_root / project)
    wanted = {"folder": usual, "pattern": "{set}/{target}",
              "options": {"copy_to": "memory://textures/engine/maps"}}  # fmt: skip
    for elsewhere in ("memory://textures", "memory://textures/engine2", "s3://theirs",
                      "memory://other/../textures"):  # fmt: skip
        asked = {**wanted, "options": {"copy_to": elsewhere}}
        assert "SIEVE_COPIES" in choose(client, project, ORM, 409, **asked)["detail"]
    chosen = choose(client, project, ORM, **wanted)
    assert chosen["copy_example"] == "memory://textures/engine/maps/old_brick/orm-y-down"
    body = {"set_ids": [ids[0]], "target_ids": [ORM]}
    first = client.get(f"/api/v1/deliveries/{deliver(client, context, project, body)}").json()
    assert [part["state"] for part in first["parts"]] == ["done"]
    folder = Path(first["parts"][0]["folder"])
    copied = {path.rsplit("/", 1)[1]: there.cat_file(path) for path in there.find("/textures")}
    assert copied == {path.name: path.read_bytes() for path in folder.iterdir()}
    assert all("/textures/engine/maps/dock_a/orm-y-down/" in path for path in there.store)

    # What is taken away there comes again, although nothing here is to be made.
    there.rm_file("/textures/engine/maps/dock_a/orm-y-down/T_dock_a_N.tga")
    again = client.get(f"/api/v1/deliveries/{deliver(client, context, project, body)}").json()
    assert [(part["written"], part["kept"]) for part in again["parts"]] == [(0, 3)]
    assert there.exists("/textures/engine/maps/dock_a/orm-y-down/T_dock_a_N.tga")

    # Where it cannot be copied nothing is replaced here, and it is told.
    there.pipe_file("/textures/engine/maps/dock_b/orm-y-down/T_dock_b_N.tga", b"somebody's own")
    body = {"set_ids": [ids[1]], "target_ids": [ORM]}
    failed = client.get(f"/api/v1/deliveries/{deliver(client, context, project, body)}").json()
    assert [part["state"] for part in failed["parts"]] == ["failed"]
    assert "T_dock_b_N.tga already exists at memory://" in failed["error"]
    assert not Path(failed["parts"][0]["folder"]).exists()
    context.settings.copies = ""
    look = client.post(f"/api/v1/projects/{project}/delivery-previews", json=body).json()
    assert look["blocked"] == 1
    assert "SIEVE_COPIES" in look["causes"][0]["text"]
    there.store.clear()
