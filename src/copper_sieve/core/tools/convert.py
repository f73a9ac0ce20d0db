"""Conversion of maps between conventions.

Conversions of codes (a direction, an inversion) are exact and their own inverse; the others compute
in linear light and write the bit depth of the deepest file.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from copper_sieve.core.errors import MissingMapError, ParameterError
from copper_sieve.core.graph.evaluate import picture_to_map
from copper_sieve.core.image.encoding import dequantize, linear_to_srgb, quantize
from copper_sieve.core.image.map_kind import MapKind, Meaning
from copper_sieve.core.image.normals import with_rebuilt_z
from copper_sieve.core.image.raster import Codes, Encoding, Float, Picture
from copper_sieve.core.models.texture_set import Imported
from copper_sieve.core.operations import Parameter, SurfaceContext, get_operation
from copper_sieve.core.operations.reflectance.specular_level import f0_from_ior

OnValues = Callable[[Float, Mapping[str, Any]], Float]
OnCodes = Callable[[Codes], Codes]


@dataclass(frozen=True, slots=True)
class Rule:
    """A conversion: its input and output maps, and how they are computed.

    on_picture : converts a picture, for swapped channels
    on_codes : converts (H, W, C) integer codes at the same depth; otherwise the operations that
        compute the outputs
    on_values : converts (H, W, 1) float32 values as stored, with the parameters
    """

    name: str
    title: str
    takes: tuple[MapKind, ...]
    gives: tuple[MapKind, ...]
    on_codes: OnCodes | None = None
    operations: Mapping[MapKind, str] = field(default_factory=dict)
    on_values: OnValues | None = None
    on_picture: Callable[[Picture], Picture] | None = None
    settings: tuple[Parameter, ...] = ()
    floating: bool = False

    @property
    def parameters(self) -> dict[str, Parameter]:
        """What can be set, by name."""
        found = [*self.settings]
        found += [p for one in self.operations.values() for p in get_operation(one).parameters]
        return {one.name: one for one in reversed(found)}


def _inverted(codes: Codes) -> Codes:
    return np.asarray(np.iinfo(codes.dtype).max - codes, codes.dtype)


def _with_flipped(channel: int) -> OnCodes:
    def flipped(codes: Codes) -> Codes:
        out = codes.copy()
        out[:, :, channel] = np.iinfo(codes.dtype).max - codes[:, :, channel]
        return out

    return flipped


def _rebuilt(codes: Codes) -> Codes:
    """Compute blue from red and green, whose codes are unchanged."""
    out = codes.copy()
    encoded = with_rebuilt_z(np.ascontiguousarray(dequantize(codes)[:, :, :2]))
    out[:, :, 2] = quantize(encoded[:, :, 2], 8 * codes.dtype.itemsize)
    return out


def _without_z(codes: Codes) -> Codes:
    """Keep red and green and clear blue, for files with two relevant channels."""
    out = codes.copy()
    out[:, :, 2] = 0
    return out


def _to_metres(height: Float, settings: Mapping[str, Any]) -> Float:
    return np.asarray((height - settings["mid"]) * settings["depth"], dtype=np.float32)


def _from_metres(displacement: Float, settings: Mapping[str, Any]) -> Float:
    return np.asarray(displacement / settings["depth"] + settings["mid"], dtype=np.float32)


_DISPLACED = (
    Parameter("depth", "Depth", 0.02, "meters between height 0 and 1", low=0.0001, high=100,
              unit="m"),
    Parameter("mid", "Mid-level", 0.5, "height that isn't displaced"),
)  # fmt: skip


def _swizzled(picture: Picture) -> Picture:
    """Move x to alpha and keep y in green, with red and blue at maximum, for block compression."""
    red, green = picture.channel("R"), picture.channel("G")
    full = np.full_like(red, np.iinfo(red.dtype).max)
    return Picture(np.dstack([full, green, full, red]), tuple("RGBA"), Encoding.LINEAR)


def _unswizzled(picture: Picture) -> Picture:
    """Read x from alpha and y from green, and compute z."""
    if "A" not in picture.channels:
        raise ParameterError("swizzled normals have x in alpha, but the file has no alpha")
    green = picture.channel("G")
    codes = np.dstack([picture.channel("A"), green, np.zeros_like(green)])
    return Picture(_rebuilt(codes), tuple("RGB"), Encoding.LINEAR)


_HEIGHT = (MapKind.HEIGHT,)
_NORMAL = (MapKind.NORMAL,)
RULES: dict[str, Rule] = {
    rule.name: rule
    for rule in (
        Rule(
            "metal-rough-to-spec-gloss", "diffuse, specular color and glossiness from a "
                                         "metallic/roughness set",
            (MapKind.BASE_COLOR, MapKind.METALLIC, MapKind.ROUGHNESS),
            (MapKind.DIFFUSE, MapKind.SPECULAR_COLOR, MapKind.GLOSSINESS),
            operations={
                MapKind.DIFFUSE: "diffuse_from_metal_rough",
                MapKind.SPECULAR_COLOR: "specular_color_from_color",
                MapKind.GLOSSINESS: "glossiness_from_roughness",
            },
        ),
        Rule(
            "spec-gloss-to-metal-rough", "base color, metallic and roughness from a "
                                         "specular/glossiness set",
            (MapKind.DIFFUSE, MapKind.SPECULAR_COLOR, MapKind.GLOSSINESS),
            (MapKind.BASE_COLOR, MapKind.METALLIC, MapKind.ROUGHNESS),
            operations={
                MapKind.BASE_COLOR: "base_color_from_spec_gloss",
                MapKind.METALLIC: "metallic_from_spec_gloss",
                MapKind.ROUGHNESS: "roughness_from_glossiness",
            },
        ),
        Rule("gloss-to-rough", "inverted glossiness", (MapKind.GLOSSINESS,),
             (MapKind.ROUGHNESS,), _inverted),
        Rule("rough-to-gloss", "inverted roughness", (MapKind.ROUGHNESS,),
             (MapKind.GLOSSINESS,), _inverted),
        Rule("normal-flip-y", "inverts green, exact on codes", _NORMAL, _NORMAL,
             _with_flipped(1)),
        Rule("normal-flip-x", "inverts red, exact on codes", _NORMAL, _NORMAL,
             _with_flipped(0)),
        Rule("normal-xy-to-xyz", "computes blue from red and green", _NORMAL, _NORMAL, _rebuilt),
        Rule("normal-xyz-to-xy", "keeps red and green, clears blue", _NORMAL, _NORMAL, _without_z),
        Rule("normal-xyz-to-ag", "moves x to alpha, keeps y in green", _NORMAL, _NORMAL,
             on_picture=_swizzled),
        Rule("normal-ag-to-xyz", "reads x from alpha and y from green, "
                                 "computes blue", _NORMAL, _NORMAL,
             on_picture=_unswizzled),
        Rule("height-invert", "inverts the height, exact on codes", _HEIGHT, _HEIGHT, _inverted),
        Rule("height-to-displacement", "meters from the mid-level, floating point", _HEIGHT,
             _HEIGHT, on_values=_to_metres, settings=_DISPLACED, floating=True),
        Rule("displacement-to-height", "0 to 1 from meters", _HEIGHT, _HEIGHT,
             on_values=_from_metres, settings=_DISPLACED),
        Rule("specular-level-to-f0", "F0: specular level × 0.08", (MapKind.SPECULAR_LEVEL,),
             (MapKind.F0,), operations={MapKind.F0: "f0_from_specular_level"}),
        Rule("f0-to-specular-level", "specular level: F0 / 0.08", (MapKind.F0,),
             (MapKind.SPECULAR_LEVEL,),
             operations={MapKind.SPECULAR_LEVEL: "specular_level_from_f0"}),
    )
}  # fmt: skip
# Glossiness and roughness may be missing from a set; the colors convert without them.
_MAY_BE_MISSING = {MapKind.ROUGHNESS, MapKind.GLOSSINESS}


def get_rule(name: str) -> Rule:
    """Return the conversion of a name.

    Raises
    ------
    ParameterError : with the available names
    """
    if name not in RULES:
        raise ParameterError(f"there is no rule {name}. Available: {', '.join(RULES)}")
    return RULES[name]


def convert(
    rule: Rule,
    pictures: Mapping[MapKind, Picture],
    imported: Mapping[MapKind, Imported],
    given: Mapping[str, Any],
) -> dict[MapKind, Picture]:
    """Apply a conversion; return the maps as codes of files.

    Parameters
    ----------
    rule : conversion
    pictures : codes by map kind
    imported : channels and green direction of each map
    given : parameters of the conversion

    Raises
    ------
    MissingMapError, ParameterError
    """
    for kind in rule.takes:
        if kind not in pictures and (len(rule.takes) == 1 or kind not in _MAY_BE_MISSING):
            raise MissingMapError(
                f"{rule.name} requires a {kind} map, but no file name identifies one. Rename "
                f"the file to …_{kind}"
            )
    if "ior" in given and "f0" in rule.parameters:
        others = {name: value for name, value in given.items() if name != "ior"}
        given = {**others, "f0": f0_from_ior(_number("ior", given["ior"]))}
    if unknown := sorted(set(given) - set(rule.parameters)):
        known = ", ".join(rule.parameters) or "no parameters"
        raise ParameterError(f"{rule.name} has no parameter {unknown[0]}. It has {known}")
    kind = rule.takes[0]
    if rule.on_values:
        values = rule.on_values(_values(pictures[kind]), _settled(rule.settings, given))
        if rule.floating:
            return {rule.gives[0]: Picture(values, ("Y",), Encoding.LINEAR)}
        return {rule.gives[0]: Picture(quantize(values, 16), ("Y",), Encoding.LINEAR)}
    if rule.on_picture or rule.on_codes:
        _check_integer(rule, pictures[kind])
    if rule.on_picture:
        return {rule.gives[0]: rule.on_picture(pictures[kind])}
    if rule.on_codes:
        return {rule.gives[0]: _on_codes(rule, pictures[kind], imported[kind])}
    sizes = {picture.size for picture in pictures.values()}
    if len(sizes) > 1:
        listed = ", ".join(f"{k} {p.size[0]} x {p.size[1]}" for k, p in pictures.items())
        raise ParameterError(f"the maps have different sizes ({listed}). Resize them first")
    maps = {k.value: picture_to_map(p, k, imported[k]).pixels for k, p in pictures.items()}
    bits = 16 if any(p.codes.dtype != np.uint8 for p in pictures.values()) else 8
    made = {}
    for kind, name in rule.operations.items():
        operation = get_operation(name)
        if not all(source in maps for source in operation.inputs):
            continue
        names = {one.name for one in operation.parameters}
        settled = operation.resolve({k: v for k, v in given.items() if k in names})
        made[kind] = _picture(kind, operation.compute(maps, settled, SurfaceContext()), bits)
    return _with_alpha(made, pictures)


def _number(name: str, word: Any) -> float:
    try:
        return float(word)
    except ValueError:
        raise ParameterError(f"{name} must be a number, not {word}") from None


def _settled(settings: tuple[Parameter, ...], given: Mapping[str, Any]) -> dict[str, float]:
    found = {}
    for one in settings:
        value = _number(one.name, given.get(one.name, one.default))
        if not one.low <= value <= one.high:
            raise ParameterError(f"{one.name} {value:g} is invalid. Use {one.allowed()}")
        found[one.name] = value
    return found


def _values(picture: Picture) -> Float:
    """Return the first channel as stored, including negative values: (H, W, 1) float32."""
    return dequantize(np.ascontiguousarray(picture.codes[:, :, :1]))


def _check_integer(rule: Rule, picture: Picture) -> None:
    if picture.codes.dtype == np.float32:
        raise ParameterError(
            f"{rule.name} requires integer codes, but the file is floating point. Convert it "
            "to 8 or 16 bits first"
        )


def _on_codes(rule: Rule, picture: Picture, imported: Imported) -> Picture:
    assert rule.on_codes is not None
    if rule.takes[0].facts.meaning is Meaning.NORMAL:
        codes = np.stack([picture.channel(name) for name in "RGB"], axis=2)
        names = ("R", "G", "B")
        if "A" in picture.channels:
            alpha = picture.channel("A")[:, :, None]
            done = np.concatenate([rule.on_codes(codes), alpha], axis=2)
            return Picture(done, (*names, "A"), Encoding.LINEAR)
        return Picture(rule.on_codes(codes), names, Encoding.LINEAR)
    raster = picture.codes[:, :, :1] if picture.channels[0] == "Y" else None
    if raster is None:
        red = picture.channel("R")
        if not all(np.array_equal(red, picture.channel(name)) for name in "GB"):
            raise ParameterError(f"{rule.name}: R, G and B of the file differ. Split it first")
        raster = red[:, :, None]
    return Picture(rule.on_codes(np.ascontiguousarray(raster)), ("Y",), Encoding.LINEAR)


def _picture(kind: MapKind, pixels: Float, bits: int) -> Picture:
    if kind.facts.meaning is Meaning.COLOR:
        codes = quantize(linear_to_srgb(np.clip(pixels, 0, 1)), bits)
        return Picture(codes, ("R", "G", "B"), Encoding.SRGB)
    return Picture(quantize(pixels, bits), ("Y",), Encoding.LINEAR)


def _with_alpha(
    made: dict[MapKind, Picture], pictures: Mapping[MapKind, Picture]
) -> dict[MapKind, Picture]:
    """Carry the opacity in a color's alpha over to the converted color."""
    for source, kind in (
        (MapKind.BASE_COLOR, MapKind.DIFFUSE),
        (MapKind.DIFFUSE, MapKind.BASE_COLOR),
    ):
        if source in pictures and kind in made and "A" in pictures[source].channels:
            picture = made[kind]
            alpha = dequantize(pictures[source].channel("A"))[:, :, None]
            codes = quantize(alpha, 8 * picture.codes.dtype.itemsize)
            made[kind] = Picture(
                np.concatenate([picture.codes, codes], axis=2), (*picture.channels, "A"),
                picture.encoding,
            )  # fmt: skip
    return made
