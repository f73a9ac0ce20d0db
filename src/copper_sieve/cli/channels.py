"""./sieve pack and split: pack channels into one file, and split a file into its channels."""

from __future__ import annotations

import argparse
import json
from pathlib import Path
from typing import Any

from pydantic import TypeAdapter, ValidationError

from copper_sieve.core.codecs import CODECS, Limits, read_picture, writer_for_suffix
from copper_sieve.core.errors import ParameterError
from copper_sieve.core.image.raster import Picture
from copper_sieve.core.models.changes import Change
from copper_sieve.core.tools.repack import (
    LETTERS,
    Source,
    pack_channels,
    split_channels,
    write_verified,
)
from copper_sieve.settings import load_settings

_CHANGES: TypeAdapter[tuple[Change, ...]] = TypeAdapter(tuple[Change, ...])
_USE = "use invert, range=LOW,HIGH or range=FROM,TO,LOW,HIGH, gamma=N, threshold=V, clamp=LOW,HIGH"


def run(arguments: argparse.Namespace) -> int:
    """Run the pack or the split command."""
    return {"pack": _pack, "split": _split}[arguments.command](arguments)


def _pack(arguments: argparse.Namespace) -> int:
    limits = load_settings().limits
    name = writer_for_suffix(arguments.out).name
    read: dict[Path, Picture] = {}
    sources: dict[str, Source] = {}
    for text in arguments.slot:
        letter, equals, rest = text.partition("=")
        if letter not in LETTERS or len(letter) != 1 or not equals or not rest:
            raise ParameterError(
                f"--slot {text}: the channel must be R, G, B or A, as in R=ao.png or B=0"
            )
        if letter in sources:
            raise ParameterError(f"--slot {text}: channel {letter} is given twice")
        sources[letter] = _source(rest, read, limits)
    picture = pack_channels(sources, arguments.bits)
    write_verified(arguments.out, picture, name)
    held = {letter: _words(text) for letter, text in _texts(arguments.slot).items()}
    if arguments.json:
        print(json.dumps({**_facts(arguments.out, picture, name), "channels": held}, indent=2))
    else:
        print(f"{arguments.out}: " + ", ".join(f"{one} {text}" for one, text in held.items()))
    return 0


def _texts(slots: list[str]) -> dict[str, str]:
    given = dict(text.split("=", 1) for text in slots)
    return {letter: given[letter] for letter in LETTERS if letter in given}


def _words(text: str) -> str:
    return text.replace(":", ", ")


def _facts(path: Path, picture: Picture, name: str) -> dict[str, Any]:
    return {
        "path": str(path),
        "format": name,
        "width": picture.size[0],
        "height": picture.size[1],
        "bits": 8 * picture.codes.dtype.itemsize,
        "verified": True,
    }


def _source(text: str, read: dict[Path, Picture], limits: Limits) -> Source:
    """Parse FILE[#CHANNEL] or a number, followed by changes that each start with a colon.

    A name with these characters is used unchanged if such a file exists.
    """
    whole, *words = [text] if Path(text).is_file() else text.split(":")
    changes = _changes(words)
    try:
        constant = float(whole)
    except ValueError:
        pass
    else:
        if not 0 <= constant <= 1 or words:
            raise ParameterError(f"{text}: a constant must be a number from 0 to 1 without changes")
        return Source(None, constant=constant)
    channel = ""
    if not Path(whole).is_file() and "#" in whole:
        whole, channel = whole.rsplit("#", 1)
    path = Path(whole)
    if path not in read:
        read[path] = read_picture(path, limits)[1]
    return Source(read[path], channel.upper(), changes=changes, name=path.name)


def _changes(words: list[str]) -> tuple[Change, ...]:
    return _CHANGES.validate_python([_change(word) for word in words]) if words else ()


def _change(word: str) -> Change:
    name, _, text = word.partition("=")
    name = "power" if name == "gamma" else name
    try:
        numbers = [float(one) for one in text.split(",")] if text else []
        given: dict[str, Any] = {"do": name}
        if name == "range" and len(numbers) in (2, 4):
            given |= {"of": numbers[:-2] or (0, 1), "to": numbers[-2:]}
        elif name == "clamp" and len(numbers) == 2:
            given |= {"low": numbers[0], "high": numbers[1]}
        elif name in ("power", "threshold") and len(numbers) == 1:
            given |= {{"power": "exponent", "threshold": "at"}[name]: numbers[0]}
        elif name != "invert" or numbers:
            raise ParameterError(f"{word} isn't a known change. {_USE}")
        return _CHANGES.validate_python([given])[0]
    except ValidationError as error:
        raise ParameterError(f"{word}: {error.errors()[0]['msg']}") from error
    except ValueError as error:
        raise ParameterError(f"{word} isn't a known change. {_USE}") from error


def _split(arguments: argparse.Namespace) -> int:
    picture = read_picture(arguments.file, load_settings().limits)[1]
    name = arguments.format
    arguments.out.mkdir(parents=True, exist_ok=True)
    files = []
    for letter, grey in split_channels(picture).items():
        path = arguments.out / f"{arguments.file.stem}_{letter}{CODECS[name].ending}"
        write_verified(path, grey, name)
        files.append({"channel": letter, **_facts(path, grey, name)})
    if arguments.json:
        print(json.dumps({"file": str(arguments.file), "files": files}, indent=2))
    else:
        for file in files:
            print(f"{file['channel']}: {file['path']}")
    return 0
