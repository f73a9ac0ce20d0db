"""Light directions from a ball next to the surface, white or mirroring.

Seen from far above, every point of a ball has a known normal. A white ball follows Lambert's law,
so that its brightness shows the direction of the light; a mirror ball reflects the light where
its normal is halfway between light and camera.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from copper_sieve.core.errors import MeasureError
from copper_sieve.core.image.raster import Float
from copper_sieve.core.measuring.light_directions import Lamp

Kind = Literal["white", "shiny"]

_RIM = 0.95  # share of the radius: farther texels may contain background
_LIT = 0.15  # of the brightest: darker is shadow on the ball itself
_TURNS = 10
_FITS = 0.06  # of the brightest: how well a white ball is shaded like one
_GLINT = 0.5  # share of the maximum, above the neighborhood
_SMALL = 0.12  # of a ball's face: a glint is smaller
_FEWEST = 60  # texels of a face
_SIDE = 512  # texels of the longer side at which a ball is looked for
_SMALLEST, _LARGEST = 0.02, 0.25  # of the longer side: its radius
_WANDERS = 0.15  # share of the radius: minimum movement of highlights between pictures
_TRIED = 12
_LIKE_ONE = 0.6  # maximum score of a ball; domed surfaces have 0.8 and more


@dataclass(frozen=True, slots=True)
class Ball:
    """A ball in the pictures.

    x, y : center in texels from the upper left corner
    radius : texels
    kind : "white" (diffuse) or "shiny" (mirror)
    """

    x: float
    y: float
    radius: float
    kind: Kind

    def mask(self, size: tuple[int, int], wider: float = 1.15) -> NDArray[np.bool_]:
        """Return a mask of the ball and its shadow, (H, W) bool.

        Parameters
        ----------
        size : width and height in texels
        wider : factor on the radius
        """
        y, x = np.mgrid[: size[1], : size[0]] + 0.5
        return np.asarray(np.hypot(x - self.x, y - self.y) <= wider * self.radius)


def lamps_by_ball(pictures: Sequence[Float], balls: Sequence[Ball]) -> list[Lamp]:
    """Determine the light of each picture from a ball.

    With a white ball, relative intensities are determined, too.

    Parameters
    ----------
    pictures : (H, W, 3) float32 each, linear light, negative where clipped
    balls : position in each picture

    Returns
    -------
    list of Lamp

    Raises
    ------
    MeasureError : with the picture in which the light can't be determined
    """
    found = []
    for n, (picture, ball) in enumerate(zip(pictures, balls, strict=True)):
        face = _Face.of(picture, ball)
        told = face.by_shade() if ball.kind == "white" else face.by_glint()
        if told is None:
            what = "isn't shaded like a ball" if ball.kind == "white" else "has no highlight"
            raise MeasureError(
                f"the ball in picture {n + 1} {what}. Give its position and type (white or "
                "mirror), or the light direction"
            )
        found.append(told)
    if balls[0].kind == "shiny":
        return [Lamp(direction) for direction, _ in found]
    mean = float(np.mean([intensity for _, intensity in found]))
    return [Lamp(direction, intensity=intensity / mean) for direction, intensity in found]


def find_ball(pictures: Sequence[Float]) -> Ball:
    """Detect the white or mirror ball that is visible in all pictures.

    Parameters
    ----------
    pictures : (H, W, 3) float32 each, linear light

    Raises
    ------
    MeasureError : if there is none
    """
    best, least = None, np.inf
    for ball in _circles(pictures):
        for kind in ("white", "shiny"):
            tried = Ball(ball.x, ball.y, ball.radius, kind)
            cost = _badness(pictures, tried)
            if cost < least:
                best, least = tried, cost
    if best is None or least > _LIKE_ONE:
        raise MeasureError(
            "no ball was detected in all pictures. Give its position as X:Y:RADIUS in "
            "pixels, or the light direction of each picture"
        )
    return centered_ball(pictures, best)


@dataclass(frozen=True, slots=True)
class _Face:
    """The visible part of a ball in a picture.

    normal : (N, 3)
    bright : (N,), clipped values are at maximum
    seen : (N,), False where clipped
    """

    normal: NDArray[np.float64]
    bright: NDArray[np.float64]
    seen: NDArray[np.bool_]

    @classmethod
    def of(cls, picture: Float, ball: Ball) -> _Face:
        height, width = picture.shape[:2]
        r = ball.radius
        left, top = max(0, int(ball.x - r)), max(0, int(ball.y - r))
        right, end = min(width, int(ball.x + r) + 2), min(height, int(ball.y + r) + 2)
        x = (np.arange(left, right) + 0.5 - ball.x) / r
        y = (ball.y - np.arange(top, end) - 0.5) / r
        gx, gy = np.meshgrid(x, y)
        inside = gx * gx + gy * gy < _RIM * _RIM
        z = np.sqrt(np.maximum(1 - gx * gx - gy * gy, 0))
        light = picture[top:end, left:right]
        clipped = np.any(light < 0, axis=-1)
        grey = np.where(clipped, max(1.0, float(light.max(initial=0))), light.mean(-1))
        normal = np.stack([gx, gy, z], -1)[inside]
        return cls(normal, grey[inside].astype(np.float64), ~clipped[inside])

    def by_shade(self) -> tuple[tuple[float, float, float], float] | None:
        """Return direction and strength of the light on a white ball; None if no light fits."""
        if len(self.bright) < _FEWEST:
            return None
        most = float(np.percentile(self.bright, 99))
        used = self.seen & (self.bright > _LIT * most)
        pull: NDArray[np.float64] = np.zeros(3)
        for _ in range(_TURNS):
            if used.sum() < _FEWEST:
                return None
            found = np.linalg.lstsq(self.normal[used], self.bright[used], rcond=None)[0]
            pull = np.asarray(found, np.float64)
            due = self.normal @ pull
            near = np.abs(self.bright - due) < 3 * _FITS * most
            used = self.seen & (due > _LIT * most) & near
        left = (self.bright - np.maximum(self.normal @ pull, 0))[self.seen]
        intensity = float(np.linalg.norm(pull))
        if pull[2] <= 0 or intensity <= 0 or np.median(np.abs(left)) > _FITS * most:
            return None
        x, y, z = pull / intensity
        return (float(x), float(y), float(z)), intensity

    def by_glint(self) -> tuple[tuple[float, float, float], float] | None:
        """Return the light direction from the highlight on a mirror ball; None: no highlight.

        Seen from above, the light is the mirrored view direction: l = 2 (n . v) n - v.
        """
        found = self.glint()
        if found is None:
            return None
        nx, ny, _ = found
        nz = float(np.sqrt(max(1 - nx * nx - ny * ny, 0)))
        direction = (2 * nz * nx, 2 * nz * ny, 2 * nz * nz - 1)
        return (direction, 1.0) if direction[2] > 0 else None

    def glint(self) -> tuple[float, float, float] | None:
        """Return position (in radii, right and up) and share of the highlight on the ball."""
        if len(self.bright) < _FEWEST:
            return None
        around = float(np.median(self.bright))
        above = self.bright - around
        most = float(above.max())
        if most <= max(around, 1e-4):
            return None
        weight = np.where(above > _GLINT * most, above, 0)
        share = float((weight > 0).mean())
        if share > _SMALL:
            return None
        x, y = (float((weight * self.normal[:, axis]).sum() / weight.sum()) for axis in (0, 1))
        spread = np.hypot(self.normal[:, 0] - x, self.normal[:, 1] - y)
        if float((weight * spread).sum() / weight.sum()) > 0.3:  # several bright places
            return None
        return x, y, share


def _circles(pictures: Sequence[Float]) -> list[Ball]:
    """Return round objects, at the size of the pictures."""
    height, width = pictures[0].shape[:2]
    scale = max(1.0, max(width, height) / _SIDE)
    size = max(1, round(width / scale)), max(1, round(height / scale))
    # In the brightest of all pictures a ball's outline is whole, however its sides are shaded.
    every = np.max([cv2.resize(np.maximum(one.mean(-1), 0), size, interpolation=cv2.INTER_AREA)
                    for one in pictures], axis=0)  # fmt: skip
    mean = np.mean([cv2.resize(np.maximum(one.mean(-1), 0), size, interpolation=cv2.INTER_AREA)
                    for one in pictures], axis=0)  # fmt: skip
    found = []
    longer = max(size)
    for grey in (every, mean):
        level = max(float(np.percentile(grey, 99.5)), 1e-6)
        codes = np.round(255 * np.sqrt(np.clip(grey / level, 0, 1))).astype(np.uint8)
        codes = cv2.GaussianBlur(codes, (0, 0), 1.2)
        for most in (40, 25, 15):
            circles = cv2.HoughCircles(
                codes, cv2.HOUGH_GRADIENT, 1, minDist=longer * _SMALLEST, param1=120, param2=most,
                minRadius=max(4, round(longer * _SMALLEST)), maxRadius=round(longer * _LARGEST),
            )  # fmt: skip
            if circles is not None:
                some = np.asarray(circles).reshape(-1, 3)[:_TRIED]
                found += [Ball((x + 0.5) * scale, (y + 0.5) * scale, r * scale, "white")
                          for x, y, r in some.tolist()]  # fmt: skip
                break
    return found


def _badness(pictures: Sequence[Float], ball: Ball) -> float:
    """Return how little a circle looks like a ball in all pictures; from 1 on it isn't one."""
    faces = [_Face.of(one, ball) for one in pictures]
    if ball.kind == "shiny":
        glints = [face.glint() for face in faces]
        places = [one for one in glints if one is not None]
        if len(places) < len(glints):
            return 1.0 + len(glints) - len(places)
        spread = float(np.std([one[:2] for one in places], axis=0).max())
        return float(np.mean([one[2] for one in places])) / _SMALL if spread > _WANDERS else 1.0
    total, towards = 0.0, []
    for face in faces:
        told = face.by_shade()
        if told is None:
            return 2.0
        due = np.maximum(face.normal @ (np.array(told[0]) * told[1]), 0)
        left = np.abs(face.bright - due)[face.seen]
        total += float(np.median(left) / max(due.max(), 1e-6)) / _FITS
        towards.append(told[0])
    same = float(np.std(towards, axis=0).max()) < 0.05  # a round spot of color under any light
    return 1.0 if same else total / len(faces)


def centered_ball(pictures: Sequence[Float], ball: Ball) -> Ball:
    """Refine the position and radius of a ball."""
    if ball.kind == "white":
        return _nearer(ball, lambda one: _badness(pictures, one))
    mean = np.mean([np.maximum(one.mean(-1), 0) for one in pictures], axis=0).astype(np.float32)
    return _nearer(ball, lambda one: -_outline(mean, one))


def _outline(grey: Float, ball: Ball) -> float:
    """Return the contrast between inside and outside of the outline, without the highlight."""
    turn = np.linspace(0, 2 * np.pi, 180, endpoint=False)
    step = max(1.0, 0.05 * ball.radius)
    rings = []
    for radius in (ball.radius - step, ball.radius + step):
        x = (ball.x - 0.5 + radius * np.cos(turn)).astype(np.float32)[None]
        y = (ball.y - 0.5 + radius * np.sin(turn)).astype(np.float32)[None]
        rings.append(cv2.remap(grey, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE))
    return float(abs(np.mean(rings[1] - rings[0])))


def _nearer(ball: Ball, cost: Callable[[Ball], float]) -> Ball:
    """Refine a ball by descent, with steps from a twelfth to a hundredth of its radius."""
    best, least = ball, cost(ball)
    for step in (0.08, 0.04, 0.02, 0.01):
        for _ in range(6):
            size = step * ball.radius
            ways = [(size, 0, 0), (-size, 0, 0), (0, size, 0), (0, -size, 0), (0, 0, size),
                    (0, 0, -size)]  # fmt: skip
            tries = [Ball(best.x + a, best.y + b, best.radius + c, best.kind) for a, b, c in ways]
            costs = [cost(one) for one in tries]
            n = int(np.argmin(costs))
            if costs[n] >= least:
                break
            best, least = tries[n], costs[n]
    return best
