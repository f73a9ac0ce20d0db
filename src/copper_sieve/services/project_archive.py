"""Export a project as an archive, and import an archive as a project."""

from __future__ import annotations

import shutil
import zipfile
from collections.abc import Iterator
from dataclasses import asdict, replace
from functools import partial
from pathlib import Path

from pydantic import ValidationError
from zipstream import ZIP_DEFLATED, ZIP_STORED, ZipStream

from copper_sieve.core.codecs.checksums import file_sha256
from copper_sieve.core.codecs.encoders.png import encode_png
from copper_sieve.core.errors import DamagedPictureError, NotAPictureError, UnreadableError
from copper_sieve.core.graph.plan import plan
from copper_sieve.core.ingest.model_files import read_model_file
from copper_sieve.core.ingest.project_file import (
    FILE_NAME,
    ORIGINALS,
    OriginalInFile,
    ProjectFile,
    SetInFile,
)
from copper_sieve.core.ingest.sources import examine, thumbnail
from copper_sieve.core.ingest.unpack import archive_errors, files_in
from copper_sieve.core.models.model_facts import ModelFacts
from copper_sieve.core.untrusted_paths import safe_file_name
from copper_sieve.services.context import Context
from copper_sieve.services.progress import UNTOLD, Progress, SubProgress
from copper_sieve.services.project_contents import ImportReport, gather, place
from copper_sieve.services.projects import add_titled
from copper_sieve.store import checklist, models, sources, texture_sets
from copper_sieve.store.database import Transaction
from copper_sieve.store.disk_use import delete_unused
from copper_sieve.store.projects import Project, get_project
from copper_sieve.store.texture_sets import StoredSet

_MOST_JSON = 64 * 1024**2  # of ten thousand sets and more
_MOST_FILES = 100_000
_archive_errors = partial(archive_errors, advice="Export the project again")


def pack(context: Context, project_slug: str) -> tuple[str, Iterator[bytes]]:
    """Return a file name, and the archive's bytes in chunks. Raises NotFoundError.

    Raises UnreadableError if a set of the project can't be read: an archive contains all of them.
    """
    with context.database.transaction() as connection:
        project = get_project(connection, project_slug)
        kept = texture_sets.list_sets(connection, project.id)
        ignored = checklist.suppressed(connection, [one.id for one in kept])
        sets = tuple(_in_file(one, ignored.get(one.id, ())) for one in kept)
        contents = gather(context, connection, project.id, {one.id: one.name for one in kept})
        tied = {sha256 for one in sets for sha256 in one.definition.tied()}
        held = {sha256 for one in sets for sha256 in one.definition.sources()} - tied
        held |= {sha256 for one in contents.recipes for sha256 in one.sources()}
        held |= {one.sha256 for one in contents.environments}
        found = [sources.get_source(connection, sha256) for sha256 in sorted(held)]
        kept_models = models.list_models(connection, project.id)
        kept_models += [
            one for sha256, one in models.of_sources(connection, tied).items()
            if sha256 not in {own.sha256 for own in kept_models}
        ]  # fmt: skip
    originals = tuple(OriginalInFile(sha256=one.sha256, name=one.name) for one in found)
    carried = tuple(OriginalInFile(sha256=one.sha256, name=one.name) for one in kept_models)
    file = contents.model_copy(
        update={"title": project.title, "sets": sets, "originals": originals, "models": carried}
    )
    stream = ZipStream(compress_type=ZIP_STORED)
    text = file.model_dump_json(indent=1).encode()
    stream.add(text, FILE_NAME, compress_type=ZIP_DEFLATED, compress_level=6)
    sizes = {one.sha256: one.bytes for one in found} | {
        one.sha256: one.bytes for one in kept_models
    }
    for sha256, size in sizes.items():
        stream.add(sources.read_chunks(context.database, sha256), ORIGINALS + sha256, size=size)
    return f"{project.slug}.zip", iter(stream)


def _in_file(kept: StoredSet, ignored: tuple[str, ...]) -> SetInFile:
    """Return the project-file form of a set. Raises UnreadableError if it couldn't be imported."""
    try:
        return SetInFile(
            definition=kept.definition(), tags=kept.tags, notes=kept.notes, suppressed=ignored
        )
    except ValidationError as error:
        reason = error.errors()[0]["msg"]
        raise UnreadableError(
            f"The set {kept.name} can't be exported: {reason}. Rename it or change its tags and "
            "notes, then export the project again"
        ) from error


def unpack(
    context: Context, path: Path, name: str, progress: Progress = UNTOLD
) -> tuple[Project, ImportReport]:
    """Create a project from an archive, under its own title; return a report about shared data.

    Raises NotAPictureError for a file that isn't a project archive, DamagedPictureError if a file
    is missing or changed, ConflictError; then nothing is stored.
    """
    new: list[str] = []
    with _archive_errors(name):
        archive = zipfile.ZipFile(path)
    try:
        with archive:
            with _archive_errors(name):
                files_in(archive, path.with_name(name), _MOST_FILES)
            file = _read(archive, name)
            needed = {sha256 for one in file.sets for sha256 in one.definition.sources()}
            needed |= {sha256 for one in file.recipes for sha256 in one.sources()}
            needed |= {one.sha256 for one in file.environments}
            carried = {one.sha256 for one in (*file.originals, *file.models)}
            if missing := needed - carried:
                lacks = min(missing)[:12]
                raise DamagedPictureError(
                    f"{name} doesn't contain the file {lacks}. Export it again"
                )
            wanted = [one for one in file.originals if one.sha256 in needed]
            storing = SubProgress(progress, 0.02, 0.7)
            for n, one in enumerate(wanted):
                storing.report(n / len(wanted), f"Storing original {n + 1} of {len(wanted)}")
                if _store(context, archive, one, path.parent, name):
                    new.append(one.sha256)
            read = []
            for n, one in enumerate(file.models):
                progress.report(0.7 + 0.1 * n / len(file.models), f"Reading model {one.name}")
                read.append((one.sha256, *_model(context, archive, one, path.parent, name)))
        with context.database.transaction() as connection:
            made, ids = _made(connection, file, read, SubProgress(progress, 0.8, 0.98))
            report = place(context, connection, made.id, file, ids)
            made = replace(made, sets=len(file.sets))
            summary = {"project": made.slug, "title": made.title, "sets": made.sets}
            progress.finish(connection, {**summary, "report": asdict(report)})
            return made, report
    except BaseException:
        with context.database.transaction() as connection:
            delete_unused(connection, seconds=0, only=new)
        raise


def _read(archive: zipfile.ZipFile, name: str) -> ProjectFile:
    try:
        entry = archive.getinfo(FILE_NAME)
    except KeyError as error:
        raise NotAPictureError(
            f"{name} doesn't contain {FILE_NAME}, so it isn't a project file"
        ) from error
    if entry.file_size > _MOST_JSON:
        raise NotAPictureError(f"{name}: {FILE_NAME} is too large for a project file")
    with _archive_errors(name):
        text = archive.read(entry)
    try:
        return ProjectFile.model_validate_json(text)
    except ValidationError as error:
        first = error.errors()[0]
        place = ".".join(str(part) for part in first["loc"])
        raise NotAPictureError(
            f"{name}: couldn't read {FILE_NAME} ({place}: {first['msg']}). The file is "
            "corrupt or from a newer version"
        ) from error


def _model(
    context: Context, archive: zipfile.ZipFile, one: OriginalInFile, folder: Path, name: str
) -> tuple[Path, ModelFacts]:
    """Extract a model; return its path and its facts. Raises MeshError, DamagedPictureError."""
    path = _taken_out(archive, one, folder / f"model-{one.sha256[:16]}", name)
    inside = path.parent / "inside"
    inside.mkdir()
    return path, ModelFacts.of(read_model_file(path, inside, context.settings.model_limits))


def _taken_out(archive: zipfile.ZipFile, one: OriginalInFile, folder: Path, name: str) -> Path:
    """Extract an original. Raises DamagedPictureError if it is missing or changed."""
    folder.mkdir(exist_ok=True)
    path = folder / safe_file_name(one.name)
    try:
        entry = archive.getinfo(ORIGINALS + one.sha256)
    except KeyError as error:
        raise DamagedPictureError(
            f"{name} doesn't contain the file {one.name}. Export it again"
        ) from error
    with _archive_errors(name), archive.open(entry) as source, path.open("wb") as target:
        shutil.copyfileobj(source, target, 1 << 20)
    if file_sha256(path) != one.sha256:
        raise DamagedPictureError(f"{name}: the file {one.name} was modified. Export it again")
    return path


def _store(
    context: Context, archive: zipfile.ZipFile, one: OriginalInFile, folder: Path, name: str
) -> bool:
    """Store a picture; return whether it is new."""
    path = _taken_out(archive, one, folder / "original", name)
    facts, picture = examine(path, context.settings.limits)
    small = encode_png(thumbnail(picture))
    with context.database.transaction() as connection:
        new = sources.add_source(
            connection, path, sha256=one.sha256, name=facts.name, facts=facts.file_facts(),
            thumbnail=small,
        )  # fmt: skip
    path.unlink()
    return new


def _made(
    connection: Transaction, file: ProjectFile, read: list[tuple[str, Path, ModelFacts]],
    progress: SubProgress,
) -> tuple[Project, dict[str, int]]:  # fmt: skip
    """Create the project; return it and its sets by name."""
    project = add_titled(connection, file.title)
    for sha256, held, facts in read:
        models.add_model(connection, project.id, held, sha256=sha256, name=held.name, facts=facts)
    ids: dict[str, int] = {}
    for n, one in enumerate(file.sets):
        progress.report(n / len(file.sets), f"Adding set {n + 1} of {len(file.sets)}")
        definition = one.definition.checked()
        plan(definition, sources.source_sizes(connection, definition.sources()))
        kept = texture_sets.add_set(connection, project.id, definition)
        texture_sets.set_labels(connection, kept.id, one.tags, one.notes)
        checklist.set_ignored(connection, kept.id, one.suppressed, purpose=True)
        ids[definition.name] = kept.id
    return project, ids
