"""Models through the API: taken in, looked at, tied to sets, delivered with their textures."""

from __future__ import annotations

import io
import json
import zipfile
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from fastapi.testclient import TestClient
from httpx2 import Response
from pxr import Usd, UsdShade

from copper_sieve.core.codecs import read_picture, write_picture
from copper_sieve.core.image.raster import Encoding, Picture
from copper_sieve.core.mesh.mesh import Mesh
from copper_sieve.demo.patches import write_model
from copper_sieve.services.context import Context
from tests.api.previewing import preview
from tests.api.test_board import deliver
from tests.core.mesh.gltf_files import Drawn
from tests.core.mesh.solids import ball, floor
from tests.core.test_documents import usd_errors
from tests.serving import imported, refused

GLTF = "gltf-metal-rough"


def named(mesh: Mesh, material: str) -> Mesh:
    return replace(mesh, material_names=(material,))


def shelf(folder: Path, radius: float = 0.4) -> Path:
    """A ball on a floor, each of its own material."""
    path = folder / "shelf.glb"
    write_model(path, [named(ball(radius, rings=16, uv=(0.1, 0.1, 0.8, 0.5)), "globe"),
                       named(floor(2.0, 4, height=-0.5), "ground")])  # fmt: skip
    return path


def sent(client: TestClient, project: str, path: Path) -> Response:
    return client.post(f"/api/v1/projects/{project}/models", params={"name": path.name},
                       content=path.read_bytes())  # fmt: skip


def send(client: TestClient, project: str, path: Path) -> dict[str, Any]:
    number = imported(client, sent(client, project, path))["model_id"]
    models = client.get(f"/api/v1/projects/{project}/models").json()
    found: dict[str, Any] = next(one for one in models if one["id"] == number)
    return found


def tie(client: TestClient, set_id: int, wanted: dict | None, status: int = 200) -> dict[str, Any]:
    answer = client.put(f"/api/v1/sets/{set_id}/model", json={"link": wanted})
    assert answer.status_code == status, answer.text
    found: dict[str, Any] = answer.json()
    return found


@pytest.fixture
def model(client: TestClient, project: str, tmp_path: Path) -> dict[str, Any]:
    return send(client, project, shelf(tmp_path))


@pytest.fixture
def globe(client: TestClient, model: dict[str, Any]) -> int:
    """A set for the ball, made of the model itself."""
    made = client.post(f"/api/v1/models/{model['id']}/sets", json={"materials": ["globe"]}).json()
    number: int = made["sets"]["globe"]
    return number


def test_a_model_is_taken_in_once_and_told(
    client: TestClient, project: str, model: dict[str, Any], tmp_path: Path
) -> None:
    assert (model["name"], model["uv_sets"], model["tangents"]) == ("shelf.glb", 1, False)
    materials = {one["name"]: one["triangles"] for one in model["materials"]}
    assert materials == {"globe": 2 * 32 * 15, "ground": 2 * 4 * 4}
    assert send(client, project, tmp_path / "shelf.glb")["id"] == model["id"]
    original = client.get(f"/api/v1/models/{model['id']}/original")
    assert original.content == (tmp_path / "shelf.glb").read_bytes()
    assert len(client.get(f"/api/v1/projects/{project}/models").json()) == 1


def test_an_archive_brings_the_files_that_a_model_names(
    client: TestClient, project: str, tmp_path: Path
) -> None:
    drawn = Drawn()
    drawn.add(np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0]], dtype=np.float32))
    (tmp_path / "in").mkdir()
    whole = drawn.glb(tmp_path / "in" / "one.glb", nodes=[{"mesh": 0}],
                      meshes=[{"primitives": [{"attributes": {"POSITION": 0}}]}])  # fmt: skip
    data = whole.read_bytes()
    length = int.from_bytes(data[12:16], "little")
    document = json.loads(data[20 : 20 + length])
    document["buffers"][0]["uri"] = "one.bin"
    packed = tmp_path / "one.zip"
    with zipfile.ZipFile(packed, "w") as archive:
        archive.writestr("model/one.gltf", json.dumps(document))
        archive.writestr("model/one.bin", data[28 + length :])
    assert send(client, project, packed)["triangles"] == 1
    with zipfile.ZipFile(packed, "a") as archive:
        archive.writestr("another.obj", "v 0 0 0")
    assert "must contain one model" in refused(client, sent(client, project, packed))
    lone = tmp_path / "lone.gltf"
    lone.write_text(json.dumps(document))
    assert "one.bin, which is missing" in refused(client, sent(client, project, lone))


@pytest.mark.parametrize(
    ("name", "data", "says"),
    [
        ("cut.glb", b"glTF\2\0\0\0\xff\xff\0\0", "cut.glb isn't a valid glTF file"),
        ("photo.png", b"\x89PNG....", "photo.png isn't a supported model format"),
        (
            "nan.obj",
            b"v 0 0 nan\nv 1 0 0\nv 0 1 0\nf 1 2 3\n",
            "triangles have invalid coordinates",
        ),
        ("out.zip", b"PK\x05\x06" + bytes(18), "must contain one model"),
    ],
)
def test_what_cannot_be_read_is_refused_by_its_name(
    client: TestClient, project: str, tmp_path: Path, name: str, data: bytes, says: str
) -> None:
    path = tmp_path / name
    path.write_bytes(data)
    assert says in refused(client, sent(client, project, path))
    assert client.get(f"/api/v1/projects/{project}/models").json() == []


def test_its_mesh_is_what_a_renderer_draws(client: TestClient, model: dict[str, Any]) -> None:
    answer = client.get(f"/api/v1/models/{model['id']}/mesh")
    size = int.from_bytes(answer.content[:4], "little")
    head = json.loads(answer.content[4 : 4 + size])
    corners, triangles, borders = head["corners"], head["triangles"], head["borders"]
    assert triangles == model["triangles"]
    assert corners < triangles  # most of them are shared
    values = answer.content[4 + size :]
    assert len(values) == 4 * (corners * 12 + borders * 4 + triangles * 3)
    floats = np.frombuffer(values, "<f4", corners * 12)
    positions, normals = floats[: corners * 3].reshape(-1, 3), floats[corners * 3 :][: corners * 3]
    np.testing.assert_allclose(positions.min(0), head["low"], atol=1e-6)
    np.testing.assert_allclose(np.linalg.norm(normals.reshape(-1, 3), axis=1), 1, atol=1e-5)
    order = np.frombuffer(values[-12 * triangles :], "<u4").reshape(-1, 3)
    groups = {one["name"]: one for one in head["groups"]}
    globe = groups["globe"]
    on_ball = positions[order[globe["first"] : globe["first"] + globe["count"]]]
    np.testing.assert_allclose(np.linalg.norm(on_ball, axis=2), 0.4, atol=1e-5)
    # The floor's outline: four sides of four pieces each.
    assert groups["ground"]["borders"] == 16


def test_planted_overlaps_are_told_with_a_picture(
    client: TestClient, project: str, tmp_path: Path
) -> None:
    path = tmp_path / "twice.glb"
    write_model(path, [named(ball(0.3, rings=8), "one"), named(floor(1.0, 2), "one")])
    model = send(client, project, path)
    uv = client.get(f"/api/v1/models/{model['id']}/uv?material=one").json()
    assert uv["facts"][0]["rule"] == "overlaps"
    assert uv["count"] == len(uv["islands"]) > 1
    for shows in ("overlaps", "density"):
        answer = client.get(f"/api/v1/models/{model['id']}/uv.png",
                            params={"shows": shows, "material": "one", "side": 64})  # fmt: skip
        picture = tmp_path / "uv.png"
        picture.write_bytes(answer.content)
        assert read_picture(picture)[1].codes.shape == (64, 64, 4)
    nothing = client.get(f"/api/v1/models/{model['id']}/uv.png?shows=outside&material=one")
    assert nothing.status_code == 422


def test_a_tie_is_a_change_that_is_undone(
    client: TestClient, project: str, model: dict[str, Any], globe: int
) -> None:
    kept = client.get(f"/api/v1/sets/{globe}").json()
    assert kept["model"]["material"] == "globe"
    assert tie(client, globe, None)["model"] is None
    back = client.post(f"/api/v1/sets/{globe}/undo", json={"version": kept["version"] + 1}).json()
    assert back["model"] == kept["model"]
    listed = client.get(f"/api/v1/projects/{project}/models").json()[0]
    assert [one["sets"][0]["id"] for one in listed["materials"] if one["sets"]] == [globe]
    source = model["sha256"]
    for wanted, says in (
        ({"source": source, "material": "glass"}, "no material named glass. It has: globe, ground"),
        ({"source": "0" * 64}, "isn't in this project"),
        ({"source": source, "uv_set": 3}, "has 1 UV sets"),
    ):
        assert says in tie(client, globe, wanted, 409)["detail"]


def test_who_knows_nothing_of_ties_loses_none(client: TestClient, globe: int) -> None:
    kept = client.get(f"/api/v1/sets/{globe}").json()
    maps = {one["kind"]: one["definition"] for one in kept["maps"]}
    body = {"version": kept["version"], "surface": kept["surface"], "maps": maps}
    assert client.put(f"/api/v1/sets/{globe}", json=body).json()["model"] == kept["model"]


def test_a_map_that_is_taken_from_it_is_seen_on_the_bench(client: TestClient, globe: int) -> None:
    kept = client.get(f"/api/v1/sets/{globe}").json()
    maps = {one["kind"]: one["definition"] for one in kept["maps"]}
    shade = {"how": "derived", "operation": "ambient_occlusion_from_model",
             "parameters": {"rays": "16"}}  # fmt: skip
    draft = {"surface": kept["surface"], "maps": {**maps, "ambient_occlusion": shade},
             "model": kept["model"]}  # fmt: skip
    seen = preview(client, globe, draft=draft, kinds=["ambient_occlusion"], longer_side=128,
                   compute_side=128)  # fmt: skip
    shown = seen["ambient_occlusion"].codes
    assert shown is not None
    # The ball's lower half (v grows downwards) sees the floor, its top nothing but sky.
    assert shown[16:24, 20:100].min() > 250
    assert shown[66:74, 20:100].max() < 200
    draft["model"] = None
    refused = client.post(f"/api/v1/sets/{globe}/previews", json={"draft": draft})
    assert refused.status_code == 422
    assert "none is linked. Link a model" in refused.json()["detail"]


def test_a_material_becomes_a_set_with_the_maps_that_it_carries(
    client: TestClient, project: str, tmp_path: Path
) -> None:
    model = send(client, project, textured(tmp_path))
    made = client.post(f"/api/v1/models/{model['id']}/sets", json={"materials": ["tile"]}).json()
    kept = client.get(f"/api/v1/sets/{made['sets']['tile']}").json()
    maps = {one["kind"]: one["definition"] for one in kept["maps"]}
    assert maps["roughness"]["channels"] == "G"
    assert maps["metallic"] == {"how": "constant", "value": [0.0]}  # its factor is 0
    assert maps["base_color"]["encoding"] == "srgb"
    assert maps["f0"]["value"] == [pytest.approx(0.04)]
    assert made["remarks"] == [
        "tile: the base color texture is multiplied by 0.5, 1, 1, which a texture set "
        "doesn't support",
        "tile: KHR_materials_dispersion isn't supported in a texture set and was skipped",
    ]


def textured(folder: Path) -> Path:
    """A triangle with a base color, packed roughness, and a clear coat."""
    drawn = Drawn()
    drawn.add(np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0]], dtype=np.float32))
    drawn.add(np.array([[0, 0], [1, 0], [0, 1]], dtype=np.float32))
    images = []
    for n, color in enumerate(((200, 90, 40), (255, 120, 30))):
        path = folder / f"{n}.png"
        codes = np.tile(np.array(color, dtype=np.uint8), (8, 8, 1))
        write_picture(path, Picture(codes, ("R", "G", "B"), Encoding.SRGB), "png")
        images.append({"bufferView": drawn.view(path.read_bytes()), "mimeType": "image/png"})
    material = {
        "name": "tile",
        "pbrMetallicRoughness": {
            "baseColorTexture": {"index": 0}, "baseColorFactor": [0.5, 1, 1, 1],
            "metallicRoughnessTexture": {"index": 1}, "metallicFactor": 0,
        },
        "extensions": {"KHR_materials_ior": {"ior": 1.5}, "KHR_materials_dispersion": {}},
    }  # fmt: skip
    return drawn.glb(
        folder / "tile.glb", nodes=[{"mesh": 0}], materials=[material], images=images,
        textures=[{"source": 0}, {"source": 1}],
        meshes=[{"primitives": [{"attributes": {"POSITION": 0, "TEXCOORD_0": 1}, "material": 0}]}],
    )  # fmt: skip


def test_files_are_padded_around_its_islands_and_the_model_comes_back_dressed(
    client: TestClient, context: Context, project: str, globe: int, tmp_path: Path
) -> None:
    kept = client.get(f"/api/v1/sets/{globe}").json()
    maps = {one["kind"]: one["definition"] for one in kept["maps"]}
    shade = {"how": "derived", "operation": "ambient_occlusion_from_model",
             "parameters": {"rays": "16"}}  # fmt: skip
    body = {"version": kept["version"], "surface": kept["surface"],
            "prepare": {"size": {"longer_side": 128}},
            "maps": {**maps, "ambient_occlusion": shade}}  # fmt: skip
    assert client.put(f"/api/v1/sets/{globe}", json=body).status_code == 200
    targets = [GLTF, "usd-preview"]
    asked = {"set_ids": [globe], "target_ids": targets, "longer_side": 128}
    dry = client.post(f"/api/v1/projects/{project}/dry-runs", json=asked).json()
    remarks = [one["text"] for part in dry for one in part["remarks"]]
    assert any("shelf.glb, globe" in one for one in remarks), remarks
    number = deliver(client, context, project, asked)
    dressed = client.get(f"/api/v1/deliveries/{number}/models").json()
    assert [(one["name"], one["sets"], one["missing"]) for one in dressed] == [
        ("shelf.gltf-metal-rough.glb", 1, ["ground"]), ("shelf.usd-preview.usdz", 1, ["ground"])
    ]  # fmt: skip
    whole = client.get(dressed[0]["address"]).content
    path = tmp_path / "back.glb"
    path.write_bytes(whole)
    again = send(client, project, path)
    assert again["triangles"] == send(client, project, shelf(tmp_path))["triangles"]
    length = int.from_bytes(whole[12:16], "little")
    document = json.loads(whole[20 : 20 + length])
    first = document["materials"][0]
    assert first["name"] == "globe"
    assert "baseColorTexture" in first["pbrMetallicRoughness"]
    assert document["materials"][1] == {"name": "ground"}
    with_tangents = client.get(dressed[0]["address"], params={"tangents": True}).content
    assert b'"TANGENT"' in with_tangents
    assert b'"TANGENT"' not in whole
    (tmp_path / "back.usdz").write_bytes(client.get(dressed[1]["address"]).content)
    stage = Usd.Stage.Open(str(tmp_path / "back.usdz"))
    assert usd_errors(stage) == []
    meshes = [one for one in stage.Traverse() if one.GetTypeName() == "Mesh"]
    bound = {one.GetName(): UsdShade.MaterialBindingAPI(one).ComputeBoundMaterial()[0]
             for one in meshes}  # fmt: skip
    assert str(bound["globe"].GetPath()) == "/shelf/Materials/globe"
    assert not bound["ground"]
    other = client.get(
        f"/api/v1/deliveries/{number}/models/{dressed[0]['model_id']}/separate-png.glb"
    )
    assert other.status_code == 404


def test_it_cannot_go_while_sets_are_made_for_it(
    client: TestClient, context: Context, project: str, model: dict[str, Any], globe: int
) -> None:
    address = f"/api/v1/models/{model['id']}"
    assert "globe is linked to it. Unlink it first" in client.delete(address).json()["detail"]
    tie(client, globe, None)
    assert client.delete(address).status_code == 204
    assert client.get(f"/api/v1/projects/{project}/models").json() == []
    # A step back on the Bench still finds it: the set holds its file.
    assert context.load_model(model["sha256"]).count == model["triangles"]


def test_a_project_takes_its_models_along(
    client: TestClient, project: str, model: dict[str, Any], globe: int
) -> None:
    archive = client.get(f"/api/v1/projects/{project}/archive.zip").content
    with zipfile.ZipFile(io.BytesIO(archive)) as opened:
        held = json.loads(opened.read("project.json"))
    assert held["models"] == [{"sha256": model["sha256"], "name": "shelf.glb"}]
    answer = client.post("/api/v1/project-archives?name=p.zip", content=archive)
    other = imported(client, answer)["project"]
    copy = client.post("/api/v1/projects", json={"title": "Duplicate", "copy_of": project}).json()[
        "slug"
    ]
    for slug in (other, copy):
        there = client.get(f"/api/v1/projects/{slug}/models").json()
        assert [one["sha256"] for one in there] == [model["sha256"]]
        assert [len(one["sets"]) for one in there[0]["materials"]] == [1, 0]


def test_rays_that_miss_the_detail_are_told_with_a_picture(
    client: TestClient, project: str, globe: int, tmp_path: Path
) -> None:
    path = tmp_path / "fine.glb"
    write_model(path, [named(ball(0.42, rings=32, uv=None), "globe")])
    high_poly = send(client, project, path)
    kept = client.get(f"/api/v1/sets/{globe}").json()
    address = f"/api/v1/sets/{globe}/ray-misses"
    assert "has no high-poly model" in client.post(address, json={}).json()["detail"]
    fine = tie(client, globe, {**kept["model"], "detailed": high_poly["sha256"]})
    whole = client.post(address, json={}).json()
    assert (whole["share"], whole["picture"]) == (0, None)
    assert 0.02 < whole["cage"] < 0.05  # 20 mm lie between them
    maps = {one["kind"]: one["definition"] for one in fine["maps"]}
    near = {"surface": fine["surface"], "maps": maps, "model": {**fine["model"], "cage": 0.005}}
    none = client.post(address, json={"draft": near}).json()
    assert none["share"] > 0.99
    assert none["picture"].startswith("data:image/png;base64,")
    by_uvs = {**near, "model": {**fine["model"], "same_uvs": True}}
    refused = client.post(address, json={"draft": by_uvs})
    assert refused.status_code == 422
    assert "the UVs of the high-poly model differ" in refused.json()["detail"]
    listed = {one["name"]: one for one in client.get(f"/api/v1/projects/{project}/models").json()}
    assert [one["id"] for one in listed["fine.glb"]["serves"]] == [globe]
