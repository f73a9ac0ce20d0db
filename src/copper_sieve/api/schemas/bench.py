"""Bench: previews, interpretations, uncertainty, removed lighting, seam methods."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from copper_sieve.api.schemas.common import RequestModel, ResponseModel, png_url
from copper_sieve.api.schemas.sets import Draft, SheetRead, read_sheet
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.models.interpretations import About
from copper_sieve.core.models.preparation import Seams
from copper_sieve.core.models.texture_set import MapDefinition, SurfaceSpec
from copper_sieve.core.operations.color.color_key import KeyUncertainty
from copper_sieve.core.operations.prepare.compare_ways import SeamMethods
from copper_sieve.core.operations.prepare.make_tileable import Method
from copper_sieve.services.interpretations import InterpretationView
from copper_sieve.services.preview import Previewed
from copper_sieve.services.removed_lighting import By, RemovedLighting


class PreviewCreate(RequestModel):
    """Maps to compute, their size, and the window that shows them."""

    draft: Draft | None = None
    kinds: list[MapKind] | None = None
    longer_side: int = Field(default=1024, ge=16, le=4096)
    compute_side: int | None = Field(default=None, ge=16, le=16384)
    window: str = Field(default="", max_length=64)
    sequence: int = 0
    known: list[str] = Field(default_factory=list, max_length=1000)


class ProgressRead(ResponseModel):
    """Progress of a preview; `seconds_left` is null if unknown."""

    step: str
    share: float
    seconds: float
    seconds_left: float | None


class PreviewMapRead(ResponseModel):
    """One map: its codes have `channels` bytes per texel, first row at the top; no codes if the
    client has them.
    """

    key: str
    width: int
    height: int
    channels: int
    bytes: int


class GuideRead(ResponseModel):
    """The reference picture for preparing a set, and its imported size.

    source : SHA-256 of a file that shows it; the first picture of a measured set
    """

    kind: MapKind
    definition: MapDefinition
    source: str
    width: int
    height: int


class PreviewRead(ResponseModel):
    """Header of a preview: the maps in the order of their codes.

    width, height, surface : after preparation
    width_share : prepared width divided by the imported width
    sheet : the UV tiles of the set, which are adjacent in each map
    """

    maps: dict[MapKind, PreviewMapRead]
    width: int
    height: int
    surface: SurfaceSpec
    width_share: float
    guide: GuideRead | None
    sheet: SheetRead | None


class InterpretationsQuery(RequestModel):
    """Interpretations of a set or a draft: relief, light direction, or inversion."""

    about: About = "relief"
    draft: Draft | None = None


class InterpretationRead(ResponseModel):
    """One interpretation of a photo: its settings, and a lit picture.

    current : the set already has these settings; picture : data URL, PNG
    """

    name: str
    words: str
    current: bool
    surface: SurfaceSpec
    maps: dict[MapKind, MapDefinition]
    picture: str


class KeyUncertaintyQuery(RequestModel):
    """Query of the uncertainty of a color key; `kind` is the map it creates."""

    kind: MapKind
    draft: Draft | None = None


class KeyUncertaintyRead(ResponseModel):
    """Shares of selected and uncertain texels; the most frequent color of the uncertain ones."""

    near: float
    uncertain: float
    like: str | None


class RemovedLightingQuery(RequestModel):
    """Query of the lighting removed by the preparation or by the base color's settings."""

    by: By = "preparation"
    draft: Draft | None = None


class BlotchesRead(ResponseModel):
    """Dark blotches that would show as repetition: stops darker, share of the picture, and the
    lighting scale that removes them.
    """

    stops: float
    share: float
    scale: float


class RemovedLightingRead(ResponseModel):
    """The removed lighting: a picture (data URL, PNG; null if none) and its range in stops; and the
    remaining dark blotches.
    """

    picture: str | None
    stops: float
    blotches: BlotchesRead | None


class SeamsMeasure(RequestModel):
    """Query of the methods of making a set, or a draft, tileable."""

    draft: Draft | None = None


class SeamMethodRead(ResponseModel):
    """One method: its settings, and its measurements on the set's reference map.

    before, after : seam visibility, 1 is invisible; axis : of the worst remaining seam
    contrast_loss : share of fine contrast lost in the overlap, or of detail smeared without one, 0
    to 1
    broken : share of the join that resembles no part of the picture, 0 to 1
    breaks : what is broken and where; null if nothing is
    """

    seams: Seams
    before: float
    after: float
    axis: Literal["x", "y"]
    contrast_loss: float
    broken: float
    breaks: str | None
    good: bool


class SeamMethodsRead(ResponseModel):
    """All methods, and the suggested one.

    None is suggested if the set is tileable already, or if every method breaks something; `refused`
    then contains the reason.
    """

    chosen: Method | None
    refused: str | None
    ways: dict[Method, SeamMethodRead]


def read_preview(found: Previewed) -> PreviewRead:
    """Return the header of a preview."""
    guide = None
    geometry = found.geometry
    if geometry.guide:
        (kind, definition), (width, height) = geometry.guide, geometry.source
        shown = geometry.photo.source if geometry.photo else ""
        if geometry.captures and not shown:
            shown = geometry.captures.used[0].source if geometry.captures.used else ""
        guide = GuideRead(
            kind=kind, definition=definition, source=shown, width=width, height=height
        )
    return PreviewRead(
        maps={
            kind: PreviewMapRead(
                key=one.key,
                width=one.size[0],
                height=one.size[1],
                channels=len(kind.facts.components),
                bytes=0 if one.codes is None else one.codes.size,
            )
            for kind, one in found.maps.items()
        },
        width=geometry.size[0],
        height=geometry.size[1],
        surface=found.surface,
        width_share=geometry.width_share,
        guide=guide,
        sheet=read_sheet(geometry.sheet),
    )


def read_interpretations(found: list[InterpretationView]) -> list[InterpretationRead]:
    """Return the response for the interpretations of a set."""
    return [
        InterpretationRead(
            name=one.reading.name,
            words=one.reading.words,
            current=one.reading.current,
            surface=one.reading.texture_set.surface,
            maps=one.reading.texture_set.maps,
            picture=png_url(one.png),
        )
        for one in found
    ]


def read_removed_lighting(found: RemovedLighting) -> RemovedLightingRead:
    """Return the response for removed lighting."""
    left = found.blotches
    return RemovedLightingRead(
        picture=png_url(found.png) if found.png else None,
        stops=found.stops,
        blotches=BlotchesRead(stops=left.stops, share=left.share, scale=left.scale)
        if left
        else None,
    )


def read_key_uncertainty(found: KeyUncertainty) -> KeyUncertaintyRead:
    """Return the response for the uncertainty of a color key."""
    return KeyUncertaintyRead(near=found.near, uncertain=found.uncertain, like=found.like)


def read_seam_methods(found: SeamMethods) -> SeamMethodsRead:
    """Return the response for the seam methods."""
    return SeamMethodsRead(
        chosen=found.chosen,
        refused=found.refused,
        ways={
            method: SeamMethodRead(
                seams=Seams(method=method, overlap=way.plan.overlap),
                before=way.report.before.visibility,
                after=way.report.after.visibility,
                axis=way.report.after.axis,
                contrast_loss=max(0.0, way.report.contrast_loss),
                broken=way.report.structure.broken,
                breaks=way.breaks,
                good=way.is_good,
            )
            for method, way in found.ways.items()
        },
    )
