"""Imported normal maps: transfer curve, channel order, green direction, vector lengths."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import permutations

import numpy as np

from copper_sieve.core.detection.normal_direction import (
    Direction,
    Loss,
    measure_normal_direction,
)
from copper_sieve.core.image.encoding import Curve, dequantize, without_curve
from copper_sieve.core.image.map_kind import NormalY
from copper_sieve.core.image.raster import Float, Picture
from copper_sieve.core.models.finding import Rule, Weight
from copper_sieve.core.models.texture_set import Imported

_SIDE = 2048  # texels of the middle that are looked at
_STEP = 1 / 255  # after undoing a curve, values are no longer on integer codes
_SURE = 0.8
_FLAT = 0.004  # deviation of a component below which there is no relief
# Half of a normal map faces straight up but for its tilt, so its x and y have their median at 0.5;
# the sRGB curve takes that to 0.735, or to 0.214 the other way.
_CENTER = 0.1
_ENCODED, _DECODED = (0.66, 0.80), (0.15, 0.29)
_FACING = 0.6  # least median of z as stored: 78 degrees of tilt
_UNIT = 0.06  # mean deviation from unit length of vectors as files hold them
_GAINED = 0.3  # of coherence, from which on another order is the right one
_OFF = 0.02
_FAR_OFF = 0.06


@dataclass(frozen=True, slots=True)
class NormalStatistics:
    """Problems of one picture; `better` is the correct interpretation, None if there is none."""

    rule: Rule
    weight: Weight
    text: str
    evidence: str
    better: Imported | None = None
    does: str = ""


def check_normals(picture: Picture, imported: Imported, loss: Loss) -> list[NormalStatistics]:
    """Return the problems of how a normal map is read, most severe first.

    Findings that follow from another one are omitted: a wrong transfer curve also causes vectors
    not of unit length.
    """
    values = {name: _values(picture, name, imported.curve) for name in picture.channels}
    letters = imported.channels
    if any(one not in values for one in letters):
        return []  # the channel order already states it
    if curve := _mistaken_curve(values, letters):
        return [_curved(imported, curve, values, letters)]
    orders = _orders(values, letters)
    if all(values[one].std() < _FLAT for one in letters[:2]) and letters in orders:
        return []
    directions = {one: _direction(values, one, picture, loss) for one in orders}
    best = _best(orders, directions, letters)
    if best is not None and best != letters:
        return [_other_order(imported, letters, best, values, directions)]
    direction = directions.get(letters) or _direction(values, letters, picture, loss)
    return [*_about_green(imported, direction), *_about_length(imported, values, letters)]


def _values(picture: Picture, name: str, curve: Curve) -> Float:
    codes = picture.channel(name)
    rows, columns = codes.shape
    top, left = max(0, (rows - _SIDE) // 2), max(0, (columns - _SIDE) // 2)
    return without_curve(dequantize(codes[top : top + _SIDE, left : left + _SIDE]), curve)


def _mistaken_curve(values: dict[str, Float], letters: str) -> Curve | None:
    x, y = (float(np.median(values[one])) for one in letters[:2])
    cases: tuple[tuple[Curve, tuple[float, float]], ...] = (
        ("encoded", _ENCODED), ("decoded", _DECODED)
    )  # fmt: skip
    for curve, (low, high) in cases:
        if not (low <= x <= high and low <= y <= high):
            continue
        undone = {one: without_curve(values[one], curve) for one in letters}
        before, after = _length_error(values, letters), _length_error(undone, letters)
        if len(letters) == 2 or after < 0.7 * before:
            return curve
    return None


def _curved(
    imported: Imported, curve: Curve, values: dict[str, Float], letters: str
) -> NormalStatistics:
    x, y = (float(np.median(values[one])) for one in letters[:2])
    what = "lighter" if curve == "encoded" else "darker"
    return NormalStatistics(
        "transfer_curve", "error",
        f"the normal map was changed by the sRGB curve and became {what}; all normals lean "
            "to one side",
        f"the median is ({x:.2f}, {y:.2f}) instead of (0.50, 0.50) for straight up; the sRGB "
            f"curve changes 0.50 to {0.735 if curve == 'encoded' else 0.214:.2f}",
        imported.model_copy(update={"curve": curve}),
        "Undo the sRGB curve",
    )  # fmt: skip


def _orders(values: dict[str, Float], letters: str) -> list[str]:
    """Return the channel orders whose vectors are unit length and face the viewer, the current one
    first.

    Two letters stand for x and y only: alpha and green, as in some compressed files.
    """
    colors = [one for one in "RGB" if one in values]
    orders = ["".join(one) for one in permutations(colors, 3)] if len(colors) == 3 else []
    if "A" in values and len(colors) == 3:
        orders.append("AG")
    likely = [one for one in orders if _are_normals(values, one)]
    if letters not in likely and _are_normals(values, letters):
        likely.append(letters)
    return sorted(likely, key=lambda one: one != letters)


def _are_normals(values: dict[str, Float], letters: str) -> bool:
    medians = [float(np.median(values[one])) for one in letters]
    if any(abs(one - 0.5) > _CENTER for one in medians[:2]):
        return False
    x, y = (values[one] * 2 - 1 for one in letters[:2])
    if len(letters) == 2:
        # If the third channel is constant, any two channels would fit.
        others = [one for one in "RB" if one in values and one not in letters]
        inside = float((x * x + y * y <= 1.02).mean()) > 0.99
        varies = min(float(values[one].std()) for one in letters) > _FLAT
        return inside and varies and all(values[one].std() < _FLAT for one in others)
    return medians[2] > _FACING and _length_error(values, letters) < _UNIT


def _length_error(values: dict[str, Float], letters: str) -> float:
    if len(letters) == 2:
        return 0.0
    square = sum((values[one] * 2 - 1) ** 2 for one in letters)
    return float(np.abs(np.sqrt(square) - 1).mean())


def _direction(values: dict[str, Float], letters: str, picture: Picture, loss: Loss) -> Direction:
    x, y = (np.ascontiguousarray(values[one]) for one in letters[:2])
    z = np.ascontiguousarray(values[letters[2]]) if len(letters) == 3 else None
    whole = picture.codes.dtype.kind == "u"
    step = 1 / np.iinfo(picture.codes.dtype).max if whole else _STEP
    return measure_normal_direction(x, y, z, code_step=step, loss=loss)


def _best(orders: list[str], directions: dict[str, Direction], letters: str) -> str | None:
    """Return the best channel order: the current one, unless another is far more consistent."""
    if not orders:
        return None
    best = max(orders, key=lambda one: _coherence(directions[one]))
    if letters not in orders or best == letters:
        return best
    gained = _coherence(directions[best]) - _coherence(directions[letters])
    only = not _is_sure(directions[letters]) and gained > 0
    return best if _is_sure(directions[best]) and (only or gained > _GAINED) else letters


def _coherence(direction: Direction) -> float:
    """Return how consistent two slopes are as those of one relief, in its middle octaves, [0, 1].

    Swapped slopes reach a third of it if the relief is isotropic.
    """
    middle = direction.octaves[1:4] or direction.octaves
    return sum(abs(one.agreement) for one in middle) / len(middle) if middle else 0.0


def _is_sure(direction: Direction) -> bool:
    return direction.y in set(NormalY) and direction.confidence >= _SURE


def _other_order(
    imported: Imported, letters: str, best: str, values: dict[str, Float],
    directions: dict[str, Direction],
) -> NormalStatistics:  # fmt: skip
    direction = directions[best]
    y = NormalY(direction.y) if _is_sure(direction) else imported.normal_y
    better = imported.model_copy(update={"channels": best, "normal_y": y})
    if letters in directions and set(best) == set(letters) and best[2:] == letters[2:]:
        return NormalStatistics(
            "swapped_channels", "error",
            "red and green are swapped; the relief appears lit from the wrong side",
            f"consistency of the slopes: {_coherence(directions[letters]):.2f} as "
                f"{', '.join(letters)}, {_coherence(direction):.2f} as {', '.join(best)} "
                "(maximum 1)",
            better, f"Read x from {best[0]}, y from {best[1]}",
        )  # fmt: skip
    z = values[letters[-1]]
    guess = "" if _is_sure(direction) or "A" in best else "; which of the two is x is an assumption"
    return NormalStatistics(
        "channel_order", "error",
        f"x and y are in the channels {best[0]} and {best[1]}"
        + (f", its z in {best[2]}" if len(best) == 3 else ", z is missing"),
        f"the median of {letters[-1]} is {float(np.median(z)):.2f}, but z must be above "
            f"{_FACING:g} on visible surfaces{guess}",
        better, f"Read the channels as {', '.join(best)}",
    )  # fmt: skip


def _about_green(imported: Imported, direction: Direction) -> list[NormalStatistics]:
    if direction.y == "mixed":
        return [NormalStatistics(
            "mixed_green", "warning",
            "green has both directions in one file; part of the relief appears lit from the "
                "wrong side",
            f"{direction.reason}. No setting fixes this: export the normal map again, or "
                "derive it",
        )]  # fmt: skip
    if not _is_sure(direction) or direction.y == imported.normal_y:
        return []
    other = NormalY(direction.y)
    return [NormalStatistics(
        "green_direction", "error",
        f"green is read as {NormalY(imported.normal_y).label}, but the relief "
            "indicates the opposite: bumps look like dents along one axis",
        f"{direction.reason} ({direction.confidence:.2f})",
        imported.model_copy(update={"normal_y": other}), "Read green as "
                                                         f"{NormalY(other).label}",
    )]  # fmt: skip


def _about_length(
    imported: Imported, values: dict[str, Float], letters: str
) -> list[NormalStatistics]:
    error = _length_error(values, letters)
    if error <= _OFF:
        return []
    x, y = (values[one] * 2 - 1 for one in letters[:2])
    fits = float((x * x + y * y <= 1.0).mean()) > 0.995
    return [NormalStatistics(
        "vector_length", "warning" if error > _FAR_OFF else "info",
        "the vectors aren't of unit length; they are normalized on import",
        f"{error:.1%} off on average"
        + ("; x and y stay within the unit circle" if fits else "; x and y leave the unit circle"),
        imported.model_copy(update={"channels": letters[:2]}) if fits else None,
        f"Compute z from {letters[0]} and {letters[1]}",
    )]  # fmt: skip
