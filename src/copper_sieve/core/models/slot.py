"""Channel contents of a file: slots, shared channels, multipliers, padding."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, field_validator, model_validator

from copper_sieve.core.image.map_kind import MapKind, Meaning
from copper_sieve.core.models.base import Model, list_of
from copper_sieve.core.models.changes import Change, Share

Letter = Literal["R", "G", "B", "A"]
Missing = Literal["derive", "neutral", "omit", "stop"]
Component = Literal["r", "g", "b", "l", "x", "y", "z", "v"]
Code = Annotated[int, Field(ge=0, le=255)]
CodePair = Annotated[
    tuple[Code, Code], list_of({"type": "integer", "minimum": 0, "maximum": 255}, 2)
]


def _check_component(kind: MapKind, component: str) -> None:
    grey = component == "l" and kind.facts.meaning is Meaning.COLOR
    if not grey and component not in kind.facts.components:
        raise ValueError(f"{kind} has no component {component}")


class Segment(Model):
    """One of several maps in one channel, each with its own range of codes.

    component : as in a slot
    codes : 8-bit codes of its values 0 and 1 (times 257 with 16 bits)
    above : used where its changed value is above this; None for the last one: everywhere else
    """

    map: MapKind
    component: Component = "v"
    changes: tuple[Change, ...] = ()
    codes: CodePair
    above: Share | None = None

    @model_validator(mode="after")
    def _has_component(self) -> Segment:
        _check_component(self.map, self.component)
        return self

    def words(self) -> str:
        """Describe the content for users."""
        changed = "".join(f", {change.words()}" for change in self.changes)
        where = "" if self.above is None else f" above {self.above:g}"
        return f"{_titled(self.map, self.component)}{changed}{where} in {_span(self.codes)}"


class Times(Model):
    """Factor of a slot's map, in linear light: 1 - weight + weight x map.

    Without that map nothing is changed.
    """

    map: MapKind
    weight: Share = 1.0

    @model_validator(mode="after")
    def _is_data(self) -> Times:
        if not self.map.facts.multiplies:
            raise ValueError(f"{self.map} isn't a single-channel map, so it can't be a factor")
        return self


class Slot(Model):
    """Content of one channel of a file: a map's component, a constant in [0, 1], or segments.

    times : factor before changes; not for normals
    component : of a color r, g, b or l (luminance), of a normal x, y or z, else v
    if_missing : derive the map, use its neutral value, skip the file (or alpha), or refuse; a
        segment whose map is missing is skipped
    """

    map: MapKind | None = None
    component: Component = "v"
    times: Times | None = None
    changes: tuple[Change, ...] = ()
    constant: float | None = Field(default=None, ge=0, le=1)
    segments: tuple[Segment, ...] = Field(default=(), max_length=8)
    if_missing: Missing = "derive"

    @model_validator(mode="after")
    def _one_source(self) -> Slot:
        given = [self.map is not None, self.constant is not None, bool(self.segments)]
        if sum(given) != 1:
            raise ValueError("a slot contains either a map, a constant or segments")
        if self.map:
            _check_component(self.map, self.component)
        elif self.changes or self.times:
            raise ValueError("changes require a map")
        if self.times and self.map and self.map.facts.meaning is Meaning.NORMAL:
            raise ValueError("normals can't be multiplied")
        open_ended = [n for n, segment in enumerate(self.segments, 1) if segment.above is None]
        if self.segments and open_ended != [len(self.segments)]:
            raise ValueError("every segment except the last requires a threshold")
        return self

    @property
    def maps(self) -> list[MapKind]:
        """The maps that it is made of."""
        return [self.map] if self.map else [segment.map for segment in self.segments]

    def words(self) -> str:
        """Describe the content for users."""
        if self.segments:
            return "; ".join(segment.words() for segment in self.segments)
        if self.map is None:
            return f"constant {self.constant:g}"
        changed = "".join(f", {change.words()}" for change in self.changes)
        by = ""
        if self.times:
            share = "" if self.times.weight == 1 else f" ({self.times.weight:.0%})"
            by = f" × {self.times.map.facts.title.lower()}{share}"
        return _titled(self.map, self.component) + by + changed


def _titled(kind: MapKind, component: str) -> str:
    title = kind.facts.title.lower()
    return (
        title if component == "v" else f"{title} {'luminance' if component == 'l' else component}"
    )


def _span(codes: tuple[int, int]) -> str:
    return str(codes[0]) if codes[0] == codes[1] else f"{codes[0]}–{codes[1]}"


class Padding(Model):
    """Padding of colors and data beyond a mask.

    none; texels : this many; border : everything
    mask : map that defines the covered area; without it there is no padding
    above : values above this count as covered
    """

    mode: Literal["none", "texels", "border"] = "none"
    texels: int = Field(default=16, ge=1, le=4096)
    above: Share = 0.0
    mask: MapKind = MapKind.OPACITY

    @field_validator("mask")
    @classmethod
    def _is_a_mask(cls, mask: MapKind) -> MapKind:
        if mask.facts.meaning is not Meaning.DATA:
            raise ValueError(f"a {mask.facts.title.lower()} map can't be a mask. Choose a data map")
        return mask
