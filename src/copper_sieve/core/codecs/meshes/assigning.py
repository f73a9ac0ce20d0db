"""Write a model with materials as USD, or the materials alone as MaterialX.

Both name a piece of the model by the path /model/part/material. The surfaces are those of the
delivered documents.
"""

from __future__ import annotations

import copy
import re
import xml.etree.ElementTree as ET
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from copper_sieve.core.codecs.documents.material import identifier
from copper_sieve.core.errors import DamagedPictureError
from copper_sieve.core.image.raster import Float
from copper_sieve.core.mesh.mesh import Mesh, flip_faces
from copper_sieve.core.mesh.welding import weld_vertices

_MATERIAL = re.compile(r'^    def Material "Material"\n    \{\n.*?^    \}\n', re.M | re.S)
_ROOT = re.compile(r'defaultPrim = "(\w+)"')
_AT_ONCE = 4096  # rows of numbers that are written as one text


@dataclass(frozen=True, slots=True)
class Piece:
    """Triangles of one part with one material.

    part, material : identifiers, so that `/model/part/material` is the path
    mesh : triangles
    called : name of the material in the model
    """

    part: str
    material: str
    mesh: Mesh
    called: str

    def path(self, model: str) -> str:
        """Return the path in a USD stage whose root has the model's name."""
        return f"/{model}/{self.part}/{self.material}"


def pieces_of(mesh: Mesh) -> list[Piece]:
    """Split a model by parts and materials; all paths are distinct."""
    parts, materials = _unlike(mesh.part_names), _unlike(mesh.material_names)
    found = []
    pairs = np.unique(np.stack([mesh.parts, mesh.materials], axis=1), axis=0)
    for part, material in pairs:
        which = (mesh.parts == part) & (mesh.materials == material)
        called = mesh.material_names[material]
        found.append(Piece(parts[part], materials[material], mesh.chosen(which), called))
    return found


def _unlike(names: tuple[str, ...]) -> list[str]:
    """Return distinct identifiers for names; `Materials` is reserved."""
    taken, found = {"Materials"}, []
    for name in names:
        word = first = identifier(name) or "_"
        count = 1
        while word in taken:
            count += 1
            word = f"{first}_{count}"
        taken.add(word)
        found.append(word)
    return found


def encode_usd_model(name: str, mesh: Mesh, stages: Mapping[str, str], *, uv_set: int = 0) -> bytes:
    """Encode a model with USD Preview Surfaces as a stage, in UTF-8.

    Parameters
    ----------
    name : of the model
    mesh : in meters, Y up
    stages : text of a delivered .usda by material name; other materials stay unbound
    uv_set : UV set of the textures, from 0; all sets are written as st, st1, st2, ...

    Raises
    ------
    DamagedPictureError : if a stage isn't a delivered one
    """
    root = identifier(name) or "_"
    pieces = pieces_of(mesh)
    words = {piece.called: piece.material for piece in pieces}
    surfaces = "".join(
        _surface(text, f"/{root}/Materials/{words[called]}", uv_set)
        for called, text in stages.items()
        if called in words
    )
    parts: dict[str, list[str]] = {}
    for piece in pieces:
        bound = f"/{root}/Materials/{piece.material}" if piece.called in stages else None
        parts.setdefault(piece.part, []).append(_mesh(piece, bound))
    geometry = "".join(
        f'\n    def Xform "{part}"\n    {{\n{"".join(meshes)}    }}\n'
        for part, meshes in parts.items()
    )
    return (
        f'#usda 1.0\n(\n    defaultPrim = "{root}"\n'
        '    doc = "A model with textures by Copper Sieve"\n'
        '    metersPerUnit = 1\n    upAxis = "Y"\n)\n\n'
        f'def Xform "{root}" (\n    kind = "component"\n)\n{{\n'
        f'    def Scope "Materials"\n    {{\n{surfaces}    }}\n{geometry}}}\n'
    ).encode()


def _surface(text: str, at: str, uv_set: int) -> str:
    """Return the material of a delivered stage at another path."""
    root, material = _ROOT.search(text), _MATERIAL.search(text)
    if not root or not material:
        raise DamagedPictureError("the .usda file contains no material. Deliver it again")
    block = material[0].replace(f"</{root[1]}/Material", f"<{at}")
    block = block.replace('def Material "Material"', f'def Material "{at.rpartition("/")[2]}"', 1)
    if uv_set:
        block = block.replace('inputs:varname = "st"', f'inputs:varname = "st{uv_set}"')
    return re.sub(r"^(?=.)", "    ", block, flags=re.M)


def _mesh(piece: Piece, bound: str | None) -> str:
    mesh = piece.mesh
    places = weld_vertices(mesh.positions)
    firsts = np.unique(places, return_index=True)[1]
    points = mesh.positions.reshape(-1, 3)[firsts]
    low, high = mesh.bounds()
    lines = [
        f"float3[] extent = [{_rows(np.stack([low, high]))}]",
        f"int[] faceVertexCounts = [{', '.join(['3'] * mesh.count)}]",
        f"int[] faceVertexIndices = [{', '.join(map(str, places.tolist()))}]",
        f"normal3f[] normals = [{_rows(mesh.normals)}] (",
        '    interpolation = "faceVarying"',
        ")",
        f"point3f[] points = [{_rows(points)}]",
    ]
    for n, uv in enumerate(mesh.uvs):
        lines += [
            f"texCoord2f[] primvars:st{n or ''} = [{_rows(flip_faces(uv))}] (",
            '    interpolation = "faceVarying"',
            ")",
        ]
    lines.append('uniform token subdivisionScheme = "none"')
    head = f'        def Mesh "{piece.material}"'
    if bound:
        head += ' (\n            prepend apiSchemas = ["MaterialBindingAPI"]\n        )'
        lines.insert(0, f"rel material:binding = <{bound}>")
    body = "".join(f"            {line}\n" for line in lines)
    return f"{head}\n        {{\n{body}        }}\n"


def _rows(values: Float) -> str:
    """Return (..., n) numbers as tuples, in order."""
    flat = values.reshape(-1, values.shape[-1])
    form = f"({', '.join(['%.9g'] * flat.shape[1])})"
    parts = []
    for start in range(0, len(flat), _AT_ONCE):
        some = flat[start : start + _AT_ONCE]
        parts.append(", ".join([form] * len(some)) % tuple(some.ravel().tolist()))
    return ", ".join(parts)


def encode_assignments(
    name: str, mesh: Mesh, documents: Mapping[str, bytes], *, uv_set: int = 0
) -> bytes:
    """Combine MaterialX documents and assign their materials to a model, in UTF-8.

    The geometry has the paths of `encode_usd_model`.

    Parameters
    ----------
    name : of the model
    mesh : in meters, Y up
    documents : content of a delivered .mtlx by material name
    uv_set : UV set of the textures, from 0

    Raises
    ------
    DamagedPictureError : if a document is invalid
    """
    model = identifier(name) or "_"
    root = ET.Element("materialx", version="1.39", colorspace="lin_rec709")
    look = ET.Element("look", name=f"L_{model}")
    there: set[str] = set()
    pieces = pieces_of(mesh)
    for called, data in documents.items():
        paths = [piece.path(model) for piece in pieces if piece.called == called]
        if not paths:
            continue
        try:
            elements = list(ET.fromstring(data))
            material = next(one.attrib["name"] for one in elements if one.tag == "surfacematerial")
        except (ET.ParseError, StopIteration, KeyError) as error:
            raise DamagedPictureError(
                "the .mtlx file contains no material. Deliver it again"
            ) from error
        if material not in there:  # one set may be for several materials of a model
            there.add(material)
            root.extend(_read_by(one, uv_set) for one in elements)
        word = next(piece.material for piece in pieces if piece.called == called)
        ET.SubElement(look, "materialassign", name=f"A_{word}", material=material,
                      geom=",".join(paths))  # fmt: skip
    root.append(look)
    ET.indent(root)
    text: bytes = ET.tostring(root, "utf-8")
    return b'<?xml version="1.0" encoding="utf-8"?>\n' + text + b"\n"


def _read_by(element: ET.Element, uv_set: int) -> ET.Element:
    """Return the element with its pictures read by another UV set than the first."""
    if element.tag != "nodegraph" or not uv_set:
        return element
    graph = copy.deepcopy(element)
    where = ET.Element("texcoord", name="uv", type="vector2")
    ET.SubElement(where, "input", name="index", type="integer", value=str(uv_set))
    for image in graph.findall("image"):
        ET.SubElement(image, "input", name="texcoord", type="vector2", nodename="uv")
    graph.insert(0, where)
    return graph
