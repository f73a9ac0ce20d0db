"""TIFF, TGA and EXR through OpenImageIO, and the second reader that reopens what was written.

OpenImageIO premultiplies packed RGBA unless told not to: every read and write here says so.
"""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import numpy as np
import OpenImageIO as oiio  # noqa: N813

from copper_sieve.core.codecs.color_profile import profile_of
from copper_sieve.core.codecs.formats import Writing
from copper_sieve.core.codecs.spec import NAMES_BY_COUNT, PictureSpec
from copper_sieve.core.errors import DamagedPictureError, WriteError
from copper_sieve.core.image.raster import Codes, Encoding, Picture

_NATIVE = {"uint8": oiio.UINT8, "uint16": oiio.UINT16}
_TILE = 64  # texels a side, as renderers that stream textures expect
_FLOATS = {"half": 16, "float": 32, "double": 64}


def _open(path: Path) -> oiio.ImageInput:
    config = oiio.ImageSpec()
    config.attribute("oiio:UnassociatedAlpha", 1)
    opened = oiio.ImageInput.open(str(path), config)
    if opened is None:
        oiio.geterror()
        raise DamagedPictureError(f"{path.name} is cut short or damaged: export or copy it again")
    return opened


def read_oiio_spec(path: Path, name: str) -> PictureSpec:
    """File facts of the first picture in the file."""
    opened = _open(path)
    spec = opened.spec()
    opened.close()
    kind = str(spec.format)
    floating = kind in _FLOATS
    depth = _FLOATS.get(kind) or int(spec.get_int_attribute("oiio:BitsPerSample", 0))
    if name in ("tga", "dds") and not floating:
        depth = 8  # what they state is the depth of a texel, or of a palette
    depth = depth or {"uint8": 8, "uint16": 16, "uint32": 32}.get(kind, 8)
    names = NAMES_BY_COUNT.get(spec.nchannels) or tuple(spec.channelnames)
    if _is_red_green(name, tuple(spec.channelnames)):
        names = ("R", "G", "B")
    encoding = Encoding.LINEAR if floating else Encoding.SRGB
    source = "format: floating point" if floating else "assumed"
    if name == "tiff" and not floating and spec.getattribute("ICCProfile") is not None:
        source = "file: profile"
    return PictureSpec(name, spec.width, spec.height, names, depth, floating, encoding, source)


def _is_red_green(name: str, channels: tuple[str, ...]) -> bool:
    """Two channels that are no grey with its alpha: as red and green, blue is full."""
    return len(channels) == 2 and (name == "dds" or channels in (("R", "G"), ("X", "Y")))


def read_oiio_codes(path: Path, level: int = 0, most: int | None = None) -> Codes:
    """The codes as the file has them: (H, W, C) uint8, uint16 or float32, alpha straight.

    level : of a mip-mapped file
    most : so many channels, the first ones; others are not decoded. None: all
    """
    opened = _open(path)
    if level and not opened.seek_subimage(0, level):
        opened.close()
        raise DamagedPictureError(f"{path.name} has no level {level}: deliver it again")
    spec = opened.spec()
    count = min(spec.nchannels, most or spec.nchannels)
    codes = opened.read_image(0, level, 0, count, _NATIVE.get(str(spec.format), oiio.FLOAT))
    opened.geterror()
    opened.close()
    if codes is None:
        raise DamagedPictureError(f"{path.name} is cut short or damaged: export or copy it again")
    codes = np.asarray(codes)
    return codes.reshape(spec.height, spec.width, count)


def read_oiio(path: Path, spec: PictureSpec) -> Picture:
    """Decode a TIFF, TGA or EXR; of more than four channels the first four are kept."""
    codes = read_oiio_codes(path, most=4)
    if codes.shape[2] == 2 and spec.channels == ("R", "G", "B"):
        full = 1.0 if codes.dtype == np.float32 else np.iinfo(codes.dtype).max
        codes = np.dstack([codes, np.full_like(codes[:, :, :1], full)])
    return Picture(np.ascontiguousarray(codes), NAMES_BY_COUNT[codes.shape[2]], spec.encoding)


# How Exif says that a time is not known: what is delivered again shall be the same bytes.
_NO_TIME = "    :  :     :  :  "


def write_oiio(
    path: Path,
    picture: Picture,
    mips: Sequence[Codes],
    how: Writing,
    compression: str | None,
) -> None:
    """Write EXR or Radiance HDR, or a TIFF in tiles; mips are its smaller levels."""
    levels, names = [picture.codes, *mips], picture.channels
    profile = profile_of(picture) if how.format == "tiff" else None
    if (levels[0].dtype != np.float32) and how.format != "tiff":
        raise WriteError(f"{how.format} holds floating point here: give float values")
    kind = str(levels[0].dtype).replace("float32", "float")
    if how.format == "exr" and how.bits != 32:
        kind = "half"
    out = oiio.ImageOutput.create(str(path))
    if out is None:
        raise WriteError(f"{path.name} could not be written: {oiio.geterror()}")
    more = "AppendMIPLevel" if how.format == "exr" else "AppendSubimage"
    for n, level in enumerate(levels):
        spec = _written_spec(level, names, kind, how, compression, mips=len(levels) > 1)
        if profile:
            held = np.frombuffer(profile, dtype=np.uint8)
            spec.attribute("ICCProfile", oiio.TypeDesc(f"uint8[{len(profile)}]"), held)
        opened = out.open(str(path), spec) if n == 0 else out.open(str(path), spec, more)
        if not opened or not out.write_image(np.ascontiguousarray(level)):
            raise WriteError(f"{path.name} could not be written: {out.geterror()}")
    out.close()


def _written_spec(
    level: Codes,
    names: tuple[str, ...],
    kind: str,
    how: Writing,
    compression: str | None,
    *,
    mips: bool,
) -> oiio.ImageSpec:
    height, width, count = level.shape
    spec = oiio.ImageSpec(width, height, count, kind)
    spec.channelnames = names
    spec.attribute("oiio:UnassociatedAlpha", 1)
    spec.attribute("DateTime", _NO_TIME if how.format == "tiff" else "")
    if compression:
        spec.attribute("compression", {"deflate": "zip"}.get(compression, compression))
    if how.tiles:
        spec.tile_width = spec.tile_height = _TILE
        spec.tile_depth = 1
    if mips:
        spec.attribute("textureformat", "Plain Texture")
        spec.attribute("wrapmodes", "periodic,periodic")
    return spec
