"""Our docstrings name arguments as `name : text`, one a line: lists in the reference."""

from __future__ import annotations

import re
from typing import Any

import griffe

_ARGUMENT = re.compile(r"^(\w+(?:, \w+)*) : (.*)$")


def listed(text: str) -> str:
    """The docstring with its arguments as a Markdown list.

    An argument goes on in the lines that are indented deeper, and the list ends with the first that
    is not.
    """
    out: list[str] = []
    inside = False
    for line in text.splitlines():
        if found := _ARGUMENT.match(line):
            if not inside:
                out.append("")
            out.append(f"- `{found[1]}`: {found[2]}")
            inside = True
        elif inside and line.startswith(" "):
            out.append(f"  {line.strip()}")
        else:
            if inside and line.strip():
                out.append("")
            inside = False
            out.append(line)
    return "\n".join(out)


class Arguments(griffe.Extension):
    """Rewrites every docstring once it is read."""

    def on_instance(self, *, obj: griffe.Object, **_: Any) -> None:
        """Of a module, a class, a function or an attribute."""
        if obj.docstring:
            obj.docstring.value = listed(obj.docstring.value)
