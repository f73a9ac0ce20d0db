"""Problems of a model's UVs, each with measurements and a picture if possible."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numba import njit
from numpy.typing import NDArray

from copper_sieve.core.image.padding import nearest_covered_texels
from copper_sieve.core.image.raster import Float
from copper_sieve.core.image.tile_layout import TILES_ACROSS, TileLayout, place_of_tile
from copper_sieve.core.mesh.edges import adjacent_sides, turns_of
from copper_sieve.core.mesh.islands import Islands, find_islands, signed_uv_areas, surface_areas
from copper_sieve.core.mesh.mesh import Ids, Mesh
from copper_sieve.core.mesh.rasterization import rasterize
from copper_sieve.core.mesh.tiles import tiles_of
from copper_sieve.core.mesh.welding import weld_vertices

UvRule = Literal[
    "missing", "overlaps", "outside", "mirrored", "gaps", "uneven_density", "degenerate",
    "hard_edges",
]  # fmt: skip
Weight = Literal["info", "warning", "error"]
_OVERLAP = 5e-4  # share of the covered area: less is rounding along borders
_SPREAD = 2.0  # factor from the median texel density above which an island is reported
_HARD_DEGREES = 30.0  # across which a tangent space that is not split shows
_ON_THE_BORDER = 1e-4  # UVs that are so little outside are on the border


@dataclass(frozen=True, slots=True)
class UvFact:
    """A fact about UVs.

    text : description
    evidence : measurements
    triangles : (T,) bool, the affected ones; None for all
    """

    rule: UvRule
    weight: Weight
    text: str
    evidence: str
    triangles: NDArray[np.bool_] | None = None


def check_uvs(
    mesh: Mesh,
    uv_set: int = 0,
    side: int = 1024,
    mips: int | None = None,
    sheet: TileLayout | None = None,
) -> tuple[Islands | None, list[UvFact]]:
    """Check one UV set at a texture size; the most severe facts come first.

    Parameters
    ----------
    mesh : triangles of one material; other materials have their own textures
    uv_set : number of the UV set, from 0
    side : texels per side
    mips : number of mip levels in which islands must not bleed; None: down to 64 texels
    sheet : tile layout of a set with tiles, each of `side` texels

    Returns
    -------
    Islands, or None without UVs; list of UvFact
    """
    if uv_set >= len(mesh.uvs):
        available = f"the model has {len(mesh.uvs) or 'no'} UV set{'s' * (len(mesh.uvs) != 1)}"
        return None, [
            UvFact("missing", "error", f"{available}. Unwrap it first", "nothing to display")
        ]
    islands = find_islands(mesh, uv_set)
    uv = mesh.uvs[uv_set]
    levels = max(0, int(np.log2(max(1, side // 64)))) if mips is None else mips
    found = [
        *_overlaps(uv, side),
        *_outside(uv, sheet),
        *_degenerate(mesh, uv),
        *_thin_gaps(uv, islands, side, levels, sheet),
        *_hard_edges(mesh, uv),
        *_density(islands, side),
        *_mirrored(islands),
    ]
    rank = ("error", "warning", "info")
    return islands, sorted(found, key=lambda one: rank.index(one.weight))


def _overlaps(uv: Float, side: int) -> list[UvFact]:
    tiles = np.floor(uv.mean(1, keepdims=True))
    involved = np.zeros(len(uv), dtype=np.bool_)
    twice = covered = 0
    for tile in np.unique(tiles.reshape(-1, 2), axis=0)[:100]:
        own = np.flatnonzero((tiles[:, 0] == tile).all(1))
        places = (uv[own] - tile.astype(np.float32)).astype(np.float64) * side - 0.5
        first = np.full((side, side), -1, dtype=np.int32)
        again = np.zeros((side, side), dtype=np.int32)
        hit = np.zeros(len(own), dtype=np.bool_)
        _count(places, first, again, hit)
        involved[own] |= hit
        twice += int((again > 0).sum())
        covered += int((first >= 0).sum())
    if not covered or twice <= _OVERLAP * covered:
        return []
    share = twice / covered
    return [
        UvFact(
            "overlaps", "warning",
            f"{share:.1%} of the used UV area is covered more than once; baked maps contain "
                "only one of the overlapping surfaces, unless they are meant to share texels",
            f"{twice:,} of {covered:,} texels, {int(involved.sum()):,} triangles", involved,
        )
    ]  # fmt: skip


@njit(cache=True, nogil=True)
def _count(places: NDArray[np.float64], first: Ids, again: Ids, hit: NDArray[np.bool_]) -> None:
    """Return how often texels are covered by more than one triangle."""
    height, width = first.shape
    for t in range(places.shape[0]):
        ax, ay = places[t, 0, 0], places[t, 0, 1]
        bx, by = places[t, 1, 0] - ax, places[t, 1, 1] - ay
        cx, cy = places[t, 2, 0] - ax, places[t, 2, 1] - ay
        twice = bx * cy - by * cx
        if abs(twice) < 1e-12:
            continue
        top, bottom = max(0.0, np.ceil(ay + min(0.0, by, cy))), np.floor(ay + max(0.0, by, cy))
        left, right = max(0.0, np.ceil(ax + min(0.0, bx, cx))), np.floor(ax + max(0.0, bx, cx))
        for r in range(int(top), int(min(height - 1.0, bottom)) + 1):
            for c in range(int(left), int(min(width - 1.0, right)) + 1):
                x, y = c - ax, r - ay
                b, a = (x * cy - y * cx) / twice, (bx * y - by * x) / twice
                if b < 1e-9 or a < 1e-9 or a + b > 1 - 1e-9:
                    continue
                if first[r, c] >= 0:
                    again[r, c] += 1
                    hit[t] = hit[first[r, c]] = True
                else:
                    first[r, c] = t


def _outside(uv: Float, sheet: TileLayout | None) -> list[UvFact]:
    low = np.array([sheet.left, sheet.top] if sheet else [0, 0]) - _ON_THE_BORDER
    high = low + 2 * _ON_THE_BORDER + ([sheet.columns, sheet.rows] if sheet else [1, 1])
    out = np.asarray(((uv < low) | (uv > high)).any((1, 2)))
    if not out.any():
        return []
    if sheet is None and len(numbers := _in_tiles(uv)) > 1:
        listed = ", ".join(map(str, numbers[:8])) + (" …" if len(numbers) > 8 else "")
        return [
            UvFact(
                "outside", "info",
                f"the UVs use {len(numbers)} tiles; a set with these tiles covers all of "
                    "them, another set only the first",
                f"tiles {listed}", out,
            )
        ]  # fmt: skip
    middle = np.floor(uv[out].mean(1)).astype(int)
    tiles = sorted({(int(u), int(v)) for u, v in middle if (u, v) != (0, 0)})
    listed = ", ".join(f"{u}, {v}" for u, v in tiles[:6]) + (" …" if len(tiles) > 6 else "")
    return [
        UvFact(
            "outside", "warning",
            f"{int(out.sum()):,} of {len(uv):,} triangles are outside "
            + ("the set's tiles" if sheet else "the 0–1 tile"),
            f"u {uv[..., 0].min():.3f} to {uv[..., 0].max():.3f}, v {uv[..., 1].min():.3f} to "
            f"{uv[..., 1].max():.3f}" + (f"; tiles {listed}" if tiles else ""), out,
        )
    ]  # fmt: skip


def _in_tiles(uv: Float) -> list[int]:
    """Return the tiles if every triangle is in one from 1001 on; otherwise an empty list."""
    tile = np.floor(uv.mean(1, keepdims=True))
    within = (uv >= tile - _ON_THE_BORDER) & (uv <= tile + 1 + _ON_THE_BORDER)
    numbered = (tile[..., 0] >= 0) & (tile[..., 0] < TILES_ACROSS) & (tile[..., 1] <= 0)
    return tiles_of(uv) if within.all() and numbered.all() else []


def _degenerate(mesh: Mesh, uv: Float) -> list[UvFact]:
    in_space: NDArray[np.bool_] = surface_areas(mesh) <= 1e-12 * max(mesh.extent, 1e-12) ** 2
    in_uv = np.abs(signed_uv_areas(uv)) <= 1e-12
    either: NDArray[np.bool_] = np.asarray(in_space | in_uv, dtype=np.bool_)
    if not either.any():
        return []
    return [
        UvFact(
            "degenerate", "warning",
            f"{int(either.sum()):,} of {mesh.count:,} triangles have no area; nothing can be "
                "baked for them, and they take the tangents of their neighbors",
            f"{int(in_space.sum()):,} in 3D, {int(in_uv.sum()):,} in UV space", either,
        )
    ]  # fmt: skip


def _thin_gaps(
    uv: Float, islands: Islands, side: int, mips: int, sheet: TileLayout | None
) -> list[UvFact]:
    if len(islands.counts) < 2 or not mips:
        return []
    places = [place_of_tile(number) for number in sheet.numbers] if sheet else [(0, 0)]
    gaps = [smallest_gap(uv - np.array(place, np.float32), islands, side) for place in places]
    gap, between = min(gaps, key=lambda one: side * 4 if one[0] is None else one[0])
    need = 2**mips
    if gap is None or gap >= need:
        return []
    holds = int(np.floor(np.log2(gap))) if gap >= 1 else 0
    either = np.isin(islands.of, between)
    return [
        UvFact(
            "gaps", "warning",
            f"UV islands are only {gap} texel{'s' * (gap != 1)} apart at {side} px; from mip "
                f"level {holds + 1} on their colors bleed into each other, and {mips} levels are "
                f"required. Leave {need} texels",
            f"{gap} texels between UV islands {between[0] + 1} and {between[1] + 1}", either,
        )
    ]  # fmt: skip


def smallest_gap(uv: Float, islands: Islands, side: int) -> tuple[int | None, tuple[int, int]]:
    """Return the smallest gap between two islands in texels, and these islands."""
    drawn = rasterize(uv, side, side)
    if not drawn.covered.any():
        return None, (0, 0)
    found = nearest_covered_texels(drawn.covered)
    own = np.where(drawn.covered, islands.of[np.maximum(drawn.triangles, 0)], -1)
    nearest = own.ravel()[found]
    rows, columns = np.divmod(found, side)
    r, c = np.mgrid[:side, :side]
    away = np.maximum(np.abs(rows - r), np.abs(columns - c))
    least, between = None, (0, 0)
    for step in ((0, 1), (1, 0)):
        here, there = np.s_[: side - step[0], : side - step[1]], np.s_[step[0] :, step[1] :]
        meets = nearest[here] != nearest[there]
        if meets.any():
            gaps = np.where(meets, away[here] + away[there], side * 4)
            at = np.unravel_index(int(gaps.argmin()), gaps.shape)
            if least is None or int(gaps[at]) < least:
                least = int(gaps[at])
                between = (int(nearest[here][at]), int(nearest[there][at]))
    return least, between


def _hard_edges(mesh: Mesh, uv: Float) -> list[UvFact]:
    first, second, ends = adjacent_sides(mesh)
    if not len(first):
        return []
    hard = np.abs(turns_of(mesh, first, second, ends)) > np.radians(_HARD_DEGREES)
    places = weld_vertices(mesh.positions, uv).reshape(-1, 3)
    starts, stops = places.ravel(), np.roll(places, -1, axis=1).ravel()
    joined = (starts[first] == stops[second]) & (stops[first] == starts[second])
    wrong = hard & joined
    if not wrong.any():
        return []
    involved = np.zeros(mesh.count, dtype=np.bool_)
    involved[first[wrong] // 3] = involved[second[wrong] // 3] = True
    length = float(np.linalg.norm(ends[wrong, 1] - ends[wrong, 0], axis=1).sum())
    return [
        UvFact(
            "hard_edges", "info",
            f"{int(wrong.sum()):,} hard edges aren't UV seams; normals baked from a "
                "high-poly model show a line there",
            f"{length:.3g} m of edges with an angle above {_HARD_DEGREES:g}°", involved,
        )
    ]  # fmt: skip


def _density(islands: Islands, side: int) -> list[UvFact]:
    density = islands.densities(side)
    there = density > 0
    if there.sum() < 2:
        return []
    middle = islands.middle_density(side)
    odd = there & ((density > _SPREAD * middle) | (density < middle / _SPREAD))
    if not odd.any():
        return []
    return [
        UvFact(
            "uneven_density", "info",
            f"{int(odd.sum())} of {len(density)} UV islands have more than {_SPREAD:g} "
                f"times, or less than 1/{_SPREAD:g} of, the usual texel density",
            f"{density[there].min():.0f} to {density[there].max():.0f} px/m at {side} px, "
                f"median {middle:.0f}", odd[islands.of],
        )
    ]  # fmt: skip


def _mirrored(islands: Islands) -> list[UvFact]:
    if not islands.turned.any():
        return []
    return [
        UvFact(
            "mirrored", "info",
            f"{int(islands.turned.sum())} of {len(islands.turned)} UV islands are mirrored; "
                "normals there require signed tangents, and text appears reversed",
            f"{float(islands.shares[islands.turned].sum()):.1%} of the texture",
            islands.turned[islands.of],
        )
    ]  # fmt: skip
