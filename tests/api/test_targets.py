"""Targets over the API: own ones beside the built-in, tried on a set, delivered, gone stale."""

from __future__ import annotations

import base64
import io
import json
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from fastapi.testclient import TestClient
from PIL import Image

from copper_sieve.core.codecs import write_picture
from copper_sieve.core.image.raster import Encoding, Picture
from copper_sieve.core.targets.catalog import builtin_targets
from copper_sieve.services import delivery_worker
from copper_sieve.services.context import Context
from tests.api.conftest import TakeIn
from tests.conftest import MakePhoto
from tests.serving import imported


@pytest.fixture(autouse=True)
def only_built_in(client: TestClient) -> None:
    """Own targets belong to no project: those of other tests go."""
    for one in client.get("/api/v1/targets").json():
        if one["own"]:
            client.delete(f"/api/v1/targets/{one['id']}")


@pytest.fixture
def wall(client: TestClient, take_in: TakeIn, make_photo: MakePhoto) -> dict:
    return client.get(f"/api/v1/sets/{take_in(make_photo())['set_id']}").json()


def by_id(client: TestClient) -> dict[str, dict]:
    return {one["id"]: one for one in client.get("/api/v1/targets").json()}


def copy_of(client: TestClient, target_id: str, new: str, **change: object) -> dict:
    one = by_id(client)[target_id]
    return {k: v for k, v in one.items() if k not in ("own", "edition")} | {"id": new, **change}


def test_own_targets_stand_beside_the_built_in_ones(client: TestClient) -> None:
    assert {one["own"] for one in by_id(client).values()} == {False}
    made = client.post("/api/v1/targets", json=copy_of(client, "mra-y-down", "ours", title="Ours"))
    assert made.status_code == 201, made.text
    assert (made.json()["own"], made.json()["edition"]) == (True, 1)
    assert list(by_id(client)) == [*builtin_targets(), "ours"]
    again = client.post("/api/v1/targets", json=copy_of(client, "mra-y-down", "ours"))
    assert (again.status_code, again.json()["type"]) == (409, "/problems/conflict")
    taken = client.post("/api/v1/targets", json=copy_of(client, "mra-y-down", "orm-y-down"))
    assert taken.status_code == 409
    assert client.delete("/api/v1/targets/ours").status_code == 204
    assert client.delete("/api/v1/targets/ours").status_code == 404
    assert client.delete("/api/v1/targets/orm-y-down").status_code == 404
    assert list(by_id(client)) == list(builtin_targets())


def test_a_change_is_guarded_by_its_edition(client: TestClient) -> None:
    preset = copy_of(client, "mra-y-down", "ours")
    client.post("/api/v1/targets", json=preset)
    body = {"edition": 1, "preset": {**preset, "title": "Changed"}}
    changed = client.put("/api/v1/targets/ours", json=body)
    assert (changed.json()["title"], changed.json()["edition"]) == ("Changed", 2)
    late = client.put("/api/v1/targets/ours", json=body)
    assert late.status_code == 409
    assert "changed by someone else" in late.json()["detail"]
    built_in = copy_of(client, "orm-y-down", "orm-y-down")
    refused = client.put("/api/v1/targets/orm-y-down", json={"edition": 0, "preset": built_in})
    assert refused.status_code == 409
    assert "Duplicate it" in refused.json()["detail"]
    taken = client.put("/api/v1/targets/ours", json={"edition": 2, "preset": built_in})
    assert taken.status_code == 409
    assert "Choose another id" in taken.json()["detail"]


def test_a_target_is_renamed_with_all_that_was_delivered_with_it(
    client: TestClient, context: Context, project: str, wall: dict
) -> None:
    preset = copy_of(client, "orm-y-down", "first")
    kept = client.post("/api/v1/targets", json=preset).json()
    body = {"set_ids": [wall["id"]], "target_ids": ["first"]}
    asked = client.post(f"/api/v1/projects/{project}/deliveries", json=body).json()
    delivery_worker.run(context, asked["id"])
    named = {**preset, "id": "team-pack", "title": "Team pack"}
    body = {"edition": kept["edition"], "preset": named}
    renamed = client.put("/api/v1/targets/first", json=body)
    assert (renamed.status_code, renamed.json()["id"]) == (200, "team-pack")
    ids = [one["id"] for one in client.get("/api/v1/targets").json()]
    assert ("first" in ids, "team-pack" in ids) == (False, True)
    part = client.get(f"/api/v1/deliveries/{asked['id']}").json()["parts"][0]
    assert (part["target_id"], part["disk_state"]) == ("team-pack", "intact")
    assert Path(part["folder"]).parent.name == "first"  # it stays where it was delivered
    readiness = client.get(f"/api/v1/sets/{wall['id']}").json()["readiness"]
    assert readiness["team-pack"] == "stale"  # the next one goes to another folder


def test_a_preset_that_makes_no_sense_is_refused_in_words(client: TestClient) -> None:
    preset = copy_of(client, "mra-y-down", "ours")
    preset["files"][1]["channels"]["R"] = {"map": "metallic", "component": "x"}
    answer = client.post("/api/v1/targets", json=preset)
    assert answer.status_code == 422
    assert "metallic has no component x" in answer.json()["detail"]
    two = copy_of(client, "mra-y-down", "ours")
    del two["files"][1]["channels"]["B"]
    assert "1 or 3 or 4 channels" in client.post("/api/v1/targets", json=two).json()["detail"]


def test_a_target_is_tried_on_a_set_before_it_is_kept(client: TestClient, wall: dict) -> None:
    preset = copy_of(client, "metal-smooth-alpha-y-up", "ours")
    answer = client.post("/api/v1/target-previews", json={"preset": preset, "set_id": wall["id"]})
    trial = answer.json()
    assert trial["error"] is None
    names = [file["name"] for file in trial["files"]]
    assert names == ["wall_albedo.png", "wall_metal_smooth.png", "wall_normal.png",
                     "wall_occlusion.png"]  # fmt: skip
    assert any("emissive" in remark["text"] for remark in trial["remarks"]), trial["remarks"]
    packed = trial["files"][1]
    assert (packed["width"], packed["height"]) == (64, 48)
    assert packed["channels"]["A"] == "roughness, inverted"
    assert packed["memory"]["format"] == "BC7"
    assert packed["memory"]["blocks"] == 4096
    assert "as much memory as two files" in packed["memory"]["remark"]
    assert trial["files"][0]["memory"]["blocks"] == 2048
    head, data = packed["alpha"].split(",")
    assert head == "data:image/png;base64"
    alpha = np.asarray(Image.open(io.BytesIO(base64.b64decode(data))))
    assert alpha.shape == (48, 64)
    assert alpha.std() > 0
    assert list(by_id(client)) == list(builtin_targets())


def test_colliding_and_unportable_names_are_refused_with_the_reason(
    client: TestClient, wall: dict
) -> None:
    preset = copy_of(client, "mra-y-down", "ours")

    def said(n: int, **facts: str) -> str:
        files = [{**file, **(facts if i == n else {})} for i, file in enumerate(preset["files"])]
        body = {"preset": {**preset, "files": files}, "set_id": wall["id"]}
        trial = client.post("/api/v1/target-previews", json=body).json()
        assert trial["files"] == []
        return trial["error"]

    assert "two files would have the name T_wall_bc.tga" in said(1, suffix="bc")
    assert "unknown variable {room}" in said(0, name="{room}_x")
    assert "which some systems don't allow" in said(0, name="a:b")


def test_an_own_target_is_delivered_and_its_change_makes_that_stale(
    client: TestClient, context: Context, project: str, wall: dict
) -> None:
    preset = copy_of(client, "mra-y-down", "ours")
    client.post("/api/v1/targets", json=preset)
    body = {"set_ids": [wall["id"]], "target_ids": ["ours"]}
    asked = client.post(f"/api/v1/projects/{project}/deliveries", json=body)
    assert asked.status_code in (200, 201, 202), asked.text
    delivery_worker.run(context, asked.json()["id"])

    def state() -> str:
        return client.get(f"/api/v1/sets/{wall['id']}").json()["readiness"]["ours"]

    assert state() == "delivered"
    _look_at_a_channel(client, asked.json()["id"])
    files = [{**file, "suffix": file["suffix"].lower()} for file in preset["files"]]
    client.put("/api/v1/targets/ours", json={"edition": 1, "preset": {**preset, "files": files}})
    assert state() == "stale"
    client.delete("/api/v1/targets/ours")
    gone = client.post(f"/api/v1/projects/{project}/dry-runs", json=body)
    assert gone.status_code == 404
    assert "Available" in gone.json()["detail"]


def _look_at_a_channel(client: TestClient, delivery_id: int) -> None:
    """Each channel is held against the map that it was made of; a touched file shows it."""
    part = client.get(f"/api/v1/deliveries/{delivery_id}").json()["parts"][0]
    address = f"/api/v1/deliveries/{delivery_id}/parts/{part['n']}/files/T_wall_MRA.tga/channels"
    view = client.get(f"{address}/G").json()
    assert (view["words"], view["largest"], view["mean"]) == ("roughness", 0, 0)
    assert _picture(view["held"]).shape == (48, 64)
    np.testing.assert_array_equal(_picture(view["held"]), _picture(view["map"]))
    assert _picture(view["difference"]).max() == 0
    path = Path(part["folder"]) / "T_wall_MRA.tga"
    codes = np.asarray(Image.open(path)).copy()
    codes[10, 20, 1] ^= 3
    Image.fromarray(codes).save(path)
    view = client.get(f"{address}/G").json()
    assert 1 <= view["largest"] <= 3
    assert view["mean"] == pytest.approx(view["largest"] / (48 * 64))
    touched = _picture(view["difference"])
    assert np.flatnonzero(touched).tolist() == [10 * 64 + 20]
    assert touched.max() == 16 * view["largest"]
    assert client.get(f"{address}/A").status_code == 404
    _read_closely(client, f"{address}/G", view["largest"])


def _read_closely(client: TestClient, address: str, largest: float) -> None:
    """The same, texel by texel: of the whole, of a piece, of one that leaves the channel."""
    head, whole = texels(client, address, left=0, upper=0, columns=64, rows=48)
    assert (head["width"], head["height"], head["top"]) == (64, 48, 255)
    apart = np.abs(whole["held"] - whole["expected"])
    assert np.argwhere(apart).tolist() == [[10, 20]]
    assert apart.max() == largest
    assert 0 <= whole["map"].min() <= whole["map"].max() <= 1
    _, piece = texels(client, address, left=18, upper=9, columns=4, rows=3)
    for name, values in piece.items():
        np.testing.assert_array_equal(values, whole[name][9:12, 18:22], err_msg=name)
    head, edge = texels(client, address, left=60, upper=46, columns=64, rows=64)
    assert (head["left"], head["upper"], edge["held"].shape) == (60, 46, (2, 4))
    head, last = texels(client, address, left=500, upper=500, columns=4, rows=3)
    assert (head["left"], head["upper"], last["held"].shape) == (63, 47, (1, 1))
    assert client.get(f"{address}/texels", params={"columns": 5000}).status_code == 422


def texels(
    client: TestClient, address: str, **piece: int
) -> tuple[dict[str, Any], dict[str, np.ndarray]]:
    """A piece of a channel: what stands before its values, and those of each state."""
    answer = client.get(f"{address}/texels", params=piece)
    assert answer.status_code == 200, answer.text
    length = int.from_bytes(answer.content[:4], "little")
    head = json.loads(answer.content[4 : 4 + length])
    values = np.frombuffer(answer.content, "<f4", offset=4 + length)
    shape = len(head["planes"]), head["rows"], head["columns"]
    return head, dict(zip(head["planes"], values.reshape(shape), strict=True))


def _picture(url: str) -> np.ndarray:
    return np.asarray(Image.open(io.BytesIO(base64.b64decode(url.split(",")[1]))))


def test_smaller_files_with_mips_are_numbered_and_held_against_their_maps(
    client: TestClient, context: Context, project: str, wall: dict
) -> None:
    preset = copy_of(client, "mra-y-down", "ours")
    mra = preset["files"][1]
    mra |= {"format": "dds", "compression": "none", "mips": True, "size": {"mode": "half"},
            "name": "{set}_v{version}_{suffix}"}  # fmt: skip
    client.post("/api/v1/targets", json=preset)
    body = {"set_ids": [wall["id"]], "target_ids": ["ours"]}
    for number in ("001", "002"):
        asked = client.post(f"/api/v1/projects/{project}/deliveries", json=body).json()
        delivery_worker.run(context, asked["id"])
        part = client.get(f"/api/v1/deliveries/{asked['id']}").json()["parts"][0]
        name = f"wall_v{number}_MRA.dds"
        assert name in {path.name for path in Path(part["folder"]).iterdir()}
        for letter in "RGB":  # computed anew, reduced as the file was: the same codes
            address = f"/api/v1/deliveries/{asked['id']}/parts/0/files/{name}/channels/{letter}"
            view = client.get(address).json()
            assert (view["largest"], _picture(view["held"]).shape) == (0, (24, 32))
        whole = client.get(f"/api/v1/deliveries/{asked['id']}/parts/0").json()
        color = next(one["name"] for one in whole["manifest"]["files"] if "BC" in one["name"])
        address = f"/api/v1/deliveries/{asked['id']}/parts/0/files/{color}/channels/G"
        view = client.get(address).json()  # a color: the map before is shown as light is stored
        assert view["words"] == "base color g"
        np.testing.assert_array_equal(_picture(view["map"]), _picture(view["held"]))
        assert not _picture(view["difference"]).any()
    old = f"/api/v1/deliveries/{asked['id'] - 1}/parts/0/files/wall_v001_MRA.dds/channels/R"
    answer = client.get(old)
    assert (answer.status_code, answer.json()["type"]) == (409, "/problems/replaced")
    assert f"overwritten by delivery {asked['id']}" in answer.json()["detail"]


@pytest.mark.parametrize("target", ["orm-y-down", "spec-gloss", "offline-tiled"])
def test_a_proof_can_be_lit_from_the_files(client: TestClient, wall: dict, target: str) -> None:
    body = {"preset": copy_of(client, target, target), "set_id": wall["id"]}
    answer = client.post("/api/v1/target-previews/renderings", json=body)
    assert answer.status_code == 200, answer.text
    lit = answer.json()
    assert lit["aspect"] == pytest.approx(64 / 48)
    needed = {"base_color", "metallic", "roughness", "normal"}
    assert needed <= set(lit["before"])
    assert needed <= set(lit["after"])
    for kind in needed:
        before, after = (_picture(lit[side][kind]).astype(int) for side in ("before", "after"))
        assert np.abs(before - after).max() <= 2, kind


def test_a_proof_is_judged_under_a_surrounding_of_the_project(
    client: TestClient, wall: dict, project: str, tmp_path: Path
) -> None:
    """What a target changes is told under its light: in the dark there is nothing to tell."""
    preset = copy_of(client, "separate-png", "rough", dielectric_f0=0.04)
    body = {"preset": preset, "set_id": wall["id"]}

    def proof(**more: object) -> dict:
        answer = client.post("/api/v1/target-previews", json={**body, **more})
        assert answer.status_code == 200, answer.text
        found: dict = answer.json()["proof"]
        return found

    lamps = proof()
    light = np.zeros((64, 128, 3), np.float32) + np.float32((0.2, 0.5, 1.0))
    path = tmp_path / "blue.hdr"
    write_picture(path, Picture(light, ("R", "G", "B"), Encoding.LINEAR), "hdr")
    made = imported(client, client.post(
        f"/api/v1/projects/{project}/environments", params={"name": "blue.hdr", "kind": "panorama"},
        content=path.read_bytes(),
    ))  # fmt: skip
    blue = proof(environment=made["environment_id"])
    assert blue["before"] != lamps["before"]
    shown = np.asarray(Image.open(io.BytesIO(base64.b64decode(blue["before"].split(",")[1]))))
    red, _, most = shown.reshape(-1, shown.shape[-1])[:, :3].astype(float).mean(0)
    assert most > 1.3 * red
    assert blue["mean"] < 1
    answer = client.post("/api/v1/target-previews", json={**body, "environment": 999_999})
    assert answer.status_code == 404
