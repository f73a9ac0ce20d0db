"""Pictures: read and write them, look at them, convert them, pack and split their channels."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from copper_sieve.core import codecs
from copper_sieve.core.codecs import Limits, writer_for_suffix
from copper_sieve.core.detection.names import read_name
from copper_sieve.core.errors import PlanError
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Picture
from copper_sieve.core.ingest.detect import DetectedFiles, recognize_file
from copper_sieve.core.ingest.sources import examine, imported_maps
from copper_sieve.core.models.changes import Change, Invert
from copper_sieve.core.models.texture_set import Imported
from copper_sieve.core.tools import convert as rules
from copper_sieve.core.tools.convert import Rule, get_rule
from copper_sieve.core.tools.repack import Source, pack_channels, split_channels, write_verified

Place = Path | str


def read_picture(path: Place, limits: Limits | None = None) -> Picture:
    """The codes of a file, its channels' names and its encoding. Raises PictureError."""
    return codecs.read_picture(Path(path), limits or Limits())[1]


def write_picture(path: Place, picture: Picture) -> None:
    """Write a picture in the format of the file's ending, reopen it and compare code for code.

    Raises WriteError where the format cannot hold it or the file does not hold it; then no file is
    left.
    """
    write_verified(Path(path), picture, writer_for_suffix(Path(path)).name)


def inspect(path: Place, limits: Limits | None = None) -> DetectedFiles:
    """Return facts about a file and its detected map type, with the reason. Raises PictureError."""
    return recognize_file(Path(path), limits or Limits())


@dataclass(frozen=True, slots=True)
class Converted:
    """Result of a conversion: a picture per map, and the set name."""

    rule: Rule
    pictures: dict[MapKind, Picture]
    taken: dict[MapKind, Path]
    set_name: str


def convert(
    rule: str,
    *files: Place,
    parameters: Mapping[str, Any] | None = None,
    limits: Limits | None = None,
) -> Converted:
    """Convert maps between conventions.

    rule : name; see `rules`
    files : the names determine the map types
    Raises PlanError, ParameterError, PictureError.
    """
    found = get_rule(rule)
    pictures: dict[MapKind, Picture] = {}
    imported: dict[MapKind, Imported] = {}
    taken: dict[MapKind, Path] = {}
    stem = ""
    for path in map(Path, files):
        kind, named = _role(path, found)
        if kind in taken:
            raise PlanError(
                f"{path.name}: {taken[kind].name} is used as the {kind} map already. Give only one"
            )
        facts, pictures[kind] = examine(path, limits or Limits())
        imported[kind] = imported_maps(facts, kind)[kind]
        taken[kind] = path
        stem = stem or named
    made = rules.convert(found, pictures, imported, dict(parameters or {}))
    return Converted(found, made, taken, stem)


def _role(path: Path, rule: Rule) -> tuple[MapKind, str]:
    """Which of the rule's maps a file is, by its name; the only one where a rule takes one."""
    found = read_name(path.stem)
    kind = found.kind
    if kind is MapKind.BASE_COLOR and MapKind.DIFFUSE in rule.takes:
        kind = MapKind.DIFFUSE  # a specular set calls its color so, too
    if kind is MapKind.DIFFUSE and MapKind.BASE_COLOR in rule.takes:
        kind = MapKind.BASE_COLOR
    if kind is None and len(rule.takes) == 1:
        return rule.takes[0], path.stem
    if kind not in rule.takes:
        said = f"its name identifies it as {kind}" if kind else "its name doesn't identify the map"
        raise PlanError(
            f"{path.name}: {said}; {rule.name} uses {', '.join(rule.takes)}. End the file "
            "name in one of these"
        )
    return kind, found.stem


def channel(
    picture: Place | Picture,
    letter: str = "",
    *changes: Change,
    invert: bool = False,
    limits: Limits | None = None,
) -> Source:
    """Select a channel of a picture for packing.

    letter : R, G, B or A; "": grayscale of a picture with equal R, G and B
    changes : applied in order to values in [0, 1]; invert : applied last
    Raises PictureError.
    """
    if isinstance(picture, Picture):
        held, name = picture, "a picture"
    else:
        held, name = read_picture(picture, limits), Path(picture).name
    every = (*changes, Invert()) if invert else changes
    return Source(held, letter, changes=every, name=name)


def pack(bits: int | None = None, **channels: Source | Place | Picture | float) -> Picture:
    """One picture of channels: R=, or R= G= B=, or R= G= B= A=.

    channels : `channel(…)`, a grey file or picture, or a number in [0, 1]
    bits : 8 or 16; default: as the deepest
    A channel without a change, or only inverted, is copied code for code.
    Raises ParameterError, PictureError.
    """
    sources = {}
    for letter, given in channels.items():
        if isinstance(given, Source):
            sources[letter] = given
        elif isinstance(given, (int, float)):
            sources[letter] = Source(None, constant=float(given))
        else:
            sources[letter] = channel(given)
    return pack_channels(sources, bits)


def split(picture: Place | Picture) -> dict[str, Picture]:
    """Each channel as a grey picture by its letter, code for code. Raises PictureError."""
    return split_channels(picture if isinstance(picture, Picture) else read_picture(picture))
