"""Options that several commands take, and how what was guessed is told."""

from __future__ import annotations

import argparse
import sys
from collections.abc import Iterable
from pathlib import Path
from typing import TYPE_CHECKING

from copper_sieve.core.errors import ParameterError, UnsafeNameError
from copper_sieve.core.models.relief import RELIEF, RELIEFS
from copper_sieve.core.outside import local_path

if TYPE_CHECKING:  # what it takes to measure is loaded when it is measured
    from copper_sieve.library.sources import Note
    from copper_sieve.library.taking_in import WrapChoice

_STATED: dict[str, WrapChoice] = {
    "auto": "auto", "yes": True, "no": False, "across": "across", "down": "down",
}  # fmt: skip


def path(text: str) -> Path:
    """Return the path that an argument means. Raises argparse.ArgumentTypeError."""
    try:
        return local_path(text, Path())
    except UnsafeNameError as error:
        raise argparse.ArgumentTypeError(error.message) from error


def add_surface(parser: argparse.ArgumentParser) -> None:
    """--wrap and --relief: the surface of a set that the command makes."""
    parser.add_argument(
        "--wrap", choices=tuple(_STATED), default="auto",
        help="which borders of the picture meet; auto measures, and tells what was found",
    )  # fmt: skip
    amounts = ", ".join(f"{word} {degrees:g}" for word, degrees in RELIEFS.items())
    parser.add_argument(
        "--relief", metavar="DEGREES",
        help=f"mean tilt of a relief whose depth nothing tells: degrees, or {amounts}; "
        f"default {RELIEF:g}",
    )  # fmt: skip


def wrap_of(arguments: argparse.Namespace) -> WrapChoice:
    """What --wrap says."""
    return _STATED[arguments.wrap]


def pairs(given: Iterable[str], option: str, form: str) -> dict[str, str]:
    """What an option that is given several times says, by name. Raises ParameterError."""
    found = {}
    for item in given:
        name, mark, value = item.partition("=")
        if not mark:
            raise ParameterError(f"{option} {item}: write it as {form}")
        found[name] = value
    return found


def remarks(notes: Iterable[Note]) -> list[str]:
    """What was guessed or measured, with the option that says otherwise."""
    return [
        f"{one.text}; --{one.stated_by.replace('_', '-')}{' no' * (one.stated_by == 'wrap')} says "
        "otherwise"
        if one.stated_by
        else one.text
        for one in notes
    ]


def tell(lines: Iterable[str]) -> None:
    """A guess is told as a guess: one line each on standard error."""
    for line in lines:
        sys.stderr.write(f"sieve: {line}\n")
