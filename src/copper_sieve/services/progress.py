"""Progress of long operations, and the check before a result is stored."""

from __future__ import annotations

from typing import Any, Protocol

from copper_sieve.store.database import Transaction


class Progress(Protocol):
    """Receiver of progress: a job, or nobody."""

    def report(self, share: float, step: str = "") -> None:
        """Report the completed share in [0, 1] and the current step. Raises CancelledError."""

    def finish(self, connection: Transaction, result: dict[str, Any] | None = None) -> None:
        """Finish in the transaction that stores the result. Raises CancelledError."""


class _Untold:
    def report(self, share: float, step: str = "") -> None:
        pass

    def finish(self, connection: Transaction, result: dict[str, Any] | None = None) -> None:
        pass


UNTOLD: Progress = _Untold()


class SubProgress:
    """Progress of a part: maps [0, 1] to a range of the whole."""

    def __init__(self, whole: Progress, begin: float, end: float) -> None:
        self._whole, self._begin, self._span = whole, begin, end - begin

    def report(self, share: float, step: str = "") -> None:
        """Report the completed share of this part."""
        self._whole.report(self._begin + share * self._span, step)
