"""The used part of a picture: straightened by four corners, rotated, cropped.

The steps form one mapping from the result to the picture, so it is resampled once. Positions are
fractions of width and height, so one frame fits every map of a set.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numba import njit, prange
from numpy.typing import NDArray

from copper_sieve.core.errors import ShapeError
from copper_sieve.core.image import array_pool
from copper_sieve.core.image.map_kind import Meaning
from copper_sieve.core.image.raster import Float, Raster
from copper_sieve.core.image.resize import resize

Point = tuple[float, float]
Corners = tuple[Point, Point, Point, Point]
Matrix = NDArray[Any]  # (3, 3) float64

WHOLE = (0.0, 0.0, 1.0, 1.0)
_PLAUSIBLE_FOCUS = (0.3, 30.0)  # focal length in diagonals, between which perspective is believed


@dataclass(frozen=True, slots=True)
class Frame:
    """The used part of a picture, in the order of the steps.

    corners : top left, top right, bottom right, bottom left of a rectangle in perspective, as
    fractions of the picture; None: the picture's corners
    aspect : width divided by height of that rectangle; None: computed from the corners
    quarter_turns : clockwise, 0 to 3
    mirror : flip horizontally, after the rotation
    angle : degrees clockwise, -45 to 45; keeps the largest frame of the same shape without empty
    corners
    crop : left, top, right, bottom, as fractions of the straightened and rotated picture
    """

    corners: Corners | None = None
    aspect: float | None = None
    quarter_turns: int = 0
    mirror: bool = False
    angle: float = 0.0
    crop: tuple[float, float, float, float] = WHOLE

    def size(self, width: int, height: int) -> tuple[int, int]:
        """Return the size of the result at the finest texel size, for a picture size."""
        across, down = self._turned(width, height)
        zoom = self._zoom(across, down)
        left, top, right, bottom = self.crop
        return (
            max(1, round(across * zoom * (right - left))),
            max(1, round(down * zoom * (bottom - top))),
        )

    def mapping(self, width: int, height: int) -> Matrix:
        """Return the (3, 3) homography from (u, v, 1) of the result to (x, y, w) of the picture.

        Both are in fractions of width and height.

        Parameters
        ----------
        width, height : size of the picture in texels, for its aspect ratio
        """
        across, down = self._turned(width, height)
        zoom = self._zoom(across, down)
        left, top, right, bottom = self.crop
        crop = np.array([[right - left, 0, left], [0, bottom - top, top], [0, 0, 1]])
        a = np.radians(self.angle)
        scale = np.diag([across, down, 1.0])
        back = np.array([[np.cos(a), np.sin(a), 0], [-np.sin(a), np.cos(a), 0], [0, 0, 1]])
        middle, origin = _shifted(0.5, 0.5), _shifted(-0.5, -0.5)
        spin = middle @ np.linalg.inv(scale) @ back @ np.diag([zoom, zoom, 1]) @ scale @ origin
        mirror = np.array([[-1, 0, 1], [0, 1, 0], [0, 0, 1.0]]) if self.mirror else np.eye(3)
        turn = np.array([[0, 1, 0], [-1, 0, 1], [0, 0, 1.0]])
        turns = np.linalg.matrix_power(turn, self.quarter_turns)
        return np.asarray(self._straightening() @ turns @ mirror @ spin @ crop)

    def direction(self, degrees: float, width: int, height: int) -> float:
        """Convert a direction in the center of the result to one in the picture.

        degrees : counterclockwise from the right, for input and result, 0 to below 360
        width, height : of the picture in texels, for its aspect ratio
        """
        way = np.array([np.cos(np.radians(degrees)), -np.sin(np.radians(degrees))])
        mapping = self.mapping(width, height)
        middle = transform([(0.5, 0.5)], mapping)
        ends = np.vstack([middle, middle + 1e-4 * way / (width, height) * min(width, height)])
        start, end = transform(ends, np.linalg.inv(mapping)) * self.size(width, height)
        across, down = end - start
        return float(np.degrees(np.arctan2(-down, across)) % 360)

    @property
    def is_aligned(self) -> bool:
        """Whether result texels coincide with picture texels, without interpolation."""
        return self.corners is None and not self.angle

    @property
    def keeps_borders(self) -> bool:
        """Borders that met before still meet: all of the picture is used, at most turned."""
        return self.is_aligned and self.crop == WHOLE

    def _straightening(self) -> Matrix:
        if self.corners is None:
            return np.eye(3)
        square = np.array([(0, 0), (1, 0), (1, 1), (0, 1)], dtype=np.float32)
        corners = np.array(self.corners, dtype=np.float32)
        return np.asarray(cv2.getPerspectiveTransform(square, corners), dtype=np.float64)

    def _turned(self, width: float, height: float) -> tuple[float, float]:
        if self.corners is not None:
            width, height = _straightened_size(self.corners, width, height, self.aspect)
        return (height, width) if self.quarter_turns % 2 else (width, height)

    def _zoom(self, across: float, down: float) -> float:
        a = abs(np.radians(self.angle))
        return float(1 / (np.cos(a) + np.sin(a) * max(across / down, down / across)))


def transform(points: Any, mapping: Matrix) -> NDArray[np.float64]:
    """Apply a (3, 3) homography to points (N, 2)."""
    given = np.asarray(points, dtype=np.float64)
    mapped = np.column_stack([given, np.ones(len(given))]) @ mapping.T
    return np.asarray(mapped[:, :2] / mapped[:, 2:])


def is_convex(corners: Corners) -> bool:
    """Return True if four corners form a clockwise convex quadrilateral of sufficient area."""
    points = np.array(corners)
    sides = np.roll(points, -1, axis=0) - points
    after = np.roll(sides, -1, axis=0)
    turns = sides[:, 0] * after[:, 1] - sides[:, 1] * after[:, 0]
    return bool((turns > 1e-4).all())


def seen_aspect(corners: Corners, width: float, height: float) -> float:
    """Return the aspect ratio (width / height) of the rectangle that appears as these corners.

    Assumes a camera whose optical axis passes through the center of the picture; if the result is
    implausible, as for a cropped photo, the ratio of the mean side lengths.

    Parameters
    ----------
    corners : four corners, fractions of width and height
    width, height : size of the picture in texels

    Returns
    -------
    float

    References
    ----------
    Z. Zhang and L. He, Whiteboard scanning and image enhancement, 2007, section 3.
    """
    top_left, top_right, bottom_right, bottom_left = (
        np.array([(x - 0.5) * width, (y - 0.5) * height, 1.0]) for x, y in corners
    )
    across, down = _sides(corners, width, height)
    plain = float(np.mean(across) / np.mean(down))
    k2 = np.cross(top_left, bottom_right) @ bottom_left
    k2 /= np.cross(top_right, bottom_right) @ bottom_left
    k3 = np.cross(top_left, bottom_right) @ top_right
    k3 /= np.cross(bottom_left, bottom_right) @ top_right
    n2, n3 = k2 * top_right - top_left, k3 * bottom_left - top_left
    vanishing = n2[2] * n3[2]
    diagonal = float(np.hypot(width, height))
    square = -(n2[0] * n3[0] + n2[1] * n3[1]) / vanishing if abs(vanishing) > 1e-9 else np.inf
    low, high = (f * diagonal for f in _PLAUSIBLE_FOCUS)
    if not low**2 < square < high**2:
        return plain
    weights = np.array([1 / square, 1 / square, 1.0])
    return float(np.sqrt((n2 * n2) @ weights / ((n3 * n3) @ weights)))


def apply_frame(pixels: Float, frame: Frame, meaning: Meaning, size: tuple[int, int]) -> Float:
    """Return the framed part of a map.

    Interpolation is cubic, reduction by area. Normals are rotated, mirrored and stretched with the
    picture (slopes by the mapping's derivative, without its scale) and renormalized.

    Parameters
    ----------
    pixels : (H, W, C) float32, the whole picture
    frame : the part, its rotation and perspective
    meaning : of the values
    size : width and height of the result in texels

    Returns
    -------
    (height, width, C) float32

    Raises
    ------
    ShapeError : if the frame contains no texel
    """
    rows, columns = pixels.shape[:2]
    if min(size) < 1:
        raise ShapeError(f"a frame of {size[0]} x {size[1]} texels is empty")
    mapping = frame.mapping(columns, rows)
    if frame.is_aligned:
        framed = _sliced(pixels, frame)
    else:
        finest = frame.size(columns, rows)
        at = finest if finest[0] >= size[0] and finest[1] >= size[1] else size
        framed = _warped(pixels, mapping, at)
        low, high = pixels.min(), pixels.max()
        if meaning is not Meaning.NORMAL:
            framed = np.clip(framed, low, high, out=framed)
    framed = resize(Raster(framed, meaning), *size).pixels
    if meaning is not Meaning.NORMAL:
        return framed
    out = array_pool.empty(*framed.shape)
    to_texels = np.diag([columns, rows, 1.0]) @ mapping @ np.diag([1 / size[0], 1 / size[1], 1])
    _turn_slopes(np.ascontiguousarray(framed), to_texels, out)
    return out


def _sliced(pixels: Float, frame: Frame) -> Float:
    """Return unchanged texels, cropped at the nearest texel border."""
    turned = np.rot90(pixels, -frame.quarter_turns)
    if frame.mirror:
        turned = turned[:, ::-1]
    rows, columns = turned.shape[:2]
    left, top, right, bottom = frame.crop
    across = _span(left, right, columns)
    down = _span(top, bottom, rows)
    return np.ascontiguousarray(turned[down, across])


def _span(start: float, end: float, texels: int) -> slice:
    first = min(round(start * texels), texels - 1)
    return slice(first, max(first + 1, round(end * texels)))


def _warped(pixels: Float, mapping: Matrix, size: tuple[int, int]) -> Float:
    rows, columns = pixels.shape[:2]
    half, unhalf = _shifted(0.5, 0.5), _shifted(-0.5, -0.5)
    result = np.diag([1 / size[0], 1 / size[1], 1.0]) @ half
    matrix = unhalf @ np.diag([columns, rows, 1.0]) @ mapping @ result
    warped = cv2.warpPerspective(
        np.ascontiguousarray(pixels), matrix, size,
        flags=cv2.INTER_CUBIC | cv2.WARP_INVERSE_MAP, borderMode=cv2.BORDER_REFLECT_101,
    )  # fmt: skip
    return np.asarray(warped, dtype=np.float32).reshape(size[1], size[0], pixels.shape[2])


@njit(parallel=True, cache=True, nogil=True, error_model="numpy")
def _turn_slopes(vectors: Float, m: Matrix, out: Float) -> None:
    for r in prange(vectors.shape[0]):
        for c in range(vectors.shape[1]):
            u, v = c + 0.5, r + 0.5
            w = m[2, 0] * u + m[2, 1] * v + m[2, 2]
            x = (m[0, 0] * u + m[0, 1] * v + m[0, 2]) / w
            y = (m[1, 0] * u + m[1, 1] * v + m[1, 2]) / w
            xu, xv = (m[0, 0] - x * m[2, 0]) / w, (m[0, 1] - x * m[2, 1]) / w
            yu, yv = (m[1, 0] - y * m[2, 0]) / w, (m[1, 1] - y * m[2, 1]) / w
            scale = 1 / np.sqrt(max(abs(xu * yv - xv * yu), 1e-12))
            # Slopes along columns and rows; rows grow downwards and Y up, hence the signs.
            p, q = -vectors[r, c, 0], vectors[r, c, 1]
            nx = -(xu * p + yu * q) * scale
            ny = (xv * p + yv * q) * scale
            nz = max(vectors[r, c, 2], np.float32(0))
            length = np.sqrt(nx * nx + ny * ny + nz * nz)
            if length < 1e-6:
                nx, ny, nz, length = 0.0, 0.0, 1.0, 1.0
            out[r, c, 0], out[r, c, 1], out[r, c, 2] = nx / length, ny / length, nz / length


def _straightened_size(
    corners: Corners, width: float, height: float, aspect: float | None
) -> tuple[float, float]:
    """Return a size large enough for the texels of the longer of two opposite sides."""
    across, down = (max(pair) for pair in _sides(corners, width, height))
    ratio = aspect or seen_aspect(corners, width, height)
    return max(across, down * ratio), max(down, across / ratio)


def _sides(
    corners: Corners, width: float, height: float
) -> tuple[tuple[float, float], tuple[float, float]]:
    """Return side lengths in texels: top and bottom, left and right."""
    a, b, c, d = (np.array([x * width, y * height]) for x, y in corners)

    def length(side: Any) -> float:
        return float(np.linalg.norm(side))

    return (length(b - a), length(c - d)), (length(d - a), length(c - b))


def _shifted(x: float, y: float) -> Matrix:
    return np.array([[1, 0, x], [0, 1, y], [0, 0, 1.0]])
