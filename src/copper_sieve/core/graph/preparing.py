"""Preparation steps of a set: resulting sizes, and the change of each picture.

Sources of filled marks and paths of cuts are determined once from the reference map; every
picture of the set is then changed in the same way.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np

from copper_sieve.core.graph.geometry import Geometry, Size, Sizes, size_of
from copper_sieve.core.image.map_kind import MapKind, Meaning
from copper_sieve.core.image.raster import Float
from copper_sieve.core.image.resize import fit_size
from copper_sieve.core.image.wrap import WrapSpec, as_wrap
from copper_sieve.core.models.preparation import Preparation
from copper_sieve.core.models.texture_set import Derived, Imported, is_measured
from copper_sieve.core.operations.prepare.delight import delight
from copper_sieve.core.operations.prepare.frame import apply_frame, transform
from copper_sieve.core.operations.prepare.inpaint import Outline, apply_inpaint, plan_inpaint
from copper_sieve.core.operations.prepare.make_tileable import TilePlan, apply_tile, plan_cuts

StepName = Literal["frame", "places", "marks", "light", "cuts", "seams"]

PLANNED_SIDE = 1024  # texels of the longer side of the guide by which places and cuts are chosen
_LIT_BY_THE_PHOTO = {MapKind.BASE_COLOR, MapKind.DIFFUSE}
# Increase the version when a step changes its pixels.
_VERSIONS: dict[StepName, int] = {
    "frame": 1, "places": 1, "marks": 1, "light": 1, "cuts": 1, "seams": 1,
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class PreparationStep:
    """One preparation step of a picture.

    shape : width and height of the imported reference map, to convert relative positions
    wrap : tiling directions before the step
    """

    name: StepName
    preparation: Preparation
    shape: Size
    wrap: WrapSpec = False

    def content(self) -> dict[str, Any]:
        """Return everything that the result depends on, except inputs and size."""
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
        """Return the picture after the step, (H, W, C) float32; "places" and "cuts" return plans.

        Parameters
        ----------
        inputs : "picture", and "plan" for steps that use one
        meaning : of the picture
        size : width and height of the result in texels

        Raises
        ------
        ShapeError
        """
        picture = inputs["picture"]
        prepare = self.preparation
        if self.name == "frame":
            return apply_frame(picture, prepare.frame.frame(), meaning, size)
        if self.name == "places":
            return plan_inpaint(picture, mark_outlines(prepare, self.shape))
        if self.name == "marks":
            return apply_inpaint(
                picture, mark_outlines(prepare, self.shape), inputs["plan"], meaning
            )
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


def preparation_steps(
    prepare: Preparation, kind: MapKind, picture: Imported | Derived | None = None
) -> list[StepName]:
    """Return the preparation steps of a map kind in order, without plans.

    Parameters
    ----------
    prepare : settings
    kind : of the map
    picture : its source; measured maps skip the lighting step
    """
    steps: list[StepName] = ["frame"]
    if prepare.marks:
        steps.append("marks")
    lit = kind in _LIT_BY_THE_PHOTO and not is_measured(picture)
    if lit and prepare.light and prepare.light.strength:
        steps.append("light")
    if prepare.seams:
        steps.append("seams")
    return steps


def mark_outlines(prepare: Preparation, shape: Size) -> list[Outline]:
    """Return the outlines of the marks as fractions of the framed picture."""
    inverse = np.linalg.inv(prepare.frame.frame().mapping(*shape))
    return [transform(mark.outline, inverse) for mark in prepare.marks]


def size_after(geometry: Geometry, working: Size) -> Size:
    """Return the size of the framed reference map at which blemishes and seams are planned.

    It is equal for all results, but not larger than the working size of a preview.
    """
    size = geometry.before_seams(geometry.size)
    size = fit_size(*size, min(PLANNED_SIDE, max(size)))
    quick = geometry.before_seams(working)
    return quick if max(quick) < max(size) else size


def reduced_source(prepare: Preparation, source: Size, size: Size) -> Size:
    """Return a sufficient size of a picture for a framed part of `size`.

    It is halved as often as its texels in the frame stay as fine as those of the result.
    """
    frame = prepare.frame.frame()
    while min(source) > 1:
        half = max(1, source[0] // 2), max(1, source[1] // 2)
        framed = frame.size(*half)
        if framed[0] < size[0] or framed[1] < size[1]:
            break
        source = half
    return source


# How the plan takes a picture that is read from its file, and a step.
Pictured = Imported | Derived  # imported, or measured from pictures
ReadNode = Callable[[MapKind, Pictured, Size], str]
StepNode = Callable[[PreparationStep, MapKind, Pictured, dict[str, str], Size, bool], str]


class Preparer:
    """Creates the nodes that prepare the pictures of a set.

    working : size after preparation
    """

    def __init__(
        self, geometry: Geometry, sizes: Sizes, working: Size, read: ReadNode, add: StepNode
    ) -> None:
        self._geometry, self._sizes, self._working = geometry, sizes, working
        self._prepare, self._guide = geometry.preparation, geometry.guide
        self._read, self._add = read, add

    def picture(self, kind: MapKind, picture: Pictured) -> str:
        """Add all preparation steps of a picture and return the key of the last one."""
        size = self._geometry.before_seams(self._working)
        steps = preparation_steps(self._prepare, kind, picture)
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

    def _framed(self, kind: MapKind, picture: Pictured, size: Size, *, passing: bool) -> str:
        came_in = size_of(picture, self._sizes, self._geometry.sheet, self._geometry.captures)
        enough = reduced_source(self._prepare, came_in, size)
        inputs = {"picture": self._read(kind, picture, enough)}
        return self._step("frame", kind, picture, inputs, size, passing=passing)

    def _places(self) -> str:
        """Return the plan for filling marks, made from the reference map at one size for all."""
        assert self._guide is not None
        size = size_after(self._geometry, self._working)
        inputs = {"picture": self._framed(*self._guide, size, passing=True)}
        return self._step("places", *self._guide, inputs, (len(self._prepare.marks), 2))

    def _cuts(self) -> str:
        """Return the plan of the seam cut, computed on the reference map before delighting."""
        assert self._guide is not None
        size = size_after(self._geometry, self._working)
        key = self._framed(*self._guide, size, passing=True)
        if self._prepare.marks:
            inputs = {"picture": key, "plan": self._places()}
            key = self._step("marks", *self._guide, inputs, size)
        return self._step("cuts", *self._guide, {"picture": key}, (2, 1))

    def _step(
        self,
        name: StepName,
        kind: MapKind,
        picture: Pictured,
        inputs: dict[str, str],
        size: Size,
        *,
        passing: bool = True,
    ) -> str:
        step = PreparationStep(name, self._prepare, self._geometry.source, self._geometry.borders)
        return self._add(step, kind, picture, inputs, size, passing)
