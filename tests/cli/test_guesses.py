"""What the command line guesses, it tells; what it was told, it does; it replaces no other set."""

from __future__ import annotations

import json
from pathlib import Path

import cv2
import numpy as np
import pytest
from PIL import Image

from copper_sieve.cli.__main__ import main
from copper_sieve.core.codecs import write_picture
from copper_sieve.core.image.raster import Encoding, Picture
from tests.cli.calling import sieve as call
from tests.conftest import MakePhoto
from tests.core.recognition.maps import blended, encoded, normals, relief

SIDE = 256


def png(path: Path, codes: np.ndarray) -> Path:
    codes = codes[:, :, None] if codes.ndim == 2 else codes
    names = ("Y",) if codes.shape[2] == 1 else tuple("RGB")
    write_picture(path, Picture(codes, names, Encoding.LINEAR), "png")
    return path


def read(path: Path) -> np.ndarray:
    codes = cv2.imread(str(path), cv2.IMREAD_UNCHANGED)[:, :, ::-1]
    return codes.astype(int) // (257 if codes.dtype == np.uint16 else 1)


def normal_of(folder: Path) -> np.ndarray:
    (path,) = folder.rglob("*_normal.png")
    return read(path)


@pytest.fixture
def down(tmp_path: Path) -> Path:
    """A normal map with green downwards and a name that says nothing of it."""
    return png(tmp_path / "wall_n.png", encoded(normals(relief("stones", 4, SIDE), 0.5, down=True)))


def test_derive_measures_a_normal_map_that_nobody_told_it_of(down: Path, tmp_path: Path) -> None:
    upright = png(tmp_path / "u.png", encoded(normals(relief("stones", 4, SIDE), 0.5, down=False)))
    made = []
    for path in (down, upright):
        out = tmp_path / f"{path.stem}_h.png"
        done = call("derive", path, "--from", "normal", "--to", "height", "--out", out)
        assert done.returncode == 0, done.stderr
        made.append(cv2.imread(str(out), cv2.IMREAD_UNCHANGED).astype(float))
    assert np.corrcoef(made[0].ravel(), made[1].ravel())[0, 1] > 0.99
    stated = tmp_path / "stated.png"
    call("derive", down, "--from", "normal", "--to", "height", "--normal-y", "up", "--out", stated)
    wrong = cv2.imread(str(stated), cv2.IMREAD_UNCHANGED).astype(float)
    assert np.corrcoef(made[0].ravel(), wrong.ravel())[0, 1] < 0.9


def test_a_mixed_normal_map_is_taken_as_most_of_it_is_and_that_is_told(
    make_photo: MakePhoto, tmp_path: Path
) -> None:
    base = normals(relief("stones", 5, SIDE), 0.6, down=True)
    detail = normals(relief("pebbles", 6, SIDE), 0.25, down=False)
    mixed = png(tmp_path / "wall_n.png", encoded(blended(base, detail)))
    photo = make_photo("wall.png", (SIDE, SIDE), seed=7)
    done = call("make", photo, mixed, "--target", "separate-png", "--out", tmp_path / "o", "--json")
    assert done.returncode == 0, done.stderr
    (remark,) = [one for one in json.loads(done.stdout)["remarks"] if "green" in one]
    assert "wall_n.png: green is read as Y−" in remark
    assert f"sieve: {remark}" in done.stderr
    flipped = read(mixed)
    flipped[:, :, 1] = 255 - flipped[:, :, 1]
    np.testing.assert_allclose(normal_of(tmp_path / "o"), flipped, atol=2)


def test_a_name_that_says_the_direction_outweighs_a_mixed_one(
    make_photo: MakePhoto, tmp_path: Path
) -> None:
    base = normals(relief("stones", 5, SIDE), 0.6, down=True)
    detail = normals(relief("pebbles", 6, SIDE), 0.25, down=False)
    named = png(tmp_path / "wall_normal_gl.png", encoded(blended(base, detail)))
    photo = make_photo("wall.png", (SIDE, SIDE), seed=7)
    call("make", photo, named, "--target", "separate-png", "--out", tmp_path / "o", "--json")
    np.testing.assert_allclose(normal_of(tmp_path / "o"), read(named), atol=2)


def test_make_takes_a_stated_direction(down: Path, make_photo: MakePhoto, tmp_path: Path) -> None:
    photo = make_photo("wall.png", (SIDE, SIDE), seed=7)
    for word in ("up", "down"):
        out = tmp_path / word
        call("make", photo, down, "--target", "separate-png", "--normal-y", word, "--out", out)
    np.testing.assert_allclose(normal_of(tmp_path / "up"), read(down), atol=2)
    assert np.abs(normal_of(tmp_path / "down") - read(down))[:, :, 1].max() > 20


def test_diffuse_specular_and_gloss_are_a_specular_set(
    make_photo: MakePhoto, tmp_path: Path
) -> None:
    photo = make_photo("ladle_diff.png", (64, 64), seed=8)
    specular = np.full((64, 64, 3), (200, 160, 90), np.uint8)  # a metal's
    more = [png(tmp_path / "ladle_spec.png", specular),
            png(tmp_path / "ladle_gloss.png", np.full((64, 64), 180, np.uint8))]  # fmt: skip
    done = call("make", photo, *more, "--target", "separate-png", "--out", tmp_path / "o", "--json")
    assert done.returncode == 0, done.stderr
    told = json.loads(done.stdout)
    assert set(told["maps_from"]) == {"diffuse", "specular_color", "glossiness"}
    assert any("ladle_diff.png: used as diffuse" in one for one in told["remarks"])
    (metallic,) = (tmp_path / "o").rglob("*_metallic.png")
    assert cv2.imread(str(metallic), cv2.IMREAD_UNCHANGED).mean() > 100


def test_tiles_of_a_material_replace_nothing(make_photo: MakePhoto, tmp_path: Path) -> None:
    out = tmp_path / "o"
    for tile in (1001, 1002):
        photo = make_photo(f"hull_BaseColor.{tile}.png", (64, 64), seed=tile)
        done = call("make", photo, "--target", "separate-png", "--out", out)
        assert done.returncode == 0, done.stderr
    folders = sorted(path.parent.name for path in out.rglob("manifest.json"))
    assert folders == ["hull_1001", "hull_1002"]


@pytest.mark.parametrize("word", ["_BaseColor", ""])
def test_tiles_given_together_are_one_set(make_photo: MakePhoto, tmp_path: Path, word: str) -> None:
    """Also where nothing says which map they are: photos of the tiles' surface."""
    photos = [make_photo(f"hull{word}.{tile}.png", (64, 64), seed=tile) for tile in (1001, 1011)]
    done = call("make", *photos, "--target", "orm-y-down", "--out", tmp_path / "o", "--json")
    assert done.returncode == 0, done.stderr
    told = json.loads(done.stdout)
    assert told["set"] == "hull" and told["assay"]["ok"]
    tiles = {one["name"]: one["tile"] for one in told["files"]}
    assert sorted(tiles.values()) == [1001] * 3 + [1011] * 3
    assert (tmp_path / "o" / "orm-y-down" / "T_hull_BC.1011.tga").is_file()
    plain = make_photo(f"hull{word or '_color'}.png", (64, 64), seed=3)
    for order in ([plain, *photos], [*photos, plain]):
        mixed = call("make", *order, "--target", "orm-y-down", "--out", tmp_path / "x")
        assert mixed.returncode == 2 and "map already. Give only one" in mixed.stderr
    plain.unlink()
    many = call("make", tmp_path, "--target", "orm-y-down", "--out", tmp_path / "m", "--json")
    assert many.returncode == 0, many.stderr
    assert [one["name"] for one in json.loads(many.stdout)["sets"]] == ["hull"]


def test_another_set_is_not_replaced(make_photo: MakePhoto, tmp_path: Path) -> None:
    out = tmp_path / "o"
    first, second = (make_photo(f"{name}.png", (64, 64), seed=9) for name in ("one", "two"))
    assert call("make", first, "--target", "separate-png", "--out", out).returncode == 0
    before = {path: path.read_bytes() for path in out.rglob("*") if path.is_file()}
    refused = call("make", second, "--target", "separate-png", "--out", out)
    assert refused.returncode == 2
    assert "contains the set one, and two would replace it" in refused.stderr
    assert {path: path.read_bytes() for path in out.rglob("*") if path.is_file()} == before
    assert call("make", first, "--target", "separate-png", "--out", out).returncode == 0


def test_a_map_of_another_shape_is_told(make_photo: MakePhoto, tmp_path: Path) -> None:
    photo = make_photo("wall.png", (64, 64), seed=10)
    occlusion = png(tmp_path / "wall_ao.png", np.full((32, 64), 200, np.uint8))
    done = call(
        "make", photo, occlusion, "--target", "orm-y-down", "--out", tmp_path / "o", "--json"
    )
    remarks = json.loads(done.stdout)["targets"][0]["remarks"]
    assert any("occlusion has another aspect ratio (64 x 32)" in one for one in remarks)


def test_a_map_that_the_target_does_not_take_is_told(make_photo: MakePhoto, tmp_path: Path) -> None:
    photo = make_photo("leaf.png", (64, 64), seed=11)
    opacity = png(tmp_path / "leaf_opacity.png", photo_mask())
    done = call("make", photo, opacity, "--target", "orm-y-down", "--out", tmp_path / "o", "--json")
    remarks = json.loads(done.stdout)["targets"][0]["remarks"]
    assert any("has no channel for opacity: not written" in one for one in remarks)
    assert "height: used as input, not written as a file" in remarks


def photo_mask() -> np.ndarray:
    mask = np.zeros((64, 64), np.uint8)
    mask[16:48] = 255
    return mask


def test_a_tile_is_noticed_and_told_and_relief_is_said(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    field = relief("stones", 6, 256)
    codes = np.clip(110 + 30 * field / field.std(), 0, 255).astype(np.uint8)
    photo, out = tmp_path / "gravel.png", tmp_path / "n.png"
    Image.fromarray(np.repeat(codes[:, :, None], 3, axis=2)).save(photo)
    usual = ["derive", str(photo), "--from", "color", "--to", "normal", "--bits", "16", "--out",
             str(out)]  # fmt: skip

    def tilt(*more: str) -> float:
        assert main([*usual, *more]) == 0
        encoded = cv2.imread(str(out), -1)[:, :, ::-1].astype(np.float32) / 65535
        normal = encoded * 2 - 1
        return float(np.degrees(np.arccos(np.clip(normal[:, :, 2], -1, 1))).mean())

    assert tilt() == pytest.approx(6, rel=0.05)
    assert "gravel.png: tileable (seam" in capsys.readouterr().err
    assert tilt("--relief", "rough") == pytest.approx(18, rel=0.05)
    assert tilt("--relief", "2.5", "--wrap", "no") == pytest.approx(2.5, rel=0.05)
    assert tilt("--param", "depth=0.1") > 20  # stated in metres, it is that
    capsys.readouterr()
    assert main([*usual, "--wrap", "no"]) == 0
    assert "tiles" not in capsys.readouterr().err
    assert main([*usual, "--relief", "bumpy"]) == 2
    assert "low, medium, high, very high" in capsys.readouterr().err
