"""The most recently used models in memory, each read once for all requests."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable

from copper_sieve.core.mesh.mesh import Mesh

_MOST_TRIANGLES = 6_000_000  # of all that are kept, about 150 bytes each
_MOST = 4


class LoadedModels:
    """Meshes by the SHA-256 of their files; one is read at a time."""

    def __init__(self) -> None:
        self._held: OrderedDict[str, Mesh] = OrderedDict()
        self._lock = threading.Lock()

    def get(self, sha256: str, read: Callable[[], Mesh]) -> Mesh:
        """Return the mesh of a file.

        If it isn't loaded, `read` is called, which may raise MeshError.
        """
        with self._lock:
            if sha256 not in self._held:
                self._held[sha256] = read()
            self._held.move_to_end(sha256)
            found = self._held[sha256]
            while len(self._held) > 1 and (len(self._held) > _MOST or self._too_many):
                self._held.popitem(last=False)
            return found

    def forget(self) -> None:
        """Drop all meshes; callers keep theirs."""
        with self._lock:
            self._held.clear()

    @property
    def _too_many(self) -> bool:
        return sum(one.count for one in self._held.values()) > _MOST_TRIANGLES
