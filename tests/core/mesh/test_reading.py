"""Models as they are read: numbers as the file means them, and files that are refused."""

from __future__ import annotations

import base64
import json
import struct
import time
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import trimesh

from copper_sieve.core.codecs.meshes.limits import ModelLimits
from copper_sieve.core.codecs.meshes.reading import read_model
from copper_sieve.core.errors import MeshError
from copper_sieve.core.mesh.mesh import face_normals, smooth_normals
from tests.core.mesh.gltf_files import TRIANGLE, Drawn, triangle, write_glb
from tests.core.mesh.solids import box


def test_a_gltf_is_read_as_its_scene_places_it(tmp_path: Path) -> None:
    """A child turned by a quarter about z, moved and scaled; two UV sets, one of them packed."""
    drawn = Drawn()
    normals = np.array([[0, 0, 1]] * 3, dtype=np.float32)
    uv = np.array([[0, 0], [1, 0], [0, 1]], dtype=np.float32)
    attributes = {"POSITION": drawn.add(TRIANGLE), "NORMAL": drawn.add(normals),
                  "TEXCOORD_0": drawn.add(uv),
                  "TEXCOORD_1": drawn.add((uv * 65535).astype(np.uint16), normalized=True),
                 }  # fmt: skip
    half = float(np.sqrt(0.5))
    leaf = {"name": "leaf", "mesh": 0, "rotation": [0, 0, half, half], "scale": [2, 3, 4]}
    nodes = [{"name": "above", "translation": [0, 0, 5], "children": [1]}, leaf]
    path = drawn.glb(
        tmp_path / "a.glb", nodes=nodes, scenes=[{"nodes": [0]}], scene=0,
        materials=[{"name": "cedar"}],
        meshes=[{"primitives": [{"attributes": attributes, "material": 0}]}],
    )  # fmt: skip
    mesh = read_model(path)
    assert np.allclose(mesh.positions[0], [[0, 0, 5], [0, 2, 5], [-3, 0, 5]], atol=1e-6)
    assert np.allclose(mesh.normals[0], [0, 0, 1], atol=1e-6)
    assert len(mesh.uvs) == 2 and np.array_equal(mesh.uvs[0], mesh.uvs[1])
    assert mesh.material_names == ("cedar",) and mesh.part_names == ("leaf",)


def test_a_mirrored_node_keeps_its_outside(tmp_path: Path) -> None:
    path = triangle(tmp_path / "a.glb", nodes=[{"mesh": 0, "scale": [-1, 1, 1]}])
    mesh = read_model(path)
    assert np.allclose(face_normals(mesh.positions), [[0, 0, 1]])
    assert np.allclose(mesh.normals, [0, 0, 1])
    assert "no normals" in mesh.remarks[0]


@pytest.mark.parametrize(("mode", "expected"), [
    (5, [[0, 1, 2], [2, 1, 3]]), (6, [[0, 1, 2], [0, 2, 3]]),
])  # fmt: skip
def test_strips_and_fans_become_triangles(tmp_path: Path, mode: int, expected: Any) -> None:
    drawn = Drawn()
    corners = np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0], [1, 1, 0]], dtype=np.float32)
    if mode == 6:
        corners = corners[[0, 1, 3, 2]]
    drawn.add(corners)
    primitive = {"attributes": {"POSITION": 0}, "mode": mode}
    mesh = read_model(drawn.glb(tmp_path / "a.glb", meshes=[{"primitives": [primitive]}],
                                nodes=[{"mesh": 0}]))  # fmt: skip
    assert np.array_equal(mesh.positions, corners[np.array(expected)])
    assert (face_normals(mesh.positions)[:, 2] == 1).all()


def test_sparse_places_and_strides(tmp_path: Path) -> None:
    drawn = Drawn()
    drawn.view(
        np.concatenate([TRIANGLE, np.full((3, 1), 9, np.float32)], 1).tobytes(), byteStride=16
    )
    drawn.view(np.array([2], np.uint8).tobytes())
    drawn.view(np.array([[0, 7, 0]], np.float32).tobytes())
    drawn.accessors.append({
        "bufferView": 0, "count": 3, "componentType": 5126, "type": "VEC3",
        "sparse": {"count": 1, "indices": {"bufferView": 1, "componentType": 5121},
                   "values": {"bufferView": 2}},
    })  # fmt: skip
    meshes = [{"primitives": [{"attributes": {"POSITION": 0}}]}]
    mesh = read_model(drawn.glb(tmp_path / "a.glb", nodes=[{"mesh": 0}], meshes=meshes))
    assert np.array_equal(mesh.positions[0], [[0, 0, 0], [1, 0, 0], [0, 7, 0]])


@pytest.mark.parametrize("kind", ["obj", "ply", "stl", "glb"])
def test_what_another_program_wrote(tmp_path: Path, kind: str) -> None:
    """A box written by trimesh: the same triangles come back, with UVs v down and outer normals."""
    drawn = box((1.0, 2.0, 3.0))
    corners = np.arange(drawn.count * 3).reshape(-1, 3)
    flipped = drawn.uvs[0].reshape(-1, 2) * [1, -1] + [0, 1]
    other = trimesh.Trimesh(
        drawn.positions.reshape(-1, 3), corners, process=False,
        visual=trimesh.visual.TextureVisuals(uv=flipped),
    )  # fmt: skip
    path = tmp_path / f"box.{kind}"
    path.write_bytes(_bytes(other.export(file_type=kind)))
    mesh = read_model(path)
    assert np.allclose(mesh.positions, drawn.positions, atol=1e-6)
    assert np.allclose(mesh.normals, drawn.normals, atol=1e-6)
    if kind != "stl":
        assert np.allclose(mesh.uvs[0], drawn.uvs[0], atol=1e-6)


def _bytes(data: str | bytes) -> bytes:
    return data.encode() if isinstance(data, str) else data


def test_an_obj_keeps_its_objects_and_materials(tmp_path: Path) -> None:
    path = tmp_path / "a.obj"
    path.write_text(
        "o lid\nv 0 0 0\nv 1 0 0\nv 0 1 0\nv 1 1 0\nvt 0 0\nvt 1 0\nvt 0 1\nvt 1 1\n"
        "usemtl copper\nf 1/1 2/2 4/4 3/3\no base\nusemtl cedar\nf 1/1 2/2 3/3\n"
    )
    mesh = read_model(path)
    assert mesh.count == 3 and set(mesh.part_names) == {"lid", "base"}
    assert set(mesh.material_names) == {"copper", "cedar"}
    cedar = mesh.of_material("cedar")
    assert cedar.count == 1 and np.allclose(cedar.uvs[0][0], [[0, 1], [1, 1], [0, 0]])
    with pytest.raises(MeshError, match=r"no material named tin\. It has"):
        mesh.of_material("tin")


def test_colors_of_corners_are_light(tmp_path: Path) -> None:
    path = tmp_path / "a.ply"
    path.write_text(
        "ply\nformat ascii 1.0\nelement vertex 3\nproperty float x\nproperty float y\n"
        "property float z\nproperty uchar red\nproperty uchar green\nproperty uchar blue\n"
        "element face 1\nproperty list uchar int vertex_indices\nend_header\n"
        "0 0 0 255 0 188\n1 0 0 255 0 188\n0 1 0 255 0 188\n3 0 1 2\n"
    )
    colors = read_model(path).colors
    assert colors is not None and np.allclose(colors[0, 0], [1, 0, 0.5028865], atol=1e-5)


def test_normals_that_are_missing_are_smooth_up_to_a_hard_edge() -> None:
    cube = box((1, 1, 1)).positions
    assert np.allclose(smooth_normals(cube, sharp_degrees=30),
                       np.repeat(face_normals(cube)[:, None], 3, 1), atol=1e-6)  # fmt: skip
    round_off = smooth_normals(cube)
    outwards = cube / np.linalg.norm(cube, axis=2, keepdims=True)
    assert np.allclose(round_off, outwards, atol=1e-6)  # by angles: not by how quads are cut


def _raw(document: dict[str, Any], path: Path) -> Path:
    path.write_text(json.dumps(document))
    return path


def _accessor_claims(path: Path, **claims: Any) -> Path:
    drawn = Drawn()
    drawn.add(TRIANGLE, **claims)
    return drawn.glb(path, nodes=[{"mesh": 0}],
                     meshes=[{"primitives": [{"attributes": {"POSITION": 0}}]}])  # fmt: skip


def _loop(count: int) -> list[dict[str, Any]]:
    return [{"children": [(n + 1) % count]} for n in range(count)]


def _cut(path: Path) -> Path:
    triangle(path)
    path.write_bytes(path.read_bytes()[:-10])
    return path


def _nan(path: Path) -> Path:
    wrong = TRIANGLE.copy()
    wrong[1, 1] = np.nan
    drawn = Drawn()
    drawn.add(wrong)
    return drawn.glb(path, nodes=[{"mesh": 0}],
                     meshes=[{"primitives": [{"attributes": {"POSITION": 0}}]}])  # fmt: skip


def _indices(path: Path) -> Path:
    drawn = Drawn()
    drawn.add(TRIANGLE)
    drawn.add(np.array([0, 1, 4_000_000_000], dtype=np.uint32))
    primitive = {"attributes": {"POSITION": 0}, "indices": 1}
    return drawn.glb(path, nodes=[{"mesh": 0}], meshes=[{"primitives": [primitive]}])


_BUFFER = {"uri": "../secret.bin", "byteLength": 36}
_BAD: dict[str, tuple[Any, str]] = {
    "cut.glb": (_cut, "a valid glTF file"),
    "many.glb": (lambda p: _accessor_claims(p, count=700_000_000), "exceeds its buffer"),
    "zeros.glb": (lambda p: _accessor_claims(p, bufferView=None, count=2**31), "a valid glTF"),
    "negative.glb": (lambda p: _accessor_claims(p, count=-3), "a valid glTF"),
    "beyond.glb": (_indices, "exceeds the number of vertices"),
    "nan.glb": (_nan, "1 of 1 triangles have invalid coordinates"),
    "loop.glb": (lambda p: triangle(p, nodes=_loop(50), scenes=[{"nodes": [0]}]),
                 "its own ancestor or has two"),
    "nodes.glb": (lambda p: triangle(p, nodes=[{}] * 100_001), "the limit is 100,000"),
    "empty.glb": (lambda p: triangle(p, nodes=[]), "contains no triangles"),
    "squeezed.glb": (lambda p: triangle(p, extensionsUsed=["KHR_draco_mesh_compression"]),
                     "uses Draco compression"),
    "mesh.glb": (lambda p: triangle(p, extensionsRequired=["EXT_meshopt_compression"]),
                 "uses meshopt compression"),
    "outside.gltf": (lambda p: _raw({"asset": {"version": "2.0"}, "buffers": [_BUFFER],
                                     "bufferViews": [{"buffer": 0, "byteLength": 36}],
                                     "accessors": [{"bufferView": 0, "count": 3, "type": "VEC3",
                                                    "componentType": 5126}],
                                     "nodes": [{"mesh": 0}],
                                     "meshes": [{"primitives": [{"attributes": {"POSITION": 0}}]}]},
                                    p), "which is missing"),
    "deep.gltf": (lambda p: p.write_text('{"a":' * 100_000), "glTF file|nested too deeply"),
    "list.gltf": (lambda p: p.write_text('{"nodes": 7, "scenes": [[]]}'), "a valid glTF"),
    "a.stl": (lambda p: p.write_bytes(b"\0" * 80 + struct.pack("<I", 2**31)),
              "truncated or isn't an STL"),
    "text.stl": (lambda p: p.write_text("solid nothing\nfacet normal a b c\nendsolid"),
                 "STL|triangles"),
    "claims.ply": (lambda p: p.write_bytes(
        b"ply\nformat binary_little_endian 1.0\nelement vertex 2000000000\nproperty float x\n"
        b"property float y\nproperty float z\nelement face 1\n"
        b"property list uchar int vertex_indices\nend_header\n" + bytes(64)),
        "a valid PLY|triangles"),
    "points.obj": (lambda p: p.write_text("v 0 0 0\nv 1 0 0\n"), "contains no triangles"),
    "wild.obj": (lambda p: p.write_text("v 0 0 0\nf 1 2 99999999\n"), "OBJ|missing|triangles"),
    "back.obj": (lambda p: p.write_text("v 0 0 0\nv 1 0 0\nv 0 1 0\nf -3 -2 -1\n"),
                 "negative vertex indices"),
    "letter.txt": (lambda p: p.write_text("Dear Sir"), "isn't a supported model format"),
    "picture.obj": (lambda p: p.write_bytes(b"\x89PNG\r\n\x1a\n\0\0"), "isn't a supported model"),
}  # fmt: skip


@pytest.mark.parametrize("name", _BAD)
def test_bad_files_are_refused_by_name(tmp_path: Path, name: str) -> None:
    make, said = _BAD[name]
    path = tmp_path / name
    make(path)
    (tmp_path.parent / "secret.bin").write_bytes(bytes(36))
    with pytest.raises(MeshError, match=said) as refused:
        read_model(path)
    assert name in refused.value.message


def test_limits_are_kept(tmp_path: Path) -> None:
    path = triangle(tmp_path / "a.glb")
    with pytest.raises(MeshError, match=r"more than 0 triangles.*SIEVE_MAX_TRIANGLES"):
        read_model(path, ModelLimits(max_triangles=0))
    with pytest.raises(MeshError, match=r"the limit is 0 MB.*SIEVE_MAX_MODEL_BYTES"):
        read_model(path, ModelLimits(max_bytes=10))
    with pytest.raises(MeshError, match="doesn't exist"):
        read_model(tmp_path / "none.glb")


def test_buffers_beside_the_file_and_inside_it_as_text(tmp_path: Path) -> None:
    drawn = Drawn()
    drawn.add(TRIANGLE)
    parts = {"nodes": [{"mesh": 0}], "meshes": [{"primitives": [{"attributes": {"POSITION": 0}}]}]}
    text = base64.b64encode(drawn.blob).decode()
    (tmp_path / "a b.bin").write_bytes(drawn.blob)
    for n, uri in enumerate([f"data:application/octet-stream;base64,{text}", "a%20b.bin"]):
        document = drawn.document(**parts)
        document["buffers"][0]["uri"] = uri
        mesh = read_model(_raw(document, tmp_path / f"{n}.gltf"))
        assert np.array_equal(mesh.positions[0], TRIANGLE)
    assert write_glb(tmp_path / "c.glb", drawn.document(**parts), drawn.blob).stat().st_size > 0


def test_a_mesh_that_many_nodes_place_is_read_once_with_progress(tmp_path: Path) -> None:
    count = 3000
    nodes = [{"mesh": 0, "translation": [n, 0, 0], "name": f"pile {n}"} for n in range(count)]
    path = triangle(tmp_path / "a.glb", nodes=nodes)
    told: list[float] = []
    begun = time.monotonic()
    mesh = read_model(path, on_progress=told.append)
    assert len(mesh.part_names) == count
    assert mesh.positions[-1, 0, 0] - mesh.positions[0, 0, 0] == pytest.approx(count - 1)
    assert told == sorted(told)
    assert 0 < max(told) < 1
    assert time.monotonic() - begun < 10  # it grew with the square of the nodes
