"""What a lens darkens and a camera exposes, evened before a surface is measured."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from PIL import ExifTags, Image

import copper_sieve as cs
from copper_sieve.core.errors import MeasureError
from copper_sieve.core.image.encoding import linear_to_srgb
from copper_sieve.core.image.raster import Float
from copper_sieve.core.measuring.flat_field import flat_field_of
from copper_sieve.core.measuring.measure import measure
from copper_sieve.core.measuring.stack import Capture
from copper_sieve.demo import lamp_pictures as drawn
from copper_sieve.library.exposures import exposures
from tests.core.measuring.test_measuring import LAMPS, angle

SIZE = 96


def dark_corners(size: int = SIZE) -> Float:
    """What a lens leaves: half the light in the corners."""
    y, x = (np.mgrid[:size, :size] + 0.5) / size - 0.5
    return (1 - (x * x + y * y))[..., None].astype(np.float32)


def codes_of(light: Float) -> np.ndarray:
    return np.round(linear_to_srgb(np.clip(light, 0, 1)) * 255).astype(np.uint8)


def test_dark_corners_are_evened_by_paper() -> None:
    rng = np.random.default_rng(3)
    true, lens = drawn.plaster(SIZE, rng), dark_corners()
    lights = [drawn.lit_by(true, lamp) for lamp in LAMPS]
    pictures = [codes_of(0.9 * one * lens) for one in lights]
    even = flat_field_of(codes_of(0.7 * np.repeat(lens, 3, -1)))
    assert even[even.shape[0] // 2, even.shape[1] // 2] == 1
    assert even[0, 0] == pytest.approx(0.5, abs=0.05)
    both = [
        measure([Capture(one, lamp, even=how) for one, lamp in zip(pictures, LAMPS, strict=True)],
                white=0.9, static_camera=True)
        for how in (None, even)
    ]  # fmt: skip
    off = [np.abs(one.color / true.color - 1).mean() for one in both]
    assert off[0] > 0.12 and off[1] < 0.05
    assert angle(both[1].normal, true.normal).mean() < angle(both[0].normal, true.normal).mean()


@pytest.mark.parametrize(
    ("flat_field", "says"),
    [
        (np.full((64, 64, 3), 255, np.uint8), "100% of it is overexposed"),
        (np.full((64, 64, 3), 20, np.uint8), "too dark"),
        (np.indices((64, 64)).sum(0)[..., None] // 8 % 2 * np.full(3, 120, np.uint8) + 100,
         "doesn't show plain paper only"),
    ],
)  # fmt: skip
def test_what_is_no_paper_is_refused(flat_field: np.ndarray, says: str) -> None:
    with pytest.raises(MeasureError, match=says):
        flat_field_of(flat_field.astype(np.uint8), "sheet.jpg")


def test_exposures_are_read_from_the_files(tmp_path: Path) -> None:
    rng = np.random.default_rng(3)
    true = drawn.pebbles(SIZE, rng)
    stops = [0, 1, 0, -1, 0, 1, 0, 0]
    paths = []
    for n, (lamp, stop) in enumerate(zip(LAMPS, stops, strict=True)):
        paths.append(tmp_path / f"{n}.jpg")
        tags = Image.Exif()
        tags.get_ifd(ExifTags.IFD.Exif).update({
            ExifTags.Base.ExposureTime: 2.0**stop / 60, ExifTags.Base.FNumber: 4.0,
            ExifTags.Base.ISOSpeedRatings: 100,
        })  # fmt: skip
        light = 0.4 * 2.0**stop * drawn.lit_by(true, lamp)
        Image.fromarray(codes_of(light)).save(paths[-1], exif=tags, quality=95, subsampling=0)
    confidence = exposures(paths)
    assert confidence is not None
    assert np.allclose(np.subtract(confidence, confidence[0]), stops, atol=0.01)
    found = cs.measure(paths, LAMPS, white=0.4, static_camera=True)
    assert angle(found.surface.normal, true.normal).mean() < 2
    assert any(
        "the files state exposures that differ by 2.0 stops" in one for one in found.surface.remarks
    )
    Image.open(paths[3]).save(paths[3], quality=95)  # without what the camera wrote
    assert exposures(paths) is None
