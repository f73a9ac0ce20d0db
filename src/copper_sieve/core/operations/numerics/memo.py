"""Cache for parts of an operation that a changed parameter doesn't affect.

Moving the `contrast` slider requests the same relief twenty times a second. The last result of
each part is kept while its input map exists.
"""

from __future__ import annotations

import threading
import weakref
from collections.abc import Callable, Hashable
from typing import Any, TypeVar

import numpy as np

from copper_sieve.core.image.raster import Float

Result = TypeVar("Result")
_LARGEST = 16 << 20  # bytes of a map whose parts are kept: a preview, not a delivery

_kept: dict[tuple[str, int], tuple[weakref.ref[Float], Hashable, Any]] = {}
_lock = threading.RLock()  # a map may die, and be forgotten, while this thread is in here


def memoized(
    name: str, source: Float, parameters: Hashable, compute: Callable[[], Result]
) -> Result:
    """Return the result of `compute`, or that of the last call with the same arguments.

    Parameters
    ----------
    name : of the computation
    source : input map, compared by identity; writable or large ones aren't cached
    parameters : all other inputs of the result
    compute : function without arguments

    Returns
    -------
    The result; an array is shared and must not be modified
    """
    if source.flags.writeable or source.nbytes > _LARGEST:
        return _frozen(compute())
    key = (name, id(source))
    with _lock:
        found = _kept.get(key)
    if found is not None and found[0]() is source and found[1] == parameters:
        kept: Result = found[2]
        return kept
    result = _frozen(compute())
    with _lock:
        _kept[key] = (weakref.ref(source, lambda _: _forget(key)), parameters, result)
    return result


def _frozen(result: Result) -> Result:
    if isinstance(result, np.ndarray):
        result.setflags(write=False)
    return result


def _forget(key: tuple[str, int]) -> None:
    with _lock:
        found = _kept.get(key)
        if found is not None and found[0]() is None:
            del _kept[key]
