"""Delivered textures in a model's own file."""

from __future__ import annotations

import os
from collections.abc import Mapping, Sequence
from pathlib import Path

from copper_sieve.core.codecs.checksums import file_sha256
from copper_sieve.core.codecs.gltf_file import UNREADABLE, GltfFile
from copper_sieve.core.codecs.meshes.attaching import Attached
from copper_sieve.core.codecs.meshes.attaching import attach as attach_to
from copper_sieve.core.codecs.meshes.reading import read_model
from copper_sieve.core.errors import DamagedModelError, MeshError, WriteError
from copper_sieve.core.export.assay import read_manifest
from copper_sieve.core.models.naming import slug

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
        try:
            found[name or called] = GltfFile.read(path)
        except UNREADABLE as error:
            raise DamagedModelError(f"{path} is no whole glTF file: deliver it again") from error
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
    working = {path: path.with_name(f".{path.name}.{os.getpid()}") for path in files}
    try:
        for path, data in files.items():
            path.parent.mkdir(parents=True, exist_ok=True)
            working[path].write_bytes(data)
        for path, one in working.items():
            one.replace(path)
    except OSError as error:
        raise WriteError(f"{target} could not be written ({error.strerror}): check it") from error
    finally:
        for one in working.values():
            one.unlink(missing_ok=True)
