"""Models prepared for the lit view; large ones are prepared by a worker."""

from __future__ import annotations

import io
import json
from dataclasses import asdict
from typing import Any

import numpy as np
from numpy.typing import NDArray

from copper_sieve.core.mesh.view_mesh import MaterialGroup, ViewMesh, view_mesh
from copper_sieve.services.context import Context
from copper_sieve.services.jobs.running import Running
from copper_sieve.services.model_results import has_result, is_large, keep_result, result_of
from copper_sieve.services.models import get
from copper_sieve.services.progress import SubProgress
from copper_sieve.store.jobs import StoredJob
from copper_sieve.store.models import StoredModel

_ARRAYS = ("positions", "normals", "uvs", "tangents", "corners", "borders", "low", "high")


def mesh_of(
    context: Context, model_id: int, uv_set: int
) -> tuple[StoredModel, ViewMesh | StoredJob]:
    """Return a model prepared for display, or the job that prepares it.

    A large model takes seconds to minutes, so a worker does it; the result stays in the cache.
    Raises NotFoundError, MeshError.
    """
    model = get(context, model_id)
    if not is_large(model):
        # No turn is taken: it uses one core, and the flat window never waits for it.
        return model, view_mesh(context.load_model(model.sha256), uv_set)
    found = result_of(context, model, "model_display", f"display-{uv_set}", uv_set=uv_set)
    return model, found if isinstance(found, StoredJob) else unpacked_display(found)


def prepare_display(context: Context, running: Running) -> None:
    """Prepare a model for display and store it in the cache."""
    if not has_result(context, running):
        running.report(0.02, "Reading the model")
        mesh = context.load_model(running.arguments["sha256"])
        laid_out = view_mesh(
            mesh, running.arguments["uv_set"], SubProgress(running, 0.15, 0.95).report
        )
        running.report(0.95, "Storing")
        keep_result(context, running, packed_display(laid_out))
    with context.database.transaction() as connection:
        running.finish(connection)


def packed_display(found: ViewMesh) -> bytes:
    """Serialize a model prepared for display."""
    groups = json.dumps([asdict(one) for one in found.groups]).encode()
    file = io.BytesIO()
    arrays = {name: getattr(found, name) for name in _ARRAYS}
    np.savez(file, allow_pickle=False, groups=np.frombuffer(groups, np.uint8), **arrays)
    return file.getvalue()


def unpacked_display(packed: NDArray[Any]) -> ViewMesh:
    """Deserialize the result of `packed_display`.

    packed : (n,) uint8
    """
    with np.load(io.BytesIO(packed.tobytes()), allow_pickle=False) as held:
        groups = json.loads(held["groups"].tobytes())
        arrays = {name: held[name] for name in _ARRAYS}
    return ViewMesh(**arrays, groups=tuple(MaterialGroup(**one) for one in groups))
