"""Exposure times from camera metadata (Exif 2.3)."""

from __future__ import annotations

from collections.abc import Sequence
from math import log2
from pathlib import Path

_EVEN = 0.01  # stops: less is the camera's rounding


def exposures(paths: Sequence[Path]) -> list[float] | None:
    """Return the exposure of each picture relative to their mean, in stops.

    An exposure is the exposure time divided by the squared f-number, times the ISO speed.

    Parameters
    ----------
    paths : sequence of Path, picture files

    Returns
    -------
    list of float or None
        None if a file states no exposure.

    References
    ----------
    Exif 2.3, tags ExposureTime, FNumber and ISOSpeedRatings.
    """
    each = [_light_of(path) for path in paths]
    known = [one for one in each if one is not None]
    if len(known) < len(each):
        return None
    stops = [log2(one) for one in known]
    mean = sum(stops) / len(stops)
    found = [one - mean for one in stops]
    return found if max(map(abs, found)) > _EVEN else [0.0] * len(found)


def _light_of(path: Path) -> float | None:
    from PIL import ExifTags, Image

    try:
        with Image.open(path) as image:
            tags = image.getexif().get_ifd(ExifTags.IFD.Exif)
        time = float(tags[ExifTags.Base.ExposureTime])
        stop = float(tags[ExifTags.Base.FNumber])
        speed = tags.get(ExifTags.Base.ISOSpeedRatings, 100)
        light = time / stop**2 * float(speed[0] if isinstance(speed, tuple) else speed)
    except (OSError, KeyError, TypeError, ValueError, ZeroDivisionError, SyntaxError):
        return None  # no such file of Pillow's, or no such tags
    return light if light > 0 else None
