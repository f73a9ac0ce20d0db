"""Damage at the joints of a tile: patches that don't occur in the picture.

Broken courses, wedges, cut objects and ghosting all differ from the rest of the picture, even if
the seam itself is smooth. Patches across the joint are searched in the picture, and their
similarity is compared with that of the picture's own patches to the rest of it: a regular pattern
matches itself almost exactly and shows the smallest damage, a random surface hardly matches itself
and tolerates more.

References: D. Simakov et al., "Summarizing visual data using bidirectional similarity", 2008
(coherence measure).
"""

from __future__ import annotations

from contextlib import AbstractContextManager, nullcontext
from dataclasses import dataclass
from functools import cache
from typing import Any, Literal

import cv2
import numpy as np
import scipy  # its parts are loaded when they are used
from numba import njit, prange
from numpy.typing import NDArray

from copper_sieve.core.image.raster import Float

Place = Literal["across", "down", "corner"]
Places = NDArray[np.int64]

# Samples of the longer side and of a piece's: from a quarter of the picture down to a 64th.
_SCALES = ((64, 16), (128, 16), (256, 16), (256, 8), (512, 8))
_COEFFICIENTS = 6  # of a piece's cosine transform, each way
_RIM = 12  # share of a side: areas closer to the borders are affected by delighting
_REFERENCES = 3000
_INSIDE = 400
_QUERIES = 400
_CORNER = 120
# From the worst likeness inside (95th percentile) towards that of strangers: from there it breaks.
# The pieces at the corner are nearly one and the same, so that it takes more there.
_STRANGE: dict[Place, float] = {"across": 0.15, "down": 0.15, "corner": 0.35}


@dataclass(frozen=True, slots=True)
class Structure:
    """Share of the patches across the joints that don't occur in the picture, 0 to 1.

    broken : at the worst position and size
    where : that position
    """

    broken: float
    where: Place


@dataclass(frozen=True, slots=True)
class _Scale:
    step: int  # texels from sample to sample
    piece: int  # samples of a piece's side
    places: Places
    pieces: Float


class PictureStructure:
    """Patches of a picture, with which tiles made from it are compared.

    seen : (H, W, C) float32, in a perceptually uniform encoding
    """

    def __init__(self, seen: Float) -> None:
        self._rng = np.random.default_rng(1)
        self._known: dict[tuple[int, ...], dict[Place, float]] = {}
        self._scales = [
            scale
            for side, piece in _SCALES
            if (scale := self._scale(seen, max(1, round(max(seen.shape[:2]) / side)), piece))
            is not None
        ]

    def _scale(self, seen: Float, step: int, piece: int) -> _Scale | None:
        rim = [side // _RIM for side in seen.shape[:2]]
        rows, columns = (
            side - piece * step - 2 * edge for side, edge in zip(seen.shape[:2], rim, strict=True)
        )
        if min(rows, columns) < piece * step:
            return None
        smooth = _averaged(seen, step)
        places = np.stack(
            [rim[0] + self._rng.integers(0, rows + 1, _REFERENCES),
             rim[1] + self._rng.integers(0, columns + 1, _REFERENCES)], axis=1,
        )  # fmt: skip
        return _Scale(step, piece, places, _pieces(smooth, places, step, piece))

    def measure(
        self,
        tile: Float,
        overlap: tuple[int, int],
        turn: AbstractContextManager[Any] | None = None,
    ) -> Structure:
        """Measure the damage to the structure in a tile.

        Parameters
        ----------
        tile : (h, w, C) float32, encoded like the picture; overlaps at the left and upper border
        overlap : texels in which the borders overlap, across and down; 0: no overlap
        turn : context manager entered for each part of the work, so that other threads can run

        Returns
        -------
        Structure
        """
        turn = turn or nullcontext()
        worst = Structure(0.0, "across")
        for scale in self._scales:
            if min(tile.shape[:2]) < 2 * scale.piece * scale.step:
                continue
            with turn:
                found = self._broken(scale, tile, overlap)
            for where, share in found.items():
                if share > worst.broken:
                    worst = Structure(share, where)
        return worst

    def _broken(self, scale: _Scale, tile: Float, overlap: tuple[int, int]) -> dict[Place, float]:
        period = tile.shape[0], tile.shape[1]
        limits = self._limits(scale, period)
        smooth = _averaged(tile, scale.step, wrap=True)
        found: dict[Place, float] = {}
        for where, places in self._queries(scale, period, overlap).items():
            pieces = _pieces(smooth, places, scale.step, scale.piece)
            unlike = _Likeness.of(scale, pieces, places, period).nearest(period, where)
            found[where] = float((unlike > limits[where]).mean())
        return found

    def _limits(self, scale: _Scale, period: tuple[int, int]) -> dict[Place, float]:
        """Return the distance from which a patch matches nothing, for each position of a joint."""
        key = scale.step, scale.piece, *period
        if key not in self._known:
            others = np.roll(scale.pieces, len(scale.pieces) // 2, axis=0)
            stranger = float(np.median(np.sqrt(((scale.pieces - others) ** 2).mean(axis=1))))
            inside = _Likeness.of(scale, scale.pieces[:_INSIDE], scale.places[:_INSIDE], period)
            self._known[key] = limits = {}
            for where, share in _STRANGE.items():
                usual = float(np.quantile(inside.nearest(period, where), 0.95))
                limits[where] = usual + share * max(0.0, stranger - usual) + 1e-4
        return self._known[key]

    def _queries(
        self, scale: _Scale, period: tuple[int, int], overlap: tuple[int, int]
    ) -> dict[Place, Places]:
        """Return the positions of patches across each joint, rows and columns."""
        reach, piece = scale.piece * scale.step // 4, scale.piece * scale.step
        rows, columns = period
        spans = [(reach - piece, max(lap, 0) - reach) for lap in overlap]

        def drawn(low: int, high: int, count: int) -> Places:
            return self._rng.integers(low, max(high, low + 1), count)

        # Each joint for itself; where both cross is the corner.
        clear = (0, max(1, rows - piece)), (0, max(1, columns - piece))
        return {
            "across": np.stack([drawn(*clear[0], _QUERIES), drawn(*spans[0], _QUERIES)], axis=1),
            "down": np.stack([drawn(*spans[1], _QUERIES), drawn(*clear[1], _QUERIES)], axis=1),
            "corner": np.stack([drawn(*spans[1], _CORNER), drawn(*spans[0], _CORNER)], axis=1),
        }


def _averaged(values: Float, step: int, *, wrap: bool = False) -> Float:
    """Return means of `step` by `step` texels at every texel; wrapped or mirrored."""
    if step == 1:
        return np.ascontiguousarray(values)
    wide = values
    if wrap:
        wide = np.pad(values, ((0, step), (0, step), (0, 0)), mode="wrap")
    box = cv2.blur(np.ascontiguousarray(wide), (step, step), anchor=(0, 0))
    return np.asarray(box.reshape(wide.shape)[: values.shape[0], : values.shape[1]], np.float32)


def _pieces(smooth: Float, places: Places, step: int, piece: int) -> Float:
    """Return the patches at positions as the low part of their cosine transform: (N, D)."""
    low = np.empty((len(places), _COEFFICIENTS, _COEFFICIENTS, smooth.shape[2]), np.float32)
    _transform(np.ascontiguousarray(smooth), places, step, _basis(piece), low)
    return low.reshape(len(places), -1)


@njit(parallel=True, cache=True, nogil=True, error_model="numpy")
def _transform(smooth: Float, places: Places, step: int, basis: Float, low: Float) -> None:
    height, width, channels = smooth.shape
    count, piece = basis.shape
    for n in prange(len(places)):
        line = np.empty(piece * channels, np.float32)
        down = np.zeros((count, piece * channels), np.float32)
        for a in range(piece):
            row = (places[n, 0] + a * step) % height
            for q in range(piece):
                column = (places[n, 1] + q * step) % width
                for c in range(channels):
                    line[q * channels + c] = smooth[row, column, c]
            for u in range(count):
                factor = basis[u, a]
                for k in range(piece * channels):
                    down[u, k] += factor * line[k]
        for u in range(count):
            for v in range(count):
                for c in range(channels):
                    total = np.float32(0)
                    for q in range(piece):
                        total += basis[v, q] * down[u, q * channels + c]
                    low[n, u, v, c] = total


@cache
def _basis(piece: int) -> Float:
    """Return the lowest cosines along a patch, (coefficients, patch)."""
    cosines = scipy.fft.dct(np.eye(piece), norm="ortho", axis=0)
    return np.asarray(cosines[:_COEFFICIENTS], np.float32)


@dataclass(frozen=True, slots=True)
class _Likeness:
    """Products of some patches with all of the picture, their squares, and positions."""

    products: Float
    own: Float
    others: Float  # (3, M): squares, rows, columns
    places: Float
    near: int  # texels from piece to piece that have nothing in common
    dimensions: int

    @classmethod
    def of(cls, scale: _Scale, pieces: Float, places: Places, period: tuple[int, int]) -> _Likeness:
        others = np.vstack([(scale.pieces**2).sum(axis=1), (scale.places % np.array(period)).T])
        others = np.ascontiguousarray(others, np.float32)
        return cls(
            pieces @ scale.pieces.T, (pieces**2).sum(axis=1), others,
            (places % np.array(period)).astype(np.float32), scale.piece * scale.step,
            pieces.shape[1],
        )  # fmt: skip

    def nearest(self, period: tuple[int, int], where: Place) -> Float:
        """Return the distance to the most similar piece elsewhere in the picture.

        Elsewhere excludes the piece's own content: other columns for a vertical joint, other rows
        for a horizontal one, both for a corner.
        """
        bars = self.near if where != "across" else 0, self.near if where != "down" else 0
        least = np.empty(len(self.own), dtype=np.float32)
        _least(self.products, self.own, self.others, self.places, period, bars, least)
        return np.asarray(np.sqrt(np.maximum(least, 0) / self.dimensions), np.float32)


_FAR = np.float32(3e38)
_LANES = 16  # are looked at side by side


@njit(parallel=True, cache=True, nogil=True, error_model="numpy", fastmath={"nnan", "nsz"})
def _least(  # noqa: PLR0917
    products: Float,
    own: Float,
    others: Float,
    places: Float,
    period: tuple[int, int],
    bars: tuple[int, int],
    least: Float,
) -> None:
    """Return the least squared distance to texels displaced by `bars` rows and columns, wrapped."""
    half = np.float32(0.5)
    rows, columns = half * np.float32(period[0]), half * np.float32(period[1])
    low, left = np.float32(bars[0]), np.float32(bars[1])
    squares, other_rows, other_columns = others[0], others[1], others[2]
    blocks = len(squares) // _LANES
    for n in prange(len(own)):
        row, column, product = places[n, 0], places[n, 1], products[n]
        best = np.full(_LANES, _FAR, np.float32)
        for block in range(blocks):
            for lane in range(_LANES):
                m = block * _LANES + lane
                # The shorter way around: half a period minus the difference to half a period.
                down = rows - abs(abs(row - other_rows[m]) - rows)
                across = columns - abs(abs(column - other_columns[m]) - columns)
                far = squares[m] - product[m] - product[m]
                far = far if (down >= low) & (across >= left) else _FAR
                best[lane] = far if far < best[lane] else best[lane]
        for m in range(blocks * _LANES, len(squares)):
            down = rows - abs(abs(row - other_rows[m]) - rows)
            across = columns - abs(abs(column - other_columns[m]) - columns)
            if down >= low and across >= left:
                best[0] = min(best[0], squares[m] - product[m] - product[m])
        nearest = best.min()
        least[n] = own[n] + nearest if nearest < _FAR else 0  # 0: nothing to set it against
