"""Functions of each kind of job: how it runs, and what happens if it fails."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from copper_sieve.services import (
    capture_groups,
    detection,
    environments,
    light_captures,
    model_display,
    models,
    project_archive,
    uv_view,
)
from copper_sieve.services.context import Context
from copper_sieve.services.jobs.running import Running
from copper_sieve.store.database import Transaction
from copper_sieve.store.jobs import JobName, StoredJob


def _nothing(_: Context, __: Transaction, ___: StoredJob, ____: str) -> None:
    pass


@dataclass(frozen=True, slots=True)
class JobKind:
    """A kind of job.

    run : carries a job out; it calls `finish` in the transaction that stores the result
    ended_without_result : called with the reason in the transaction that records a failure or
        cancel
    """

    run: Callable[[Context, Running], object]
    ended_without_result: Callable[[Context, Transaction, StoredJob, str], None] = _nothing


def _import_model(context: Context, running: Running) -> None:
    with running.file() as path:
        models.import_model(context, running.arguments["project"], path, running.job.title, running)


def _import_environment(context: Context, running: Running) -> None:
    with running.file() as path:
        environments.import_environment(
            context, running.arguments["project"], path, running.job.title,
            running.arguments["kind"], running,
        )  # fmt: skip


def _import_project(context: Context, running: Running) -> None:
    with running.file() as path:
        project_archive.unpack(context, path, running.job.title, running)


KINDS: dict[JobName, JobKind] = {
    "file_detection": JobKind(detection.detect, detection.detection_failed),
    "file_comparison": JobKind(detection.compare),
    "light_fit": JobKind(light_captures.fit_lights),
    "light_estimation": JobKind(capture_groups.estimate, capture_groups.estimation_failed),
    "model_import": JobKind(_import_model),
    "model_display": JobKind(model_display.prepare_display),
    "uv_analysis": JobKind(uv_view.analyze_uvs),
    "environment_import": JobKind(_import_environment),
    "project_import": JobKind(_import_project),
}
