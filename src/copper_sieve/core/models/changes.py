"""Changes of the stored values of one channel when a file is written; plain JSON.

Stored values are in [0, 1]: colors as encoded in the file, normals as (n + 1) / 2, data unchanged.
Changes keep this range.
"""

from __future__ import annotations

from typing import Annotated, Any, Literal

import numpy as np
from pydantic import BeforeValidator, Field, model_validator

from copper_sieve.core.image.raster import Float
from copper_sieve.core.models.base import Model, list_of

Share = Annotated[float, Field(ge=0, le=1)]
Pair = Annotated[tuple[Share, Share], list_of({"type": "number", "minimum": 0, "maximum": 1}, 2)]


class Invert(Model):
    """1 - v; as the last change it is exact on codes."""

    do: Literal["invert"] = "invert"

    def apply(self, values: Float) -> Float:
        """Apply to (H, W) float32, [0, 1]."""
        return np.float32(1) - values

    def words(self) -> str:
        """Describe the change for users."""
        return "inverted"


class Range(Model):
    """Maps one range of values linearly to another; other values are clamped."""

    do: Literal["range"] = "range"
    of: Pair = (0.0, 1.0)
    to: Pair = (0.0, 1.0)

    @model_validator(mode="after")
    def _is_a_range(self) -> Range:
        if self.of[0] >= self.of[1]:
            raise ValueError("the start of a range must be below its end")
        return self

    def apply(self, values: Float) -> Float:
        """Apply to (H, W) float32, [0, 1]."""
        (low, high), (first, last) = self.of, self.to
        share = np.clip((values - np.float32(low)) / np.float32(high - low), 0, 1)
        return np.asarray(np.float32(first) + share * np.float32(last - first), dtype=np.float32)

    def words(self) -> str:
        """Describe the change for users."""
        of = "" if self.of == (0, 1) else f"{self.of[0]:.3g}–{self.of[1]:.3g} "
        return f"{of}to {self.to[0]:.3g}–{self.to[1]:.3g}"


class Power(Model):
    """v to the power of an exponent."""

    do: Literal["power"] = "power"
    exponent: float = Field(gt=0, le=16)

    def apply(self, values: Float) -> Float:
        """Apply to (H, W) float32, [0, 1]."""
        return np.asarray(np.maximum(values, 0) ** np.float32(self.exponent), dtype=np.float32)

    def words(self) -> str:
        """Describe the change for users."""
        return f"gamma {self.exponent:g}"


class Threshold(Model):
    """1 from a value on, 0 below."""

    do: Literal["threshold"] = "threshold"
    at: Share

    def apply(self, values: Float) -> Float:
        """Apply to (H, W) float32; the result is 0 or 1."""
        return (values >= np.float32(self.at)).astype(np.float32)

    def words(self) -> str:
        """Describe the change for users."""
        return f"1 from {self.at:g}"


class Clamp(Model):
    """Limits values to a range."""

    do: Literal["clamp"] = "clamp"
    low: Share = 0.0
    high: Share = 1.0

    @model_validator(mode="after")
    def _is_a_range(self) -> Clamp:
        if self.low > self.high:
            raise ValueError("the lower limit is above the upper limit")
        return self

    def apply(self, values: Float) -> Float:
        """Apply to (H, W) float32, [0, 1]."""
        return np.clip(values, np.float32(self.low), np.float32(self.high))

    def words(self) -> str:
        """Describe the change for users."""
        return f"within {self.low:g}–{self.high:g}"


def _named(change: Any) -> Any:
    """Accept a change without settings as its name alone."""
    return {"do": change} if isinstance(change, str) else change


Change = Annotated[
    Annotated[Invert | Range | Power | Threshold | Clamp, Field(discriminator="do")],
    BeforeValidator(_named),
]
