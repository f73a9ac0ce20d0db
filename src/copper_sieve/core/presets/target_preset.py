"""What a renderer or engine wants, as data: files, channels, conventions, names, formats."""

from __future__ import annotations

import math
from typing import Annotated, Literal, get_args

from pydantic import Field, field_validator, model_validator

from copper_sieve.core.codecs.writing import FORMATS
from copper_sieve.core.image.map_kind import MapKind, Meaning, NormalY
from copper_sieve.core.image.raster import Encoding
from copper_sieve.core.presets.base import Model, list_of
from copper_sieve.core.presets.changes import Change, Share

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
    """One of several maps in one channel, each in codes of its own.

    component : as in a slot
    codes : where its values 0 and 1 lie, in 8-bit codes (of 16 bits: times 257)
    above : it holds where its value, changed, lies above this; None, for the last one: elsewhere
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
        """For people."""
        changed = "".join(f", {change.words()}" for change in self.changes)
        where = "" if self.above is None else f" above {self.above:g}"
        return f"{_titled(self.map, self.component)}{changed}{where} in {_span(self.codes)}"


class Slot(Model):
    """What one channel of a file holds.

    A map's component with changes, or a constant in [0, 1] of the stored value, or segments.
    component : of a color r, g, b or l (its luminance), of a normal x, y or z, else v
    if_missing : derive the map, take its neutral value, leave the file (or the alpha) out, or stop;
        a segment whose map is missing holds nowhere
    """

    map: MapKind | None = None
    component: Component = "v"
    changes: tuple[Change, ...] = ()
    constant: float | None = Field(default=None, ge=0, le=1)
    segments: tuple[Segment, ...] = Field(default=(), max_length=8)
    if_missing: Missing = "derive"

    @model_validator(mode="after")
    def _one_source(self) -> Slot:
        given = [self.map is not None, self.constant is not None, bool(self.segments)]
        if sum(given) != 1:
            raise ValueError("a slot holds either a map or a constant or segments")
        if self.map:
            _check_component(self.map, self.component)
        elif self.changes:
            raise ValueError("only a map's values are changed")
        open_ended = [n for n, segment in enumerate(self.segments, 1) if segment.above is None]
        if self.segments and open_ended != [len(self.segments)]:
            raise ValueError("every segment but the last says above which value it holds")
        return self

    @property
    def maps(self) -> list[MapKind]:
        """The maps that it is made of."""
        return [self.map] if self.map else [segment.map for segment in self.segments]

    def words(self) -> str:
        """For people: what it holds."""
        if self.segments:
            return "; ".join(segment.words() for segment in self.segments)
        if self.map is None:
            return f"constant {self.constant:g}"
        changed = "".join(f", {change.words()}" for change in self.changes)
        return _titled(self.map, self.component) + changed


def _titled(kind: MapKind, component: str) -> str:
    title = kind.facts.title.lower()
    return (
        title if component == "v" else f"{title} {'luminance' if component == 'l' else component}"
    )


def _span(codes: tuple[int, int]) -> str:
    return str(codes[0]) if codes[0] == codes[1] else f"{codes[0]}–{codes[1]}"


class FileSpec(Model):
    """One output file: name pattern, suffix, format, depth, encoding, channel slots."""

    name: str
    suffix: str = ""
    format: Literal["png", "tga", "tiff", "webp", "jpeg", "exr"]
    bits: Literal[8, 16] = 8
    encoding: Encoding
    channels: dict[Letter, Slot]

    @field_validator("channels")
    @classmethod
    def _channels_in_order(cls, channels: dict[Letter, Slot]) -> dict[Letter, Slot]:
        if set(channels) not in ({"R"}, {"R", "G", "B"}, {"R", "G", "B", "A"}):
            raise ValueError("channels are R, or R G B, or R G B A")
        return {letter: channels[letter] for letter in get_args(Letter) if letter in channels}

    @model_validator(mode="after")
    def _can_be_held(self) -> FileSpec:
        known = FORMATS[self.format]
        if self.bits not in known.bits:
            raise ValueError(
                f"{self.format} has {' or '.join(map(str, known.bits))} bits a channel"
            )
        if len(self.channels) not in known.channels:
            raise ValueError(
                f"{self.format} holds {' or '.join(map(str, known.channels))} channels, "
                f"not {len(self.channels)}"
            )
        if known.floating and self.encoding is not Encoding.LINEAR:
            raise ValueError(f"{self.format} holds linear light: choose data, not sRGB")
        return self


class DocumentSpec(Model):
    """A material document written beside the textures."""

    format: Literal["glb"]
    name: str


class SizeRule(Model):
    """The size of the files by their longer side; the shape stays.

    source : as the set; fixed : so many texels; at_most : no more than that; power_of_two : the
        nearest one
    """

    mode: Literal["source", "fixed", "at_most", "power_of_two"] = "source"
    longer_side: int | None = Field(default=None, ge=1, le=16384)

    @model_validator(mode="after")
    def _says_how_long(self) -> SizeRule:
        if self.mode in ("fixed", "at_most") and self.longer_side is None:
            raise ValueError(f"the size {self.mode} needs a longer_side in texels")
        return self

    def side(self, longer: int) -> int:
        """Texels of the longer side for a set that has so many."""
        if self.mode == "power_of_two":
            return int(2 ** round(math.log2(longer)))
        if self.longer_side is None or self.mode == "source":
            return longer
        return self.longer_side if self.mode == "fixed" else min(longer, self.longer_side)


class TargetPreset(Model):
    """A whole target. Built-in ones are read-only JSON files; people's own are copies."""

    format: Literal["copper-sieve/target-preset"] = "copper-sieve/target-preset"
    version: Literal[1] = 1
    id: str = Field(pattern="^[a-z0-9][a-z0-9-]{0,63}$")
    title: str
    note: str = ""
    workflow: Literal["metal_rough", "spec_gloss"] = "metal_rough"
    normal_y: NormalY
    size: SizeRule = SizeRule()
    files: tuple[FileSpec, ...] = Field(min_length=1)
    documents: tuple[DocumentSpec, ...] = ()
