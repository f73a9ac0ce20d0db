"""Deliveries and their parts, from asked-for to proven."""

from __future__ import annotations

from collections.abc import Collection
from typing import Any

from psycopg.types.json import Json

from copper_sieve.core.errors import NotFoundError
from copper_sieve.store.database import Row, Transaction, statements

_SQL = statements("deliveries")


def add_delivery(connection: Transaction, project_id: int, parts: list[dict[str, Any]]) -> int:
    """Store a delivery that waits, with its parts; returns its id."""
    row = connection.execute(_SQL["insert_delivery"], {"project_id": project_id}).fetchone()
    assert row is not None
    for n, part in enumerate(parts):
        connection.execute(
            _SQL["insert_part"],
            {
                **part,
                "delivery_id": row["id"],
                "n": n,
                "definition": Json(part["definition"]),
                "preset": Json(part["preset"]),
            },
        )
    return int(row["id"])


def list_deliveries(connection: Transaction, project_id: int) -> list[Row]:
    """The newest deliveries of a project with their parts."""
    rows = connection.execute(_SQL["list_deliveries"], {"project_id": project_id}).fetchall()
    return _with_parts(connection, rows)


def get_delivery(connection: Transaction, delivery_id: int) -> Row:
    """One delivery with its parts. Raises NotFoundError."""
    row = connection.execute(_SQL["get_delivery"], {"id": delivery_id}).fetchone()
    if row is None:
        raise NotFoundError(f"there is no delivery {delivery_id}")
    return _with_parts(connection, [row])[0]


def _with_parts(connection: Transaction, rows: list[Row]) -> list[Row]:
    found = connection.execute(_SQL["list_parts"], {"ids": [row["id"] for row in rows]})
    parts: dict[int, list[Row]] = {}
    for part in found:
        parts.setdefault(part["delivery_id"], []).append(part)
    return [{**row, "parts": parts.get(row["id"], [])} for row in rows]


def begin(connection: Transaction, delivery_id: int) -> int | None:
    """From waiting to running; the number of the attempt, None when it does not wait (any more)."""
    row = connection.execute(_SQL["begin"], {"id": delivery_id}).fetchone()
    return None if row is None else int(row["attempts"])


def report(
    connection: Transaction, delivery_id: int, attempt: int, progress: float, step: str
) -> bool:
    """Store the progress; True when this attempt is to stop."""
    row = connection.execute(
        _SQL["report"],
        {"id": delivery_id, "attempt": attempt, "progress": progress, "step": step},
    ).fetchone()
    return row is None or bool(row["cancel_requested"])


def finish_part(
    connection: Transaction,
    delivery_id: int,
    n: int,
    *,
    attempt: int,
    manifest: dict[str, Any],
    assay: dict[str, Any],
) -> bool:
    """Store what a part wrote and its proof; False when this attempt was given up."""
    values = {
        "delivery_id": delivery_id,
        "n": n,
        "attempt": attempt,
        "manifest": Json(manifest),
        "assay": Json(assay),
    }
    return connection.execute(_SQL["finish_part"], values).rowcount == 1


def finish(
    connection: Transaction,
    delivery_id: int,
    state: str,
    error: str | None,
    attempt: int,
    *,
    was: str = "running",
) -> None:
    """End a delivery as done, failed or cancelled, if this attempt was not given up.

    was : its state so far; an attempt that was given up meanwhile finds it queued, and ends nothing
    """
    values = {"id": delivery_id, "state": state, "error": error, "attempt": attempt, "was": was}
    connection.execute(_SQL["finish"], values)


def requeue(connection: Transaction, delivery_id: int, attempt: int, *, counts: bool) -> None:
    """Back to waiting, after its worker was stopped or died.

    counts : the attempt counts as one; it does not when the delivery could do nothing about it
    """
    values = {"id": delivery_id, "attempt": attempt, "counts": counts}
    connection.execute(_SQL["requeue"], values)


def close_dead_jobs(connection: Transaction, delivery_id: int) -> None:
    """Mark the jobs of a delivery whose worker is gone as failed."""
    connection.execute(_SQL["close_dead_jobs"], {"id": delivery_id})


def ask_cancel(connection: Transaction, delivery_id: int) -> str | None:
    """Ask for a stop; returns the state it was in, None when it had already ended."""
    row = connection.execute(_SQL["ask_cancel"], {"id": delivery_id}).fetchone()
    return row["state"] if row else None


def unfinished(connection: Transaction) -> list[Row]:
    """Deliveries that wait or run, each with `has_job`: a job waits for it in the queue."""
    waiting = {row["id"] for row in connection.execute(_SQL["waiting_jobs"])}
    rows = connection.execute(_SQL["unfinished"]).fetchall()
    return [{**row, "has_job": row["id"] in waiting} for row in rows]


def latest_parts(connection: Transaction, project_id: int) -> list[Row]:
    """For each set and target the newest part that was delivered whole."""
    return connection.execute(_SQL["latest_parts"], {"project_id": project_id}).fetchall()


def asked_before(
    connection: Transaction, set_id: int | None, target_id: str, delivery_id: int | None = None
) -> int:
    """How often a set was asked for a target before that delivery; None: in all."""
    row = connection.execute(
        _SQL["asked_before"], {"set_id": set_id, "target_id": target_id, "before": delivery_id}
    ).fetchone()
    return int(row["n"]) if row else 0


def written_to(connection: Transaction, folders: Collection[str]) -> list[Row]:
    """Every part that was delivered into one of these folders, the newest first."""
    return connection.execute(_SQL["written_to"], {"folders": list(folders)}).fetchall()
