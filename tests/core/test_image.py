"""Normals, resizing, rasters, errors: worked out by hand."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra import numpy as hnp

from copper_sieve.core import errors
from copper_sieve.core.image.encoding import quantize
from copper_sieve.core.image.map_kind import MapKind, Meaning, NormalY
from copper_sieve.core.image.normals import (
    encoded_to_vectors,
    flip_green_codes,
    normalize,
    vectors_to_encoded,
)
from copper_sieve.core.image.raster import Encoding, Picture, Raster
from copper_sieve.core.image.resize import fit_size, resize


def _normals(*vectors: tuple[float, float, float]) -> np.ndarray:
    return np.array([vectors], dtype=np.float32)


def test_flat_normal_is_128_128_255() -> None:
    codes = quantize(vectors_to_encoded(_normals((0, 0, 1))), 8)
    assert codes[0, 0].tolist() == [128, 128, 255]


def test_normalize_gives_unit_length_and_no_dip_below_the_surface() -> None:
    out = normalize(_normals((3, 0, 4), (0, 0, 0), (1, 0, -1), (0, 0, 0.5)))
    np.testing.assert_allclose(out[0], [[0.6, 0, 0.8], [0, 0, 1], [1, 0, 0], [0, 0, 1]], atol=1e-6)


def test_green_down_is_read_as_the_opposite_of_green_up() -> None:
    encoded = np.array([[[0.6, 0.8, 0.9]]], dtype=np.float32)
    up = encoded_to_vectors(encoded.copy(), NormalY.UP)
    down = encoded_to_vectors(encoded.copy(), NormalY.DOWN)
    np.testing.assert_allclose(up * [1, -1, 1], down)


@given(
    hnp.arrays(
        st.sampled_from([np.uint8, np.uint16]),
        hnp.array_shapes(min_dims=1, max_dims=3),
    )
)
def test_green_flip_is_exact_and_its_own_inverse(codes: np.ndarray) -> None:
    flipped = flip_green_codes(codes)
    top = np.iinfo(codes.dtype).max
    assert flipped.dtype == codes.dtype
    np.testing.assert_array_equal(flipped.astype(int) + codes, top)
    np.testing.assert_array_equal(flip_green_codes(flipped), codes)


def test_colors_are_averaged_in_linear_light() -> None:
    pixels = np.array([[[0.0] * 3, [1.0] * 3]], dtype=np.float32)
    half = resize(Raster(pixels, Meaning.COLOR), 1, 1)
    np.testing.assert_allclose(half.pixels, 0.5)


def test_resized_normals_have_unit_length() -> None:
    rng = np.random.default_rng(3)
    source = normalize(rng.normal(size=(16, 16, 3)).astype(np.float32))
    for size in (5, 40):
        out = resize(Raster(source, Meaning.NORMAL), size, size).pixels
        np.testing.assert_allclose(np.linalg.norm(out, axis=2), 1, atol=1e-5)
        assert (out[:, :, 2] >= 0).all()


def test_enlarged_data_keeps_its_range() -> None:
    steps = np.zeros((8, 8, 1), dtype=np.float32)
    steps[:, 4:] = 1
    out = resize(Raster(steps, Meaning.DATA), 37, 37).pixels
    assert out.min() >= 0
    assert out.max() <= 1


@pytest.mark.parametrize(
    ("size", "side", "wanted"),
    [((2048, 1024), 512, (512, 256)), ((100, 3), 10, (10, 1)), ((7, 9), None, (7, 9))],
)
def test_fit_size_keeps_the_aspect(
    size: tuple[int, int], side: int | None, wanted: tuple[int, int]
) -> None:
    assert fit_size(*size, side) == wanted


def test_sizes_without_pixels_are_refused() -> None:
    raster = Raster(np.zeros((4, 4, 1), np.float32), Meaning.DATA)
    with pytest.raises(errors.RangeError, match="is empty"):
        resize(raster, 0, 4)
    with pytest.raises(errors.RangeError, match="at least 1"):
        fit_size(4, 4, 0)


@pytest.mark.parametrize("meaning", list(Meaning))
def test_rasters_check_their_shape(meaning: Meaning) -> None:
    with pytest.raises(errors.ShapeError, match=meaning):
        Raster(np.zeros((4, 4, 2), np.float32), meaning)


def test_grey_pictures_answer_for_red_green_and_blue() -> None:
    picture = Picture(np.full((2, 2, 2), 9, np.uint8), ("Y", "A"), Encoding.SRGB)
    assert picture.channel("G")[0, 0] == 9
    with pytest.raises(errors.ChannelError, match=r"no channel Z\. It has Y, A"):
        picture.channel("Z")


def test_every_kind_has_facts_that_fit_together() -> None:
    for kind in MapKind:
        facts = kind.facts
        assert len(facts.neutral) == len(facts.components)
        assert facts.title


def test_error_codes_are_stable_words() -> None:
    assert errors.NotAPictureError().code == "not_a_picture"
    assert errors.UnknownTargetError().code == "unknown_target"
    assert errors.CancelledError().message == "Cancelled."
