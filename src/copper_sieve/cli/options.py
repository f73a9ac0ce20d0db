"""Options that several commands share, and printing of remarks."""

from __future__ import annotations

import argparse
import sys
from collections.abc import Iterable
from pathlib import Path
from typing import TYPE_CHECKING

from copper_sieve.core.errors import ParameterError, UnsafeNameError
from copper_sieve.core.models.relief import RELIEF, RELIEFS
from copper_sieve.core.untrusted_paths import local_path

if TYPE_CHECKING:  # only loaded by commands that need it
    from copper_sieve.library.importing import WrapChoice
    from copper_sieve.library.sources import Note

_STATED: dict[str, WrapChoice] = {
    "auto": "auto", "yes": True, "no": False, "across": "across", "down": "down",
}  # fmt: skip


def path(text: str) -> Path:
    """Return the path of an argument. Raises argparse.ArgumentTypeError."""
    try:
        return local_path(text, Path())
    except UnsafeNameError as error:
        raise argparse.ArgumentTypeError(error.message) from error


def add_surface(parser: argparse.ArgumentParser) -> None:
    """Add --wrap and --relief, which describe the surface of the set."""
    parser.add_argument(
        "--wrap", choices=tuple(_STATED), default="auto",
        help="tiling directions of the picture; auto measures them and reports the result",
    )  # fmt: skip
    amounts = ", ".join(f"{word} {degrees:g}" for word, degrees in RELIEFS.items())
    parser.add_argument(
        "--relief", metavar="DEGREES",
        help=(
            f"mean slope of the relief where nothing determines it: degrees, or {amounts}; "
            f"default {RELIEF:g}"
        ),
    )  # fmt: skip


def wrap_of(arguments: argparse.Namespace) -> WrapChoice:
    """Return the value of --wrap."""
    return _STATED[arguments.wrap]


def pairs(given: Iterable[str], option: str, form: str) -> dict[str, str]:
    """Return the NAME=VALUE pairs of a repeatable option. Raises ParameterError."""
    found = {}
    for item in given:
        name, mark, value = item.partition("=")
        if not mark:
            raise ParameterError(f"{option} {item}: expected {form}")
        found[name] = value
    return found


def remarks(notes: Iterable[Note]) -> list[str]:
    """Return one line per guess or measurement, with the option that overrides it."""
    return [
        (
            f"{one.text}; --{one.stated_by.replace('_', '-')}{' no' * (one.stated_by == 'wrap')} "
            "overrides this"
        )
        if one.stated_by
        else one.text
        for one in notes
    ]


def print_remarks(lines: Iterable[str]) -> None:
    """Print one line per remark to standard error."""
    for line in lines:
        sys.stderr.write(f"sieve: {line}\n")
