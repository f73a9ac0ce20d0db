"""All formats, found in `codecs.formats`, and queries over them."""

from __future__ import annotations

import importlib
import pkgutil
from collections.abc import Callable, Iterable
from pathlib import Path

from copper_sieve.core.codecs import formats
from copper_sieve.core.codecs.codec import Codec, Format
from copper_sieve.core.errors import EmptyPictureError, NotAPictureError, WriteError

_HEAD = 64  # number of bytes that identify a format


def _found() -> dict[str, Codec]:
    modules = [
        importlib.import_module(f"{formats.__name__}.{one.name}")
        for one in pkgutil.iter_modules(formats.__path__)
    ]
    codecs: list[Codec] = sorted((one.CODEC for one in modules), key=lambda codec: codec.place)
    return {codec.name: codec for codec in codecs}


CODECS = _found()
FORMATS: dict[str, Format] = {name: one.holds for name, one in CODECS.items() if one.holds}


def sniff(path: Path) -> Codec:
    """Return the format of a file by its first bytes, regardless of its extension.

    Raises
    ------
    NotAPictureError : if the format isn't supported
    """
    with path.open("rb") as file:
        head = file.read(_HEAD)
    if not head:
        raise EmptyPictureError(f"{path.name} is empty. Export or copy it again")
    for codec in sorted(CODECS.values(), key=lambda one: one.guess):
        if codec.sniff(head):
            return codec
    known = format_names(one.title for one in CODECS.values())
    raise NotAPictureError(f"{path.name} isn't a supported picture format. Use {known}")


def writer_for_suffix(path: Path) -> Codec:
    """Return the output format of a file name extension.

    Raises
    ------
    WriteError : if it isn't supported
    """
    ending = path.suffix.lower()
    written = [CODECS[name] for name in FORMATS]
    for codec in written:
        if ending in codec.endings:
            return codec
    known = sorted({ending for codec in written for ending in codec.endings})
    raise WriteError(
        f"{path.name}: the file name extension isn't a supported output format. Use one of "
        + ", ".join(known)
    )


def suffixes() -> list[str]:
    """Return the extensions of all readable files, with the dot."""
    return [ending for codec in CODECS.values() for ending in codec.endings]


def formats_that(hold: Callable[[Format], bool]) -> list[str]:
    """Return the names of the output formats that satisfy a condition."""
    return [name for name, held in FORMATS.items() if hold(held)]


def exact_formats(*, floats: bool = False) -> list[str]:
    """Return the formats that store one channel or colors without loss."""

    def keeps(held: Format) -> bool:
        counts = {1, 3} <= set(held.channels)
        return counts and not held.loses() and (floats or not held.floats_only)

    return formats_that(keeps)


def format_names(names: Iterable[str], word: str = "or") -> str:
    """Join names for a sentence, such as "png, tga or tiff"."""
    *most, last = names
    return f"{', '.join(most)} {word} {last}" if most else last
