"""A project as a file: `project.json` of an archive that another server can take in.

The archive is a plain zip: `project.json` beside `originals/<sha256>`, each file byte for byte as
it came in. What is derived is in no file: it is computed anew, to the same texels.
"""

from __future__ import annotations

from typing import Literal

from pydantic import Field, field_validator

from copper_sieve.core.models.base import Model
from copper_sieve.core.models.labels import MOST_TAGS, Notes, Tag, Title
from copper_sieve.core.models.texture_set import SetDefinition
from copper_sieve.core.outside import is_device_name

FILE_NAME = "project.json"
ORIGINALS = "originals/"


class SetInFile(Model):
    """One set with what is said about it."""

    definition: SetDefinition
    tags: tuple[Tag, ...] = Field(default=(), max_length=MOST_TAGS)
    notes: Notes = ""

    @field_validator("definition")
    @classmethod
    def _name_can_be_a_folder(cls, definition: SetDefinition) -> SetDefinition:
        if is_device_name(definition.name):
            raise ValueError(f"{definition.name} is the name of a device on some systems")
        return definition


class OriginalInFile(Model):
    """A picture that sets hold, or a model: its bytes are at `originals/<sha256>`."""

    sha256: str = Field(pattern="^[0-9a-f]{64}$")
    name: str = Field(min_length=1, max_length=1000)


class ProjectFile(Model):
    """`project.json`, version 1."""

    format: Literal["copper-sieve/project"] = "copper-sieve/project"
    version: Literal[1] = 1
    title: Title
    sets: tuple[SetInFile, ...]
    originals: tuple[OriginalInFile, ...]
    models: tuple[OriginalInFile, ...] = Field(default=(), exclude_if=lambda models: not models)
