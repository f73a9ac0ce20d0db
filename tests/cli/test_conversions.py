"""pack, split and convert as a stranger calls them; their files read by others."""

from __future__ import annotations

import json
from pathlib import Path

import cv2
import numpy as np
import pytest
import tifffile
from PIL import Image

from copper_sieve.cli.__main__ import main
from copper_sieve.core.errors import WriteError
from copper_sieve.core.image.raster import Encoding, Picture
from copper_sieve.core.tools import repack
from copper_sieve.core.tools.repack import requantized, write_verified
from tests.cli.calling import refused, sieve

SIDE = 48
Said = pytest.CaptureFixture[str]


def random_codes(shape: tuple[int, ...], bits: int = 8, seed: int = 1) -> np.ndarray:
    rng = np.random.default_rng(seed)
    return rng.integers(0, 1 << bits, shape, dtype=np.uint8 if bits == 8 else np.uint16)


def write(path: Path, codes: np.ndarray) -> Path:
    """By a writer that the product does not use for it: R, G, B, A to OpenCV's order."""
    if codes.ndim == 3:
        codes = codes[:, :, [2, 1, 0, 3][: codes.shape[2]]]
    assert cv2.imwrite(str(path), codes)
    return path


def seen(path: Path) -> list[np.ndarray]:
    """The codes as independent readers see them, two where two can read them straight."""
    if path.suffix == ".tif":  # OpenCV multiplies a TIFF's colors by their alpha
        codes = tifffile.imread(path)
    elif path.suffix == ".tga":
        return [_by_pillow(path)]
    else:
        read = cv2.imread(str(path), cv2.IMREAD_UNCHANGED)
        assert read is not None
        codes = read if read.ndim == 2 else read[:, :, [2, 1, 0, 3][: read.shape[2]]]
    # Pillow gives 16 bits of color as 8.
    deep = codes.dtype == np.uint16 and codes.ndim == 3
    return [codes] if deep else [_by_pillow(path), codes]


def _by_pillow(path: Path) -> np.ndarray:
    with Image.open(path) as image:
        return np.asarray(image)


def run(*words: object) -> int:
    return main([str(word) for word in words])


@pytest.mark.parametrize(("ending", "bits"), [("png", 8), ("tga", 8), ("tif", 8), ("png", 16),
                                              ("tif", 16)])  # fmt: skip
def test_packing_is_exact_and_split_gives_it_back(ending: str, bits: int, tmp_path: Path) -> None:
    codes = {letter: random_codes((SIDE, SIDE), bits, n) for n, letter in enumerate("RGBA")}
    codes["A"][:10] = 0  # what lies under alpha 0 stays
    slots: list[object] = []
    for letter, one in codes.items():
        slots += ["--slot", f"{letter}={write(tmp_path / f'{letter}.png', one)}"]
    out = tmp_path / f"packed.{ending}"
    assert run("pack", *slots, "--out", out) == 0
    due = np.stack(list(codes.values()), axis=2)
    for found in seen(out):
        np.testing.assert_array_equal(found, due)
    assert run("split", out, "--out", tmp_path / "apart") == 0
    for letter, one in codes.items():
        for found in seen(tmp_path / "apart" / f"packed_{letter}.png"):
            np.testing.assert_array_equal(found, one)


def test_pack_inverts_chooses_channels_and_fills_with_constants(tmp_path: Path) -> None:
    packed = random_codes((SIDE, SIDE, 3), seed=5)
    rough, wide = random_codes((SIDE, SIDE), seed=6), random_codes((SIDE, SIDE), 16, 7)
    orm, gloss = write(tmp_path / "orm.png", packed), write(tmp_path / "rough.png", rough)
    twice = run("pack", "--slot", f"R={gloss}:invert:invert", "--out", tmp_path / "twice.png")
    assert twice == 0
    np.testing.assert_array_equal(seen(tmp_path / "twice.png")[0], rough)
    given = [f"R={orm}#b", f"G={gloss}:invert", "B=0.5", f"A={orm}#G:range=0,0.5:invert"]
    slots = [word for slot in given for word in ("--slot", slot)]
    done = sieve("pack", *slots, "--out", tmp_path / "a.png", "--json")
    assert done.returncode == 0, done.stderr
    assert json.loads(done.stdout)["channels"]["G"].endswith("rough.png, invert")
    found = seen(tmp_path / "a.png")[1]
    np.testing.assert_array_equal(found[:, :, 0], packed[:, :, 2])
    np.testing.assert_array_equal(found[:, :, 1], 255 - rough)
    assert (found[:, :, 2] == 128).all()
    half = np.floor(packed[:, :, 1] / 255 * 0.5 * 255 + 0.5)
    np.testing.assert_array_equal(found[:, :, 3], 255 - half)
    # Depths that differ: the deepest decides, and 8 bits fill 16 exactly.
    deep = write(tmp_path / "deep.png", wide)
    assert run("pack", "--slot", f"R={deep}", "--slot", f"G={gloss}", "--slot", "B=1",
               "--out", tmp_path / "b.png") == 0  # fmt: skip
    found = seen(tmp_path / "b.png")[0]
    np.testing.assert_array_equal(found[:, :, 0], wide)
    np.testing.assert_array_equal(found[:, :, 1], rough.astype(np.uint16) * 257)
    assert run("pack", "--slot", f"R={deep}", "--bits", "8", "--out", tmp_path / "c.png") == 0
    np.testing.assert_array_equal(seen(tmp_path / "c.png")[0], np.round(wide / 257))


def test_pack_says_what_is_wrong_and_writes_nothing(tmp_path: Path, capsys: Said) -> None:
    grey = write(tmp_path / "grey.png", random_codes((SIDE, SIDE)))
    color = write(tmp_path / "color.png", random_codes((SIDE, SIDE, 3)))
    small = write(tmp_path / "small.png", random_codes((8, 8)))
    out = tmp_path / "out.png"
    for slots, said in (
        ([f"R={grey}", f"B={grey}"], "as B=0"),
        ([f"R={grey}", f"G={small}", "B=0"], "small.png has 8 x 8"),
        ([f"R={color}"], "color.png#G"),
        ([f"R={grey}#A"], "no channel A"),
        ([f"R={grey}:turn"], "turn isn't a known change"),
        ([f"R={grey}:power=0"], "power=0"),
        ([f"R={grey}", "R=0"], "given twice"),
        (["R=0.5"], "at least one picture"),
        (["R=2"], "from 0 to 1"),
        ([f"X={grey}"], "R, G, B or A"),
        ([f"R={tmp_path / 'gone.png'}"], "gone.png"),
    ):
        words = [word for slot in slots for word in ("--slot", slot)]
        assert said in refused(capsys, "pack", *words, "--out", out)
    assert "tga doesn't support" in refused(
        capsys, "pack", "--slot", f"R={grey}", "--bits", 16, "--out", tmp_path / "out.tga"
    )
    assert "is lossy" in refused(
        capsys, "pack", "--slot", f"R={grey}", "--out", tmp_path / "out.jpg"
    )
    assert not [path for path in tmp_path.iterdir() if "out" in path.name]


@pytest.mark.parametrize("bits", [8, 16])
def test_flips_and_inversions_are_exact_and_their_own_inverse(bits: int, tmp_path: Path) -> None:
    top = (1 << bits) - 1
    codes = random_codes((SIDE, SIDE, 3), bits, 9)
    normal = write(tmp_path / "wall_normal.png", codes)
    assert run("convert", normal, "--rule", "normal-flip-y", "--out", tmp_path / "a") == 0
    once = seen(tmp_path / "a" / "wall_normal.png")[-1]
    np.testing.assert_array_equal(once[:, :, 1], top - codes[:, :, 1])
    np.testing.assert_array_equal(once[:, :, [0, 2]], codes[:, :, [0, 2]])
    again = ("convert", tmp_path / "a" / "wall_normal.png", "--rule", "normal-flip-y")
    assert run(*again, "--out", tmp_path / "b") == 0
    np.testing.assert_array_equal(seen(tmp_path / "b" / "wall_normal.png")[-1], codes)
    gloss = write(tmp_path / "wall_gloss.png", codes[:, :, 0])
    assert run("convert", gloss, "--rule", "gloss-to-rough", "--out", tmp_path / "c") == 0
    np.testing.assert_array_equal(
        seen(tmp_path / "c" / "wall_roughness.png")[-1], top - codes[:, :, 0]
    )


def test_blue_is_built_again_from_red_and_green(tmp_path: Path) -> None:
    rng = np.random.default_rng(3)
    slopes = rng.normal(0, 0.3, (SIDE, SIDE, 2))
    vectors = np.dstack([slopes, np.ones((SIDE, SIDE))])
    vectors /= np.linalg.norm(vectors, axis=2, keepdims=True)
    codes = np.round((vectors * 0.5 + 0.5) * 255).astype(np.uint8)
    empty = codes.copy()
    empty[:, :, 2] = 0
    normal = write(tmp_path / "wall_nrm.png", empty)
    assert run("convert", normal, "--rule", "normal-xy-to-xyz", "--out", tmp_path / "a") == 0
    found = seen(tmp_path / "a" / "wall_normal.png")[-1]
    np.testing.assert_array_equal(found[:, :, :2], codes[:, :, :2])
    assert np.abs(found[:, :, 2].astype(int) - codes[:, :, 2]).max() <= 1


def test_a_normal_is_swizzled_and_comes_back(tmp_path: Path, capsys: Said) -> None:
    slopes = np.random.default_rng(3).normal(0, 0.3, (SIDE, SIDE, 2))
    vectors = np.dstack([slopes, np.ones((SIDE, SIDE))])
    vectors /= np.linalg.norm(vectors, axis=2, keepdims=True)
    codes = np.round((vectors * 0.5 + 0.5) * 255).astype(np.uint8)
    normal = write(tmp_path / "wall_normal.png", codes)
    assert run("convert", normal, "--rule", "normal-xyz-to-ag", "--out", tmp_path / "a") == 0
    made = seen(tmp_path / "a" / "wall_normal.png")[0]
    np.testing.assert_array_equal(made[:, :, 3], codes[:, :, 0])
    np.testing.assert_array_equal(made[:, :, 1], codes[:, :, 1])
    rule = ["--rule", "normal-ag-to-xyz"]
    assert run("convert", tmp_path / "a" / "wall_normal.png", *rule, "--out", tmp_path / "b") == 0
    found = seen(tmp_path / "b" / "wall_normal.png")[0]
    np.testing.assert_array_equal(found[:, :, :2], codes[:, :, :2])
    assert np.abs(found[:, :, 2].astype(int) - codes[:, :, 2]).max() <= 1
    assert run("convert", normal, *rule, "--out", tmp_path / "c") != 0
    assert "has no alpha" in capsys.readouterr().err


def test_height_becomes_metres_and_comes_back(tmp_path: Path) -> None:
    codes = random_codes((SIDE, SIDE), 16, 4)
    height = write(tmp_path / "wall_height.png", codes)
    settings = ["--param", "depth=0.05", "--param", "mid=0.25"]
    rule = ["--rule", "height-to-displacement", *settings]
    assert run("convert", height, *rule, "--out", tmp_path / "a") == 0
    metres = tifffile.imread(tmp_path / "a" / "wall_height.tif")
    assert metres.dtype == np.float32
    np.testing.assert_allclose(metres, (codes / 65535 - 0.25) * 0.05, atol=1e-7)
    assert metres.min() < 0
    back = ["--rule", "displacement-to-height", *settings]
    made = tmp_path / "a" / "wall_height.tif"
    assert run("convert", made, *back, "--out", tmp_path / "b") == 0
    np.testing.assert_array_equal(seen(tmp_path / "b" / "wall_height.png")[-1], codes)


def test_reflectance_by_level_and_by_index(tmp_path: Path, capsys: Said) -> None:
    level = np.array([[0, 64, 128, 255]] * 4, np.uint8)
    one = write(tmp_path / "wall_specularlevel.png", level)
    assert run("convert", one, "--rule", "specular-level-to-f0", "--out", tmp_path / "a") == 0
    f0 = seen(tmp_path / "a" / "wall_f0.png")[0]
    np.testing.assert_array_equal(f0, np.round(level * 0.08).astype(np.uint8))
    base = write(tmp_path / "pot_basecolor.png", random_codes((4, 4, 3)))
    metal = write(tmp_path / "pot_metallic.png", np.zeros((4, 4), np.uint8))
    given = [base, metal, "--rule", "metal-rough-to-spec-gloss", "--out", tmp_path / "b"]
    assert run("convert", *given, "--param", "ior=1.333") == 0  # water
    linear = ((1.333 - 1) / (1.333 + 1)) ** 2
    due = round(255 * (1.055 * linear ** (1 / 2.4) - 0.055))
    assert (seen(tmp_path / "b" / "pot_specular_color.png")[0] == due).all()
    assert run("convert", *given, "--param", "ior=0.5") != 0
    assert "1 or more" in capsys.readouterr().err


def test_a_metallic_set_becomes_a_specular_one_and_comes_back(tmp_path: Path) -> None:
    base = random_codes((SIDE, SIDE, 4), seed=11)
    base[:, :, :3] = np.clip(base[:, :, :3], 90, 250)
    metal = (random_codes((SIDE, SIDE), seed=12) > 127).astype(np.uint8) * 255
    rough = random_codes((SIDE, SIDE), seed=13)
    files = [
        write(tmp_path / "pot_BaseColor.png", base),
        write(tmp_path / "pot_metalness.png", metal),
        write(tmp_path / "pot-rough.png", rough),
    ]
    done = sieve("convert", *files, "--rule", "metal-rough-to-spec-gloss", "--out",
                 tmp_path / "spec", "--json")  # fmt: skip
    assert done.returncode == 0, done.stderr
    made = {file["map"]: Path(file["path"]) for file in json.loads(done.stdout)["files"]}
    assert [path.name for path in made.values()] == [
        "pot_diffuse.png", "pot_specular_color.png", "pot_glossiness.png"
    ]  # fmt: skip
    np.testing.assert_array_equal(seen(made["glossiness"])[1], 255 - rough)
    diffuse, specular = seen(made["diffuse"])[1], seen(made["specular_color"])[1]
    np.testing.assert_array_equal(diffuse[:, :, 3], base[:, :, 3])  # opacity goes along
    assert (diffuse[metal == 255, :3] == 0).all()
    assert (specular[metal == 0] == 56).all()  # 0.04 in sRGB
    np.testing.assert_array_equal(specular[metal == 255], base[metal == 255, :3])
    assert run("convert", *made.values(), "--rule", "spec-gloss-to-metal-rough", "--out",
               tmp_path / "back") == 0  # fmt: skip
    back = {name: seen(tmp_path / "back" / f"pot_{name}.png")[1].astype(int)
            for name in ("base_color", "metallic", "roughness")}  # fmt: skip
    assert np.abs(back["base_color"] - base).max() <= 1
    assert np.abs(back["metallic"] - metal).max() <= 1
    np.testing.assert_array_equal(back["roughness"], rough)


def test_convert_says_what_is_wrong(tmp_path: Path, capsys: Said) -> None:
    base = write(tmp_path / "pot_albedo.png", random_codes((SIDE, SIDE, 3)))
    small = write(tmp_path / "pot_metallic.png", random_codes((8, 8)))
    odd = write(tmp_path / "pot_thing.png", random_codes((SIDE, SIDE)))
    normal = write(tmp_path / "pot_normal.png", random_codes((SIDE, SIDE, 3)))
    out = ("--out", tmp_path / "out")
    rule = ("--rule", "metal-rough-to-spec-gloss")
    assert "requires a metallic map" in refused(capsys, "convert", base, *rule, *out)
    assert "different sizes" in refused(capsys, "convert", base, small, *rule, *out)
    assert "doesn't identify the map" in refused(capsys, "convert", base, odd, *rule, *out)
    assert "Available" in refused(capsys, "convert", base, "--rule", "magic", *out)
    said = refused(capsys, "convert", base, small, *rule, *out, "--param", "strength=1")
    assert "no parameter strength" in said
    assert "requires files" in refused(capsys, "convert", base, *rule)
    floating = write(tmp_path / "vase_normal.tif", np.full((8, 8, 3), 0.5, dtype=np.float32))
    said = refused(capsys, "convert", floating, "--rule", "normal-flip-y", *out)
    assert "the file is floating point" in said
    here = refused(capsys, "convert", normal, "--rule", "normal-flip-y", "--out", tmp_path)
    assert "would overwrite its own source file" in here
    assert not (tmp_path / "out").exists()


def test_the_rules_are_listed(capsys: Said) -> None:
    assert run("convert", "--list", "--json") == 0
    rules = {one["rule"]: one for one in json.loads(capsys.readouterr().out)}
    assert {"metal-rough-to-spec-gloss", "spec-gloss-to-metal-rough", "normal-flip-y",
            "gloss-to-rough"} <= set(rules)  # fmt: skip
    assert rules["normal-flip-y"]["exact_on_codes"]
    assert "conversion" in rules["spec-gloss-to-metal-rough"]["parameters"]
    assert run("convert", "--list") == 0
    assert "normal-flip-y: normal -> normal" in capsys.readouterr().out


def test_a_map_in_three_equal_channels_is_one_and_others_are_told(
    tmp_path: Path, capsys: Said
) -> None:
    """Gloss is often stored so."""
    gloss = random_codes((SIDE, SIDE), 8, 12)
    write(tmp_path / "wall_gloss.png", np.repeat(gloss[:, :, None], 3, axis=2))
    words = ("convert", tmp_path / "wall_gloss.png", "--rule", "gloss-to-rough", "--out")
    assert run(*words, tmp_path / "out") == 0
    np.testing.assert_array_equal(seen(tmp_path / "out" / "wall_roughness.png")[-1], 255 - gloss)
    capsys.readouterr()
    write(tmp_path / "wall_gloss.png", random_codes((SIDE, SIDE, 3), 8, 13))
    assert "R, G and B of the file differ" in refused(capsys, *words, tmp_path / "none")
    assert not (tmp_path / "none").exists()


def test_codes_change_their_depth_exactly_upwards_and_to_the_nearest_downwards() -> None:
    eight = np.arange(256, dtype=np.uint8)
    assert requantized(eight, 8) is eight
    wide = requantized(eight, 16)
    assert (wide.dtype, list(wide[[0, 1, 128, 255]])) == (np.uint16, [0, 257, 32896, 65535])
    assert requantized(wide, 16) is wide
    np.testing.assert_array_equal(requantized(wide, 8), eight)
    between = np.array([0, 128, 129, 385, 386, 65406, 65407, 65535], np.uint16)
    narrow = requantized(between, 8)
    assert (narrow.dtype, list(narrow)) == (np.uint8, [0, 0, 1, 1, 2, 254, 255, 255])


def test_a_channel_of_floating_point_is_packed_to_the_nearest_code(tmp_path: Path) -> None:
    values = np.linspace(0, 1, SIDE * SIDE, dtype=np.float32).reshape(SIDE, SIDE)
    tifffile.imwrite(tmp_path / "height.tif", values)
    source = tmp_path / "height.tif"
    for bits, top in ((8, 255), (16, 65535)):
        path = tmp_path / f"packed{bits}.png"
        assert run("pack", "--slot", f"R={source}", "--bits", bits, "--out", path) == 0
        np.testing.assert_array_equal(seen(path)[0], np.floor(values * top + 0.5))


def test_a_file_that_gives_back_other_codes_is_not_left_there(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    grey = Picture(random_codes((SIDE, SIDE, 1), seed=8), ("Y",), Encoding.LINEAR)
    for wrong in (grey.codes ^ 1, grey.codes[1:], grey.codes.astype(np.uint16)[:, :, [0, 0]]):
        monkeypatch.setattr(repack, "reopen", lambda path, wrong=wrong: wrong)
        with pytest.raises(WriteError, match=r"out\.png doesn't contain the expected values"):
            write_verified(tmp_path / "out.png", grey, "png")
        assert list(tmp_path.iterdir()) == []
    monkeypatch.undo()
    write_verified(tmp_path / "out.png", grey, "png")
    np.testing.assert_array_equal(seen(tmp_path / "out.png")[0], grey.codes[:, :, 0])
