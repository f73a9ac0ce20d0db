"""Write a model with delivered textures."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import partial
from pathlib import Path

from copper_sieve.core.codecs.checksums import file_sha256
from copper_sieve.core.codecs.documents.usd import pack_usdz
from copper_sieve.core.codecs.gltf_file import GltfFile
from copper_sieve.core.codecs.meshes.assigning import encode_assignments, encode_usd_model
from copper_sieve.core.codecs.meshes.attaching import Attached
from copper_sieve.core.codecs.meshes.attaching import attach as attach_to
from copper_sieve.core.codecs.meshes.damage import reported_as_damaged
from copper_sieve.core.codecs.meshes.limits import ModelLimits
from copper_sieve.core.codecs.meshes.reading import read_model
from copper_sieve.core.errors import MeshError, WriteError
from copper_sieve.core.export.assay import read_manifest
from copper_sieve.core.mesh.coverage import Coverage
from copper_sieve.core.mesh.mesh import Mesh
from copper_sieve.core.models.manifest import DocumentEntry, Manifest
from copper_sieve.core.models.naming import slug
from copper_sieve.core.models.texture_set import SetDefinition
from copper_sieve.library.sources import Note
from copper_sieve.library.writing import write_atomically

_GLTF = (".glb", ".gltf")
_AT_REST = ("animations", "skins", "cameras")
_OTHERWISE = "{} was modified since it was delivered. Deliver it again"
# For each ending the documents that it takes surfaces from, and a target that writes one.
_KINDS = {
    ".glb": (("glb", "gltf"), "gltf-metal-rough"),
    ".gltf": (("glb", "gltf"), "gltf-metal-rough"),
    ".usda": (("usda",), "usd-preview"),
    ".usdz": (("usda",), "usd-preview"),
    ".mtlx": (("materialx",), "openpbr-separate"),
}


def attach(
    model: Path | str,
    deliveries: Mapping[str, Path | str] | Sequence[Path | str],
    out: Path | str,
    *,
    uv_set: int = 0,
    tangents: bool = False,
) -> tuple[str, ...]:
    """Write a model with delivered textures as glTF, USD or MaterialX.

    Parameters
    ----------
    model : Path or str, for glTF output a .glb or .gltf file, whose other content is unchanged.
        Otherwise any supported model; its triangles are written in rest pose and in meters
    deliveries : mapping of str to Path or str, or sequence of Path or str, delivered folders by
        material name. In a sequence, each is used for the material named like its set
    out : Path or str, .glb or .usdz (all embedded), .gltf, .usda or .mtlx (separate textures)
    uv_set : int, number of the UV set that the textures use, from 0
    tangents : bool, write MikkTSpace tangents (glTF only)

    Returns
    -------
    tuple of str, a sentence for each skipped or unexpected item

    Raises
    ------
    MeshError : if the model can't be read, or a delivery doesn't fit it
    ManifestError, WriteError : without a valid manifest, or if writing fails; nothing is written
    """
    source, target = Path(model), Path(out)
    ending = target.suffix.lower()
    if ending not in _KINDS:
        raise MeshError(
            f"{target.name}: textures can be embedded in .glb, .gltf, .usda and .usdz files, "
            "and assigned in .mtlx files"
        )
    if target.exists() and source.exists() and target.samefile(source):
        raise WriteError(f"{target} is the input model. Choose another output name")
    mesh = read_model(source)  # report problems before writing anything
    if ending in _GLTF:
        if source.suffix.lower() not in _GLTF:
            raise MeshError(
                f"{source.name}: .glb files can only be written from a .glb or .gltf model. "
                "Convert the model first, or write a .usdz"
            )
        file = GltfFile.read(source)
        found = attach_to(
            file,
            _gltf_documents(_documents(deliveries, file.material_names, ending, source.name)),
            target.name,
            uv_set=uv_set,
            tangents=tangents,
        )
    else:
        if tangents:
            raise MeshError(f"{target.name}: tangents can only be written to .glb and .gltf files")
        documents = _documents(deliveries, mesh.material_names, ending, source.name)
        found = _assigned(mesh, source, target, documents, uv_set)
    _write(found, source, target)
    return found.remarks


def coverage_of(
    path: Path,
    definition: SetDefinition,
    material: str | None,
    uv_set: int,
    limits: ModelLimits | None,
) -> tuple[Coverage, list[Note]]:
    """Return the UV islands of a model that a set is padded around; see `MapSet.for_model`."""
    mesh = read_model(path, limits)
    chosen, notes = material, []
    if material is None and len(mesh.material_names) > 1:
        chosen = next((one for one in mesh.material_names if slug(one) == definition.name), None)
        count, whose = len(mesh.material_names), chosen or "all of them"
        text = f"{path.name} has {count} materials: padded by the UV islands of {whose}"
        notes = [Note(text, "material")]
    label = path.name if chosen is None else f"{path.name}, {chosen}"
    return Coverage.of(mesh, label, chosen, uv_set, definition.sheet), notes


@dataclass(frozen=True, slots=True)
class _Document:
    """A delivered document."""

    path: Path
    entry: DocumentEntry
    manifest: Manifest

    def textures(self) -> dict[str, bytes]:
        """Return the files that a document names, with the tiles of a name pattern."""
        named = {one.replace("<UDIM>", str(file.tile))
                 for one in self.entry.textures for file in self.manifest.files}  # fmt: skip
        found = {}
        for file in self.manifest.files:
            path = self.path.parent / file.name
            if file.name not in named:
                continue
            if not path.is_file() or file_sha256(path) != file.sha256:
                raise MeshError(_OTHERWISE.format(path))
            found[file.name] = path.read_bytes()
        return found


def _documents(
    deliveries: Mapping[str, Path | str] | Sequence[Path | str],
    names: Sequence[str],
    ending: str,
    model: str,
) -> dict[str, _Document]:
    found: dict[str, _Document] = {}
    by_name = deliveries.items() if isinstance(deliveries, Mapping) else [
        (None, one) for one in deliveries
    ]  # fmt: skip
    kinds, example = _KINDS[ending]
    for name, folder in by_name:
        manifest = read_manifest(Path(folder))
        entry = next((one for kind in kinds for one in manifest.documents if one.format == kind),
                     None)  # fmt: skip
        if entry is None:
            raise MeshError(
                f"{folder} has no document that a {ending} file can use. Deliver to a target "
                f"that writes one, such as {example}"
            )
        path = Path(folder) / entry.name
        if not path.is_file() or file_sha256(path) != entry.sha256:
            raise MeshError(_OTHERWISE.format(path))
        called = name or next((one for one in names if slug(one) == manifest.set), manifest.set)
        if called not in names:
            has = ", ".join(names) or "none"
            raise MeshError(f"{model} has no material named {called}. It has: {has}")
        found[called] = _Document(path, entry, manifest)
    return found


def _gltf_documents(documents: Mapping[str, _Document]) -> dict[str, GltfFile]:
    found = {}
    for name, one in documents.items():
        with reported_as_damaged(one.path.name):
            found[name] = GltfFile.read(one.path)
    return found


def _assigned(
    mesh: Mesh, source: Path, target: Path, documents: Mapping[str, _Document], uv_set: int
) -> Attached:
    """Write a model and its surfaces as USD, or the surfaces alone as MaterialX."""
    if uv_set >= len(mesh.uvs):
        raise MeshError(f"{source.name} has {len(mesh.uvs)} UV sets, numbered from 0")
    name = target.stem.partition(".")[0]
    textures: dict[str, bytes] = {}
    for one in documents.values():
        for file, data in one.textures().items():
            if textures.setdefault(file, data) != data:
                raise MeshError(
                    f"two deliveries contain different files named {file}. Rename one of the sets"
                )
    if target.suffix.lower() == ".usdz" and any("<UDIM>" in one for document in documents.values()
                                                for one in document.entry.textures):  # fmt: skip
        raise MeshError(f"{target.name}: USD packages don't support tiles. Write a .usda")
    remarks = mesh.remarks
    bare = [one for one in mesh.material_names if one not in documents]
    if bare:
        remarks += (f"no textures for {', '.join(bare)}",)
    if target.suffix.lower() == ".mtlx":
        surfaces = {called: one.path.read_bytes() for called, one in documents.items()}
        return Attached(encode_assignments(name, mesh, surfaces, uv_set=uv_set), textures, remarks)
    stages = {called: one.path.read_text("utf-8") for called, one in documents.items()}
    stage = encode_usd_model(name, mesh, stages, uv_set=uv_set)
    if source.suffix.lower() in _GLTF:
        own = [one for one in _AT_REST if GltfFile.read(source).document.get(one)]
        if own:
            remarks += (
                (
                    f"{', '.join(own)} aren't converted to USD, which gets the model in its rest "
                    "pose"
                ),
            )
    if target.suffix.lower() == ".usda":
        return Attached(stage, textures, remarks)
    return Attached(pack_usdz(f"{name}.usda", stage, textures), {}, remarks)


def _write(found: Attached, source: Path, target: Path) -> None:
    """Write all files to temporary names first; identical existing files are kept."""
    files = {**{target.parent / name: data for name, data in found.side_files.items()},
             target: found.data}  # fmt: skip
    for path in files:
        if path.resolve().parent != target.parent.resolve() and not path.resolve().is_relative_to(
            target.parent.resolve()
        ):
            raise WriteError(f"{source.name} refers to {path.name} outside its folder")
    write_atomically({path: partial(Path.write_bytes, data=data) for path, data in files.items()})
