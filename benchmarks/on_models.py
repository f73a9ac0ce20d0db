"""Time model previews: preparation of a mesh for the lit view, and bakes while a slider is dragged.

Seconds are the median of three, and those of the first call.
"""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable

from tests.core.mesh.solids import ball

from copper_sieve.core.baking import OnModel
from copper_sieve.core.mesh.uv_facts import check_uvs
from copper_sieve.core.mesh.view_mesh import view_mesh

SIMPLE = 32  # rings, 4,000 triangles
QUICK = (40, 60, 64)


def main(detailed: int = 225, many_rings: int = 500, moving: int = 256) -> None:
    """Print the times; a sphere of n rings has about 4 n² triangles."""
    simple, high_poly, many = (ball(0.5, rings=n) for n in (SIMPLE, detailed, many_rings))
    for mesh in (high_poly, many):
        seconds = _median(lambda mesh=mesh: view_mesh(mesh))
        found = view_mesh(mesh)
        held = sum(one.nbytes for one in (found.positions, found.normals, found.uvs,
                                          found.tangents, found.corners))  # fmt: skip
        print(f"{mesh.count:>9,} triangles laid out in {seconds:.1f} s, {held / 1e6:.0f} MB")
    seconds = _median(lambda: check_uvs(high_poly))
    print(f"{high_poly.count:>9,} triangles: UVs checked in {seconds:.1f} s")
    for name in ("ambient_occlusion", "curvature", "thickness", "normal", "world_normal"):
        for side in (moving, 2 * moving):
            model = OnModel(simple, side, side, high_poly=high_poly, quick=True)
            began = time.perf_counter()
            model.take(name, detail=True)
            first = time.perf_counter() - began
            again = _median(lambda model=model, name=name: model.take(name, detail=True))
            print(f"{name:18} at {side}: {again:.2f} s, at first {first:.2f} s")


def _median(run: Callable[[], object]) -> float:
    times = []
    for _ in range(3):
        began = time.perf_counter()
        run()
        times.append(time.perf_counter() - began)
    return statistics.median(times)
