"""What windows show of a map: its codes by hand."""

from __future__ import annotations

import numpy as np

from copper_sieve.core.image.map_kind import Meaning
from copper_sieve.core.image.raster import Raster
from copper_sieve.services.display import displayed


def shown(values: list[float], meaning: Meaning) -> tuple[list[int], tuple[str, ...]]:
    picture = displayed(Raster(np.array([[values]], dtype=np.float32), meaning))
    return picture.codes[0, 0].tolist(), picture.channels


def test_each_meaning_has_its_codes_and_channels() -> None:
    assert shown([0.25], Meaning.DATA) == ([64], ("Y",))
    assert shown([0.21586, 1.5, -1.0], Meaning.COLOR) == ([128, 255, 0], ("R", "G", "B"))
    assert shown([0.0, -1.0, 1.0], Meaning.NORMAL) == ([128, 0, 255], ("R", "G", "B"))
