"""Pictures of one surface in Intake: detected, analyzed in the background, accepted as a set."""

from __future__ import annotations

import io
from collections.abc import Iterable
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np
from PIL import Image

from copper_sieve.core.codecs import read_picture
from copper_sieve.core.detection.one_surface import is_one_surface, names_differ_by_number
from copper_sieve.core.errors import ConflictError, MeasureError, PictureError
from copper_sieve.core.graph.fair_lock import computing
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Codes
from copper_sieve.core.ingest.light_captures import ReadCapture, calibrated_captures
from copper_sieve.core.models.light_captures import CapturesSpec
from copper_sieve.core.models.measured_set import compose_measured, name_of
from copper_sieve.core.models.naming import slug
from copper_sieve.library.exposures import exposures
from copper_sieve.services.arrival_table import Arrival, arrange
from copper_sieve.services.context import Context
from copper_sieve.services.jobs.requests import ask_estimation
from copper_sieve.services.jobs.running import Running
from copper_sieve.store import arrivals, capture_groups, texture_sets
from copper_sieve.store.capture_groups import NoticedState, StoredCaptureGroup
from copper_sieve.store.database import Transaction
from copper_sieve.store.jobs import StoredJob
from copper_sieve.store.sources import get_thumbnail
from copper_sieve.store.texture_sets import StoredSet

_OFFERED: tuple[NoticedState, ...] = ("looking", "found", "refused")


@dataclass(frozen=True, slots=True)
class CaptureGroup:
    """Pictures of one surface, suggested as a measured set.

    files : its files in Intake, in order
    captures : result of the analysis; None before it, or if it failed
    error : why it failed
    """

    id: int
    name: str
    files: tuple[Arrival, ...]
    captures: CapturesSpec | None
    error: str | None

    @property
    def is_looked_at(self) -> bool:
        """Return whether the analysis of its lights is pending."""
        return self.captures is None and self.error is None


def notice(context: Context, project_id: int, batch: str) -> None:
    """Detect pictures of one surface among the files of a drop, and store the groups.

    Known groups stay unchanged.
    """
    with context.database.transaction() as connection:
        kept = arrivals.list_arrivals(connection, project_id)
        before = {
            n
            for one in capture_groups.list_capture_groups(connection, project_id)
            for n in one.arrivals
        }
    files = [
        one for one in arrange(kept, context.recognitions)
        if one.batch == batch and one.state == "recognized" and one.id not in before
    ]  # fmt: skip
    for group in _alike(files):
        with context.database.transaction() as connection:
            small = [_codes(get_thumbnail(connection, one.sha256)) for one in group]
        with computing:
            same = is_one_surface(small, sum(one.assignment.map is MapKind.NORMAL for one in group))
        if same is None:
            continue
        stems = [Path(one.name).stem for one in group]
        name = name_of(stems, Path(group[0].inside).name)
        with context.database.transaction() as connection:
            each = [(one.id, one.sha256) for one in group]
            found = capture_groups.add_capture_group(connection, project_id, batch, each, name)
            ask_estimation(context, connection, project_id, found, name)


def _alike(files: Iterable[Arrival]) -> list[list[Arrival]]:
    """Return groups of files with equal folder, size and name except for a number, without maps."""
    once = {
        one.sha256: one for one in reversed(list(files))
        if one.mark == "" and one.has_thumbnail and one.by["map"] == "detected"
    }  # fmt: skip
    return names_differ_by_number(
        list(once.values())[::-1],
        lambda one: ((one.inside, one.facts.width, one.facts.height), Path(one.name).stem),
    )


def _codes(png: bytes) -> Codes:
    with Image.open(io.BytesIO(png)) as image:
        return np.asarray(image.convert("RGB"))


def estimate(context: Context, running: Running) -> None:
    """Estimate the lights of a capture group.

    The result for identical pictures, in any project, is reused.
    """
    with context.database.transaction() as connection:
        waiting = capture_groups.get_capture_group(connection, running.arguments["surface_id"])
        captures = capture_groups.known_captures(connection, waiting.sha256s)
    error = None
    try:
        captures = captures or _looked_at(context, waiting, running)
    except (PictureError, MeasureError) as failed:
        error = failed.message
    with context.database.transaction() as connection:
        capture_groups.set_capture_group(connection, waiting.id, captures, error)
        running.finish(connection, {"surface_id": waiting.id})


def estimation_failed(_: Context, connection: Transaction, job: StoredJob, why: str) -> None:
    """Record why the lights of pictures couldn't be estimated."""
    capture_groups.set_capture_group(connection, job.arguments["surface_id"], None, why)


def _looked_at(context: Context, waiting: StoredCaptureGroup, running: Running) -> CapturesSpec:
    step = f"Estimating the lights of {len(waiting.sha256s)} pictures"
    running.report(0, "Reading the pictures")
    with context.incoming() as folder:
        paths = [_into(context, folder / str(n), sha) for n, sha in enumerate(waiting.sha256s)]
        stops = exposures(paths) or [0.0] * len(paths)
        limits = context.settings.limits
        pictures = [
            ReadCapture(sha, read_picture(path, limits)[1], stop)
            for sha, path, stop in zip(waiting.sha256s, paths, stops, strict=True)
        ]
    with computing:
        return calibrated_captures(pictures, between=lambda: running.report(0, step))


def _into(context: Context, folder: Path, sha256: str) -> Path:
    folder.mkdir()  # two files may have the same name
    return context.fetch_source(sha256, folder)


def offered(found: Iterable[StoredCaptureGroup], rows: Iterable[Arrival]) -> list[CaptureGroup]:
    """Return the groups to confirm, whose files are all unchanged in Intake."""
    there = {one.id: one for one in rows if one.state == "recognized"}
    offers = []
    for one in found:
        files = tuple(there[n] for n in one.arrivals if n in there)
        if one.state in _OFFERED and tuple(file.sha256 for file in files) == one.sha256s:
            offers.append(CaptureGroup(one.id, one.name, files, one.captures, one.error))
    return offers


def waits_for_decision(rows: Iterable[Arrival], offers: Iterable[CaptureGroup]) -> list[Arrival]:
    """Return the rows of the table; files of a suggested group wait until it is decided."""
    count = {file.id: len(one.files) for one in offers for file in one.files}
    return [
        replace(one, problem=(
            f"one of {count[one.id]} pictures of one surface. Accept them together, or import "
            "them as separate files"
        ))
        if one.id in count else one
        for one in rows
    ]  # fmt: skip


def accept(context: Context, noticed_id: int, name: str | None = None) -> StoredSet:
    """Create a measured set from a capture group.

    name : of the set; default: the common part of the file names
    Raises NotFoundError, ConflictError if its analysis is pending or its files were changed.
    """
    with context.database.transaction() as connection:
        one = capture_groups.get_capture_group(connection, noticed_id)
        files = _files_of(context, connection, one)
        if one.captures is None:
            raise ConflictError(one.error or f"{one.name}: the light directions aren't known yet")
        size = files[0].facts.width, files[0].facts.height
        called = slug(name) if name else one.name
        texture_set = compose_measured(called, one.captures, size).checked()
        kept = texture_sets.add_set(connection, one.project_id, texture_set)
        arrivals.set_accepted(connection, [file.id for file in files], kept.id)
        capture_groups.decide_capture_group(connection, noticed_id, "taken")
    return kept


def decline(context: Context, noticed_id: int) -> None:
    """Treat the pictures as separate files. Raises NotFoundError."""
    with context.database.transaction() as connection:
        capture_groups.get_capture_group(connection, noticed_id)
        capture_groups.decide_capture_group(connection, noticed_id, "declined")


def _files_of(context: Context, connection: Transaction, one: StoredCaptureGroup) -> list[Arrival]:
    rows = arrange(arrivals.list_arrivals(connection, one.project_id), context.recognitions)
    offers = offered([one], rows)
    if not offers:
        raise ConflictError(f"{one.name}: its files in Intake changed. Reload the page")
    return list(offers[0].files)
