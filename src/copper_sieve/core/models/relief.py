"""How much relief a surface has where nothing tells: a mean tilt in degrees, or a word for one."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

RELIEF = 6.0  # degrees of mean tilt: between gentle and worked
RELIEFS = {"gentle": 4.0, "worked": 9.0, "rough": 18.0, "deep": 28.0}
STEEPEST_RELIEF = 60.0
Relief = Annotated[float, Field(ge=0, le=STEEPEST_RELIEF)]
