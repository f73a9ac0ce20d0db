"""Environments that light materials."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from copper_sieve.api.schemas.common import ResponseModel
from copper_sieve.store.environments import StoredEnvironment


class EnvironmentRead(ResponseModel):
    """An environment of a project."""

    id: int
    name: str
    kind: Literal["panorama", "mirror_ball"]
    lamp: list[float] = Field(description="direction of the brightest point: x, y (up), z")
    strength: float = Field(description="its luminance as a multiple of the mean")
    mean: float = Field(description="its mean luminance")
    light: str = Field(description="URL of the environment as Radiance HDR, 1024 x 512")
    thumbnail: str


def read_environment(kept: StoredEnvironment) -> EnvironmentRead:
    """Return the response for one environment."""
    return EnvironmentRead(
        id=kept.id, name=kept.name, kind=kept.kind, lamp=list(kept.lamp), strength=kept.strength,
        mean=kept.mean,
        light=f"/api/v1/environments/{kept.id}/light.hdr?kind={kept.kind}",
        thumbnail=f"/api/v1/sources/{kept.sha256}/thumbnail.png",
    )  # fmt: skip
