"""A job under way: its arguments and file, its progress, and how it ends."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from copper_sieve.core.errors import CancelledError, DatabaseUnavailableError
from copper_sieve.services.context import Context
from copper_sieve.store import jobs as store
from copper_sieve.store.database import Transaction
from copper_sieve.store.jobs import StoredJob

_REPORT_EVERY = 0.25  # seconds


class Running:
    """An attempt at a job, for the code that carries it out.

    is_stopping : returns whether the worker has to stop
    """

    def __init__(
        self, context: Context, job: StoredJob, is_stopping: Callable[[], bool] = lambda: False
    ) -> None:
        self.job, self.is_stopping = job, is_stopping
        self._context = context
        self._last = 0.0
        self._lock = threading.Lock()
        self._is_given_up = False
        self.is_finished = False

    @property
    def arguments(self) -> dict[str, Any]:
        """Return the arguments of the job's kind."""
        return self.job.arguments

    def report(self, share: float, step: str = "") -> None:
        """Store the completed share in [0, 1] and the current step.

        Raises CancelledError if the job was cancelled or its worker has to stop.
        """
        with self._lock:
            now = time.monotonic()
            if now - self._last >= _REPORT_EVERY:
                self._last = now
                try:
                    with self._context.database.transaction() as connection:
                        if not store.report(connection, self.job, share, step):
                            self._is_given_up = True
                except (
                    DatabaseUnavailableError
                ):  # the work continues; its end waits for the database
                    self._last = time.monotonic()
        self.check()

    def check(self) -> None:
        """Raise CancelledError if the job was cancelled or its worker has to stop."""
        if self._is_given_up or self.is_stopping():
            raise CancelledError

    def look_if_given_up(self) -> bool:
        """Check in the database whether the job was cancelled; for a thread that monitors it."""
        with self._context.database.transaction() as connection:
            if not self.is_finished and not store.is_current(connection, self.job):
                self._is_given_up = not self.is_finished
        return self._is_given_up

    def finish(self, connection: Transaction, result: dict[str, Any] | None = None) -> None:
        """Mark the job as done in the transaction that stores its result.

        Raises CancelledError if it was cancelled; then nothing is stored.
        """
        if not store.finish(connection, self.job, result or {}):
            self._is_given_up = True
            raise CancelledError
        self.is_finished = True

    def drop(self, connection: Transaction) -> None:
        """Delete the job in the transaction that stores its result; nobody reads it later."""
        self.finish(connection)
        store.delete_job(connection, self.job.id)

    @contextmanager
    def file(self) -> Iterator[Path]:
        """Write the job's input file into a temporary folder, deleted at the end of the block."""
        with self._context.incoming() as folder:
            path = folder / "incoming"
            with path.open("wb") as out:
                for chunk in store.job_file(self._context.database, self.job.id):
                    out.write(chunk)
                    self.check()
            yield path
