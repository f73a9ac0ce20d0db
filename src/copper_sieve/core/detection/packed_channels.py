"""Guess the map in each channel of a packed picture from its values."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import permutations

from copper_sieve.core.detection.content import ChannelStatistics, Content
from copper_sieve.core.image.map_kind import MapKind

_O, _R, _M = MapKind.AMBIENT_OCCLUSION, MapKind.ROUGHNESS, MapKind.METALLIC


@dataclass(frozen=True, slots=True)
class ChannelGuess:
    """Content of one channel; kind None if unused."""

    name: str
    kind: MapKind | None
    confidence: float
    reason: str


def guess_channels(content: Content) -> tuple[ChannelGuess, ...]:
    """Guess the maps in the channels of a packed picture; empty for fewer than three channels.

    Occlusion is mostly white with dark areas, metallic almost only black or white, roughness in
    between. The best order is returned; its lead over the next one is the confidence.
    """
    colors = [one for one in content.channels if one.name in "RGB"]
    if len(colors) < 3:
        return ()
    orders = sorted(
        permutations((_O, _R, _M)),
        key=lambda order: -sum(_fit(kind, one) for kind, one in zip(order, colors, strict=True)),
    )
    best, second = (
        sum(_fit(kind, one) for kind, one in zip(order, colors, strict=True))
        for order in orders[:2]
    )
    confidence = round(min(0.7, 0.3 + 0.5 * (best - second)), 3)
    found = [
        ChannelGuess(one.name, kind, confidence, _why(kind, one))
        for kind, one in zip(orders[0], colors, strict=True)
    ]
    if alpha := content.channel("A"):
        if alpha.constant:
            found.append(ChannelGuess("A", None, 0.9, "it has a single value"))
        elif alpha.binary:
            found.append(
                ChannelGuess("A", MapKind.OPACITY, 0.6, "it contains only black and white")
            )
        else:
            found.append(ChannelGuess("A", MapKind.HEIGHT, 0.3, "it is grayscale"))
    return tuple(found)


def _fit(kind: MapKind, one: ChannelStatistics) -> float:
    if kind is _M:
        return one.ends if not (one.constant and one.mean > 0.5) else 0.6
    if kind is _O:
        if one.constant:
            return 0.6 if one.mean > 0.9 else 0.0
        return min(max((one.median - 0.5) * 2, 0.0), 1.0) * (1.0 if one.mean <= one.median else 0.7)
    return (1 - one.ends) * (0.4 if one.constant else 1.0)


def _why(kind: MapKind, one: ChannelStatistics) -> str:
    if kind is _M:
        return f"{one.ends:.0%} of it is black or white"
    if kind is _O:
        return f"mostly white (median {one.median:.2f}) with darker areas"
    return f"mid-range (median {one.median:.2f})"
