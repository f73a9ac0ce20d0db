"""Environments of a project; their bytes are stored as sources."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Literal

from copper_sieve.core.errors import NotFoundError
from copper_sieve.store.database import Row, Transaction, statements

_SQL = statements("environments")
EnvironmentKind = Literal["panorama", "mirror_ball"]


@dataclass(frozen=True, slots=True)
class StoredEnvironment:
    """An environment.

    lamp : direction of its brightest point, y up; strength : its luminance divided by the mean
    """

    id: int
    project_id: int
    sha256: str
    name: str
    kind: EnvironmentKind
    lamp: tuple[float, float, float]
    strength: float
    mean: float
    created_at: datetime

    @classmethod
    def from_row(cls, row: Row) -> StoredEnvironment:
        """Build from a row of a statement."""
        return cls(**{**row, "lamp": tuple(row["lamp"])})


def add_environment(  # noqa: PLR0917
    connection: Transaction,
    project_id: int,
    sha256: str,
    name: str,
    kind: EnvironmentKind,
    lamp: tuple[float, float, float],
    strength: float,
    mean: float,
) -> StoredEnvironment:
    """Store an environment for a source; the same picture is stored once."""
    parameters = {"project_id": project_id, "sha256": sha256, "name": name, "kind": kind,
             "lamp": list(lamp), "strength": strength, "mean": mean}  # fmt: skip
    row = connection.execute(_SQL["insert_environment"], parameters).fetchone()
    assert row is not None
    return StoredEnvironment.from_row(row)


def list_environments(connection: Transaction, project_id: int) -> list[StoredEnvironment]:
    """Return the environments of a project by name."""
    rows = connection.execute(_SQL["list_environments"], {"project_id": project_id})
    return [StoredEnvironment.from_row(row) for row in rows]


def get_environment(connection: Transaction, environment_id: int) -> StoredEnvironment:
    """Return an environment. Raises NotFoundError."""
    row = connection.execute(_SQL["get_environment"], {"id": environment_id}).fetchone()
    if row is None:
        raise NotFoundError(f"the environment {environment_id} no longer exists. Reload the page")
    return StoredEnvironment.from_row(row)


def delete_environment(connection: Transaction, environment_id: int) -> str:
    """Remove an environment; returns the SHA-256 of its picture. Raises NotFoundError."""
    row = connection.execute(_SQL["delete_environment"], {"id": environment_id}).fetchone()
    if row is None:
        raise NotFoundError(f"the environment {environment_id} no longer exists. Reload the page")
    return str(row["sha256"])
