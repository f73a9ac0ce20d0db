"""Write several files atomically: all or none."""

from __future__ import annotations

import os
from collections.abc import Callable, Mapping
from pathlib import Path

from copper_sieve.core.errors import WriteError


def write_atomically(files: Mapping[Path, Callable[[Path], object]]) -> None:
    """Write files to temporary names, then rename them.

    Parameters
    ----------
    files : mapping of Path to callable, for each path, a function that writes to a path with the
        same extension

    Raises
    ------
    WriteError : if a file can't be written. No temporary file is left
    """
    working = {path: path.with_name(f".{path.stem}.{os.getpid()}{path.suffix}") for path in files}
    path = next(iter(files))
    try:
        for path, write in files.items():
            path.parent.mkdir(parents=True, exist_ok=True)
            write(working[path])
        for path, one in working.items():
            one.replace(path)
    except OSError as error:
        raise WriteError(f"couldn't write {path} ({error.strerror}). Check the folder") from error
    finally:
        for one in working.values():
            one.unlink(missing_ok=True)
