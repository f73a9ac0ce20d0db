"""The checklist: every set is checked in the background when it changes."""

from __future__ import annotations

import logging
from collections.abc import Callable, Sequence

from copper_sieve.core.checklist.check import RULES_VERSION, check_set, checklist_key
from copper_sieve.core.codecs import compression_loss
from copper_sieve.core.detection.normal_direction import Loss
from copper_sieve.core.errors import CancelledError, ConflictError, NotFoundError, SieveError
from copper_sieve.core.image.raster import Float
from copper_sieve.core.models.finding import Finding, Rule
from copper_sieve.core.models.texture_set import SetDefinition
from copper_sieve.services.context import Context
from copper_sieve.services.elected_poller import ElectedPoller
from copper_sieve.store import checklist, texture_sets
from copper_sieve.store.cache import MemoryCache
from copper_sieve.store.checklist import NewFinding, StoredChecklist
from copper_sieve.store.database import Transaction
from copper_sieve.store.projects import get_project
from copper_sieve.store.sources import get_source

_log = logging.getLogger(__name__)
_LOCK = -2  # lock number of the checklist; the webhook dispatcher has -1
_EVERY = 1.0  # seconds
_REST = 1.5  # seconds without a change of the set
_QUIET = 1.0  # seconds without a request after which sets are checked without pause


def of_project(context: Context, project_slug: str, ids: Sequence[int]) -> list[StoredChecklist]:
    """Return the checklists of sets of a project. Raises NotFoundError."""
    with context.database.transaction() as connection:
        project = get_project(connection, project_slug)
        kept = texture_sets.list_sets(connection, project.id, ids)
        return checklist.of_sets(connection, [one.id for one in kept])


def set_ignored(context: Context, set_id: int, finding: str, *, purpose: bool) -> StoredChecklist:
    """Ignore a finding, or stop ignoring it. Raises NotFoundError."""
    with context.database.transaction() as connection:
        texture_sets.get_set(connection, set_id)
        now = checklist.of_sets(connection, [set_id])[0]
        if purpose and finding not in {one.key for one in now.found.findings}:
            raise NotFoundError(f"this set has no finding {finding}")
        checklist.set_ignored(connection, set_id, [finding], purpose=purpose)
        return checklist.of_sets(connection, [set_id])[0]


def set_dismissed(
    context: Context, project_slug: str, set_ids: Sequence[int], cause: str, *, dismissed: bool
) -> None:
    """Dismiss a warning about deliveries of sets, or show it again. Raises NotFoundError."""
    with context.database.transaction() as connection:
        project = get_project(connection, project_slug)
        found = {one.id for one in texture_sets.list_sets(connection, project.id, set_ids)}
        if missing := set(set_ids) - found:
            raise NotFoundError(f"there is no texture set {min(missing)} in {project_slug}")
        for set_id in found:
            checklist.set_ignored(connection, set_id, [cause], purpose=dismissed)


def fix_definition(
    connection: Transaction, set_id: int, texture_set: SetDefinition, rule: Rule
) -> SetDefinition:
    """Apply the fix of a rule to a set, for all its findings.

    Raises ConflictError if nothing is found, the rule has no fix, or the set has changed since the
    check.
    """
    kept = checklist.of_sets(connection, [set_id])
    found = [one for one in (kept[0].open if kept else []) if one.rule == rule]
    if not found:
        raise ConflictError("the set no longer has this finding")
    if kept[0].key != checklist_key(texture_set):
        raise ConflictError("the set changed since it was checked. Try again in a moment")
    mends = [one.fix for one in found if one.fix is not None]
    if not mends:
        raise ConflictError("no change of settings fixes this")
    for fix in mends:
        texture_set = fix.applied(texture_set)
    return texture_set.checked()


def checked(context: Context, set_id: int) -> None:
    """Check a set and store the findings; identical copies are checked once.

    Raises NotFoundError.
    """
    with context.database.transaction() as connection:
        kept = texture_sets.get_set(connection, set_id)
    key, found = "", None
    try:
        texture_set = kept.definition()
        key = checklist_key(texture_set)
        with context.database.transaction() as connection:
            found = checklist.known(connection, key)
        found = found or NewFinding(tuple(_look(context, texture_set)), None)
    except (NotFoundError, CancelledError):
        raise
    except (SieveError, MemoryError) as error:
        text = error.message if isinstance(error, SieveError) else "not enough memory"
        found = NewFinding((), text)
    with context.database.transaction() as connection:
        checklist.put(connection, set_id, kept.version, RULES_VERSION, key, found)


def _look(context: Context, texture_set: SetDefinition) -> list[Finding]:
    with context.database.transaction() as connection:
        pictures = texture_set.sources() - texture_set.tied()
        files = {sha: get_source(connection, sha).facts for sha in pictures}

    def lost(sha256: str) -> Loss:
        with context.incoming() as folder:
            return compression_loss(context.fetch_source(sha256, folder), files[sha256].format)

    return check_set(
        texture_set,
        files,
        context.load_source,
        _Passing(context.memory),
        lost,
        context.load_model,
        context.closing.is_set,
    )


class _Passing:
    """A cache that reads existing entries and stores none.

    Maps of 1,000 checked sets would evict previews.
    """

    def __init__(self, memory: MemoryCache) -> None:
        self._memory = memory

    def get(self, key: str) -> Float | None:
        """Return the pixels of a key if a preview has cached them."""
        return self._memory.get(key)

    def put(self, key: str, pixels: Float) -> None:
        """Do nothing."""


class ChecklistRunner(ElectedPoller):
    """A thread that checks sets some time after their last change.

    quiet : seconds since the last request; while users are active, one set is checked at a time
    """

    def __init__(
        self, context: Context, quiet: Callable[[], float], every: float = _EVERY,
        rest: float = _REST,
    ) -> None:  # fmt: skip
        super().__init__(context, "overseer", _LOCK, self.look, every)
        self._quiet, self._rest = quiet, rest

    def look(self) -> list[int]:
        """Check the sets that are due; returns their ids."""
        done: list[int] = []
        while not self.is_stopping:
            with self._context.database.transaction() as connection:
                due = checklist.next_due(connection, RULES_VERSION, self._rest)
            if due is None or due in done:
                return done
            try:
                checked(self._context, due)
            except CancelledError:  # the server stops; the set is checked after the next start
                return done
            done.append(due)
            if self._quiet() < _QUIET:
                return done
        return done
