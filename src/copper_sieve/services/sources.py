"""Import pictures: validate, store once, create a texture set."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from copper_sieve.core.codecs.encoders.png import encode_png
from copper_sieve.core.detection.names import kind_from_name
from copper_sieve.core.errors import ReviewRequiredError
from copper_sieve.core.graph.fair_lock import computing
from copper_sieve.core.image.map_kind import MapKind, NormalY
from copper_sieve.core.image.raster import Picture
from copper_sieve.core.ingest.sources import (
    SourceFacts,
    examine,
    imported_maps,
    measured_green,
    surface_of_sources,
    thumbnail,
)
from copper_sieve.core.models.file_facts import FileFacts
from copper_sieve.core.models.naming import slug
from copper_sieve.core.models.texture_set import Imported, SurfaceSpec, compose
from copper_sieve.core.untrusted_paths import safe_file_name
from copper_sieve.library.importing import set_name_of
from copper_sieve.services.context import Context
from copper_sieve.store.database import Transaction
from copper_sieve.store.projects import get_project
from copper_sieve.store.sources import (
    StoredSource,
    add_source,
    get_source,
    get_thumbnail,
    read_chunks,
)
from copper_sieve.store.texture_sets import add_set, set_of_source


@dataclass(frozen=True, slots=True)
class ImportedSource:
    """The source, the set made from it, and whether either existed before."""

    sha256: str
    facts: FileFacts
    set_id: int
    set_name: str
    known_source: bool
    known_set: bool
    kind: MapKind


_BEGINS_A_SET = {MapKind.BASE_COLOR, MapKind.DIFFUSE, MapKind.HEIGHT, MapKind.NORMAL}


def check_beginning(name: str, kind: MapKind | None) -> None:
    """Check before the upload that a set can start with this picture.

    Raises ReviewRequiredError.
    """
    stated_kind = kind or kind_from_name(Path(name).stem) or MapKind.BASE_COLOR
    if stated_kind not in _BEGINS_A_SET:
        title = stated_kind.facts.title.lower()
        raise ReviewRequiredError(
            f"the name of {name} identifies it as {title}. Assign it to its set in Intake"
        )


def import_source(
    context: Context,
    project_slug: str,
    path: Path,
    name: str,
    *,
    surface: SurfaceSpec | None = None,
    kind: MapKind | None = None,
) -> ImportedSource:
    """Store a picture file and create a set from it.

    kind : map type; default: detected from the file name, else the base color
    Equal bytes are stored once; an existing set of the project with them is returned.
    Raises ReviewRequiredError, PictureError (with the file name) or NotFoundError; then nothing is
    stored.
    """
    check_beginning(name, kind)
    renamed = path.with_name(safe_file_name(name))
    path.rename(renamed)
    facts, picture = examine(renamed, context.settings.limits)
    kind = kind or kind_from_name(Path(name).stem) or MapKind.BASE_COLOR
    green = _green(renamed, facts, picture) if kind is MapKind.NORMAL else None
    with context.database.transaction() as connection:
        project = get_project(connection, project_slug)
        new = keep_picture(connection, renamed, facts, picture)
        kept = set_of_source(connection, project.id, facts.sha256)
        known_set = kept is not None
        if kept is None:
            maps = imported_maps(facts, kind, green)
            measured = surface or surface_of_sources([(kind, facts)])
            texture_set = compose(slug(set_name_of(Path(facts.name), kind)), maps, measured)
            kept = add_set(connection, project.id, texture_set)
    return ImportedSource(
        facts.sha256,
        facts.file_facts(),
        kept.id,
        kept.name,
        known_source=not new,
        known_set=known_set,
        kind=kind,
    )


def import_map(
    context: Context, path: Path, name: str, kind: MapKind
) -> tuple[FileFacts, Imported]:
    """Store a picture file as a map of an existing set, without creating a set.

    Returns its file facts and its interpretation as that map. Raises PictureError.
    """
    renamed = path.with_name(safe_file_name(name))
    path.rename(renamed)
    facts, picture = examine(renamed, context.settings.limits)
    with context.database.transaction() as connection:
        keep_picture(connection, renamed, facts, picture)
    green = _green(renamed, facts, picture) if kind is MapKind.NORMAL else None
    return facts.file_facts(), imported_maps(facts, kind, green)[kind]


def _green(path: Path, facts: SourceFacts, picture: Picture) -> NormalY | None:
    with computing:
        return measured_green(path, facts, picture)


def keep_picture(connection: Transaction, path: Path, facts: SourceFacts, picture: Picture) -> bool:
    """Store the bytes of a picture with its facts; return False if they are already stored."""
    return add_source(
        connection,
        path,
        sha256=facts.sha256,
        name=facts.name,
        facts=facts.file_facts(),
        thumbnail=encode_png(thumbnail(picture)),
    )


def get(context: Context, sha256: str) -> StoredSource:
    """Return the facts of a source. Raises NotFoundError."""
    with context.database.transaction() as connection:
        return get_source(connection, sha256)


def thumbnail_of(context: Context, sha256: str) -> bytes:
    """Return the thumbnail of a source as PNG. Raises NotFoundError."""
    with context.database.transaction() as connection:
        return get_thumbnail(connection, sha256)


def original(context: Context, sha256: str) -> Iterator[bytes]:
    """Yield the original file in chunks."""
    return read_chunks(context.database, sha256)
