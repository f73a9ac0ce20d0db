"""Documents of a delivery: description, writing, verification."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from copper_sieve.core.codecs.checksums import file_sha256
from copper_sieve.core.codecs.documents.gltf import (
    CORE_FACTORS,
    maps_supported_by_gltf,
    read_glb_images,
    read_gltf_files,
)
from copper_sieve.core.codecs.documents.material import DocumentMaterial, TextureBinding
from copper_sieve.core.codecs.documents.materialx import (
    encode_materialx,
    maps_supported_by_materialx,
    read_materialx_files,
)
from copper_sieve.core.codecs.documents.usd import (
    encode_usda,
    encode_usdz,
    maps_supported_by_usd,
    read_usda_files,
    read_usdz_files,
)
from copper_sieve.core.errors import SieveError
from copper_sieve.core.export.export_plan import PackedFile
from copper_sieve.core.image.map_kind import MapKind, Meaning
from copper_sieve.core.image.raster import Encoding
from copper_sieve.core.models.assay import FileCheck
from copper_sieve.core.models.changes import Invert
from copper_sieve.core.models.manifest import DocumentEntry, Manifest
from copper_sieve.core.models.texture_set import Constant, SetDefinition
from copper_sieve.core.operations.reflectance.specular_level import ior_from_f0
from copper_sieve.core.targets.target_preset import DocumentSpec, TargetPreset

_HIGHEST_F0 = 0.9  # above it, the index of refraction has no meaning


def material_of(
    texture_set: SetDefinition,
    preset: TargetPreset,
    size: tuple[int, int],
    files: Sequence[PackedFile],
) -> DocumentMaterial:
    """Return the material that the files of a target represent together.

    Parameters
    ----------
    texture_set : values of the surface
    preset : the target
    size : width and height of the files in texels
    files : packed files

    Returns
    -------
    DocumentMaterial
    """
    surface, sheet = texture_set.surface, texture_set.sheet
    width = surface.tile_size / (sheet.columns if sheet else 1)
    present = {slot.map for file in files for slot in file.slots.values()}
    uses = {kind: use for kind in MapKind.in_order(present - {None}) if (use := _use(files, kind))}
    values = {
        kind: one.value
        for kind, one in texture_set.maps.items()
        if isinstance(one, Constant) and kind not in uses
    }
    return DocumentMaterial(
        name=texture_set.name,
        width=width,
        height=width * size[1] / size[0],
        depth=surface.depth or 0.0,
        uses=uses,
        values=values,
        normal_y=preset.normal_y,
        spec_gloss=preset.workflow == "spec_gloss",
        ior=ior_from_f0(min(values.get(MapKind.F0, (preset.dielectric_f0,))[0], _HIGHEST_F0)),
        height_mid=preset.height_mid,
        height_in_metres=preset.height_unit == "metres"
        and MapKind.HEIGHT in uses
        and uses[MapKind.HEIGHT].floating,
    )


def _use(files: Sequence[PackedFile], kind: MapKind) -> TextureBinding | None:
    """Return the first file that contains all components of a map, unchanged or all inverted."""
    for file in files:
        letters, inverted = "", set()
        for component in kind.facts.stored_components:
            for letter, slot in file.slots.items():
                plain = all(isinstance(change, Invert) for change in slot.changes)
                if slot.map is kind and slot.component == component and plain and not slot.times:
                    letters += letter
                    inverted.add(len(slot.changes) % 2 == 1)
                    break
        if len(letters) == len(kind.facts.stored_components) and len(inverted) == 1:
            srgb = file.spec.encoding is Encoding.SRGB and "A" not in letters
            return TextureBinding(
                file.pattern or file.name,
                letters,
                len(file.slots),
                inverted.pop(),
                srgb,
                file.spec.floating,
            )
    return None


def maps_in_document(material: DocumentMaterial, spec: DocumentSpec) -> list[MapKind]:
    """Return the maps that a document of this format can use."""
    if spec.format in ("glb", "gltf"):
        return maps_supported_by_gltf(material)
    if spec.format == "materialx":
        return maps_supported_by_materialx(material, spec.model)
    return maps_supported_by_usd(material)


def values_in_document(material: DocumentMaterial, spec: DocumentSpec) -> list[MapKind]:
    """Return the constant maps without a texture that a document of this format contains."""

    def has_place(kind: MapKind) -> bool:
        facts = kind.facts
        if kind is MapKind.F0:
            return True
        if spec.format in ("glb", "gltf"):
            factor = facts.gltf and facts.gltf.factor
            return bool(factor) or facts.planar or kind in CORE_FACTORS
        if facts.meaning is Meaning.NORMAL or kind is MapKind.HEIGHT:
            return False
        return bool(getattr(facts, spec.model) if spec.format == "materialx" else facts.usd)

    return [kind for kind in material.values if has_place(kind)]


def maps_left_out(
    material: DocumentMaterial, spec: DocumentSpec, files: Sequence[PackedFile]
) -> list[MapKind]:
    """Return the maps that the files contain but the document can't refer to."""
    there = {kind for file in files for slot in file.slots.values() for kind in slot.maps}
    taken = set(maps_in_document(material, spec))
    if spec.format in ("glb", "gltf"):
        there.discard(MapKind.HEIGHT)  # glTF knows none
    return [kind for kind in MapKind.in_order(there - taken) if kind.facts.in_documents]


def write_document(
    folder: Path, name: str, spec: DocumentSpec, material: DocumentMaterial
) -> DocumentEntry:
    """Write a document into the folder that contains the textures."""
    path = folder / name
    if spec.format in ("glb", "gltf"):
        # Here, since its library takes long to load and few targets write glTF.
        from copper_sieve.core.codecs.documents.gltf_writing import encode_gltf

        data = encode_gltf(material, folder, one_file=spec.format == "glb")
    elif spec.format == "materialx":
        data = encode_materialx(material, spec.model)
    elif spec.format == "usda":
        data = encode_usda(material)
    else:
        data = encode_usdz(material, folder, name)
    path.write_bytes(data)
    return DocumentEntry(
        name=name,
        sha256=file_sha256(path),
        bytes=path.stat().st_size,
        format=spec.format,
        textures=tuple(material.textures(maps_in_document(material, spec))),
    )


def check_document(folder: Path, entry: DocumentEntry, manifest: Manifest) -> FileCheck:
    """Check that a document is valid and embeds or refers to the delivered textures."""
    path = folder / entry.name
    if not path.is_file():
        return FileCheck(name=entry.name, ok=False, problems=("the file is missing",))
    problems = []
    try:
        expected = {file.name: file.sha256 for file in manifest.files}
        tiles = sorted({file.tile for file in manifest.files if file.tile})
        inside = _textures_of(path, entry.format)
        for texture in entry.textures:
            key = Path(texture).stem if entry.format == "glb" else texture
            if key not in inside:
                problems.append(f"it doesn't refer to the texture {texture}")
            elif "<UDIM>" in texture:
                named = (texture.replace("<UDIM>", str(tile)) for tile in tiles)
                problems += [f"the file {one} is missing" for one in named if one not in expected]
            elif inside[key] not in (None, expected[texture]):
                problems.append(f"the embedded texture {texture} differs from the file")
        if len(inside) > len(entry.textures) and not problems:
            problems.append("it refers to textures that aren't in the manifest")
    except SieveError as error:
        problems.append(error.message)
    if not problems and file_sha256(path) != entry.sha256:
        problems.append("its bytes differ from the manifest")
    return FileCheck(name=entry.name, ok=not problems, problems=tuple(problems))


def _textures_of(path: Path, format_: str) -> dict[str, str | None]:
    """Return the textures of a document by name, with the SHA-256 of embedded ones."""
    if format_ == "glb":
        return dict(read_glb_images(path))
    if format_ == "usdz":
        return dict(read_usdz_files(path))
    reader = {"gltf": read_gltf_files, "materialx": read_materialx_files}.get(
        format_, read_usda_files
    )
    return dict.fromkeys(reader(path))
