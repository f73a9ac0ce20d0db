"""Which files are models, and how much one may be."""

from __future__ import annotations

from dataclasses import dataclass

MODEL_ENDINGS = (".glb", ".gltf", ".obj", ".ply", ".stl")


@dataclass(frozen=True, slots=True)
class ModelLimits:
    """How much a model may be.

    max_bytes : of its file; max_triangles : that it may have
    """

    max_bytes: int = 1 << 30
    max_triangles: int = 5_000_000
