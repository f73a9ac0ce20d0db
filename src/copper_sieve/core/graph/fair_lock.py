"""Controls which thread computes: one at a time per process, previews first."""

from __future__ import annotations

import threading
from collections import deque
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field


@dataclass(eq=False, slots=True)
class _Waiting:
    ahead: bool
    called: threading.Event = field(default_factory=threading.Event)


class FairLock:
    """A lock that threads acquire in the order of their requests.

    A plain lock is usually acquired again by the thread that just released it, so that long work in
    many short steps blocks everyone else. While a thread is `ahead`, only such threads are served.
    """

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._row: deque[_Waiting] = deque()
        self._taken = False
        self._hurried = 0
        self._own = threading.local()

    def __enter__(self) -> None:
        own = _Waiting(ahead=self._is_ahead)
        with self._lock:
            if not self._taken and not self._row and (own.ahead or not self._hurried):
                self._taken = True
                return
            self._row.append(own)
            if not self._taken:
                self._call_next()
        try:
            own.called.wait()
        except BaseException:  # Ctrl+C in the main thread
            with self._lock:
                if own.called.is_set():
                    self._call_next()
                else:
                    self._row.remove(own)
            raise

    def __exit__(self, *_: object) -> None:
        with self._lock:
            self._call_next()

    def hand_on(self) -> None:
        """Let waiting threads run between two steps of long work."""
        with self._lock:
            wanted = bool(self._row)
        if wanted:
            self.__exit__()
            self.__enter__()

    @contextmanager
    def ahead(self) -> Iterator[None]:
        """Give this thread priority during the `with` block; others wait until it ends."""
        depth = getattr(self._own, "depth", 0)
        with self._lock:
            self._hurried += 1
        self._own.depth = depth + 1
        try:
            yield
        finally:
            self._own.depth = depth
            with self._lock:
                self._hurried -= 1
                if not self._taken:
                    self._call_next()

    @property
    def _is_ahead(self) -> bool:
        return getattr(self._own, "depth", 0) > 0

    def _call_next(self) -> None:
        """Pass the lock on; it is held."""
        found = next((one for one in self._row if one.ahead), None)
        if found is None and self._row and not self._hurried:
            found = self._row[0]
        self._taken = found is not None
        if found is not None:
            self._row.remove(found)
            found.called.set()


# The kernels use all cores, and not every threading layer supports concurrent entry.
computing = FairLock()
