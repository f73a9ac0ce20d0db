"""The web interface of the services, from taking in to a dry run."""

from __future__ import annotations

import hashlib
import io
import shutil
from pathlib import Path

import numpy as np
import pytest
from fastapi.testclient import TestClient
from PIL import Image

from copper_sieve.core.errors import DatabaseUnavailableError, DiskFullError
from copper_sieve.core.targets.catalog import builtin_targets
from copper_sieve.services import sets
from copper_sieve.services.context import Context
from tests.api.conftest import TakeIn
from tests.api.previewing import preview, preview_head
from tests.conftest import MakePhoto


def picture_of(answer) -> np.ndarray:  # type: ignore[no-untyped-def]
    assert answer.status_code == 200, answer.text
    return np.asarray(Image.open(io.BytesIO(answer.content)))


@pytest.fixture
def wall(client: TestClient, take_in: TakeIn, make_photo: MakePhoto) -> dict:
    """A set made of a photo, as the API gives it."""
    taken = take_in(make_photo())
    return client.get(f"/api/v1/sets/{taken['set_id']}").json()


def as_update(one: dict, **maps: object) -> dict:
    definitions = {m["kind"]: m["definition"] for m in one["maps"]}
    return {"version": one["version"], "surface": one["surface"], "maps": {**definitions, **maps}}


@pytest.mark.parametrize("ending", ["png", "jpg", "tga", "tif"])
def test_a_photo_is_kept_byte_for_byte_and_becomes_a_set(
    client: TestClient, project: str, take_in: TakeIn, make_photo: MakePhoto, ending: str
) -> None:
    photo = make_photo(f"Old Wall.{ending}", seed=hash(ending) % 1000)
    taken = take_in(photo)
    assert taken["sha256"] == hashlib.sha256(photo.read_bytes()).hexdigest()
    assert (taken["facts"]["width"], taken["facts"]["bit_depth"]) == (64, 8)
    original = client.get(f"/api/v1/sources/{taken['sha256']}/original")
    assert original.content == photo.read_bytes()
    assert "Old%20Wall" in original.headers["content-disposition"]
    thumb = picture_of(client.get(f"/api/v1/sources/{taken['sha256']}/thumbnail.png"))
    assert thumb.shape == (48, 64, 3)
    (row,) = client.get(f"/api/v1/projects/{project}/sets").json()
    assert row["name"] == "Old_Wall"
    assert [one["kind"] for one in row["maps"]][:3] == ["base_color", "height", "normal"]
    assert row["readiness"] == dict.fromkeys(builtin_targets(), "ready")


def test_the_same_picture_twice_is_kept_once(
    client: TestClient, project: str, take_in: TakeIn, make_photo: MakePhoto
) -> None:
    photo = make_photo(seed=77)
    first, again = take_in(photo), take_in(photo, "copy.png")
    assert (first["known_source"], first["known_set"]) == (False, False)
    assert (again["known_source"], again["known_set"]) == (True, True)
    assert first["set_id"] == again["set_id"]
    assert len(client.get(f"/api/v1/projects/{project}/sets").json()) == 1


def test_alpha_that_says_something_becomes_opacity(
    client: TestClient, take_in: TakeIn, tmp_path: Path
) -> None:
    codes = np.full((8, 8, 4), 200, np.uint8)
    codes[:4, :, 3] = 0
    Image.fromarray(codes).save(tmp_path / "leaf.png")
    one = client.get(f"/api/v1/sets/{take_in(tmp_path / 'leaf.png')['set_id']}").json()
    opacity = next(m["definition"] for m in one["maps"] if m["kind"] == "opacity")
    assert (opacity["how"], opacity["channels"]) == ("imported", "A")


def test_words_that_only_say_which_map_it_is_are_not_in_the_name_of_the_set(
    take_in: TakeIn, make_photo: MakePhoto
) -> None:
    names = ("lane_base_color.png", "kerb_normal.png", "normal_lane_at_night.jpg", "kerb_c.png")
    made = [take_in(make_photo(f"{n}.png", seed=90 + n), name) for n, name in enumerate(names)]
    called = [one["set_name"] for one in made]
    assert called == ["lane", "kerb", "normal_lane_at_night", "kerb_c"]


@pytest.mark.parametrize(
    ("name", "data", "status", "code"),
    [
        ("notes.png", b"no picture", 422, "not_a_picture"),
        ("none.png", b"", 422, "empty_picture"),
        ("cut.png", b"\x89PNG\r\n\x1a\n\0\0\0", 422, "damaged_picture"),
    ],
)
def test_bad_files_are_refused_and_nothing_stays(
    client: TestClient,
    context: Context,
    project: str,
    name: str,
    data: bytes,
    status: int,
    code: str,
) -> None:
    answer = client.post(f"/api/v1/projects/{project}/sources", params={"name": name}, content=data)
    assert answer.status_code == status
    assert answer.json()["type"] == "/problems/" + code.replace("_", "-")
    assert name in answer.json()["detail"]
    assert client.get(f"/api/v1/projects/{project}/sets").json() == []
    assert list((context.settings.home / "passing").iterdir()) == []
    assert client.get("/api/v1/health").status_code == 200


def test_limits_hold_while_a_file_is_still_arriving(
    client: TestClient, context: Context, project: str, make_photo: MakePhoto
) -> None:
    context.settings.max_bytes = 1000
    address = f"/api/v1/projects/{project}/sources"
    answer = client.post(address, params={"name": "big.png"}, content=bytes(5000))
    assert answer.status_code == 413
    assert "big.png" in answer.json()["detail"]
    context.settings.max_bytes, context.settings.max_side = 10**6, 60
    answer = client.post(address, params={"name": "w.png"}, content=make_photo().read_bytes())
    assert (answer.status_code, answer.json()["type"]) == (413, "/problems/picture-too-large")


@pytest.mark.parametrize(
    "name",
    [
        "../../evil.png",
        "/etc/evil.png",
        "a\\..\\b.png",
        "x" * 250 + ".png",
        "畳" * 200 + ".png",
        "a\tb\n.png",
        "..png",
    ],
)
def test_file_names_lead_nowhere(
    client: TestClient, take_in: TakeIn, make_photo: MakePhoto, context: Context, name: str
) -> None:
    taken = take_in(make_photo(seed=len(name)), name)
    assert client.post(f"/api/v1/sets/{taken['set_id']}/previews", json={}).status_code == 200
    assert not list(context.settings.home.parent.rglob("evil.png"))


def test_previews_are_addressed_by_content(client: TestClient, wall: dict) -> None:
    maps = preview(client, wall["id"], longer_side=32)
    assert set(maps) == {one["kind"] for one in wall["maps"]}
    assert maps["normal"].codes.shape == (24, 32, 3)
    assert maps["roughness"].codes.shape == (24, 32, 1)
    draft = as_update(wall, height={**_derived(wall, "height"), "parameters": {"contrast": 2.5}})
    draft["surface"] = {**wall["surface"], "relief": 20}
    del draft["version"]
    known = [one.key for one in maps.values()]
    other = preview(client, wall["id"], longer_side=32, draft=draft, known=known)
    different = {kind for kind in maps if maps[kind].key != other[kind].key}
    assert different == {"height", "normal", "ambient_occlusion", "roughness"}
    assert {kind for kind, one in other.items() if one.codes is not None} == different
    stronger, plain = (one["normal"].codes.astype(int) for one in (other, maps))
    assert stronger[:, :, 0].std() > 1.5 * plain[:, :, 0].std()
    deep, usual = (
        preview_head(client, wall["id"], longer_side=32, draft=one)["surface"]["depth"]
        for one in (draft, None)
    )
    assert deep > 1.5 * usual > 0  # measured so that the relief has its tilt, told with the maps
    assert client.get(f"/api/v1/sets/{wall['id']}").json() == wall  # a draft changes nothing


def test_previews_show_colors_exactly(client: TestClient, take_in: TakeIn, tmp_path: Path) -> None:
    codes = np.arange(64 * 48 * 3).reshape(48, 64, 3).astype(np.uint8)
    Image.fromarray(codes).save(tmp_path / "codes.png")
    taken = take_in(tmp_path / "codes.png", "codes.png")
    seen = preview(client, taken["set_id"], longer_side=64, kinds=["base_color"])
    np.testing.assert_array_equal(seen["base_color"].codes, codes)


def _derived(one: dict, kind: str) -> dict:
    return next(m["definition"] for m in one["maps"] if m["kind"] == kind)


def test_an_older_request_of_a_window_gives_way(client: TestClient, wall: dict) -> None:
    address = f"/api/v1/sets/{wall['id']}/previews"
    assert client.post(address, json={"window": "w", "sequence": 5}).status_code == 200
    draft = as_update(wall, height={**_derived(wall, "height"), "parameters": {"contrast": 0.7}})
    del draft["version"]
    late = client.post(address, json={"window": "w", "sequence": 4, "draft": draft})
    assert (late.status_code, late.json()["type"]) == (409, "/problems/cancelled")


def test_thumbnails_follow_the_content(client: TestClient, wall: dict) -> None:
    one = next(m for m in wall["maps"] if m["kind"] == "height")
    answer = client.get(one["thumbnail"])
    assert "immutable" in answer.headers["cache-control"]
    assert picture_of(answer).shape == (48, 64)  # never enlarged
    stale = client.get(one["thumbnail"].replace(one["key"], "old"))
    assert stale.headers["cache-control"] == "no-cache"


def test_a_map_is_replaced_by_a_picture_and_back_with_its_settings(
    client: TestClient, wall: dict, tmp_path: Path
) -> None:
    Image.fromarray(np.full((48, 64), 51, np.uint8)).save(tmp_path / "wall_rough.png")
    data = (tmp_path / "wall_rough.png").read_bytes()
    address = "/api/v1/maps/roughness/sources"
    taken = client.post(address, params={"name": "wall_rough.png"}, content=data).json()
    assert (taken["facts"]["channels"], taken["definition"]["channels"]) == (["Y"], "R")
    old = {**_derived(wall, "roughness"), "parameters": {"median": 0.8}}
    body = as_update(wall, roughness=taken["definition"]) | {"shelf": {"roughness": [old]}}
    changed = client.put(f"/api/v1/sets/{wall['id']}", json=body).json()
    assert changed["shelf"] == {"roughness": [old]}
    maps = preview(client, wall["id"], longer_side=64)
    assert (maps["roughness"].codes == 51).all()
    bad = client.post(address, params={"name": "x.png"}, content=b"words")
    assert (bad.status_code, bad.json()["type"]) == (422, "/problems/not-a-picture")


def test_undo_and_redo(client: TestClient, wall: dict) -> None:
    address = f"/api/v1/sets/{wall['id']}"
    assert (wall["can_undo"], wall["can_redo"]) == (False, False)
    body = as_update(wall, metallic={"how": "constant", "value": [1.0]})
    changed = client.put(address, json=body).json()
    assert changed["can_undo"]
    undone = client.post(f"{address}/undo", json={"version": 2}).json()
    assert undone["maps"] == wall["maps"]
    assert (undone["version"], undone["can_undo"], undone["can_redo"]) == (3, False, True)
    redone = client.post(f"{address}/redo", json={"version": 3}).json()
    assert redone["maps"] == changed["maps"]
    late = client.post(f"{address}/undo", json={"version": 3})
    assert (late.status_code, late.json()["type"]) == (409, "/problems/conflict")


def test_two_editors_cannot_overwrite_each_other(client: TestClient, wall: dict) -> None:
    address = f"/api/v1/sets/{wall['id']}"
    mine = as_update(wall, metallic={"how": "constant", "value": [1.0]})
    assert client.put(address, json=mine).json()["version"] == 2
    theirs = client.put(address, json=as_update(wall))
    assert (theirs.status_code, theirs.json()["type"]) == (409, "/problems/conflict")
    metallic = _derived(client.get(address).json(), "metallic")
    assert metallic == {"how": "constant", "value": [1.0]}


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"height": {"how": "derived", "operation": "nonsense"}}, "no operation nonsense"),
        (
            {
                "height": {
                    "how": "derived",
                    "operation": "height_from_color",
                    "parameters": {"x": 1},
                }
            },
            "no parameter x",
        ),
        ({"metallic": {"how": "constant", "value": []}}, "metallic"),
        ({"height": {"how": "imported", "source": "0" * 64}}, "Import it first"),
        ({"shininess": {"how": "constant", "value": [1]}}, "maps.shininess"),
    ],
)
def test_sets_that_cannot_be_computed_are_refused(
    client: TestClient, wall: dict, change: dict, says: str
) -> None:
    answer = client.put(f"/api/v1/sets/{wall['id']}", json=as_update(wall, **change))
    assert answer.status_code in (409, 422)
    assert says in answer.json()["detail"]
    assert client.get(f"/api/v1/sets/{wall['id']}").json()["version"] == 1


def test_deleting_the_cache_loses_nothing(
    client: TestClient, context: Context, project: str, wall: dict
) -> None:
    before = preview(client, wall["id"], longer_side=48)
    shutil.rmtree(context.settings.cache_place)
    fresh = Context(context.settings, context.database, context.enqueue)  # as after a restart
    client.app.state.previewer._context = fresh  # type: ignore[attr-defined]
    client.app.state.context = fresh  # type: ignore[attr-defined]
    after = preview(client, wall["id"], longer_side=48)
    for kind, one in before.items():
        assert after[kind].key == one.key
        np.testing.assert_array_equal(after[kind].codes, one.codes)


def test_the_dry_run_lists_every_file_and_writes_none(
    client: TestClient, context: Context, project: str, wall: dict
) -> None:
    body = {"set_ids": [wall["id"]], "target_ids": ["orm-y-down", "gltf-metal-rough"]}
    orm, gltf = client.post(f"/api/v1/projects/{project}/dry-runs", json=body).json()
    assert [f["name"] for f in orm["files"]] == [
        "T_wall_BC.tga",
        "T_wall_ORM.tga",
        "T_wall_N.tga",
    ]
    assert [c["map"] for c in orm["files"][1]["channels"]] == [
        "ambient_occlusion",
        "roughness",
        "metallic",
    ]
    assert set(gltf["other_files"]) == {"wall.glb", "wall.gltf", "manifest.json"}
    assert gltf["remarks"] == [
        {"weight": "info", "cause": "",
         "text": "not written, because the set lacks the map: emissive"},
        {"weight": "info", "cause": "",
         "text": "height: used as input, not written as a file"},
    ]  # fmt: skip
    assert not context.settings.delivery_root.exists()


def test_files_of_others_block_a_delivery_beforehand(
    client: TestClient, context: Context, project: str, wall: dict
) -> None:
    folder = context.settings.delivery_root / project / "orm-y-down" / "wall"
    folder.mkdir(parents=True)
    (folder / "T_wall_N.tga").write_bytes(b"mine")
    body = {"set_ids": [wall["id"]], "target_ids": ["orm-y-down"]}
    (part,) = client.post(f"/api/v1/projects/{project}/dry-runs", json=body).json()
    assert "wasn't written by a delivery" in part["error"]
    answer = client.post(f"/api/v1/projects/{project}/deliveries", json=body)
    assert (answer.status_code, answer.json()["type"]) == (409, "/problems/delivery")
    assert context.queued == []  # type: ignore[attr-defined]


@pytest.mark.parametrize(
    ("method", "path", "body", "status"),
    [
        ("GET", "/api/v1/sets/999999", None, 404),
        ("GET", "/api/v1/projects/nowhere/sets", None, 404),
        ("GET", "/api/v1/deliveries/999999", None, 404),
        ("GET", "/api/v1/nonsense", None, 404),
        ("POST", "/api/v1/projects/nowhere/sources?name=a.png", None, 422),
        ("POST", "/api/v1/sets/1/previews", {"longer_side": 1}, 422),
        ("POST", "/api/v1/sets/1/previews", {"unknown": 1}, 422),
    ],
)
def test_every_error_has_a_type_and_a_detail(
    client: TestClient, method: str, path: str, body: object, status: int
) -> None:
    answer = client.request(method, path, json=body)
    assert answer.status_code == status
    assert set(answer.json()) == {"type", "title", "status", "detail"}


def test_the_vocabulary_is_what_the_core_declares(client: TestClient) -> None:
    answer = client.get("/api/v1/vocabulary").json()
    names = {one["name"]: one for one in answer["operations"]}
    strength = names["normal_from_height"]["parameters"][0]
    assert (strength["name"], strength["high"], strength["default"]) == ("strength", 8.0, 1.0)
    assert [t["id"] for t in client.get("/api/v1/targets").json()] == list(builtin_targets())


@pytest.mark.parametrize("path", ["/", "/lantern-row/tray", "/lantern-row/bench/1/height"])
def test_every_address_of_the_interface_is_the_page(client: TestClient, path: str) -> None:
    answer = client.get(path)
    assert answer.status_code == 200
    assert '<div id="root">' in answer.text


def test_the_page_gives_no_files_from_outside(client: TestClient) -> None:
    for path in ("/../../pyproject.toml", "/%2e%2e/%2e%2e/pyproject.toml", "/..%2f..%2fREADME.md"):
        assert "[project]" not in client.get(path).text


def test_one_bad_row_does_not_take_the_project_down(
    client: TestClient, context: Context, project: str, take_in: TakeIn, make_photo: MakePhoto
) -> None:
    bad = take_in(make_photo("bad.png", seed=81))
    good = take_in(make_photo("good.png", seed=82))
    with context.database.transaction() as connection:
        connection.execute(
            "update texture_set set definition = '{\"name\": \"bad\", \"maps\": {\"x\": 1}}'"
            " where id = %s", [bad["set_id"]]
        )  # fmt: skip
    rows = client.get(f"/api/v1/projects/{project}/sets").json()
    assert [row["name"] for row in rows] == [good["set_name"]]
    (left_out,) = client.get(f"/api/v1/projects/{project}/unreadable-sets").json()
    assert left_out["id"] == bad["set_id"]
    assert "can't be read" in left_out["why"]
    answer = client.get(f"/api/v1/sets/{bad['set_id']}")
    assert (answer.status_code, answer.json()["type"]) == (409, "/problems/unreadable")
    assert client.get(f"/api/v1/projects/{project}/deliveries").json() == []


def test_a_preview_is_as_large_as_was_asked_for(client: TestClient, wall: dict) -> None:
    for side in (16, 33, 64):
        seen = preview(client, wall["id"], longer_side=side, kinds=["base_color", "normal"])
        for one in seen.values():
            assert one.codes is not None
            assert max(one.codes.shape[:2]) == min(side, max(wall["width"], wall["height"]))
    whole = preview(client, wall["id"], longer_side=4096, kinds=["base_color"])["base_color"].codes
    assert whole is not None
    assert whole.shape[:2] == (wall["height"], wall["width"])  # never enlarged


def test_a_full_disk_is_told_as_one(
    client: TestClient, wall: dict, monkeypatch: pytest.MonkeyPatch
) -> None:
    def full(*_: object, **__: object) -> None:
        raise DiskFullError("There is no room left on the database's disk: free some there")

    monkeypatch.setattr(sets, "change", full)
    answer = client.put(f"/api/v1/sets/{wall['id']}", json=as_update(wall))
    assert (answer.status_code, answer.json()["type"]) == (507, "/problems/disk-full")
    assert "free some there" in answer.json()["detail"]


def test_health_says_that_the_database_is_away(
    client: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    assert client.get("/api/v1/health").status_code == 200

    def gone(_: object) -> None:
        raise DatabaseUnavailableError

    monkeypatch.setattr("copper_sieve.store.projects.answer", gone)
    answer = client.get("/api/v1/health")
    assert (answer.status_code, answer.headers["retry-after"]) == (503, "1")
