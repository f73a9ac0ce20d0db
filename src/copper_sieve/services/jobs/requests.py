"""Create jobs: each is added with its task of the queue in one transaction."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path

from copper_sieve.core.codecs.checksums import file_sha256
from copper_sieve.core.untrusted_paths import safe_file_name
from copper_sieve.services.context import Context
from copper_sieve.store import jobs as store
from copper_sieve.store.database import Transaction
from copper_sieve.store.jobs import JobName, Lane, NewJob, StoredJob
from copper_sieve.store.projects import get_project

_SMALL_FILE = 8 << 20  # bytes; the job of a larger file runs in the lane of large jobs
# Users wait for opened or imported files, but not for light estimation.
_PRIORITY = {
    "model_display": 30,
    "uv_analysis": 25,
    "light_fit": 25,
    "model_import": 20,
    "environment_import": 20,
    "project_import": 10,
    "file_detection": 10,
}
# Equal work that runs already serves whoever asks again. A comparison doesn't: it may have begun
# before the last file of its drop was detected.
_RUNS_ANEW = ("file_comparison", "file_detection")


def ask(
    context: Context, connection: Transaction, wanted: NewJob, file: Path | None = None
) -> StoredJob:
    """Add a job and its task, or return an equal job that waits or runs.

    file : input of the job; stored with the job
    """
    shares = wanted.kind not in _RUNS_ANEW
    job, is_new = store.add_job(
        connection, wanted, priority=_PRIORITY.get(wanted.kind, 0), shares_running=shares
    )
    if is_new:
        if file is not None:
            store.keep_job_file(connection, job.id, file)
        context.start_job(connection, job)
    return job


def ask_import(  # noqa: PLR0917
    context: Context, kind: JobName, file: Path, name: str, project_slug: str | None = None,
    more: Mapping[str, str] | None = None,
) -> StoredJob:  # fmt: skip
    """Create an import job; the same file with the same arguments is one job.

    name : of the file; project_slug : the project that it is imported into, if any
    more : further arguments
    Raises NotFoundError, UnsafeNameError.
    """
    title, arguments = safe_file_name(name), dict(more or {})
    key = " ".join([kind, project_slug or "", file_sha256(file), title, *arguments.values()])
    lane = lane_of(file.stat().st_size)
    with context.database.transaction() as connection:
        project_id = get_project(connection, project_slug).id if project_slug else None
        if project_slug:
            arguments["project"] = project_slug
        wanted = NewJob(kind, title, project_id, key, arguments, lane)
        return ask(context, connection, wanted, file)


def lane_of(size: int) -> Lane:
    """Return the lane of a job that reads a file of so many bytes."""
    return "small" if size <= _SMALL_FILE else "large"


def ask_detection(
    context: Context, connection: Transaction, project_id: int, arrival_id: int, name: str
) -> None:
    """Create a job that recognizes a file in Intake."""
    job = NewJob(
        "file_detection", name, project_id, f"detect {arrival_id}", {"arrival_id": arrival_id},
        "files",
    )  # fmt: skip
    ask(context, connection, job)


def ask_comparison(context: Context, connection: Transaction, project_id: int, batch: str) -> None:
    """Create a job that compares the files of a drop."""
    job = NewJob(
        "file_comparison", "", project_id, f"compare {project_id} {batch}",
        {"project_id": project_id, "batch": batch}, "files",
    )  # fmt: skip
    ask(context, connection, job)


def ask_estimation(
    context: Context, connection: Transaction, project_id: int, surface_id: int, name: str
) -> None:
    """Create a job that estimates the lights of a capture group."""
    job = NewJob(
        "light_estimation", name, project_id, f"lights {surface_id}", {"surface_id": surface_id},
        "background",
    )  # fmt: skip
    ask(context, connection, job)


def ask_for_missing(context: Context) -> int:
    """Create jobs for arrivals and capture groups that have none; return their number.

    These result from older versions, from changed files of watched folders, from restored files,
    and from tasks lost with a worker.
    """
    with context.database.transaction() as connection:
        arrivals = store.unrequested_detections(connection)
        for one in arrivals:
            ask_detection(context, connection, one.project_id, one.id, one.name)
        surfaces = store.unrequested_comparisons(connection)
        for one in surfaces:
            ask_estimation(context, connection, one.project_id, one.id, one.name)
        lost = store.without_task(connection)
        for job in lost:
            context.start_job(connection, job)
    return len(arrivals) + len(surfaces) + len(lost)
