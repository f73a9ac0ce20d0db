"""What a renderer or engine wants, as data: files, channels, conventions, names, formats."""

from __future__ import annotations

from typing import Literal, get_args

from pydantic import Field, field_validator, model_validator

from copper_sieve.core.image.map_kind import MapKind, NormalY
from copper_sieve.core.image.raster import Encoding
from copper_sieve.core.presets.base import Model

Letter = Literal["R", "G", "B", "A"]
Missing = Literal["derive", "neutral", "omit", "stop"]


class Slot(Model):
    """What one channel of a file holds.

    Either a map's component with changes, or a constant in [0, 1] of the stored value.
    if_missing: derive the map, take its neutral value, leave the file (or the alpha) out, or stop.
    """

    map: MapKind | None = None
    component: Literal["r", "g", "b", "x", "y", "z", "v"] = "v"
    changes: tuple[Literal["invert"], ...] = ()
    constant: float | None = Field(default=None, ge=0, le=1)
    if_missing: Missing = "derive"

    @model_validator(mode="after")
    def _one_source(self) -> Slot:
        if (self.map is None) == (self.constant is None):
            raise ValueError("a slot holds either a map or a constant")
        if self.map and self.component not in self.map.facts.components:
            raise ValueError(f"{self.map} has no component {self.component}")
        return self


class FileSpec(Model):
    """One output file: name pattern, suffix, format, depth, encoding, channel slots."""

    name: str
    suffix: str = ""
    format: Literal["png", "tga", "tiff"]
    bits: Literal[8, 16] = 8
    encoding: Encoding
    channels: dict[Letter, Slot]

    @field_validator("channels")
    @classmethod
    def _channels_in_order(cls, channels: dict[Letter, Slot]) -> dict[Letter, Slot]:
        if set(channels) not in ({"R"}, {"R", "G", "B"}, {"R", "G", "B", "A"}):
            raise ValueError("channels are R, or R G B, or R G B A")
        return {letter: channels[letter] for letter in get_args(Letter) if letter in channels}


class DocumentSpec(Model):
    """A material document written beside the textures."""

    format: Literal["glb"]
    name: str


class SizeRule(Model):
    """The size of the files: as the source, or with a longer side of so many texels."""

    mode: Literal["source", "fixed"] = "source"
    longer_side: int | None = Field(default=None, ge=1, le=16384)


class TargetPreset(Model):
    """A whole target. Built-in ones are read-only JSON files; people's own are copies."""

    format: Literal["copper-sieve/target-preset"] = "copper-sieve/target-preset"
    version: Literal[1] = 1
    id: str = Field(pattern="^[a-z0-9][a-z0-9-]{0,63}$")
    title: str
    note: str = ""
    workflow: Literal["metal_rough"] = "metal_rough"
    normal_y: NormalY
    size: SizeRule = SizeRule()
    files: tuple[FileSpec, ...] = Field(min_length=1)
    documents: tuple[DocumentSpec, ...] = ()
