"""Detect the green direction of a normal map: the mixed derivatives of a height field are equal.

With slopes p = -x/z along columns and q = -y/z along rows, A = dp/dr and B = dq/dc are equal for
green down and opposite for green up. A and B are computed on the finest texels and reduced from
there, so that they stay exactly equal or opposite in every octave, while noise, whose A and B
are uncorrelated, decreases by a factor of about 20 per octave.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import cv2
import numpy as np
from numba import njit, prange
from numpy.typing import NDArray

from copper_sieve.core.detection.content import Content
from copper_sieve.core.image.map_kind import NormalY
from copper_sieve.core.image.raster import Codes, Float

_OCTAVES = 6
_BLOCKS = 8  # a side, of the jackknife
_LEAST_SIDE = 16
_LEAST_Z = np.float32(0.1)
# Energy of A (or B) in each octave for white noise of variance 1 in the slopes.
_WHITE = np.array([0.5, 0.0226, 1.32e-3, 8.6e-5, 6.2e-6, 4.6e-7])

_LEAST_AGREEMENT = 0.10
_STANDARD_ERRORS = 5.0
_FLOOR = 0.005
_OVER_CODES = 2.0  # times the energy of rounding to codes
_STRONG = 30.0
_OWN = 0.25  # of the largest of the finer octaves, in multiples of white noise
_MANY_CODES = 4.0  # root mean square slope; smaller slopes are dominated by quantization patterns
# Least agreement in strong octaves of a map that nothing was blended into, from octave `since` on,
# after losses of each kind. Reduced maps alias in the finest octave, lossy files damage two.
_PURE = {"none": (0.80, 1), "light": (0.50, 2), "heavy": (0.0, 2)}
_PURE_FINEST = 0.30
_CLEAR = 0.60

Loss = Literal["none", "light", "heavy"]


def detect_compression(stated: Loss, content: Content) -> Loss:
    """Return the compression loss: known from the format, or detected by an 8-texel pattern."""
    return "heavy" if stated == "none" and content.blocky else stated


@dataclass(frozen=True, slots=True)
class Octave:
    """One octave of scale, starting at the finest texels (0).

    agreement : S in [-1, 1]; -1 for Y+, +1 for Y−
    corrected : after subtracting the energy of white noise, estimated in octave 0
    error : standard error of `agreement`, from a block jackknife
    over_codes : energy of A and B as a multiple of the quantization energy
    over_noise : the same for quantization and noise together
    own : whether it contains detail of this scale, not only a residue of the finer octave
    """

    agreement: float
    corrected: float
    error: float
    over_codes: float
    over_noise: float
    own: bool

    @property
    def counts(self) -> bool:
        """Large enough, well above its error and above the rounding."""
        return (
            abs(self.agreement) >= _LEAST_AGREEMENT
            and abs(self.agreement) >= _STANDARD_ERRORS * (self.error + _FLOOR)
            and self.over_codes >= _OVER_CODES
        )


@dataclass(frozen=True, slots=True)
class Direction:
    """Green direction, "up", "down", "mixed" or "unknown", with the confidence in [0, 1].

    leaning : of mixed ones, the direction of the larger part; empty if unknown
    """

    y: str
    confidence: float
    reason: str
    octaves: tuple[Octave, ...] = ()
    leaning: str = ""


def measure_normal_direction(
    x: Codes, y: Codes, z: Codes | None, *, code_step: float, loss: Loss
) -> Direction:
    """Measure the direction of green.

    Parameters
    ----------
    x, y, z : (H, W) codes as stored, 0 to 1/code_step for integers; z None where it is not kept
    code_step : 1 / largest integer code; for float codes in [0, 1] the step of half floats
    loss : what a lossy file did to the picture, so that less agreement is expected

    Raises nothing: what cannot be told is "unknown", with the reason.
    """
    scale = np.float32(2 * (code_step if x.dtype.kind == "u" else 1))
    p, q = np.empty(x.shape, dtype=np.float32), np.empty(x.shape, dtype=np.float32)
    if min(x.shape) < _LEAST_SIDE + 2:
        return Direction("unknown", 0.0, "too small to determine")
    _slopes(x, y, y if z is None else z, z is None, scale, p, q)
    across, down = _mixed_derivatives(p, q)
    octaves = _octaves(across, down, 2 * code_step)
    slope = float(np.sqrt((cv2.norm(p) ** 2 + cv2.norm(q) ** 2) / p.size))
    return _decide(octaves, "heavy" if slope < _MANY_CODES * 2 * code_step else loss)


def _decide(octaves: list[Octave], loss: Loss) -> Direction:
    found = tuple(octaves)
    counting = [one for one in octaves if one.counts]
    if not counting:
        some = any(one.over_codes >= _OVER_CODES for one in octaves)
        why = (
            "neither direction is consistent with a relief"
            if some
            else "it is flat, or its relief runs along one axis only, which fits both directions"
        )
        return Direction("unknown", 0.0, why, found)
    signs = {one.agreement > 0 for one in counting}
    if len(signs) == 2:
        # The most certain octave; blended detail has one scale, relief has many.
        surest_one = max(counting, key=lambda one: abs(one.agreement) / (one.error + _FLOOR))
        return Direction(
            "mixed", 0.0, "coarse and fine detail have opposite green directions", found,
            "down" if surest_one.agreement > 0 else "up",
        )  # fmt: skip
    best = max(abs(one.corrected) for one in counting)
    least, since = _PURE[loss]
    enough = _STRONG if loss == "none" else 10 * _STRONG
    strong = [k for k, one in enumerate(octaves) if one.own and one.over_noise >= enough]
    held_back = any(abs(octaves[k].corrected) < least for k in strong if k >= since)
    if loss == "none" and strong:
        finest = octaves[0]
        held_back |= best < _CLEAR or (0 in strong and abs(finest.corrected) < _PURE_FINEST)
    if held_back:
        return Direction(
            "mixed",
            0.0,
            "part of its detail has the opposite green direction",
            found,
            "down" if counting[0].agreement > 0 else "up",
        )
    y = "down" if counting[0].agreement > 0 else "up"
    surest = max(abs(one.agreement) / (one.error + _FLOOR) for one in counting)
    confidence = min(0.99, best**0.5 * (1 - np.exp(-surest / 8)))
    return Direction(
        y,
        round(float(confidence), 3),
        f"its slopes are only consistent with {NormalY(y).label}",
        found,
    )


def _octaves(across: Float, down: Float, code_step: float) -> list[Octave]:
    sums = []
    for _ in _WHITE:
        if min(across.shape) < _LEAST_SIDE:
            break
        blocks = np.zeros((_BLOCKS, _BLOCKS, 3))
        _sum_blocks(across, down, blocks)
        sums.append(blocks.reshape(-1, 3) / across.size)
        across, down = _halved(across), _halved(down)
    # In multiples of white noise of variance 1 in the slopes.
    agreed = [one[:, 0].sum() / white for one, white in zip(sums, _WHITE, strict=False)]
    energy = [one[:, 1:].sum() / 2 / white for one, white in zip(sums, _WHITE, strict=False)]
    rounding = code_step**2 / 12
    # What does not agree is at most noise, which is the same in every octave.
    noise = min(e - abs(a) for e, a in zip(energy[:3], agreed[:3], strict=True))
    found = []
    for k, parts in enumerate(sums):
        left = parts.sum(axis=0) - parts
        each = 2 * left[:, 0] / np.maximum(left[:, 1] + left[:, 2], 1e-30)
        error = np.sqrt((len(parts) - 1) / len(parts) * ((each - each.mean()) ** 2).sum())
        found.append(
            Octave(
                float(agreed[k] / max(energy[k], 1e-30)),
                float(agreed[k] / max(energy[k] - noise, abs(agreed[k]), 1e-30)),
                float(error),
                float(energy[k] / rounding),
                float(energy[k] / max(rounding, noise)),
                own=energy[k] >= _OWN * max(energy[:k], default=0.0),
            )
        )
    return found


def _halved(values: Float) -> Float:
    return np.asarray(cv2.pyrDown(values), dtype=np.float32)


def _mixed_derivatives(p: Float, q: Float) -> tuple[Float, Float]:
    shape = (p.shape[0] - 2, p.shape[1] - 2)
    across, down = np.empty(shape, dtype=np.float32), np.empty(shape, dtype=np.float32)
    _differ(p, q, across, down)
    return across, down


@njit(parallel=True, cache=True, nogil=True, error_model="numpy")
def _slopes(  # noqa: PLR0917
    x: Codes, y: Codes, z: Codes, rebuild: bool, scale: np.float32, p: Float, q: Float
) -> None:
    one, none = np.float32(1), np.float32(0)
    for r in prange(x.shape[0]):
        for c in range(x.shape[1]):
            nx = np.float32(x[r, c]) * scale - one
            ny = np.float32(y[r, c]) * scale - one
            if rebuild:
                nz = np.sqrt(max(none, one - nx * nx - ny * ny))
            else:
                nz = np.float32(z[r, c]) * scale - one
            inverse = -one / max(nz, _LEAST_Z)
            p[r, c], q[r, c] = nx * inverse, ny * inverse


@njit(parallel=True, cache=True, nogil=True, error_model="numpy")
def _differ(p: Float, q: Float, across: Float, down: Float) -> None:
    half = np.float32(0.5)
    for r in prange(across.shape[0]):
        for c in range(across.shape[1]):
            across[r, c] = (p[r + 2, c + 1] - p[r, c + 1]) * half
            down[r, c] = (q[r + 1, c + 2] - q[r + 1, c]) * half


@njit(parallel=True, cache=True, nogil=True, error_model="numpy")
def _sum_blocks(across: Float, down: Float, sums: NDArray[np.float64]) -> None:
    rows, columns = across.shape
    n = sums.shape[0]
    for i in prange(n):
        for k in range(n):
            for r in range(rows * i // n, rows * (i + 1) // n):
                ab, aa, bb = np.float32(0), np.float32(0), np.float32(0)
                for c in range(columns * k // n, columns * (k + 1) // n):
                    a, b = across[r, c], down[r, c]
                    ab += a * b
                    aa += a * a
                    bb += b * b
                sums[i, k, 0] += ab
                sums[i, k, 1] += aa
                sums[i, k, 2] += bb
