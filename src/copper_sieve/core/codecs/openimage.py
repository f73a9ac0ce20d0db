"""TIFF, TGA and EXR through OpenImageIO, and the second reader that reopens what was written.

OpenImageIO premultiplies packed RGBA unless told not to: every read and write here says so.
"""

from __future__ import annotations

from pathlib import Path

import numpy as np
import OpenImageIO as oiio  # noqa: N813

from copper_sieve.core.codecs.spec import NAMES_BY_COUNT, PictureSpec
from copper_sieve.core.errors import DamagedPictureError, WriteError
from copper_sieve.core.image.raster import Codes, Encoding, Picture

_NATIVE = {"uint8": oiio.UINT8, "uint16": oiio.UINT16}
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
    encoding = Encoding.LINEAR if floating else Encoding.SRGB
    source = "format: floating point" if floating else "assumed"
    return PictureSpec(name, spec.width, spec.height, names, depth, floating, encoding, source)


def read_oiio_codes(path: Path) -> Codes:
    """All codes as the file has them: (H, W, C) uint8, uint16 or float32, alpha straight."""
    opened = _open(path)
    spec = opened.spec()
    codes = opened.read_image(0, 0, 0, spec.nchannels, _NATIVE.get(str(spec.format), oiio.FLOAT))
    opened.geterror()
    opened.close()
    if codes is None:
        raise DamagedPictureError(f"{path.name} is cut short or damaged: export or copy it again")
    codes = np.asarray(codes)
    return codes.reshape(spec.height, spec.width, spec.nchannels)


def read_oiio(path: Path, spec: PictureSpec) -> Picture:
    """Decode a TIFF, TGA or EXR; of more than four channels the first four are kept."""
    codes = read_oiio_codes(path)[:, :, :4]
    return Picture(np.ascontiguousarray(codes), NAMES_BY_COUNT[codes.shape[2]], spec.encoding)


def write_exr(path: Path, picture: Picture) -> None:
    """Write float codes as a half-float EXR with lossless compression (zip)."""
    if picture.codes.dtype != np.float32:
        raise WriteError("EXR holds floating point here: give float values")
    height, width, count = picture.codes.shape
    spec = oiio.ImageSpec(width, height, count, "half")
    spec.channelnames = picture.channels
    spec.attribute("compression", "zip")
    spec.attribute("oiio:UnassociatedAlpha", 1)
    out = oiio.ImageOutput.create(str(path))
    if out is None or not out.open(str(path), spec) or not out.write_image(picture.codes):
        raise WriteError(f"{path.name} could not be written: {out.geterror() if out else 'EXR'}")
    out.close()
