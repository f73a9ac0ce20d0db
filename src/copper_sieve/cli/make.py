"""./sieve make: create texture sets from photos and deliver them, without a server."""

from __future__ import annotations

import argparse
import json
from pathlib import Path
from typing import Any

from copper_sieve.cli import many, options
from copper_sieve.cli.progress import progress
from copper_sieve.core.detection.names import read_name
from copper_sieve.core.errors import DeliveryError, ManifestError, ParameterError
from copper_sieve.core.export.assay import read_manifest
from copper_sieve.core.export.export_plan import ExportPlan
from copper_sieve.core.export.stager import Delivered
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.library import documents
from copper_sieve.library.map_set import MapSet
from copper_sieve.settings import load_settings
from copper_sieve.store.cache import MemoryCache

_KEPT_BYTES = 2 * 1024**3  # of maps that the next target may use


def run(arguments: argparse.Namespace) -> int:
    """Deliver to every target; nothing is written before all of them are checked."""
    if many.is_many(arguments):
        return many.run(arguments)
    if arguments.photo is None:
        raise ParameterError(
            "No picture given. Give a photo with its maps, a folder, or --list FILE"
        )
    presets = [documents.target(target) for target in dict.fromkeys(arguments.target)]
    if arguments.out.exists() and not arguments.out.is_dir():
        raise DeliveryError(f"{arguments.out} is a file. Give a folder with --out")
    texture_set = MapSet.from_files(
        arguments.photo,
        *arguments.maps,
        name=arguments.set_name,
        normal_y=arguments.normal_y,
        wrap=options.wrap_of(arguments),
        relief=arguments.relief,
        limits=load_settings().limits,
    )
    if arguments.model:
        texture_set = texture_set.for_model(
            arguments.model, material=arguments.material, uv_set=arguments.uv,
            limits=load_settings().model_limits,
        )  # fmt: skip
    guesses = options.remarks(texture_set.notes)
    if arguments.prepare:
        texture_set = texture_set.prepared(arguments.prepare)
    notes: list[str] = []
    if arguments.recipe:
        before = len(texture_set.notes)
        texture_set = texture_set.with_recipe(arguments.recipe)
        notes = options.remarks(texture_set.notes[before:])
    exports = [texture_set.plan(preset, arguments.size) for preset in presets]
    folders = [_folder(arguments, export, texture_set.name) for export in exports]
    options.print_remarks(guesses)
    results = []
    cache = MemoryCache(_KEPT_BYTES) if len(exports) > 1 else None
    for export, folder in zip(exports, folders, strict=True):
        with progress(export.preset.id, quiet=arguments.json) as report:
            delivered = texture_set.deliver(export, folder, cache=cache, on_progress=report)
        results.append(_summary(export, folder, delivered))
    if arguments.json:
        overview = _overview(texture_set.name, dict(texture_set.files), results)
        notes_by_kind = {
            "recipe_notes": [one.removeprefix("recipe, ") for one in notes],
            "remarks": guesses,
        }
        print(json.dumps({**overview, **notes_by_kind}, indent=2))
    else:
        for note in notes:
            print(note)
        for result in results:
            same = f", {result['kept']} unchanged" if result["kept"] else ""
            print(f"{result['folder']}: {len(result['files'])} files{same}, all channels verified")
            for remark in result["remarks"]:
                print(f"  {remark}")
    return 0


def _folder(arguments: argparse.Namespace, export: ExportPlan, name: str) -> Path:
    """Return the output folder of a target; tiles of one material share a folder.

    Raises DeliveryError if the folder contains another set, which would be replaced.
    """
    folder: Path = arguments.out / export.preset.id
    alone = export.geometry.sheet is None
    if alone and read_name(arguments.photo.stem).tile is not None:
        folder /= name
    try:
        there = read_manifest(folder)
    except ManifestError:
        return folder
    if there.set != name:
        raise DeliveryError(
            f"{folder} contains the set {there.set}, and {name} would replace it. Give "
            f"another folder with --out, or --set {there.set} if both are the same set"
        )
    return folder


def _overview(
    name: str, taken: dict[MapKind, Path], results: list[dict[str, Any]]
) -> dict[str, Any]:
    """Return the JSON result: files and verification of all targets, then per target."""
    return {
        "set": name,
        "maps_from": {kind.value: str(path) for kind, path in taken.items()},
        "files": [file for result in results for file in result["files"]],
        "assay": {
            "ok": all(result["assay"]["ok"] for result in results),
            "files": [file for result in results for file in result["assay"]["files"]],
        },
        "targets": results,
    }


def _summary(export: ExportPlan, folder: Path, delivered: Delivered) -> dict[str, Any]:
    manifest = delivered.manifest
    return {
        "target": export.preset.id,
        "folder": str(folder),
        "manifest": str(folder / "manifest.json"),
        "normal_y": export.preset.normal_y,
        "files": [
            {
                **entry.model_dump(mode="json"),
                "path": str(folder / entry.name),
                "target": export.preset.id,
            }
            for entry in manifest.entries
        ],
        "written": delivered.written,
        "kept": delivered.kept,
        "remarks": list(manifest.remarks),
        "assay": delivered.assay.model_dump(mode="json"),
    }
