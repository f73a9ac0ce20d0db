"""Measurement from light captures: one node for all maps of a set and size."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from copper_sieve.core.image.raster import Float, Picture
from copper_sieve.core.measuring.flat_field import flat_field_of
from copper_sieve.core.measuring.measure import measure_stack
from copper_sieve.core.measuring.simd_batch import F0
from copper_sieve.core.measuring.stack import Capture, CaptureStack, codes_of, reduce_light
from copper_sieve.core.models.light_captures import CaptureSpec, CapturesSpec
from copper_sieve.core.operations.measured.from_captures import joined

MEASURED_VERSION = 2  # version of the measurement
LIGHT_VERSION = 1  # and one of how pictures are made smaller before that

Size = tuple[int, int]
Take = Callable[[str], Picture]  # a picture by its SHA-256


def light_of_capture(capture: CaptureSpec, size: Size, take: Take) -> Float:
    """Return a reduced picture in linear light, (H, W, 3) float32; NaN where clipped."""
    return reduce_light(codes_of(take(capture.source), capture.encoding), *size)


def measure_node(
    captures: CapturesSpec,
    size: Size,
    lights: Mapping[str, Float],
    take: Take,
    on_progress: Callable[[float], None] | None = None,
) -> Float:
    """Return all measured fields, (H, W, 10) float32; see `from_captures.joined`.

    Parameters
    ----------
    captures : pictures with placements and lights
    size, lights, take : see `capture_stack_of`
    on_progress : called with the completed share, [0, 1]

    Raises
    ------
    MeasureError : with a remedy
    """
    ball = captures.ball.ball(size[0]) if captures.ball else None
    return joined(measure_stack(capture_stack_of(captures, size, lights, take), ball, on_progress))


def capture_stack_of(
    captures: CapturesSpec, size: Size, lights: Mapping[str, Float], take: Take
) -> CaptureStack:
    """Return the used pictures with their placements and lights.

    Parameters
    ----------
    captures : pictures with placements and lights
    size : width and height of the measurement in texels
    lights : reduced pictures by index among the used ones, from `light_of_capture`; empty: the
        pictures have that size
    take : reads a picture by its SHA-256

    Returns
    -------
    CaptureStack
    """
    width = size[0]
    even = None
    if captures.flat_field:
        even = flat_field_of(codes_of(take(captures.flat_field)), "the flat-field picture")
    each = [
        Capture(
            lights[str(n)] if lights else codes_of(take(one.source), one.encoding),
            one.lamp.lamp(), one.exposure, one.placement.placement(width), even,
        )
        for n, one in enumerate(captures.used)
    ]  # fmt: skip
    return CaptureStack(each, captures.light, f0=captures.f0 or F0)
