"""./sieve make --model: textures are padded beyond the islands of the model that they are for."""

from __future__ import annotations

import json
from pathlib import Path

import cv2
import numpy as np
import pytest

import copper_sieve as cs
from copper_sieve.core.codecs.gltf_textures import gltf_textures
from copper_sieve.core.codecs.meshes.reading import read_model
from copper_sieve.core.mesh.mesh import Mesh
from tests.cli.calling import refused, sieve
from tests.cli.test_bake import written
from tests.core.mesh.solids import floor

_SIDE = 64


@pytest.fixture
def photo(tmp_path: Path) -> Path:
    """Every column and row of its own color, so that it is seen where a texel comes from."""
    codes = np.zeros((_SIDE, _SIDE, 3), dtype=np.uint8)
    codes[:, :, 2] = 4 * np.arange(_SIDE)
    codes[:, :, 1] = 255 - 4 * np.arange(_SIDE)[:, None]
    cv2.imwrite(str(tmp_path / "kettle.png"), codes)
    return tmp_path / "kettle.png"


@pytest.fixture
def model(tmp_path: Path) -> Path:
    """One island over the texels 8 to 39 across and 16 to 47 down."""
    return written(floor(1.0, uv=(8 / 64, 16 / 64, 32 / 64, 32 / 64)), tmp_path / "k.glb")


def base_color(folder: Path) -> np.ndarray:
    name = next(folder.glob("*base*color*.png"))
    return cv2.imread(str(name), cv2.IMREAD_UNCHANGED)


def test_all_grows_from_the_islands(photo: Path, model: Path, tmp_path: Path) -> None:
    words = ("make", photo, "--target", "separate-png", "--wrap", "no", "--json")
    plain = json.loads(sieve(*words, "--out", tmp_path / "plain").stdout)
    done = sieve(*words, "--model", model, "--out", tmp_path / "out")
    assert done.returncode == 0, done.stderr
    told = json.loads(done.stdout)["targets"][0]
    assert "padded beyond the UV islands of k.glb, to the border" in " ".join(told["remarks"])
    assert "padded" not in " ".join(plain["targets"][0]["remarks"])
    before = base_color(tmp_path / "plain" / "separate-png")
    after = base_color(tmp_path / "out" / "separate-png")
    rows, columns = np.mgrid[:_SIDE, :_SIDE]
    expected = before[np.clip(rows, 16, 47), np.clip(columns, 8, 39)]
    assert np.array_equal(after, expected)  # the nearest covered texel of a rectangle
    again = json.loads(sieve(*words, "--model", model, "--out", tmp_path / "out").stdout)
    assert again["targets"][0]["written"] == 0
    other = written(floor(1.0, uv=(0, 0, 0.5, 1)), tmp_path / "k.glb")
    third = json.loads(sieve(*words, "--model", other, "--out", tmp_path / "out").stdout)
    assert third["targets"][0]["written"] > 0  # other islands, other files


def test_smaller_files_take_nothing_from_between_islands(
    photo: Path, model: Path, tmp_path: Path
) -> None:
    codes = np.full((_SIDE, _SIDE, 3), (250, 240, 5), dtype=np.uint8)
    codes[16:48, 8:40] = (10, 20, 200)
    cv2.imwrite(str(photo), codes)
    cs.MapSet.from_files(photo, wrap=False).for_model(model).deliver(
        "separate-png", tmp_path / "small", 8
    )
    found = base_color(tmp_path / "small").astype(int)
    assert found.shape[:2] == (8, 8) and np.abs(found - (10, 20, 200)).max() <= 1


def test_opacity_and_islands_together(photo: Path, model: Path, tmp_path: Path) -> None:
    """A hole in the island is filled from what is opaque on it."""
    mask = np.full((_SIDE, _SIDE), 255, np.uint8)
    mask[:, 24:] = 0
    cv2.imwrite(str(photo.with_name("kettle_opacity.png")), mask)
    whole = cs.MapSet.from_files(photo, photo.with_name("kettle_opacity.png"), wrap=False)
    whole = whole.for_model(model)
    plan = whole.plan("separate-png")
    said = " ".join(one.text for one in plan.remarks)
    assert "padded beyond the UV islands of k.glb and the opacity" in said
    whole.deliver(plan, tmp_path / "out")
    found, before = base_color(tmp_path / "out")[:, :, :3], cv2.imread(str(photo))
    rows, columns = np.mgrid[:_SIDE, :_SIDE]
    assert np.array_equal(found, before[np.clip(rows, 16, 47), np.clip(columns, 8, 23)])


def _with_materials(path: Path, meshes: dict[str, Mesh]) -> Path:
    lines, n = [], 0
    for name, mesh in meshes.items():
        lines.append(f"usemtl {name}")
        for corners, uvs in zip(mesh.positions, mesh.uvs[0], strict=True):
            for (x, y, z), (u, v) in zip(corners, uvs, strict=True):
                lines += [f"v {x} {y} {z}", f"vt {u} {1 - v}"]
            lines.append(f"f {n + 1}/{n + 1} {n + 2}/{n + 2} {n + 3}/{n + 3}")
            n += 3
    path.write_text("\n".join(lines))
    return path


def test_each_set_of_many_has_its_material(photo: Path, tmp_path: Path) -> None:
    halves = {"kettle": floor(1.0, uv=(0, 0, 0.5, 1)), "handle": floor(1.0, uv=(0.5, 0, 0.5, 1))}
    model = _with_materials(tmp_path / "two.obj", halves)
    folder = tmp_path / "in"
    folder.mkdir()
    for name in ("kettle", "handle", "floor"):
        (folder / f"{name}.png").write_bytes(photo.read_bytes())
    words = ("make", folder, "--target", "separate-png", "--model", model, "--wrap", "no",
             "--out", tmp_path / "out", "--json")  # fmt: skip
    made = json.loads(sieve(*words).stdout)
    assert made["ok"]
    notes = {one["name"]: " ".join(one["notes"]) for one in made["sets"]}
    assert "the UV islands of kettle" in notes["kettle"] and "all of them" in notes["floor"]
    before = cv2.imread(str(photo))
    for name, edge, far in (("kettle", 31, -1), ("handle", 32, 0)):
        found = base_color(tmp_path / "out" / "separate-png" / name)
        assert np.array_equal(found[:, far], before[:, edge])
    assert json.loads(sieve(*words).stdout)["counts"]["same"] == 3


def test_what_it_refuses(
    photo: Path, model: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    words = ("make", photo, "--target", "separate-png", "--out", tmp_path / "out", "--model")
    assert "no material named tin. It has" in refused(capsys, *words, model, "--material", "tin")
    assert "doesn't exist" in refused(capsys, *words, tmp_path / "none.glb")
    assert "1 UV set(s). Unwrap it" in refused(capsys, *words, model, "--uv", "1")
    empty = written(floor(1.0, uv=(5, 5, 1, 1)), tmp_path / "far.glb")
    assert "there are no UVs in the range from 0 to 1" in refused(capsys, *words, empty)
    assert not (tmp_path / "out").exists()


def test_delivered_textures_go_into_the_model(photo: Path, model: Path, tmp_path: Path) -> None:
    out = ("--out", tmp_path / "build", "--wrap", "no")
    assert sieve("make", photo, "--target", "gltf-metal-rough", *out).returncode == 0
    folder, dressed = tmp_path / "build" / "gltf-metal-rough", tmp_path / "dressed.glb"
    named = read_model(model).material_names[0]
    done = sieve("attach", model, f"{named}={folder}", "--out", dressed, "--json")
    assert done.returncode == 0, done.stderr
    assert json.loads(done.stdout) == {"out": str(dressed), "remarks": []}
    held = {one.name for one in gltf_textures(dressed)}
    assert any("base_color" in name for name in held) and len(held) >= 3
    wrong = sieve("attach", model, folder, "--out", tmp_path / "none.glb")
    assert (
        wrong.returncode == 2 and f"has no material named kettle. It has: {named}" in wrong.stderr
    )
    assert not (tmp_path / "none.glb").exists()
