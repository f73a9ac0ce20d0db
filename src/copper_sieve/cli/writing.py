"""Pictures that a command writes: all of them whole, or none."""

from __future__ import annotations

import os
from collections.abc import Mapping
from pathlib import Path

from copper_sieve.core.codecs import write_picture, written_by_ending
from copper_sieve.core.errors import WriteError
from copper_sieve.core.image.raster import Picture


def write_whole(pictures: Mapping[Path, Picture]) -> None:
    """Write them beside their places first, then put them there. Raises WriteError."""
    working = {
        path: path.with_name(f".{path.stem}.{os.getpid()}{path.suffix}") for path in pictures
    }
    path = next(iter(pictures))
    try:
        for path, picture in pictures.items():
            path.parent.mkdir(parents=True, exist_ok=True)
            write_picture(working[path], picture, written_by_ending(path).name)
        for path, one in working.items():
            one.replace(path)
    except OSError as error:
        raise WriteError(
            f"{path} could not be written ({error.strerror}): check the folder"
        ) from error
    finally:
        for one in working.values():
            one.unlink(missing_ok=True)
