"""File names from patterns, and checks of names.

Patterns use braces like RFC 6570 level 1: {set}, {map}, {suffix}, {size}, {depth}, {target},
{project}, {version}, {tile}. Case and separators are separate settings.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from typing import Literal

from copper_sieve.core.errors import NamePatternError
from copper_sieve.core.untrusted_paths import is_device_name, portable_name_problem

VARIABLES = (
    "set", "map", "suffix", "size", "depth", "target", "project", "version", "tile",
)  # fmt: skip
Case = Literal["as_written", "lower", "upper", "title"]
Separator = Literal["as_written", "underscore", "hyphen", "dot", "none"]
_SEPARATORS = {"underscore": "_", "hyphen": "-", "dot": ".", "none": ""}


def expand(pattern: str, values: Mapping[str, str]) -> str:
    """Replace the variables of a name pattern.

    Raises
    ------
    NamePatternError : if a variable is unknown
    """

    def fill(match: re.Match[str]) -> str:
        name = match.group(1)
        if name not in VARIABLES:
            raise NamePatternError(
                f"{pattern}: unknown variable {{{name}}}. Use {', '.join(VARIABLES)}"
            )
        return values.get(name, "")

    filled = re.sub(r"\{([^{}]*)\}", fill, pattern)
    if "{" in filled or "}" in filled:
        raise NamePatternError(f"{pattern}: unbalanced braces")
    return filled


def styled(stem: str, case: Case, separator: Separator) -> str:
    """Return a name with another case and separator.

    Parameters
    ----------
    stem : words separated by _ - . or spaces
    case : "title" capitalizes the first letter of each word and keeps the rest, such as ORM
    separator : between words

    Returns
    -------
    str
    """
    parts = re.split(r"([_\-. ]+)", stem)
    words, between = parts[::2], parts[1::2]
    if case == "title":
        words = [word[:1].upper() + word[1:] for word in words]
    elif case != "as_written":
        words = [getattr(word, case)() for word in words]
    if separator != "as_written":
        return _SEPARATORS[separator].join(word for word in words if word)
    return words[0] + "".join(gap + word for gap, word in zip(between, words[1:], strict=True))


def check_name(name: str) -> str:
    """Return a file name unchanged if it is portable.

    Raises
    ------
    NamePatternError : with the reason
    """
    if reason := portable_name_problem(name):
        raise NamePatternError(
            f"the file name {name!r} isn't allowed: {reason}. Change the pattern"
        )
    return name


def check_distinct(names: Iterable[str]) -> None:
    """Check that names are distinct, regardless of case.

    Raises
    ------
    NamePatternError : with the first duplicate
    """
    seen: dict[str, str] = {"manifest.json": "manifest.json"}
    for name in names:
        if other := seen.get(name.lower()):
            raise NamePatternError(
                f"two files would have the name {name} (the other: {other}). Change a pattern"
            )
        seen[name.lower()] = name


def slug(text: str) -> str:
    """Return a set name for any text: ASCII letters, digits, _ . and -."""
    name = re.sub(r"[^A-Za-z0-9_.\-]+", "_", text).strip("_.-")[:100] or "set"
    return f"set_{name}"[:100] if is_device_name(name) else name
