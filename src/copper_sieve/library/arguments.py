"""Convert arguments of the library's functions; invalid ones raise errors with a remedy."""

from __future__ import annotations

from collections.abc import Sequence

from pydantic import ValidationError

from copper_sieve.core.errors import ParameterError, PlanError
from copper_sieve.core.image.map_kind import MapKind, NormalY
from copper_sieve.core.models.texture_set import Constant

_ORIGINS = {"color": MapKind.BASE_COLOR}


def kind_of(word: str) -> MapKind:
    """Return the map kind of a name. "color" is the base color.

    Raises
    ------
    PlanError : if there is no such map kind
    """
    try:
        return MapKind(_ORIGINS.get(word, word))
    except ValueError:
        raise PlanError(
            f"there is no map type {word}. Use one of {', '.join(MapKind)}, "
            "or mask_NAME for a mask of your own"
        ) from None


def normal_y_of(word: NormalY | str) -> NormalY:
    """Return the green direction of a name.

    Raises
    ------
    ParameterError : if it is neither "up" nor "down"
    """
    try:
        return NormalY(word)
    except ValueError:
        raise ParameterError(f'normal_y = {word!r} is invalid. Use "up" or "down"') from None


def constant_of(word: str, values: Sequence[float]) -> tuple[MapKind, Constant]:
    """Return the kind of a name, and the definition of a constant map of that kind.

    Raises
    ------
    PlanError : if there is no such map kind
    ParameterError : if the number of values doesn't fit the kind, or a value isn't a finite number
    """
    kind = kind_of(word)
    title, wanted = kind.facts.title, len(kind.facts.components)
    if len(values) != wanted:
        takes = "one number" if wanted == 1 else f"{wanted} numbers"
        raise ParameterError(f"{title}: {len(values)} values are given. Give {takes}")
    try:
        return kind, Constant(value=tuple(values))
    except ValidationError:
        raise ParameterError(f"{title}: {values} isn't valid. Give finite numbers") from None
