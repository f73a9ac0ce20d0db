"""Sets whose maps are measured from light captures of one surface."""

from __future__ import annotations

import math
import re
from collections.abc import Sequence

from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.models.light_captures import BallSpec, CapturesSpec
from copper_sieve.core.models.naming import slug
from copper_sieve.core.models.preparation import Mark, Preparation
from copper_sieve.core.models.texture_set import Derived, SetDefinition, SurfaceSpec, compose

_MEASURED = (MapKind.BASE_COLOR, MapKind.NORMAL, MapKind.ROUGHNESS, MapKind.UNCERTAINTY)
_TELLING = 3  # letters that names have in common
_EVERYWHERE = {"img", "dsc", "image", "photo", "picture", "scan", "shot"}  # identifies no map
_CORNERS = 32  # of the outline of a ball
_WIDER = 1.25  # its shadow surrounds it


def compose_measured(
    name: str, captures: CapturesSpec, size: tuple[int, int], surface: SurfaceSpec | None = None
) -> SetDefinition:
    """Return a complete set of measured maps and maps derived from them.

    Parameters
    ----------
    name : of the set
    captures : the light captures; their ball is filled from its neighborhood
    size : width and height of the pictures in texels
    surface : None: default

    Returns
    -------
    SetDefinition
    """
    measured = {kind: Derived(operation=f"{kind.value}_from_captures") for kind in _MEASURED}
    made = compose(name, measured, surface)
    marks = (_around(captures.ball, size),) if captures.ball else ()
    return made.model_copy(update={"captures": captures, "prepare": Preparation(marks=marks)})


def _around(ball: BallSpec, size: tuple[int, int]) -> Mark:
    """Return the area that a ball covers, as fractions of width and height."""
    width, height = size
    reach = ball.radius * _WIDER
    turns = [2 * math.pi * n / _CORNERS for n in range(_CORNERS)]
    places = [(ball.x + reach * math.cos(t), (ball.y + reach * math.sin(t)) * width / height)
              for t in turns]  # fmt: skip
    x, y = ([min(max(one, 0.0), 1.0) for one in each] for each in zip(*places, strict=True))
    return Mark(outline=tuple(zip(x, y, strict=True)))


def name_of(stems: Sequence[str], folder: str = "") -> str:
    """Return a name for numbered pictures: what their names share, or else their folder's name."""
    first, last = min(stems), max(stems)
    same = next((n for n, pair in enumerate(zip(first, last, strict=False)) if len({*pair}) > 1),
                min(len(first), len(last)))  # fmt: skip
    shared = re.sub(r"[\d\W_]+$", "", first[:same])
    if len(shared) < _TELLING or shared.lower() in _EVERYWHERE:
        shared = folder or shared or "surface"
    return slug(shared)
