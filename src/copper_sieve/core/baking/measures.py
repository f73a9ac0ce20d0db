"""Evaluates the surface at sample points, for each requested map."""

from __future__ import annotations

import colorsys
from collections.abc import Sequence

import numpy as np

from copper_sieve.core.baking.curvature import hard_edges, near_edges, smooth_curvature
from copper_sieve.core.baking.from_detail import to_tangent_space
from copper_sieve.core.baking.hemisphere import openness, thickness
from copper_sieve.core.baking.options import BakeOptions
from copper_sieve.core.baking.surface_samples import SurfaceSamples, Surroundings, triangle_normals
from copper_sieve.core.image.encoding import srgb_to_linear
from copper_sieve.core.image.raster import Float
from copper_sieve.core.mesh.mesh import Mesh, unit
from copper_sieve.core.mesh.mesh_cache import cached_by_mesh
from copper_sieve.core.mesh.rasterization import blend_attributes
from copper_sieve.core.mesh.rays import UNBOUND, RayScene, scene_of
from copper_sieve.core.mesh.tangents import tangents_of

_STEP = 2e-5  # of the model's size: how far above the surface rays start
_RIGHT_ANGLE = 4 / np.pi  # times the width: then an edge of 90 degrees is just 1
_GOLDEN = 0.6180339887498949
_IN_TANGENT_SPACE = {"normal", "bent_normal"}


class ModelSampler:
    """Precomputed data of a model, and the evaluation of samples.

    sent : number of rays that were cast
    colors : by map and name, for maps with named colors
    """

    def __init__(
        self, low_poly: Mesh, names: list[str], options: BakeOptions, high_poly: Mesh | None
    ) -> None:
        self._simple, self._names, self._options = low_poly, names, options
        self._on = low_poly if high_poly is None else high_poly
        self._has_detail = high_poly is not None
        shape = [self._on.positions, self._on.normals]
        self._planes = cached_by_mesh("planes", shape, lambda: triangle_normals(self._on))
        self._size = max(self._on.extent, 1e-9)
        self._width = options.edge_width or self._size / 100
        self._radius = options.edge_radius or _RIGHT_ANGLE * self._width
        self._thick = options.max_thickness or self._size / 10
        self._floor = float(self._on.bounds()[0][1]) if options.ground_plane else None
        self._tangents = (
            cached_by_mesh(
                "tangents",
                [low_poly.positions, low_poly.normals, low_poly.uvs[options.uv_set]],
                lambda: tangents_of(low_poly, options.uv_set),
            )
            if _IN_TANGENT_SPACE & {*names}
            else None
        )
        if "curvature" in names:
            self._curvature = cached_by_mesh("curvature", shape, lambda: smooth_curvature(self._on))
            self._edges = cached_by_mesh(
                "edges", shape, lambda: hard_edges(self._on, self._width), self._width
            )
        self.sent = 0
        self.colors: dict[str, dict[str, str]] = {}
        for name, have in (
            ("material_id", self._on.material_names),
            ("part_id", self._on.part_names),
        ):
            if name in names:
                self.colors[name] = interpolated_colors(have)

    def of(self, base: SurfaceSamples, on: SurfaceSamples) -> dict[str, Float]:
        """Return the values of each wanted map, (N, C) float32 in the units of `BakedMap`.

        Parameters
        ----------
        base : samples on the low-poly model
        on : samples on the measured model; heights are in meters
        """
        at = Surroundings.at(self._on, self._planes, on)
        found: dict[str, Float] = {}
        if {"ambient_occlusion", "bent_normal"} & {*self._names}:
            found |= self._openness(base, on, at)
        if "thickness" in self._names:
            step = self._size * _STEP
            rays = self._options.rays
            metres = thickness(self._scene(None), at, base.texels, rays, self._thick, step)
            found["thickness"] = metres / np.float32(self._thick)
            self.sent += rays * len(base)
        if "curvature" in self._names:
            bent = blend_attributes(self._curvature, on.triangles, on.weights)
            bent += near_edges(self._edges, at.positions, self._width)
            found["curvature"] = 0.5 + 0.5 * np.clip(bent * np.float32(self._radius), -1, 1)
        found |= self._plain(at, on)
        if self._has_detail:
            found |= self._detail(base, on, at)
        return {name: found[name] for name in self._names}

    def _plain(self, at: Surroundings, on: SurfaceSamples) -> dict[str, Float]:
        found: dict[str, Float] = {"world_normal": 0.5 + 0.5 * at.normals}
        low, high = self._on.bounds()
        longest = max(float((high - low).max()), 1e-9)
        found["position"] = ((at.positions - (low + high) / 2) / longest + 0.5).astype(np.float32)
        for name, ids in (("material_id", self._on.materials), ("part_id", self._on.parts)):
            if name in self.colors:
                codes = [to_linear_colors(color) for color in self.colors[name].values()]
                found[name] = np.array(codes, dtype=np.float32)[ids[on.triangles]]
        return found

    def _openness(
        self, base: SurfaceSamples, on: SurfaceSamples, at: Surroundings
    ) -> dict[str, Float]:
        options, step = self._options, self._size * _STEP
        max_distance = options.max_distance or UNBOUND
        shares = np.empty((len(base), 1), dtype=np.float32)
        directions = np.empty((len(base), 3), dtype=np.float32)
        parts = (
            self._on.parts[on.triangles] if options.isolate_parts else np.zeros(len(on), np.int32)
        )
        for part in np.unique(parts):
            which = parts == part
            some = Surroundings(
                at.positions[which], at.lifted[which], at.normals[which], at.flat[which]
            )
            scene = self._scene(int(part) if options.isolate_parts else None)
            shares[which], directions[which] = openness(
                scene, some, base.texels[which], options.rays, max_distance, step, self._floor
            )
        self.sent += options.rays * len(base)
        found: dict[str, Float] = {"ambient_occlusion": shares}
        if "bent_normal" in self._names:
            lost = np.linalg.norm(directions, axis=1) < 1e-6  # nothing is open there
            directions[lost] = at.normals[lost]
            found["bent_normal"] = self._in_frame(base, unit(directions))
        return found

    def _detail(
        self, base: SurfaceSamples, on: SurfaceSamples, at: Surroundings
    ) -> dict[str, Float]:
        found: dict[str, Float] = {}
        if "normal" in self._names:
            found["normal"] = self._in_frame(base, at.normals)
        if "height" in self._names:
            normals = unit(blend_attributes(self._simple.normals, base.triangles, base.weights))
            under = blend_attributes(self._simple.positions, base.triangles, base.weights)
            found["height"] = ((at.positions - under) * normals).sum(1, keepdims=True)
        if "base_color" in self._names and self._on.colors is not None:
            found["base_color"] = blend_attributes(self._on.colors, on.triangles, on.weights)
        return found

    def _in_frame(self, base: SurfaceSamples, vectors: Float) -> Float:
        assert self._tangents is not None
        normals = blend_attributes(self._simple.normals, base.triangles, base.weights)
        tangents = blend_attributes(self._tangents, base.triangles, base.weights)
        return to_tangent_space(vectors, normals, tangents)

    def _scene(self, part: int | None) -> RayScene:
        """Return the scene of all triangles or of one part; built on first use."""
        positions, parts = self._on.positions, self._on.parts
        if part is None:
            return scene_of(self._on)
        return cached_by_mesh(
            "part", [positions, parts], lambda: RayScene(positions[parts == part]), part
        )


def _apart(count: int) -> list[str]:
    """Return distinct sRGB colors: distant hues in three lightnesses."""
    found = []
    for n in range(count):
        value = (0.95, 0.7, 0.45)[(n // 8) % 3]
        color = colorsys.hsv_to_rgb((0.03 + n * _GOLDEN) % 1, 0.65, value)
        found.append("#" + "".join(f"{round(255 * one):02x}" for one in color))
    return found


def interpolated_colors(names: Sequence[str]) -> dict[str, str]:
    """Return the sRGB color of each name in its mask, as #rrggbb."""
    return dict(zip(names, _apart(len(names)), strict=True))


def to_linear_colors(color: str) -> Float:
    """Convert #rrggbb (sRGB) to linear light, (3,) float32."""
    codes = np.array([int(color[n : n + 2], 16) for n in (1, 3, 5)], dtype=np.float32)
    return srgb_to_linear(codes / 255)
