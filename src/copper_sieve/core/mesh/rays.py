"""Ray casting from compiled kernels on all cores.

Embree (Wald et al. 2014) comes with the package embreex. Its Python interface holds the interpreter
lock and requires all rays as arrays; here, kernels call its C interface directly, each with a
single ray in memory.
"""

from __future__ import annotations

import ctypes
import weakref
from functools import cache
from pathlib import Path
from typing import Any

import numba
import numpy as np
from llvmlite import binding
from numba import njit, types
from numba.core import cgutils
from numba.core.types import uintp, void
from numba.extending import intrinsic
from numpy.typing import NDArray

from copper_sieve.core.errors import SetupError
from copper_sieve.core.image.raster import Float
from copper_sieve.core.mesh.mesh import Mesh
from copper_sieve.core.mesh.mesh_cache import cached_by_mesh

_TRIANGLES, _INDEX, _VERTEX, _FLOAT3, _UINT3 = 0, 0, 1, 0x9003, 0x5003  # of rtcore.h
_ROBUST = 4  # no ray slips through between two triangles
_RAY_BYTES = 256  # a ray with its hit takes 96 bytes; threads must not share a cache line
_ANY, _NONE = 0xFFFFFFFF, 0xFFFFFFFF
UNBOUND = 1e30


class RayScene:
    """Triangles for ray casting; building takes about a second for a million.

    positions : (T, 3, 3) float32
    handle : argument of kernels
    """

    def __init__(self, positions: Float) -> None:
        embree, device = _embree()
        scene = embree.rtcNewScene(device)
        self.handle = int(scene)
        self._ended = weakref.finalize(self, embree.rtcReleaseScene, scene)
        embree.rtcSetSceneFlags(scene, _ROBUST)
        shape = embree.rtcNewGeometry(device, _TRIANGLES)
        corners = np.ascontiguousarray(positions, dtype=np.float32).reshape(-1, 3)
        order = np.arange(len(corners), dtype=np.uint32).reshape(-1, 3)
        for kind, form, data in ((_VERTEX, _FLOAT3, corners), (_INDEX, _UINT3, order)):
            held = embree.rtcSetNewGeometryBuffer(shape, kind, 0, form, 12, len(data))
            ctypes.memmove(held, data.ctypes.data, data.nbytes)
        embree.rtcCommitGeometry(shape)
        embree.rtcAttachGeometry(scene, shape)
        embree.rtcReleaseGeometry(shape)
        embree.rtcCommitScene(scene)
        if error := embree.rtcGetDeviceError(device):
            raise MemoryError(f"couldn't build the scene for ray tracing (Embree: {error})")


def scene_of(mesh: Mesh) -> RayScene:
    """Return the ray tracing scene of a mesh; built once per mesh."""
    return cached_by_mesh("scene", [mesh.positions], lambda: RayScene(mesh.positions))


@cache
def _embree() -> tuple[Any, int]:
    """Return the C interface and the device, one per process. Raises SetupError."""
    import embreex.rtcore_scene

    package = Path(embreex.rtcore_scene.__file__).parent
    places = (package.parent / "embreex.libs", package / ".dylibs", package)
    found = [one for place in places if place.is_dir() for one in sorted(place.glob("*embree4*"))]
    if not found:
        raise SetupError("the Embree library of the embreex package is missing. Reinstall embreex")
    binding.load_library_permanently(str(found[0]))  # so that kernels find it by its names
    embree: Any = ctypes.CDLL(str(found[0]))
    handle, number, size = ctypes.c_void_p, ctypes.c_int, ctypes.c_size_t
    for name, gives, takes in (
        ("rtcNewDevice", handle, [ctypes.c_char_p]),
        ("rtcGetDeviceError", number, [handle]),
        ("rtcNewScene", handle, [handle]),
        ("rtcReleaseScene", None, [handle]),
        ("rtcSetSceneFlags", None, [handle, number]),
        ("rtcCommitScene", None, [handle]),
        ("rtcNewGeometry", handle, [handle, number]),
        ("rtcReleaseGeometry", None, [handle]),
        ("rtcCommitGeometry", None, [handle]),
        ("rtcAttachGeometry", ctypes.c_uint, [handle, handle]),
        ("rtcSetNewGeometryBuffer", handle, [handle, number, ctypes.c_uint, number, size, size]),
    ):
        function = getattr(embree, name)
        function.restype, function.argtypes = gives, takes
    return embree, embree.rtcNewDevice(None)


class RayMemory:
    """Memory for the rays of a kernel, one per block of its work; `base` is its address."""

    def __init__(self, blocks: int) -> None:
        self._held = np.zeros((blocks + 1) * _RAY_BYTES, dtype=np.uint8)
        start = self._held.ctypes.data
        self.base = start + -start % _RAY_BYTES


_takes = void(uintp, uintp, uintp)
_send_occluded: Any = types.ExternalFunction("rtcOccluded1", _takes)
_send_nearest: Any = types.ExternalFunction("rtcIntersect1", _takes)
carray: Any = getattr(numba, "carray")  # noqa: B009


@intrinsic
def _at_address(_: Any, number: Any) -> Any:
    def generate(_: Any, builder: Any, __: Any, given: Any) -> Any:
        return builder.inttoptr(given[0], cgutils.voidptr_t)

    return types.voidptr(number), generate


_address: Any = _at_address


@njit(cache=True, nogil=True, inline="always")
def ray_of(base: int, block: int) -> tuple[Any, Any, Any]:
    """Return the address of a block's ray, and the ray as floats and as integers."""
    address = np.uint64(base) + np.uint64(block) * np.uint64(_RAY_BYTES)
    place = _address(address)
    return address, carray(place, (24,), np.float32), carray(place, (24,), np.uint32)


@njit(cache=True, nogil=True, inline="always")
def aim(  # noqa: PLR0917
    ray: Float, bits: NDArray[np.uint32], origin: Any, direction: Any, near: float, reach: float
) -> None:
    """Set origin, direction and distance range of a ray of `ray_of`."""
    for k in range(3):
        ray[k] = origin[k]
        ray[4 + k] = direction[k]
    ray[3], ray[7], ray[8] = near, 0.0, reach
    bits[9], bits[10], bits[11] = _ANY, 0, 0
    bits[18], bits[19] = _NONE, _NONE


@njit(cache=True, nogil=True, inline="always")
def is_blocked(scene: int, address: int, ray: Float) -> bool:
    """Return True if the ray hits anything."""
    _send_occluded(scene, address, 0)
    return bool(ray[8] < 0)


@njit(cache=True, nogil=True, inline="always")
def first_hit(scene: int, address: int, bits: NDArray[np.uint32]) -> bool:
    """Return True if the ray hits anything, and write the first hit into the ray.

    ray[8] is the distance, ray[12:15] the triangle's normal (not of unit length), ray[15] and
    ray[16] the weights of its second and third vertex, bits[17] its index.
    """
    _send_nearest(scene, address, 0)
    return bool(bits[18] != _NONE)
