"""Models of a project; their bytes are stored as sources."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

from psycopg.types.json import Json, Jsonb

from copper_sieve.core.errors import NotFoundError
from copper_sieve.core.models.model_facts import ModelFacts
from copper_sieve.store.database import Row, Transaction, statements
from copper_sieve.store.sources import keep_file

_SQL = statements("models")


@dataclass(frozen=True, slots=True)
class StoredModel:
    """An imported model file, without its bytes."""

    id: int
    project_id: int
    sha256: str
    name: str
    bytes: int
    facts: ModelFacts
    created_at: datetime

    @classmethod
    def from_row(cls, row: Row) -> StoredModel:
        """Build from a row of a statement."""
        return cls(**{**row, "facts": ModelFacts.model_validate(row["facts"])})


@dataclass(frozen=True, slots=True)
class LinkedSet:
    """A set that is linked to a model.

    material : None if the set is linked to the whole model
    """

    id: int
    name: str
    source: str
    high_poly: str | None
    material: str | None

    @classmethod
    def from_row(cls, row: Row) -> LinkedSet:
        """Build from a row of a statement."""
        return cls(**row)


def add_model(
    connection: Transaction,
    project_id: int,
    path: Path,
    *,
    sha256: str,
    name: str,
    facts: ModelFacts,
) -> StoredModel:
    """Store a model; identical files are one model of a project, under the first name."""
    keep_file(connection, path, sha256=sha256, name=name, facts=Jsonb({"model": True}))
    parameters = {
        "project_id": project_id, "sha256": sha256, "name": name,
        "facts": Json(facts.model_dump(mode="json")),
    }  # fmt: skip
    row = connection.execute(_SQL["insert_model"], parameters).fetchone()
    assert row is not None
    return get_model(connection, row["id"])


def list_models(connection: Transaction, project_id: int) -> list[StoredModel]:
    """Return the models of a project by name."""
    rows = connection.execute(_SQL["list_models"], {"project_id": project_id})
    return [StoredModel.from_row(row) for row in rows]


def get_model(connection: Transaction, model_id: int) -> StoredModel:
    """Return a model. Raises NotFoundError."""
    row = connection.execute(_SQL["get_model"], {"id": model_id}).fetchone()
    if row is None:
        raise NotFoundError(f"model {model_id} no longer exists. Reload the page")
    return StoredModel.from_row(row)


def of_sources(connection: Transaction, sha256s: Collection[str]) -> dict[str, StoredModel]:
    """Return the facts of models by the SHA-256 of their files, from any project."""
    if not sha256s:
        return {}
    rows = connection.execute(_SQL["of_sources"], {"sha256s": list(sha256s)})
    return {row["sha256"]: StoredModel.from_row(row) for row in rows}


def copy_models(connection: Transaction, project_id: int, sha256s: Collection[str]) -> None:
    """Add models of other projects to this one, by the SHA-256 of their files."""
    if sha256s:
        parameters = {"project_id": project_id, "sha256s": list(sha256s)}
        connection.execute(_SQL["copy_models"], parameters)


def delete_model(connection: Transaction, model_id: int) -> str:
    """Remove a model from its project; return the SHA-256 of its file. Raises NotFoundError."""
    row = connection.execute(_SQL["delete_model"], {"id": model_id}).fetchone()
    if row is None:
        raise NotFoundError(f"model {model_id} no longer exists. Reload the page")
    return str(row["sha256"])


def linked_sets(connection: Transaction, project_id: int) -> list[LinkedSet]:
    """Return the sets of a project that are linked to a model, the last changed first."""
    rows = connection.execute(_SQL["linked_sets"], {"project_id": project_id})
    return [LinkedSet.from_row(row) for row in rows]


def file_of(connection: Transaction, sha256: str) -> tuple[str, int]:
    """Return name and bytes of a source, picture or model. Raises NotFoundError."""
    row = connection.execute(_SQL["source_file"], {"sha256": sha256}).fetchone()
    if row is None:
        raise NotFoundError(f"there is no file {sha256[:12]}")
    return row["name"], row["bytes"]
