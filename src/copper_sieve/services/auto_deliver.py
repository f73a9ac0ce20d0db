"""Auto-deliver: cells, columns and projects that are delivered on change."""

from __future__ import annotations

import logging

from copper_sieve.core.errors import SieveError
from copper_sieve.services import deliveries
from copper_sieve.services.context import Context
from copper_sieve.services.delivery_preview import Cell
from copper_sieve.services.elected_poller import ElectedPoller
from copper_sieve.services.readiness import delivered_of
from copper_sieve.services.targets import all_targets, find_target
from copper_sieve.store import auto_deliver, texture_sets
from copper_sieve.store.auto_deliver import AutoDeliverRule, ChangeSignature
from copper_sieve.store.projects import get_project

_log = logging.getLogger(__name__)
_EVERY = 1.0  # seconds
_REST = 2.0  # seconds without a change before a set is delivered
_LOCK = 0  # of whoever keeps; parts of deliveries begin at 1


def rules_of_project(context: Context, slug: str) -> list[AutoDeliverRule]:
    """Return the auto-deliver rules of a project. Raises NotFoundError."""
    with context.database.transaction() as connection:
        return auto_deliver.of_project(connection, get_project(connection, slug).id)


def set_rules(
    context: Context, slug: str, some: list[AutoDeliverRule], *, kept: bool
) -> list[AutoDeliverRule]:
    """Enable or disable auto-deliver rules; returns all rules.

    Raises NotFoundError, UnknownTargetError.
    """
    with context.database.transaction() as connection:
        project = get_project(connection, slug)
        for one in some:
            if kept and one.target_id is not None:
                find_target(connection, one.target_id)
            if kept and one.set_id is not None:
                texture_sets.get_set(connection, one.set_id)
            auto_deliver.put(connection, project.id, one, kept=kept)
        return auto_deliver.of_project(connection, project.id)


class AutoDeliverer(ElectedPoller):
    """A thread that creates deliveries of stale sets with auto-deliver rules."""

    def __init__(self, context: Context, every: float = _EVERY) -> None:
        super().__init__(context, "keeper", _LOCK, self.look, every)
        self._seen: dict[int, str] = {}

    def look(self) -> list[int]:
        """Deliver stale sets that haven't changed for a moment; returns the created deliveries."""
        with self._context.database.transaction() as connection:
            signatures = auto_deliver.change_signatures(connection)
        asked = []
        for sign in signatures:
            if self._seen.get(sign.id) == sign.sign:
                continue
            cells, rested = self._stale(sign)
            if cells:
                asked += self._ask(sign, cells)
            if rested:
                self._seen[sign.id] = sign.sign
        return asked

    def _stale(self, sign: ChangeSignature) -> tuple[list[Cell], bool]:
        """Return the set and target pairs to deliver now, and whether none was edited just now."""
        with self._context.database.transaction() as connection:
            ids = [one.id for one in texture_sets.list_sets(connection, sign.id)]
            there = all_targets(connection)
            rules = [
                rule
                for rule in auto_deliver.of_project(connection, sign.id)
                if rule.target_id is None or rule.target_id in there
            ]
            delivered = delivered_of(self._context, connection, sign.id)
            unsettled = auto_deliver.changed_projects(connection, sign.id, _REST)
            postponed = auto_deliver.postpone(connection, sign.id)
        wanted: dict[Cell, None] = {}
        for rule in rules:
            for set_id in ids if rule.set_id is None else [rule.set_id]:
                once = delivered.get(set_id, {})
                for target_id in once if rule.target_id is None else [rule.target_id]:
                    if once.get(target_id) != "delivered":
                        wanted[set_id, target_id] = None
        due = [cell for cell in wanted if cell not in postponed and cell[0] in ids]
        return [cell for cell in due if cell[0] not in unsettled], not unsettled

    def _ask(self, sign: ChangeSignature, cells: list[Cell]) -> list[int]:
        try:
            one = deliveries.create_delivery(
                self._context, sign.slug, cells, on_skip=lambda _: None
            )
        except SieveError as error:  # nothing can be delivered; the board shows the reason
            _log.info("auto-deliver failed for %s: %s", sign.slug, error.message)
            return []
        return [one.id]
