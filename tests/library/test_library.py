"""The library as a script uses it: what it gives is what the command line writes."""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

import copper_sieve as cs
from copper_sieve import library
from copper_sieve.cli.command_line import main
from tests.conftest import MakePhoto


@pytest.fixture
def photo(make_photo: MakePhoto) -> Path:
    return make_photo("old_wall.png", size=(96, 64), seed=3)


def test_its_names_are_those_of_the_package_and_each_is_documented() -> None:
    assert cs.__all__ == library.__all__
    assert all(getattr(cs, name).__doc__ for name in cs.__all__)
    with pytest.raises(AttributeError, match="no attribute 'unknown'"):
        cs.unknown  # noqa: B018


def test_importing_it_loads_nothing() -> None:
    code = (
        "import sys, copper_sieve; print(sorted({'numpy', 'pydantic', 'cv2'} & set(sys.modules)))"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert done.stdout.strip() == "[]"


def test_a_photo_is_made_into_the_files_that_the_command_makes(photo: Path, tmp_path: Path) -> None:
    delivered = cs.make(photo, targets=["orm-y-down"], out=tmp_path / "a")["orm-y-down"]
    assert delivered.assay.ok
    assert cs.assay(tmp_path / "a" / "orm-y-down").ok
    assert main(["make", str(photo), "--target", "orm-y-down", "--out", str(tmp_path / "b")]) == 0
    ours, theirs = (
        {p.name: p.read_bytes() for p in (tmp_path / name / "orm-y-down").iterdir()}
        for name in "ab"
    )
    assert ours == theirs
    assert "T_old_wall_ORM.tga" in ours


def test_a_set_is_changed_into_another_and_stays_itself(photo: Path) -> None:
    wall = cs.MapSet.from_files(photo, wrap=False)
    assert (wall.name, wall.size, wall.kinds[0]) == ("old_wall", (96, 64), "base_color")
    flat = wall.with_parameters("height", contrast=0).with_surface(depth=0.01)
    metal = flat.with_value("metallic", 1.0)
    assert metal.map("metallic").pixels.max() == 1
    assert flat.map("metallic").pixels.max() < 1
    assert np.ptp(flat.map("height").pixels) < 1e-3 < np.ptp(wall.map("height").pixels)
    inked = wall.with_derived("roughness", "roughness_from_color", variation=0)
    assert np.ptp(inked.map("roughness").pixels) < np.ptp(wall.map("roughness").pixels)
    assert wall.map("normal", 48).pixels.shape == (32, 48, 3)
    with pytest.raises(cs.SieveError, match="sparkle"):
        wall.with_parameters("height", sparkle=1)
    with pytest.raises(cs.SieveError, match="tile_size in meters"):
        wall.with_surface(tile_size=-1)
    with pytest.raises(cs.SieveError, match="no map type shine"):
        wall.map("shine")


def test_tiles_with_the_same_content_are_two_tiles(photo: Path, tmp_path: Path) -> None:
    tiles = [tmp_path / f"quay_color.{number}.png" for number in (1001, 1002)]
    for tile in tiles:
        tile.write_bytes(photo.read_bytes())
    quay = cs.MapSet.from_files(*tiles)
    assert (quay.name, quay.size) == ("quay", (192, 64))


def test_one_map_is_derived_and_written(photo: Path, tmp_path: Path) -> None:
    made = cs.derive(photo, "normal", normal_y="down", parameters={"height.detail": 0.5}, wrap=True)
    assert np.allclose(np.linalg.norm(made.raster.pixels, axis=2), 1, atol=1e-3)
    path = tmp_path / "n.png"
    cs.write_picture(path, made.picture(16))
    by_command = tmp_path / "c.png"
    words = ["--from", "color", "--to", "normal", "--normal-y", "down", "--wrap", "yes"]
    words += ["--param", "height.detail=0.5", "--bits", "16", "--out", str(by_command)]
    assert main(["derive", str(photo), *words]) == 0
    np.testing.assert_array_equal(cs.read_picture(path).codes, cs.read_picture(by_command).codes)


def test_channels_are_packed_and_split_code_for_code(tmp_path: Path) -> None:
    rng = np.random.default_rng(2)
    grey, color = rng.integers(0, 256, (4, 6), np.uint8), rng.integers(0, 256, (4, 6, 3), np.uint8)
    Image.fromarray(grey).save(tmp_path / "ao.png")
    Image.fromarray(color).save(tmp_path / "color.png")
    green = cs.channel(tmp_path / "color.png", "G", invert=True)
    packed = cs.pack(R=tmp_path / "ao.png", G=green, B=0.0)
    np.testing.assert_array_equal(packed.codes[:, :, 0], grey)
    np.testing.assert_array_equal(packed.codes[:, :, 1], 255 - color[:, :, 1])
    cs.write_picture(tmp_path / "orm.tga", packed)
    parts = cs.split(tmp_path / "orm.tga")
    np.testing.assert_array_equal(parts["R"].codes[:, :, 0], grey)
    assert not parts["B"].codes.any()
    with pytest.raises(cs.SieveError, match="in color"):
        cs.pack(R=tmp_path / "color.png")


def test_a_rule_converts_and_a_file_is_recognized(tmp_path: Path) -> None:
    codes = np.arange(24, dtype=np.uint8).reshape(4, 6)
    Image.fromarray(codes).save(tmp_path / "pot_gloss.png")
    made = cs.convert("gloss-to-rough", tmp_path / "pot_gloss.png")
    assert (made.set_name, list(made.pictures)) == ("pot", ["roughness"])
    np.testing.assert_array_equal(made.pictures["roughness"].codes[:, :, 0], 255 - codes)
    seen = cs.inspect(tmp_path / "pot_gloss.png")
    assert (seen.spec.width, seen.recognition.kind) == (6, "glossiness")
    assert "gloss-to-rough" in cs.rules()
    assert "height_from_color" in cs.operations()
    assert "gltf-metal-rough" in cs.targets()
    (tmp_path / "letter.png").write_text("no picture")
    with pytest.raises(cs.PictureError, match=r"letter\.png isn't a supported picture"):
        cs.read_picture(tmp_path / "letter.png")


def test_what_is_guessed_is_noted_with_what_says_otherwise(photo: Path, tmp_path: Path) -> None:
    slopes = np.random.default_rng(7).integers(100, 156, (32, 32, 3), np.uint8)
    slopes[:, :, 2] = 250  # noise: nothing tells which way its green grows
    Image.fromarray(slopes).save(tmp_path / "old_wall_normal.png")
    guessed = cs.MapSet.from_files(photo, tmp_path / "old_wall_normal.png")
    note = next(one for one in guessed.notes if one.stated_by == "normal_y")
    assert str(note).endswith("; normal_y= overrides this")
    stated = cs.MapSet.from_maps(
        {"base_color": photo, "normal": tmp_path / "old_wall_normal.png"}, normal_y="down"
    )
    assert not [one for one in stated.notes if one.stated_by == "normal_y"]


@pytest.mark.parametrize(
    ("kind", "values", "message"),
    [
        ("base_color", (0.5, 0.5), "Base color: 2 values are given. Give 3 numbers"),
        ("roughness", (0.5, 0.5, 0.5), "Roughness: 3 values are given. Give one number"),
        ("metallic", (float("nan"),), "Metallic: (nan,) isn't valid. Give finite numbers"),
        ("metallic", ((0.5, 0.5),), "Metallic: ((0.5, 0.5),) isn't valid. Give finite numbers"),
        ("sheens", (0.5,), "there is no map type sheens"),
    ],
)
def test_constants_that_do_not_fit_are_errors_of_the_library(
    photo: Path, kind: str, values: tuple[float, ...], message: str
) -> None:
    made = cs.MapSet.from_files(photo)
    with pytest.raises(cs.SieveError) as caught:
        made.with_value(kind, *values)
    assert caught.value.message.startswith(message)


def test_a_green_direction_that_is_none_is_an_error_of_the_library(photo: Path) -> None:
    made = cs.MapSet.from_files(photo)
    for call in (
        lambda: cs.derive(photo, "normal", normal_y="left"),
        lambda: cs.MapSet.from_files(photo, normal_y="left"),
        lambda: made.picture("roughness", 16, normal_y="left"),
        lambda: cs.measure(["missing.jpg"] * 3, "unknown", normal_y="left"),
        lambda: cs.bake("missing.glb", ["curvature"], normal_y="left"),
    ):
        with pytest.raises(cs.SieveError, match='Use "up" or "down"'):
            call()
