"""The lights of a measured set."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, model_validator

from copper_sieve.api.schemas.common import RequestModel, ResponseModel, png_url
from copper_sieve.api.schemas.sets import Draft
from copper_sieve.core.models.light_captures import BallSpec, GrayCardSpec
from copper_sieve.services.light_captures import CaptureComparison


class LightsQuery(RequestModel):
    """Estimate the lights of a set's pictures.

    how : from the ball at its current position; estimated from the pictures alone; or refined from
    the current lights
    elevation : elevation in degrees of lights in a ring, for estimation
    """

    how: Literal["ball", "estimated", "refined"]
    ball: BallSpec | None = None
    elevation: float | None = Field(default=None, ge=5, le=85)
    draft: Draft | None = None

    @model_validator(mode="after")
    def _says_where(self) -> LightsQuery:
        if self.how == "ball" and self.ball is None:
            raise ValueError("ball: give its position")
        return self


class GrayCardQuery(RequestModel):
    """Measure strength and tint of the light from a gray card in the pictures."""

    card: GrayCardSpec
    draft: Draft | None = None


class CaptureComparisonQuery(RequestModel):
    """Compare a picture with the measured surface."""

    source: str = Field(pattern="^[0-9a-f]{64}$")
    draft: Draft | None = None


class CaptureComparisonRead(ResponseModel):
    """A picture and the measured surface under the same light, as data URLs.

    difference : white is 10 ΔE2000; delta_e : mean; shaded : share of the picture that is
    overexposed or in cast shadow and therefore not compared
    """

    photo: str
    ours: str
    difference: str
    delta_e: float
    shaded: float


def read_capture_comparison(found: CaptureComparison) -> CaptureComparisonRead:
    """Return the response for one picture."""
    return CaptureComparisonRead(
        photo=png_url(found.photo), ours=png_url(found.ours), difference=png_url(found.difference),
        delta_e=round(found.delta_e, 2), shaded=round(found.shaded, 4),
    )  # fmt: skip
