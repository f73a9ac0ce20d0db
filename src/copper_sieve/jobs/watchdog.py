"""A thread that enforces a job's limits of time and memory, and stops a cancelled job."""

from __future__ import annotations

import contextlib
import logging
import os
import threading
import time
from collections.abc import Iterator
from pathlib import Path

from copper_sieve.core.errors import SieveError
from copper_sieve.services.context import Context
from copper_sieve.services.jobs.kinds import KINDS
from copper_sieve.services.jobs.running import Running
from copper_sieve.services.machine import this_machine
from copper_sieve.store import jobs

_log = logging.getLogger(__name__)
_LOOK_EVERY = 0.25  # seconds
_ASK_EVERY = 1.0  # seconds between database queries
_GRACE = 5.0  # seconds for a cancelled job to stop
_EXIT = 70  # exit status of a process that exits for its job; the supervisor starts another


@contextlib.contextmanager
def watchdog(context: Context, running: Running) -> Iterator[None]:
    """Watch a job in this process while the `with` block runs.

    If a job doesn't stop within a few seconds after it was cancelled, or exceeds a limit, the
    process exits, because native libraries can't be interrupted.
    """
    over = threading.Event()
    thread = threading.Thread(target=_Watch(context, running, over).run, name="watch", daemon=True)
    thread.start()
    try:
        yield
    finally:
        over.set()
        thread.join()


def memory_in_use() -> int:
    """Return the private memory of this process in bytes."""
    fields = Path("/proc/self/statm").read_text("ascii").split()
    return (int(fields[1]) - int(fields[2])) * os.sysconf("SC_PAGE_SIZE")


class _Watch:
    def __init__(self, context: Context, running: Running, over: threading.Event) -> None:
        self._context, self._running, self._over = context, running, over
        self._began = time.monotonic()
        self._asked = self._began
        self._given_up: float | None = None
        settings = context.settings
        self._seconds = settings.job_seconds
        self._memory = settings.job_memory or this_machine(settings).budget

    def run(self) -> None:
        """Check repeatedly until the job is over."""
        while not self._over.wait(_LOOK_EVERY):
            try:
                self._look()
            except SieveError:  # database unavailable: the job fails on its own
                continue
            except Exception:
                _log.exception("couldn't watch a job")

    def _look(self) -> None:
        now = time.monotonic()
        title = self._running.job.title or "This job"
        if (used := memory_in_use()) > self._memory:
            self._end(
                f"{title} requires more than {self._memory / 1e9:.1f} GB of memory "
                    f"({used / 1e9:.1f} GB used). Reduce the file, or raise "
                    "SIEVE_JOB_MEMORY", "no_memory",
            )  # fmt: skip
        if now - self._began > self._seconds:
            self._end(
                f"{title} took longer than {self._seconds:.0f} s. Reduce the file, or raise "
                    "SIEVE_JOB_SECONDS", "too_slow",
            )  # fmt: skip
        if now - self._asked >= _ASK_EVERY:
            self._asked = now
            if self._running.look_if_given_up() and self._given_up is None:
                self._given_up = now
        if self._given_up is not None and now - self._given_up > _GRACE:
            self._leave()

    def _end(self, error: str, code: str) -> None:
        with self._context.database.transaction() as connection:
            job = self._running.job
            if not self._running.is_finished and jobs.fail(connection, job, error, code):
                KINDS[job.kind].ended_without_result(self._context, connection, job, error)
        self._leave()

    def _leave(self) -> None:
        if self._over.is_set() or self._running.is_finished:
            return
        _log.warning("stopping the process to end a job id=%s", self._running.job.id)
        os._exit(_EXIT)
