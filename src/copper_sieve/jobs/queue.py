"""The PostgreSQL task queue: its tables, its tasks, and how tasks are queued."""

from __future__ import annotations

import contextlib
from collections.abc import Callable
from pathlib import Path

import procrastinate
from procrastinate import App
from procrastinate.exceptions import AlreadyEnqueued
from procrastinate.jobs import Job
from procrastinate.retry import BaseRetryStrategy, RetryDecision

from copper_sieve.core.errors import DatabaseUnavailableError
from copper_sieve.services.context import Context
from copper_sieve.services.jobs.execution import PutBackError
from copper_sieve.store import delivery_parts
from copper_sieve.store.database import Database, Transaction
from copper_sieve.store.jobs import JOB_NAMES, StoredJob
from copper_sieve.store.migrating import migrate

DELIVERIES = "deliveries"  # the lane of deliveries; other lanes carry out jobs
_MOST_TASKS = 16  # of one delivery
_AGAIN = 1  # seconds until a task that lost the database is retried


def migrate_all(database: Database) -> list[str]:
    """Create or migrate all tables for this version. Raises SetupError."""
    manager = procrastinate.schema.SchemaManager
    folder = Path(manager.get_migrations_path())
    own = {path.name: path.read_text("utf-8") for path in sorted(folder.glob("*.sql"))}
    return migrate(database, manager.get_schema(), own)


class RetryAfterError(BaseRetryStrategy):
    """Retry strategy: tasks are retried if their worker was stopped or lost the database; other
    errors are recorded with the job.
    """

    def get_retry_decision(self, *, exception: BaseException, job: Job) -> RetryDecision | None:
        """Return when a task is retried; None: never."""
        if isinstance(exception, PutBackError):
            return RetryDecision(retry_in={"seconds": 0})
        if isinstance(exception, DatabaseUnavailableError):
            return RetryDecision(retry_in={"seconds": _AGAIN})
        return None


def connect_queue(context: Context) -> None:
    """Queue deliveries and jobs of a context in the transactions that create them."""
    context.enqueue, context.start_job = enqueuer(), starter()


def _defining() -> App:
    """Return an app that is never opened: tasks are queued over the caller's connection."""
    return App(connector=procrastinate.SyncPsycopgConnector())


def enqueuer() -> Callable[[Transaction, int], None]:
    """Return a function that queues a delivery: a task per waiting part, up to 16.

    A task only signals that there is work; whoever receives it carries out parts until none is left
    (docs/decisions.md, 14 and 26). It is queued in the caller's transaction, together with the
    delivery.
    """
    app = _defining()

    def enqueue(connection: Transaction, delivery_id: int) -> None:
        waits = delivery_parts.waiting(connection, delivery_id)
        for n in range(min(waits, _MOST_TASKS)):
            with contextlib.suppress(AlreadyEnqueued), connection.transaction():
                app.configure_task(
                    "deliver",
                    queue=DELIVERIES,
                    queueing_lock=f"delivery-{delivery_id}-{n}",
                    connection=connection,
                ).defer(delivery_id=delivery_id)

    return enqueue


def starter() -> Callable[[Transaction, StoredJob], None]:
    """Return a function that queues the task of a job in the caller's transaction.

    The lock prevents equal jobs from running in parallel, the queueing lock prevents duplicates in
    the queue.
    """
    app = _defining()

    def start(connection: Transaction, job: StoredJob) -> None:
        with contextlib.suppress(AlreadyEnqueued), connection.transaction():
            app.configure_task(
                job.kind,
                queue=job.lane,
                priority=job.priority,
                lock=job.key,
                queueing_lock=f"job-{job.id}",
                connection=connection,
            ).defer(job_id=job.id)

    return start


def add_tasks(app: App, deliver: Callable[[int], None], carry_out: Callable[[int], None]) -> None:
    """Register the tasks with the queue: `deliver`, and one for each kind of job."""
    app.task(name="deliver", queue=DELIVERIES)(_deliver_task(deliver))
    for kind in JOB_NAMES:
        app.task(name=kind, retry=RetryAfterError())(_job_task(carry_out))


def _deliver_task(deliver: Callable[[int], None]) -> Callable[[int], None]:
    def run(delivery_id: int) -> None:
        deliver(delivery_id)

    return run


def _job_task(carry_out: Callable[[int], None]) -> Callable[[int], None]:
    def run(job_id: int) -> None:
        carry_out(job_id)

    return run
