"""A user's glTF written back with textures: what was not asked for is as it was, to the byte."""

from __future__ import annotations

import base64
import copy
import hashlib
import json
import struct
from collections.abc import Callable
from pathlib import Path
from typing import Any

import cv2
import numpy as np
import pytest

import copper_sieve as cs
from copper_sieve.core.codecs.gltf_file import GltfFile
from copper_sieve.core.codecs.meshes.accessors import stored
from copper_sieve.core.codecs.meshes.reading import read_model
from copper_sieve.core.errors import MeshError, WriteError
from copper_sieve.core.mesh.tangents import tangents_of
from tests.core.mesh.gltf_files import TRIANGLE, Drawn, write_glb
from tests.core.test_documents import gltf_report

_NORMALS = np.array([[0, 0, 1]] * 3, dtype=np.float32)
_UV = np.array([[0, 1], [1, 1], [0, 0]], dtype=np.float32)
_CHANGED = {"pbrMetallicRoughness", "normalTexture", "occlusionTexture", "emissiveTexture",
            "emissiveFactor", "alphaMode", "alphaCutoff"}  # fmt: skip


@pytest.fixture(scope="module")
def delivered(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A set called copper, for glTF."""
    folder = tmp_path_factory.mktemp("delivered")
    rng = np.random.default_rng(3)
    cv2.imwrite(str(folder / "copper.png"), rng.integers(40, 200, (32, 32, 3), dtype=np.uint8))
    cs.make(folder / "copper.png", targets=["gltf-metal-rough"], out=folder, wrap=False)
    return folder / "gltf-metal-rough"


def plain(drawn: Drawn) -> dict[str, Any]:
    """A triangle with normals and UVs in the material copper."""
    attributes = {"POSITION": drawn.add(TRIANGLE, min=[0, 0, 0], max=[1, 1, 0]),
                  "NORMAL": drawn.add(_NORMALS), "TEXCOORD_0": drawn.add(_UV)}  # fmt: skip
    return {
        "scene": 0, "scenes": [{"nodes": [0]}], "nodes": [{"mesh": 0, "name": "lid"}],
        "materials": [{"name": "copper", "doubleSided": True}],
        "meshes": [{"primitives": [{"attributes": attributes, "material": 0}]}],
    }  # fmt: skip


def animated(drawn: Drawn) -> dict[str, Any]:
    parts = plain(drawn)
    times = drawn.add(np.array([0, 1], np.float32), min=[0], max=[1])
    turns = drawn.add(np.array([[0, 0, 0, 1], [0, 0, 1, 0]], np.float32))
    sampler = {"input": times, "output": turns, "interpolation": "LINEAR"}
    channel = {"sampler": 0, "target": {"node": 0, "path": "rotation"}}
    return parts | {"animations": [{"name": "swing", "samplers": [sampler], "channels": [channel]}]}


def skinned(drawn: Drawn) -> dict[str, Any]:
    parts = plain(drawn)
    attributes = parts["meshes"][0]["primitives"][0]["attributes"]
    attributes["JOINTS_0"] = drawn.add(np.zeros((3, 4), np.uint8))
    weights = np.array([[1, 0, 0, 0]] * 3, np.float32)
    attributes["WEIGHTS_0"] = drawn.add(weights)
    parts["nodes"] = [{"mesh": 0, "skin": 0}, {"name": "bone"}]
    parts["scenes"] = [{"nodes": [0, 1]}]
    return parts | {"skins": [{"joints": [1]}]}


def morphing(drawn: Drawn) -> dict[str, Any]:
    parts = plain(drawn)
    moved = drawn.add(TRIANGLE * np.float32(0.1), min=[0, 0, 0], max=[0.1, 0.1, 0])
    parts["meshes"][0]["primitives"][0]["targets"] = [{"POSITION": moved}]
    parts["meshes"][0]["weights"] = [0.25]
    return parts


def lit(drawn: Drawn) -> dict[str, Any]:
    parts = plain(drawn)
    parts["nodes"].append({"extensions": {"KHR_lights_punctual": {"light": 0}}})
    parts["scenes"] = [{"nodes": [0, 1]}]
    lights = {"KHR_lights_punctual": {"lights": [{"type": "point", "intensity": 3.5}]}}
    return parts | {"extensionsUsed": ["KHR_lights_punctual"], "extensions": lights}


def annotated(drawn: Drawn) -> dict[str, Any]:
    """Extras everywhere, an extension that nobody knows, odd names and numbers."""
    parts = plain(drawn)
    parts["materials"][0]["extras"] = {"who": "私", "deep": [1, {"a": None}], "n": 0.1}
    parts["nodes"][0] |= {"extras": {"lod": 2}, "translation": [0.1, -1e-7, 3e5]}
    parts["asset"] = {"version": "2.0", "generator": "set manually", "copyright": "Lantern Row"}
    parts["extensions"] = {"EXT_of_the_tea_house": {"steam": True}}
    return parts | {"extensionsUsed": ["EXT_of_the_tea_house"], "extras": {"kettle": "鉄瓶"}}


def several(drawn: Drawn) -> dict[str, Any]:
    parts = plain(drawn)
    parts["materials"] = [{"name": "cedar", "alphaMode": "BLEND"}, *parts["materials"]]
    parts["meshes"][0]["primitives"][0]["material"] = 1
    other = copy.deepcopy(parts["meshes"][0]["primitives"][0]) | {"material": 0}
    parts["meshes"][0]["primitives"].append(other)
    return parts


def textured(drawn: Drawn) -> dict[str, Any]:
    """With a picture of its own, which stays where it is."""
    parts = plain(drawn)
    ok, picture = cv2.imencode(".png", np.full((4, 4, 3), 90, np.uint8))
    assert ok
    parts["images"] = [{"mimeType": "image/png", "bufferView": drawn.view(picture.tobytes())}]
    parts["textures"] = [{"source": 0}]
    parts["materials"][0] |= {"pbrMetallicRoughness": {"baseColorTexture": {"index": 0}},
                              "emissiveFactor": [0.5, 0, 0], "alphaMode": "BLEND"}  # fmt: skip
    return parts


def coated(drawn: Drawn) -> dict[str, Any]:
    parts = plain(drawn)
    parts["materials"][0]["extensions"] = {"KHR_materials_clearcoat": {"clearcoatFactor": 0.4}}
    return parts | {"extensionsUsed": ["KHR_materials_clearcoat"]}


def instanced(drawn: Drawn) -> dict[str, Any]:
    parts = plain(drawn)
    parts["nodes"] = [{"children": [1, 2]}, {"mesh": 0}, {"mesh": 0, "scale": [-1, 1, 1]}]
    return parts | {
        "cameras": [{"type": "perspective", "perspective": {"yfov": 0.7, "znear": 0.1}}]
    }


def sparse(drawn: Drawn) -> dict[str, Any]:
    parts = plain(drawn)
    places, values = drawn.view(np.array([2], np.uint8).tobytes()), drawn.view(
        np.array([[0, 1, 0]], np.float32).tobytes())  # fmt: skip
    drawn.accessors[0]["sparse"] = {
        "count": 1, "indices": {"bufferView": places, "componentType": 5121},
        "values": {"bufferView": values},
    }  # fmt: skip
    return parts


def packed(drawn: Drawn) -> dict[str, Any]:
    """Short integers for UVs, an index, two UV sets."""
    parts = plain(drawn)
    attributes = parts["meshes"][0]["primitives"][0]["attributes"]
    attributes["TEXCOORD_1"] = drawn.add((_UV * 65535).astype(np.uint16), normalized=True)
    parts["meshes"][0]["primitives"][0]["indices"] = drawn.add(np.array([0, 1, 2], np.uint8))
    return parts


_KINDS = (plain, animated, skinned, morphing, lit, annotated, several, textured, coated, instanced,
          sparse, packed)  # fmt: skip


def read_again(path: Path) -> tuple[dict[str, Any], bytes]:
    """The JSON and the buffer by the container's own rules."""
    data = path.read_bytes()
    size = struct.unpack_from("<I", data, 12)[0]
    return json.loads(data[20 : 20 + size]), data[28 + size :]


@pytest.mark.parametrize("kind", _KINDS, ids=lambda one: one.__name__)
def test_all_else_is_as_it_was(
    kind: Callable[[Drawn], dict[str, Any]], delivered: Path, tmp_path: Path
) -> None:
    drawn = Drawn()
    path = drawn.glb(tmp_path / "model.glb", **kind(drawn))
    out = tmp_path / "out" / "dressed.glb"
    cs.attach(path, [delivered], out)
    before, _ = read_again(path)
    after, longer = read_again(out)
    assert longer[: len(drawn.blob)] == drawn.blob  # the buffer only grew
    for key, value in before.items():
        if key == "materials":
            for old, new in zip(value, after[key], strict=True):
                kept = {
                    k: v for k, v in old.items() if k not in _CHANGED or old["name"] != "copper"
                }
                assert {k: new.get(k) for k in kept} == kept
        elif isinstance(value, list) and key != "extensionsUsed":
            assert after[key][: len(value)] == value or key == "buffers"
        else:
            assert after[key] == value
    assert set(after) - set(before) <= {"images", "textures", "samplers"}
    report = gltf_report(out)
    was = gltf_report(path)
    assert report["issues"]["numErrors"] == was["issues"]["numErrors"] == 0
    assert np.array_equal(read_model(out).positions, read_model(path).positions)
    surface = next(one for one in after["materials"] if one["name"] == "copper")
    picture = after["images"][after["textures"][surface["normalTexture"]["index"]]["source"]]
    view = after["bufferViews"][picture["bufferView"]]
    held = longer[view["byteOffset"] : view["byteOffset"] + view["byteLength"]]
    written = next(delivered.glob("*normal*.png")).read_bytes()
    assert hashlib.sha256(held).digest() == hashlib.sha256(written).digest()


def test_a_file_with_others_beside_it_both_ways(delivered: Path, tmp_path: Path) -> None:
    drawn = Drawn()
    document = drawn.document(**plain(drawn))
    (tmp_path / "in").mkdir()
    (tmp_path / "in" / "the mesh.bin").write_bytes(drawn.blob)
    document["buffers"][0]["uri"] = "the%20mesh.bin"
    path = tmp_path / "in" / "model.gltf"
    path.write_text(json.dumps(document))
    for name in ("apart/a.gltf", "one.glb"):
        out = tmp_path / name
        cs.attach(path, {"copper": delivered}, out)
        assert gltf_report(out)["issues"]["numErrors"] == 0
        assert np.array_equal(read_model(out).positions[0], TRIANGLE)
    beside = {one.name for one in (tmp_path / "apart").iterdir()}
    pictures = {one.name for one in delivered.glob("*.png")}
    assert beside == {"a.gltf", "the mesh.bin", *pictures}
    again = tmp_path / "again" / "b.gltf"  # from one file to files
    cs.attach(tmp_path / "one.glb", [delivered], again)
    assert (again.parent / "b.bin").is_file() and gltf_report(again)["issues"]["numErrors"] == 0


def test_the_uv_set_and_what_is_left_are_told(delivered: Path, tmp_path: Path) -> None:
    drawn = Drawn()
    parts = packed(drawn)
    parts["materials"][0]["extensions"] = {"KHR_materials_pbrSpecularGlossiness": {},
                                           "KHR_materials_sheen": {}}  # fmt: skip
    path = drawn.glb(tmp_path / "model.glb", **parts)
    said = cs.attach(path, [delivered], tmp_path / "out.glb", uv_set=1)
    assert said == ("copper: the specular/glossiness material was replaced",
                    "copper: KHR_materials_sheen is unchanged")  # fmt: skip
    material = read_again(tmp_path / "out.glb")[0]["materials"][0]
    assert material["normalTexture"]["texCoord"] == 1
    assert set(material["extensions"]) == {"KHR_materials_sheen"}


def test_what_it_refuses(delivered: Path, tmp_path: Path) -> None:
    drawn = Drawn()
    path = drawn.glb(tmp_path / "model.glb", **plain(drawn))
    out = tmp_path / "out.glb"
    with pytest.raises(MeshError, match=r"has no material named tin\. It has: copper"):
        cs.attach(path, {"tin": delivered}, out)
    with pytest.raises(WriteError, match="is the input model"):
        cs.attach(path, [delivered], path)
    with pytest.raises(MeshError, match="textures can be embedded in"):
        cs.attach(path, [delivered], tmp_path / "out.obj")
    cv2.imwrite(str(tmp_path / "copper.png"), np.zeros((8, 8, 3), np.uint8))
    cs.make(tmp_path / "copper.png", targets=["orm-y-down"], out=tmp_path)
    with pytest.raises(MeshError, match=r"has no document that a \.glb file can use"):
        cs.attach(path, [tmp_path / "orm-y-down"], out)
    cs.make(tmp_path / "copper.png", targets=["gltf-metal-rough"], out=tmp_path)
    document = tmp_path / "gltf-metal-rough" / "copper.glb"
    document.write_bytes(document.read_bytes() + b"x")
    with pytest.raises(MeshError, match="was modified since it was delivered"):
        cs.attach(path, [tmp_path / "gltf-metal-rough"], out)
    assert not out.exists()


def test_text_inside_stays_text(delivered: Path, tmp_path: Path) -> None:
    """A .gltf whose buffer is in it as text becomes a .glb whose buffer is the same."""
    drawn = Drawn()
    document = drawn.document(**plain(drawn))
    held = base64.b64encode(drawn.blob).decode()
    document["buffers"][0]["uri"] = f"data:application/octet-stream;base64,{held}"
    path = tmp_path / "model.gltf"
    path.write_text(json.dumps(document))
    cs.attach(path, [delivered], tmp_path / "out.glb")
    file = GltfFile.read(tmp_path / "out.glb")
    assert file.blob[: len(drawn.blob)] == drawn.blob
    assert write_glb(tmp_path / "same.glb", file.document, file.blob).stat().st_size > 0


def sheet(drawn: Drawn) -> dict[str, Any]:
    """Two squares beside each other whose UVs are mirrored at the side that they share, with
    joints, colors of one byte, a morph target and one vertex that nothing uses."""
    grid = np.array([[x, y, 0] for y in (0, 1) for x in (-1, 0, 1)] + [[9, 9, 9]], np.float32)
    uv = np.array([[abs(x), 1 - y] for y in (0, 1) for x in (-1, 0, 1)] + [[0, 0]], np.float32)
    order = np.array([0, 1, 4, 0, 4, 3, 1, 2, 5, 1, 5, 4], np.uint16)
    attributes = {
        "POSITION": drawn.add(grid, min=[-1, 0, 0], max=[9, 9, 9]),
        "NORMAL": drawn.add(np.array([[0, 0, 1]] * 7, np.float32)),
        "TEXCOORD_0": drawn.add(uv),
        "COLOR_0": drawn.add(np.full((7, 4), 200, np.uint8), normalized=True),
        "JOINTS_0": drawn.add(np.zeros((7, 4), np.uint8)),
        "WEIGHTS_0": drawn.add(np.array([[1, 0, 0, 0]] * 7, np.float32)),
    }
    moved = {"POSITION": drawn.add(grid * np.float32(0.5), min=[-0.5, 0, 0], max=[4.5, 4.5, 4.5])}
    primitive = {"attributes": attributes, "material": 0, "targets": [moved],
                 "indices": drawn.add(order)}  # fmt: skip
    return plain(Drawn()) | {
        "meshes": [{"name": "sheet", "primitives": [primitive]}],
        "nodes": [{"mesh": 0, "skin": 0}, {}], "skins": [{"joints": [1]}],
        "scenes": [{"nodes": [0, 1]}],
    }  # fmt: skip


def test_tangents_split_the_vertices_that_need_several(tmp_path: Path) -> None:
    drawn = Drawn()
    path = drawn.glb(tmp_path / "model.glb", **sheet(drawn))
    for name in ("out.glb", "out.gltf"):
        said = cs.attach(path, [], tmp_path / name, tangents=True)
        assert said == ("sheet: 2 vertices were split, because they have several tangents",)
        assert gltf_report(tmp_path / name)["issues"]["numErrors"] == 0
        before, after = read_model(path), read_model(tmp_path / name)
        assert before.tangents is None and after.tangents is not None
        assert np.array_equal(after.tangents, tangents_of(before))
        assert sorted(set(after.tangents[..., 3].ravel())) == [-1, 1]
        for one, other in ((before.positions, after.positions), (before.uvs[0], after.uvs[0])):
            assert np.array_equal(one, other)
    document = GltfFile.read(tmp_path / "out.glb")
    primitive = document.document["meshes"][0]["primitives"][0]
    for index in (*primitive["attributes"].values(), primitive["targets"][0]["POSITION"]):
        assert document.document["accessors"][index]["count"] == 9
    moved = stored(document, primitive["targets"][0]["POSITION"])
    assert np.array_equal(moved[7:], stored(document, primitive["attributes"]["POSITION"])[7:] / 2)


@pytest.mark.parametrize("kind", [plain, packed, skinned, instanced], ids=lambda one: one.__name__)
def test_tangents_beside_textures(
    kind: Callable[[Drawn], dict[str, Any]], delivered: Path, tmp_path: Path
) -> None:
    drawn = Drawn()
    path = drawn.glb(tmp_path / "model.glb", **kind(drawn))
    assert cs.attach(path, [delivered], tmp_path / "out.glb", tangents=True) == ()
    report = gltf_report(tmp_path / "out.glb")
    assert report["issues"]["numErrors"] == 0
    found = read_model(tmp_path / "out.glb").tangents
    assert found is not None and np.allclose(np.abs(found[..., 0]), 1, atol=1e-5)
    file = GltfFile.read(tmp_path / "out.glb")
    assert file.blob[: len(drawn.blob)] == drawn.blob
    assert file.document["accessors"][: len(drawn.accessors)] == drawn.accessors


def test_what_has_no_tangents_is_told(tmp_path: Path) -> None:
    drawn = Drawn()
    parts = plain(drawn)
    bare = {"attributes": {"POSITION": 0}}
    lines = parts["meshes"][0]["primitives"][0] | {"mode": 1}
    parts["meshes"] = [{"primitives": [bare, lines, parts["meshes"][0]["primitives"][0]]}]
    path = drawn.glb(tmp_path / "model.glb", **parts)
    said = cs.attach(path, [], tmp_path / "out.glb", tangents=True)
    assert said == ("mesh 1: no tangents without NORMAL and TEXCOORD_0",
                    "mesh 1: no tangents for strips, fans, lines and points")  # fmt: skip
