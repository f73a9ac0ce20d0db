"""Light captures that a set is measured from: placements and lights."""

from __future__ import annotations

from typing import Annotated, Any, ClassVar, Literal

from pydantic import BeforeValidator, Field, model_validator

from copper_sieve.core.image.raster import Encoding
from copper_sieve.core.measuring.ball import Ball
from copper_sieve.core.measuring.light_directions import FEWEST, MOST, Lamp
from copper_sieve.core.measuring.stack import Placement
from copper_sieve.core.models.base import Model

_FORMER = {"fit": "refined", "guess": "estimated", "hand": "manual"}
LightOrigin = Annotated[
    Literal["ball", "refined", "estimated", "manual"],
    BeforeValidator(lambda value: _FORMER.get(value, value) if isinstance(value, str) else value),
]
_Sha256 = Annotated[str, Field(pattern="^[0-9a-f]{64}$")]


class LampSpec(Model):
    """The light of a capture; see `measuring.light_directions.Lamp`."""

    former_names: ClassVar = {"around": "azimuth", "up": "elevation", "strength": "intensity"}

    azimuth: float = Field(
        ge=0, le=360, description="azimuth in degrees, counterclockwise from the right"
    )
    elevation: float = Field(gt=0, le=90, description="elevation in degrees above the surface")
    distance: float | None = Field(
        default=None, gt=0, le=1000, description="distance of a near light in picture widths"
    )
    intensity: float = Field(
        default=1.0, gt=0, le=1e4,
        description="linear value of a white surface directly below it",
    )  # fmt: skip

    @classmethod
    def of(cls, lamp: Lamp) -> LampSpec:
        """Return the stored form: hundredths of a degree."""
        return cls(
            azimuth=round(lamp.azimuth, 2) % 360, elevation=max(0.01, round(lamp.elevation, 2)),
            distance=None if lamp.distance is None else round(lamp.distance, 4),
            intensity=float(f"{lamp.intensity:.5g}"),
        )  # fmt: skip

    def lamp(self) -> Lamp:
        """Return the light for the measurement."""
        return Lamp.at(self.azimuth, self.elevation, self.distance, self.intensity)


class PlacementSpec(Model):
    """Position of a capture relative to the surface."""

    former_names: ClassVar = {"turn": "rotation"}

    right: float = Field(default=0.0, ge=-1, le=1, description="in picture widths")
    down: float = Field(default=0.0, ge=-1, le=1, description="in picture widths")
    rotation: float = Field(default=0.0, ge=-180, le=180, description="degrees clockwise")

    @classmethod
    def of(cls, place: Placement, width: int) -> PlacementSpec:
        """Return the stored form, for a picture with this width in texels."""
        return cls(
            right=round(place.right / width, 7), down=round(place.down / width, 7),
            rotation=round(place.rotation, 4),
        )  # fmt: skip

    def placement(self, width: int) -> Placement:
        """Return the placement in texels, for pictures with this width."""
        return Placement(self.right * width, self.down * width, self.rotation)


class CaptureSpec(Model):
    """One picture of a surface, under one light."""

    former_names: ClassVar = {"told": "light_origin"}

    source: _Sha256
    encoding: Encoding = Encoding.SRGB
    lamp: LampSpec
    light_origin: LightOrigin = Field(default="manual", description="origin of the light direction")
    placement: PlacementSpec = PlacementSpec()
    exposure: float = Field(
        default=0.0, ge=-20, le=20, description="in stops relative to the others"
    )
    used: bool = Field(default=True, description="false: excluded")


class BallSpec(Model):
    """A ball in the pictures: fractions of their width, from the upper left corner."""

    x: float = Field(ge=0, le=1)
    y: float = Field(ge=0, le=100)
    radius: float = Field(gt=0, le=0.5)
    kind: Literal["white", "shiny"]

    @classmethod
    def of(cls, ball: Ball, width: int) -> BallSpec:
        """Return the stored form of a ball, for pictures with this width in texels."""
        x, y, radius = (round(one / width, 6) for one in (ball.x, ball.y, ball.radius))
        return cls(x=x, y=y, radius=radius, kind=ball.kind)

    def ball(self, width: int) -> Ball:
        """Return the ball in texels, for pictures with this width."""
        return Ball(self.x * width, self.y * width, self.radius * width, self.kind)


class GrayCardSpec(Model):
    """A gray card or plain paper in the pictures: fractions of their width, from the top left."""

    former_names: ClassVar = {"reflects": "reflectance"}

    x: float = Field(ge=0, le=1)
    y: float = Field(ge=0, le=100)
    reflectance: float = Field(default=0.18, gt=0, le=1, description="share of reflected light")


class TintSpec(Model):
    """Relative red, green and blue of the light; their mean is 1."""

    red: float = Field(default=1.0, gt=0, le=3)
    green: float = Field(default=1.0, gt=0, le=3)
    blue: float = Field(default=1.0, gt=0, le=3)


class CapturesSpec(Model):
    """Light captures of one surface, with the parameters of the measurement."""

    former_names: ClassVar = {
        "shots": "captures", "mirrors": "f0", "grey": "gray_card", "paper": "flat_field",
    }  # fmt: skip

    captures: tuple[CaptureSpec, ...] = Field(min_length=FEWEST, max_length=MOST)
    ball: BallSpec | None = None
    white: float = Field(
        default=1.0, gt=0, le=1e4,
        description="linear value of a white surface directly below a light of strength 1",
    )  # fmt: skip
    tint: TintSpec = TintSpec()
    f0: float | None = Field(
        default=None, gt=0, le=1,
        description="reflectance at normal incidence, from highlights; null: 0.04 assumed",
    )  # fmt: skip
    gray_card: GrayCardSpec | None = Field(
        default=None, description="source of white level and tint, if any"
    )
    flat_field: _Sha256 | None = Field(
        default=None, description="flat-field picture of plain paper, to correct vignetting"
    )
    remarks: tuple[str, ...] = Field(
        default=(), max_length=50, description="results of the image analysis"
    )
    light_remarks: tuple[str, ...] = Field(
        default=(), max_length=50, description="results of the last light estimation"
    )

    @model_validator(mode="after")
    def _each_once(self) -> CapturesSpec:
        if len({one.source for one in self.captures}) < len(self.captures):
            raise ValueError("the same picture was given twice. Remove one of them")
        return self

    @property
    def used(self) -> tuple[CaptureSpec, ...]:
        """The pictures that are measured from."""
        return tuple(one for one in self.captures if one.used)

    @property
    def light(self) -> tuple[float, float, float]:
        """Return the linear RGB of a white surface directly below a light of intensity 1."""
        tint = self.tint
        return self.white * tint.red, self.white * tint.green, self.white * tint.blue

    @property
    def all_remarks(self) -> tuple[str, ...]:
        """Messages about the pictures and their lights."""
        return self.remarks + self.light_remarks

    def sources(self) -> set[str]:
        """Return the SHA-256 of every picture, including excluded ones and the flat field."""
        return {one.source for one in self.captures} | (
            {self.flat_field} if self.flat_field else set()
        )

    def content(self) -> dict[str, Any]:
        """Return all inputs of the measurement except the size."""
        whole = self.model_copy(update={"captures": self.used})
        held = whole.model_dump(mode="json", exclude={"remarks", "light_remarks", "gray_card"})
        for one in held["captures"]:
            del one["light_origin"], one["used"]
        return held
