"""Graceful shutdown (Ctrl+C, SIGTERM): stop between steps, not inside one."""

from __future__ import annotations

import os
import signal
from collections.abc import Callable
from typing import Any

SERVERS = ("demo", "serve", "work")  # commands that run until they are stopped
_STOPPED = 130  # the exit status that shells use for Ctrl+C


class OrderedShutdown:
    """Records a stop request; startup code checks for it between its steps.

    This keeps steps atomic: starting a database server, stopping a worker, or native threads that
    write to an array.
    """

    def __init__(self) -> None:
        self.asked = False
        self._begun = False
        self._tell: Callable[[], None] = lambda: None

    def listen(self) -> None:
        """Install the signal handlers."""
        for number in (signal.SIGINT, signal.SIGTERM):
            signal.signal(number, self._noted)
        # The start script blocks the signals until here, so that none is lost.
        signal.pthread_sigmask(signal.SIG_UNBLOCK, {signal.SIGINT, signal.SIGTERM})

    def _noted(self, *_: Any) -> None:
        if not self._begun:  # modules are being loaded: nothing to stop yet
            os._exit(_STOPPED)
        self.asked = True
        self._tell()

    def begin(self) -> None:
        """Start recording child processes, which `stop_all` stops in order."""
        self._begun = True

    def point(self) -> None:
        """Check for a stop request. Raises KeyboardInterrupt if there is one."""
        if self.asked:
            raise KeyboardInterrupt

    def tell(self, who: Callable[[], None]) -> None:
        """Call a function on a stop request, immediately if there already is one."""
        self._tell = who
        if self.asked:
            who()


stopping = OrderedShutdown()
