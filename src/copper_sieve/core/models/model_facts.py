"""Stored facts about a model file."""

from __future__ import annotations

from pydantic import Field

from copper_sieve.core.mesh.mesh import Mesh
from copper_sieve.core.models.base import Model

_MOST_NAMES = 1000


class MaterialFacts(Model):
    """One material of a model."""

    name: str
    triangles: int


class ModelFacts(Model):
    """A model file.

    uv_sets : number; extent : longest side of its bounds in meters
    tangents, colors : whether the file contains tangents and vertex colors
    """

    triangles: int
    uv_sets: int
    extent: float
    materials: tuple[MaterialFacts, ...]
    parts: tuple[str, ...]
    tangents: bool
    colors: bool
    remarks: tuple[str, ...] = Field(default=(), description="skipped or assumed content")

    @classmethod
    def of(cls, mesh: Mesh) -> ModelFacts:
        """Return the facts of a mesh, with at most a thousand names."""
        counts = {name: int(mesh.is_of(name).sum()) for name in mesh.material_names[:_MOST_NAMES]}
        return cls(
            triangles=mesh.count,
            uv_sets=len(mesh.uvs),
            extent=round(mesh.extent, 6),
            materials=tuple(
                MaterialFacts(name=name, triangles=count) for name, count in counts.items() if count
            ),
            parts=mesh.part_names[:_MOST_NAMES],
            tangents=mesh.tangents is not None,
            colors=mesh.colors is not None,
            remarks=mesh.remarks,
        )
