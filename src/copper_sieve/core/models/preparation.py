"""Preparation of a set's pictures before maps are derived; plain JSON.

The steps have a fixed order: frame (straighten, rotate, crop), blemishes, delighting, tiling, size.
Positions are fractions of the imported picture, so they stay valid when other steps change and
apply to every picture of the set.
"""

from __future__ import annotations

import math
from typing import Annotated, Literal

from pydantic import Field, field_validator, model_validator

from copper_sieve.core.models.base import Model, list_of
from copper_sieve.core.operations.prepare.frame import WHOLE, Frame, is_convex
from copper_sieve.core.operations.prepare.make_tileable import MOST_OVERLAP, TilePlan

Share = Annotated[float, Field(ge=0, le=1)]
_SHARE = {"type": "number", "minimum": 0, "maximum": 1}
_PLACE = list_of(_SHARE, 2)
Place = Annotated[tuple[Share, Share], _PLACE]
Corners = Annotated[tuple[Place, Place, Place, Place], list_of(_PLACE.json_schema or {}, 4)]
Crop = Annotated[tuple[Share, Share, Share, Share], list_of(_SHARE, 4)]
Overlap = Annotated[tuple[float, float], list_of({"type": "number"}, 2)]

MOST_MARKS = 50
_LEAST_CROP = 0.01
_LEAST_RULER = 0.005
_LEAST_CORNERS = (
    "the four corners must be given clockwise from the top left and form a convex shape"
)


class FrameSpec(Model):
    """The used part of the picture; see `operations.prepare.frame.Frame`."""

    corners: Corners | None = None
    aspect: float | None = Field(
        default=None, ge=0.05, le=20, description="width divided by height"
    )
    quarter_turns: int = Field(default=0, ge=0, le=3, description="clockwise")
    mirror: bool = False
    angle: float = Field(default=0, ge=-45, le=45, description="degrees clockwise")
    crop: Crop = Field(
        default=WHOLE, description="left, top, right, bottom as shares of the straightened picture"
    )

    @field_validator("corners")
    @classmethod
    def _convex(cls, corners: Corners | None) -> Corners | None:
        if corners is not None and not is_convex(corners):
            raise ValueError(_LEAST_CORNERS)
        return corners

    @field_validator("crop")
    @classmethod
    def _has_room(cls, crop: Crop) -> Crop:
        left, top, right, bottom = crop
        if right - left < _LEAST_CROP or bottom - top < _LEAST_CROP:
            raise ValueError("a crop must keep at least 1 % of the picture in each direction")
        return crop

    def frame(self) -> Frame:
        """Return the frame as an input of the operations."""
        return Frame(
            self.corners, self.aspect, self.quarter_turns, self.mirror, self.angle, self.crop
        )


class Mark(Model):
    """A blemish: a closed outline that is filled from the rest of the picture, in all maps."""

    outline: tuple[Place, ...] = Field(min_length=3, max_length=400)


class EvenLight(Model):
    """Removes large-scale lighting from color pictures."""

    strength: float = Field(default=0.9, ge=0, le=1)
    scale: float = Field(
        default=0.125, ge=0.02, le=0.5, description="as a share of the picture's width"
    )


class Seams(Model):
    """Method of making the picture tileable; see `operations.prepare.make_tileable`."""

    method: Literal["gradient", "blend", "cut"]
    overlap: Overlap = Field(
        default=(0.0, 0.0), description="shares of the width and height that are cut off"
    )
    by_measure: bool = Field(
        default=True, description="the method was suggested, not chosen by the user"
    )

    @model_validator(mode="after")
    def _fits(self) -> Seams:
        if not all(math.isfinite(o) and 0 <= o <= MOST_OVERLAP for o in self.overlap):
            raise ValueError(f"the overlap must be 0 to {MOST_OVERLAP} of the side")
        if (self.method == "gradient") != (max(self.overlap) == 0):
            raise ValueError("blend and cut require an overlap; gradient doesn't use one")
        return self

    def plan(self) -> TilePlan:
        """Return the tile plan as an input of the operations, without its cuts."""
        return TilePlan(self.method, self.overlap)


class Size(Model):
    """Texels of the set; default: the frame at its finest texel size."""

    longer_side: int = Field(ge=16, le=16384)
    square: bool = Field(
        default=False, description="the shorter side is stretched to the same length"
    )


class Ruler(Model):
    """A known length on the picture, which gives the real width regardless of cropping."""

    start: Place
    end: Place
    metres: float = Field(gt=0, le=1000)

    @model_validator(mode="after")
    def _has_length(self) -> Ruler:
        if math.dist(self.start, self.end) < _LEAST_RULER:
            raise ValueError("both ends of the ruler are at the same position")
        return self


class Preparation(Model):
    """The preparation steps; defaults have no effect."""

    frame: FrameSpec = FrameSpec()
    marks: tuple[Mark, ...] = Field(default=(), max_length=MOST_MARKS)
    light: EvenLight | None = None
    seams: Seams | None = None
    size: Size | None = None
    ruler: Ruler | None = None

    @property
    def changes_pixels(self) -> bool:
        """Anything but the ruler is set."""
        return self.model_copy(update={"ruler": None}) != Preparation()
