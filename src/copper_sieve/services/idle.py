"""Release memory when the server is idle.

Memory pools and cached maps make previews fast but are useless while nobody works, and the C
library keeps freed memory until it is trimmed.
"""

from __future__ import annotations

import ctypes
import threading
import time
from collections.abc import Callable

from copper_sieve.core.image import array_pool
from copper_sieve.store.cache import MemoryCache

_AFTER = 15.0  # seconds without a request
# bytes of cached maps that are kept, because they are requested first when work resumes
_KEPT = 192 << 20


class IdleThread:
    """A thread that releases memory some time after the last request; not running before `start`.

    also : called at that time to release more memory
    """

    def __init__(
        self,
        memory: MemoryCache,
        after: float = _AFTER,
        also: Callable[[], None] = lambda: None,
    ) -> None:
        self._memory, self._after, self._also = memory, after, also
        self._changed = threading.Condition()
        self._asked = 0
        self._last = time.monotonic() - after
        self._stopping = False
        self._thread = threading.Thread(target=self._run, name="rest", daemon=True)

    def start(self) -> None:
        """Start the thread."""
        self._thread.start()

    def disturb(self) -> None:
        """Note a request."""
        with self._changed:
            self._asked += 1
            self._last = time.monotonic()
            self._changed.notify()

    def quiet(self) -> float:
        """Return the seconds since the last request."""
        return time.monotonic() - self._last

    def stop(self) -> None:
        """End the thread."""
        with self._changed:
            self._stopping = True
            self._changed.notify()
        self._thread.join()

    def _run(self) -> None:
        while True:
            with self._changed:
                seen = self._asked
                while self._asked == seen and not self._stopping:
                    self._changed.wait()
                while not self._stopping:  # until it is quiet
                    seen = self._asked
                    self._changed.wait(self._after)
                    if self._asked == seen:
                        break
                if self._stopping:
                    return
            self._also()
            give_back(self._memory)


def give_back(memory: MemoryCache) -> None:
    """Drop caches that only improve speed, and return free memory to the system."""
    memory.shrink(_KEPT)
    array_pool.forget_idle()
    trim = getattr(ctypes.CDLL(None), "malloc_trim", None)  # of glibc
    if trim is not None:
        trim(0)
