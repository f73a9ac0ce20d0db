"""Show the entries of docstrings, `name : text`, as lists in the reference."""

from __future__ import annotations

import re
from typing import Any

import griffe

_ENTRY = re.compile(r"^(\w+(?:, \w+)*) : (.*)$")
_RULE = re.compile(r"^-{3,}$")


def listed(text: str) -> str:
    """Return a docstring in which each entry is an item of a Markdown list.

    An entry continues in the following lines that are indented. A section's underlined heading
    becomes bold text.
    """
    out: list[str] = []
    inside = False
    lines = text.splitlines()
    for number, line in enumerate(lines):
        following = lines[number + 1] if number + 1 < len(lines) else ""
        if _RULE.match(line) and number and lines[number - 1].strip():
            out.append("")
        elif _RULE.match(following) and line.strip():
            out.append(f"**{line.strip()}**")
            inside = False
        elif found := _ENTRY.match(line):
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
    """Rewrite the docstring of each module, class, function and attribute."""

    def on_instance(self, *, obj: griffe.Object, **_: Any) -> None:
        """Called by griffe for each object that it has read."""
        if obj.docstring:
            obj.docstring.value = listed(obj.docstring.value)
