"""MikkTSpace tangents: identical in the viewer, in files and in baked maps.

Computed by the reference implementation (Mikkelsen 2008), compiled to WebAssembly and shipped in
`mikktspace/` with its license.
"""

from __future__ import annotations

import atexit
from functools import cache
from pathlib import Path
from typing import Any

import numpy as np

from copper_sieve.core.errors import MeshError
from copper_sieve.core.image.raster import Float
from copper_sieve.core.mesh.mesh import Mesh, flip_faces

_PROGRAM = Path(__file__).with_name("mikktspace") / "mikktspace.wasm"
_FLOAT = 4  # bytes


def tangents_of(mesh: Mesh, uv_set: int = 0) -> Float:
    """Compute MikkTSpace tangents.

    Parameters
    ----------
    mesh : triangles with normals
    uv_set : number of the UV set, from 0

    Returns
    -------
    (T, 3, 4) float32: unit direction of increasing u; sign with which sign * cross(normal, tangent)
        points up in the picture, so that green is Y+

    Raises
    ------
    MeshError : if there is no such UV set
    """
    if uv_set >= len(mesh.uvs):
        raise MeshError(
            f"computing tangents requires UV set {uv_set}, but the model has "
            f"{len(mesh.uvs)}. Unwrap it first"
        )
    return mikktspace(mesh.positions, mesh.normals, flip_faces(mesh.uvs[uv_set]))


def mikktspace(positions: Float, normals: Float, uvs: Float) -> Float:
    """Run the MikkTSpace reference implementation.

    Parameters
    ----------
    positions, normals : (T, 3, 3) float32
    uvs : (T, 3, 2) float32, v up

    Returns
    -------
    (T, 3, 4) float32
    """
    store, exports = _instance()
    memory = exports["memory"]
    result = exports["__wbindgen_add_to_stack_pointer"](store, -16)
    given: list[int] = []
    for values in (positions, normals, uvs):
        data = np.ascontiguousarray(values, dtype=np.float32)
        start = exports["__wbindgen_malloc"](store, data.nbytes)
        memory.write(store, data.tobytes(), start)
        given += [start, data.size]
    exports["generateTangents"](store, result, *given)
    start, count = np.frombuffer(memory.read(store, result, result + 8), dtype=np.int32)
    found = np.frombuffer(memory.read(store, start, start + count * _FLOAT), dtype=np.float32)
    return found.reshape(-1, 3, 4).copy()


@cache
def _module() -> Any:
    from wasmtime import Engine, Module  # loaded with the first model

    engine = Engine()
    module = Module.from_file(engine, str(_PROGRAM))
    for one in (engine, module):  # the last is closed first; left alone they fail at the end
        atexit.register(one.close)
    return engine, module


def _instance() -> tuple[Any, Any]:
    """Return a new instance for each call, so that threads don't share memory."""
    from wasmtime import Func, Instance, Store

    engine, module = _module()
    store = Store(engine)

    def report(*_: Any) -> int:
        raise MeshError("couldn't compute tangents for this model. Export it as triangles")

    imports = [Func(store, one.type, report) for one in module.imports]
    instance = Instance(store, module, imports)
    return store, instance.exports(store)
