"""./sieve texts: every text that a user can read, grouped by screen, as one Markdown document."""

from __future__ import annotations

import argparse
import ast
import json
import os
import re
import subprocess
import sys
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from copper_sieve.core.errors import SetupError

_PROSE = re.compile(r"[A-Za-z]{2,}[ ,;:.][ ]?[a-z]{2,}|^[A-Z][a-z]+$")
_SQL = re.compile(
    r"^(select|insert into|update \w+ set|delete from|create (table|index|type)|alter|with \w+ as"
    r"|where|and|order by|from|(left )?join|returning|values|on conflict|set \w+ =|limit|union)\b"
)
_INTERFACE = "web/src/"
_PYTHON = "src/copper_sieve/"


@dataclass(frozen=True)
class Text:
    """One text in the source code."""

    file: str  # relative to the project's root
    line: int  # from 1
    start: int  # offset in the file, in characters
    end: int
    form: str  # jsx, string or template
    text: str  # with placeholders as in the source, white space collapsed


def run(arguments: argparse.Namespace) -> int:
    """Print all texts, or those of files whose path contains the given words."""
    root = Path(os.environ.get("COPPER_SIEVE_ROOT", "."))
    wanted = [text for text in texts(root) if _matches(text.file, arguments.paths)]
    if arguments.json:
        sys.stdout.write(json.dumps([vars(text) for text in wanted], indent=1) + "\n")
        return 0
    screen = file = ""
    for text in wanted:
        if _screen(text.file) != screen:
            screen = _screen(text.file)
            sys.stdout.write(f"\n# {screen}\n")
        if text.file != file:
            file = text.file
            sys.stdout.write(f"\n## {file}\n\n")
        sys.stdout.write(f"- {text.line}: {text.text}\n")
    return 0


def texts(root: Path) -> list[Text]:
    """Extract the texts of the interface and of the Python package.

    Parameters
    ----------
    root:
        The project's root folder; its web packages must be installed.

    Returns
    -------
    The texts, sorted by file and position.

    Raises
    ------
    SetupError
        The TypeScript sources couldn't be read.
    """
    ended = subprocess.run(
        ["node", "texts.mjs"], cwd=root / "web", capture_output=True, text=True, check=False
    )
    if ended.returncode:
        raise SetupError(f"couldn't read the interface's sources: {ended.stderr.strip()[-500:]}")
    found = [Text(**entry) for entry in json.loads(ended.stdout)]
    for path in sorted((root / _PYTHON).rglob("*.py")):
        found += _texts_of(path, path.relative_to(root).as_posix())
    return found


def _texts_of(path: Path, name: str) -> Iterator[Text]:
    code = path.read_text(encoding="utf-8")
    tree = ast.parse(code)
    lines = code.splitlines(keepends=True)
    starts = [0]
    for line in lines:
        starts.append(starts[-1] + len(line))

    def offset(line: int, column: int) -> int:
        return starts[line - 1] + len(lines[line - 1].encode()[:column].decode())

    for node, text, form in _strings(tree, code):
        start = offset(node.lineno, node.col_offset)
        assert node.end_lineno is not None and node.end_col_offset is not None
        end = offset(node.end_lineno, node.end_col_offset)
        yield Text(name, node.lineno, start, end, form, " ".join(text.split()))


def _strings(tree: ast.Module, code: str) -> Iterator[tuple[ast.expr, str, str]]:
    """Return all strings that read as prose, in the order of the source, without docstrings."""
    skipped = set()
    for node in ast.walk(tree):
        if isinstance(node, ast.Expr) and isinstance(node.value, ast.Constant):
            skipped.add(id(node.value))  # a docstring
        if isinstance(node, ast.JoinedStr):
            skipped |= {id(part) for value in node.values for part in ast.walk(value)}
        if isinstance(node, ast.Subscript | ast.Compare):
            skipped |= {id(part) for part in ast.iter_child_nodes(node)}
    found: list[tuple[ast.expr, str, str]] = []
    for node in ast.walk(tree):
        if id(node) in skipped:
            continue
        if isinstance(node, ast.JoinedStr):
            found.append((node, _template(node, code), "template"))
        elif isinstance(node, ast.Constant) and isinstance(node.value, str):
            found.append((node, node.value, "string"))
    found.sort(key=lambda each: (each[0].lineno, each[0].col_offset))
    return ((node, text, form) for node, text, form in found if _readable(text))


def _template(node: ast.JoinedStr, code: str) -> str:
    parts = []
    for value in node.values:
        if isinstance(value, ast.Constant):
            parts.append(str(value.value))
        elif isinstance(value, ast.FormattedValue):
            conversion = f"!{chr(value.conversion)}" if value.conversion != -1 else ""
            spec = value.format_spec
            form = f":{_template(spec, code)}" if isinstance(spec, ast.JoinedStr) else ""
            parts.append(f"{{{ast.unparse(value.value)}{conversion}{form}}}")
    return "".join(parts)


def _readable(text: str) -> bool:
    bare = re.sub(r"\{[^}]*\}", "x", text)
    return bool(_PROSE.search(bare)) and not _SQL.search(bare)


def _matches(file: str, paths: list[str]) -> bool:
    return not paths or any(part in file for part in paths)


def _screen(file: str) -> str:
    """Return the screen, command or part of the program that shows the texts of a file."""
    if file.startswith(_INTERFACE):
        parts = file.removeprefix(_INTERFACE).split("/")
        if parts[0] == "places":
            return f"Interface: {parts[1]}"
        return f"Interface: {parts[0] if len(parts) > 1 else 'frame'}"
    parts = file.removeprefix(_PYTHON).split("/")
    if parts[0] == "cli":
        return f"Command line: {Path(parts[1]).stem}"
    return "Python: " + "/".join(parts[:-1][:2])
