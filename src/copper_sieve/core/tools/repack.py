"""Packs channels of files into one file, and splits a file; codes are preserved.

A channel without changes, or only inverted, is copied code by code; 8 bits become 16 by a factor of
257.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from copper_sieve.core.codecs import FORMATS, Writing, read_spec, reopen, write_picture
from copper_sieve.core.codecs.registry import exact_formats, format_names
from copper_sieve.core.errors import ParameterError, WriteError
from copper_sieve.core.image.encoding import dequantize, max_code, quantize
from copper_sieve.core.image.raster import Codes, Encoding, Picture
from copper_sieve.core.models.changes import Change, Invert

LETTERS = "RGBA"


@dataclass(frozen=True, slots=True)
class Source:
    """Content of one channel: a picture's channel, or a constant in [0, 1]; then changes.

    channel : its name; "": grayscale of a picture with equal R, G and B, or its only channel
    """

    picture: Picture | None
    channel: str = ""
    constant: float = 0.0
    changes: tuple[Change, ...] = ()
    name: str = ""


def pack_channels(sources: Mapping[str, Source], bits: int | None = None) -> Picture:
    """Pack channels into one picture: R, or R G B, or R G B A.

    Parameters
    ----------
    sources : content by channel letter
    bits : 8 or 16; None: as the deepest source

    Raises
    ------
    ParameterError : if letters are missing, sizes differ, or a picture is in color
    """
    letters = [letter for letter in LETTERS if letter in sources]
    if letters not in (["R"], ["R", "G", "B"], ["R", "G", "B", "A"]):
        raise ParameterError(
            "the channels must be R, or R G B, or R G B A, not "
            f"{' '.join(letters) or 'none'}. Give a constant for unused channels, such as "
            "B=0"
        )
    pictures = [(one.name, one.picture) for one in sources.values() if one.picture]
    if not pictures:
        raise ParameterError("every channel is a constant. Give at least one picture")
    size = pictures[0][1].size
    for name, picture in pictures[1:]:
        if picture.size != size:
            raise ParameterError(
                f"{name} has {picture.size[0]} x {picture.size[1]} texels, {pictures[0][0]} "
                f"has {size[0]} x {size[1]}. Resize one of them first"
            )
    depth = bits or max(8 if p.codes.dtype == np.uint8 else 16 for _, p in pictures)
    codes = np.empty((size[1], size[0], len(letters)), np.uint8 if depth == 8 else np.uint16)
    for n, letter in enumerate(letters):
        codes[:, :, n] = _channel(sources[letter], depth)
    names = ("Y",) if len(letters) == 1 else tuple(letters)
    return Picture(codes, names, Encoding.LINEAR)


def _channel(source: Source, bits: int) -> Codes:
    top = max_code(bits)
    if source.picture is None:
        return np.asarray(round(source.constant * top))
    codes = _grey(source) if not source.channel else source.picture.channel(source.channel)
    changes = list(source.changes)
    inversions = 0
    while changes and isinstance(changes[-1], Invert):
        changes.pop()
        inversions += 1
    if changes or codes.dtype == np.float32:
        values = dequantize(codes)
        for change in changes:
            values = change.apply(np.clip(values, 0, 1))
        codes = quantize(values, bits)
    else:
        codes = requantized(codes, bits)
    return np.asarray(top - codes, codes.dtype) if inversions % 2 else codes


def _grey(source: Source) -> Codes:
    assert source.picture is not None
    picture = source.picture
    if picture.channels[0] == "Y":
        return picture.codes[:, :, 0]
    red, green, blue = (picture.channel(name) for name in "RGB")
    if not (np.array_equal(red, green) and np.array_equal(red, blue)):
        raise ParameterError(f"{source.name} is in color. Specify a channel, as in {source.name}#G")
    return red


def requantized(codes: Codes, bits: int) -> Codes:
    """Convert integer codes to 8 or 16 bits: exact when increasing, rounded when decreasing."""
    if codes.dtype == np.uint8:
        return codes if bits == 8 else codes.astype(np.uint16) * np.uint16(257)
    if bits == 16:
        return codes
    return ((codes.astype(np.uint32) + 128) // 257).astype(np.uint8)


def split_channels(picture: Picture) -> dict[str, Picture]:
    """Return each channel as a gray picture by its letter, with unchanged codes."""
    if picture.channels[0] == "Y":
        names = {"Y": "Y", "A": "A"}
    else:
        names = {letter: letter for letter in LETTERS}
    return {
        letter: Picture(picture.channel(name)[:, :, None], ("Y",), Encoding.LINEAR)
        for letter, name in names.items()
        if name in picture.channels
    }


def write_verified(path: Path, picture: Picture, name: str) -> None:
    """Write a picture, then reopen and compare it.

    Raises
    ------
    WriteError : if the format can't store the picture; no file is left
    """
    known = FORMATS[name]
    count = picture.codes.shape[2]
    bits = 8 * picture.codes.dtype.itemsize
    floating = picture.codes.dtype == np.float32
    wrong = (bits in known.floating_bits) != floating or bits not in known.bits
    if wrong or count not in known.channels:
        fit = [one for one in exact_formats(floats=floating) if bits in FORMATS[one].bits]
        raise WriteError(
            f"{path.name}: {name} doesn't support {count} channel(s) of {bits} bits"
            + (f" in floating point. Use {format_names(fit)}" if floating else "")
            + ("" if floating else f". Use {format_names(fit)}, or another --bits")
        )
    if known.loses():
        raise WriteError(f"{path.name}: {name} is lossy. Use {format_names(exact_formats())}")
    part = path.with_name(f".{path.stem}.part{path.suffix}")
    try:
        write_picture(part, picture, Writing(name, bits))
        found = reopen(part)
        same = found.shape == picture.codes.shape and np.array_equal(found, picture.codes)
        if not same or read_spec(part).bit_depth != bits:
            raise WriteError(
                f"{path.name} doesn't contain the expected values after reading it back"
            )
        part.replace(path)
    except OSError as error:
        raise WriteError(
            f"couldn't write {path} ({error.strerror}). Check free space and permissions"
        ) from error
    finally:
        part.unlink(missing_ok=True)
