"""Stored facts about an imported picture: of its file, and measurements."""

from __future__ import annotations

from typing import Any

from pydantic import ConfigDict, Field

from copper_sieve.core.image.wrap import WrapSpec
from copper_sieve.core.models.base import Model


class TilingFacts(Model):
    """Tiling of a picture; see `detection.tiling.Tiling`.

    wrap : tiling directions; across, down : visibility of each seam, 1 is invisible; text :
    description
    """

    wrap: WrapSpec
    across: float
    down: float
    text: str


class LightFacts(Model):
    """Light direction in a picture; see `detection.light.LightEstimate`.

    azimuth : degrees modulo 180 (0 is right or left, 90 top or bottom)
    strength : 0 is even light, 1 is strongly directional
    """

    azimuth: float
    strength: float
    lit: bool


class FileFacts(Model):
    """Facts about a picture file; `tiling` and `light` once they were measured.

    bytes : file size; floating : floating-point codes
    cut_out : its alpha isn't constant; False until analyzed
    """

    model_config = ConfigDict(frozen=True, extra="ignore", populate_by_name=True)

    file_name: str
    format: str
    width: int
    height: int
    channels: tuple[str, ...]
    bit_depth: int
    floating: bool = Field(alias="float")
    encoding: str
    encoding_source: str
    bytes: int
    cut_out: bool = False
    tiling: TilingFacts | None = None
    light: LightFacts | None = None

    def row(self) -> dict[str, Any]:
        """Return the facts as JSON-compatible data."""
        return self.model_dump(mode="json", by_alias=True, exclude_none=True)
