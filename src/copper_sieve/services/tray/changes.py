"""Changes of one or several sets, as requested over HTTP.

To add one: a class here, and a function in `edits` (changes of a definition) or `set_operations`
(changes of names, labels and projects) that carries it out.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.models.base import Model
from copper_sieve.core.models.finding import Rule
from copper_sieve.core.models.interpretations import About
from copper_sieve.core.models.labels import Notes, Tag
from copper_sieve.core.models.relief import STEEPEST_RELIEF
from copper_sieve.core.models.texture_set import LONGEST_NAME


class Rename(Model):
    """Renames one set and its future delivered files."""

    do: Literal["rename"]
    name: str = Field(max_length=LONGEST_NAME)


class ReplaceInNames(Model):
    """Replaces a text in the names, ignoring case."""

    do: Literal["replace_in_names"]
    find: str = Field(min_length=1, max_length=LONGEST_NAME)
    into: str = Field(default="", max_length=LONGEST_NAME)


class ChangeTags(Model):
    """Adds and removes tags."""

    do: Literal["tags"]
    add: list[Tag] = Field(default_factory=list, max_length=20)
    remove: list[Tag] = Field(default_factory=list, max_length=20)


class ChangeNotes(Model):
    """Replaces the note of sets."""

    do: Literal["notes"]
    text: Notes


class Delete(Model):
    """Deletes sets; they can be restored for 30 days."""

    do: Literal["delete"]


class Undelete(Model):
    """Restores deleted sets under a free name."""

    do: Literal["undelete"]


class Duplicate(Model):
    """Copies every set, under the next free name."""

    do: Literal["duplicate"]


class Move(Model):
    """Moves sets to another project."""

    do: Literal["move"]
    project: str


class Merge(Model):
    """Adds the maps of sets to one of them; the others are deleted."""

    do: Literal["merge"]
    into: int


class ChangeWidth(Model):
    """Sets the real width of the surface in meters."""

    do: Literal["width"]
    metres: float = Field(gt=0, le=1000)


class ChangeRelief(Model):
    """Sets the mean slope of the relief in degrees; a manual depth is reset."""

    do: Literal["relief"]
    degrees: float = Field(ge=0, le=STEEPEST_RELIEF)


class Interpret(Model):
    """Uses one of the suggested interpretations of a photo, by name."""

    do: Literal["interpret"]
    about: About
    name: str = Field(max_length=80)


class SetConstant(Model):
    """Sets a constant for a map."""

    do: Literal["constant"]
    kind: MapKind
    value: tuple[float, ...] = Field(min_length=1, max_length=3)


class FlipGreen(Model):
    """Switches imported normals between Y+ and Y−.

    card : only in sets with this source card
    """

    do: Literal["flip_green"]
    card: str | None = None


class UseCard(Model):
    """Sets the source card of sets: name, license and URL."""

    do: Literal["card"]
    name: str = Field(max_length=80)


class Restore(Model):
    """Restores the sets of a delivery, except for their names."""

    do: Literal["restore"]
    delivery_id: int


class FixFindings(Model):
    """Applies the fix of a checklist rule to sets."""

    do: Literal["fix"]
    rule: Rule


class UseRecipe(Model):
    """Applies a recipe to sets."""

    do: Literal["recipe"]
    recipe_id: int


Change = Annotated[
    Rename | ReplaceInNames | ChangeTags | ChangeNotes | Delete | Undelete | Duplicate | Move
    | Merge | ChangeWidth | ChangeRelief | Interpret | SetConstant | FlipGreen | UseCard
    | Restore | FixFindings | UseRecipe,
    Field(discriminator="do"),
]  # fmt: skip
