"""Sources: file facts, thumbnail, and the original bytes in chunks."""

from __future__ import annotations

import itertools
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import LiteralString

from psycopg.types.json import Jsonb

from copper_sieve.core.errors import NotFoundError
from copper_sieve.core.models.file_facts import FileFacts, LightFacts, TilingFacts
from copper_sieve.store.database import Database, Row, Transaction, statements

_SQL = statements("sources")
CHUNK_BYTES = 1024 * 1024


@dataclass(frozen=True, slots=True)
class StoredSource:
    """An imported picture file, without its bytes."""

    sha256: str
    name: str
    bytes: int
    facts: FileFacts

    @classmethod
    def from_row(cls, row: Row) -> StoredSource:
        """Build from a row of a statement."""
        facts = FileFacts.model_validate(row["facts"])
        return cls(row["sha256"], row["name"], row["bytes"], facts)


@dataclass(frozen=True, slots=True)
class SourceMeasurements:
    """Properties measured at import; None where not measured."""

    tiling: TilingFacts | None = None
    light: LightFacts | None = None

    @classmethod
    def from_row(cls, row: Row) -> SourceMeasurements:
        """Build from a row of a statement."""
        tiling, light = row["tiling"], row["light"]
        return cls(
            TilingFacts.model_validate(tiling) if tiling else None,
            LightFacts.model_validate(light) if light else None,
        )


def add_source(
    connection: Transaction,
    path: Path,
    *,
    sha256: str,
    name: str,
    facts: FileFacts,
    thumbnail: bytes | None,
) -> bool:
    """Store a picture in chunks; return False if identical bytes are already stored."""
    return keep_file(
        connection, path, sha256=sha256, name=name, facts=Jsonb(facts.row()), thumbnail=thumbnail
    )


def keep_file(
    connection: Transaction,
    path: Path,
    *,
    sha256: str,
    name: str,
    facts: Jsonb,
    thumbnail: bytes | None = None,
) -> bool:
    """Store any file in chunks; return False if identical bytes are already stored."""
    row = {
        "sha256": sha256,
        "name": name,
        "bytes": path.stat().st_size,
        "facts": facts,
        "thumbnail": thumbnail,
    }
    kept = connection.execute(_SQL["insert_source"], row).fetchone()
    if kept is not None and not kept["is_new"]:
        return False
    for n, data in chunks_of(path):
        connection.execute(_SQL["insert_chunk"], {"sha256": sha256, "n": n, "data": data})
    return True


def chunks_of(path: Path) -> Iterator[tuple[int, bytes]]:
    """Yield the bytes of a file in numbered chunks, as in the database."""
    with path.open("rb") as file:
        yield from enumerate(iter(lambda: file.read(CHUNK_BYTES), b""))


def get_source(connection: Transaction, sha256: str) -> StoredSource:
    """Return the facts of a source. Raises NotFoundError."""
    row = connection.execute(_SQL["get_source"], {"sha256": sha256}).fetchone()
    if row is None:
        raise NotFoundError(f"there is no source {sha256[:12]}")
    return StoredSource.from_row(row)


def get_thumbnail(connection: Transaction, sha256: str) -> bytes:
    """Return the thumbnail of a source as PNG. Raises NotFoundError."""
    row = connection.execute(_SQL["get_thumbnail"], {"sha256": sha256}).fetchone()
    if row is None or row["thumbnail"] is None:
        raise NotFoundError(f"there is no picture of the source {sha256[:12]} yet")
    return bytes(row["thumbnail"])


def set_decoded(
    connection: Transaction,
    sha256: str,
    thumbnail: bytes,
    *,
    cut_out: bool,
    tiling: TilingFacts,
    light: LightFacts,
) -> None:
    """Store the properties of a source after decoding."""
    facts = {
        "cut_out": cut_out,
        "tiling": tiling.model_dump(mode="json"),
        "light": light.model_dump(mode="json"),
    }
    connection.execute(
        _SQL["set_decoded"], {"sha256": sha256, "thumbnail": thumbnail, "facts": Jsonb(facts)}
    )


def read_chunks(database: Database, sha256: str) -> Iterator[bytes]:
    """Yield the original bytes in chunks, never whole in memory.

    Each chunk is read in a transaction, because the receiver may be slow or disconnect.
    """
    return stored_chunks(database, _SQL["get_chunk"], {"sha256": sha256})


def stored_chunks(
    database: Database, statement: LiteralString, parameters: Mapping[str, object]
) -> Iterator[bytes]:
    """Yield the chunks that a statement selects by their number `n`, each in a transaction."""
    for n in itertools.count():
        with database.transaction() as connection:
            row = connection.execute(statement, {**parameters, "n": n}).fetchone()
        if row is None:
            return
        yield bytes(row["data"])


def source_sizes(connection: Transaction, sha256s: Iterable[str]) -> dict[str, tuple[int, int]]:
    """Return width and height of each source; 0, 0 for a model."""
    rows = connection.execute(_SQL["source_sizes"], {"sha256s": list(sha256s)})
    return {row["sha256"]: (row["width"], row["height"]) for row in rows}


def source_measures(
    connection: Transaction, sha256s: Iterable[str]
) -> dict[str, SourceMeasurements]:
    """Return the measurements of each source that has any."""
    rows = connection.execute(_SQL["source_measures"], {"sha256s": list(sha256s)})
    return {row["sha256"]: SourceMeasurements.from_row(row) for row in rows}
