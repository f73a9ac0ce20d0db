"""./sieve bake as a stranger calls it."""

from __future__ import annotations

import json
from dataclasses import replace
from pathlib import Path

import cv2
import numpy as np
import pytest
import trimesh

import copper_sieve as cs
from copper_sieve.core.mesh.mesh import Mesh, join_meshes
from tests.cli.calling import refused, sieve
from tests.core.mesh.solids import ball, box, floor


def written(mesh: Mesh, path: Path, material: str = "material_1") -> Path:
    """The model as a file of another program."""
    named = trimesh.visual.material.PBRMaterial(name=material)
    uv = mesh.uvs[0].reshape(-1, 2) * [1, -1] + [0, 1]
    other = trimesh.Trimesh(
        mesh.positions.reshape(-1, 3), np.arange(mesh.count * 3).reshape(-1, 3), process=False,
        vertex_normals=mesh.normals.reshape(-1, 3),
        visual=trimesh.visual.TextureVisuals(uv=uv, material=named),
    )  # fmt: skip
    path.write_bytes(other.export(file_type="glb", include_normals=True))
    return path


def test_maps_of_one_model(tmp_path: Path) -> None:
    model, out = written(box((1, 0.6, 0.8)), tmp_path / "Tea box.glb"), tmp_path / "out"
    maps = ("--maps", "ambient_occlusion,curvature", "--maps", "position")
    quick = ("--size", 64, "--rays", 16, "--samples", 1)
    done = sieve("bake", model, *maps, *quick, "--ground", "--out", out, "--json")
    assert done.returncode == 0, done.stderr
    facts = json.loads(done.stdout)
    assert facts["rays"] == 16 * facts["samples"] and facts["misses"] == 0
    assert facts["tangents"] == "MikkTSpace" and 0.8 < facts["covered"] < 1
    names = {"Tea_box_ambient_occlusion.png": "uint8", "Tea_box_curvature.png": "uint8",
             "Tea_box_position.png": "uint16"}  # fmt: skip
    assert {path.name for path in out.iterdir()} == set(names)
    for name, depth in names.items():
        codes = cv2.imread(str(out / name), cv2.IMREAD_UNCHANGED)
        assert codes.shape[:2] == (64, 64) and codes.dtype == depth


def test_relief_of_a_detailed_model_both_greens(tmp_path: Path) -> None:
    low = written(ball(0.5, rings=12), tmp_path / "low.glb")
    swell = ball(0.5, rings=60, swell=lambda u, v: 0.02 * np.sin(8 * np.pi * u) * np.sin(np.pi * v))
    high = written(swell, tmp_path / "high.glb")
    words = ("bake", low, "--detailed", high, "--maps", "normal,height", "--size", 64, "--json")
    up = json.loads(sieve(*words, "--out", tmp_path / "up").stdout)
    down = sieve(*words, "--out", tmp_path / "down", "--normal-y", "down", "--cage", "0.05")
    assert 0.03 < up["height_range"] < 0.1 and up["cage_distance"] > 0.02
    assert json.loads(down.stdout)["cage_distance"] == 0.05
    codes = [cv2.imread(str(tmp_path / way / "low_normal.png"), cv2.IMREAD_UNCHANGED)
             for way in ("up", "down")]  # fmt: skip
    assert codes[0].dtype == np.uint16
    assert np.abs(codes[0][:, :, 1].astype(int) + codes[1][:, :, 1] - 65535).max() <= 600
    assert np.abs(codes[0][:, :, 2].astype(int) - codes[1][:, :, 2]).max() <= 600


def test_misses_are_a_picture_and_a_sentence(tmp_path: Path) -> None:
    low = written(floor(1.0), tmp_path / "low.glb")
    high = written(floor(0.5), tmp_path / "high.glb")
    done = sieve("bake", low, "--detailed", high, "--maps", "height", "--size", 32, "--samples", 1,
                 "--out", tmp_path / "out")  # fmt: skip
    assert (
        "768 of 1,024 rays missed the high-poly model (75.0%). Increase the cage distance"
        in done.stderr
    )
    missed = cv2.imread(str(tmp_path / "out" / "low_missed.png"), cv2.IMREAD_UNCHANGED)
    assert (missed == 255).sum() == 768 and missed[16, 16] == 0


def test_a_material_alone_is_drawn_and_all_of_them_shade(tmp_path: Path) -> None:
    path = tmp_path / "two.obj"
    path.write_text(
        "o base\nv -1 0 -1\nv 1 0 -1\nv 1 0 1\nv -1 0 1\nv -1 .5 -1\nv 1 .5 -1\nv 1 .5 1\n"
        "v -1 .5 1\nvt 0 0\nvt 1 0\nvt 1 1\nvt 0 1\nusemtl cedar\nf 1/1 4/4 3/3 2/2\n"
        "o roof\nusemtl copper\nf 5/1 8/4 7/3 6/2\n"
    )
    for material, least, most in (("cedar", 0, 0.6), ("copper", 1, 1)):
        done = cs.bake(path, ["ambient_occlusion"], material=material,
                       options=cs.BakeOptions(32, 32, rays=256))  # fmt: skip
        shade = done.baked.maps["ambient_occlusion"]
        assert least <= shade.min() and shade.mean() <= most
        assert "the file has no normals" in done.remarks[0]


def test_what_it_refuses(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    model = written(box((1, 1, 1)), tmp_path / "box.glb")
    out = ("--out", tmp_path / "out")
    assert "bake requires --maps" in refused(capsys, "bake", model, *out)
    said = refused(capsys, "bake", model, "--maps", "wear", *out)
    assert "unknown map wear. Maps that can be baked: ambient_occlusion" in said
    assert "normal requires a high-poly model" in refused(
        capsys, "bake", model, "--maps", "normal", *out
    )
    assert "has no material named tin" in refused(
        capsys, "bake", model, "--maps", "position", "--material", "tin", *out
    )
    assert "a cage requires a high-poly model" in refused(
        capsys, "bake", model, "--maps", "position", "--cage", "0.1", *out
    )
    (tmp_path / "cut.glb").write_bytes(model.read_bytes()[:-40])
    said = refused(capsys, "bake", tmp_path / "cut.glb", "--maps", "position", *out)
    assert "cut.glb isn't a valid glTF file" in said
    bare = written(replace(box((1, 1, 1)), uvs=(np.full((12, 3, 2), 7, np.float32),)),
                   tmp_path / "bare.glb")  # fmt: skip
    assert "no UVs in tile 0, 0" in refused(capsys, "bake", bare, "--maps", "position", *out)
    assert not (tmp_path / "out").exists()


def test_the_list_says_what_there_is() -> None:
    listed = json.loads(sieve("bake", "--list", "--json").stdout)["maps"]
    assert listed["height"]["requires_high_poly"] and not listed["curvature"]["requires_high_poly"]
    assert "ambient_occlusion: share of the sky" in sieve("bake", "--list").stdout


def test_inspect_tells_a_model_and_its_uvs(tmp_path: Path) -> None:
    mesh = join_meshes(
        [floor(1.0, uv=(0, 0, 0.5, 1)), floor(1.0, uv=(0.7, 0, -0.4, 1), height=1.0)]
    )
    model = written(mesh, tmp_path / "two.glb")
    told = json.loads(sieve("inspect", model, "--json").stdout)["models"][0]
    assert told["triangles"] == 4 and told["size_metres"] == [1, 1, 1]
    facts = {one["rule"]: one["weight"] for one in told["uv_sets"][0]["facts"]}
    assert facts == {"overlaps": "warning", "mirrored": "info", "gaps": "warning"}
    assert told["uv_sets"][0]["islands"] == 2
    shown = sieve("inspect", model)
    assert shown.returncode == 0 and "UV set 0, material_1: 2 island(s), 90% used" in shown.stdout
    (tmp_path / "cut.stl").write_bytes(b"nothing")
    assert "cut.stl is truncated" in sieve("inspect", tmp_path / "cut.stl").stderr


def test_tiles_have_files_of_their_own_and_one_range(tmp_path: Path) -> None:
    """Two squares in the tiles 1001 and 1012; the detail lies 1 mm and 3 mm above them."""
    low = join_meshes([floor(1.0), floor(1.0, uv=(1, -1, 1, 1), height=1.0)])
    high = join_meshes([floor(1.0, height=0.001), floor(1.0, height=1.003)])
    model, fine = written(low, tmp_path / "low.glb"), written(high, tmp_path / "high.glb")
    words = ("bake", model, "--detailed", fine, "--maps", "height", "--size", 16, "--cage", "0.01",
             "--out", tmp_path / "out", "--json")  # fmt: skip
    facts = json.loads(sieve(*words, "--tiles", "all").stdout)
    assert set(facts["files"]) == {"height.1001", "height.1012"}
    assert abs(facts["height_range"] - 0.006) < 1e-5
    for tile, metres in ((1001, 0.001), (1012, 0.003)):
        codes = cv2.imread(str(tmp_path / "out" / f"low_height.{tile}.png"), cv2.IMREAD_UNCHANGED)
        assert np.abs((codes / 65535 - 0.5) * 0.006 - metres).max() < 1e-5
    one = json.loads(sieve(*words, "--tiles", "1012").stdout)
    assert set(one["files"]) == {"height.1012"}
    for tiles, said in (("1,x", "or tile numbers such as"), ("7", "7 isn't a tile number"),
                        ("1002", "no UVs in tile 1, 0")):  # fmt: skip
        wrong = sieve(*words, "--tiles", tiles)
        assert wrong.returncode == 2 and said in wrong.stderr
