"""Formats declare themselves once: every list is made of the declarations, and each is complete."""

from __future__ import annotations

import shutil
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest
import tifffile

from copper_sieve.core.codecs import CODECS, FORMATS, Writing, reopen, write_picture
from copper_sieve.core.codecs.registry import exact_formats, format_names, sniff, suffixes
from copper_sieve.core.errors import NotAPictureError
from copper_sieve.core.image.raster import Encoding, Picture
from copper_sieve.core.targets.target_preset import FileSpec

ROOT = Path(__file__).parents[2]


def test_no_ending_and_no_place_is_taken_twice() -> None:
    assert len(set(suffixes())) == len(suffixes())
    assert len({one.place for one in CODECS.values()}) == len(CODECS)
    assert all(ending.startswith(".") and ending.islower() for ending in suffixes())


@pytest.mark.parametrize("name", FORMATS)
def test_what_is_written_is_told_by_its_bytes_and_reopened_level_by_level(
    name: str, tmp_path: Path
) -> None:
    codec, held = CODECS[name], FORMATS[name]
    assert codec.write and codec.reopen and codec.reader
    count = 3 if 3 in held.channels else held.channels[0]
    levels = [
        np.full((side, side, count), 0.25 if held.floats_only else 64, np.float32)
        if held.floats_only
        else np.full((side, side, count), 64, np.uint8)
        for side in (8, 4, 2, 1)
    ]
    picture = Picture(levels[0], tuple("RGB")[:count], Encoding.LINEAR)
    path = tmp_path / f"one{codec.ending}"
    mips = levels[1:] if held.mips else []
    write_picture(path, picture, Writing(name, tiles=held.tiles), mips)
    assert sniff(path) is codec
    for n, level in enumerate([levels[0], *mips]):
        found = reopen(path, n)[:, :, :count]
        assert found.shape == level.shape
        assert np.abs(found.astype(float) - level).max() <= (2 if held.lossy else 0)


def test_an_unknown_file_is_told_all_that_could_be_read(tmp_path: Path) -> None:
    (tmp_path / "x.png").write_bytes(b"plain words, no picture")
    with pytest.raises(NotAPictureError) as told:
        sniff(tmp_path / "x.png")
    assert all(one.title in str(told.value) for one in CODECS.values())


def test_choices_follow_from_what_formats_hold() -> None:
    assert exact_formats() == ["png", "tga", "tiff"]
    assert exact_formats(floats=True) == ["png", "tga", "tiff", "exr"]
    assert format_names(["a"]) == "a"
    assert format_names("abc", "and") == "a, b and c"
    assert FileSpec.model_json_schema()["properties"]["format"]["enum"] == list(FORMATS)


def test_a_new_format_is_one_module(tmp_path: Path) -> None:
    """Tried in a copy of the package: told, read, named in errors and offered by its ending."""
    shutil.copytree(ROOT / "src", tmp_path / "src")
    (tmp_path / "src/copper_sieve/core/codecs/formats/portable.py").write_text("""
from copper_sieve.core.codecs.codec import Codec, starts_with
from copper_sieve.core.codecs.libraries.pillow import read_pillow, read_pillow_spec

CODEC = Codec(
    name="ppm", title="PPM", place=200, endings=(".ppm",), sniff=starts_with(b"P6"),
    read_spec=lambda path: read_pillow_spec(path, "ppm"), read=read_pillow,
)
""")
    (tmp_path / "one.ppm").write_bytes(b"P6 2 1 255\n" + bytes([1, 2, 3, 4, 5, 6]))
    (tmp_path / "none.png").write_bytes(b"nothing")
    tried = subprocess.run(
        [sys.executable, "-c", (
            "from pathlib import Path\n"
            "from copper_sieve.core.codecs import read_picture\n"
            "from copper_sieve.core.codecs.registry import suffixes\n"
            "print(read_picture(Path('one.ppm'))[1].codes.tolist(), '.ppm' in suffixes())\n"
            "read_picture(Path('none.png'))\n"
        )],
        cwd=tmp_path, env={"PYTHONPATH": str(tmp_path / "src")}, capture_output=True, text=True,
        check=False,
    )  # fmt: skip
    assert "[[[1, 2, 3], [4, 5, 6]]] True" in tried.stdout, tried.stderr
    assert "JPEG 2000 or PPM" in tried.stderr


@pytest.mark.parametrize("tiles", [False, True])
def test_the_alpha_of_a_tiff_is_tagged_straight(tmp_path: Path, tiles: bool) -> None:
    codes = np.random.default_rng(2).integers(0, 256, (80, 70, 4), dtype=np.uint8)
    path = tmp_path / "one.tif"
    write_picture(path, Picture(codes, tuple("RGBA"), Encoding.SRGB), Writing("tiff", tiles=tiles))
    with tifffile.TiffFile(path) as file:
        assert file.pages.first.extrasamples == (tifffile.EXTRASAMPLE.UNASSALPHA,)
        np.testing.assert_array_equal(file.pages.first.asarray(), codes)
