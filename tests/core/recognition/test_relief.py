"""Relief inside out: told by the height or the occlusion of the same set."""

from __future__ import annotations

import numpy as np
import pytest

from copper_sieve.core.detection.relief import relief_by_height, relief_by_occlusion
from copper_sieve.core.operations import SurfaceContext
from tests.core.operating import run
from tests.core.recognition.maps import FIELDS, normals, relief

SIDE = 256


def _turned(vectors: np.ndarray) -> np.ndarray:
    return vectors * np.array([-1, -1, 1], np.float32)


@pytest.mark.parametrize("kind", FIELDS)
def test_height_tells(kind: str) -> None:
    field = relief(kind, 1, SIDE)
    vectors = normals(field, 0.5, down=False).astype(np.float32)
    height = field.astype(np.float32)
    assert relief_by_height(vectors, height).sense == "upright"
    assert relief_by_height(_turned(vectors), height).sense == "inverted"
    assert relief_by_height(vectors, height[::2, ::2]).sense == "upright"  # any size


@pytest.mark.parametrize("kind", ["bricks", "pebbles", "hammered", "cracks", "stones", "rough"])
def test_occlusion_tells(kind: str) -> None:
    field = relief(kind, 1, SIDE)
    vectors = normals(field, 0.8, down=False).astype(np.float32)
    height = field.astype(np.float32)[:, :, None]
    open_ = run("ambient_occlusion_from_height", height, SurfaceContext.of(1.0, 0.05, wrap=True))[
        :, :, 0
    ]
    assert relief_by_occlusion(vectors, open_).sense == "upright"
    assert relief_by_occlusion(_turned(vectors), open_).sense == "inverted"


def test_a_map_that_knows_nothing_says_nothing() -> None:
    vectors = normals(relief("pebbles", 1, SIDE), 0.5, down=False).astype(np.float32)
    other = np.random.default_rng(1).random((SIDE, SIDE), dtype=np.float32)
    assert relief_by_height(vectors, other).sense == "unknown"
    assert relief_by_occlusion(vectors, np.ones_like(other)).sense == "unknown"
