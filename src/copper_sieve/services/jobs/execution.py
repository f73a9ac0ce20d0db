"""Carry out a job: begin an attempt, run its kind, record how it ended."""

from __future__ import annotations

import logging
from collections.abc import Callable
from contextlib import AbstractContextManager, nullcontext

from copper_sieve.core.errors import CancelledError, DatabaseUnavailableError, SieveError
from copper_sieve.services.context import Context
from copper_sieve.services.jobs.kinds import KINDS
from copper_sieve.services.jobs.running import Running
from copper_sieve.services.machine import this_machine
from copper_sieve.store import jobs as store

_log = logging.getLogger(__name__)
_MOST_ATTEMPTS = 3


class PutBackError(Exception):
    """The worker has to stop; the job waits again and needs a new task."""


def carry_out(
    context: Context,
    job_id: int,
    is_stopping: Callable[[], bool] = lambda: False,
    watched: Callable[[Running], AbstractContextManager[None]] = lambda _: nullcontext(),
) -> None:
    """Carry out a job unless it was deleted or has ended.

    watched : context manager that is entered with the job while it runs

    Raises
    ------
    PutBackError
        The worker has to stop.
    DatabaseUnavailableError
        The database was lost; the job needs a new task.
    """
    with context.database.transaction() as connection:
        job = store.begin(connection, job_id, this_machine(context.settings).name)
    if job is None:
        return
    running = Running(context, job, is_stopping)
    kind = KINDS[job.kind]
    if job.attempts > _MOST_ATTEMPTS:
        why = (
            f"This job was interrupted {_MOST_ATTEMPTS} times: its worker ended or lost the "
            "database. The file may need more memory than this machine has"
        )
        _fail(context, running, why, "worker_lost")
        return
    try:
        with watched(running):
            kind.run(context, running)
        if not running.is_finished:
            with context.database.transaction() as connection:
                running.finish(connection)
    except CancelledError:
        if is_stopping():
            with context.database.transaction() as connection:
                store.put_back(connection, job)
            raise PutBackError from None
    except DatabaseUnavailableError:
        raise
    except SieveError as error:
        _fail(context, running, error.message, error.code)
    except MemoryError:
        _fail(context, running, f"{job.title or 'This job'} needs more memory than this machine "
              "has. Reduce the file", "no_memory")  # fmt: skip
    except Exception as error:
        _log.exception("job failed id=%s kind=%s", job.id, job.kind)
        _fail(context, running, f"Unexpected error: {error}", "unexpected")


def _fail(context: Context, running: Running, error: str, code: str) -> None:
    with context.database.transaction() as connection:
        if store.fail(connection, running.job, error, code):
            KINDS[running.job.kind].ended_without_result(context, connection, running.job, error)
