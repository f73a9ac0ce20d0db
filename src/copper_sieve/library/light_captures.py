"""Detect light captures among files, and create measured sets from them."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

from copper_sieve.core.codecs import Limits, read_picture, read_spec
from copper_sieve.core.codecs.checksums import known_sha256
from copper_sieve.core.detection.content import measure_content
from copper_sieve.core.detection.names import read_name
from copper_sieve.core.detection.one_surface import is_one_surface, names_differ_by_number
from copper_sieve.core.errors import MeasureError, PictureError
from copper_sieve.core.image.raster import Codes
from copper_sieve.core.ingest.light_captures import ReadCapture, calibrated_captures
from copper_sieve.core.ingest.sources import thumbnail
from copper_sieve.core.measuring.ball import Ball
from copper_sieve.core.measuring.light_directions import Lamp
from copper_sieve.core.models.measured_set import compose_measured, name_of
from copper_sieve.core.models.naming import slug
from copper_sieve.core.models.texture_set import SetDefinition
from copper_sieve.library.exposures import exposures
from copper_sieve.library.sources import LocalSources, Note


def detect_light_captures(files: Iterable[Path], limits: Limits | None = None) -> list[list[Path]]:
    """Return groups of files that show one surface under different lights.

    Only files of one folder and one size are compared, whose names contain no map kind and differ
    in a number. Unreadable files are skipped.

    Parameters
    ----------
    files : iterable of Path, picture files
    limits : Limits, optional, largest size of a file in bytes and texels

    Returns
    -------
    list of list of Path
    """
    limits = limits or Limits()
    named = (path for path in files if read_name(path.stem).kind is None)
    found = []
    for some in names_differ_by_number(named, lambda path: (path.parent, path.stem)):
        sized = [path for path in some if _size(path, limits)]
        for alike in names_differ_by_number(sized, lambda path: (_size(path, limits), path.stem)):
            group = _once(alike)
            small = [_small(path, path.stat().st_mtime_ns, limits) for path in group]
            seen = [one for one in small if one is not None]
            vectors = sum(one.vectors for one in seen)
            if len(seen) == len(small) and is_one_surface([one.codes for one in seen], vectors):
                found.append(group)
    return found


def _once(files: Iterable[Path]) -> list[Path]:
    """Return the files without copies of the same picture."""
    return list({known_sha256(path): path for path in reversed(list(files))}.values())[::-1]


def _size(path: Path, limits: Limits) -> tuple[int, int] | None:
    try:
        spec = read_spec(path, limits)
    except PictureError:
        return None
    return spec.width, spec.height


@dataclass(frozen=True, slots=True)
class _Small:
    """A small copy of a picture, and whether its values look like vectors."""

    codes: Codes
    vectors: bool


@lru_cache(maxsize=512)
def _small(path: Path, stamp: int, limits: Limits) -> _Small | None:
    """Return a reduced picture; None if it can't be read. Cached for watched folders.

    stamp : signature of the file
    """
    try:
        picture = thumbnail(read_picture(path, limits)[1])
    except PictureError:
        return None
    return _Small(picture.codes, measure_content(picture).vectors != "none")


def measured_set(
    files: Sequence[Path],
    sources: LocalSources,
    *,
    lamps: Sequence[Lamp] = (),
    ball: Ball | None = None,
    static_camera: bool = False,
    white: float = 1.0,
    flat_field: Path | None = None,
    name: str | None = None,
) -> tuple[SetDefinition, list[Note]]:
    """Create a set measured from files.

    Parameters
    ----------
    files : sequence of Path, light captures of one surface
    sources : LocalSources, receives the files
    lamps : sequence of Lamp, optional, light of each picture. Default: determined from a ball, else
        estimated
    ball, static_camera, white, flat_field : see `measure`
    name : str, optional, name of the set. Default: the common part of the file names

    Returns
    -------
    SetDefinition, list of Note

    Raises
    ------
    PictureError : if a file can't be read
    MeasureError : if the pictures can't be measured, or pictures and lights differ in number
    """
    if lamps and len(lamps) != len(files):
        raise MeasureError(
            f"{len(files)} pictures but {len(lamps)} lights. Give one light per picture, in "
            "the same order"
        )
    facts = [sources.add(path) for path in files]
    stops = exposures(files) or [0.0] * len(files)
    taken = [
        ReadCapture(one.sha256, sources.load(one.sha256), stop)
        for one, stop in zip(facts, stops, strict=True)
    ]
    plain = None
    if flat_field:
        own = sources.add(flat_field)
        plain = ReadCapture(own.sha256, sources.load(own.sha256), name=flat_field.name)
    captures = calibrated_captures(
        taken, lamps=lamps, ball=ball, static_camera=static_camera, white=white, flat_field=plain
    )
    called = slug(name) if name else name_of([p.stem for p in files], files[0].parent.name)
    remarks = [f"measured from {len(files)} light captures", *captures.all_remarks]
    return compose_measured(called, captures, facts[0].size), [Note(one) for one in remarks]
