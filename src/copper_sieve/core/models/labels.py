"""Texts that users give to projects and sets; the API and project files take the same."""

from __future__ import annotations

import unicodedata
from typing import Annotated

from pydantic import AfterValidator, Field, StringConstraints

MOST_TAGS = 1000  # of one set


def _one_line(text: str) -> str:
    """Reject texts without visible characters, or with several lines."""
    if any(unicodedata.category(one) == "Cc" for one in text):
        raise ValueError("the text contains control characters")
    if not any(one.isprintable() and not one.isspace() for one in text):
        raise ValueError("the text contains no visible characters")
    return text


Title = Annotated[
    str,
    StringConstraints(strip_whitespace=True, min_length=1, max_length=80),
    AfterValidator(_one_line),
]
Tag = Annotated[str, Field(pattern=r"^[^\s,](?:[^,\n]{0,38}[^\s,])?$"), AfterValidator(_one_line)]
Notes = Annotated[str, Field(max_length=4000)]
