"""Jobs: operations longer than a request, with state, progress, result and input file.

Writes of a running job are fenced by its attempt: a worker that counts as dead can't change
anything.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from typing import Any, Literal, get_args

from psycopg.types.json import Json

from copper_sieve.core.errors import NotFoundError
from copper_sieve.store.database import Database, Row, Transaction, statements
from copper_sieve.store.sources import chunks_of, stored_chunks

_SQL = statements("jobs")
JobName = Literal[
    "file_detection",
    "file_comparison",
    "light_estimation",
    "light_fit",
    "model_import",
    "model_display",
    "uv_analysis",
    "environment_import",
    "project_import",
]
Lane = Literal["files", "small", "large", "background"]
JobState = Literal["queued", "running", "done", "failed", "cancelled"]
JOB_NAMES: tuple[JobName, ...] = get_args(JobName)
LANES: tuple[Lane, ...] = get_args(Lane)


@dataclass(frozen=True, slots=True)
class NewJob:
    """A job to be created.

    key : equal for equal work
    lane : jobs of one lane run one after the other on a machine
    """

    kind: JobName
    title: str
    project_id: int | None
    key: str
    arguments: dict[str, Any]
    lane: Lane


@dataclass(frozen=True, slots=True)
class StoredJob:
    """A job.

    attempts : number of starts; machine : of the latest start
    progressed_at : time of the latest change of the progress
    error_code : code of the error, as in answers of the API
    ahead : number of jobs of its lane that run before it; in lists only
    """

    id: int
    kind: JobName
    title: str
    project_id: int | None
    key: str
    arguments: dict[str, Any]
    lane: Lane
    priority: int
    state: JobState
    attempts: int
    machine: str | None
    progress: float
    progressed_at: datetime | None
    step: str
    error: str | None
    error_code: str | None
    result: dict[str, Any] | None
    created_at: datetime
    started_at: datetime | None
    ended_at: datetime | None
    ahead: int = 0

    @classmethod
    def from_row(cls, row: Row) -> StoredJob:
        """Build from a row of a statement."""
        return cls(**row)

    @property
    def is_open(self) -> bool:
        """Return whether it waits or runs."""
        return self.state in ("queued", "running")


def add_job(
    connection: Transaction, wanted: NewJob, *, priority: int, shares_running: bool
) -> tuple[StoredJob, bool]:
    """Add a job unless an equal one waits; return the job and whether it is new.

    priority : jobs of higher priority run first in their lane
    shares_running : a running job also counts as equal
    """
    if shares_running:
        row = connection.execute(_SQL["running_with_key"], {"key": wanted.key}).fetchone()
        if row is not None:
            return StoredJob.from_row(row), False
    values = {
        "kind": wanted.kind, "title": wanted.title, "project_id": wanted.project_id,
        "key": wanted.key, "arguments": Json(wanted.arguments), "lane": wanted.lane,
        "priority": priority,
    }  # fmt: skip
    while True:
        row = connection.execute(_SQL["insert_job"], values).fetchone()
        if row is not None:
            return StoredJob.from_row(row), True
        row = connection.execute(_SQL["queued_with_key"], {"key": wanted.key}).fetchone()
        if row is not None:  # else it was begun in between
            return StoredJob.from_row(row), False


def keep_job_file(connection: Transaction, job_id: int, path: Path) -> None:
    """Store the input file of a job in chunks."""
    for n, data in chunks_of(path):
        connection.execute(_SQL["insert_chunk"], {"job_id": job_id, "n": n, "data": data})


def job_file(database: Database, job_id: int) -> Iterator[bytes]:
    """Yield the input file of a job in chunks, each in its own transaction."""
    return stored_chunks(database, _SQL["get_chunk"], {"job_id": job_id})


def get_job(connection: Transaction, job_id: int) -> StoredJob:
    """Return a job. Raises NotFoundError."""
    row = connection.execute(_SQL["get_job"], {"id": job_id}).fetchone()
    if row is None:
        raise NotFoundError(f"There is no job {job_id}. Reload the page")
    return StoredJob.from_row(row)


def begin(connection: Transaction, job_id: int, machine: str) -> StoredJob | None:
    """Mark a job as running in a new attempt; None if it was deleted or has ended."""
    row = connection.execute(_SQL["begin"], {"id": job_id, "machine": machine}).fetchone()
    return None if row is None else StoredJob.from_row(row)


def report(connection: Transaction, job: StoredJob, progress: float, step: str) -> bool:
    """Store the progress; return whether the attempt continues."""
    values = {"id": job.id, "attempt": job.attempts, "progress": progress, "step": step}
    return connection.execute(_SQL["report"], values).rowcount == 1


def is_current(connection: Transaction, job: StoredJob) -> bool:
    """Return whether an attempt continues."""
    values = {"id": job.id, "attempt": job.attempts}
    return connection.execute(_SQL["is_current"], values).rowcount == 1


def finish(connection: Transaction, job: StoredJob, result: dict[str, Any]) -> bool:
    """Store the result of an attempt and delete its input file; return False if it was ended."""
    values = {"id": job.id, "attempt": job.attempts, "result": Json(result)}
    done = connection.execute(_SQL["finish"], values).rowcount == 1
    if done:
        connection.execute(_SQL["delete_chunks"], {"job_id": job.id})
    return done


def fail(connection: Transaction, job: StoredJob, error: str, code: str) -> bool:
    """Mark an attempt as failed; return False if it was ended.

    The input file is kept for a retry.
    """
    values = {"id": job.id, "attempt": job.attempts, "error": error, "code": code}
    return connection.execute(_SQL["fail"], values).rowcount == 1


def put_back(connection: Transaction, job: StoredJob) -> None:
    """Let the job of a stopping worker wait again; delete it if an equal one waits."""
    values = {"id": job.id, "attempt": job.attempts}
    if connection.execute(_SQL["put_back"], values).rowcount == 0 and is_current(connection, job):
        delete_job(connection, job.id, anyhow=True)


def cancel(connection: Transaction, job_id: int) -> StoredJob | None:
    """Cancel a job that waits or runs; None if it has ended."""
    row = connection.execute(_SQL["cancel"], {"id": job_id}).fetchone()
    if row is None:
        return None
    return StoredJob.from_row(row)


def retry(connection: Transaction, job_id: int) -> StoredJob | None:
    """Let a failed or cancelled job wait again; None for other states."""
    row = connection.execute(_SQL["retry"], {"id": job_id}).fetchone()
    return None if row is None else StoredJob.from_row(row)


def delete_job(connection: Transaction, job_id: int, *, anyhow: bool = False) -> bool:
    """Delete a job that has ended.

    anyhow : also delete one that waits or runs
    """
    return connection.execute(_SQL["delete_job"], {"id": job_id, "anyhow": anyhow}).rowcount == 1


def of_project(connection: Transaction, project_id: int, recent: float) -> list[StoredJob]:
    """Return the jobs of a project and those without a project.

    These are all waiting, running and failed ones, and those that ended in the last seconds.
    """
    parameters = {"project_id": project_id, "recent": recent}
    return [StoredJob.from_row(row) for row in connection.execute(_SQL["of_project"], parameters)]


def last_failure(connection: Transaction, key: str) -> StoredJob | None:
    """Return the failed job of a key unless it was dismissed, or None."""
    row = connection.execute(_SQL["last_failure"], {"key": key}).fetchone()
    return None if row is None else StoredJob.from_row(row)


def is_any_open(connection: Transaction, kind: JobName, project_id: int) -> bool:
    """Return whether a job of a kind waits or runs in a project."""
    parameters = {"kind": kind, "project_id": project_id}
    return connection.execute(_SQL["open_of"], parameters).rowcount > 0


def purge(connection: Transaction, days: int) -> None:
    """Delete jobs that ended more than so many days ago, with their files."""
    connection.execute(_SQL["purge"], {"days": days})


def without_task(connection: Transaction) -> list[StoredJob]:
    """Return waiting jobs that have no task in the queue."""
    return [StoredJob.from_row(row) for row in connection.execute(_SQL["without_task"])]


@dataclass(frozen=True, slots=True)
class UnrequestedWork:
    """Work without a job: id of the file or group, project, and name."""

    id: int
    project_id: int
    name: str


def unrequested_detections(connection: Transaction) -> list[UnrequestedWork]:
    """Return files in Intake that wait to be recognized without a job."""
    return [UnrequestedWork(**row) for row in connection.execute(_SQL["unrequested_detections"])]


def unrequested_comparisons(connection: Transaction) -> list[UnrequestedWork]:
    """Return capture groups that wait for their analysis without a job."""
    return [UnrequestedWork(**row) for row in connection.execute(_SQL["unrequested_comparisons"])]
