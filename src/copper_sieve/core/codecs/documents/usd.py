"""USD: a textured plane with the size of the set, as text (.usda) or package (.usdz).

Follows the UsdPreviewSurface specification 2.6 and the USDZ specification: files are stored
without compression, each beginning at a multiple of 64 bytes.
"""

from __future__ import annotations

import hashlib
import io
import re
import struct
import zipfile
from collections.abc import Mapping
from pathlib import Path

from copper_sieve.core.codecs.documents.material import DocumentMaterial, TextureBinding
from copper_sieve.core.errors import DamagedPictureError
from copper_sieve.core.image.map_kind import MapKind, Meaning, NormalY

_TYPES = {Meaning.COLOR: "color3f", Meaning.DATA: "float", Meaning.NORMAL: "normal3f"}
# The displacement comes last.
_INPUTS: dict[MapKind, tuple[str, str]] = {
    kind: (_TYPES[kind.facts.meaning], kind.facts.usd)
    for kind in sorted(MapKind, key=lambda kind: kind is MapKind.HEIGHT)
    if kind.facts.usd
}
_METALLIC = {MapKind.BASE_COLOR, MapKind.METALLIC}
_SPECULAR = {MapKind.DIFFUSE, MapKind.SPECULAR_COLOR}
# A normal of one direction and a height of one level are nothing to be given.
_AS_VALUES = set(_INPUTS) - {MapKind.NORMAL, MapKind.HEIGHT, MapKind.GLOSSINESS}
_ALIGNED, _HEAD = 64, 30  # bytes: where data begins, and what comes before a name
_FILLING = 0x1986  # the kind of an extra field that means nothing


def maps_supported_by_usd(material: DocumentMaterial) -> list[MapKind]:
    """Return the maps that a USD Preview Surface can use, given their channels in the files."""
    other = _METALLIC if material.spec_gloss else _SPECULAR
    kinds = [k for k in _INPUTS if k not in other and material.whole(k)]
    if MapKind.ROUGHNESS in kinds and MapKind.GLOSSINESS in kinds:
        kinds.remove(MapKind.GLOSSINESS)
    return kinds


def encode_usda(material: DocumentMaterial) -> bytes:
    """Encode a USD stage as text, in UTF-8."""
    return _stage(material).encode()


def encode_usdz(material: DocumentMaterial, folder: Path, name: str) -> bytes:
    """Encode a USD package of the stage and the textures in a folder."""
    textures = material.textures(maps_supported_by_usd(material))
    return pack_usdz(
        f"{Path(name).stem}.usda",
        encode_usda(material),
        {texture: (folder / texture).read_bytes() for texture in textures},
    )


def pack_usdz(name: str, stage: bytes, textures: Mapping[str, bytes]) -> bytes:
    """Create a USD package.

    Parameters
    ----------
    name : of the stage in the package, with the extension .usda
    stage : text of the stage, in UTF-8
    textures : content of each texture by its name

    Returns
    -------
    bytes of the package
    """
    files = {name: stage, **textures}
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_STORED) as package:
        for inside, data in files.items():
            entry = zipfile.ZipInfo(inside, (1980, 1, 1, 0, 0, 0))
            gap = -(out.tell() + _HEAD + len(inside.encode())) % _ALIGNED
            gap += _ALIGNED if 0 < gap < 4 else 0  # an extra field has a head of four bytes
            if gap:
                entry.extra = struct.pack("<2H", _FILLING, gap - 4) + b"\0" * (gap - 4)
            package.writestr(entry, data)
    return out.getvalue()


def _stage(material: DocumentMaterial) -> str:
    at = f"/{material.identifier}/Material"
    inputs, shaders = _connected(material, at)
    lines = "\n".join(f"            {line}" for line in inputs)
    x, y = material.width / 2, material.height / 2
    name = material.identifier
    return f'''#usda 1.0
(
    defaultPrim = "{name}"
    doc = "A set of textures by Copper Sieve"
    metersPerUnit = 1
    upAxis = "Y"
)

def Xform "{name}" (
    kind = "component"
)
{{
    def Mesh "Plane" (
        prepend apiSchemas = ["MaterialBindingAPI"]
    )
    {{
        float3[] extent = [({-x:g}, {-y:g}, 0), ({x:g}, {y:g}, 0)]
        int[] faceVertexCounts = [4]
        int[] faceVertexIndices = [0, 1, 2, 3]
        rel material:binding = <{at}>
        normal3f[] normals = [(0, 0, 1), (0, 0, 1), (0, 0, 1), (0, 0, 1)] (
            interpolation = "vertex"
        )
        point3f[] points = [({-x:g}, {-y:g}, 0), ({x:g}, {-y:g}, 0), ({x:g}, {y:g}, 0), ({-x:g}, {y:g}, 0)]
        texCoord2f[] primvars:st = [(0, 0), (1, 0), (1, 1), (0, 1)] (
            interpolation = "vertex"
        )
        uniform token subdivisionScheme = "none"
    }}

    def Material "Material"
    {{
        token outputs:surface.connect = <{at}/Surface.outputs:surface>
        token outputs:displacement.connect = <{at}/Surface.outputs:displacement>

        def Shader "Surface"
        {{
            uniform token info:id = "UsdPreviewSurface"
{lines}
            token outputs:surface
            token outputs:displacement
        }}

        def Shader "Coordinates"
        {{
            uniform token info:id = "UsdPrimvarReader_float2"
            string inputs:varname = "st"
            float2 outputs:result
        }}
{"".join(shaders)}    }}
}}
'''  # noqa: E501


def _connected(material: DocumentMaterial, at: str) -> tuple[list[str], list[str]]:
    """Return the inputs of the surface, and the shaders that read their textures.

    at : path of the material in the stage
    """
    shaders, inputs, given = [], [], set()
    for kind in maps_supported_by_usd(material):
        use = material.uses[kind]
        type_, target = _INPUTS[kind]
        shader, text = _texture(material, kind, use, at)
        out = "rgb" if kind.facts.meaning is not Meaning.DATA else use.letters.lower()
        out = "r" if use.channels == 1 and kind.facts.meaning is Meaning.DATA else out
        inputs.append(f"{type_} inputs:{target}.connect = <{at}/{shader}.outputs:{out}>")
        shaders.append(text)
        given.add(target)
    for kind, value in material.values.items():
        if kind in _AS_VALUES and kind not in (_METALLIC if material.spec_gloss else _SPECULAR):
            type_, target = _INPUTS[kind]
            if target in given:
                continue
            one = f"{value[0]:g}" if len(value) == 1 else f"({', '.join(f'{v:g}' for v in value)})"
            inputs.append(f"{type_} inputs:{target} = {one}")
    inputs.append(f"float inputs:ior = {material.ior:.6g}")
    inputs.append(f"int inputs:useSpecularWorkflow = {int(material.spec_gloss)}")
    if material.whole(MapKind.OPACITY):
        inputs.append("float inputs:opacityThreshold = 0.5")
    return inputs, shaders


def _texture(
    material: DocumentMaterial, kind: MapKind, use: TextureBinding, at: str
) -> tuple[str, str]:
    """Return the name and text of a shader that reads a map. Scale and bias invert the file's
    encoding.
    """
    scale, bias = (1.0,) * 4, (0.0,) * 4
    if kind is MapKind.NORMAL:
        turned = -1.0 if material.normal_y is NormalY.DOWN else 1.0
        scale, bias = (2.0, 2.0 * turned, 2.0, 1.0), (-1.0, -turned, -1.0, 0.0)
    elif use.inverted != (kind is MapKind.GLOSSINESS):
        scale, bias = (-1.0,) * 4, (1.0,) * 4
    if kind is MapKind.HEIGHT and not material.height_in_metres:
        depth, mid = material.depth, material.height_mid
        scale, bias = (depth * scale[0],) * 4, (depth * (bias[0] - mid),) * 4
    name = "".join(word.capitalize() for word in kind.value.split("_"))
    color = kind.facts.meaning is Meaning.COLOR
    space = "sRGB" if color and use.srgb else "raw"
    data_out = "r" if use.channels == 1 else use.letters.lower()
    given = f"float outputs:{data_out}" if kind.facts.meaning is Meaning.DATA \
        else "float3 outputs:rgb"  # fmt: skip
    return (
        name,
        f'''
        def Shader "{name}"
        {{
            uniform token info:id = "UsdUVTexture"
            asset inputs:file = @./{use.file}@
            float4 inputs:scale = ({", ".join(f"{v:g}" for v in scale)})
            float4 inputs:bias = ({", ".join(f"{v:g}" for v in bias)})
            token inputs:sourceColorSpace = "{space}"
            float2 inputs:st.connect = <{at}/Coordinates.outputs:result>
            token inputs:wrapS = "repeat"
            token inputs:wrapT = "repeat"
            {given}
        }}
''',
    )


def read_usda_files(path: Path) -> list[str]:
    """Return the names of the files that a stage refers to.

    Raises
    ------
    DamagedPictureError : if the stage is invalid
    """
    text = path.read_text("utf-8", errors="replace")
    if not text.startswith("#usda 1.0") or text.count("{") != text.count("}"):
        raise DamagedPictureError(f"{path.name} isn't a valid .usda file. Deliver it again")
    return list(dict.fromkeys(re.findall(r"@\./([^@]+)@", text)))


def read_usdz_files(path: Path) -> dict[str, str]:
    """Return the SHA-256 of every picture in a package by its name.

    Raises
    ------
    DamagedPictureError : if the package is invalid
    """
    try:
        with zipfile.ZipFile(path) as package:
            return {
                one.filename: hashlib.sha256(package.read(one)).hexdigest()
                for one in package.infolist()[1:]
            }
    except (zipfile.BadZipFile, OSError, ValueError) as error:
        raise DamagedPictureError(
            f"{path.name} isn't a valid .usdz file. Deliver it again"
        ) from error
