"""Surroundings of a project: pictures of all directions; their bytes are kept as sources."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Literal

from copper_sieve.core.errors import NotFoundError
from copper_sieve.store.database import Row, Transaction, statements

_SQL = statements("environments")
SurroundingKind = Literal["panorama", "mirror_ball"]


@dataclass(frozen=True, slots=True)
class KeptSurrounding:
    """A surrounding.

    lamp : the direction of its brightest place, y up; strength : times its mean, a luminance
    """

    id: int
    project_id: int
    sha256: str
    name: str
    kind: SurroundingKind
    lamp: tuple[float, float, float]
    strength: float
    mean: float
    created_at: datetime

    @classmethod
    def from_row(cls, row: Row) -> KeptSurrounding:
        """As a statement gives it."""
        return cls(**{**row, "lamp": tuple(row["lamp"])})


def add_surrounding(  # noqa: PLR0917
    connection: Transaction,
    project_id: int,
    sha256: str,
    name: str,
    kind: SurroundingKind,
    lamp: tuple[float, float, float],
    strength: float,
    mean: float,
) -> KeptSurrounding:
    """Keep what is known of a picture that is a source; the same picture is one surrounding."""
    asked = {"project_id": project_id, "sha256": sha256, "name": name, "kind": kind,
             "lamp": list(lamp), "strength": strength, "mean": mean}  # fmt: skip
    row = connection.execute(_SQL["insert_surrounding"], asked).fetchone()
    assert row is not None
    return KeptSurrounding.from_row(row)


def list_surroundings(connection: Transaction, project_id: int) -> list[KeptSurrounding]:
    """Those of a project by name."""
    rows = connection.execute(_SQL["list_surroundings"], {"project_id": project_id})
    return [KeptSurrounding.from_row(row) for row in rows]


def get_surrounding(connection: Transaction, surrounding_id: int) -> KeptSurrounding:
    """One of them. Raises NotFoundError."""
    row = connection.execute(_SQL["get_surrounding"], {"id": surrounding_id}).fetchone()
    if row is None:
        raise NotFoundError(f"the environment {surrounding_id} no longer exists. Reload the page")
    return KeptSurrounding.from_row(row)


def delete_surrounding(connection: Transaction, surrounding_id: int) -> str:
    """Take one out of its project; gives the SHA-256 of its picture. Raises NotFoundError."""
    row = connection.execute(_SQL["delete_surrounding"], {"id": surrounding_id}).fetchone()
    if row is None:
        raise NotFoundError(f"the environment {surrounding_id} no longer exists. Reload the page")
    return str(row["sha256"])
