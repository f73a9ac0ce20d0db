"""Light directions of a stack of pictures from a ball visible in all of them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from copper_sieve.core.measuring.ball import Ball, centered_ball, find_ball, lamps_by_ball
from copper_sieve.core.measuring.stack import ABOVE, Capture, CaptureStack

_SIDE = 1024  # texels of the longer side at which a ball is looked for
_WIDER = 1.6  # in radii: area that is excluded around it


def find_ball_in_captures(captures: Sequence[Capture]) -> Ball:
    """Detect a ball that is visible in all pictures, in texels.

    Raises
    ------
    MeasureError : if there is none
    """
    stack = CaptureStack(captures)
    width, height = stack.size
    scale = max(1.0, max(width, height) / _SIDE)
    small = stack.reduced(max(1, round(width / scale)), max(1, round(height / scale)))
    ball = find_ball(list(small))
    if scale == 1:
        return ball
    ball = Ball(ball.x * scale, ball.y * scale, ball.radius * scale, ball.kind)
    left, top, side = _around(ball)
    at = replace(ball, x=ball.x - left, y=ball.y - top)
    found = centered_ball(list(stack.raw(left, top, side, side)), at)
    return replace(found, x=found.x + left, y=found.y + top)


def lights_by_ball(captures: Sequence[Capture], ball: Ball) -> list[Capture]:
    """Return the captures with lights determined from a ball, relative to the surface.

    Raises
    ------
    MeasureError : with the picture in which the light can't be determined
    """
    plain = CaptureStack([replace(capture, lamp=ABOVE) for capture in captures])
    width, height = plain.size
    faces, balls = [], []
    for n, capture in enumerate(captures):
        x, y = capture.placement.places(ball.x - width / 2, ball.y - height / 2)
        moved = replace(ball, x=float(x) + width / 2, y=float(y) + height / 2)
        left, top, side = _around(moved)
        faces.append(plain.raw(left, top, side, side, only=n)[0])
        balls.append(replace(moved, x=moved.x - left, y=moved.y - top))
    lamps = lamps_by_ball(faces, balls)
    both = zip(captures, lamps, strict=True)
    return [
        replace(capture, lamp=lamp.turned(capture.placement.rotation)) for capture, lamp in both
    ]


def _around(ball: Ball) -> tuple[int, int, int]:
    """Return the upper left texel and the side of a square around a ball."""
    reach = _WIDER * ball.radius
    return int(ball.x - reach), int(ball.y - reach), int(2 * reach) + 1
