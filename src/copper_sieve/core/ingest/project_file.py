"""A project file: `project.json` in a zip archive that another server can import.

The archive contains `project.json` and `originals/<sha256>` with the unchanged original bytes.
Derived maps aren't included; they are computed again with identical results.
"""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import AfterValidator, Field, field_validator

from copper_sieve.core.models.base import Model
from copper_sieve.core.models.finding import present_key
from copper_sieve.core.models.labels import MOST_TAGS, Notes, Tag, Title
from copper_sieve.core.models.recipe import Recipe
from copper_sieve.core.models.source_card import SourceCard
from copper_sieve.core.models.texture_set import SetDefinition
from copper_sieve.core.targets.target_preset import TargetPreset
from copper_sieve.core.untrusted_paths import is_device_name

FILE_NAME = "project.json"
ShortText = Annotated[str, Field(max_length=200)]
ORIGINALS = "originals/"


class SetInFile(Model):
    """One set with its tags and notes."""

    definition: SetDefinition
    tags: tuple[Tag, ...] = Field(default=(), max_length=MOST_TAGS)
    notes: Notes = ""
    suppressed: tuple[Annotated[ShortText, AfterValidator(present_key)], ...] = Field(
        default=(), description="keys of ignored checklist findings and dismissed warnings"
    )

    @field_validator("definition")
    @classmethod
    def _name_can_be_a_folder(cls, definition: SetDefinition) -> SetDefinition:
        if is_device_name(definition.name):
            raise ValueError(f"{definition.name} is a reserved device name on some systems")
        return definition


class OriginalInFile(Model):
    """An imported picture or a model; its bytes are at `originals/<sha256>`."""

    sha256: str = Field(pattern="^[0-9a-f]{64}$")
    name: str = Field(min_length=1, max_length=1000)


class EnvironmentInFile(OriginalInFile):
    """A custom environment: a panorama, or a photo of a mirror ball."""

    kind: Literal["panorama", "mirror_ball"]
    lamp: tuple[float, float, float]
    strength: float = Field(ge=0, allow_inf_nan=False)
    mean: float = Field(ge=0, allow_inf_nan=False)


class DestinationInFile(Model):
    """Destination of the project's deliveries to a target.

    folder : "NAME:PATH", the name of an allowed root folder and a path in it
    options : overrides
    """

    target_id: ShortText
    folder: str = Field(max_length=2000)
    pattern: str = Field(max_length=400)
    options: dict[str, Any] = Field(default_factory=dict)


class AutoDeliverInFile(Model):
    """Auto-deliver rule: one set, or all; one target, or every cell that was delivered before."""

    set_name: ShortText | None = None
    target_id: ShortText | None = None


class ProjectFile(Model):
    """Content of `project.json`, version 2; version 1 contained only sets, originals and models.

    webhooks : addresses without their secrets
    """

    format: Literal["copper-sieve/project"] = "copper-sieve/project"
    version: Literal[1, 2] = 2
    title: Title
    sets: tuple[SetInFile, ...]
    originals: tuple[OriginalInFile, ...]
    models: tuple[OriginalInFile, ...] = ()
    environments: tuple[EnvironmentInFile, ...] = ()
    targets: tuple[TargetPreset, ...] = ()
    recipes: tuple[Recipe, ...] = ()
    source_cards: tuple[SourceCard, ...] = ()
    destinations: tuple[DestinationInFile, ...] = ()
    auto_deliver: tuple[AutoDeliverInFile, ...] = ()
    webhooks: tuple[Annotated[str, Field(max_length=2000)], ...] = ()
