"""The job list: waiting, running, failed and recently completed jobs."""

from __future__ import annotations

from fastapi import APIRouter

from copper_sieve.api.deps import ContextDep
from copper_sieve.api.paging import PageDep
from copper_sieve.api.schemas.jobs import JobRead, read_job, read_jobs
from copper_sieve.services import deliveries
from copper_sieve.services.jobs import listing

router = APIRouter(prefix="/api/v1", tags=["jobs"])


@router.get("/projects/{project}/jobs")
def list_jobs(project: str, context: ContextDep, page: PageDep) -> list[JobRead]:
    """List the jobs of a project, and jobs without project, that wait, run, failed or ended in the
    last ten minutes, and open deliveries. Cheap enough for polling.
    """
    found = deliveries.under_way(context, project)
    listed = read_jobs(listing.of_project(context, project), found)
    return page.of(listed, lambda one: f"{one.kind} {one.id}")


@router.get("/jobs/{job_id}")
def get_job(job_id: int, context: ContextDep) -> JobRead:
    """Return a job, with its result when it is done."""
    return read_job(listing.get(context, job_id))


@router.post("/jobs/{job_id}/cancel")
def cancel_job(job_id: int, context: ContextDep) -> JobRead:
    """Cancel a waiting or running job; nothing of it is stored."""
    return read_job(listing.cancel(context, job_id))


@router.post("/jobs/{job_id}/retry")
def retry_job(job_id: int, context: ContextDep) -> JobRead:
    """Retry a failed or cancelled job."""
    return read_job(listing.retry(context, job_id))


@router.delete("/jobs/{job_id}", status_code=204)
def dismiss_job(job_id: int, context: ContextDep) -> None:
    """Remove a job that has ended from the list."""
    listing.dismiss(context, job_id)
