"""Writing pictures in any format."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

from copper_sieve.core.codecs.codec import Writing
from copper_sieve.core.codecs.registry import CODECS, FORMATS, format_names, formats_that
from copper_sieve.core.errors import WriteError
from copper_sieve.core.image.raster import Codes, Picture


def write_picture(
    path: Path, picture: Picture, how: str | Writing, mips: Sequence[Codes] = ()
) -> None:
    """Write codes in a format.

    Parameters
    ----------
    path : of the file
    picture : codes (H, W, C)
    how : name of the format, with default settings, or settings
    mips : codes of the smaller levels, each half the size of the previous one

    Raises
    ------
    WriteError : if the format doesn't support the picture
    """
    how = Writing(how) if isinstance(how, str) else how
    codec, known = CODECS.get(how.format), FORMATS.get(how.format)
    if codec is None or known is None or codec.write is None:
        raise WriteError(f"{how.format} isn't an output format. Use {', '.join(FORMATS)}")
    compression = how.compression or (known.compressions or (None,))[0]
    if compression is not None and compression not in known.compressions:
        ways = ", ".join(known.compressions) or "none"
        raise WriteError(
            f"{how.format} doesn't support the compression {compression}. It supports {ways}"
        )
    if mips and not known.mips:
        fit = format_names(formats_that(lambda held: held.mips))
        raise WriteError(f"{how.format} doesn't support mipmaps. Use {fit}")
    codec.write(path, picture, mips, replace(how, compression=compression))
