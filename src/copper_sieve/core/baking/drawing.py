"""One tile of a bake: samples are rasterized, measured in blocks of some thousand, and averaged."""

from __future__ import annotations

from collections.abc import Callable, Iterator

import numpy as np

from copper_sieve.core.baking.baked_map import BAKED_MAPS
from copper_sieve.core.baking.from_detail import (
    Cage,
    MatchedParts,
    default_offset,
    match_parts,
    project_to_high_poly,
)
from copper_sieve.core.baking.measures import ModelSampler
from copper_sieve.core.baking.options import Baked, BakeOptions
from copper_sieve.core.baking.surface_samples import SurfaceSamples
from copper_sieve.core.baking.uv_match import UvMatch
from copper_sieve.core.errors import CancelledError, MeshError
from copper_sieve.core.image.padding import nearest_covered_texels
from copper_sieve.core.image.raster import Float
from copper_sieve.core.mesh.mesh import Mesh, unit
from copper_sieve.core.mesh.mesh_cache import cached_by_mesh
from copper_sieve.core.mesh.rasterization import Rasterization, rasterize, sample_offsets

_RAYS_AT_ONCE = 4_000_000  # between two looks at whether to stop
_MOST_AT_ONCE = 1 << 18  # places
_NOWHERE = np.float32(-1e6)  # UVs of triangles that aren't baked
_PROBES = 128  # texels a side by which an offset is measured


class BakeInputs:
    """Data shared by all tiles of a bake: models, rays, cage.

    uv : (T, 3, 2) float32 of the baked material; other triangles are outside every tile
    """

    def __init__(  # noqa: PLR0917
        self,
        mesh: Mesh,
        names: list[str],
        options: BakeOptions,
        high_poly: Mesh | None,
        cage: Mesh | None,
        material: str | None,
    ) -> None:
        self.names, self.options, self.has_detail = names, options, high_poly is not None
        self.uv: Float = mesh.uvs[options.uv_set]
        if material is not None:
            self.uv = np.where(mesh.is_of(material)[:, None, None], self.uv, _NOWHERE)
        self.measures = ModelSampler(mesh, names, options, high_poly)
        rays = high_poly is not None and cage is None and not options.match_by_uvs
        self.offset = options.offset if rays else None
        self._cage: Cage | None = None
        self._same: UvMatch | None = None
        self._groups: list[MatchedParts] = []
        if high_poly is not None:
            self._prepare_detail(mesh, high_poly, cage, material)

    def _prepare_detail(
        self, mesh: Mesh, high_poly: Mesh, cage: Mesh | None, material: str | None
    ) -> None:
        self._groups = match_parts(mesh, high_poly, self.options.match_by_name)
        if self.options.match_by_uvs:
            how = (self.options, material)
            self._same = UvMatch(mesh, self.uv, high_poly, self._groups, *how)
            return
        if cage is not None:
            self._cage = Cage.by_model(mesh, cage)
            return
        if self.offset is None:
            self.offset = cached_by_mesh(
                "offset",
                [
                    mesh.positions,
                    mesh.materials,
                    mesh.uvs[self.options.uv_set],
                    high_poly.positions,
                ],
                lambda: self._measured_offset(mesh, high_poly),
                material,
                mesh.material_names,
            )
        self._cage = Cage.by_offset(mesh, self.offset)

    def _measured_offset(self, mesh: Mesh, high_poly: Mesh) -> float:
        drawn = self.uv - np.floor(self.uv.mean(1, keepdims=True))  # all tiles over each other
        return default_offset(
            mesh, high_poly, SurfaceSamples.of(rasterize(drawn, _PROBES, _PROBES))
        )

    def drawn(self, place: tuple[int, int], sample: tuple[float, float]) -> list[Rasterization]:
        """Return the rasterization of the high-poly model in a tile, if it is matched by UVs."""
        size = self.options.width, self.options.height
        return self._same.draw(place, size, sample) if self._same else []

    def on_surface(
        self, places: SurfaceSamples, drawn: list[Rasterization]
    ) -> Iterator[tuple[SurfaceSamples, SurfaceSamples | None]]:
        """Yield blocks of samples with those on the measured model, or None if missed."""
        if not self.has_detail:
            yield places, places
            return
        for n, group in enumerate(self._groups):
            some = places.chosen(group.low_poly[places.triangles])
            if not len(some):
                continue
            if self._cage:
                on, met = project_to_high_poly(self._cage, group, some)
                self.measures.sent += len(some)
            elif self._same:
                on, met = self._same.found(n, drawn[n], some)
            if met.any():
                yield some.chosen(met), on.chosen(met)
            if not met.all():
                yield some.chosen(~met), None


class TileWork:
    """Accumulated samples of one tile.

    place : the unit square of the UVs, v down; seconds : elapsed time
    """

    def __init__(self, ground: BakeInputs, place: tuple[int, int]) -> None:
        self._ground, self._place, options = ground, place, ground.options
        self._uv = ground.uv - np.array(place, dtype=np.float32)
        texels = options.width * options.height
        self._sums = {
            name: np.zeros((texels, BAKED_MAPS[name].components), np.float32)
            for name in ground.names
        }
        self._counts = np.zeros(texels, dtype=np.int32)
        self._missed = np.zeros(texels, dtype=np.int32)
        self._sent = 0
        self.seconds = 0.0

    def run(
        self,
        on_progress: Callable[[float], None] | None,
        is_cancelled: Callable[[], bool] | None,
    ) -> None:
        """Rasterize and measure every sample.

        Raises
        ------
        CancelledError
        MeshError : if the tile is empty
        """
        options, before = self._ground.options, self._ground.measures.sent
        at = sample_offsets(options.samples)
        each = sum(BAKED_MAPS[name].rays for name in self._ground.names) * options.rays
        step = max(256, min(_MOST_AT_ONCE, _RAYS_AT_ONCE // max(1, each)))
        for n, sample in enumerate(at):
            places = SurfaceSamples.of(rasterize(self._uv, options.width, options.height, sample))
            drawn = self._ground.drawn(self._place, sample)
            for start in range(0, len(places), step):
                if is_cancelled and is_cancelled():
                    raise CancelledError
                self._take(places.chosen(slice(start, start + step)), drawn)
                if on_progress:
                    on_progress((n + min(1.0, (start + step) / len(places))) / len(at))
        self._sent = self._ground.measures.sent - before
        if not self._counts.any() and not self._missed.any():
            raise MeshError(
                f"the model has no UVs in tile {self._place[0]}, {self._place[1]}. Unwrap it "
                "into the 0–1 range, or choose another UV set or tile"
            )

    def _take(self, places: SurfaceSamples, drawn: list[Rasterization]) -> None:
        for base, on in self._ground.on_surface(places, drawn):
            if on is None:
                self._missed[base.texels] += 1
                continue
            new = self._counts[base.texels] == 0
            for name, value in self._ground.measures.of(base, on).items():
                if BAKED_MAPS[name].exact:
                    self._sums[name][base.texels[new]] = value[new]
                else:
                    self._sums[name][base.texels] += value
            self._counts[base.texels] += 1

    @property
    def farthest(self) -> float:
        """Metres between the surfaces at most, as the mean of a texel; 0 without a height."""
        if "height" not in self._sums or not self._counts.any():
            return 0.0
        means = self._sums["height"][:, 0] / np.maximum(self._counts, 1)
        return float(np.abs(means).max())

    def finished(self, height_range: float) -> Baked:
        """Return the means of the samples in stored units, padded to the border."""
        options, counts, missed = self._ground.options, self._counts, self._missed
        shape = (options.height, options.width)
        found = nearest_covered_texels((counts > 0).reshape(shape)).ravel()
        done = Baked({}, ((counts > 0) | (missed > 0)).reshape(shape))
        for name in self._ground.names:
            one, values = BAKED_MAPS[name], self._sums.pop(name)
            if not one.exact:
                values /= np.maximum(counts, 1)[:, None]
            if one.stored == "normal":
                values = unit(values)
            if name == "height":
                values = np.clip(0.5 + values / np.float32(height_range), 0, 1)
                done.height_range = height_range
            done.maps[name] = values[found].reshape(*shape, one.components)
        done.rays, done.offset = self._sent, self._ground.offset
        done.samples, done.misses = int((counts + missed).sum()), int(missed.sum())
        done.colors = self._ground.measures.colors
        if self._ground.has_detail:
            share = missed / np.maximum(counts + missed, 1)
            done.missed = share.astype(np.float32).reshape(shape)
        return done
