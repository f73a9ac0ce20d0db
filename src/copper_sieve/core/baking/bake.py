"""Bake: for each texel a point of the model, what the surface is there, the mean of all samples."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from copper_sieve.core.baking.baked_map import BAKED_MAPS
from copper_sieve.core.baking.from_detail import (
    Cage,
    Group,
    found_on_detail,
    groups,
    usual_offset,
)
from copper_sieve.core.baking.measures import Measures
from copper_sieve.core.baking.places import Places
from copper_sieve.core.errors import CancelledError, MeshError, ParameterError
from copper_sieve.core.image.padding import nearest_covered
from copper_sieve.core.image.raster import Float
from copper_sieve.core.mesh.covering import covering, samples_in_texel
from copper_sieve.core.mesh.mesh import Mesh, unit

_RAYS_AT_ONCE = 4_000_000  # between two looks at whether to stop
_MOST_AT_ONCE = 1 << 18  # places
_SAMPLES = (1, 4, 9, 16)
_NOWHERE = np.float32(-1e6)  # UVs of what is not drawn
_PROBES = 128  # texels a side by which an offset is measured


@dataclass(frozen=True, slots=True)
class BakeOptions:
    """How maps are taken from a model. Lengths are metres; None means by the model's size.

    width, height : texels; uv_set : which UVs are drawn; tile : which unit square of them
    samples : places looked at in each texel: 1, 4, 9 or 16
    rays : from each of them, for the maps that send rays
    reach : beyond which nothing shades; None: no limit
    ground : a floor under the model shades it too
    alone : each part is shaded by itself only
    thick : the thickness that is 1; None: a tenth of the model
    edge_width : to either side of a hard edge where it counts as curved; None: a hundredth of it
    curve_radius : the radius of an edge whose curvature is 1; None: an edge of 90 degrees is
    offset : of the cage from the simple model; None: measured
    by_name : parts of both models that have the same name belong together
    height_range : metres of height from 0 to 1; None: as much as there is
    """

    width: int = 1024
    height: int = 1024
    uv_set: int = 0
    tile: tuple[int, int] = (0, 0)
    samples: int = 4
    rays: int = 64
    reach: float | None = None
    ground: bool = False
    alone: bool = False
    thick: float | None = None
    edge_width: float | None = None
    curve_radius: float | None = None
    offset: float | None = None
    by_name: bool = False
    height_range: float | None = None

    def __post_init__(self) -> None:
        if self.samples not in _SAMPLES:
            raise ParameterError(f"samples = {self.samples} is not allowed; give 1, 4, 9 or 16")
        if not 1 <= self.rays <= 65536:
            raise ParameterError(f"rays = {self.rays} is not allowed; give 1 to 65,536")
        lengths = ("reach", "thick", "edge_width", "curve_radius", "offset", "height_range")
        for name in lengths:
            length = getattr(self, name)
            if length is not None and not 0 < length < 1e9:
                raise ParameterError(f"{name} = {length} is not allowed; give metres above 0")


@dataclass(slots=True)
class Baked:
    """What was taken from a model.

    maps : by name, (H, W, C) float32 as `BakedMap` says, padded to the border
    covered : (H, W) bool, texels that a triangle lies under
    missed : (H, W) float32, the share of a texel's samples that found no detail; None without
    rays : how many were sent; samples, misses : how many places, and of how many no detail
    height_range : metres of height from 0 to 1, where there is a height
    offset : of the cage, metres, where one was used
    colors : of the masks: for each map the sRGB color of each name, as #rrggbb
    """

    maps: dict[str, Float]
    covered: NDArray[np.bool_]
    missed: Float | None = None
    rays: int = 0
    samples: int = 0
    misses: int = 0
    seconds: float = 0.0
    height_range: float | None = None
    offset: float | None = None
    colors: dict[str, dict[str, str]] = field(default_factory=dict)


def bake(
    mesh: Mesh,
    wanted: Iterable[str],
    options: BakeOptions | None = None,
    detailed: Mesh | None = None,
    cage: Mesh | None = None,
    *,
    material: str | None = None,
    on_progress: Callable[[float], None] | None = None,
    is_cancelled: Callable[[], bool] | None = None,
) -> Baked:
    """Take maps from a model: from itself, or from a detailed version of it.

    mesh : the model with the UVs that are drawn
    detailed : where it lies in front of `mesh`, all is taken from it
    cage : a copy of `mesh` with its corners moved out, where rays to the detailed model start
    material : only its triangles are drawn; the others are still there
    Progress is 0 to 1. Raises MeshError (no UVs in this tile, a cage that does not fit),
    ParameterError for a name that is none of BAKED_MAPS or needs a detailed model, CancelledError.
    """
    options = options or BakeOptions()
    names = list(dict.fromkeys(wanted))
    _check(mesh, names, options, detailed)
    work = _Work(mesh, names, options, detailed, cage, material)
    began = time.monotonic()
    work.run(on_progress, is_cancelled)
    done = work.finished()
    done.seconds = time.monotonic() - began
    return done


def _check(mesh: Mesh, names: list[str], options: BakeOptions, detailed: Mesh | None) -> None:
    for name in names:
        if name not in BAKED_MAPS:
            raise ParameterError(
                f"no map {name} can be taken from a model; there are {', '.join(BAKED_MAPS)}"
            )
        if BAKED_MAPS[name].detail_only and detailed is None:
            raise ParameterError(f"{name} is taken from a detailed model: give one")
        if name == "base_color" and detailed is not None and detailed.colors is None:
            raise ParameterError("the detailed model has no colors at its corners: paint some")
    if options.uv_set >= len(mesh.uvs):
        has = len(mesh.uvs)
        raise MeshError(
            f"the model has {has or 'no'} UV set{'' if has == 1 else 's'}, and set "
            f"{options.uv_set + 1} is asked for: unwrap it first"
        )


class _Work:
    """Sums over samples while they are drawn, and what becomes of them."""

    def __init__(  # noqa: PLR0917
        self,
        mesh: Mesh,
        names: list[str],
        options: BakeOptions,
        detailed: Mesh | None,
        cage: Mesh | None,
        material: str | None,
    ) -> None:
        self._mesh, self._names, self._options, self._detailed = mesh, names, options, detailed
        tile = np.array(options.tile, dtype=np.float32)
        self._uv = mesh.uvs[options.uv_set] - tile
        if material is not None:
            self._uv = np.where(mesh.is_of(material)[:, None, None], self._uv, _NOWHERE)
        self._measures = Measures(mesh, names, options, detailed)
        texels = options.width * options.height
        self._sums = {n: np.zeros((texels, BAKED_MAPS[n].components), np.float32) for n in names}
        self._counts = np.zeros(texels, dtype=np.int32)
        self._missed = np.zeros(texels, dtype=np.int32)
        self._cage: Cage | None = None
        self._groups: list[Group] = []
        self._offset: float | None = None
        if detailed is not None:
            self._prepare_detail(detailed, cage)

    def _prepare_detail(self, detailed: Mesh, cage: Mesh | None) -> None:
        self._groups = list(groups(self._mesh, detailed, self._options.by_name))
        if cage is not None:
            self._cage = Cage.by_model(self._mesh, cage)
            return
        self._offset = self._options.offset
        if self._offset is None:
            probes = Places.of(covering(self._uv, _PROBES, _PROBES))
            self._offset = usual_offset(self._mesh, detailed, probes)
        self._cage = Cage.by_offset(self._mesh, self._offset)

    def run(
        self,
        on_progress: Callable[[float], None] | None,
        is_cancelled: Callable[[], bool] | None,
    ) -> None:
        """Draw every sample and measure it, some thousand at a time."""
        at = samples_in_texel(self._options.samples)
        each = sum(BAKED_MAPS[name].rays for name in self._names) * self._options.rays
        step = max(256, min(_MOST_AT_ONCE, _RAYS_AT_ONCE // max(1, each)))
        for n, sample in enumerate(at):
            drawn = covering(self._uv, self._options.width, self._options.height, sample)
            places = Places.of(drawn)
            for start in range(0, len(places), step):
                if is_cancelled and is_cancelled():
                    raise CancelledError
                self._take(places.chosen(slice(start, start + step)))
                if on_progress:
                    on_progress((n + min(1.0, (start + step) / len(places))) / len(at))
        if not self._counts.any() and not self._missed.any():
            raise MeshError(
                "the model's UVs leave tile "
                f"{self._options.tile[0]}, {self._options.tile[1]} empty: unwrap it into the "
                "square from 0 to 1, or choose another UV set or tile"
            )

    def _take(self, places: Places) -> None:
        for base, on in self._on_surface(places):
            values = self._measures.of(base, on)
            new = self._counts[base.texels] == 0
            for name, value in values.items():
                if BAKED_MAPS[name].exact:
                    self._sums[name][base.texels[new]] = value[new]
                else:
                    self._sums[name][base.texels] += value
            self._counts[base.texels] += 1

    def _on_surface(self, places: Places) -> Iterator[tuple[Places, Places]]:
        """The places, and where on the model that is measured they are."""
        if self._cage is None:
            yield places, places
            return
        for group in self._groups:
            some = places.chosen(group.simple[places.triangles])
            if not len(some):
                continue
            on, met = found_on_detail(self._cage, group, some)
            self._measures.sent += len(some)
            self._missed[some.texels[~met]] += 1
            if met.any():
                yield some.chosen(met), on.chosen(met)

    def finished(self) -> Baked:
        """Means of the samples, in the numbers that are stored, padded to the border."""
        options = self._options
        shape = (options.height, options.width)
        counts, missed = self._counts, self._missed
        found = nearest_covered((counts > 0).reshape(shape)).ravel()
        done = Baked({}, ((counts > 0) | (missed > 0)).reshape(shape))
        for name in self._names:
            one = BAKED_MAPS[name]
            if one.exact:
                values = self._sums.pop(name)
            else:
                values = self._sums.pop(name)
                values /= np.maximum(counts, 1)[:, None]
            if one.stored == "normal":
                values = unit(values)
            if name == "height":
                values, done.height_range = _as_height(values, counts > 0, options.height_range)
            done.maps[name] = values[found].reshape(*shape, one.components)
        done.rays, done.offset = self._measures.sent, self._offset
        done.samples, done.misses = int((counts + missed).sum()), int(missed.sum())
        done.colors = self._measures.colors
        if self._detailed is not None:
            done.missed = (
                (missed / np.maximum(counts + missed, 1)).astype(np.float32).reshape(shape)
            )
        return done


def _as_height(
    metres: Float, there: NDArray[np.bool_], stated: float | None
) -> tuple[Float, float]:
    """Metres as a share of the range, 0.5 is the simple surface; and the range."""
    farthest = float(np.abs(metres[there]).max()) if there.any() else 0.0
    whole = stated or max(2 * farthest, 1e-9)
    return np.clip(0.5 + metres / np.float32(whole), 0, 1).astype(np.float32), whole
