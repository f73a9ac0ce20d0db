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
    """Where parts are carried out; all workers of one share its memory.

    budget : bytes that its parts may take together
    """

    name: str
    budget: int


@dataclass(frozen=True, slots=True)
class Attempt:
    """One attempt at one part: its number, which attempt it is, and which part it is.

    set_id : of its set, where that is known and still there
    """

    number: int
    attempt: int
    delivery_id: int
    n: int
    set_id: int | None = None


@dataclass(frozen=True, slots=True)
class OpenPart:
    """A part that a worker has in hand, or had when it died; done or cancelled where it only clears
    up."""

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
    """The number of the part that is next on a machine, of a delivery or of all; None where none
    waits that fits.

    but : numbers of parts that are not meant
    last_set : the set whose maps the worker still has
    """
    asked = {"machine": machine.name, "budget": machine.budget, "but": list(but),
             "delivery_id": delivery_id, "last_set": last_set}  # fmt: skip
    row = connection.execute(_SQL["next_part"], asked).fetchone()
    return None if row is None else int(row["number"])


def waiting(
    connection: Transaction, delivery_id: int | None = None, but: Collection[int] = ()
) -> int:
    """How many parts wait, of a delivery or of all, but those with these numbers."""
    asked = {"delivery_id": delivery_id, "but": list(but)}
    row = connection.execute(_SQL["waiting"], asked).fetchone()
    return int(row["n"]) if row else 0


def begin(connection: Transaction, number: int, machine: Machine) -> Attempt | None:
    """From waiting to running; None when it does not wait (any more), or does not fit any more."""
    connection.execute(_SQL["claim_lock"], {"machine": machine.name})
    asked = {"number": number, "machine": machine.name, "budget": machine.budget}
    row = connection.execute(_SQL["begin"], asked).fetchone()
    if row is None:
        return None
    return Attempt(number, row["attempts"], row["delivery_id"], row["n"], row["set_id"])


def report(connection: Transaction, of: Attempt, progress: float, step: str) -> bool:
    """Store the progress; True when this attempt is to stop."""
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
    """Store the files of a part and their verification; False if this attempt was given up.

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
    """End an attempt as failed, if it was not given up."""
    values = {"number": of.number, "attempt": of.attempt, "error": error}
    connection.execute(_SQL["fail"], values)


def requeue(connection: Transaction, of: Attempt, *, counts: bool) -> bool:
    """Back to waiting, after its worker was stopped or died; False when it was given up.

    counts : the attempt counts as one; it does not when the part could do nothing about it
    """
    values = {"number": of.number, "attempt": of.attempt, "counts": counts}
    return connection.execute(_SQL["requeue"], values).rowcount == 1


def clear_results(connection: Transaction, of: Attempt, stamps: Stamps | None = None) -> None:
    """Nothing of an attempt is left to be cleared up; its files have these stamps."""
    held = None if stamps is None else Json(stamps)
    asked = {"number": of.number, "attempt": of.attempt, "stamps": held}
    connection.execute(_SQL["clear_results"], asked)


def cancel(connection: Transaction, delivery_id: int) -> int:
    """Give up all parts of a delivery that wait or run; returns how many."""
    return connection.execute(_SQL["cancel"], {"id": delivery_id}).rowcount


def retry(connection: Transaction, delivery_id: int) -> int:
    """All parts of a delivery that failed or were cancelled wait again; returns how many."""
    return connection.execute(_SQL["retry"], {"id": delivery_id}).rowcount


def open_parts(connection: Transaction) -> list[OpenPart]:
    """Parts that some worker has in hand, or had when it died."""
    return [OpenPart(**row) for row in connection.execute(_SQL["open_parts"])]


def without_job(connection: Transaction) -> list[int]:
    """Deliveries with parts that wait, none that runs, and no job that waits in the queue."""
    return [int(row["id"]) for row in connection.execute(_SQL["without_job"])]


def close_dead_jobs(connection: Transaction) -> None:
    """Mark jobs whose worker is gone as failed."""
    connection.execute(_SQL["close_dead_jobs"])
