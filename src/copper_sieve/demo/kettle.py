"""The tea kettle of Lantern Row: a hammered copper body and a cedar handle, low-poly and high-poly.

`python -m copper_sieve.demo.kettle DIR` writes `kettle.glb` and `kettle_detailed.glb`. Lengths are
in meters; each material has its own UV tile.
"""

from __future__ import annotations

import sys
from collections.abc import Callable
from pathlib import Path

import numpy as np
import scipy  # its parts are loaded when they are used

from copper_sieve.core.mesh.mesh import Mesh
from copper_sieve.demo.patches import Grid, Rect, patch, with_normals, write_model

COPPER, CEDAR = "hammered_copper", "cedar"
# Height along the wall from rim to foot, and the radius there.
_WALL = (0, 0.18, 0.42, 0.72, 0.92, 1), (0.052, 0.078, 0.102, 0.098, 0.08, 0.072)
_TALL = 0.13
_LID = (0, 0.35, 0.75, 1), (0.026, 0.022, 0.009, 0.0)
_COPPER_BODY: Rect = (0.01, 0.01, 0.98, 0.52)
_COPPER_LID: Rect = (0.01, 0.56, 0.42, 0.42)
_COPPER_FOOT: Rect = (0.45, 0.56, 0.26, 0.42)
_COPPER_SPOUT: Rect = (0.73, 0.56, 0.26, 0.42)
_CEDAR_HANDLE: Rect = (0.01, 0.01, 0.98, 0.6)
_CEDAR_KNOB: Rect = (0.01, 0.64, 0.5, 0.35)
_FINER = 14
Relief = Callable[[Grid, Grid], Grid]  # metres outwards, by u and v


def none(u: Grid, _: Grid) -> Grid:
    """Return zero relief."""
    return np.zeros_like(u)


def hammered(u: Grid, v: Grid) -> Grid:
    """Return adjacent hammer marks, a millimeter deep, and a raised band with rivets."""
    rows = v * 9
    across = u * 22 + 0.5 * (np.floor(rows) % 2)
    a, b = across % 1 - 0.5, rows % 1 - 0.5
    blows = -0.0012 * np.clip(1 - (a * a + b * b) * 4, 0, None)
    fade = np.clip((v - 0.2) / 0.06, 0, 1) * np.clip((0.97 - v) / 0.06, 0, 1)
    band = 0.0015 * np.clip(1 - np.abs(v - 0.13) / 0.035, 0, 1) ** 0.5
    c, d = (u * 24) % 1 - 0.5, (v - 0.13) / 0.045
    return np.asarray(blows * fade + band + 0.0016 * np.clip(1 - 9 * c * c - d * d, 0, None) ** 2)


def grained(u: Grid, v: Grid) -> Grid:
    """Return wavy ridges of wood along u, and a few cracks."""
    wander = v + 0.02 * np.sin(2 * np.pi * u) + 0.008 * np.sin(2 * np.pi * 3 * u + 1)
    ridges = 0.0003 * np.sin(2 * np.pi * 26 * wander) + 0.0002 * np.sin(2 * np.pi * 61 * wander)
    crack = np.abs((wander * 5) % 1 - 0.5)
    return np.asarray(ridges - 0.0008 * np.clip(1 - crack / 0.03, 0, None))


def _along(profile: tuple[tuple[float, ...], tuple[float, ...]], v: Grid) -> Grid:
    """Interpolate the points of a profile smoothly, without overshooting them."""
    return np.asarray(scipy.interpolate.PchipInterpolator(*profile)(v))


def _turned(radius: Grid, height: Grid, u: Grid) -> Grid:
    angle = 2 * np.pi * u
    return np.stack([radius * np.sin(angle), height, radius * np.cos(angle)], -1)


def _body(relief: Relief) -> Callable[[Grid, Grid], Grid]:
    return lambda u, v: _turned(_along(_WALL, v) + relief(u % 1, v), _TALL * (1 - v), u)


def _lid(relief: Relief) -> Callable[[Grid, Grid], Grid]:
    def places(u: Grid, v: Grid) -> Grid:
        out = 0.052 * v
        return _turned(
            out,
            _TALL + _along(_LID, v) + 0.5 * np.clip(v / 0.4, 0, 1) * relief(u % 1, 0.2 + 0.6 * v),
            u,
        )

    return places


def _foot(u: Grid, v: Grid) -> Grid:
    return _turned(0.072 * (1 - v), np.full_like(u, 0.0) + 0.004 * v, u)


def _spout(relief: Relief) -> Callable[[Grid, Grid], Grid]:
    """Return the spout, a tube; v goes from its mouth to the wall."""

    def places(u: Grid, v: Grid) -> Grid:
        along = 0.06 + 0.94 * (1 - v)  # where it bends least there is no direction
        middle = np.stack([0.085 + 0.085 * along, 0.055 + 0.075 * along**1.5, 0 * along], -1)
        ahead = np.stack([np.full_like(along, 0.085), 0.1125 * along**0.5, 0 * along], -1)
        ahead /= np.linalg.norm(ahead, axis=-1, keepdims=True)
        side = np.array([0.0, 0.0, 1.0])
        up = np.cross(side, ahead)
        radius = 0.021 - 0.011 * along + 0.3 * relief(u % 1, 0.3 + 0.5 * v)
        angle = 2 * np.pi * u
        around = np.sin(angle)[..., None] * side + np.cos(angle)[..., None] * up
        return np.asarray(middle + radius[..., None] * around)

    return places


def _handle(relief: Relief) -> Callable[[Grid, Grid], Grid]:
    """Return the handle, an arc with a rounded square section; u goes along it."""

    def places(u: Grid, v: Grid) -> Grid:
        angle = np.pi * (0.015 + 0.97 * u)
        middle = np.stack([-0.08 * np.cos(angle), 0.1 + 0.115 * np.sin(angle), 0 * u], -1)
        out = np.stack([-np.cos(angle), np.sin(angle), 0 * u], -1)
        turn = 2 * np.pi * (1 - v)
        square = (np.abs(np.cos(turn)) ** 4 + np.abs(np.sin(turn)) ** 4) ** -0.25
        size = (0.0085 * square + relief(u, v % 1))[..., None]
        side = np.array([0.0, 0.0, 1.0])
        return np.asarray(
            middle + size * (np.cos(turn)[..., None] * out - np.sin(turn)[..., None] * side)
        )

    return places


def _knob(relief: Relief) -> Callable[[Grid, Grid], Grid]:
    def places(u: Grid, v: Grid) -> Grid:
        fall = np.pi * (0.02 + 0.88 * v)
        radius = 0.0135 * np.sin(fall) + 0.5 * relief(u % 1, v)
        return _turned(radius, _TALL + 0.036 + 0.0125 * np.cos(fall), u)

    return places


def kettle(*, high_poly: bool, finer: int = _FINER) -> list[Mesh]:
    """Return one mesh per part; the low-poly version has about 2,000 triangles.

    finer : factor of the high-poly version's subdivisions in both directions
    """
    version, finer = ("high", finer) if high_poly else ("low", 1)
    metal, wood = (hammered, grained) if high_poly else (none, none)
    parts = (
        ("body", COPPER, _COPPER_BODY, _body(metal), 32, 12),
        ("lid", COPPER, _COPPER_LID, _lid(metal), 32, 6),
        ("foot", COPPER, _COPPER_FOOT, _foot, 32, 2),
        ("spout", COPPER, _COPPER_SPOUT, _spout(metal), 16, 8),
        ("handle", CEDAR, _CEDAR_HANDLE, _handle(wood), 28, 12),
        ("knob", CEDAR, _CEDAR_KNOB, _knob(wood), 16, 8),
    )
    return [
        patch(
            with_normals(places),
            across * finer,
            down * finer,
            uv,
            f"{name}_{version}",
            material,
        )
        for name, material, uv, places, across, down in parts
    ]


def write_kettle(folder: Path, *, finer: int = _FINER) -> tuple[Path, Path]:
    """Write the low-poly and the high-poly version as .glb files; see `kettle`."""
    folder.mkdir(parents=True, exist_ok=True)
    found = folder / "kettle.glb", folder / "kettle_detailed.glb"
    for path, high_poly in zip(found, (False, True), strict=True):
        write_model(path, kettle(high_poly=high_poly, finer=finer))
    return found


if __name__ == "__main__":
    print(*write_kettle(Path(sys.argv[1])), sep="\n")
