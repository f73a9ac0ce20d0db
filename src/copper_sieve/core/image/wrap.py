"""Directions in which a picture tiles."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, TypeVar

import numpy as np
from numpy.typing import NDArray

WrapSpec = bool | Literal["across", "down"]  # as a definition states it
Number = TypeVar("Number", bound=np.generic)


@dataclass(frozen=True, slots=True)
class Wrap:
    """Tileable directions: left to right (`across`), top to bottom (`down`).

    It is true as a whole only if both are. Operations mirror at the other borders.
    """

    across: bool
    down: bool

    def __bool__(self) -> bool:
        return self.across and self.down

    @property
    def spec(self) -> WrapSpec:
        """As a definition states it."""
        if self.across is self.down:
            return self.across
        return "across" if self.across else "down"


NO_WRAP = Wrap(across=False, down=False)


def as_wrap(stated: Wrap | WrapSpec) -> Wrap:
    """Convert a stated tiling to directions: True means both, False none."""
    if isinstance(stated, Wrap):
        return stated
    if isinstance(stated, bool):
        return Wrap(stated, stated)
    return Wrap(stated == "across", stated == "down")


def pad(
    field: NDArray[Number],
    edge: int,
    wrap: Wrap | WrapSpec,
    beyond: Literal["symmetric", "edge"] = "symmetric",
) -> NDArray[Number]:
    """Pad a field by `edge` texels on all sides.

    Parameters
    ----------
    field : (H, W)
    edge : texels
    wrap : tiling directions, which are padded from the opposite border
    beyond : padding of the other directions: mirrored, or the border value

    Returns
    -------
    (H + 2 edge, W + 2 edge)
    """
    meet = as_wrap(wrap)
    down: Literal["wrap", "symmetric", "edge"] = "wrap" if meet.down else beyond
    across: Literal["wrap", "symmetric", "edge"] = "wrap" if meet.across else beyond
    taller = np.pad(field, ((edge, edge), (0, 0)), mode=down)
    return np.asarray(np.pad(taller, ((0, 0), (edge, edge)), mode=across))
