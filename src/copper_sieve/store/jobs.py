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

    attempts : how often it was begun; machine : where it was begun last
    progressed_at : when the progress changed last
    error_code : of the error, as answers of the API have it
    ahead : jobs of its lane that are carried out before it; known in lists only
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
        """As a statement gives it."""
        return cls(**row)

    @property
    def is_open(self) -> bool:
        """It waits or runs."""
        return self.state in ("queued", "running")


def add_job(
    connection: Transaction, wanted: NewJob, *, priority: int, shares_running: bool
) -> tuple[StoredJob, bool]:
    """Add a job unless equal work waits; return the job and whether it is new.

    priority : higher ones of a lane run first
    shares_running : also a job that runs already is the same work
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
    """Store the file that a job reads, in chunks."""
    for n, data in chunks_of(path):
        connection.execute(_SQL["insert_chunk"], {"job_id": job_id, "n": n, "data": data})


def job_file(database: Database, job_id: int) -> Iterator[bytes]:
    """Yield the input file of a job in chunks, each in its own transaction."""
    return stored_chunks(database, _SQL["get_chunk"], {"job_id": job_id})


def get_job(connection: Transaction, job_id: int) -> StoredJob:
    """One job. Raises NotFoundError."""
    row = connection.execute(_SQL["get_job"], {"id": job_id}).fetchone()
    if row is None:
        raise NotFoundError(f"There is no job {job_id}. Reload the page")
    return StoredJob.from_row(row)


def begin(connection: Transaction, job_id: int, machine: str) -> StoredJob | None:
    """Mark a job as running in a new attempt; None where it is gone or has ended."""
    row = connection.execute(_SQL["begin"], {"id": job_id, "machine": machine}).fetchone()
    return None if row is None else StoredJob.from_row(row)


def report(connection: Transaction, job: StoredJob, progress: float, step: str) -> bool:
    """Store the progress; False where this attempt is to stop."""
    values = {"id": job.id, "attempt": job.attempts, "progress": progress, "step": step}
    return connection.execute(_SQL["report"], values).rowcount == 1


def is_current(connection: Transaction, job: StoredJob) -> bool:
    """Whether this attempt is to go on."""
    values = {"id": job.id, "attempt": job.attempts}
    return connection.execute(_SQL["is_current"], values).rowcount == 1


def finish(connection: Transaction, job: StoredJob, result: dict[str, Any]) -> bool:
    """Store what an attempt made and drop its file; False where it was given up."""
    values = {"id": job.id, "attempt": job.attempts, "result": Json(result)}
    done = connection.execute(_SQL["finish"], values).rowcount == 1
    if done:
        connection.execute(_SQL["delete_chunks"], {"job_id": job.id})
    return done


def fail(connection: Transaction, job: StoredJob, error: str, code: str) -> bool:
    """End an attempt as failed; False where it was given up. Its file stays for a retry."""
    values = {"id": job.id, "attempt": job.attempts, "error": error, "code": code}
    return connection.execute(_SQL["fail"], values).rowcount == 1


def put_back(connection: Transaction, job: StoredJob) -> None:
    """Let a job wait again whose worker is to stop; drop it where equal work waits already."""
    values = {"id": job.id, "attempt": job.attempts}
    if connection.execute(_SQL["put_back"], values).rowcount == 0 and is_current(connection, job):
        delete_job(connection, job.id, anyhow=True)


def cancel(connection: Transaction, job_id: int) -> StoredJob | None:
    """Give up a job that waits or runs; None where it has ended."""
    row = connection.execute(_SQL["cancel"], {"id": job_id}).fetchone()
    if row is None:
        return None
    return StoredJob.from_row(row)


def retry(connection: Transaction, job_id: int) -> StoredJob | None:
    """Let a job wait again that failed or was cancelled; None where there is nothing to retry."""
    row = connection.execute(_SQL["retry"], {"id": job_id}).fetchone()
    return None if row is None else StoredJob.from_row(row)


def delete_job(connection: Transaction, job_id: int, *, anyhow: bool = False) -> bool:
    """Forget a job that has ended.

    anyhow : one that waits or runs as well
    """
    return connection.execute(_SQL["delete_job"], {"id": job_id, "anyhow": anyhow}).rowcount == 1


def of_project(connection: Transaction, project_id: int, recent: float) -> list[StoredJob]:
    """Jobs of a project and of none: those that wait, run or failed, and those that ended in the
    last seconds."""
    asked = {"project_id": project_id, "recent": recent}
    return [StoredJob.from_row(row) for row in connection.execute(_SQL["of_project"], asked)]


def last_failure(connection: Transaction, key: str) -> StoredJob | None:
    """The job of a key that failed and wasn't dismissed; None where there is none."""
    row = connection.execute(_SQL["last_failure"], {"key": key}).fetchone()
    return None if row is None else StoredJob.from_row(row)


def is_any_open(connection: Transaction, kind: JobName, project_id: int) -> bool:
    """Whether a job of a kind waits or runs in a project."""
    asked = {"kind": kind, "project_id": project_id}
    return connection.execute(_SQL["open_of"], asked).rowcount > 0


def purge(connection: Transaction, days: int) -> None:
    """Forget jobs that ended more than so many days ago, with their files."""
    connection.execute(_SQL["purge"], {"days": days})


def without_task(connection: Transaction) -> list[StoredJob]:
    """Jobs that wait although nothing in the queue calls for them."""
    return [StoredJob.from_row(row) for row in connection.execute(_SQL["without_task"])]


@dataclass(frozen=True, slots=True)
class UnrequestedWork:
    """Something that waits for a job that nobody asked for: its number, project and name."""

    id: int
    project_id: int
    name: str


def unrequested_detections(connection: Transaction) -> list[UnrequestedWork]:
    """Files in Intake that wait to be detected without a job."""
    return [UnrequestedWork(**row) for row in connection.execute(_SQL["unrequested_detections"])]


def unrequested_comparisons(connection: Transaction) -> list[UnrequestedWork]:
    """Pictures of one surface whose lights are to be estimated, without a job."""
    return [UnrequestedWork(**row) for row in connection.execute(_SQL["unrequested_comparisons"])]
