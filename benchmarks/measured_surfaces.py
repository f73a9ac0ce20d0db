"""Errors of measured surfaces, for each kind of synthetic surface under known lights.

Error of the normals in degrees by least squares over all pictures (R. Woodham, 1980) and by this
program, color difference (mean CIEDE2000), error of the roughness where a highlight is at least a
quarter of the light, and correlation of the height without frequencies above a quarter of the
picture.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from copper_sieve.core.image.color_difference import delta_e_2000, to_lab
from copper_sieve.core.image.encoding import srgb_to_linear
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Float
from copper_sieve.core.measuring.light_directions import Lamp
from copper_sieve.core.measuring.measure import measure
from copper_sieve.core.measuring.stack import Capture
from copper_sieve.core.operations import SurfaceContext, get_operation
from copper_sieve.demo import lamp_pictures as drawn

QUICK = (48, 6, 2)

_LARGE = 0.25  # of the width


@dataclass(frozen=True)
class Figures:
    """plain, ours : degrees; color : CIEDE2000; rough : None where no glint is seen"""

    plain: float
    ours: float
    color: float
    rough: float | None
    height: float


def figures(kind: str, side: int, lamps: list[Lamp]) -> Figures:
    """Of one drawn kind."""
    rng = np.random.default_rng(7)
    true = drawn.SURFACES[kind](side, rng)
    pictures, exposure = drawn.pictures_of(true, lamps, rng, whole_colors=kind == "painted")
    captures = [Capture(one, lamp) for one, lamp in zip(pictures, lamps, strict=True)]
    found = measure(captures, white=exposure, static_camera=True)
    seen = _glints(true, lamps) > 0.25
    off = np.abs(found.roughness[..., 0] - true.roughness)
    return Figures(
        _angle(_plain(pictures, lamps), true.normal),
        _angle(found.normal, true.normal),
        float(delta_e_2000(to_lab(found.color), to_lab(true.color)).mean()),
        float(off[seen].mean()) if seen.mean() > 0.01 else None,
        _agreement(height_of(found.normal), true.height),
    )


def height_of(normal: Float) -> Float:
    """(H, W), as a set makes it."""
    made = get_operation("height_from_normal")
    return made.compute({MapKind.NORMAL: normal}, made.resolve({}), SurfaceContext())[:, :, 0]


def _plain(pictures: list[np.ndarray], lamps: list[Lamp]) -> Float:
    towards = np.stack([lamp.unit for lamp in lamps])
    bright = np.stack([srgb_to_linear(one / 255.0).mean(-1).ravel() for one in pictures])
    found = np.linalg.lstsq(towards, bright, rcond=None)[0].T.reshape(*pictures[0].shape)
    return np.asarray(found / np.maximum(np.linalg.norm(found, axis=-1, keepdims=True), 1e-6))


def _angle(one: Float, other: Float) -> float:
    return float(np.degrees(np.arccos(np.clip((one * other).sum(-1), -1, 1))).mean())


def _glints(true: drawn.SyntheticSurface, lamps: list[Lamp]) -> Float:
    """Return the largest share of highlights in a picture, (H, W)."""
    black = drawn.SyntheticSurface(true.height, true.color * 0, true.roughness)
    shares = [
        drawn.lit_by(black, one).mean(-1) / np.maximum(drawn.lit_by(true, one).mean(-1), 1e-4)
        for one in lamps
    ]
    return np.asarray(np.max(shares, axis=0))


def _agreement(one: Float, other: Float) -> float:
    """Return the correlation of two heights without low frequencies, which are the least certain
    and
    the least visible.
    """
    fine = [a - cv2.GaussianBlur(a, (0, 0), a.shape[1] * _LARGE) for a in (one, other)]
    return float(np.corrcoef(*(a.ravel() for a in fine))[0, 1])


def main(side: int = 512, pictures: int = 8, kinds: int = 8) -> None:
    """Print a row for each of the first kinds of surface."""
    lamps = drawn.ring_of_lamps(pictures)
    print(f"{'':10}{'plain':>8}{'ours':>8}{'ratio':>8}{'ΔE':>8}{'rough':>8}{'height':>8}")
    for kind in list(drawn.SURFACES)[:kinds]:
        one = figures(kind, side, lamps)
        rough = "-" if one.rough is None else f"{one.rough:.3f}"
        print(
            f"{kind:10}{one.plain:7.2f}°{one.ours:7.2f}°{one.ours / one.plain:8.2f}"
            f"{one.color:8.2f}{rough:>8}{one.height:8.3f}"
        )
