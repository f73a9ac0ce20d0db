"""Time baking against the ray-tracing library alone, and print peak memory.

Occlusion of a bumpy sphere with 200,000 triangles, 64 rays per texel. The library traces the same
rays through its Python interface, on one thread, with all rays in memory; both alternate in
batches of texels. Also the time and the error of a normal bake from a high-poly model.
"""

from __future__ import annotations

import resource
import time

import numpy as np
from embreex.mesh_construction import TriangleMesh
from embreex.rtcore_scene import EmbreeScene
from tests.core.baking.test_from_detail import differences, riveted, seen, waves
from tests.core.mesh.solids import ball, floor

from copper_sieve.core.baking import BakeOptions, bake
from copper_sieve.core.baking.hemisphere import _cosine, _pattern, _shift, _turned, openness
from copper_sieve.core.baking.surface_samples import SurfaceSamples, Surroundings, triangle_normals
from copper_sieve.core.mesh.rasterization import rasterize
from copper_sieve.core.mesh.rays import RayScene

_RAYS, _REACH, _STEP = 64, 10.0, 2e-5
QUICK = (128, 24, 512)


def same_rays(at: Surroundings, texels: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Origins and directions, (N * 64, 3) float32, as the kernel sends them."""
    pattern = _pattern(_RAYS)
    origins = np.repeat(at.lifted + np.float32(_STEP) * at.flat, _RAYS, axis=0)
    directions = np.empty_like(origins)
    for n, texel in enumerate(texels):
        first, second = _shift(int(texel))
        turn = 2 * np.pi * second
        for k in range(_RAYS):
            way = _cosine(pattern, k, first, np.cos(turn), np.sin(turn))
            directions[n * _RAYS + k] = _turned(at.normals[n], *way)
    return origins, directions


def against_the_library(side: int, rings: int, at_once: int) -> None:
    """Prints both times for the same rays, and their ratio."""
    mesh = ball(0.5, rings=rings, swell=waves)
    flat, scene = triangle_normals(mesh), RayScene(mesh.positions)
    other = EmbreeScene()
    kept = TriangleMesh(other, mesh.positions)
    places = SurfaceSamples.of(rasterize(mesh.uvs[0], side, side))
    rng = np.random.default_rng(1)
    ours = library = 0.0
    rays = 0
    for start in rng.permutation(np.arange(0, len(places) - at_once, at_once))[:6]:
        some = places.chosen(slice(start, start + at_once))
        at = Surroundings.at(mesh, flat, some)
        origins, directions = same_rays(at, some.texels)
        lengths = np.full(len(origins), _REACH, dtype=np.float32)
        for turn in range(3):
            began = time.perf_counter()
            found, _ = openness(scene, at, some.texels, _RAYS, _REACH, _STEP)
            middle = time.perf_counter()
            hit = other.run(origins, directions, lengths.copy(), query="OCCLUDED")
            if turn:  # the first one compiles and warms
                ours += middle - began
                library += time.perf_counter() - middle
                rays += len(origins)
        same = (np.asarray(hit).reshape(-1, _RAYS) < 0).mean(1)
        assert np.abs(found[:, 0] - same).max() < 0.05
    del kept
    print(f"{mesh.count:,} triangles, {rays / 1e6:.0f} million rays")
    print(f"ours {rays / ours / 1e6:.1f}, the library {rays / library / 1e6:.1f} million a second")
    print(f"ratio of times: {ours / library:.2f}")


def whole(side: int, rings: int) -> None:
    """Prints the times of a whole map of each kind at this size, and the memory at its most."""
    mesh = ball(0.5, rings=rings, swell=waves)
    for name, high_poly in (("ambient_occlusion", None), ("curvature", None), ("normal", mesh)):
        base = ball(0.5, rings=24) if high_poly else mesh
        done = bake(base, [name], BakeOptions(side, side, samples=1, rays=_RAYS), high_poly)
        print(f"{name} at {side}: {done.seconds:.1f} s, {done.rays / 1e6:.0f} million rays")
    most = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1e6
    print(f"memory at its most: {most:.2f} GB")


def relief(side: int, rings: int) -> None:
    """Prints how far normals from a detail are from it, as a shader shows them: angle and color."""
    for name, simple, high_poly in (
        ("bumpy sphere", ball(0.5, rings=24), ball(0.5, rings=rings, uv=None, swell=waves)),
        ("riveted plate", floor(1.0), riveted(2 * rings)),
    ):
        done = bake(simple, ["normal"], BakeOptions(side, side, samples=4), high_poly)
        assert done.offset is not None
        found, wanted = seen(done.maps["normal"], simple, high_poly, done.offset)
        front = wanted[:, 2 if name == "bumpy sphere" else 1] > 0.3
        angle, color = differences(found[front], wanted[front])
        print(f"{name} at {side}: {angle:.4f} degrees, {color:.4f} CIEDE2000, {done.misses} misses")


def main(side: int = 2048, rings: int = 224, at_once: int = 1 << 15) -> None:
    """Print the times and errors; `at_once` texels of a sphere with so many rings are compared."""
    against_the_library(side, rings, at_once)
    whole(side, rings)
    relief(side, rings)
