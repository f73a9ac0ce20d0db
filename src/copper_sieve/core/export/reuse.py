"""Files of an earlier delivery that would be unchanged.

A file's `written_key` covers its content and encoding, so equality is known without computing the
bytes. Files on disk are only trusted if their SHA-256 matches the manifest.
"""

from __future__ import annotations

import hashlib
import json
import os
import shutil
from collections.abc import Mapping
from dataclasses import asdict, dataclass, field, replace
from pathlib import Path
from typing import Any

from copper_sieve.core.codecs.checksums import known_sha256
from copper_sieve.core.errors import ForeignFileError, ManifestError
from copper_sieve.core.export.assay import check_file, read_manifest
from copper_sieve.core.export.atomic_swap import names_in_folder
from copper_sieve.core.export.documents import check_document, material_of
from copper_sieve.core.export.export_plan import ExportPlan, PackedFile
from copper_sieve.core.graph.node import Plan
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.models.assay import FileCheck
from copper_sieve.core.models.manifest import (
    FILE_NAME,
    DocumentEntry,
    FileEntry,
    LeftEntry,
    Manifest,
)

_FILE_VERSION = 1  # a change of how maps become a file's codes or bytes needs a new one
_DOCUMENT_VERSION = 1  # and one of how documents are written


def file_key(export: ExportPlan, graph: Plan, file: PackedFile) -> str:
    """Return a key that is equal for files with equal name, codes and format.

    Parameters
    ----------
    export : plan of the files
    graph : of the whole plan; its content keys represent the pixels of the maps
    file : the file

    Returns
    -------
    str
    """
    preset, surface = export.preset, export.texture_set.surface
    metres = preset.height_unit == "metres" and MapKind.HEIGHT in _kinds(file)
    return _digest({
        "version": _FILE_VERSION,
        "name": file.name,
        "spec": file.spec.model_dump(mode="json"),
        "size": file.size,
        "largest": export.largest,
        "slots": {letter: slot.model_dump(mode="json") for letter, slot in file.slots.items()},
        "maps": {kind: graph.outputs[kind] for kind in replace(export, files=(file,)).wanted},
        "conventions": [preset.normal_y, preset.height_mid],
        "depth": [surface.depth or graph.depth, surface.tile_size] if metres else None,
        "padding": [preset.padding.model_dump(mode="json"), str(surface.wrap)],
        "reduction": export.reduction,
        **({"coverage": export.coverage.key} if export.coverage else {}),
        **({"tile": file.tile} if file.tile else {}),
    })  # fmt: skip


def document_key(export: ExportPlan, graph: Plan, n: int, file_keys: Mapping[str, str]) -> str:
    """Return a key that is equal for equal documents with equal textures."""
    material = material_of(export.texture_set, export.preset, export.size, export.files)
    return _digest({
        "version": _DOCUMENT_VERSION,
        "name": export.documents[n],
        "spec": export.preset.documents[n].model_dump(mode="json"),
        "material": asdict(material),
        "depth": graph.depth,
        "files": dict(file_keys),
    })  # fmt: skip


def _kinds(file: PackedFile) -> set[MapKind]:
    return {kind for slot in file.slots.values() for kind in slot.maps}


def _digest(held: dict[str, Any]) -> str:
    text = json.dumps(held, sort_keys=True, default=str)
    return hashlib.sha256(text.encode()).hexdigest()[:32]


@dataclass(frozen=True, slots=True)
class ReusableFiles:
    """Files of an earlier delivery that don't need to be written again.

    files, documents : unchanged entries of its manifest, by name
    checks : verification of each of them
    left : files that the new delivery doesn't contain; kept until the user deletes them
    theirs : such files that someone modified since; they are kept
    manifest : of the earlier delivery, or None
    """

    folder: Path
    files: dict[str, FileEntry] = field(default_factory=dict)
    documents: dict[str, DocumentEntry] = field(default_factory=dict)
    checks: dict[str, FileCheck] = field(default_factory=dict)
    left: tuple[LeftEntry, ...] = ()
    theirs: tuple[str, ...] = ()
    manifest: Manifest | None = None

    def missing(self, export: ExportPlan) -> tuple[PackedFile, ...]:
        """Return the files of a plan that must be written."""
        return tuple(file for file in export.files if file.name not in self.files)

    def depth(self, graph: Plan) -> float | None:
        """Return the depth of the height in meters that was measured for equal inputs, or None."""
        if self.manifest and graph.depth and self.manifest.depth_key == graph.depth:
            return self.manifest.surface.depth
        return None

    def disk_state(self, name: str, sha256: str) -> bool:
        """Return True if a document with this SHA-256 exists."""
        held = self.manifest.documents if self.manifest else ()
        return any(
            one.name == name and one.sha256 == sha256 and _is_whole(self.folder, one)
            for one in held
        )

    def bring(self, name: str, working: Path) -> None:
        """Link or copy an unchanged file into the working folder; a link keeps its inode."""
        source, target = self.folder / name, working / name
        target.unlink(missing_ok=True)
        try:
            os.link(source, target, follow_symlinks=False)
        except OSError:
            shutil.copy2(source, target, follow_symlinks=False)


def manifest_in(folder: Path, name: str = FILE_NAME) -> Manifest | None:
    """Return the manifest of an earlier delivery, or None."""
    try:
        return read_manifest(folder, name)
    except ManifestError:
        return None


def is_intact(
    folder: Path,
    manifest: Manifest | None,
    export: ExportPlan,
    graph: Plan,
    *,
    proven: Mapping[str, FileCheck] | None = None,
    rewrite: bool = False,
    delete_obsolete: bool = False,
) -> ReusableFiles:
    """Return the reusable files of an earlier delivery in a folder.

    Parameters
    ----------
    folder : output folder
    manifest : of the earlier delivery, or None
    export : the new plan
    graph : its operations
    proven : verification results by SHA-256, so that these files aren't decoded again
    rewrite : write unchanged files
    delete_obsolete : delete files that the new delivery no longer contains

    Returns
    -------
    ReusableFiles
    """
    if manifest is None:
        return ReusableFiles(folder)
    keys, wanted = _keys(export, graph)
    left = _left(folder, manifest, {*keys, *wanted})
    whole = tuple(one for one in left if _is_whole(folder, one))
    found = ReusableFiles(
        folder,
        left=() if delete_obsolete else whole,
        theirs=tuple(one.name for one in left if one not in whole),
        manifest=manifest,
    )
    if rewrite:
        return found
    known = proven or {}
    for file in manifest.files:
        if keys.get(file.name) == file.written_key and _is_whole(folder, file):
            check = known.get(file.sha256) or check_file(folder, file)
            if check.ok:
                found.files[file.name], found.checks[file.name] = file, check
    for one in manifest.documents if len(found.files) == len(keys) else ():
        if wanted.get(one.name) == one.written_key and _is_whole(folder, one):
            check = known.get(one.sha256) or check_document(folder, one, manifest)
            if check.ok:
                found.documents[one.name], found.checks[one.name] = one, check
    return found


def modified_names(manifest: Manifest, export: ExportPlan, graph: Plan) -> tuple[int, int]:
    """Return how many files and documents of a plan differ from a manifest, and their total number.

    Only the manifest is read.
    """
    keys = {name: key for some in _keys(export, graph) for name, key in some.items()}
    held = {one.name: one.written_key for one in manifest.files}
    held |= {one.name: one.written_key for one in manifest.documents}
    return sum(1 for name, key in keys.items() if held.get(name) != key), len(keys)


def unchanged_names(
    folder: Path, manifest: Manifest, export: ExportPlan, graph: Plan, manifest_name: str
) -> set[str]:
    """Return the names of a plan's files that exist unchanged in the folder.

    They are compared by the keys in the manifest and their sizes on disk, without decoding.
    """
    keys = {name: key for some in _keys(export, graph) for name, key in some.items()}
    same = {
        one.name
        for one in manifest.entries
        if one.written_key and keys.get(one.name) == one.written_key and _has_size(folder, one)
    }
    return {*same, manifest_name} if same == set(keys) else same


def _has_size(folder: Path, entry: FileEntry | DocumentEntry) -> bool:
    try:
        return (folder / entry.name).stat().st_size == entry.bytes
    except OSError:
        return False


def _keys(export: ExportPlan, graph: Plan) -> tuple[dict[str, str], dict[str, str]]:
    """Return the keys of a plan's files and documents, by name."""
    files = {file.name: file_key(export, graph, file) for file in export.files}
    return files, {
        name: document_key(export, graph, n, files) for n, name in enumerate(export.documents)
    }


def replaced_files(
    folder: Path, export: ExportPlan, manifest_name: str = FILE_NAME
) -> dict[str, str]:
    """Return what happens to each file in a folder; see `disk_states`.

    Raises
    ------
    ForeignFileError : if another program's file has the name of an output file
    """
    return disk_states(folder, manifest_in(folder, manifest_name), export, manifest_name)


def disk_states(
    folder: Path, manifest: Manifest | None, export: ExportPlan, manifest_name: str
) -> dict[str, str]:
    """Return what happens to each file in a folder.

    "new"; "replaces": a file of an earlier delivery is replaced; "foreign": another program's file
    blocks it; "left": an earlier delivery wrote it and this one doesn't.
    """
    if folder.exists() and not folder.is_dir():
        raise ForeignFileError(f"{folder} is a file. Move it or choose another folder")
    names = [*(file.name for file in export.files), *export.documents, manifest_name]
    ours = names_in_folder(manifest, manifest_name)
    states = {True: "replaces", False: "foreign"}
    found = {name: states[name in ours] if (folder / name).exists() else "new" for name in names}
    return {**found, **dict.fromkeys(kept_names(folder, manifest, export), "left")}


def kept_names(folder: Path, manifest: Manifest | None, export: ExportPlan) -> list[str]:
    """Return the files of an earlier delivery that a plan doesn't contain."""
    if manifest is None:
        return []
    names = {*(file.name for file in export.files), *export.documents}
    return [one.name for one in _left(folder, manifest, names)]


def _left(folder: Path, manifest: Manifest, names: set[str]) -> list[LeftEntry]:
    """Return other existing files of an earlier delivery."""
    return [
        LeftEntry(name=one.name, sha256=one.sha256, bytes=one.bytes)
        for one in (*manifest.entries, *manifest.left)
        if one.name not in names and (folder / one.name).is_file()
    ]


def _is_whole(folder: Path, entry: FileEntry | DocumentEntry | LeftEntry) -> bool:
    path = folder / entry.name
    try:
        return path.stat().st_size == entry.bytes and known_sha256(path) == entry.sha256
    except OSError:
        return False
