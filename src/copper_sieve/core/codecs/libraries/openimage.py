"""Decoding and encoding with OpenImageIO.

OpenImageIO premultiplies RGBA by default, so every read and write here disables that.
"""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import Any

import numpy as np

from copper_sieve.core.codecs.spec import NAMES_BY_COUNT, PictureSpec, damaged
from copper_sieve.core.errors import DamagedPictureError, WriteError
from copper_sieve.core.image.raster import Codes, Encoding, Picture

_NATIVE = ("uint8", "uint16")  # all others are read as float
_TILE = 64  # texels a side, as renderers that stream textures expect
_FLOATS = {"half": 16, "float": 32, "double": 64}


def _library() -> Any:
    import OpenImageIO

    return OpenImageIO


def _open(path: Path) -> Any:
    oiio = _library()
    config = oiio.ImageSpec()
    config.attribute("oiio:UnassociatedAlpha", 1)
    opened = oiio.ImageInput.open(str(path), config)
    if opened is None:
        oiio.geterror()
        raise damaged(path)
    return opened


def read_oiio_spec(path: Path, name: str, *, bits: int | None = None) -> PictureSpec:
    """Return facts about the first picture in a file.

    Parameters
    ----------
    path : of the file
    name : of the format
    bits : integer bits per channel, for formats that state the depth of a texel or a palette

    Returns
    -------
    PictureSpec

    Raises
    ------
    DamagedPictureError
    """
    opened = _open(path)
    spec = opened.spec()
    opened.close()
    kind = str(spec.format)
    floating = kind in _FLOATS
    depth = _FLOATS.get(kind) or int(spec.get_int_attribute("oiio:BitsPerSample", 0))
    if bits and not floating:
        depth = bits
    depth = depth or {"uint8": 8, "uint16": 16, "uint32": 32}.get(kind, 8)
    names = NAMES_BY_COUNT.get(spec.nchannels) or tuple(spec.channelnames)
    if tuple(spec.channelnames) in (("R", "G"), ("X", "Y")):  # no grey with its alpha
        names = ("R", "G", "B")
    encoding = Encoding.LINEAR if floating else Encoding.SRGB
    source = "format: floating point" if floating else "assumed"
    if name == "tiff" and not floating and spec.getattribute("ICCProfile") is not None:
        source = "file: profile"
    return PictureSpec(name, spec.width, spec.height, names, depth, floating, encoding, source)


def read_oiio_codes(path: Path, level: int = 0, most: int | None = None) -> Codes:
    """Return the codes of a file as stored.

    Parameters
    ----------
    path : of the file
    level : mip level, 0 is the largest
    most : number of channels to decode; None: all

    Returns
    -------
    (H, W, C) uint8, uint16 or float32, straight alpha

    Raises
    ------
    DamagedPictureError
    """
    opened = _open(path)
    if level and not opened.seek_subimage(0, level):
        opened.close()
        raise DamagedPictureError(f"{path.name} has no mip level {level}. Deliver it again")
    spec = opened.spec()
    count = min(spec.nchannels, most or spec.nchannels)
    kind = str(spec.format) if str(spec.format) in _NATIVE else "float"
    codes = opened.read_image(0, level, 0, count, kind)
    opened.geterror()
    opened.close()
    if codes is None:
        raise damaged(path)
    codes = np.asarray(codes)
    return codes.reshape(spec.height, spec.width, count)


def with_full_blue(codes: Codes) -> Codes:
    """Add a blue channel of maximum codes to two-channel normals: (H, W, 2) to (H, W, 3)."""
    full = 1.0 if codes.dtype == np.float32 else np.iinfo(codes.dtype).max
    return np.dstack([codes, np.full_like(codes[:, :, :1], full)])


def read_oiio(path: Path, spec: PictureSpec) -> Picture:
    """Decode a picture; only the first four channels are kept.

    Two channels named red and green get a blue channel of maximum codes.

    Raises
    ------
    DamagedPictureError
    """
    codes = read_oiio_codes(path, most=4)
    if codes.shape[2] == 2 and spec.channels == ("R", "G", "B"):
        codes = with_full_blue(codes)
    return Picture(np.ascontiguousarray(codes), NAMES_BY_COUNT[codes.shape[2]], spec.encoding)


def write_oiio(
    path: Path,
    writer: str,
    levels: Sequence[Codes],
    channels: tuple[str, ...],
    kind: str,
    *,
    more: str = "AppendMIPLevel",
    tiles: bool = False,
    profile: bytes | None = None,
    **attributes: str,
) -> None:
    """Write a file with an OpenImageIO writer, regardless of its extension.

    Parameters
    ----------
    path : of the file
    writer : name of the OpenImageIO format
    levels : (H, W, C) codes of each mip level, largest first
    channels : names
    kind : sample type of the file: uint8, uint16, half or float
    more : open mode of additional levels
    tiles : use tiled storage
    profile : ICC profile to embed
    attributes : further attributes of the writer

    Raises
    ------
    WriteError
    """
    oiio = _library()
    out = oiio.ImageOutput.create(writer)
    if out is None:
        raise WriteError(f"couldn't write {path.name}: {oiio.geterror()}")
    for n, level in enumerate(levels):
        height, width, count = level.shape
        spec = oiio.ImageSpec(width, height, count, kind)
        spec.channelnames = channels
        spec.attribute("oiio:UnassociatedAlpha", 1)
        for name, value in attributes.items():
            spec.attribute(name, value)
        if tiles:
            spec.tile_width = spec.tile_height = _TILE
            spec.tile_depth = 1
        if len(levels) > 1:
            spec.attribute("textureformat", "Plain Texture")
            spec.attribute("wrapmodes", "periodic,periodic")
        if profile:
            held = np.frombuffer(profile, dtype=np.uint8)
            spec.attribute("ICCProfile", oiio.TypeDesc(f"uint8[{len(profile)}]"), held)
        opened = out.open(str(path), spec) if n == 0 else out.open(str(path), spec, more)
        if not opened or not out.write_image(np.ascontiguousarray(level)):
            raise WriteError(f"couldn't write {path.name}: {out.geterror()}")
    out.close()
