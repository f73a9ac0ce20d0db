"""Kinds of maps, each declared once with everything that depends on it.

A new kind is a new member of `MapKind`. Spellings of file names, the operations "from a range" and
"from two sets", packing, material documents and the interface follow from its facts.
"""

from __future__ import annotations

import re
import unicodedata
from dataclasses import dataclass
from enum import StrEnum
from threading import Lock
from typing import Any, Literal, Self
from weakref import WeakValueDictionary


class Meaning(StrEnum):
    """Meaning of the float values of a raster."""

    COLOR = "color"  # linear light, [0, inf), Rec. 709 primaries
    DATA = "data"  # stored value = value, [0, 1]
    NORMAL = "normal"  # unit vectors, [-1, 1], tangent space, Y up, z >= 0


class NormalY(StrEnum):
    """Green direction of a normal map."""

    UP = "up"
    DOWN = "down"

    @property
    def label(self) -> str:
        """Y+ or Y−, as the convention is written in texts."""
        return "Y+" if self is NormalY.UP else "Y−"


@dataclass(frozen=True, slots=True)
class GltfInput:
    """Texture and factor of a glTF material extension.

    texture : property of the texture; "" if there is only a factor
    letters : channels of the texture with the components, in order
    factor : property of the factor; "" if there is none
    usual : factor if a file states none
    scale : factor of a map with values in [0, 1]; with `in_widths`, in widths of the set
    """

    extension: str
    texture: str = ""
    letters: str = ""
    factor: str = ""
    usual: float = 0.0
    scale: float = 1.0
    in_widths: bool = False


@dataclass(frozen=True, slots=True)
class KindFacts:
    """Properties of all maps of one kind.

    title : in the interface and in messages
    neutral : value without effect: linear light for colors, [0, 1] for data, a unit vector for
        vectors
    spellings : joined words of file names, in four levels of decreasing confidence: certain, usual,
        abbreviated, everyday
    ranged_from : maps whose range can be taken as this one, preferred ones first; empty if a range
        makes no sense
    is_mask : selects texels, without another meaning
    hard : values are mostly 0 or 1, so that dithering would only make them noisy
    planar : vectors in the surface: z is 0 and isn't stored
    reduction : mean; roughness and glossiness are averaged as alpha squared and widened by the
        variation of the normal map `widened_by`; coverage keeps the share of texels above 0.5
    gltf : place in a glTF extension; the core of glTF is in `codecs.documents.gltf`
    open_pbr, standard_surface : input of the MaterialX surface, or ""
    usd : input of the USD Preview Surface, or ""
    turned_on_by : inputs of the two MaterialX surfaces that disable the map unless they are 1
    """

    title: str
    meaning: Meaning
    neutral: tuple[float, ...]
    spellings: tuple[str, ...] = ()
    ranged_from: tuple[str, ...] = ()
    is_mask: bool = False
    hard: bool = False
    planar: bool = False
    reduction: Literal["mean", "roughness", "glossiness", "coverage"] = "mean"
    widened_by: str = ""
    gltf: GltfInput | None = None
    open_pbr: str = ""
    standard_surface: str = ""
    usd: str = ""
    turned_on_by: tuple[str, str] | None = None

    @property
    def components(self) -> tuple[str, ...]:
        """Names of the components, in order."""
        if self.meaning is Meaning.NORMAL:
            return ("x", "y", "z")
        return ("r", "g", "b") if self.meaning is Meaning.COLOR else ("v",)

    @property
    def stored_components(self) -> tuple[str, ...]:
        """The components that a file has to contain."""
        return self.components[:2] if self.planar else self.components

    @property
    def multiplies(self) -> bool:
        """If a map of this kind can weaken another one, texel by texel."""
        return self.meaning is Meaning.DATA

    @property
    def in_documents(self) -> bool:
        """If a material document has a place for it."""
        return bool(self.gltf or self.open_pbr or self.standard_surface or self.usd)


def _data(title: str, neutral: float, *spellings: str, **facts: Any) -> KindFacts:
    return KindFacts(title, Meaning.DATA, (neutral,), spellings, **facts)


def _color(title: str, neutral: float, *spellings: str, **facts: Any) -> KindFacts:
    return KindFacts(title, Meaning.COLOR, (neutral,) * 3, spellings, **facts)


def _vector(title: str, neutral: tuple[float, ...], *spellings: str, **facts: Any) -> KindFacts:
    return KindFacts(title, Meaning.NORMAL, neutral, spellings, **facts)


def _mask(title: str, *spellings: str, ranged_from: tuple[str, ...] = ()) -> KindFacts:
    preferred = (*ranged_from, "base_color")
    return _data(title, 0.0, *spellings, is_mask=True, hard=True, ranged_from=preferred)


_FLAT, _RIGHT = (0.0, 0.0, 1.0), (1.0, 0.0, 0.0)
_COLOR, _DETAIL = ("base_color",), ("detail_mask", "base_color")
_SHEEN, _COAT = "KHR_materials_sheen", "KHR_materials_clearcoat"
_VOLUME, _SPECULAR = "KHR_materials_volume", "KHR_materials_specular"
_ANISOTROPY, _IRIDESCENCE = "KHR_materials_anisotropy", "KHR_materials_iridescence"
_NAMED_MASK = re.compile(r"mask_[^\W_]\w{0,39}")


class MapKind(StrEnum):
    """One surface property of a texture set, with its `facts`.

    Masks with a name of the user's own, such as `mask_edge_wear`, are kinds too, though no members:
    they are created when they are looked up.
    """

    _value_: str
    facts: KindFacts

    def __new__(cls, value: str, facts: KindFacts | None = None) -> Self:
        """Create a member from its name and facts; a look-up gives the name alone."""
        assert facts
        made = str.__new__(cls, value)
        made._value_, made.facts = value, facts
        return made

    # fmt: off
    BASE_COLOR = "base_color", _color(
        "Base color", 0.5, "basecolor basecolour albedo diffusecolor colormap",
        "color colour col diffuse diff dif alb basecol bcol basec bc albd base", "cc",
        "c d texture photo", open_pbr="base_color", standard_surface="base_color",
        usd="diffuseColor",
    )
    DIFFUSE = "diffuse", _color("Diffuse", 0.5, usd="diffuseColor")
    SPECULAR_COLOR = "specular_color", _color(
        "Specular color", 0.04, "specular specularcolor", "spec spc", "sc sm", "s",
        usd="specularColor",
    )
    SPECULAR_LEVEL = "specular_level", _data(
        "Specular level", 0.5, "specularlevel speclevel", "reflectance", "refl",
        ranged_from=("ambient_occlusion", "base_color"),
    )
    F0 = "f0", _data("F0", 0.04, "f0", ranged_from=("metallic", "base_color"))
    METALLIC = "metallic", _data(
        "Metallic", 0.0, "metallic metalness metallness metallicity", "mtl metl mtlc metalic",
        "metal m met", ranged_from=_DETAIL, hard=True, open_pbr="base_metalness",
        standard_surface="metalness", usd="metallic",
    )
    ROUGHNESS = "roughness", _data(
        "Roughness", 0.5, "roughness microroughness", "rgh rghn roughnes", "rough r rou",
        reduction="roughness", widened_by="normal", open_pbr="specular_roughness",
        standard_surface="specular_roughness", usd="roughness",
    )
    GLOSSINESS = "glossiness", _data(
        "Glossiness", 0.5, "glossiness smoothness", "gls glos smth smoothn",
        "gloss smooth glossy g", reduction="glossiness", widened_by="normal", usd="roughness",
    )
    NORMAL = "normal", _vector(
        "Normal", _FLAT, "normal normals tangentnormal normalmap", "nrm nor norm nrml nml nmap",
        "n nm", open_pbr="geometry_normal", standard_surface="normal", usd="normal",
    )
    HEIGHT = "height", _data(
        "Height", 0.5, "height displacement heightmap displace",
        "disp hgt displ dsp heigth bump", "h hm depth bmp", usd="displacement",
    )
    AMBIENT_OCCLUSION = "ambient_occlusion", _data(
        "Occlusion", 1.0, "ambientocclusion occlusion ambocc", "ao occ occl aomap", "o",
        usd="occlusion",
    )
    CAVITY = "cavity", _data("Cavity", 0.5, "cavity", "cav cvt")
    CURVATURE = "curvature", _data("Curvature", 0.5, "curvature", "curv curve")
    BENT_NORMAL = "bent_normal", _vector("Bent normal", _FLAT, "bentnormal bentnormals", "bent")
    EMISSIVE = "emissive", _color(
        "Emissive", 0.0, "emissive emission emissivecolor", "emit emis emiss selfillum",
        "glow e em", open_pbr="emission_color", standard_surface="emission_color",
        usd="emissiveColor", turned_on_by=("emission_luminance", "emission"),
    )
    OPACITY = "opacity", _data(
        "Opacity", 1.0, "opacity cutout", "alpha opac alphamask opacitymask",
        "mask transparency trans op", hard=True, reduction="coverage",
        open_pbr="geometry_opacity", standard_surface="opacity", usd="opacity",
    )
    EMISSIVE_STRENGTH = "emissive_strength", _data(
        "Emissive strength", 0.0, "emissivemask emissionmask emissivestrength",
        ranged_from=_DETAIL,
    )
    TRANSLUCENCY = "translucency", _data(
        "Translucency", 0.0, "translucency translucent", "transl", ranged_from=_COLOR,
    )
    TRANSMISSION = "transmission", _data(
        "Transmission", 0.0, "transmission transmissionweight", "transm", ranged_from=_COLOR,
        gltf=GltfInput("KHR_materials_transmission", "transmissionTexture", "R",
                       "transmissionFactor"),
        open_pbr="transmission_weight", standard_surface="transmission",
    )
    THICKNESS = "thickness", _data(
        "Thickness", 0.0, "thickness", "thick thk", ranged_from=("height",),
        gltf=GltfInput(_VOLUME, "thicknessTexture", "G", "thicknessFactor", scale=0.1,
                       in_widths=True),
    )
    ATTENUATION_COLOR = "attenuation_color", _color(
        "Attenuation color", 1.0, "attenuationcolor transmissioncolor", "attenuation",
        gltf=GltfInput(_VOLUME, factor="attenuationColor", usual=1.0),
        open_pbr="transmission_color", standard_surface="transmission_color",
    )
    SHEEN_COLOR = "sheen_color", _color(
        "Sheen color", 0.0, "sheencolor sheencolour fuzzcolor", "", "sheen fuzz",
        gltf=GltfInput(_SHEEN, "sheenColorTexture", "RGB", "sheenColorFactor"),
        open_pbr="fuzz_color", standard_surface="sheen_color",
        turned_on_by=("fuzz_weight", "sheen"),
    )
    SHEEN_ROUGHNESS = "sheen_roughness", _data(
        "Sheen roughness", 0.5, "sheenroughness fuzzroughness", "sheenrough",
        ranged_from=("roughness", "base_color"), reduction="roughness", widened_by="normal",
        gltf=GltfInput(_SHEEN, "sheenRoughnessTexture", "A", "sheenRoughnessFactor"),
        open_pbr="fuzz_roughness", standard_surface="sheen_roughness",
    )
    CLEARCOAT = "clearcoat", _data(
        "Clearcoat", 0.0, "clearcoat clearcoatweight coatweight", "ccoat", "coat",
        ranged_from=_DETAIL, usd="clearcoat",
        gltf=GltfInput(_COAT, "clearcoatTexture", "R", "clearcoatFactor"),
        open_pbr="coat_weight", standard_surface="coat",
    )
    CLEARCOAT_ROUGHNESS = "clearcoat_roughness", _data(
        "Clearcoat roughness", 0.0, "clearcoatroughness coatroughness", "clearcoatrough coatrough",
        ranged_from=("roughness", "base_color"), reduction="roughness",
        widened_by="clearcoat_normal", usd="clearcoatRoughness",
        gltf=GltfInput(_COAT, "clearcoatRoughnessTexture", "G", "clearcoatRoughnessFactor"),
        open_pbr="coat_roughness", standard_surface="coat_roughness",
    )
    CLEARCOAT_NORMAL = "clearcoat_normal", _vector(
        "Clearcoat normal", _FLAT, "clearcoatnormal coatnormal", "clearcoatnrm coatnrm",
        gltf=GltfInput(_COAT, "clearcoatNormalTexture", "RGB"),
        open_pbr="geometry_coat_normal", standard_surface="coat_normal",
    )
    ANISOTROPY = "anisotropy", _data(
        "Anisotropy", 0.0, "anisotropy anisotropystrength anisotropylevel", "aniso",
        ranged_from=_COLOR,
        gltf=GltfInput(_ANISOTROPY, "anisotropyTexture", "B", "anisotropyStrength"),
        open_pbr="specular_roughness_anisotropy", standard_surface="specular_anisotropy",
    )
    ANISOTROPY_DIRECTION = "anisotropy_direction", _vector(
        "Anisotropy direction", _RIGHT, "anisotropydirection tangentmap", "anisodirection anisodir",
        planar=True, gltf=GltfInput(_ANISOTROPY, "anisotropyTexture", "RG"),
    )
    SPECULAR_WEIGHT = "specular_weight", _data(
        "Specular weight", 1.0, "specularweight", "specweight",
        ranged_from=("ambient_occlusion", "base_color"),
        gltf=GltfInput(_SPECULAR, "specularTexture", "A", "specularFactor", usual=1.0),
        open_pbr="specular_weight", standard_surface="specular",
    )
    SPECULAR_TINT = "specular_tint", _color(
        "Specular tint", 1.0, "speculartint", "spectint",
        gltf=GltfInput(_SPECULAR, "specularColorTexture", "RGB", "specularColorFactor", usual=1.0),
        open_pbr="specular_color", standard_surface="specular_color",
    )
    IRIDESCENCE = "iridescence", _data(
        "Iridescence", 0.0, "iridescence thinfilm thinfilmweight", "irid", ranged_from=_DETAIL,
        gltf=GltfInput(_IRIDESCENCE, "iridescenceTexture", "R", "iridescenceFactor"),
        open_pbr="thin_film_weight",
    )
    IRIDESCENCE_THICKNESS = "iridescence_thickness", _data(  # 1 is a micrometer
        "Iridescence thickness", 0.4, "iridescencethickness thinfilmthickness",
        ranged_from=("height", "base_color"),
        gltf=GltfInput(_IRIDESCENCE, "iridescenceThicknessTexture", "G",
                       "iridescenceThicknessMaximum", usual=400.0, scale=1000.0),
        open_pbr="thin_film_thickness",
    )
    POROSITY = "porosity", _data(
        "Porosity", 0.0, "porosity", ranged_from=("roughness", "base_color"),
    )
    SUBSURFACE = "subsurface", _data(
        "Subsurface", 0.0, "subsurface subsurfacescattering subsurfaceweight", "sss scattering",
        ranged_from=("thickness", "base_color"), open_pbr="subsurface_weight",
        standard_surface="subsurface",
    )
    SUBSURFACE_COLOR = "subsurface_color", _color(
        "Subsurface color", 0.5, "subsurfacecolor subsurfacecolour", "ssscolor",
        open_pbr="subsurface_color", standard_surface="subsurface_color",
    )
    SUBSURFACE_RADIUS = "subsurface_radius", _color(
        "Subsurface radius", 1.0, "subsurfaceradius scatteringradius", "sssradius",
        open_pbr="subsurface_radius_scale", standard_surface="subsurface_radius",
    )
    UNCERTAINTY = "uncertainty", _data("Uncertainty", 0.0, "uncertainty", "doubt")
    DETAIL_MASK = "detail_mask", _mask(
        "Detail mask", "detailmask", "detail", ranged_from=("height",)
    )
    MASK_1 = "mask_1", _mask("Mask 1", ranged_from=("height",))
    MASK_2 = "mask_2", _mask("Mask 2")
    MASK_3 = "mask_3", _mask("Mask 3", ranged_from=("ambient_occlusion",))
    MASK_4 = "mask_4", _mask("Mask 4", ranged_from=("roughness",))
    # fmt: on

    @property
    def widened_by(self) -> MapKind | None:
        """The kind of normal map whose variation widens reflections of this roughness."""
        return MapKind(self.facts.widened_by) if self.facts.widened_by else None

    @classmethod
    def _missing_(cls, value: object) -> MapKind | None:
        if value == "doubt":  # its former name, in stored data
            return cls.UNCERTAINTY
        named = isinstance(value, str) and _NAMED_MASK.fullmatch(value)
        if not isinstance(value, str) or not named or _as_word(value) != value:
            return None
        with _MASKS_LOCK:  # a kind is compared by identity
            if (known := _MASKS.get(value)) is None:
                known = str.__new__(cls, value)
                known._name_, known._value_ = value.upper(), value
                known.facts = _mask(value.replace("_", " ").capitalize())
                _MASKS[value] = known
            return known

    @classmethod
    def __get_pydantic_json_schema__(cls, core_schema: Any, handler: Any) -> Any:
        """Return the members, and the pattern of named masks."""
        schema = handler.resolve_ref_schema(handler(core_schema))
        members = {"type": "string", "enum": schema.pop("enum")}
        schema.pop("type")
        schema["anyOf"] = [members, {"type": "string", "pattern": r"^mask_\S{1,40}$"}]
        return schema

    @classmethod
    def of(cls, name: str) -> MapKind | None:
        """Return the kind of a name, or None."""
        try:
            return cls(name)
        except ValueError:
            return None

    @classmethod
    def mask(cls, name: str) -> MapKind:
        """Return the mask of a name, such as "Edge wear".

        Raises
        ------
        ValueError : if the name has no letters and digits, or more than 40 characters
        """
        return cls(f"mask_{_as_word(name)}")

    @classmethod
    def in_order(cls, kinds: Any) -> list[MapKind]:
        """Return distinct kinds in the order of declaration; named masks last, by name."""
        order = {kind: number for number, kind in enumerate(cls)}
        return sorted(set(kinds), key=lambda kind: (order.get(kind, len(order)), kind.value))

    @classmethod
    def present_name(cls, stored: str) -> str:
        """Return the current name of a stored map kind; unknown names are unchanged."""
        return stored if stored != "doubt" else cls.UNCERTAINTY.value


_MASKS: WeakValueDictionary[str, MapKind] = WeakValueDictionary()
_MASKS_LOCK = Lock()


def _as_word(name: str) -> str:
    """Return a name in lower case with words joined by _."""
    plain = unicodedata.normalize("NFC", name.casefold())
    return re.sub(r"[\W_]+", "_", plain).strip("_")


class KindGroup(StrEnum):
    """Kinds of maps that one operation makes in the same way."""

    VALUES = "values"  # colors and data, except heights, which have a depth
    VECTORS = "vectors"
    RANGES = "ranges"  # those that can be taken from a range of another map
    MASKS = "masks"

    def holds(self, kind: MapKind) -> bool:
        """Return True if the kind belongs to the group."""
        facts = kind.facts
        if self is KindGroup.VALUES:
            return facts.meaning is not Meaning.NORMAL and kind is not MapKind.HEIGHT
        if self is KindGroup.VECTORS:
            return facts.meaning is Meaning.NORMAL
        return bool(facts.ranged_from) if self is KindGroup.RANGES else facts.is_mask
