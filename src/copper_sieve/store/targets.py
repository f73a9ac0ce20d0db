"""Targets that people made, by their ids; changes are guarded by a version."""

from __future__ import annotations

from psycopg.types.json import Json

from copper_sieve.core.errors import ConflictError, UnknownTargetError
from copper_sieve.core.targets.target_preset import TargetPreset
from copper_sieve.store.database import Row, Transaction, statements

_SQL = statements("targets")


def list_targets(connection: Transaction) -> list[Row]:
    """All own targets by id."""
    return connection.execute(_SQL["list_targets"]).fetchall()


def get_target_row(connection: Transaction, target_id: str) -> Row | None:
    """An own target, or None."""
    return connection.execute(_SQL["get_target"], {"id": target_id}).fetchone()


def add_target(connection: Transaction, preset: TargetPreset) -> Row:
    """Store a new target. Raises ConflictError where its id is taken."""
    row = connection.execute(_SQL["insert_target"], _values(preset)).fetchone()
    if row is None:
        raise ConflictError(f"there is a target {preset.id} already: choose another id")
    return row


def update_target(connection: Transaction, version: int, preset: TargetPreset) -> Row:
    """Replace a target if nobody changed it since `version`. Raises ConflictError,
    UnknownTargetError."""
    values = {**_values(preset), "version": version}
    row = connection.execute(_SQL["update_target"], values).fetchone()
    if row is None:
        if get_target_row(connection, preset.id) is None:
            raise UnknownTargetError(f"there is no target {preset.id} that could be changed")
        raise ConflictError(
            f"{preset.id} was changed elsewhere in the meantime: reload and try again"
        )
    return row


def rename_target(connection: Transaction, target_id: str, version: int, new: str) -> None:
    """Give a target another id, here and in what was delivered with it. Raises ConflictError."""
    if get_target_row(connection, new) is not None:
        raise ConflictError(f"there is a target {new} already: choose another id")
    values = {"id": target_id, "new": new, "version": version}
    if connection.execute(_SQL["rename_target"], values).rowcount == 1:
        connection.execute(_SQL["rename_in_deliveries"], values)


def delete_target(connection: Transaction, target_id: str) -> None:
    """Forget a target; what was delivered with it stays. Raises UnknownTargetError."""
    if connection.execute(_SQL["delete_target"], {"id": target_id}).fetchone() is None:
        raise UnknownTargetError(f"there is no target {target_id} that could be taken out")


def _values(preset: TargetPreset) -> dict[str, object]:
    return {"id": preset.id, "definition": Json(preset.model_dump(mode="json"))}
