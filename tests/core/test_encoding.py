"""Codes and values against the standard's own numbers and round trips over every code."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from copper_sieve.core.errors import RangeError
from copper_sieve.core.image.encoding import (
    decode_color,
    dequantize,
    linear_to_srgb,
    luminance,
    max_code,
    quantize,
    srgb_to_linear,
)


@pytest.mark.parametrize(
    ("srgb", "linear"),
    [
        (0.0, 0.0),
        (0.04045, 0.04045 / 12.92),  # the joint of the two pieces
        (0.5, 0.21404114),
        (188 / 255, 0.50288646),
        (1.0, 1.0),
    ],
)
def test_srgb_curve_at_known_values(srgb: float, linear: float) -> None:
    assert srgb_to_linear(srgb) == pytest.approx(linear, abs=2e-7)
    assert linear_to_srgb(linear) == pytest.approx(srgb, abs=2e-6)


@pytest.mark.parametrize("bits", [8, 16])
def test_every_code_survives_the_way_through_linear_light(bits: int) -> None:
    codes = np.arange(max_code(bits) + 1).astype(np.uint8 if bits == 8 else np.uint16)
    again = quantize(linear_to_srgb(decode_color(codes, srgb=True)), bits)
    np.testing.assert_array_equal(again, codes)


@pytest.mark.parametrize("bits", [8, 16])
def test_every_code_survives_as_data(bits: int) -> None:
    codes = np.arange(max_code(bits) + 1).astype(np.uint8 if bits == 8 else np.uint16)
    np.testing.assert_array_equal(quantize(dequantize(codes), bits), codes)


def test_quantize_rounds_to_nearest_and_clamps() -> None:
    values = [-0.1, 0.0, 0.4 / 255, 0.6 / 255, 0.5, 1.0, 1.5, np.nan, np.inf]
    np.testing.assert_array_equal(quantize(values, 8), [0, 0, 0, 1, 128, 255, 255, 0, 255])


@given(st.floats(0, 1, width=32), st.floats(0, 1, width=32))
def test_srgb_encoding_keeps_the_order(a: float, b: float) -> None:
    low, high = sorted((a, b))
    assert linear_to_srgb(low) <= linear_to_srgb(high) + 1e-6


def test_float_codes_pass_unchanged() -> None:
    values = np.array([[-2.5, 0.25, 7.0]], dtype=np.float32)
    np.testing.assert_array_equal(dequantize(values), values)
    np.testing.assert_array_equal(decode_color(values, srgb=False), values)


def test_luminance_weights_are_those_of_rec_709() -> None:
    primaries = np.eye(3, dtype=np.float32)[None]
    np.testing.assert_allclose(luminance(primaries)[0], [0.2126, 0.7152, 0.0722])


def test_other_depths_are_refused() -> None:
    with pytest.raises(RangeError, match="8 or 16 bits, not 12"):
        max_code(12)
