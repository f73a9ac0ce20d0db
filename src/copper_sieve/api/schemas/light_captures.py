"""The lights of a measured set."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, model_validator

from copper_sieve.api.schemas.common import Answer, Request, png_url
from copper_sieve.api.schemas.sets import Draft
from copper_sieve.core.models.light_captures import BallSpec, GreySpec
from copper_sieve.services.light_captures import Look


class LightsAsk(Request):
    """Tell the lamps of a set's pictures anew.

    how : by the ball, where it lies now; guessed from the pictures alone; or fitted to them from
        where lamps are now
    up : of guessed lamps that all stood in a ring: degrees above the surface
    """

    how: Literal["ball", "guess", "fit"]
    ball: BallSpec | None = None
    up: float | None = Field(default=None, ge=5, le=85)
    draft: Draft | None = None

    @model_validator(mode="after")
    def _says_where(self) -> LightsAsk:
        if self.how == "ball" and self.ball is None:
            raise ValueError("ball: give its position")
        return self


class GreyAsk(Request):
    """Tell the strength and the tint of the light by a grey card that the pictures show."""

    card: GreySpec
    draft: Draft | None = None


class ShotLookAsk(Request):
    """Hold a picture against what was measured."""

    source: str = Field(pattern="^[0-9a-f]{64}$")
    draft: Draft | None = None


class ShotLookRead(Answer):
    """A picture beside the measured surface under the same lamp, as data URLs.

    difference : white at 10 ΔE2000; delta_e : its mean; shaded : share of the picture that is
        clipped or in cast shadow, where nothing is compared
    """

    photo: str
    ours: str
    difference: str
    delta_e: float
    shaded: float


def read_look(found: Look) -> ShotLookRead:
    """The answer for one picture."""
    return ShotLookRead(
        photo=png_url(found.photo), ours=png_url(found.ours), difference=png_url(found.difference),
        delta_e=round(found.delta_e, 2), shaded=round(found.shaded, 4),
    )  # fmt: skip
