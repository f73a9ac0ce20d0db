"""Texture sets, previews, imported sources."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from copper_sieve.api.schemas.common import RequestModel, ResponseModel
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.tile_layout import TileLayout
from copper_sieve.core.image.wrap import WrapSpec
from copper_sieve.core.models.interpretations import LIT_SHARE
from copper_sieve.core.models.light_captures import CapturesSpec
from copper_sieve.core.models.model_tie import ModelLink
from copper_sieve.core.models.origin import Origin
from copper_sieve.core.models.preparation import Preparation
from copper_sieve.core.models.texture_set import (
    Imported,
    MapDefinition,
    PartName,
    SetDefinition,
    SurfaceSpec,
)
from copper_sieve.services.sets import SetView


class SheetRead(ResponseModel):
    """Layout of the UV tiles of a set: the grid, and its upper left position, v down."""

    numbers: list[int]
    left: int
    top: int
    columns: int
    rows: int


def read_sheet(sheet: TileLayout | None) -> SheetRead | None:
    """Return the layout of the UV tiles; null for a set without."""
    return None if sheet is None else SheetRead.model_validate(sheet)


class MapRead(ResponseModel):
    """One map of a set with its definition and the URL of its thumbnail."""

    kind: MapKind
    definition: MapDefinition
    key: str
    thumbnail: str


class TilingRead(ResponseModel):
    """Tiling directions of a picture, the visibility of each seam (1 is invisible), and a
    description.
    """

    wrap: WrapSpec
    across: float
    down: float
    text: str


class LightRead(ResponseModel):
    """Light direction in a picture in degrees, ambiguous by 180° (0 is right or left, 90 top or
    bottom).
    """

    azimuth: float
    strength: float = Field(description="0: even lighting; 1: all shading from one direction")
    lit: bool
    share: float = Field(
        default=LIT_SHARE, description="weight of the shading once a direction is chosen"
    )


class SetRead(ResponseModel):
    """A texture set with all details."""

    id: int
    version: int
    name: str
    width: int
    height: int
    surface: SurfaceSpec
    prepared_surface: SurfaceSpec = Field(description="size after preparation")
    prepare: Preparation
    maps: list[MapRead]
    lit: str = Field(description="URL of a small preview under the reference light")
    shelf: dict[MapKind, list[MapDefinition]]
    origin: Origin | None
    readiness: dict[str, Literal["ready", "delivered", "stale"]]
    sheet: SheetRead | None = Field(
        description="its tiles; width and height cover all tiles together"
    )
    model: ModelLink | None = Field(description="the linked model")
    captures: CapturesSpec | None = Field(
        description="the light captures that the set is measured from"
    )
    blended_of: dict[PartName, str] = Field(description="names of the sets that it blends")
    can_undo: bool
    can_redo: bool
    tiling: TilingRead | None = Field(
        default=None, description="whether the imported reference map is tileable"
    )
    light: LightRead | None = Field(
        default=None, description="of the reference map after preparation"
    )


class SetUpdate(RequestModel):
    """New definition of a set; `version` is the version it is based on."""

    version: int
    surface: SurfaceSpec
    prepare: Preparation = Preparation()
    maps: dict[MapKind, MapDefinition]
    shelf: dict[MapKind, list[MapDefinition]] = Field(default_factory=dict)
    model: ModelLink | None = None
    captures: CapturesSpec | None = Field(default=None, description="null keeps the current value")
    amends: bool = Field(
        default=False, description="merges with the previous change into one undo step"
    )


class SetStep(RequestModel):
    """Undo or redo; `version` is the version it is based on."""

    version: int


class Draft(RequestModel):
    """A definition that is only previewed."""

    surface: SurfaceSpec
    prepare: Preparation = Preparation()
    maps: dict[MapKind, MapDefinition]
    model: ModelLink | None = None
    captures: CapturesSpec | None = Field(default=None, description="null keeps the current value")


class SourceFactsRead(ResponseModel):
    """Facts about an imported file."""

    file_name: str
    format: str
    width: int
    height: int
    channels: list[str]
    bit_depth: int
    floating: bool = Field(serialization_alias="float")
    encoding: str
    encoding_source: str
    bytes: int
    cut_out: bool = False
    tiling: TilingRead | None = None
    light: LightRead | None = None


class ImportedMapRead(ResponseModel):
    """A picture imported as a map: its facts, and how it is read."""

    facts: SourceFactsRead
    definition: Imported


class ImportedSourceRead(ResponseModel):
    """An imported picture, the set created from it, and whether picture and set existed before."""

    sha256: str
    facts: SourceFactsRead
    set_id: int
    set_name: str
    known_source: bool
    known_set: bool
    kind: MapKind


def read_set(view: SetView) -> SetRead:
    """Return the response for one set."""
    return SetRead(
        id=view.id,
        version=view.version,
        name=view.texture_set.name,
        width=view.geometry.size[0],
        height=view.geometry.size[1],
        surface=view.texture_set.surface,
        prepared_surface=view.geometry.surface,
        prepare=view.texture_set.prepare,
        maps=[
            MapRead(
                kind=kind,
                definition=definition,
                key=view.keys[kind],
                thumbnail=f"/api/v1/sets/{view.id}/maps/{kind}/thumbnail.png?key={view.keys[kind]}",
            )
            for kind, definition in view.texture_set.maps.items()
        ],
        lit=f"/api/v1/sets/{view.id}/lit.png?key={view.lit}",
        shelf={kind: list(ways) for kind, ways in view.texture_set.shelf.items()},
        origin=view.texture_set.origin,
        sheet=read_sheet(view.geometry.sheet),
        model=view.texture_set.model,
        captures=view.texture_set.captures,
        readiness=dict(view.readiness),
        blended_of={name: part.texture_set.name for name, part in view.texture_set.parts.items()},
        can_undo=view.can_undo,
        can_redo=view.can_redo,
        tiling=TilingRead.model_validate(view.tiling) if view.tiling else None,
        light=LightRead.model_validate(view.light) if view.light else None,
    )


def draft_set(name: str, draft: Draft | SetUpdate) -> SetDefinition:
    """Return the definition of a request with the set's name."""
    shelf = draft.shelf if isinstance(draft, SetUpdate) else {}
    return SetDefinition(
        name=name,
        surface=draft.surface,
        prepare=draft.prepare,
        maps=draft.maps,
        shelf={kind: tuple(ways) for kind, ways in shelf.items() if ways},
        model=draft.model,
        captures=draft.captures,
    )
