"""Pieces of one picture's work done on all cores, by threads: their kernels hold no lock."""

from __future__ import annotations

import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import TypeVar

_Done = TypeVar("_Done")


def at_once(work: Callable[[int], _Done], starts: range) -> list[_Done]:
    """The work of all starts, in their order; a small picture needs no threads."""
    if len(starts) == 1:
        return [work(starts[0])]
    with ThreadPoolExecutor(os.cpu_count()) as pool:
        return list(pool.map(work, starts))
