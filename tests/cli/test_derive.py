"""./sieve derive as a stranger calls it: every operation, every format, every refusal."""

from __future__ import annotations

import json
from pathlib import Path

import cv2
import numpy as np
import pytest
from PIL import Image

from copper_sieve.cli.__main__ import main
from copper_sieve.core.operations import OPERATIONS
from tests.cli.calling import read, refused
from tests.conftest import MakePhoto, photo_codes


@pytest.mark.parametrize("name", ["n.png", "n.tif", "n.tga", "n.exr"])
def test_derive_writes_the_format_its_name_says(
    make_photo: MakePhoto, tmp_path: Path, name: str
) -> None:
    out = tmp_path / name
    assert main(["derive", str(make_photo()), "--from", "color", "--to", "normal",
                 "--param", "strength=2", "--out", str(out)]) == 0  # fmt: skip
    from copper_sieve.core.codecs import read_picture

    codes = read_picture(out)[1].codes
    assert codes.shape == (48, 64, 3)
    assert not [p for p in tmp_path.iterdir() if p.name.startswith(".")]


def test_derive_takes_its_parameters_in_metres(tmp_path: Path) -> None:
    ramp = (np.tile(np.arange(64), (32, 1)) * 1000).astype(np.uint16)
    cv2.imwrite(str(tmp_path / "h.png"), ramp)
    slope = 1000 / 65535 * 0.5 / (2.0 / 64)  # height per texel x depth / texel's width
    source, out = str(tmp_path / "h.png"), str(tmp_path / "n.png")
    words = ["--param", "depth=0.5", "--param", "tile_size=2", "--out", out]
    assert main(["derive", source, "--from", "height", "--to", "normal", *words]) == 0
    codes = cv2.imread(out, cv2.IMREAD_UNCHANGED)[:, :, ::-1]
    assert codes.dtype == np.uint16  # 16 bits in, 16 bits out
    x = codes[16, 32, 0] / 65535 * 2 - 1
    assert x == pytest.approx(-slope / np.hypot(1, slope), abs=1e-4)


def test_derive_flips_green_exactly(make_photo: MakePhoto, tmp_path: Path) -> None:
    photo = make_photo()
    for direction in ("up", "down"):
        main(["derive", str(photo), "--from", "color", "--to", "normal", "--normal-y", direction,
              "--out", str(tmp_path / f"{direction}.png")])  # fmt: skip
    up, down = (read(tmp_path / f"{d}.png").astype(int) for d in ("up", "down"))
    np.testing.assert_array_equal(down, np.where([0, 1, 0], 255 - up, up))


def test_derive_color_from_color_changes_nothing(make_photo: MakePhoto, tmp_path: Path) -> None:
    out = tmp_path / "same.png"
    main(["derive", str(make_photo()), "--from", "color", "--to", "color", "--out", str(out)])
    np.testing.assert_array_equal(read(out), photo_codes())


def test_derive_lists_every_declaration(capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["derive", "--list", "--json"]) == 0
    listed = json.loads(capsys.readouterr().out)
    names = {one["name"]: one for one in listed["operations"]}
    strength = names["normal_from_height"]["parameters"][0]
    wanted = ("name", "low", "high", "unit", "default", "meaning")
    assert all(key in strength for key in wanted)
    assert names["height_from_normal"]["inputs"] == ["normal"]
    assert [one["name"] for one in listed["surface"]] == ["tile_size", "depth", "relief", "wrap"]
    assert main(["derive", "--list"]) == 0
    assert "give" not in capsys.readouterr().err
    assert "derive requires FILE, --out" in refused(
        capsys, "derive", "--from", "color", "--to", "height"
    )


def test_derive_integrates_normals(make_photo: MakePhoto, tmp_path: Path) -> None:
    there, back = tmp_path / "n.tif", tmp_path / "h.tif"
    photo = str(make_photo())
    main(["derive", photo, "--from", "color", "--to", "height", "--bits", "16",
          "--out", str(tmp_path / "due.tif")])  # fmt: skip
    main(["derive", str(tmp_path / "due.tif"), "--from", "height", "--to", "normal",
          "--out", str(there)])  # fmt: skip
    assert main(["derive", str(there), "--from", "normal", "--to", "height",
                 "--out", str(back)]) == 0  # fmt: skip
    due, found = (
        cv2.imread(str(p), -1).astype(float).ravel() for p in (tmp_path / "due.tif", back)
    )
    assert np.corrcoef(due, found)[0, 1] > 0.99


def test_derive_refuses_in_one_line(
    make_photo: MakePhoto, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    photo, out = make_photo(), tmp_path / "x.png"
    usual = ("derive", photo, "--from", "color", "--to", "normal", "--out")
    cases = [
        ((*usual, out, "--param", "strength=99"), "a number from 0 to 8"),
        (
            (*usual, out, "--param", "sparkle=1"),
            "Use tile_size, depth, relief, wrap, normal.st",
        ),
        ((*usual, out, "--param", "strength"), "name=value"),
        ((*usual, out, "--param", "depth=deep"), "depth in meters"),
        ((*usual, tmp_path / "x.bmp"), "isn't a supported output format"),
        ((*usual, tmp_path / "x.tga", "--bits", "16"), "tga supports 8 bits"),
        (("derive", photo, "--from", "color", "--to", "shine", "--out", out), "no map type shine"),
        (
            ("derive", photo, "--from", "height", "--to", "roughness", "--out", out),
            "no operation derives roughness from height. Choose one with --by",
        ),
    ]
    for words, says in cases:
        assert says in refused(capsys, *words)
        assert not out.exists()


def test_parameters_reach_maps_on_the_way(make_photo: MakePhoto, tmp_path: Path) -> None:
    photo = str(make_photo())
    results = []
    for words in ([], ["--param", "contrast=0"], ["--param", "height.invert=true"]):
        main(["derive", photo, "--from", "color", "--to", "normal", *words,
              "--out", str(tmp_path / "n.png")])  # fmt: skip
        results.append(read(tmp_path / "n.png").astype(int))
    plain, flat, inverted = results
    assert (flat == [128, 128, 255]).all()
    assert np.abs((inverted - 127.5)[:, :, :2] + (plain - 127.5)[:, :, :2]).max() <= 1


_BY_PICTURES = sorted(one.name for one in OPERATIONS.values() if not one.takes_from)


@pytest.mark.parametrize("name", _BY_PICTURES)
def test_derive_reaches_every_operation(name: str, make_photo: MakePhoto, tmp_path: Path) -> None:
    operation, out = OPERATIONS[name], tmp_path / "out.png"
    wanted = operation.kinds[0]
    origin = operation.inputs[0] if operation.inputs else wanted
    words = ["derive", str(make_photo()), "--from", origin, "--to", wanted, "--by", name,
             "--out", str(out)]  # fmt: skip
    for parameter in operation.parameters:
        value = "#8a7452" if parameter.form == "colors" else parameter.default
        words += ["--param", f"{parameter.name}={value}"]
    for number, slot in enumerate(operation.slots):
        words += ["--with", f"{slot.name}={make_photo(f'{slot.name}.png', seed=number + 2)}"]
    for further in operation.inputs[1:]:
        words += ["--with", f"{further}={make_photo('further.png', seed=9)}"]
    assert main(words) == 0
    assert read(out).shape[:2] == (48, 64)


def test_derive_blends_an_imported_normal(make_photo: MakePhoto, tmp_path: Path) -> None:
    def normal(photo: Path, out: str, *words: str) -> np.ndarray:
        main(["derive", str(photo), "--from", "height", "--to", "normal", "--bits", "16",
              "--out", str(tmp_path / out), *words])  # fmt: skip
        codes = cv2.imread(str(tmp_path / out), -1)[:, :, ::-1] / 65535 * 2 - 1
        return codes[:, :, :2] / codes[:, :, 2:]

    first, second = make_photo("a.png"), make_photo("b.png", seed=5)
    alone, other = normal(first, "n1.png"), normal(second, "n2.png")
    blended = normal(first, "n3.png", "--with", f"second={tmp_path / 'n2.png'}",
                     "--param", "weight=0.2")  # fmt: skip
    np.testing.assert_allclose(blended, alone + 0.2 * other, atol=3e-3)


def test_derive_picks_metal_and_cuts_by_alpha(make_photo: MakePhoto, tmp_path: Path) -> None:
    codes = np.zeros((8, 16, 4), np.uint8)
    codes[:, :8] = (184, 115, 51, 255)
    codes[:, 8:] = (90, 90, 90, 100)
    Image.fromarray(codes).save(tmp_path / "leaf.png")
    out = tmp_path / "out.png"
    words = ["derive", str(tmp_path / "leaf.png"), "--from", "color", "--out", str(out)]
    assert main([*words, "--to", "metallic", "--param", "colors=#b87333"]) == 0
    np.testing.assert_array_equal(read(out)[0], [255] * 8 + [0] * 8)
    assert main([*words, "--to", "opacity", "--by", "opacity_from_picture"]) == 0
    np.testing.assert_array_equal(read(out)[0], [255] * 8 + [0] * 8)
    assert main([*words, "--to", "base_color", "--param", "saturation=0"]) == 0
    assert np.ptp(read(out)[0, 0]) <= 1
    mask = ["--to", "metallic", "--by", "metallic_from_range", "--with", f"map={make_photo()}"]
    assert main([*words, *mask]) == 0


def test_derive_says_what_there_is(
    make_photo: MakePhoto, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    usual = ("derive", make_photo(), "--from", "color", "--out", tmp_path / "x.png", "--to")
    cases = [
        ("normal", "--by", "height_from_color", "height_from_color makes height, not normal"),
        ("normal", "--by", "bumps", "there is no operation bumps"),
        ("normal", "--with", "second", "expected name=file"),
        ("normal", "--with", "second=gone.png", "gone.png doesn't exist"),
        ("normal", "--with", f"mask={make_photo()}", "no operation derives normal from base_color"),
        ("metallic", "--param", "colors=copper", "as #rrggbb"),
    ]
    for *words, says in cases:
        assert says in refused(capsys, *usual, *words)
