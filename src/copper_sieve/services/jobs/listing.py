"""Jobs for users: list with remaining time, cancel, retry, dismiss."""

from __future__ import annotations

from datetime import UTC, datetime

from copper_sieve.core.errors import ConflictError
from copper_sieve.services.context import Context
from copper_sieve.services.jobs.kinds import KINDS
from copper_sieve.store import jobs as store
from copper_sieve.store.jobs import StoredJob
from copper_sieve.store.projects import get_project

_RECENT = 600.0  # seconds for which a job that was carried out stays in the list
_TELLS = 0.03  # seconds before the pace of a job is meaningful
_CANCELLED = "The job was cancelled"


def of_project(context: Context, project_slug: str) -> list[StoredJob]:
    """List the jobs of a project and those without a project, in the order of their creation."""
    with context.database.transaction() as connection:
        project = get_project(connection, project_slug)
        return store.of_project(connection, project.id, _RECENT)


def get(context: Context, job_id: int) -> StoredJob:
    """Return a job. Raises NotFoundError."""
    with context.database.transaction() as connection:
        return store.get_job(connection, job_id)


def seconds_so_far(job: StoredJob) -> float | None:
    """Return the seconds since a job started; None if it doesn't run."""
    if job.state != "running" or job.started_at is None:
        return None
    return (datetime.now(UTC) - job.started_at).total_seconds()


def seconds_left(job: StoredJob) -> float | None:
    """Estimate the remaining seconds of a running job from its progress; None without progress."""
    so_far = seconds_so_far(job)
    if so_far is None or not job.started_at or not job.progressed_at or job.progress < _TELLS:
        return None
    until = (job.progressed_at - job.started_at).total_seconds()
    return max(1.0, until / job.progress - so_far)


def cancel(context: Context, job_id: int) -> StoredJob:
    """Cancel a job that waits or runs; nothing of it is stored.

    Raises
    ------
    NotFoundError
    ConflictError
        It has ended already.
    """
    with context.database.transaction() as connection:
        found = store.get_job(connection, job_id)
        job = store.cancel(connection, job_id)
        if job is None:
            raise ConflictError(f"The job has already ended: {found.state}. Reload the page")
        KINDS[job.kind].ended_without_result(context, connection, job, _CANCELLED)
        return job


def retry(context: Context, job_id: int) -> StoredJob:
    """Let a failed or cancelled job wait again.

    Raises
    ------
    NotFoundError
    ConflictError
        It hasn't failed, or equal work waits already.
    """
    with context.database.transaction() as connection:
        store.get_job(connection, job_id)
        job = store.retry(connection, job_id)
        if job is None:
            raise ConflictError("There is nothing to retry: the job didn't fail. Reload the page")
        context.start_job(connection, job)
        return job


def dismiss(context: Context, job_id: int) -> None:
    """Remove a job that has ended from the list.

    Raises
    ------
    NotFoundError
    ConflictError
        It waits or runs.
    """
    with context.database.transaction() as connection:
        store.get_job(connection, job_id)
        if not store.delete_job(connection, job_id):
            raise ConflictError("The job is waiting or running. Cancel it first")
