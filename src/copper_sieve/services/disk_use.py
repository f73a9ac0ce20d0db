"""Disk use of projects; deleted data is purged after 30 days together with its originals."""

from __future__ import annotations

import logging
import time

from copper_sieve.services.context import Context
from copper_sieve.services.elected_poller import ElectedPoller
from copper_sieve.store import arrivals, disk_use, jobs, projects, texture_sets
from copper_sieve.store.disk_use import ProjectUse
from copper_sieve.store.projects import get_project

_log = logging.getLogger(__name__)
KEPT_DAYS = 30  # days during which deleted data can be restored
_LOCK = -4  # of the server that purges; the follower has -3
_EVERY = 3600.0  # seconds
_LOOK_EVERY = 5.0
# A file that was just imported may belong to a draft that isn't saved yet.
_GRACE = 2 * 86400.0  # seconds


def use_of(context: Context, project_slug: str) -> ProjectUse:
    """Return the disk use of a project. Raises NotFoundError."""
    with context.database.transaction() as connection:
        return disk_use.of_project(connection, get_project(connection, project_slug).id)


def empty_trash(context: Context, project_slug: str) -> ProjectUse:
    """Permanently delete a project's Trash; return the remaining disk use.

    Raises
    ------
    NotFoundError
    """
    with context.database.transaction() as connection:
        project = get_project(connection, project_slug)
        disk_use.empty_trash(connection, project.id)
    return use_of(context, project_slug)


def purge(context: Context, grace: float = _GRACE) -> int:
    """Purge data deleted more than 30 days ago, and unused originals.

    grace : seconds since the import of an original before it is deleted

    Returns
    -------
    int
        Bytes of the deleted originals.
    """
    with context.database.transaction() as connection:
        projects.purge(connection, KEPT_DAYS)
        texture_sets.purge(connection, KEPT_DAYS)
        arrivals.purge_dismissed(connection, KEPT_DAYS)
        disk_use.purge_accepted(connection)
        jobs.purge(connection, KEPT_DAYS)
    with context.database.transaction() as connection:
        return disk_use.delete_unused(connection, seconds=grace)


class Purger(ElectedPoller):
    """A thread that purges at the start of a server and every hour."""

    def __init__(self, context: Context) -> None:
        super().__init__(context, "purger", _LOCK, self.look, _LOOK_EVERY)
        self._next = 0.0

    def look(self) -> None:
        """Purge if an hour has passed."""
        if time.monotonic() < self._next:
            return
        self._next = time.monotonic() + _EVERY
        if freed := purge(self._context):
            _log.info("originals deleted bytes=%s", freed)
