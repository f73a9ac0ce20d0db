"""Combine name and values: map kind, confidence and remarks of a picture."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from copper_sieve.core.detection.content import Content, measure_content
from copper_sieve.core.detection.names import NameReading, read_name
from copper_sieve.core.detection.normal_direction import (
    Direction,
    Loss,
    detect_compression,
    measure_normal_direction,
)
from copper_sieve.core.detection.packed_channels import ChannelGuess, guess_channels
from copper_sieve.core.image.map_kind import MapKind, Meaning, NormalY
from copper_sieve.core.image.raster import Codes, Picture

_HALF_STEP = 2.0**-11  # of half floats between 0.5 and 1
_NO_DIRECTION = Direction("unknown", 0.0, "it isn't a tangent-space normal map")
_SURE_OF_NAME = 0.8
_LEAST_SPECULAR = 0.152  # of sRGB codes: 1.6 % of the light, as of water and ice the least
_GREY_KINDS = {k for k in MapKind if k.facts.meaning is Meaning.DATA}


@dataclass(frozen=True, slots=True)
class Recognition:
    """Detected type of a picture, with the reason.

    stem : set name, from the file name
    kind : map kind; None for packed or unknown files
    channels : content of each channel of a packed picture
    normal_y, normal_confidence, normal_reason : "up", "down", "mixed" or "unknown"
    normal_leaning : of mixed ones, the direction of the larger part, "up" or "down", if known
    flat : all normals have the same direction, so green doesn't matter
    two_channels : normals without z
    mark : words of the name that state the map kind
    remarks : sentences for the user
    """

    stem: str
    kind: MapKind | None
    confidence: float
    reason: str
    channels: tuple[ChannelGuess, ...] = ()
    normal_y: str = "unknown"
    normal_confidence: float = 0.0
    normal_reason: str = _NO_DIRECTION.reason
    normal_leaning: str = ""
    flat: bool = False
    two_channels: bool = False
    mark: str = ""
    tile: int | None = None
    remarks: tuple[str, ...] = ()

    @property
    def map(self) -> str | None:
        """The kind, "packed", or None where it is not known."""
        return "packed" if self.channels else self.kind


@dataclass(slots=True)
class _Judgement:
    kind: MapKind | None
    confidence: float
    reason: str
    channels: tuple[ChannelGuess, ...] = ()
    remarks: list[str] = field(default_factory=list)


def recognize_picture(stem: str, picture: Picture, *, loss: Loss) -> Recognition:
    """Detect the map kind of a picture from its file name and its values.

    Parameters
    ----------
    stem : file name without extension
    picture : codes
    loss : compression loss of the file format, if known; otherwise traces are detected

    Returns
    -------
    Recognition
    """
    reading, content = read_name(stem), measure_content(picture)
    given = loss
    loss = detect_compression(loss, content)
    found = _judge(reading, content, picture)
    direction = _NO_DIRECTION
    if found.kind is MapKind.NORMAL and "B" in picture.channels:
        # Also if the vectors are far off unit length: the name may still be right.
        direction = _direction(reading, content, picture, loss, found.remarks)
        found.remarks += _about_vectors(content)
    if content.blocky and content.vectors == "tangent":
        found.remarks.append(
            "its values show the 8-pixel block pattern of lossy compression"
            + ("; it may have been saved with lossy compression before" if given == "none" else "")
        )
    found.remarks += _about_channels(found, content)
    return Recognition(
        stem=reading.stem,
        kind=found.kind,
        confidence=round(found.confidence, 3),
        reason=found.reason,
        channels=found.channels,
        normal_y=direction.y,
        normal_confidence=direction.confidence,
        normal_reason=direction.reason,
        normal_leaning=direction.leaning,
        flat=content.flat,
        two_channels=content.vectors == "two_channels",
        mark=reading.mark,
        tile=reading.tile,
        remarks=tuple(found.remarks),
    )


def _judge(reading: NameReading, content: Content, picture: Picture) -> _Judgement:
    if content.vectors == "object":
        return _Judgement(
            None, 0.85, "its vectors point in all directions, as in object-space normal maps",
            remarks=["object-space normals only fit their own mesh. They can't be used as "
                "tangent-space normals and are skipped"],
        )  # fmt: skip
    if content.vectors != "none":
        return _judge_vectors(reading, content)
    if reading.packed is not None:
        return _judge_packed(reading, content)
    if reading.kind is None:
        return _judge_values(content)
    if reading.kind is MapKind.NORMAL:
        return _Judgement(
            MapKind.NORMAL, 0.3, f"{reading.reason}, but its values aren't unit vectors",
            remarks=["its values aren't tangent-space normals. Check the map type"],
        )  # fmt: skip
    if reading.kind in _GREY_KINDS and not content.equal and content.colored > 0.02:
        if content.correlation < 0.5:
            guess = guess_channels(content)
            return _Judgement(
                None,
                0.55,
                f"{reading.reason}, but its channels differ, which indicates a packed file",
                guess,
            )
        if reading.confidence < _SURE_OF_NAME:
            return _Judgement(
                MapKind.BASE_COLOR, 0.6,
                f"it is in color, so {reading.mark} probably describes the subject, not the "
                    "map type",
            )  # fmt: skip
        return _Judgement(
            reading.kind, 0.6, f"{reading.reason}, but it is in color",
            remarks=["it is in color; only its luminance is used"],
        )  # fmt: skip
    confidence = reading.confidence
    # A short or everyday word is believed where the values are of that sort.
    if confidence < _SURE_OF_NAME and len(reading.mark) > 1:
        fitting = content.equal if reading.kind in _GREY_KINDS else not content.equal
        confidence = 0.85 if fitting else confidence
    if reading.kind is MapKind.OPACITY and not content.channels[0].binary:
        confidence = min(confidence, 0.75)
    if reading.kind is MapKind.SPECULAR_COLOR and content.equal:
        return _Judgement(
            MapKind.SPECULAR_LEVEL, confidence * 0.9, f"{reading.reason}, and it is grayscale"
        )
    return _Judgement(reading.kind, confidence, reading.reason)


def _judge_vectors(reading: NameReading, content: Content) -> _Judgement:
    reason = "its values are unit vectors close to straight up"
    if content.vectors == "two_channels":
        reason = "red and green fit in the unit circle and blue is constant"
    named = reading.kind in (MapKind.NORMAL, MapKind.BENT_NORMAL)
    if named:
        return _Judgement(
            reading.kind, max(reading.confidence, 0.97), f"{reading.reason}; {reason}"
        )
    sure = 0.9 if content.vectors == "tangent" else 0.6
    if reading.kind is None and reading.packed is None:
        return _Judgement(MapKind.NORMAL, sure, reason)
    if reading.confidence < _SURE_OF_NAME or content.vectors == "tangent":
        return _Judgement(
            MapKind.NORMAL, 0.75 * sure, reason,
            remarks=[f"its name indicates something else ({reading.mark or 'packed'}). Check "
                     "the map type"],
        )  # fmt: skip
    if reading.packed is not None:
        return _judge_packed(reading, content)
    return _Judgement(reading.kind, 0.6, reading.reason)


def _judge_packed(reading: NameReading, content: Content) -> _Judgement:
    by_values = guess_channels(content)
    names = [one.name for one in content.channels]
    if len(names) < 3 or content.equal:
        kind = next((one for one in reading.packed or () if one), None)
        return _Judgement(
            kind, 0.35, f"{reading.reason}, but all its channels are identical",
            remarks=["all its channels contain the same grayscale picture. Check whether another "
                "file is the packed one"],
        )  # fmt: skip
    if not reading.packed:
        return _Judgement(None, 0.5, f"{reading.reason}; the order is a guess", by_values)
    named = tuple(
        ChannelGuess(
            name,
            reading.packed[n] if n < len(reading.packed) else None,
            reading.confidence if n < len(reading.packed) else 0.6,
            f"{reading.reason}" if n < len(reading.packed) else "its name doesn't mention it",
        )
        for n, name in enumerate(names)
    )
    if len(names) == 4 and len(reading.packed) == 3:
        named = (*named[:3], by_values[3])
    return _Judgement(None, reading.confidence, reading.reason, named)


def _judge_values(content: Content) -> _Judgement:
    first = content.channels[0]
    if content.equal:
        if first.constant:
            return _Judgement(
                None, 0.2, "its name doesn't identify the map, and it has a single value"
            )
        if first.binary:
            return _Judgement(MapKind.OPACITY, 0.45, "it contains only black and white")
        if first.median > 0.85 and first.low < 0.6:
            return _Judgement(
                MapKind.AMBIENT_OCCLUSION, 0.4, "it is grayscale, mostly white with dark areas"
            )
        return _Judgement(
            MapKind.HEIGHT, 0.35, "it is grayscale; its name doesn't identify the map"
        )
    if content.correlation < 0.35 and content.colored > 0.08:
        return _Judgement(
            None, 0.4, "its channels are unrelated, which indicates a packed file",
            guess_channels(content),
        )  # fmt: skip
    return _Judgement(MapKind.BASE_COLOR, 0.75, "it is in color; its name doesn't identify the map")


def _direction(
    reading: NameReading, content: Content, picture: Picture, loss: Loss, remarks: list[str]
) -> Direction:
    if content.flat:
        found = Direction("unknown", 0.0, "it is flat, which fits both directions")
    else:
        x, y, z = (_plane(picture, name) for name in "RGB")
        kept = content.vectors != "two_channels"
        step = 1 / np.iinfo(x.dtype).max if x.dtype.kind == "u" else _HALF_STEP
        found = measure_normal_direction(x, y, z if kept else None, code_step=step, loss=loss)
    stated = reading.normal_y
    if stated is None or found.y == stated:
        return found
    if found.y in ("unknown", "mixed"):
        return Direction(
            stated,
            0.6,
            f"its name states {NormalY(stated).label}; {found.reason}",
            found.octaves,
        )
    if found.y != stated:
        remarks.append(
            f"its name states {NormalY(stated).label}, but its slopes are only "
            f"consistent with {NormalY(found.y).label}"
        )
    return found


def _plane(picture: Picture, name: str) -> Codes:
    return np.ascontiguousarray(picture.channel(name))


def _about_vectors(content: Content) -> list[str]:
    remarks = []
    if content.vectors == "two_channels":
        remarks.append("only two channels; z is computed from them")
    elif content.length_error > 0.02:
        remarks.append(
            f"its vectors are {content.length_error:.0%} off unit length on average; they are "
            "normalized"
        )
    if content.vectors == "tangent" and content.below > 0.0005:
        remarks.append(f"{content.below:.1%} of its vectors point below the surface")
    if content.flat:
        remarks.append("it is flat everywhere; a constant has the same effect")
    return remarks


def _about_channels(found: _Judgement, content: Content) -> list[str]:
    colors = [one for one in content.channels if one.name != "A"]
    if found.kind is MapKind.SPECULAR_COLOR and max(one.median for one in colors) < _LEAST_SPECULAR:
        return [
            f"half of the area reflects less than {100 * _LEAST_SPECULAR**2.2:.0f} %, less "
            "than almost all surfaces; conversion to metallic/roughness changes it to 4 %"
        ]
    if found.kind in _GREY_KINDS and content.equal and colors[0].constant:
        return [f"it has the single value {colors[0].median:.3g}; a constant has the same effect"]
    if found.kind is MapKind.HEIGHT and not content.flat:
        first = colors[0]
        middle = "0.5" if 0.35 < first.median < 0.65 else "0" if first.low < 0.1 else "undetermined"
        return [
            f"median {first.median:.2f}, {first.low:.2f} to {first.high:.2f}: mid-level {middle}"
        ]
    return []


def likely_green_direction(recognition: Recognition) -> tuple[NormalY, str]:
    """Return the green direction to use, and a description of the guess, or "" if there is none."""
    y, leaning = recognition.normal_y, recognition.normal_leaning
    if y in set(NormalY):
        guess = "" if recognition.normal_confidence >= _SURE_OF_NAME else recognition.normal_reason
        return NormalY(y), guess and f"green is read as {NormalY(y).label}: {guess}"
    if leaning:
        return NormalY(leaning), (
            f"green is read as {NormalY(leaning).label}, like most of the file: "
            f"{recognition.normal_reason}"
        )
    if recognition.flat:
        return NormalY.UP, ""
    return NormalY.UP, (f"green is read as Y+, which is a guess: {recognition.normal_reason}")


def stated_green_direction(recognition: Recognition) -> NormalY | None:
    """Return the detected green direction; None if it is mixed or unknown."""
    return NormalY(recognition.normal_y) if recognition.normal_y in set(NormalY) else None
