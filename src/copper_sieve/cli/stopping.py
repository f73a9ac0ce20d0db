"""Being told to stop (Ctrl+C, SIGTERM) without being torn out of the middle of a step."""

from __future__ import annotations

import os
import signal
from collections.abc import Callable
from typing import Any

SERVERS = ("demo", "serve", "work")  # the commands that run until they are told to stop
_STOPPED = 130  # how a shell tells of Ctrl+C


class Stopping:
    """Notes that we are to stop; a start asks for it between its steps.

    What must not be cut in two (a database server that is being started, a worker that is being
    stopped, native threads that write into an array) so never is.
    """

    def __init__(self) -> None:
        self.asked = False
        self._begun = False
        self._tell: Callable[[], None] = lambda: None

    def listen(self) -> None:
        """Take the signals from here on."""
        for number in (signal.SIGINT, signal.SIGTERM):
            signal.signal(number, self._noted)
        # The start script has blocked them until here, so that none is lost.
        signal.pthread_sigmask(signal.SIG_UNBLOCK, {signal.SIGINT, signal.SIGTERM})

    def _noted(self, *_: Any) -> None:
        if not self._begun:  # modules are being loaded: there is nothing to end in order
            os._exit(_STOPPED)
        self.asked = True
        self._tell()

    def begin(self) -> None:
        """From here on what has been started must be ended in order."""
        self._begun = True

    def point(self) -> None:
        """A good moment to stop. Raises KeyboardInterrupt if we are to."""
        if self.asked:
            raise KeyboardInterrupt

    def tell(self, who: Callable[[], None]) -> None:
        """Call this when we are to stop, also if we are already."""
        self._tell = who
        if self.asked:
            who()


stopping = Stopping()
