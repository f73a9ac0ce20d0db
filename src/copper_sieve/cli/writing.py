"""Pictures written by a command: all of them, or none."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from pathlib import Path

from copper_sieve.core.codecs import write_picture, writer_for_suffix
from copper_sieve.core.image.raster import Picture
from copper_sieve.library.writing import write_atomically


def write_whole(pictures: Mapping[Path, Picture]) -> None:
    """Write each picture in the format of its file name extension. Raises WriteError."""
    write_atomically({path: _writing(picture) for path, picture in pictures.items()})


def _writing(picture: Picture) -> Callable[[Path], None]:
    return lambda path: write_picture(path, picture, writer_for_suffix(path).name)
