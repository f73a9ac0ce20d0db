"""MaterialX 1.39: a node graph that reads the textures, and a surface (OpenPBR or standard
surface).

Data is read with the color space "raw", colors as sRGB or linear like their files; channels of
packed files are extracted by nodes. Normals are Y+ by specification; nodes invert Y− files.
"""

from __future__ import annotations

import re
import xml.etree.ElementTree as ET
from pathlib import Path

from copper_sieve.core.codecs.documents.material import DocumentMaterial, TextureBinding
from copper_sieve.core.errors import DamagedPictureError
from copper_sieve.core.image.map_kind import MapKind, Meaning, NormalY

_NODES = {"open_pbr": "open_pbr_surface", "standard_surface": "standard_surface"}
_TYPES = {Meaning.COLOR: "color3", Meaning.DATA: "float", Meaning.NORMAL: "vector3"}
_COUNTS = {"float": 1, "color3": 3}
_FOUND_BY_ROUGHNESS = {MapKind.ROUGHNESS: MapKind.GLOSSINESS}


def _inputs(model: str) -> list[tuple[MapKind, str, str]]:
    """Return every map that a surface has an input for, with its name and type; vectors last."""
    found = [(kind, str(getattr(kind.facts, model)), _type(kind, model)) for kind in MapKind]
    return sorted((one for one in found if one[1]), key=lambda one: one[2] == "vector3")


def _type(kind: MapKind, model: str) -> str:
    if kind is MapKind.OPACITY and model == "standard_surface":
        return "color3"
    return _TYPES[kind.facts.meaning]


def maps_supported_by_materialx(material: DocumentMaterial, model: str) -> list[MapKind]:
    """Return the maps that a MaterialX document can use, given their channels in the files."""
    kinds = [kind for kind, _, _ in _inputs(model)] + [MapKind.HEIGHT, MapKind.AMBIENT_OCCLUSION]
    return [kind for wanted in kinds if (kind := _source(material, wanted))]


def _source(material: DocumentMaterial, wanted: MapKind) -> MapKind | None:
    other = _FOUND_BY_ROUGHNESS.get(wanted, wanted)
    return next((kind for kind in (wanted, other) if material.whole(kind)), None)


def encode_materialx(material: DocumentMaterial, model: str) -> bytes:
    """Encode a MaterialX document with a surface model ("open_pbr" or "standard"), in UTF-8."""
    root = ET.Element("materialx", version="1.39", colorspace="lin_rec709")
    graph = _Graph(ET.SubElement(root, "nodegraph", name=f"NG_{material.identifier}"), material)
    surface = ET.SubElement(
        root, _NODES[model], name=f"SR_{material.identifier}", type="surfaceshader"
    )
    for wanted, name, kind in _inputs(model):
        source = _source(material, wanted)
        if source:
            inverted = source is MapKind.GLOSSINESS
            graph.connect(surface, name, kind, graph.map(source, kind, inverted=inverted))
        elif wanted in material.values and kind != "vector3":
            numbers = material.values[wanted] * (3 if wanted is MapKind.OPACITY else 1)
            value = ", ".join(f"{v:g}" for v in numbers[: _COUNTS[kind]])
            ET.SubElement(surface, "input", name=name, type=kind, value=value)
    _fixed(surface, material, model)
    shader = ET.Element("surfacematerial", name=f"M_{material.identifier}", type="material")
    ET.SubElement(shader, "input", name="surfaceshader", type="surfaceshader",
                  nodename=f"SR_{material.identifier}")  # fmt: skip
    if material.whole(MapKind.HEIGHT):
        displaced = ET.SubElement(
            root, "displacement", name=f"DR_{material.identifier}", type="displacementshader"
        )
        graph.connect(displaced, "displacement", "float", graph.displaced())
        scale = 1.0 if material.height_in_metres else material.depth
        ET.SubElement(displaced, "input", name="scale", type="float", value=f"{scale:g}")
        ET.SubElement(shader, "input", name="displacementshader", type="displacementshader",
                      nodename=f"DR_{material.identifier}")  # fmt: skip
    if material.whole(MapKind.AMBIENT_OCCLUSION):  # no input of the surface: for who looks for it
        graph.output("occlusion", "float", graph.map(MapKind.AMBIENT_OCCLUSION, "float"))
    root.append(shader)
    ET.indent(root)
    text: bytes = ET.tostring(root, "utf-8")
    return b'<?xml version="1.0" encoding="utf-8"?>\n' + text + b"\n"


def _fixed(surface: ET.Element, material: DocumentMaterial, model: str) -> None:
    fixed = {"specular_ior" if model == "open_pbr" else "specular_IOR": material.ior}
    if model == "standard_surface":
        fixed["base"] = 1.0
    for kind in MapKind:
        switches = kind.facts.turned_on_by
        if switches and (material.whole(kind) or any(material.values.get(kind, ()))):
            fixed[switches[list(_NODES).index(model)]] = 1.0
    for name, value in fixed.items():
        ET.SubElement(surface, "input", name=name, type="float", value=f"{value:.6g}")


class _Graph:
    """The node graph: one image node per file, and nodes that extract maps."""

    def __init__(self, element: ET.Element, material: DocumentMaterial) -> None:
        self._element, self._material = element, material
        self._images: dict[str, tuple[str, str]] = {}
        self._outputs: list[ET.Element] = []

    def connect(self, node: ET.Element, name: str, kind: str, source: str) -> None:
        """Connect an input outside the graph to the output of a node."""
        output = self.output(name, kind, source)
        ET.SubElement(node, "input", name=name, type=kind,
                      nodegraph=self._element.get("name", ""), output=output)  # fmt: skip

    def output(self, name: str, kind: str, source: str) -> str:
        """Expose the output of a node."""
        ET.SubElement(self._element, "output", name=f"out_{name}", type=kind, nodename=source)
        return f"out_{name}"

    def map(self, kind: MapKind, wanted: str, *, inverted: bool = False) -> str:
        """Return the node that provides a map in the wanted type."""
        use = self._material.uses[kind]
        image, type_ = self._image(use)
        if kind.facts.meaning is Meaning.NORMAL:
            return self._normal(image, type_, kind)
        if kind.facts.meaning is Meaning.COLOR:
            return image if type_ == wanted else self._node(
                "convert", f"{kind}_rgb", wanted, {"in": (type_, image)}
            )  # fmt: skip
        value = image
        if type_ != "float":
            index = str("RGBA".index(use.letters))
            value = self._node("extract", f"{kind}_{use.letters.lower()}", "float",
                               {"in": (type_, image)}, {"index": ("integer", index)})  # fmt: skip
        if inverted != use.inverted:
            value = self._node("invert", f"{kind}_inverted", "float", {"in": ("float", value)})
        if wanted == "color3":
            value = self._node("convert", f"{kind}_grey", "color3", {"in": ("float", value)})
        return value

    def displaced(self) -> str:
        """Return the node of the height relative to its mid-level."""
        value = self.map(MapKind.HEIGHT, "float")
        if self._material.height_in_metres or not self._material.height_mid:
            return value
        return self._node("subtract", "height_from_mid", "float", {"in1": ("float", value)},
                          {"in2": ("float", f"{self._material.height_mid:g}")})  # fmt: skip

    def _normal(self, image: str, type_: str, kind: MapKind) -> str:
        value = image
        if type_ != "vector3":
            value = self._node("convert", f"{kind}_xyz", "vector3", {"in": (type_, value)})
        if self._material.normal_y is NormalY.DOWN:
            value = self._node("multiply", f"{kind}_turned", "vector3", {"in1": ("vector3", value)},
                               {"in2": ("vector3", "1, -1, 1")})  # fmt: skip
            value = self._node("add", f"{kind}_up", "vector3", {"in1": ("vector3", value)},
                               {"in2": ("vector3", "0, 1, 0")})  # fmt: skip
        return self._node("normalmap", f"{kind}_map", "vector3", {"in": ("vector3", value)})

    def _image(self, use: TextureBinding) -> tuple[str, str]:
        """Return the node of a file and its type; one node per file."""
        if use.file not in self._images:
            color = {1: "float", 2: "vector2", 3: "color3", 4: "color4"}
            plain = {1: "float", 2: "vector2", 3: "vector3", 4: "vector4"}
            # A file with color and an additional data channel counts as a color file.
            colors = any(
                one.file == use.file and kind.facts.meaning is Meaning.COLOR
                for kind, one in self._material.uses.items()
            )
            type_ = (color if colors else plain)[use.channels]
            name = re.sub(r"\W", "_", Path(use.file).stem, flags=re.ASCII)
            name = f"file_{name}"
            node = ET.SubElement(self._element, "image", name=name, type=type_)
            read = ET.SubElement(node, "input", name="file", type="filename", value=use.file)
            if colors:
                read.set("colorspace", "srgb_texture" if use.srgb else "lin_rec709")
            self._images[use.file] = name, type_
        return self._images[use.file]

    def _node(
        self,
        category: str,
        name: str,
        type_: str,
        sources: dict[str, tuple[str, str]],
        values: dict[str, tuple[str, str]] | None = None,
    ) -> str:
        if self._element.find(f"*[@name='{name}']") is None:
            node = ET.SubElement(self._element, category, name=name, type=type_)
            for input_name, (kind, source) in sources.items():
                ET.SubElement(node, "input", name=input_name, type=kind, nodename=source)
            for input_name, (kind, value) in (values or {}).items():
                ET.SubElement(node, "input", name=input_name, type=kind, value=value)
        return name


def read_materialx_files(path: Path) -> list[str]:
    """Return the files that a MaterialX document refers to.

    Raises
    ------
    DamagedPictureError : if the document is invalid
    """
    try:
        root = ET.fromstring(path.read_bytes())
    except ET.ParseError as error:
        raise DamagedPictureError(f"{path.name} isn't a valid MaterialX document. Deliver it "
                                  "again") \
            from error  # fmt: skip
    found = [one.get("value", "") for one in root.iter("input") if one.get("type") == "filename"]
    return list(dict.fromkeys(found))
