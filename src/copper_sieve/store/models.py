"""Models of a project: facts of each; their bytes are stored as sources."""

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
        """As a statement gives it."""
        return cls(**{**row, "facts": ModelFacts.model_validate(row["facts"])})


@dataclass(frozen=True, slots=True)
class LinkedSet:
    """A set that is made for a model; material None is all of it."""

    id: int
    name: str
    source: str
    high_poly: str | None
    material: str | None

    @classmethod
    def from_row(cls, row: Row) -> LinkedSet:
        """As a statement gives it."""
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
    """Keep a model; the same bytes are one model of a project, under its first name."""
    keep_file(connection, path, sha256=sha256, name=name, facts=Jsonb({"model": True}))
    asked = {
        "project_id": project_id, "sha256": sha256, "name": name,
        "facts": Json(facts.model_dump(mode="json")),
    }  # fmt: skip
    row = connection.execute(_SQL["insert_model"], asked).fetchone()
    assert row is not None
    return get_model(connection, row["id"])


def list_models(connection: Transaction, project_id: int) -> list[StoredModel]:
    """The models of a project by name."""
    rows = connection.execute(_SQL["list_models"], {"project_id": project_id})
    return [StoredModel.from_row(row) for row in rows]


def get_model(connection: Transaction, model_id: int) -> StoredModel:
    """One model. Raises NotFoundError."""
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
    """Models of other projects are models of this one too."""
    if sha256s:
        asked = {"project_id": project_id, "sha256s": list(sha256s)}
        connection.execute(_SQL["copy_models"], asked)


def delete_model(connection: Transaction, model_id: int) -> str:
    """Take a model out of its project; gives the SHA-256 of its file. Raises NotFoundError."""
    row = connection.execute(_SQL["delete_model"], {"id": model_id}).fetchone()
    if row is None:
        raise NotFoundError(f"model {model_id} no longer exists. Reload the page")
    return str(row["sha256"])


def linked_sets(connection: Transaction, project_id: int) -> list[LinkedSet]:
    """The sets of a project that are made for a model, last changed first."""
    rows = connection.execute(_SQL["linked_sets"], {"project_id": project_id})
    return [LinkedSet.from_row(row) for row in rows]


def file_of(connection: Transaction, sha256: str) -> tuple[str, int]:
    """Name and bytes of a source's file, picture or model. Raises NotFoundError."""
    row = connection.execute(_SQL["source_file"], {"sha256": sha256}).fetchone()
    if row is None:
        raise NotFoundError(f"there is no file {sha256[:12]}")
    return row["name"], row["bytes"]
