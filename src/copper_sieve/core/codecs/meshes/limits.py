"""Model file formats and size limits."""

from __future__ import annotations

from dataclasses import dataclass

MODEL_ENDINGS = (".glb", ".gltf", ".obj", ".ply", ".stl")


@dataclass(frozen=True, slots=True)
class ModelLimits:
    """Limits of a model.

    max_bytes : of the file
    max_triangles : of the model
    """

    max_bytes: int = 1 << 30
    max_triangles: int = 5_000_000
