"""Whether a picture is a tile, told on a hundred pictures: noise, bricks, weaves, planks, steps."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest

from copper_sieve.core.codecs import Limits, write_picture
from copper_sieve.core.detection.tiling import measure_tiling, measure_tiling_of_values
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Encoding, Picture
from copper_sieve.core.image.wrap import Wrap
from copper_sieve.core.ingest.sources import examine, surface_of_sources
from tests.core.recognition.maps import fractal, relief

SIDE = 192
KINDS = ("bricks", "weave", "cracks", "wood", "stones", "scratches")


def tiles() -> Iterator[tuple[str, np.ndarray]]:
    """Fifty tiles: rolled, so that whatever there is may lie on the border; lit, or as they are."""
    rng = np.random.default_rng(8)
    for n in range(50):
        if n % 5 == 4:
            name, field = f"noise {n}", fractal(n, SIDE, rng.uniform(1, 2.5))
        else:
            kind = KINDS[n % len(KINDS)]
            name, field = f"{kind} {n}", relief(kind, n, SIDE)
        field = (field - field.min()) / (field.max() - field.min())
        if n % 3 == 0:  # as a photo lit from the side
            field = 0.5 + (field - np.roll(field, 1, axis=1)) * 2
        field = np.roll(field, rng.integers(0, SIDE, 2), axis=(0, 1))
        grain = rng.normal(0, 0.004, (SIDE, SIDE))
        yield name, np.clip(field + grain, 0, 1).astype(np.float32)


def test_a_hundred_pictures_are_told_right() -> None:
    missed, taken = [], []
    rng = np.random.default_rng(9)
    for name, field in tiles():
        if not measure_tiling_of_values(field[:, :, None]).wrap:
            missed.append(name)
        height, width = rng.integers(int(SIDE * 0.55), int(SIDE * 0.9), 2)
        if measure_tiling_of_values(field[:height, :width, None]).wrap:
            taken.append(name)
    assert missed == []
    # Parts of a regular pattern that happen to be cut near its period are as good as tiles.
    assert len(taken) <= 3
    assert all(name.split()[0] in ("weave", "bricks") for name in taken)


def test_one_direction_is_told_apart() -> None:
    field = relief("stones", 3, SIDE).astype(np.float32)[:, :, None]
    assert measure_tiling_of_values(field).wrap == Wrap(across=True, down=True)
    assert measure_tiling_of_values(field[:120]).wrap == Wrap(across=True, down=False)
    found = measure_tiling_of_values(field[:, :130])
    assert found.wrap == Wrap(across=False, down=True)
    assert found.across > 1.5 > found.down
    assert found.text().startswith("tileable vertically (seam ")


def test_a_ramp_ends_and_what_is_flat_meets() -> None:
    ramp = np.tile(np.linspace(0, 1, 64, dtype=np.float32), (64, 1))[:, :, None]
    assert measure_tiling_of_values(ramp).wrap == Wrap(across=False, down=True)
    assert measure_tiling_of_values(np.full((64, 64, 3), 0.5, np.float32)).wrap == Wrap(True, True)
    tiny = np.random.default_rng(1).random((8, 8, 3)).astype(np.float32)
    assert measure_tiling_of_values(tiny).wrap == Wrap(across=False, down=False)  # it tells nothing


@pytest.mark.parametrize("side", [256, 1024])
def test_a_file_brings_its_borders_to_the_set(tmp_path: Path, side: int) -> None:
    field = relief("stones", 5, side)
    codes = np.clip(90 + 25 * field / field.std(), 0, 255).astype(np.uint8)
    for name, part, due in (("whole", codes, True), ("part", codes[:, : side * 5 // 7], "down")):
        picture = Picture(np.repeat(part[:, :, None], 3, axis=2), ("R", "G", "B"), Encoding.SRGB)
        write_picture(tmp_path / f"{name}.png", picture, "png")
        facts, read = examine(tmp_path / f"{name}.png", Limits())
        assert facts.tiling == measure_tiling(read)
        assert surface_of_sources([(MapKind.BASE_COLOR, facts)]).wrap == due
