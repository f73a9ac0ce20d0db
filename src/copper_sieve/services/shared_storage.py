"""Deliveries on machines that share only the database and a storage URL.

Each machine has its own copy of the delivery folders. Before a worker records a part, it uploads
the staged files; before it starts a part, it downloads those of other machines. The server
downloads the files of remote workers.
"""

from __future__ import annotations

import logging
import os
from collections.abc import Callable
from datetime import datetime, timedelta
from pathlib import Path

from copper_sieve.core.errors import DeliveryError
from copper_sieve.services.context import Context
from copper_sieve.services.destinations import root_of
from copper_sieve.services.elected_poller import ElectedPoller
from copper_sieve.store import deliveries
from copper_sieve.store.copies import copy_to, fetch_copy
from copper_sieve.store.deliveries import DonePart

_log = logging.getLogger(__name__)
_EVERY = 0.5  # seconds
_NOTE = "fetched-until"
# A part carries the time at which its transaction began; one that ended later may carry an earlier
# time than another that was seen already.
_OVERLAP = timedelta(seconds=10)


def send(
    context: Context,
    folder: Path,
    staged: Path,
    manifest_name: str,
    is_cancelled: Callable[[], bool] | None = None,
) -> None:
    """Upload the staged files of a delivery folder to the storage, if one is set."""
    if place := _place_of(context, folder):
        copy_to(place, staged, manifest_name, is_cancelled=is_cancelled)


def fetch(context: Context, folder: Path, manifest_name: str) -> bool:
    """Update a delivery folder from the storage; return whether a file was downloaded.

    Raises DeliveryError.
    """
    place = _place_of(context, folder)
    if place is None:
        return False
    token = f"fetch-{os.getpid()}"
    root = root_of(context.settings, folder)
    return fetch_copy(place, folder, manifest_name, token=token, root=root)


def _place_of(context: Context, folder: Path) -> str | None:
    """Return the storage URL of a delivery folder, from its machine-independent name."""
    if not context.settings.storage:
        return None
    name, mark, inner = context.places().stored(folder).partition(":")
    return f"{context.settings.storage.rstrip('/')}/{name}/{inner}" if mark else None


class Fetcher(ElectedPoller):
    """A thread that downloads the deliveries of workers on other machines."""

    def __init__(self, context: Context) -> None:
        super().__init__(context, "fetcher", None, self.look, _EVERY)
        self._note = context.settings.home / _NOTE
        self._fetched: set[DonePart] = set()  # of those that the next look finds again

    def look(self) -> int:
        """Download new deliveries; returns the number of downloaded folders."""
        if not self._context.settings.storage:
            return 0
        since = self._since()
        with self._context.database.transaction() as connection:
            found = deliveries.finished_since(connection, since)
        done = [one for one in found if one not in self._fetched]
        self._fetched = set(found)
        fetched = 0
        for one in done:
            if self.is_stopping:
                return fetched
            try:
                fetched += fetch(self._context, one.folder, one.manifest_name)
            except DeliveryError as error:  # it is tried again when somebody asks for the files
                _log.warning("%s", error.message)
        if done:
            self._note.parent.mkdir(parents=True, exist_ok=True)
            self._note.write_text(max(one.finished_at for one in done).isoformat(), "ascii")
        return fetched

    def _since(self) -> datetime | None:
        try:
            return datetime.fromisoformat(self._note.read_text("ascii")) - _OVERLAP
        except (OSError, ValueError):
            return None
