"""The steps at the head of a set: how large they leave it, and what each does to a picture.

Where a mark is filled from and where a cut runs is decided once, by the set's guide, the picture
that shows most; the same is then done to every picture of the set.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np

from copper_sieve.core.image.map_kind import MapKind, Meaning
from copper_sieve.core.image.raster import Float
from copper_sieve.core.image.resize import fit_size
from copper_sieve.core.image.wrap import Wrap, WrapSpec, as_wrap
from copper_sieve.core.models.preparation import Preparation
from copper_sieve.core.models.texture_set import (
    Derived,
    Imported,
    SetDefinition,
    SurfaceSpec,
    imported_in,
)
from copper_sieve.core.operations import get_operation
from copper_sieve.core.operations.prepare.delight import delight
from copper_sieve.core.operations.prepare.frame import apply_frame, transform
from copper_sieve.core.operations.prepare.inpaint import Outline, apply_inpaint, plan_inpaint
from copper_sieve.core.operations.prepare.make_tileable import TilePlan, apply_tile, plan_cuts

StepName = Literal["frame", "places", "marks", "light", "cuts", "seams"]
Size = tuple[int, int]  # width and height
Sizes = Mapping[str, Size]  # of each source by its SHA-256
Guide = tuple[MapKind, Imported]

PLANNED_SIDE = 1024  # texels of the longer side of the guide by which places and cuts are chosen
_LIT_BY_THE_PHOTO = {MapKind.BASE_COLOR, MapKind.DIFFUSE}
# A change of what a step does to pixels needs a new number.
_VERSIONS: dict[StepName, int] = {
    "frame": 1, "places": 1, "marks": 1, "light": 1, "cuts": 1, "seams": 1,
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Step:
    """One step on one picture.

    shape : width and height of the guide as it came in, by which places are turned into the frame
    wrap : which borders of the picture met before
    """

    name: StepName
    preparation: Preparation
    shape: Size
    wrap: WrapSpec = False

    def content(self) -> dict[str, Any]:
        """All that its result depends on besides its inputs and its size."""
        parts: dict[StepName, set[str]] = {
            "frame": {"frame"}, "places": {"frame", "marks"}, "marks": {"frame", "marks"},
            "light": {"light"}, "cuts": {"seams"}, "seams": {"seams"},
        }  # fmt: skip
        content = self.preparation.model_dump(mode="json", include=parts[self.name])
        if seams := content.get("seams"):
            del seams["by_measure"]
        if self.name in ("places", "marks"):
            content["shape"] = self.shape
        if self.name == "light":
            content["wrap"] = self.wrap
        return {"step": self.name, "version": _VERSIONS[self.name], **content}

    def run(self, inputs: Mapping[str, Float], meaning: Meaning, size: Size) -> Float:
        """The picture after the step, (H, W, C) float32; "places" and "cuts" give plans.

        inputs : "picture", and "plan" for steps that follow one. Raises ShapeError.
        """
        picture = inputs["picture"]
        prepare = self.preparation
        if self.name == "frame":
            return apply_frame(picture, prepare.frame.frame(), meaning, size)
        if self.name == "places":
            return plan_inpaint(picture, outlines(prepare, self.shape))
        if self.name == "marks":
            return apply_inpaint(picture, outlines(prepare, self.shape), inputs["plan"], meaning)
        if self.name == "light":
            assert prepare.light is not None
            light = prepare.light
            return delight(
                picture, strength=light.strength, scale=light.scale, wrap=as_wrap(self.wrap)
            )
        assert prepare.seams is not None
        if self.name == "cuts":
            return plan_cuts(picture, prepare.seams.overlap)
        plan = TilePlan(prepare.seams.method, prepare.seams.overlap, inputs.get("plan"))
        return apply_tile(picture, plan, meaning, size)


def steps_of(prepare: Preparation, kind: MapKind) -> list[StepName]:
    """The steps that a map of that kind goes through, in order; the plans are not among them."""
    steps: list[StepName] = ["frame"]
    if prepare.marks:
        steps.append("marks")
    if prepare.light and prepare.light.strength and kind in _LIT_BY_THE_PHOTO:
        steps.append("light")
    if prepare.seams:
        steps.append("seams")
    return steps


def outlines(prepare: Preparation, shape: Size) -> list[Outline]:
    """The marks' outlines as fractions of the framed picture."""
    inverse = np.linalg.inv(prepare.frame.frame().mapping(*shape))
    return [transform(mark.outline, inverse) for mark in prepare.marks]


def guide_of(texture_set: SetDefinition, sizes: Sizes) -> Guide | None:
    """The picture by which a set is prepared: its base color's, else its largest; None without."""
    base = texture_set.maps.get(MapKind.BASE_COLOR)
    for one in own_pictures(base) if base else []:
        return MapKind.BASE_COLOR, one
    own = [(kind, one) for kind, d in texture_set.maps.items() for one in own_pictures(d)]
    if not own:
        return None
    return max(own, key=lambda pair: sizes[pair[1].source][0] * sizes[pair[1].source][1])


def own_pictures(definition: Any) -> list[Imported]:
    """The pictures of a map that show the set's own surface: none that is laid over it."""
    if not isinstance(definition, Derived):
        return imported_in(definition)
    slots = {slot.name: slot for slot in get_operation(definition.operation).slots}
    return [
        one for name, one in definition.slots.items()
        if isinstance(one, Imported) and not slots[name].laid_over
    ]  # fmt: skip


def native_size(texture_set: SetDefinition, sizes: Sizes) -> Size:
    """Width and height of the set: those of its guide, prepared."""
    guide = guide_of(texture_set, sizes)
    if guide is None:
        return 1024, 1024
    wanted = texture_set.prepare.size
    size = _finest_size(texture_set.prepare, sizes[guide[1].source])
    if wanted:
        size = fit_size(*size, wanted.longer_side)
        if wanted.square:
            size = wanted.longer_side, wanted.longer_side
    return size


def _finest_size(prepare: Preparation, source: Size) -> Size:
    """Of the guide prepared at its own texels."""
    size = prepare.frame.frame().size(*source)
    return prepare.seams.plan().tile(size) if prepare.seams else size


def before_seams(prepare: Preparation, size: Size) -> Size:
    """The size that a picture must have for the set to have `size` once its seams are closed."""
    return prepare.seams.plan().before(size) if prepare.seams else size


def planned_size(texture_set: SetDefinition, sizes: Sizes, working: Size) -> Size:
    """The size of the framed guide at which places and cuts are chosen: one for all results, but
    not larger than what is worked at for a quick look."""
    size = before_seams(texture_set.prepare, native_size(texture_set, sizes))
    size = fit_size(*size, min(PLANNED_SIDE, max(size)))
    quick = before_seams(texture_set.prepare, working)
    return quick if max(quick) < max(size) else size


def settled_surface(texture_set: SetDefinition, sizes: Sizes) -> SurfaceSpec:
    """The surface once prepared: its width by the ruler where there is one, else as much of the
    stated width as is left of the guide's; its borders meeting where the seams are closed, or where
    they met before and the frame leaves them."""
    prepare, surface = texture_set.prepare, texture_set.surface
    guide = guide_of(texture_set, sizes)
    if guide is None:
        return surface
    meet = prepare.seams is not None or borders_before(texture_set)
    changes: dict[str, Any] = {"wrap": meet}
    width = surface.tile_size * width_share(texture_set, sizes)
    if ruler := prepare.ruler:
        source, frame = sizes[guide[1].source], prepare.frame.frame()
        inverse = np.linalg.inv(frame.mapping(*source))
        ends = transform([ruler.start, ruler.end], inverse) * frame.size(*source)
        length = float(np.hypot(*(ends[1] - ends[0])))
        width = ruler.metres * _finest_size(prepare, source)[0] / max(length, 1e-6)
    changes["tile_size"] = min(1000.0, max(1e-4, width))
    return surface.model_copy(update=changes)


def borders_before(texture_set: SetDefinition) -> WrapSpec:
    """Which borders meet before seams are closed: as stated, where the frame leaves them."""
    frame, wrap = texture_set.prepare.frame.frame(), as_wrap(texture_set.surface.wrap)
    if not frame.keeps_borders:
        return False
    return (Wrap(wrap.down, wrap.across) if frame.quarter_turns % 2 else wrap).spec


def settled_azimuth(texture_set: SetDefinition, sizes: Sizes, azimuth: float) -> float:
    """From where the prepared guide is lit, in degrees but for 180, if `azimuth` is measured on
    the guide as it came in: the light turns with the picture."""
    guide = guide_of(texture_set, sizes)
    if guide is None:
        return azimuth
    frame = texture_set.prepare.frame.frame()
    return frame.direction(azimuth, *sizes[guide[1].source]) % 180


def width_share(texture_set: SetDefinition, sizes: Sizes) -> float:
    """The set's width once prepared over the width of its guide as it came in, texels alike."""
    guide = guide_of(texture_set, sizes)
    if guide is None:
        return 1.0
    source = sizes[guide[1].source]
    return _finest_size(texture_set.prepare, source)[0] / source[0]


def settled(texture_set: SetDefinition, sizes: Sizes) -> SetDefinition:
    """The same set with its surface as it is once prepared."""
    return texture_set.model_copy(update={"surface": settled_surface(texture_set, sizes)})


def reduced_source(prepare: Preparation, source: Size, size: Size) -> Size:
    """The size at which a picture is enough for a framed part of `size`: halved as often as its
    texels in the frame stay as fine."""
    frame = prepare.frame.frame()
    while min(source) > 1:
        half = max(1, source[0] // 2), max(1, source[1] // 2)
        framed = frame.size(*half)
        if framed[0] < size[0] or framed[1] < size[1]:
            break
        source = half
    return source


# How the plan takes a picture that is read from its file, and a step.
ReadNode = Callable[[MapKind, Imported, Size], str]
StepNode = Callable[[Step, MapKind, Imported, dict[str, str], Size, bool], str]


class Preparer:
    """The nodes by which the pictures of a set are prepared, each given to the plan as it is made.

    working : the size that they have afterwards
    """

    def __init__(
        self, texture_set: SetDefinition, sizes: Sizes, working: Size, read: ReadNode, add: StepNode
    ) -> None:
        self._set, self._sizes, self._working = texture_set, sizes, working
        self._prepare = texture_set.prepare
        self._guide = guide_of(texture_set, sizes)
        self._read, self._add = read, add

    def picture(self, kind: MapKind, picture: Imported) -> str:
        """The key of a picture after all of its steps."""
        size = before_seams(self._prepare, self._working)
        steps = steps_of(self._prepare, kind)
        key = self._framed(kind, picture, size, passing=len(steps) > 1)
        for name in steps[1:]:
            inputs = {"picture": key}
            if name == "marks":
                inputs["plan"] = self._places()
            if name == "seams":
                size = self._working
                if self._prepare.seams and self._prepare.seams.method == "cut":
                    inputs["plan"] = self._cuts()
            key = self._step(name, kind, picture, inputs, size, passing=name != steps[-1])
        return key

    def _framed(self, kind: MapKind, picture: Imported, size: Size, *, passing: bool) -> str:
        enough = reduced_source(self._prepare, self._sizes[picture.source], size)
        inputs = {"picture": self._read(kind, picture, enough)}
        return self._step("frame", kind, picture, inputs, size, passing=passing)

    def _places(self) -> str:
        """The plan by which marks are filled, made on the guide at one size for all."""
        assert self._guide is not None
        size = planned_size(self._set, self._sizes, self._working)
        inputs = {"picture": self._framed(*self._guide, size, passing=True)}
        return self._step("places", *self._guide, inputs, (len(self._prepare.marks), 2))

    def _cuts(self) -> str:
        """The plan by which overlapping borders are cut, made on the guide whatever its light."""
        assert self._guide is not None
        size = planned_size(self._set, self._sizes, self._working)
        key = self._framed(*self._guide, size, passing=True)
        if self._prepare.marks:
            inputs = {"picture": key, "plan": self._places()}
            key = self._step("marks", *self._guide, inputs, size)
        return self._step("cuts", *self._guide, {"picture": key}, (2, 1))

    def _step(
        self,
        name: StepName,
        kind: MapKind,
        picture: Imported,
        inputs: dict[str, str],
        size: Size,
        *,
        passing: bool = True,
    ) -> str:
        assert self._guide is not None
        shape = self._sizes[self._guide[1].source]
        step = Step(name, self._prepare, shape, borders_before(self._set))
        return self._add(step, kind, picture, inputs, size, passing)
