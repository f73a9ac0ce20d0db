"""What a delivered folder says of itself: every file, every channel, and where it came from."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from copper_sieve.core.image.map_kind import NormalY
from copper_sieve.core.image.raster import Encoding
from copper_sieve.core.presets.base import Model
from copper_sieve.core.presets.changes import Change
from copper_sieve.core.presets.origin import Origin
from copper_sieve.core.presets.preparation import Preparation
from copper_sieve.core.presets.target_preset import Padding, Segment, Times
from copper_sieve.core.presets.texture_set import MapDefinition, SurfaceSpec

FILE_NAME = "manifest.json"


class ChannelEntry(Model):
    """One channel of a file: its origin, and the SHA-256 of its codes (row-major, LE)."""

    channel: str
    map: str | None = None
    component: str | None = None
    times: Times | None = None
    constant: float | None = None
    changes: tuple[Change, ...] = ()
    segments: tuple[Segment, ...] = ()
    content_key: str | None = None
    codes_sha256: str
    minimum: int | float
    maximum: int | float
    mean: float


class FileEntry(Model):
    """One texture file."""

    name: str
    sha256: str
    bytes: int
    format: str
    width: int
    height: int
    bits: int
    encoding: Encoding
    compression: str | None = Field(default=None, description="where its format has a choice")
    quality: int | None = Field(default=None, description="where one was chosen")
    tiles: bool = False
    mips_sha256: tuple[str, ...] = Field(
        default=(),
        description="of the codes of each smaller level, all channels, the largest first",
    )
    lossy: bool = Field(default=False, description="the codes are those that the file gives back")
    channels: tuple[ChannelEntry, ...]


class DocumentEntry(Model):
    """A material document and the texture files it carries or names."""

    name: str
    sha256: str
    bytes: int
    format: str
    textures: tuple[str, ...]


class MapEntry(Model):
    """How a map of the set came about, and its content key at the delivered size."""

    content_key: str
    definition: MapDefinition


class Manifest(Model):
    """manifest.json, version 1."""

    format: Literal["copper-sieve/manifest"] = "copper-sieve/manifest"
    version: Literal[1] = 1
    set: str
    target: str
    target_title: str
    normal_y: NormalY
    dielectric_f0: float = 0.04
    height_mid: float = Field(default=0.5, description="the height that does not displace")
    height_unit: Literal["share", "metres"] = "share"
    padding: Padding = Padding()
    surface: SurfaceSpec
    prepare: Preparation = Field(
        default=Preparation(), description="what was done to the set's pictures first"
    )
    origin: Origin | None = Field(default=None, description="source card, licence, where from")
    maps: dict[str, MapEntry]
    files: tuple[FileEntry, ...]
    documents: tuple[DocumentEntry, ...] = ()
    remarks: tuple[str, ...] = Field(default=(), description="what the reader should know")

    @property
    def entries(self) -> tuple[FileEntry | DocumentEntry, ...]:
        """Everything the delivery wrote besides the manifest."""
        return (*self.files, *self.documents)
