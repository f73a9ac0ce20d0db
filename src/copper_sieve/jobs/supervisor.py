"""A worker: one process per lane, forked from a process with all code loaded."""

from __future__ import annotations

import gc
import logging
import os
import select
import signal
import sys
import threading
import time
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path

from numba.np.ufunc.parallel import threading_layer

from copper_sieve.jobs.lane import run_lane
from copper_sieve.jobs.queue import DELIVERIES
from copper_sieve.settings import Settings
from copper_sieve.store.jobs import LANES

_log = logging.getLogger(__name__)
PARENT_PIPE = "SIEVE_PARENT_PIPE"  # environment variable with the pipe to the parent process
# Detection is short and users wait for it; previews have priority over all jobs.
_NICE = {"files": 4, "small": 4}
_LEAST_NICE = 10
_LOOK_EVERY = 0.1  # seconds
_PATIENCE = 12.0  # seconds for a lane to stop; not applied when the parent died
_PATIENCE_ALONE = 120.0
_TOO_SOON = 1.0  # lanes that lived shorter than this many seconds are restarted with this delay

Stop = Callable[[Callable[[], None]], None]


def work(settings: Settings, dsn: str, on_stop: Stop) -> None:
    """Run the lanes of a worker until it is stopped or its parent dies.

    on_stop : registers a function to be called on a stop request
    This process has no threads and no connections, so that it can fork a new lane at any time.
    """
    _Supervisor(settings, dsn).run(on_stop)


class _Supervisor:
    def __init__(self, settings: Settings, dsn: str) -> None:
        self._settings, self._dsn = settings, dsn
        self._stopping = False
        self._parent = int(os.environ.pop(PARENT_PIPE, "-1"))
        # The lanes hold the reading end of a pipe, which ends with this process however it dies.
        self._reading, self._writing = os.pipe()
        self._running: dict[int, tuple[str, float]] = {}

    def run(self, on_stop: Stop) -> None:
        _check_that_forks_work()
        on_stop(self._stop)
        for name in (*LANES, *[DELIVERIES] * self._settings.workers):
            self._start(name)
        is_alone = False
        while not self._stopping and not is_alone:
            self._replace_dead()
            is_alone = self._parent_is_gone()
        # A lane that just started may not handle signals yet; it notices the end of the pipe.
        os.close(self._writing)
        for pid in self._running:
            with suppress(ProcessLookupError):
                os.kill(pid, signal.SIGTERM)
        self._wait(_PATIENCE_ALONE if is_alone else _PATIENCE)

    def _stop(self) -> None:
        self._stopping = True

    def _start(self, name: str) -> None:
        gc.freeze()  # loaded code stays shared with the children
        sys.stdout.flush()
        sys.stderr.flush()
        pid = os.fork()
        if pid:
            self._running[pid] = name, time.monotonic()
            return
        status = 1
        try:
            os.close(self._writing)
            if self._parent >= 0:
                os.close(self._parent)
            os.nice(_NICE.get(name, _LEAST_NICE))
            with suppress(OSError):  # name in process lists
                Path("/proc/self/comm").write_text(f"lane-{name}", "ascii")
            run_lane(name, self._settings, self._dsn, _stops_with(self._reading))
            status = 0
        except BaseException:
            _log.exception("the lane %s stopped", name)
        finally:
            sys.stderr.flush()
            os._exit(status)

    def _parent_is_gone(self) -> bool:
        """Return whether the parent process died; waits a moment."""
        if self._parent < 0:
            time.sleep(_LOOK_EVERY)
            return False
        ready, _, _ = select.select([self._parent], [], [], _LOOK_EVERY)
        return bool(ready) and not os.read(self._parent, 1)

    def _replace_dead(self) -> None:
        for pid, (name, since) in list(self._running.items()):
            done, status = os.waitpid(pid, os.WNOHANG)
            if not done or self._stopping:
                continue
            del self._running[pid]
            _log.warning("the lane %s stopped (%s); restarting it", name, status)
            if time.monotonic() - since < _TOO_SOON:
                time.sleep(_TOO_SOON)
            self._start(name)

    def _wait(self, seconds: float) -> None:
        end = time.monotonic() + seconds
        for pid in list(self._running):
            while time.monotonic() < end:
                try:
                    if os.waitpid(pid, os.WNOHANG)[0]:
                        break
                except ChildProcessError:
                    break
                time.sleep(0.02)
            else:
                with suppress(ProcessLookupError):
                    os.kill(pid, signal.SIGKILL)
                with suppress(ChildProcessError):
                    os.waitpid(pid, 0)


def _check_that_forks_work() -> None:
    """Check that no kernels ran while code was loaded, because their threads are lost in a fork."""
    try:
        layer = threading_layer()  # type: ignore[no-untyped-call]
    except ValueError:  # no threading layer was chosen yet
        return
    raise RuntimeError(f"kernels ran before the lanes were started ({layer})")


def _stops_with(pipe: int) -> Stop:
    """Stop a lane on SIGTERM and when the supervisor dies."""

    def on_stop(tell: Callable[[], None]) -> None:
        signal.signal(signal.SIGTERM, lambda *_: tell())
        signal.signal(signal.SIGINT, signal.SIG_IGN)  # the supervisor stops lanes in order

        def read() -> None:
            with suppress(OSError):
                while os.read(pipe, 1):
                    pass
            tell()

        threading.Thread(target=read, name="parent", daemon=True).start()

    return on_stop
