"""Manifest of a delivered folder: every file and channel, with their origin."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, ClassVar, Literal

from pydantic import Field, model_validator

from copper_sieve.core.image.map_kind import NormalY
from copper_sieve.core.image.raster import Encoding
from copper_sieve.core.models.base import FileName, Model
from copper_sieve.core.models.changes import Change
from copper_sieve.core.models.light_captures import CapturesSpec
from copper_sieve.core.models.origin import Origin
from copper_sieve.core.models.preparation import Preparation
from copper_sieve.core.models.slot import Padding, Segment, Times
from copper_sieve.core.models.texture_set import MapDefinition, SurfaceSpec

FILE_NAME = "manifest.json"


class ChannelEntry(Model):
    """One channel of a file: its origin, and a digest of its codes (row-major, LE)."""

    channel: str
    map: str | None = None
    component: str | None = None
    times: Times | None = None
    constant: float | None = None
    changes: tuple[Change, ...] = ()
    segments: tuple[Segment, ...] = ()
    content_key: str | None = None
    codes_digest: str = Field(
        description="algorithm:hex; the algorithm is xxh3-128, or sha256 in version 1"
    )
    minimum: int | float
    maximum: int | float
    mean: float


class FileEntry(Model):
    """One texture file."""

    name: FileName
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
    tile: int | None = Field(
        default=None, description="tile of the set (UDIM)",
        exclude_if=lambda tile: tile is None,
    )  # fmt: skip
    mips_digests: tuple[str, ...] = Field(
        default=(),
        description="hashes of the codes of each mip level, all channels, largest level first",
    )
    lossy: bool = Field(default=False, description="the codes are those decoded from the file")
    channels: tuple[ChannelEntry, ...]
    written_key: str | None = Field(
        default=None, description="identical for files with identical content"
    )


class DocumentEntry(Model):
    """A material document and the textures that it embeds or refers to."""

    name: FileName
    sha256: str
    bytes: int
    format: str
    textures: tuple[FileName, ...]
    written_key: str | None = Field(
        default=None, description="identical for documents with identical content"
    )


class LeftEntry(Model):
    """An existing file of an earlier delivery that this one no longer contains."""

    name: FileName
    sha256: str
    bytes: int


class MapEntry(Model):
    """Source of a map of the set, and its content key at the delivered size."""

    content_key: str
    definition: MapDefinition


class Manifest(Model):
    """manifest.json, version 2. Version 1 is converted on reading."""

    former_names: ClassVar = {"shots": "captures"}

    format: Literal["copper-sieve/manifest"] = "copper-sieve/manifest"
    version: Literal[2] = 2
    set: str
    target: str
    target_title: str
    normal_y: NormalY
    dielectric_f0: float = 0.04
    height_mid: float = Field(default=0.5, description="height that isn't displaced")
    height_unit: Literal["share", "metres"] = "share"
    padding: Padding = Padding()
    surface: SurfaceSpec
    depth_key: str | None = Field(
        default=None, description="content key of the surface's depth, if measured"
    )
    prepare: Preparation = Field(
        default=Preparation(), description="how the set's pictures were prepared"
    )
    origin: Origin | None = Field(default=None, description="source card, license, origin")
    captures: CapturesSpec | None = Field(
        default=None, description="the light captures that the set was measured from",
        exclude_if=lambda captures: captures is None,  # so that other dictionaries stay unchanged
    )  # fmt: skip
    maps: dict[str, MapEntry]
    files: tuple[FileEntry, ...]
    documents: tuple[DocumentEntry, ...] = ()
    left: tuple[LeftEntry, ...] = ()
    remarks: tuple[str, ...] = Field(default=(), description="information for the reader")

    @model_validator(mode="before")
    @classmethod
    def _from_version_1(cls, given: Any) -> Any:
        """Convert version 1, which had `codes_sha256` and `mips_sha256` without a prefix."""
        if not isinstance(given, dict) or given.get("version") != 1:
            return given
        return {**given, "version": 2, "files": _each(given.get("files"), _file_from_version_1)}

    @property
    def entries(self) -> tuple[FileEntry | DocumentEntry, ...]:
        """Everything the delivery wrote besides the manifest."""
        return (*self.files, *self.documents)


# Fields that don't match version 1 are left for the model to reject.


def _each(given: Any, change: Callable[[dict[str, Any]], dict[str, Any]]) -> Any:
    if not isinstance(given, list):
        return given
    return [change(one) if isinstance(one, dict) else one for one in given]


def _file_from_version_1(given: dict[str, Any]) -> dict[str, Any]:
    entry = {**given, "channels": _each(given.get("channels"), _channel_from_version_1)}
    mips = entry.pop("mips_sha256", [])
    entry["mips_digests"] = [f"sha256:{one}" for one in mips] if isinstance(mips, list) else mips
    return entry


def _channel_from_version_1(given: dict[str, Any]) -> dict[str, Any]:
    entry = dict(given)
    if "codes_sha256" in entry:
        entry["codes_digest"] = f"sha256:{entry.pop('codes_sha256')}"
    return entry


def manifest_text(manifest: Manifest) -> str:
    """Return the text of a manifest file."""
    return manifest.model_dump_json(indent=2) + "\n"
