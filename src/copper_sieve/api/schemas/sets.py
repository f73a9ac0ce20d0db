"""Texture sets, previews, sources taken in."""

from __future__ import annotations

import base64
from typing import Literal

from pydantic import Field

from copper_sieve.api.schemas.common import Answer, Request
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.wrap import WrapSpec
from copper_sieve.core.models.origin import Origin
from copper_sieve.core.models.preparation import Preparation, Seams
from copper_sieve.core.models.readings import LIT_SHARE, About
from copper_sieve.core.models.texture_set import Imported, MapDefinition, SetDefinition, SurfaceSpec
from copper_sieve.core.operations.color.color_key import Doubt
from copper_sieve.core.operations.prepare.compare_ways import Ways
from copper_sieve.core.operations.prepare.make_tileable import Method
from copper_sieve.services.evening import By, Evening
from copper_sieve.services.first_touch import ReadingView
from copper_sieve.services.preview import Previewed
from copper_sieve.services.sets import SetView


class MapRead(Answer):
    """One map of a set: how it comes about, and the address of its thumbnail."""

    kind: MapKind
    definition: MapDefinition
    key: str
    thumbnail: str


class TilingRead(Answer):
    """Whether a picture's borders meet: which, how visible each is (1 is as inside), in words."""

    wrap: WrapSpec
    across: float
    down: float
    text: str


class LightRead(Answer):
    """From where a picture is lit: degrees, but for 180 (0 is right or left, 90 top or bottom)."""

    azimuth: float
    strength: float = Field(description="0 even, 1 all of it runs one way")
    lit: bool
    share: float = Field(
        default=LIT_SHARE, description="how much its shading counts once a side is chosen"
    )


class SetRead(Answer):
    """A texture set with everything the Tray and the Bench show."""

    id: int
    version: int
    name: str
    width: int
    height: int
    surface: SurfaceSpec
    settled_surface: SurfaceSpec = Field(description="as it is once the set is prepared")
    prepare: Preparation
    maps: list[MapRead]
    shelf: dict[MapKind, list[MapDefinition]]
    origin: Origin | None
    readiness: dict[str, Literal["ready", "delivered", "stale"]]
    can_undo: bool
    can_redo: bool
    tiling: TilingRead | None = Field(
        default=None, description="whether the borders of its guide met as it came in"
    )
    light: LightRead | None = Field(default=None, description="of its guide as it is prepared")


class SetUpdate(Request):
    """A set's new definition; `version` is the one it was read at."""

    version: int
    surface: SurfaceSpec
    prepare: Preparation = Preparation()
    maps: dict[MapKind, MapDefinition]
    shelf: dict[MapKind, list[MapDefinition]] = Field(default_factory=dict)
    amends: bool = Field(default=False, description="belongs to the change before: one to undo")


class SetStep(Request):
    """Undo or redo; `version` is the one the set was read at."""

    version: int


class Draft(Request):
    """A definition that is only looked at."""

    surface: SurfaceSpec
    prepare: Preparation = Preparation()
    maps: dict[MapKind, MapDefinition]


class SourceFactsRead(Answer):
    """File facts of a source."""

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


class MapTakenInRead(Answer):
    """A picture taken in to be one map: its file facts, and how it is read as that map."""

    facts: SourceFactsRead
    definition: Imported


class PreviewCreate(Request):
    """Which maps to compute, how large, and for which window."""

    draft: Draft | None = None
    kinds: list[MapKind] | None = None
    longer_side: int = Field(default=1024, ge=16, le=4096)
    compute_side: int | None = Field(default=None, ge=16, le=16384)
    window: str = Field(default="", max_length=64)
    sequence: int = 0
    known: list[str] = Field(default_factory=list, max_length=1000)


class PreviewMapRead(Answer):
    """One map: its codes are `channels` bytes a texel, row 0 at the top; none where it is known."""

    key: str
    width: int
    height: int
    channels: int
    bytes: int


class GuideRead(Answer):
    """The picture by which a set is prepared, and its size as it came in."""

    kind: MapKind
    definition: Imported
    width: int
    height: int


class PreviewRead(Answer):
    """What stands before the codes: the maps in the order in which their codes follow.

    width, height, surface : what preparing the set comes to
    width_share : the prepared width over that of the guide as it came in
    """

    maps: dict[MapKind, PreviewMapRead]
    width: int
    height: int
    surface: SurfaceSpec
    width_share: float
    guide: GuideRead | None


class ReadingsAsk(Request):
    """Readings of a set, or of a draft of it: of its relief, its light, or which way up it is."""

    about: About = "relief"
    draft: Draft | None = None


class ReadingRead(Answer):
    """One way to take a photo: what a set becomes by it, and its picture lit.

    current : the set is like that already; picture : a data address, PNG
    """

    name: str
    words: str
    current: bool
    surface: SurfaceSpec
    maps: dict[MapKind, MapDefinition]
    picture: str


class DoubtAsk(Request):
    """How sure a color key is; `kind` is the map that it makes."""

    kind: MapKind
    draft: Draft | None = None


class DoubtRead(Answer):
    """Shares of the texels that count and that are in doubt; the color most of those have."""

    near: float
    doubtful: float
    like: str | None


class EveningAsk(Request):
    """What evening the light takes out, by the preparation or by the way the base color is made."""

    by: By = "preparation"
    draft: Draft | None = None


class BlotchesRead(Answer):
    """Dark places that would be seen to repeat: stops darker, share of the picture, and the scale
    of evening that takes them out."""

    stops: float
    share: float
    scale: float


class EveningRead(Answer):
    """What was taken out: a picture (a data address, PNG; null where nothing was), its range in
    stops; and the dark places that are left."""

    picture: str | None
    stops: float
    blotches: BlotchesRead | None


class SeamsMeasure(Request):
    """Measure the ways to close a set's seams, or those of a draft of it."""

    draft: Draft | None = None


class SeamWayRead(Answer):
    """One way: its setting, and its figures on the set's guide.

    before, after : seam visibility, 1 is invisible; axis : of the worse borders left
    contrast_loss : share of the fine contrast where borders overlap, or of the detail that is
        smeared where they do not, 0 to 1
    broken : share of the pieces across the joints that the picture has nowhere, 0 to 1
    breaks : what it breaks and where, in words; null where the tile holds together
    """

    seams: Seams
    before: float
    after: float
    axis: Literal["x", "y"]
    contrast_loss: float
    broken: float
    breaks: str | None
    good: bool


class SeamWaysRead(Answer):
    """All ways beside each other, and the one by measure.

    None is chosen where the set tiles already, or where every way breaks something: then `refused`
    says what.
    """

    chosen: Method | None
    refused: str | None
    ways: dict[Method, SeamWayRead]


class TakenInRead(Answer):
    """A picture taken in, the set made from it, and what of it was there before."""

    sha256: str
    facts: SourceFactsRead
    set_id: int
    set_name: str
    known_source: bool
    known_set: bool
    kind: MapKind


def read_set(view: SetView) -> SetRead:
    """The answer for one set."""
    return SetRead(
        id=view.id,
        version=view.version,
        name=view.texture_set.name,
        width=view.geometry.size[0],
        height=view.geometry.size[1],
        surface=view.texture_set.surface,
        settled_surface=view.geometry.surface,
        prepare=view.texture_set.prepare,
        maps=[
            MapRead(
                kind=kind,
                definition=definition,
                key=view.keys[kind],
                thumbnail=f"/api/sets/{view.id}/maps/{kind}/thumbnail.png?key={view.keys[kind]}",
            )
            for kind, definition in view.texture_set.maps.items()
        ],
        shelf={kind: list(ways) for kind, ways in view.texture_set.shelf.items()},
        origin=view.texture_set.origin,
        readiness=dict(view.readiness),
        can_undo=view.can_undo,
        can_redo=view.can_redo,
        tiling=TilingRead.model_validate(view.tiling) if view.tiling else None,
        light=LightRead.model_validate(view.light) if view.light else None,
    )


def draft_set(name: str, draft: Draft | SetUpdate) -> SetDefinition:
    """The definition of a request under the set's own name."""
    shelf = draft.shelf if isinstance(draft, SetUpdate) else {}
    return SetDefinition(
        name=name,
        surface=draft.surface,
        prepare=draft.prepare,
        maps=draft.maps,
        shelf={kind: tuple(ways) for kind, ways in shelf.items() if ways},
    )


def read_preview(found: Previewed) -> PreviewRead:
    """What stands before the codes of a preview."""
    guide = None
    geometry = found.geometry
    if geometry.guide:
        (kind, definition), (width, height) = geometry.guide, geometry.source
        guide = GuideRead(kind=kind, definition=definition, width=width, height=height)
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
    )


def read_readings(found: list[ReadingView]) -> list[ReadingRead]:
    """The answer for the readings of a set."""
    return [
        ReadingRead(
            name=one.reading.name,
            words=one.reading.words,
            current=one.reading.current,
            surface=one.reading.texture_set.surface,
            maps=one.reading.texture_set.maps,
            picture=_address(one.png),
        )
        for one in found
    ]


def _address(png: bytes) -> str:
    return "data:image/png;base64," + base64.b64encode(png).decode()


def read_evening(found: Evening) -> EveningRead:
    """The answer for what evening takes out."""
    left = found.blotches
    return EveningRead(
        picture=_address(found.png) if found.png else None,
        stops=found.stops,
        blotches=BlotchesRead(stops=left.stops, share=left.share, scale=left.scale)
        if left
        else None,
    )


def read_doubt(found: Doubt) -> DoubtRead:
    """The answer for the doubt of a color key."""
    return DoubtRead(near=found.near, doubtful=found.doubtful, like=found.like)


def read_ways(found: Ways) -> SeamWaysRead:
    """The answer for the ways to close seams."""
    return SeamWaysRead(
        chosen=found.chosen,
        refused=found.refused,
        ways={
            method: SeamWayRead(
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
