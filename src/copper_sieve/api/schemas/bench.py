"""What the Bench looks at before it is kept: previews, readings, doubt, evening, ways of seams."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from copper_sieve.api.schemas.common import Answer, Request, png_url
from copper_sieve.api.schemas.sets import Draft, SheetRead, read_sheet
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.models.interpretations import About
from copper_sieve.core.models.preparation import Seams
from copper_sieve.core.models.texture_set import MapDefinition, SurfaceSpec
from copper_sieve.core.operations.color.color_key import Doubt
from copper_sieve.core.operations.prepare.compare_ways import Ways
from copper_sieve.core.operations.prepare.make_tileable import Method
from copper_sieve.services.interpretations import ReadingView
from copper_sieve.services.preview import Previewed
from copper_sieve.services.removed_lighting import By, Evening


class PreviewCreate(Request):
    """Which maps to compute, how large, and for which window."""

    draft: Draft | None = None
    kinds: list[MapKind] | None = None
    longer_side: int = Field(default=1024, ge=16, le=4096)
    compute_side: int | None = Field(default=None, ge=16, le=16384)
    window: str = Field(default="", max_length=64)
    sequence: int = 0
    known: list[str] = Field(default_factory=list, max_length=1000)


class UnderWayRead(Answer):
    """How far the preview of a window is; `seconds_left` is null where nothing tells."""

    step: str
    share: float
    seconds: float
    seconds_left: float | None


class PreviewMapRead(Answer):
    """One map: its codes are `channels` bytes a texel, row 0 at the top; none where it is known."""

    key: str
    width: int
    height: int
    channels: int
    bytes: int


class GuideRead(Answer):
    """The picture by which a set is prepared, and its size as it came in.

    source : SHA-256 of a file that shows it; of what is measured the first picture's
    """

    kind: MapKind
    definition: MapDefinition
    source: str
    width: int
    height: int


class PreviewRead(Answer):
    """What stands before the codes: the maps in the order in which their codes follow.

    width, height, surface : what preparing the set comes to
    width_share : the prepared width over that of the guide as it came in
    sheet : the tiles of the set, which lie side by side in each map
    """

    maps: dict[MapKind, PreviewMapRead]
    width: int
    height: int
    surface: SurfaceSpec
    width_share: float
    guide: GuideRead | None
    sheet: SheetRead | None


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


def read_preview(found: Previewed) -> PreviewRead:
    """What stands before the codes of a preview."""
    guide = None
    geometry = found.geometry
    if geometry.guide:
        (kind, definition), (width, height) = geometry.guide, geometry.source
        shown = geometry.photo.source if geometry.photo else ""
        if geometry.shots and not shown:
            shown = geometry.shots.used[0].source if geometry.shots.used else ""
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


def read_readings(found: list[ReadingView]) -> list[ReadingRead]:
    """The answer for the readings of a set."""
    return [
        ReadingRead(
            name=one.reading.name,
            words=one.reading.words,
            current=one.reading.current,
            surface=one.reading.texture_set.surface,
            maps=one.reading.texture_set.maps,
            picture=png_url(one.png),
        )
        for one in found
    ]


def read_evening(found: Evening) -> EveningRead:
    """The answer for what evening takes out."""
    left = found.blotches
    return EveningRead(
        picture=png_url(found.png) if found.png else None,
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
