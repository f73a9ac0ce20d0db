"""Parallel work on parts of a picture in threads; kernels release the interpreter lock."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from typing import TypeVar

_Done = TypeVar("_Done")


def parallel_iter(work: Callable[[int], _Done], starts: range) -> Iterator[_Done]:
    """Start all calls in threads and yield their results in order, as they become available."""
    if len(starts) == 1:  # a small picture needs no threads
        yield work(starts[0])
        return
    with ThreadPoolExecutor(os.cpu_count()) as pool:
        yield from pool.map(work, starts)


def parallel_map(work: Callable[[int], _Done], starts: range) -> list[_Done]:
    """Run all calls in threads and return their results in order."""
    return list(parallel_iter(work, starts))
