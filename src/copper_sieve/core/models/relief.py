"""The relief of a surface where nothing determines it: mean slope in degrees, with presets."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

RELIEF = 6.0  # degrees of mean slope: between low and medium
RELIEFS = {"low": 4.0, "medium": 9.0, "high": 18.0, "very high": 28.0}
OLD_RELIEFS = {"gentle": "low", "worked": "medium", "rough": "high", "deep": "very high"}
STEEPEST_RELIEF = 60.0
Relief = Annotated[float, Field(ge=0, le=STEEPEST_RELIEF)]
