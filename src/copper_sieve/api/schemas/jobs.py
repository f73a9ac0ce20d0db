"""Jobs: operations that take longer than a request."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from pydantic import Field

from copper_sieve.api.schemas.common import ResponseModel
from copper_sieve.core.models.light_captures import CapturesSpec
from copper_sieve.services.jobs.listing import seconds_left, seconds_so_far
from copper_sieve.store.delivery_rows import ActiveDelivery
from copper_sieve.store.jobs import JobName, JobState, StoredJob

_NO_FIGURE: tuple[JobName, ...] = (
    "light_estimation",
    "light_fit",
    "file_detection",
    "file_comparison",
)


class ImportReportRead(ResponseModel):
    """Content of a project file besides its sets, one sentence for each entry."""

    added: list[str]
    merged: list[str]
    skipped: list[str] = Field(description="skipped items with the reason")


class JobResultRead(ResponseModel):
    """Result of a job; only the fields of its kind are set."""

    model_id: int | None = None
    environment_id: int | None = None
    surface_id: int | None = None
    project: str | None = Field(default=None, description="URL slug of the imported project")
    title: str | None = Field(default=None, description="title of the imported project")
    sets: int | None = Field(default=None, description="number of sets in the imported project")
    report: ImportReportRead | None = None
    captures: CapturesSpec | None = Field(
        default=None, description="light captures with new light directions"
    )


class JobRead(ResponseModel):
    """A job, or an open delivery.

    id : of the job, or of the delivery if `kind` is "delivery"
    title : name of the file or object
    progress : in [0, 1]; null if unknown
    seconds : running time
    seconds_left : estimate; null while unknown
    ahead : number of jobs that are carried out first, for a waiting job
    files : number of files it represents
    """

    kind: JobName | Literal["delivery"]
    id: int
    title: str
    state: JobState
    progress: float | None
    step: str
    seconds: float | None
    seconds_left: float | None
    ahead: int
    files: int
    error: str | None
    error_code: str | None
    result: JobResultRead | None
    created_at: datetime | None
    ended_at: datetime | None


def read_job(job: StoredJob) -> JobRead:
    """Return the response for one job."""
    return JobRead(
        kind=job.kind,
        id=job.id,
        title=job.title,
        state=job.state,
        progress=None if job.kind in _NO_FIGURE and job.state == "running" else job.progress,
        step=job.step,
        seconds=seconds_so_far(job),
        seconds_left=seconds_left(job),
        ahead=job.ahead,
        files=1,
        error=job.error,
        error_code=job.error_code,
        result=JobResultRead.model_validate(job.result) if job.state == "done" else None,
        created_at=job.created_at,
        ended_at=job.ended_at,
    )


def read_jobs(jobs: list[StoredJob], deliveries: list[ActiveDelivery]) -> list[JobRead]:
    """Return the job list; file detections count as one entry, newest jobs last."""
    both = ("file_detection", "file_comparison")
    files = [one for one in jobs if one.kind in both and one.is_open]
    found = [read_job(one) for one in jobs if one not in files]
    if files:
        waiting = [one for one in files if one.kind == "file_detection"]
        running = any(one.state == "running" for one in files)
        first = (waiting or files)[0]
        found.append(
            read_job(first).model_copy(
                update={
                    "kind": "file_detection",
                    "state": "running" if running else "queued",
                    "files": len(waiting),
                    "title": waiting[0].title if len(waiting) == 1 else "",
                    "progress": None,
                    "step": "" if waiting else "Comparing files",
                }
            )
        )
    return [*(_read_delivery(one) for one in reversed(deliveries)), *found]


def _read_delivery(one: ActiveDelivery) -> JobRead:
    delivery = one.delivery
    counts = delivery.counts
    step = f"{counts.done} of {counts.parts} parts" if counts.parts > 1 else delivery.step
    return JobRead(
        kind="delivery", id=delivery.id, title=f"Delivery {delivery.id}",
        state="queued" if delivery.state == "queued" else "running", progress=delivery.progress,
        step=step, seconds=None, seconds_left=one.seconds_left, ahead=0, files=1, error=None,
        error_code=None, result=None, created_at=delivery.created_at, ended_at=None,
    )  # fmt: skip
