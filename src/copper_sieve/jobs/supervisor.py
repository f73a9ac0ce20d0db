"""A worker: a process for each lane, forked from one that has loaded all code."""

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
PARENT_PIPE = "SIEVE_PARENT_PIPE"  # the environment's name for the pipe to the process above
# Detection is quick and somebody waits for it; whoever looks at a preview goes before all of them.
_NICE = {"files": 4, "small": 4}
_LEAST_NICE = 10
_LOOK_EVERY = 0.1  # seconds
_PATIENCE = 12.0  # seconds that a lane has to stop; nobody waits for it where the parent is gone
_PATIENCE_ALONE = 120.0
_TOO_SOON = 1.0  # seconds of life below which the next start waits for so long

Stop = Callable[[Callable[[], None]], None]


def work(settings: Settings, dsn: str, on_stop: Stop) -> None:
    """Run the lanes of a worker until it is told to stop or its parent dies.

    on_stop : takes what is to be called when we are to stop
    This process itself does nothing else: it has no threads and no connections that a fork would
    share, so that a lane that ends with its job is replaced at once.
    """
    _Supervisor(settings, dsn).run(on_stop)


class _Supervisor:
    def __init__(self, settings: Settings, dsn: str) -> None:
        self._settings, self._dsn = settings, dsn
        self._stopping = False
        self._parent = int(os.environ.pop(PARENT_PIPE, "-1"))
        # The lanes hold the reading end: it ends with this process, however that dies.
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
        # A lane that has just begun may not listen to signals yet; it hears the end of the pipe.
        os.close(self._writing)
        for pid in self._running:
            with suppress(ProcessLookupError):
                os.kill(pid, signal.SIGTERM)
        self._wait(_PATIENCE_ALONE if is_alone else _PATIENCE)

    def _stop(self) -> None:
        self._stopping = True

    def _start(self, name: str) -> None:
        gc.freeze()  # what was loaded stays shared with the children
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
            with suppress(OSError):  # for whoever lists processes
                Path("/proc/self/comm").write_text(f"lane-{name}", "ascii")
            run_lane(name, self._settings, self._dsn, _stops_with(self._reading))
            status = 0
        except BaseException:
            _log.exception("the lane %s stopped", name)
        finally:
            sys.stderr.flush()
            os._exit(status)

    def _parent_is_gone(self) -> bool:
        """Also waits a moment."""
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
    """Kernels must not have run while code was loaded: their threads are lost in a fork."""
    try:
        layer = threading_layer()  # type: ignore[no-untyped-call]
    except ValueError:  # none has been chosen yet
        return
    raise RuntimeError(f"kernels ran before the lanes were started ({layer})")


def _stops_with(pipe: int) -> Stop:
    """A lane is to stop at SIGTERM, and when the supervisor has died."""

    def on_stop(tell: Callable[[], None]) -> None:
        signal.signal(signal.SIGTERM, lambda *_: tell())
        signal.signal(signal.SIGINT, signal.SIG_IGN)  # the supervisor stops us in order

        def read() -> None:
            with suppress(OSError):
                while os.read(pipe, 1):
                    pass
            tell()

        threading.Thread(target=read, name="parent", daemon=True).start()

    return on_stop
