"""Progress of a command: a line on a terminal for operations longer than a second."""

from __future__ import annotations

import sys
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import TYPE_CHECKING

if TYPE_CHECKING:  # only loaded on a terminal
    from rich.progress import Progress

Report = Callable[[float, str], None]  # share from 0 to 1, and the current step
_AFTER = 1.0  # seconds


@contextmanager
def progress(title: str, *, quiet: bool = False) -> Iterator[Report | None]:
    """Show progress while the block runs; yields None if nothing is displayed.

    Without a reported share, only the elapsed time is shown.
    """
    if quiet or not sys.stderr.isatty():
        yield None
        return
    from rich.console import Console
    from rich.progress import BarColumn, Progress, SpinnerColumn, TextColumn, TimeElapsedColumn

    bar = Progress(
        SpinnerColumn(),
        TextColumn("{task.description}"),
        BarColumn(bar_width=24),
        TextColumn("{task.fields[step]}"),
        TimeElapsedColumn(),
        console=Console(stderr=True),
        transient=True,
    )
    task = bar.add_task(title, total=None, step="")

    def report(share: float, step: str) -> None:
        bar.update(task, total=1.0, completed=share, step=step)

    beginning = threading.Timer(_AFTER, _begin, [bar])
    beginning.daemon = True
    beginning.start()
    try:
        yield report
    finally:
        beginning.cancel()
        beginning.join()
        bar.stop()


def _begin(bar: Progress) -> None:
    bar.start()
