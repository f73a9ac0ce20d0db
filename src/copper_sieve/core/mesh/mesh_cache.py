"""Caches data derived from a model as long as its arrays live: scenes, tangents, edges.

Moving a control requests the same model repeatedly; building a scene of 500,000 triangles takes
longer than the rays of a preview.
"""

from __future__ import annotations

import threading
import weakref
from collections import OrderedDict
from collections.abc import Callable, Hashable, Sequence
from typing import Any, TypeVar

from numpy.typing import NDArray

Result = TypeVar("Result")
_MOST = 48  # results, the last used
_PATIENCE = 120.0  # seconds

_held: OrderedDict[Hashable, tuple[list[weakref.ref[NDArray[Any]]], Any]] = OrderedDict()
_making: dict[Hashable, threading.Lock] = {}
_lock = threading.RLock()  # an array may die, and be forgotten, while this thread is in here


def cached_by_mesh(
    name: str,
    arrays: Sequence[NDArray[Any]],
    compute: Callable[[], Result],
    *key: Hashable,
) -> Result:
    """Return the result of `compute`, or of an earlier call with the same name, arrays and key.

    Parameters
    ----------
    name : of the computation
    arrays : all array inputs, compared by identity; they must not be modified
    compute : function without arguments
    key : further inputs

    Returns
    -------
    The result; it is shared, must not be modified, and must not refer to the arrays
    """
    place = (name, *(id(one) for one in arrays), *key)
    found = _found(place, arrays)
    if found is not None:
        result: Result = found[0]
        return result
    with _lock:
        making = _making.setdefault(place, threading.Lock())
    # Concurrent calls share one computation. After a long wait, a thread computes the result
    # itself, because the other may wait for something this thread holds.
    held = making.acquire(timeout=_PATIENCE)
    try:
        found = _found(place, arrays)
        if found is not None:
            shared: Result = found[0]
            return shared
        made = compute()
        with _lock:
            refs = [weakref.ref(one, lambda _: _forget(place)) for one in arrays]
            _held[place] = refs, made
            _held.move_to_end(place)
            while len(_held) > _MOST:
                _held.popitem(last=False)
        return made
    finally:
        with _lock:
            _making.pop(place, None)
        if held:
            making.release()


def _found(place: Hashable, arrays: Sequence[NDArray[Any]]) -> tuple[Any] | None:
    """Return the cached result in a tuple, since it may be None."""
    with _lock:
        found = _held.get(place)
        if found is None or any(
            ref() is not one for ref, one in zip(found[0], arrays, strict=True)
        ):
            return None
        _held.move_to_end(place)
        return (found[1],)


def _forget(place: Hashable) -> None:
    with _lock:
        found = _held.get(place)
        if found is not None and any(ref() is None for ref in found[0]):
            del _held[place]
