"""A project as a file: `project.json` of an archive that another server can take in.

The archive is a plain zip: `project.json` beside `originals/<sha256>`, each file byte for byte as
it came in. What is derived is in no file: it is computed anew, to the same texels.
"""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from copper_sieve.core.models.base import Model
from copper_sieve.core.models.texture_set import SetDefinition

FILE_NAME = "project.json"
ORIGINALS = "originals/"


class SetInFile(Model):
    """One set with what is said about it."""

    definition: SetDefinition
    tags: tuple[str, ...] = ()
    notes: str = ""


class OriginalInFile(Model):
    """A picture that sets hold, or a model: its bytes are at `originals/<sha256>`."""

    sha256: str = Field(pattern="^[0-9a-f]{64}$")
    name: str = Field(min_length=1, max_length=1000)


class ProjectFile(Model):
    """`project.json`, version 1."""

    format: Literal["copper-sieve/project"] = "copper-sieve/project"
    version: Literal[1] = 1
    title: str = Field(min_length=1, max_length=80)
    sets: tuple[SetInFile, ...]
    originals: tuple[OriginalInFile, ...]
    models: tuple[OriginalInFile, ...] = Field(default=(), exclude_if=lambda models: not models)
