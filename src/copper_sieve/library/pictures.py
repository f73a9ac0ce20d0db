"""Read, write, inspect and convert pictures, and pack and split their channels."""

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
    """Read a picture file.

    Parameters
    ----------
    path : Path or str, file in a supported format
    limits : Limits, optional, largest size of the file in bytes and texels

    Returns
    -------
    Picture
        Codes (H, W, C) as stored, channel names, and encoding.

    Raises
    ------
    PictureError : if the file can't be read
    """
    return codecs.read_picture(Path(path), limits or Limits())[1]


def write_picture(path: Place, picture: Picture) -> None:
    """Write a picture, then reopen the file and compare every code.

    Parameters
    ----------
    path : Path or str, output file; its extension determines the format
    picture : Picture, codes to write

    Raises
    ------
    WriteError : if the format can't store the picture, or the file differs after writing. No file
        is left
    """
    write_verified(Path(path), picture, writer_for_suffix(Path(path)).name)


def inspect(path: Place, limits: Limits | None = None) -> DetectedFiles:
    """Return facts about a file and its detected map kind, with the reason.

    Parameters
    ----------
    path : Path or str, picture file
    limits : Limits, optional, largest size of the file in bytes and texels

    Returns
    -------
    DetectedFiles

    Raises
    ------
    PictureError : if the file can't be read
    """
    return recognize_file(Path(path), limits or Limits())


@dataclass(frozen=True, slots=True)
class Converted:
    """Result of a conversion.

    Attributes
    ----------
    rule : the conversion that was used
    pictures : resulting picture of each map kind
    taken : input file of each map that was used
    set_name : name of the set, from the first file name
    """

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

    Parameters
    ----------
    rule : str, name of the conversion; see `rules`
    files : Path or str, input files; their names determine their map kinds
    parameters : mapping of str to value, optional, parameters of the conversion by name
    limits : Limits, optional, largest size of a file in bytes and texels

    Returns
    -------
    Converted

    Raises
    ------
    PictureError : if a file can't be read
    PlanError : if the conversion is unknown, or a file isn't one of its inputs
    ParameterError : if a parameter is unknown or out of range
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
    """Return the map of the rule that a file's name identifies; the only one if it has one."""
    found = read_name(path.stem)
    kind = found.kind
    if kind is MapKind.BASE_COLOR and MapKind.DIFFUSE in rule.takes:
        kind = MapKind.DIFFUSE  # a specular set calls its color so, too
    if kind is MapKind.DIFFUSE and MapKind.BASE_COLOR in rule.takes:
        kind = MapKind.BASE_COLOR
    if kind is None and len(rule.takes) == 1:
        return rule.takes[0], path.stem
    if kind not in rule.takes:
        reason = (
            f"its name identifies it as {kind}" if kind else "its name doesn't identify the map"
        )
        raise PlanError(
            f"{path.name}: {reason}; {rule.name} uses {', '.join(rule.takes)}. End the file "
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

    Parameters
    ----------
    picture : Path, str or Picture, a file or a picture
    letter : {"R", "G", "B", "A", ""}, channel; "" is the gray value of a picture with equal R, G
        and B
    changes : Change, changes of the values in [0, 1], applied in order
    invert : bool, invert the result
    limits : Limits, optional, largest size of the file in bytes and texels

    Returns
    -------
    Source

    Raises
    ------
    PictureError : if the file can't be read or has no such channel
    """
    if isinstance(picture, Picture):
        held, name = picture, "a picture"
    else:
        held, name = read_picture(picture, limits), Path(picture).name
    every = (*changes, Invert()) if invert else changes
    return Source(held, letter, changes=every, name=name)


def pack(bits: int | None = None, **channels: Source | Place | Picture | float) -> Picture:
    """Pack channels into one picture.

    Parameters
    ----------
    bits : {8, 16}, optional, bits per channel. Default: the highest bit depth of the inputs
    channels : Source, Path, str, Picture or float, channels by letter: R; R, G, B; or R, G, B, A.
        Each is a `channel(...)`, a gray file or picture, or a number in [0, 1]. Unchanged and
        inverted channels are copied exactly

    Returns
    -------
    Picture

    Raises
    ------
    PictureError : if a file can't be read, or sizes differ
    ParameterError : if the letters or a number are invalid
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
    """Split a picture into its channels, without changing any code.

    Parameters
    ----------
    picture : Path, str or Picture, a file or a picture

    Returns
    -------
    dict of str to Picture
        A gray picture of each channel by its letter.

    Raises
    ------
    PictureError : if the file can't be read
    """
    return split_channels(picture if isinstance(picture, Picture) else read_picture(picture))
