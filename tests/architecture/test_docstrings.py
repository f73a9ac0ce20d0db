"""Docstrings: the documented parameters exist, and the library documents every one of its own."""

from __future__ import annotations

import ast
import re
from collections.abc import Iterator
from pathlib import Path

import pytest

SOURCES = Path(__file__).resolve().parents[2] / "src" / "copper_sieve"
_ENTRY = re.compile(r"^(\w+(?:, \w+)*) : ")


def functions(room: str) -> Iterator[tuple[str, ast.FunctionDef]]:
    """Yield the public functions and methods of a room with their names."""
    for path in sorted((SOURCES / room).rglob("*.py")):
        for node in ast.parse(path.read_text("utf-8")).body:
            inside = node.body if isinstance(node, ast.ClassDef) else [node]
            for one in inside:
                if isinstance(one, ast.FunctionDef) and not one.name.startswith("_"):
                    yield f"{path.relative_to(SOURCES)}:{one.lineno} {one.name}", one


def documented(function: ast.FunctionDef) -> set[str]:
    """Return the names in the Parameters section of a docstring."""
    lines = (ast.get_docstring(function) or "").split("\n")
    if "Parameters" not in lines:
        return set()
    names: set[str] = set()
    for line in lines[lines.index("Parameters") + 2 :]:
        if not line:
            break
        if found := _ENTRY.match(line):
            names |= set(found[1].split(", "))
    return names


def parameters(function: ast.FunctionDef) -> set[str]:
    given = function.args
    every = [*given.posonlyargs, *given.args, *given.kwonlyargs, given.vararg, given.kwarg]
    return {one.arg for one in every if one} - {"self", "cls"}


@pytest.mark.parametrize("room", ["core", "library"])
def test_documented_parameters_exist(room: str) -> None:
    wrong = [
        f"{name}: {unknown}"
        for name, one in functions(room)
        if (unknown := documented(one) - parameters(one))
    ]
    assert wrong == []


def test_a_section_names_every_parameter() -> None:
    """An operation documents its maps only: its parameters are declared with it."""
    common = {"parameters", "surface"}
    incomplete = [
        f"{name}: {missing}"
        for room in ("core", "library")
        for name, one in functions(room)
        if (told := documented(one)) and (missing := parameters(one) - told - common)
    ]
    assert incomplete == []
