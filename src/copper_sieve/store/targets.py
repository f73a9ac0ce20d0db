"""User-defined targets by id; changes are guarded by a version."""

from __future__ import annotations

from dataclasses import dataclass

from psycopg.types.json import Json

from copper_sieve.core.errors import ConflictError, UnknownTargetError
from copper_sieve.core.targets.target_preset import TargetPreset
from copper_sieve.store.database import Row, Transaction, statements

_SQL = statements("targets")


@dataclass(frozen=True, slots=True)
class OwnTarget:
    """A user-defined target with its version."""

    preset: TargetPreset
    version: int

    @classmethod
    def from_row(cls, row: Row) -> OwnTarget:
        """Build from a row of a statement."""
        return cls(TargetPreset.model_validate(row["definition"]), row["version"])


def list_targets(connection: Transaction) -> list[OwnTarget]:
    """Return all user-defined targets by id."""
    return [OwnTarget.from_row(row) for row in connection.execute(_SQL["list_targets"])]


def get_own_target(connection: Transaction, target_id: str) -> OwnTarget | None:
    """Return a user-defined target, or None."""
    row = connection.execute(_SQL["get_target"], {"id": target_id}).fetchone()
    return OwnTarget.from_row(row) if row else None


def add_target(connection: Transaction, preset: TargetPreset) -> OwnTarget:
    """Store a new target. Raises ConflictError if its id is taken."""
    row = connection.execute(_SQL["insert_target"], _values(preset)).fetchone()
    if row is None:
        raise ConflictError(f"a target with the id {preset.id} already exists. Choose another id")
    return OwnTarget.from_row(row)


def update_target(connection: Transaction, version: int, preset: TargetPreset) -> OwnTarget:
    """Replace a target if nobody changed it since `version`. Raises ConflictError,
    UnknownTargetError."""
    values = {**_values(preset), "version": version}
    row = connection.execute(_SQL["update_target"], values).fetchone()
    if row is None:
        if get_own_target(connection, preset.id) is None:
            raise UnknownTargetError(f"there is no custom target {preset.id}")
        raise ConflictError(
            f"{preset.id} was changed by someone else in the meantime. Reload the page and "
            "try again"
        )
    return OwnTarget.from_row(row)


def rename_target(connection: Transaction, target_id: str, version: int, new: str) -> None:
    """Change the id of a target, here and in its deliveries. Raises ConflictError."""
    if get_own_target(connection, new) is not None:
        raise ConflictError(f"a target with the id {new} already exists. Choose another id")
    values = {"id": target_id, "new": new, "version": version}
    if connection.execute(_SQL["rename_target"], values).rowcount == 1:
        connection.execute(_SQL["rename_in_deliveries"], values)
        connection.execute(_SQL["rename_in_destinations"], values)
        connection.execute(_SQL["rename_in_auto_deliver"], values)


def delete_target(connection: Transaction, target_id: str) -> None:
    """Delete a target; its deliveries remain. Raises UnknownTargetError."""
    if connection.execute(_SQL["delete_target"], {"id": target_id}).fetchone() is None:
        raise UnknownTargetError(f"there is no custom target {target_id}")


def _values(preset: TargetPreset) -> dict[str, object]:
    return {"id": preset.id, "definition": Json(preset.model_dump(mode="json"))}
