"""Results that workers compute for large models: created as jobs, cached by content keys."""

from __future__ import annotations

import time
from typing import Any

import numpy as np
from numpy.typing import NDArray

from copper_sieve.core.errors import ConflictError, MeshError
from copper_sieve.services.context import Context
from copper_sieve.services.jobs.requests import ask
from copper_sieve.services.jobs.running import Running
from copper_sieve.store import jobs
from copper_sieve.store.jobs import JobName, Lane, NewJob, StoredJob
from copper_sieve.store.models import StoredModel

AT_ONCE = 50_000  # triangles up to which a request computes the result itself
_SMALL = 200_000  # triangles; jobs of larger models run in the lane of large jobs
_VERSION = 1  # version of the cached data
_PATIENCE = 100.0  # seconds that a request waits for a worker
_LOOK_EVERY = 0.1  # seconds


def is_large(model: StoredModel) -> bool:
    """Return whether the facts of a model are computed by a worker."""
    return model.facts.triangles > AT_ONCE


def result_of(
    context: Context, model: StoredModel, kind: JobName, name: str, **arguments: Any
) -> NDArray[Any] | StoredJob:
    """Return a worker's result for a model, or the job that computes it.

    name : of the result, including its arguments; it forms the key with the model's SHA-256
    Raises MeshError if the job failed.
    """
    held = context.folder.get(_key(model.sha256, name))
    if held is not None:
        return held
    lane: Lane = "small" if model.facts.triangles <= _SMALL else "large"
    key = f"{kind} {model.sha256} {name}"
    wanted = NewJob(kind, model.name, model.project_id, key,
                    {"sha256": model.sha256, "name": name, **arguments}, lane)  # fmt: skip
    with context.database.transaction() as connection:
        failed = jobs.last_failure(connection, key)
        if failed is not None:
            raise MeshError(failed.error or f"{model.name} couldn't be analyzed")
        return ask(context, connection, wanted)


def awaited_result_of(
    context: Context, model: StoredModel, kind: JobName, name: str, **arguments: Any
) -> NDArray[Any]:
    """Wait for the result of `result_of`.

    Raises MeshError, ConflictError if that takes very long.
    """
    end = time.monotonic() + _PATIENCE
    while time.monotonic() < end and not context.closing.is_set():
        found = result_of(context, model, kind, name, **arguments)
        if not isinstance(found, StoredJob):
            return found
        time.sleep(_LOOK_EVERY)
    raise ConflictError(f"{model.name} is still being analyzed. Try again in a moment")


def keep_result(context: Context, running: Running, data: bytes) -> None:
    """Cache the result of a job. Raises MeshError if it exceeds the free space of the cache."""
    key = _key(running.arguments["sha256"], running.arguments["name"])
    context.folder.put(key, np.frombuffer(data, np.uint8))
    if not context.folder.has(key):
        raise MeshError(
            f"The cache is too small for the result of {running.job.title} "
            f"({len(data) / 1e6:.0f} MB). Raise SIEVE_CACHE_BYTES"
        )


def has_result(context: Context, running: Running) -> bool:
    """Return whether the cache contains the result of a job."""
    key = _key(running.arguments["sha256"], running.arguments["name"])
    return context.folder.has(key)


def _key(sha256: str, name: str) -> str:
    return f"model-{_VERSION}-{sha256}-{name}"
