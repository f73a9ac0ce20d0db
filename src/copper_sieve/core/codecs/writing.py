"""The one way out: writing a picture to a path in any format."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import numpy as np
import tifffile

from copper_sieve.core.codecs.block_compression import BLOCKS
from copper_sieve.core.codecs.color_profile import profile_of
from copper_sieve.core.codecs.formats import BY_ENDING, FORMATS, Writing
from copper_sieve.core.codecs.gpu_textures import encode_dds, encode_ktx2
from copper_sieve.core.codecs.lossy import encode_pillow
from copper_sieve.core.codecs.openimage import write_oiio
from copper_sieve.core.codecs.png_writing import encode_png
from copper_sieve.core.codecs.tga_writing import encode_tga
from copper_sieve.core.errors import WriteError
from copper_sieve.core.image.raster import Codes, Picture


def format_of(path: Path) -> str:
    """The format a file name asks for by its ending. Raises WriteError for an unknown one."""
    name = BY_ENDING.get(path.suffix.lower())
    if name is None:
        raise WriteError(
            f"{path.name}: the ending says no format that can be written; use one of "
            + ", ".join(sorted(set(BY_ENDING)))
        )
    return name


def write_picture(
    path: Path, picture: Picture, how: str | Writing, mips: Sequence[Codes] = ()
) -> None:
    """Write codes in a format, by its name alone as it is usual there.

    mips : the smaller levels, each half the one before
    Raises WriteError where the format cannot hold them.
    """
    how = Writing(how) if isinstance(how, str) else how
    known = FORMATS.get(how.format)
    if known is None:
        raise WriteError(f"{how.format} is no format that can be written: {', '.join(FORMATS)}")
    compression = how.compression or (known.compressions or (None,))[0]
    if compression is not None and compression not in known.compressions:
        ways = ", ".join(known.compressions) or "no choice"
        raise WriteError(f"{how.format} has no compression {compression}: it has {ways}")
    if mips and not known.mips:
        raise WriteError(f"{how.format} holds no mips: choose tiff, exr, dds or ktx2")
    if how.format in ("exr", "hdr") or how.tiles:
        write_oiio(path, picture, mips, how, compression)
    elif how.format == "tiff":
        _write_tiff(path, picture, compression)
    elif how.format == "png":
        path.write_bytes(encode_png(picture))
    elif how.format in ("dds", "ktx2"):
        path.write_bytes(_gpu_texture(picture, mips, how.format, compression or "bc7"))
    elif how.format == "tga":
        parts = encode_tga(picture.codes, runs=compression != "none")
        with path.open("wb") as file:
            file.writelines(parts)
    else:
        path.write_bytes(encode_pillow(picture, how.format, compression, how.quality))


def _gpu_texture(picture: Picture, mips: Sequence[Codes], name: str, block: str) -> bytes:
    count = picture.codes.shape[2]
    if picture.codes.dtype != np.uint8 or count not in BLOCKS[block].channels:
        fit = " or ".join(map(str, BLOCKS[block].channels))
        raise WriteError(f"{block} in {name} holds {fit} channel(s) of 8 bits: choose another")
    encode = encode_dds if name == "dds" else encode_ktx2
    return encode([picture.codes, *mips], block, picture.encoding)


def _write_tiff(path: Path, picture: Picture, compression: str | None) -> None:
    count = picture.codes.shape[2]
    codes = picture.codes[:, :, 0] if count == 1 else picture.codes
    deflated = compression == "deflate"
    tifffile.imwrite(
        path,
        np.ascontiguousarray(codes),
        photometric="minisblack" if count <= 2 else "rgb",
        planarconfig="contig" if count > 1 else None,
        extrasamples={2: ["unspecified"], 4: ["unassalpha"]}.get(count),
        compression="zlib" if deflated else None,
        predictor=deflated and picture.codes.dtype != np.float32,
        iccprofile=profile_of(picture),
        metadata=None,
    )
