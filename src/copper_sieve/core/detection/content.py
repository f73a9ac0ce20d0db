"""Detect the map kind from a picture's values, where its name doesn't state it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import cv2
import numpy as np

from copper_sieve.core.image.raster import Codes, Float, Picture

_SEEN_SIDE = 512  # texels of the longer side that are looked at
_EQUAL = 1.5 / 255
_CONSTANT = 1.5 / 255
_COLORED = 0.02  # mean difference of the largest and the smallest of R, G, B
_BLOCK = 8
_LOSSY = 1.13
_PEAK = 1.08

Vectors = Literal["tangent", "two_channels", "object", "none"]


@dataclass(frozen=True, slots=True)
class ChannelStatistics:
    """Statistics of one channel, of values in [0, 1].

    ends : share of texels within 0.04 of 0 or 1
    detail : standard deviation of structures smaller than about four texels
    """

    name: str
    low: float
    high: float
    mean: float
    median: float
    deviation: float
    ends: float
    detail: float

    @property
    def constant(self) -> bool:
        """No more than a code's difference."""
        return self.high - self.low <= _CONSTANT

    @property
    def binary(self) -> bool:
        """Nearly all black or white, and some of both."""
        return self.ends > 0.93 and self.low < 0.1 and self.high > 0.9


@dataclass(frozen=True, slots=True)
class Content:
    """Properties of a picture's values.

    equal : R, G and B are equal
    colored : mean difference of the largest and smallest of R, G and B
    correlation : lowest correlation between two of R, G and B; 1 if fewer than two vary
    vectors : tangent-space normals, the same without z, object-space normals, or none
    flat : all normals have the same direction
    length_error : mean of |length - 1| of the vectors, as stored
    below : share of texels with z below 0
    blocky : steps at every eighth texel, as in lossy files
    """

    channels: tuple[ChannelStatistics, ...]
    equal: bool
    colored: float
    correlation: float
    vectors: Vectors
    flat: bool
    length_error: float
    below: float
    blocky: bool

    def channel(self, name: str) -> ChannelStatistics | None:
        """Return the statistics of a channel by its name."""
        return next((one for one in self.channels if one.name == name), None)

    @property
    def grey(self) -> bool:
        """One value a texel, whether in one channel or in three equal ones."""
        return self.equal


def measure_content(picture: Picture) -> Content:
    """Measure the values of a picture; large ones are subsampled without averaging."""
    names = picture.channels[: picture.codes.shape[2]]
    codes = _thinned(picture.codes)
    values = _values(codes)
    facts = tuple(_facts(name, values[:, :, n]) for n, name in enumerate(names))
    colors = [n for n, name in enumerate(names) if name in "RGB"]
    if len(colors) < 3:
        return Content(facts, True, 0.0, 1.0, "none", False, 1.0, 0.0, _blocky(picture.codes))
    rgb = values[:, :, colors]
    spread = rgb.max(axis=2) - rgb.min(axis=2)
    # A few odd texels do not make a grey picture colored.
    equal = int(np.count_nonzero(spread > _EQUAL)) <= 0.001 * spread.size
    vectors, flat, error, below = _vectors(picture, rgb, [facts[n] for n in colors])
    return Content(
        facts, equal, float(spread.mean()), _alike(rgb), vectors, flat, error, below,
        _blocky(picture.codes),
    )  # fmt: skip


def _thinned(codes: Codes) -> Codes:
    step = max(1, max(codes.shape[:2]) // _SEEN_SIDE)
    return codes[::step, ::step]


def _values(codes: Codes) -> Float:
    if codes.dtype.kind == "u":
        return codes.astype(np.float32) / np.float32(np.iinfo(codes.dtype).max)
    return np.nan_to_num(codes.astype(np.float32), nan=0.0, posinf=65504.0, neginf=-65504.0)


def _facts(name: str, values: Float) -> ChannelStatistics:
    values = np.ascontiguousarray(values)
    soft = cv2.GaussianBlur(values, (0, 0), 2.0)
    return ChannelStatistics(
        name, float(values.min()), float(values.max()), float(values.mean()),
        float(np.median(values)), float(values.std()),
        float(((values < 0.04) | (values > 0.96)).mean()), float((values - soft).std()),
    )  # fmt: skip


def _alike(rgb: Float) -> float:
    flat = rgb.reshape(-1, 3)
    varying = flat[:, flat.std(axis=0) > _CONSTANT]
    if varying.shape[1] < 2:
        return 1.0
    table = np.atleast_2d(np.corrcoef(varying.T))
    return float(table[np.triu_indices(len(table), 1)].min())


def _vectors(
    picture: Picture, rgb: Float, facts: list[ChannelStatistics]
) -> tuple[Vectors, bool, float, float]:
    """Detect vectors, as stored and slightly reduced, where noise and losses have less weight."""
    v = rgb * 2 - 1
    length = np.sqrt((v**2).sum(axis=2))
    error = float(np.abs(length - 1).mean())
    below = float((v[:, :, 2] < -0.02).mean())
    side = _SEEN_SIDE * 2
    # Without subsampling from here on: intermediate values matter for the reduced vectors.
    window = picture.codes[:side, :side][:, :, [picture.channels.index(c) for c in "RGB"]]
    full = _values(window) * 2 - 1
    small = np.asarray(cv2.pyrDown(full) if min(full.shape[:2]) >= 4 else full, np.float32)
    x, y, z = small[:, :, 0], small[:, :, 1], small[:, :, 2]
    stored = np.sqrt(x * x + y * y + z * z)
    tilt = float(np.sqrt(((x - x.mean()) ** 2 + (y - y.mean()) ** 2).mean() / 2))
    rebuilt = np.sqrt(np.clip(1 - x * x - y * y, 0, 1))
    blue = facts[2]
    centered = abs(float(x.mean())) < 0.35 and abs(float(y.mean())) < 0.35
    if blue.constant and (blue.mean < 0.02 or blue.mean > 0.98 or abs(blue.mean - 0.5) < 0.01):
        reconstructed = (
            blue.mean > 0.98 and float(np.quantile(rebuilt, 0.01)) > 2 * blue.mean - 1.03
        )
        inside = float((x * x + y * y <= 1.05).mean()) > 0.98
        apart = tilt > 0.002 and abs(_correlation(x, y)) < 0.9
        if inside and centered and apart and not reconstructed:
            return "two_channels", False, error, 0.0
    alike = min(_correlation(x, y), _correlation(x, z), _correlation(y, z))
    varied = min(float(v[:, :, n].std()) for n in range(3)) > 0.1
    if error < 0.06 and 0.08 < below < 0.92 and varied and alike < 0.5:
        return "object", False, error, below
    off = float(np.abs(z - rebuilt).mean())
    if error < 0.05 and below < 0.01 and off < 0.3 and not (alike > 0.55 and off > 0.02):
        tangent = True
    else:
        tangent = (
            below < 0.03
            and float((stored > 1.1).mean()) < 0.08
            and 0.6 < float(stored.mean()) < 1.06
            and float(stored.std()) < 0.17
            and off < 0.36
            and not (alike > 0.55 and off > 0.04)
            and centered
        )
    flat = tangent and all(one.constant for one in facts)
    return ("tangent" if tangent else "none"), flat, error, below


def _correlation(a: Float, b: Float) -> float:
    a, b = a - a.mean(), b - b.mean()
    size = float(np.sqrt((a * a).sum() * (b * b).sum()))
    return float((a * b).sum()) / size if size > 1e-9 else 0.0


def _blocky(codes: Codes) -> bool:
    """Return True if third differences are larger at one in eight columns and rows."""
    if codes.dtype != np.uint8 or min(codes.shape[:2]) < 6 * _BLOCK:
        return False
    window = codes[:1024, :1024, : min(3, codes.shape[2])].astype(np.int16)
    along = max(_jump(window[:, :, n]) for n in range(window.shape[2]))
    down = max(_jump(window[:, :, n].T) for n in range(window.shape[2]))
    return min(along, down) > _LOSSY


def _jump(values: Codes) -> float:
    third = np.abs(values[:, :-3] - 3 * values[:, 1:-2] + 3 * values[:, 2:-1] - values[:, 3:])
    each = third.mean(axis=0)
    phases = each[: len(each) // _BLOCK * _BLOCK].reshape(-1, _BLOCK).mean(axis=0)
    peak = int(phases.argmax())
    # One peak only: a pattern of the picture's own has several, or a wide one.
    others = [phases[(peak + k) % _BLOCK] for k in range(2, _BLOCK - 1)]
    highest, middle = float(max(others)), float(np.median(phases))
    if middle <= 1e-6 or float(phases.max()) < _PEAK * highest:
        return 0.0
    return float(phases.max()) / middle
