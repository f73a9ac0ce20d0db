"""Delivered textures in a model's own file."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import partial
from pathlib import Path

from copper_sieve.core.codecs.checksums import file_sha256
from copper_sieve.core.codecs.gltf_file import GltfFile
from copper_sieve.core.codecs.meshes.attaching import Attached
from copper_sieve.core.codecs.meshes.attaching import attach as attach_to
from copper_sieve.core.codecs.meshes.failing import told_as_damaged
from copper_sieve.core.codecs.meshes.reading import read_model
from copper_sieve.core.errors import MeshError, WriteError
from copper_sieve.core.export.assay import read_manifest
from copper_sieve.core.models.naming import slug
from copper_sieve.library.placing import place_whole

_ENDINGS = (".glb", ".gltf")


def attach(
    model: Path | str,
    deliveries: Mapping[str, Path | str] | Sequence[Path | str],
    out: Path | str,
    *,
    uv_set: int = 0,
    tangents: bool = False,
) -> tuple[str, ...]:
    """Write a glTF model back with delivered textures in it; all else of it stays as it is.

    deliveries : folders of deliveries to a target with a glTF document, by the name of the material
        that each is for, or alone: then for the material that is called as the set
    out : a .glb, with all of it inside, or a .gltf, with files beside it
    uv_set : the UVs that the textures were made for
    tangents : MikkTSpace tangents are written into it
    Returns what stayed that one might not expect, a sentence each. Raises MeshError, ManifestError,
    WriteError; then nothing was written.
    """
    source, target = Path(model), Path(out)
    for path in (source, target):
        if path.suffix.lower() not in _ENDINGS:
            raise MeshError(
                f"{path.name}: textures go into a .glb or .gltf; convert the model first"
            )
    if target.exists() and source.exists() and target.samefile(source):
        raise WriteError(f"{target} is the model itself: give another name, so that it stays")
    read_model(source)  # what is wrong with it is told before anything is written
    file = GltfFile.read(source)
    found = attach_to(
        file,
        _documents(deliveries, file.material_names),
        target.name,
        uv_set=uv_set,
        tangents=tangents,
    )
    _write(found, source, target)
    return found.remarks


def _documents(
    deliveries: Mapping[str, Path | str] | Sequence[Path | str], names: Sequence[str]
) -> dict[str, GltfFile]:
    found: dict[str, GltfFile] = {}
    by_name = deliveries.items() if isinstance(deliveries, Mapping) else [
        (None, one) for one in deliveries
    ]  # fmt: skip
    for name, folder in by_name:
        manifest = read_manifest(Path(folder))
        entry = next(
            (one for kind in ("glb", "gltf") for one in manifest.documents if one.format == kind),
            None,
        )
        if entry is None:
            raise MeshError(
                f"{folder} has no glTF document: deliver to a target that writes one, such as "
                "gltf-metal-rough"
            )
        path = Path(folder) / entry.name
        if not path.is_file() or file_sha256(path) != entry.sha256:
            raise MeshError(f"{path} is not there as it was delivered: deliver it again")
        called = next((one for one in names if slug(one) == manifest.set), manifest.set)
        with told_as_damaged(path.name):
            found[name or called] = GltfFile.read(path)
    return found


def _write(found: Attached, source: Path, target: Path) -> None:
    """All files beside their places first; those that are there already and the same stay."""
    files = {**{target.parent / name: data for name, data in found.beside.items()},
             target: found.data}  # fmt: skip
    for path in files:
        if path.resolve().parent != target.parent.resolve() and not path.resolve().is_relative_to(
            target.parent.resolve()
        ):
            raise WriteError(f"{source.name} names {path.name} outside its folder")
    place_whole({path: partial(Path.write_bytes, data=data) for path, data in files.items()})
