"""Repeats a map of a blended set over the surface of the blend."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np

from copper_sieve.core.image.map_kind import Meaning
from copper_sieve.core.image.raster import Float, Raster
from copper_sieve.core.image.resize import resize

_VERSION = 1


@dataclass(frozen=True, slots=True)
class TiledResample:
    """A map repeated across and down, at another size."""

    repeat: int
    down: int

    def content(self) -> dict[str, Any]:
        """Return everything that the result depends on, except input and size."""
        way = {} if self.down == self.repeat else {"down": self.down}
        return {"laid": _VERSION, "repeat": self.repeat, **way}

    def run(self, inputs: Mapping[str, Float], meaning: Meaning, size: tuple[int, int]) -> Float:
        """Return a map repeated to a size, (H, W, C) float32.

        If a side isn't a multiple of the number of repetitions, each copy is slightly larger and
        all are reduced together.
        """
        width, height = size
        each = -(-width // self.repeat), -(-height // self.down)
        one = resize(Raster(inputs["map"], meaning), *each).pixels
        if self.repeat > 1 or self.down > 1:
            one = np.tile(one, (self.down, self.repeat, 1))
        return resize(Raster(np.ascontiguousarray(one), meaning), width, height).pixels
