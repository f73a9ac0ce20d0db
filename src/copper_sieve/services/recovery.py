"""Find parts of deliveries whose worker died, and deliveries whose job was lost."""

from __future__ import annotations

from copper_sieve.core.errors import SieveError
from copper_sieve.core.export.atomic_swap import clear_left_behind
from copper_sieve.core.export.shared_folder import staged_folder_for
from copper_sieve.services.context import Context
from copper_sieve.services.destinations import root_of
from copper_sieve.store import deliveries, delivery_parts
from copper_sieve.store.delivery_parts import Attempt, OpenPart
from copper_sieve.store.delivery_rows import StoredPart

_MOST_ATTEMPTS = 3


def recover(context: Context) -> list[int]:
    """Queue the work of dead workers again; returns the affected deliveries.

    Completed folder swaps are kept if they were recorded, and reverted otherwise; hidden files are
    removed. After three attempts a part fails. Safe to call at any time from any worker.
    """
    with context.database.transaction() as connection:
        delivery_parts.close_dead_jobs(connection)
        unfinished = delivery_parts.open_parts(connection)
    queued = set()
    for one in unfinished:
        with context.database.held_lock(one.number) as held:
            if held and _recover_part(context, one):
                queued.add(one.delivery_id)
    with context.database.transaction() as connection:
        for delivery_id in delivery_parts.without_job(connection):
            context.enqueue(connection, delivery_id)
            queued.add(delivery_id)
    return sorted(queued)


def _recover_part(context: Context, found: OpenPart) -> bool:
    with context.database.transaction() as connection:
        part = deliveries.get_part(connection, found.delivery_id, found.n)
    if part.state in ("queued", "failed"):
        return False
    done = part.state == "done"
    try:
        root = root_of(context.settings, part.folder)
        place = staged_folder_for(part.folder, str(part.number), part.manifest_name, root)
    except SieveError as error:  # it isn't reached any more: nothing there is touched
        _fail(context, part, error.message)
        return False
    try:
        stuck = clear_left_behind([place], done=done)
    finally:
        place.close()
    if stuck is None:  # it only lost its lock with the database, and gives itself up
        return False
    attempt = Attempt(part.number, part.attempts, part.delivery_id, part.n)
    with context.database.transaction() as connection:
        delivery_parts.clear_results(connection, attempt)
        if part.state != "running":
            return False
        if stuck or part.attempts >= _MOST_ATTEMPTS:
            delivery_parts.fail(connection, attempt, _why(part.attempts, stuck))
            return False
        if delivery_parts.requeue(connection, attempt, counts=True):
            context.enqueue(connection, part.delivery_id)
            return True
    return False


def _fail(context: Context, part: StoredPart, why: str) -> None:
    attempt = Attempt(part.number, part.attempts, part.delivery_id, part.n)
    with context.database.transaction() as connection:
        delivery_parts.clear_results(connection, attempt)
        if part.state == "running":
            delivery_parts.fail(connection, attempt, why)


def _why(attempts: int, stuck: list[str]) -> str:
    times = "once" if attempts == 1 else f"{attempts} times"
    text = f"the worker crashed {times} during the delivery"
    if stuck:
        return f"{text}. These changes couldn't be reverted: {'; '.join(stuck)}"
    return f"{text}. Nothing was changed"
