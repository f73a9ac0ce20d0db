"""Parts of running deliveries: begin, report, finish, requeue.

Writes are fenced by the attempt: a worker that lost its lock or was cancelled can't change
anything.
"""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from typing import Any

from psycopg.types.json import Json

from copper_sieve.store.database import Transaction, statements
from copper_sieve.store.delivery_rows import Stamps, State

_SQL = statements("delivery_parts")


@dataclass(frozen=True, slots=True)
class Machine:
    """A machine that runs parts; all its workers share its memory.

    budget : bytes that its parts may use together
    """

    name: str
    budget: int


@dataclass(frozen=True, slots=True)
class Attempt:
    """An attempt at a part: ids of part and attempt, delivery and index of the part.

    set_id : None if the set is unknown or was purged
    """

    number: int
    attempt: int
    delivery_id: int
    n: int
    set_id: int | None = None


@dataclass(frozen=True, slots=True)
class OpenPart:
    """A part that has a worker, or had one when the worker died.

    A finished or cancelled part is included while its files are being cleaned up.
    """

    number: int
    delivery_id: int
    n: int
    state: State


def next_part(
    connection: Transaction,
    machine: Machine,
    but: Collection[int],
    delivery_id: int | None = None,
    last_set: int | None = None,
) -> int | None:
    """Return the number of the next part for a machine, of a delivery or of all; None if none fits.

    but : numbers of parts to skip
    last_set : the set whose maps the worker has in memory
    """
    parameters = {"machine": machine.name, "budget": machine.budget, "but": list(but),
             "delivery_id": delivery_id, "last_set": last_set}  # fmt: skip
    row = connection.execute(_SQL["next_part"], parameters).fetchone()
    return None if row is None else int(row["number"])


def waiting(
    connection: Transaction, delivery_id: int | None = None, but: Collection[int] = ()
) -> int:
    """Count the waiting parts of a delivery or of all, except those with these numbers."""
    parameters = {"delivery_id": delivery_id, "but": list(but)}
    row = connection.execute(_SQL["waiting"], parameters).fetchone()
    return int(row["n"]) if row else 0


def begin(connection: Transaction, number: int, machine: Machine) -> Attempt | None:
    """Mark a waiting part as running; None if it no longer waits or no longer fits."""
    connection.execute(_SQL["claim_lock"], {"machine": machine.name})
    parameters = {"number": number, "machine": machine.name, "budget": machine.budget}
    row = connection.execute(_SQL["begin"], parameters).fetchone()
    if row is None:
        return None
    return Attempt(number, row["attempts"], row["delivery_id"], row["n"], row["set_id"])


def report(connection: Transaction, of: Attempt, progress: float, step: str) -> bool:
    """Store the progress; return whether the attempt has to stop."""
    values = {"number": of.number, "attempt": of.attempt, "progress": progress, "step": step}
    return connection.execute(_SQL["report"], values).rowcount == 0


def finish_part(
    connection: Transaction,
    of: Attempt,
    *,
    manifest: dict[str, Any],
    assay: dict[str, Any],
    written: int,
    kept: int,
    clearing: bool,
) -> bool:
    """Store the files of a part and their verification; return False if the attempt was ended.

    written, kept : number of written and unchanged files
    clearing : the previous files are still in the hidden folder
    """
    values = {
        "number": of.number,
        "attempt": of.attempt,
        "manifest": Json(manifest),
        "assay": Json(assay),
        "written": written,
        "kept": kept,
        "clearing": clearing,
    }
    return connection.execute(_SQL["finish_part"], values).rowcount == 1


def fail(connection: Transaction, of: Attempt, error: str) -> None:
    """Mark an attempt as failed unless it was ended."""
    values = {"number": of.number, "attempt": of.attempt, "error": error}
    connection.execute(_SQL["fail"], values)


def requeue(connection: Transaction, of: Attempt, *, counts: bool) -> bool:
    """Let a part wait again after its worker stopped or died.

    Return False if the attempt was ended.

    counts : the attempt counts towards the limit; False if the part didn't cause the stop
    """
    values = {"number": of.number, "attempt": of.attempt, "counts": counts}
    return connection.execute(_SQL["requeue"], values).rowcount == 1


def clear_results(connection: Transaction, of: Attempt, stamps: Stamps | None = None) -> None:
    """Record that an attempt left nothing to clean up, and the signatures of its files."""
    held = None if stamps is None else Json(stamps)
    parameters = {"number": of.number, "attempt": of.attempt, "stamps": held}
    connection.execute(_SQL["clear_results"], parameters)


def cancel(connection: Transaction, delivery_id: int) -> int:
    """Cancel all waiting and running parts of a delivery; return their number."""
    return connection.execute(_SQL["cancel"], {"id": delivery_id}).rowcount


def retry(connection: Transaction, delivery_id: int) -> int:
    """Let all failed and cancelled parts of a delivery wait again; return their number."""
    return connection.execute(_SQL["retry"], {"id": delivery_id}).rowcount


def open_parts(connection: Transaction) -> list[OpenPart]:
    """Return the parts that have a worker, or had one when the worker died."""
    return [OpenPart(**row) for row in connection.execute(_SQL["open_parts"])]


def without_job(connection: Transaction) -> list[int]:
    """Return deliveries with waiting parts, no running part, and no job in the queue."""
    return [int(row["id"]) for row in connection.execute(_SQL["without_job"])]


def close_dead_jobs(connection: Transaction) -> None:
    """Mark jobs whose worker is gone as failed."""
    connection.execute(_SQL["close_dead_jobs"])
