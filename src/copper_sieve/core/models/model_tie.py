"""Link of a texture set to a model: file, material, UV set."""

from __future__ import annotations

from typing import Any, ClassVar

from pydantic import Field

from copper_sieve.core.models.base import Model

_SHA256 = "^[0-9a-f]{64}$"


class ModelLink(Model):
    """A linked model; baked maps depend on all of these fields."""

    former_names: ClassVar = {
        "detailed": "high_poly", "by_name": "match_by_name", "same_uvs": "match_by_uvs",
    }  # fmt: skip

    source: str = Field(pattern=_SHA256, description="SHA-256 of the model file")
    material: str | None = Field(
        default=None, max_length=1000,
        description="material whose UV islands the set covers; null: the whole model",
    )  # fmt: skip
    uv_set: int = Field(default=0, ge=0, le=7)
    high_poly: str | None = Field(
        default=None, pattern=_SHA256, description="SHA-256 of the high-poly model"
    )
    cage: float | None = Field(
        default=None, gt=0, le=1e6,
        description="distance in meters from the low-poly model at which rays start; null: "
                    "measured",
    )  # fmt: skip
    match_by_name: bool = Field(
        default=False, description="only parts of both models that have the same name are matched"
    )
    match_by_uvs: bool = Field(
        default=False,
        description="the high-poly model is a subdivision: match by UVs, not rays",
    )

    def sources(self) -> set[str]:
        """Return the SHA-256 of every model file."""
        return {self.source} | ({self.high_poly} if self.high_poly else set())

    def content(self) -> dict[str, Any]:
        """Return all inputs of maps that are baked from the model."""
        held = self.model_dump(mode="json")
        if (
            not self.match_by_uvs
        ):  # default before the field existed, so that computed maps stay valid
            del held["match_by_uvs"]
        return held
