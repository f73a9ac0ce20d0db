"""Pictures of one surface as files: noticed in a folder, measured, delivered."""

from __future__ import annotations

import shutil
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

import copper_sieve as cs
from copper_sieve.core.export.assay import read_manifest
from copper_sieve.core.measuring.ball import Ball
from copper_sieve.demo import lamp_pictures as drawn
from copper_sieve.library import documents
from copper_sieve.library.batch import BatchOptions, make_many, pictures_in, sets_among

LAMPS = drawn.ring_of_lamps(6)


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    """Six pictures of pebbles with a ball, one of them twice, one that is none, another photo."""
    into = tmp_path / "river bed"
    into.mkdir()
    rng = np.random.default_rng(4)
    ball = Ball(124, 126, 22, "shiny")
    codes, _ = drawn.pictures_of(drawn.pebbles(160, rng), LAMPS, rng, ball=ball)
    for n, one in enumerate(codes, 1):
        Image.fromarray(one).save(into / f"stones_{n}.png")
    shutil.copy(into / "stones_6.png", into / "stones_7.png")
    (into / "stones_8.png").write_bytes(b"no picture")
    Image.fromarray(rng.integers(0, 255, (160, 160, 3), np.uint8)).save(into / "sky_1.png")
    return into


def test_a_folder_gives_a_set_that_is_measured(folder: Path, tmp_path: Path) -> None:
    sets = {one.name: one for one in sets_among(pictures_in([folder]))}
    stones = sets["stones"]
    assert stones.measured
    assert [path.name for path in stones.files] == [f"stones_{n}.png" for n in range(1, 7)]
    assert not any(one.measured for name, one in sets.items() if name != "stones")
    assert set(sets) == {"stones", "stones_7", "stones_8", "sky_1"}  # each by itself
    way = BatchOptions(targets=(documents.target("separate-png"),), longer_side=64)
    (made,) = make_many([stones], way, tmp_path / "out")
    assert made.state == "done", made.error
    assert "measured from 6 light captures" in made.notes
    captures = read_manifest(Path(made.folders["separate-png"])).captures
    assert captures is not None
    assert {one.light_origin for one in captures.captures} == {"ball"}


def test_the_same_picture_twice_is_refused_in_a_sentence(folder: Path) -> None:
    files = [folder / f"stones_{n}.png" for n in (1, 3, 5, 6, 7)]
    with pytest.raises(cs.SieveError, match="the same picture was given twice"):
        cs.MapSet.from_captures(files)
    with pytest.raises(cs.SieveError, match="3 pictures but 2 lights"):
        cs.MapSet.from_captures(files[:3], LAMPS[:2])
