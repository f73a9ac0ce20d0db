"""A target as data: files, channels, conventions, names, formats."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Annotated, Any, Literal, get_args

from pydantic import AfterValidator, Field, field_validator, model_validator

from copper_sieve.core.codecs import FORMATS, Format, Writing
from copper_sieve.core.codecs.encoders.blocks import BLOCKS
from copper_sieve.core.codecs.registry import format_names, formats_that
from copper_sieve.core.image.map_kind import NormalY
from copper_sieve.core.image.raster import Encoding
from copper_sieve.core.models.base import Model
from copper_sieve.core.models.changes import Share
from copper_sieve.core.models.naming import Case, Separator
from copper_sieve.core.models.slot import Letter, Padding, Slot


class SizeRule(Model):
    """Size of the files by their longer side; the aspect ratio is unchanged.

    source : as the set (of a file: as the target)
    half, quarter : of that
    fixed : a number of texels
    at_most : an upper limit
    power_of_two : the nearest one
    """

    mode: Literal["source", "half", "quarter", "fixed", "at_most", "power_of_two"] = "source"
    longer_side: int | None = Field(default=None, ge=1, le=16384)

    @model_validator(mode="after")
    def _says_how_long(self) -> SizeRule:
        if self.mode in ("fixed", "at_most") and self.longer_side is None:
            raise ValueError(f"the size mode {self.mode} requires longer_side in texels")
        return self

    def side(self, longer: int) -> int:
        """Return the longer side of the files for that of the set, in texels."""
        if self.mode == "power_of_two":
            return int(2 ** round(math.log2(longer)))
        if self.mode in ("half", "quarter"):
            return max(1, longer // (2 if self.mode == "half" else 4))
        if self.longer_side is None or self.mode == "source":
            return longer
        return self.longer_side if self.mode == "fixed" else min(longer, self.longer_side)


def _those(hold: Callable[[Format], bool]) -> str:
    return format_names(formats_that(hold))


def _known(name: str) -> str:
    if name not in FORMATS:
        raise ValueError(f"{name} isn't an output format. Use {format_names(FORMATS)}")
    return name


class FileSpec(Model):
    """One output file: name pattern, suffix, format, bit depth, encoding, channel slots.

    bits : 16 of EXR is half precision, 32 is single precision
    compression, quality : of the format; None: default
    mips : with all mip levels
    tiles : TIFF and EXR for renderers that stream textures
    dither : blue noise of one code where smooth values become 8 bits
    size : of this file, relative to the target's size
    """

    name: str = Field(max_length=200)
    suffix: str = Field(default="", max_length=200)
    format: Annotated[
        str, AfterValidator(_known), Field(json_schema_extra={"enum": list[Any](FORMATS)})
    ]
    bits: Literal[8, 16, 32] = 8
    encoding: Encoding
    compression: str | None = None
    quality: int | None = Field(default=None, ge=1, le=100)
    mips: bool = False
    tiles: bool = False
    dither: bool = False
    size: SizeRule = SizeRule()
    channels: dict[Letter, Slot]

    @field_validator("channels")
    @classmethod
    def _channels_in_order(cls, channels: dict[Letter, Slot]) -> dict[Letter, Slot]:
        if set(channels) not in ({"R"}, {"R", "G"}, {"R", "G", "B"}, {"R", "G", "B", "A"}):
            raise ValueError("channels must be R, or R G, or R G B, or R G B A")
        return {letter: channels[letter] for letter in get_args(Letter) if letter in channels}

    @model_validator(mode="after")
    def _can_be_held(self) -> FileSpec:
        known = FORMATS[self.format]
        if self.bits not in known.bits:
            raise ValueError(
                f"{self.format} has {' or '.join(map(str, known.bits))} bits a channel"
            )
        counts = known.channels
        if self.compression is not None and self.compression not in known.compressions:
            ways = " or ".join(known.compressions) or "no compression setting"
            raise ValueError(f"{self.format} has {ways}, not {self.compression}")
        if self.block:
            counts = BLOCKS[self.block].channels
        if len(self.channels) not in counts:
            raise ValueError(
                f"{self.block or self.format} supports {' or '.join(map(str, counts))} "
                f"channels, not {len(self.channels)}"
            )
        if self.block in ("bc4", "bc5") and self.encoding is Encoding.SRGB:
            raise ValueError(f"{self.block} requires the encoding data, not sRGB")
        if self.floating and self.encoding is not Encoding.LINEAR:
            raise ValueError(f"{self.format} requires the encoding data, not sRGB")
        if self.mips and not known.mips:
            raise ValueError(
                f"{self.format} doesn't support mipmaps. Use {_those(lambda f: f.mips)}"
            )
        if self.tiles and not known.tiles:
            raise ValueError(
                f"{self.format} doesn't support tiled storage. Use {_those(lambda f: f.tiles)}"
            )
        if self.mips and known.tiles and not self.tiles:
            raise ValueError(f"{self.format} with mipmaps requires tiled storage")
        if self.dither and self.bits != 8:
            raise ValueError("dithering requires 8 bits per channel")
        if self.quality is not None and not known.quality:
            raise ValueError(f"{self.format} has no quality setting")
        return self

    @property
    def floating(self) -> bool:
        """It holds floating point values."""
        return self.bits in FORMATS[self.format].floating_bits

    @property
    def block(self) -> str | None:
        """How a GPU's file keeps its texels; of the usual ones, what suits its channels."""
        if not FORMATS[self.format].blocks:
            return None
        return self.compression or {1: "bc4", 2: "bc5"}.get(len(self.channels), "bc7")

    @property
    def writing(self) -> Writing:
        """The same as the codecs take it."""
        way = self.block or self.compression
        return Writing(self.format, self.bits, way, self.quality, self.tiles)


class DocumentSpec(Model):
    """A material document; its name without extension."""

    format: Literal["glb", "gltf", "materialx", "usda", "usdz"]
    name: str = Field(max_length=200)
    model: Literal["open_pbr", "standard_surface"] = Field(
        default="open_pbr", description="surface model of a MaterialX document"
    )

    @property
    def ending(self) -> str:
        """With the dot."""
        return ".mtlx" if self.format == "materialx" else f".{self.format}"


class NameStyle(Model):
    """Case and separator of file names after their pattern is filled; extensions are unchanged."""

    case: Case = "as_written"
    separator: Separator = "as_written"


class TargetPreset(Model):
    """A target. Built-in ones are read-only JSON files; custom ones are stored on the server.

    resampling : nearest for pixel art, whose texels must not be mixed
    dielectric_f0 : reflectance of dielectrics in workflow conversions
    height_mid : height without displacement
    height_unit : meters require floating point
    """

    format: Literal["copper-sieve/target-preset"] = "copper-sieve/target-preset"
    version: Literal[1] = 1
    id: str = Field(pattern="^[a-z0-9][a-z0-9-]{0,63}$")
    title: str = Field(min_length=1, max_length=200)
    note: str = Field(default="", max_length=4000)
    workflow: Literal["metal_rough", "spec_gloss"] = "metal_rough"
    normal_y: NormalY
    size: SizeRule = SizeRule()
    resampling: Literal["smooth", "nearest"] = "smooth"
    padding: Padding = Padding()
    dielectric_f0: float = Field(default=0.04, ge=0, le=0.16)
    height_mid: Share = 0.5
    height_unit: Literal["share", "metres"] = "share"
    names: NameStyle = NameStyle()
    files: tuple[FileSpec, ...] = Field(min_length=1, max_length=100)
    documents: tuple[DocumentSpec, ...] = Field(default=(), max_length=20)

    @model_validator(mode="after")
    def _documents_can_be_written(self) -> TargetPreset:
        formats = {file.format for file in self.files}
        for document in self.documents:
            taken = {"gltf": {"png", "jpeg"}, "glb": {"png", "jpeg"},
                     "usdz": {"png", "jpeg", "exr"}}.get(document.format, formats)  # fmt: skip
            if strange := sorted(formats - taken):
                raise ValueError(
                    f"a .{document.format} takes {' or '.join(sorted(taken))}, not {strange[0]}"
                )
            metallic = self.workflow == "metal_rough" or document.format in ("usda", "usdz")
            if not metallic:
                raise ValueError(f"{document.ending} requires the metallic/roughness workflow")
        return self
