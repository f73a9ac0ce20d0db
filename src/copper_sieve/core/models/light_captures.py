"""The pictures that a set is measured from: where each lay, and where its light came from."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from copper_sieve.core.image.raster import Encoding
from copper_sieve.core.measuring.ball import Ball
from copper_sieve.core.measuring.light_directions import FEWEST, MOST, Lamp
from copper_sieve.core.measuring.stack import Placement
from copper_sieve.core.models.base import Model

Told = Literal["ball", "fit", "guess", "hand"]
_Sha256 = Annotated[str, Field(pattern="^[0-9a-f]{64}$")]


class LampSpec(Model):
    """Where the light of a picture came from; see `measuring.lamps.Lamp`."""

    around: float = Field(
        ge=0, le=360, description="azimuth in degrees, counterclockwise from the right"
    )
    up: float = Field(gt=0, le=90, description="elevation in degrees above the surface")
    distance: float | None = Field(
        default=None, gt=0, le=1000, description="distance of a near light in picture widths"
    )
    strength: float = Field(
        default=1.0, gt=0, le=1e4,
        description="linear value of a white surface directly below it",
    )  # fmt: skip

    @classmethod
    def of(cls, lamp: Lamp) -> LampSpec:
        """Return the stored form: hundredths of a degree."""
        return cls(
            around=round(lamp.around, 2) % 360, up=max(0.01, round(lamp.up, 2)),
            distance=None if lamp.distance is None else round(lamp.distance, 4),
            strength=float(f"{lamp.strength:.5g}"),
        )  # fmt: skip

    def lamp(self) -> Lamp:
        """Return the light for the measurement."""
        return Lamp.at(self.around, self.up, self.distance, self.strength)


class PlacementSpec(Model):
    """Where a picture lies against the surface."""

    right: float = Field(default=0.0, ge=-1, le=1, description="in picture widths")
    down: float = Field(default=0.0, ge=-1, le=1, description="in picture widths")
    turn: float = Field(default=0.0, ge=-180, le=180, description="degrees clockwise")

    @classmethod
    def of(cls, place: Placement, width: int) -> PlacementSpec:
        """Return the stored form, for a picture with this width in texels."""
        return cls(
            right=round(place.right / width, 7), down=round(place.down / width, 7),
            turn=round(place.turn, 4),
        )  # fmt: skip

    def placement(self, width: int) -> Placement:
        """The same in texels of a picture so wide."""
        return Placement(self.right * width, self.down * width, self.turn)


class CaptureSpec(Model):
    """One picture of a surface, under one light."""

    source: _Sha256
    encoding: Encoding = Encoding.SRGB
    lamp: LampSpec
    told: Told = Field(default="hand", description="origin of the light direction")
    placement: PlacementSpec = PlacementSpec()
    exposure: float = Field(
        default=0.0, ge=-20, le=20, description="in stops relative to the others"
    )
    used: bool = Field(default=True, description="false: excluded")


class BallSpec(Model):
    """A ball that the pictures show: shares of their width, from the upper left corner."""

    x: float = Field(ge=0, le=1)
    y: float = Field(ge=0, le=100)
    radius: float = Field(gt=0, le=0.5)
    kind: Literal["white", "shiny"]

    @classmethod
    def of(cls, ball: Ball, width: int) -> BallSpec:
        """Of a ball in pictures so many texels wide."""
        x, y, radius = (round(one / width, 6) for one in (ball.x, ball.y, ball.radius))
        return cls(x=x, y=y, radius=radius, kind=ball.kind)

    def ball(self, width: int) -> Ball:
        """The same in texels of pictures so wide."""
        return Ball(self.x * width, self.y * width, self.radius * width, self.kind)


class GrayCardSpec(Model):
    """A grey card, or plain paper, that the pictures show: a place of it as shares of their width,
    from the upper left corner."""

    x: float = Field(ge=0, le=1)
    y: float = Field(ge=0, le=100)
    reflects: float = Field(default=0.18, gt=0, le=1, description="share of reflected light")


class TintSpec(Model):
    """Red, green and blue of the light against each other; their mean is 1."""

    red: float = Field(default=1.0, gt=0, le=3)
    green: float = Field(default=1.0, gt=0, le=3)
    blue: float = Field(default=1.0, gt=0, le=3)


class CapturesSpec(Model):
    """Light captures of one surface, with the parameters of the measurement."""

    shots: tuple[CaptureSpec, ...] = Field(min_length=FEWEST, max_length=MOST)
    ball: BallSpec | None = None
    white: float = Field(
        default=1.0, gt=0, le=1e4,
        description="linear value of a white surface directly below a light of strength 1",
    )  # fmt: skip
    tint: TintSpec = TintSpec()
    mirrors: float | None = Field(
        default=None, gt=0, le=1,
        description="reflectance at normal incidence, from highlights; null: 0.04 assumed",
    )  # fmt: skip
    grey: GrayCardSpec | None = Field(
        default=None, description="source of white level and tint, if any"
    )
    paper: _Sha256 | None = Field(
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
        if len({one.source for one in self.shots}) < len(self.shots):
            raise ValueError("the same picture was given twice. Remove one of them")
        return self

    @property
    def used(self) -> tuple[CaptureSpec, ...]:
        """The pictures that are measured from."""
        return tuple(one for one in self.shots if one.used)

    @property
    def light(self) -> tuple[float, float, float]:
        """Linear value of a white surface straight below a light of strength 1, red, green and
        blue.
        """
        tint = self.tint
        return self.white * tint.red, self.white * tint.green, self.white * tint.blue

    @property
    def all_remarks(self) -> tuple[str, ...]:
        """Messages about the pictures and their lights."""
        return self.remarks + self.light_remarks

    def sources(self) -> set[str]:
        """SHA-256 of every picture, those that are left out and the paper's too."""
        return {one.source for one in self.shots} | ({self.paper} if self.paper else set())

    def content(self) -> dict[str, Any]:
        """All inputs of the measurement except the size."""
        whole = self.model_copy(update={"shots": self.used})
        held = whole.model_dump(mode="json", exclude={"remarks", "light_remarks", "grey"})
        for one in held["shots"]:
            del one["told"], one["used"]
        return held
