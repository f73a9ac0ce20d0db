"""A thread that calls a function at intervals, on one of several servers that share a database."""

from __future__ import annotations

import logging
import threading
from collections.abc import Callable

from psycopg_pool import PoolClosed

from copper_sieve.core.errors import DatabaseUnavailableError
from copper_sieve.services.context import Context

_log = logging.getLogger(__name__)
_EVERY = 1.0  # seconds


class ElectedPoller:
    """Calls a function at intervals while it holds a lock that only one server can hold.

    lock : number of the lock, below 1 (parts of deliveries use 1 and up); None: every server polls
    """

    def __init__(
        self, context: Context, name: str, lock: int | None, look: Callable[[], object],
        every: float = _EVERY,
    ) -> None:  # fmt: skip
        self._context, self._lock, self._look, self._every = context, lock, look, every
        self._stopping = threading.Event()
        self._thread = threading.Thread(target=self._run, name=name, daemon=True)

    def start(self) -> None:
        """Start the thread."""
        self._thread.start()

    def stop(self) -> None:
        """End the thread after the current call."""
        self._stopping.set()
        self._thread.join()

    @property
    def is_stopping(self) -> bool:
        """Return whether a long call has to end soon."""
        return self._stopping.is_set()

    def _run(self) -> None:
        while not self._stopping.is_set():
            try:
                if self._lock is None:
                    self._look()
                else:
                    self._look_while_held(self._lock)
            except PoolClosed:
                return
            except DatabaseUnavailableError:
                _log.debug("database unavailable; retrying")
            except Exception:
                _log.exception("the %s failed", self._thread.name)
            self._stopping.wait(self._every)

    def _look_while_held(self, number: int) -> None:
        with self._context.database.held_lock(number) as lock:
            while lock and not self._stopping.wait(self._every):
                lock.check()
                self._look()
