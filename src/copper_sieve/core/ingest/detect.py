"""Reads a file and detects its type, with remarks about the file itself."""

from __future__ import annotations

from dataclasses import dataclass, replace
from pathlib import Path

from copper_sieve.core.codecs import (
    CODECS,
    DEFAULT_LIMITS,
    Limits,
    PictureSpec,
    compression_loss,
    read_picture,
)
from copper_sieve.core.detection.classify import Recognition, recognize_picture
from copper_sieve.core.image.map_kind import Meaning
from copper_sieve.core.image.raster import Picture


@dataclass(frozen=True, slots=True)
class DetectedFiles:
    """A file that was read: spec, codes, and detection result."""

    spec: PictureSpec
    picture: Picture
    recognition: Recognition


def recognize_file(
    path: Path, limits: Limits = DEFAULT_LIMITS, name: str | None = None
) -> DetectedFiles:
    """Read a file and detect its map kind.

    Parameters
    ----------
    path : of the file
    limits : largest size in bytes and texels
    name : original file name, if the path has another one

    Returns
    -------
    DetectedFiles

    Raises
    ------
    PictureError : with the file name, the reason and a remedy
    """
    spec, picture = read_picture(path, limits)
    own = Path(name or path.name)
    found = recognize_picture(own.stem, picture, loss=compression_loss(path, spec.format))
    return DetectedFiles(
        spec, picture, replace(found, remarks=(*found.remarks, *_about_file(own, spec, found)))
    )


def _about_file(name: Path, spec: PictureSpec, found: Recognition) -> list[str]:
    remarks = []
    ending, codec = name.suffix.lower(), CODECS[spec.format]
    if ending and ending not in codec.endings:
        remarks.append(
            f"the file name extension is {ending}, but the file is {codec.title}; read as "
            f"{codec.title}"
        )
    data = found.channels or (found.kind and found.kind.facts.meaning is not Meaning.COLOR)
    if data and spec.encoding_source.startswith("file") and spec.encoding == "srgb":
        remarks.append("tagged sRGB, read as data")
    if data and spec.format == "jpeg":
        remarks.append("lossy file used for data")
    return remarks
