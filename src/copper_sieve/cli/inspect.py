"""./sieve inspect: facts about pictures and models, as text or JSON."""

from __future__ import annotations

import argparse
import json
import sys
import tempfile
from collections.abc import Iterator
from dataclasses import asdict
from itertools import product
from pathlib import Path
from typing import Any

from copper_sieve.cli.progress import progress
from copper_sieve.core.codecs import Limits, read_spec
from copper_sieve.core.codecs.meshes.limits import MODEL_ENDINGS
from copper_sieve.core.errors import ManifestError, MeshError, PictureError
from copper_sieve.core.ingest.unpack import is_container, unpack
from copper_sieve.settings import load_settings

_ONLY_MODELS = {".obj", ".ply", ".stl"}  # glTF files also contain pictures


def run(arguments: argparse.Namespace) -> int:
    """Print an entry for each picture; status 2 if one of them can't be read."""
    limits = load_settings().limits
    with progress("looking", quiet=arguments.json):
        models = [_model(path) for path in arguments.files if _is_model(path)]
        facts = [entry for path in arguments.files for entry in _entries(path, limits)]
    failed = [entry for entry in (*models, *facts) if "error" in entry]
    if arguments.json:
        print(json.dumps({"files": facts, "models": models}, indent=2))
    for model in models:
        _tell_model(model, arguments.json)
    for entry in facts:
        if "error" in entry:
            sys.stderr.write(f"sieve: {entry['error']}\n")
        elif not arguments.json:
            kind = "float" if entry["float"] else "bit"
            print(
                f"{entry['path']}: {entry['format']}, {entry['width']} x {entry['height']}, "
                f"{''.join(entry['channel_names'])}, {entry['bit_depth']} {kind}, "
                f"{entry['encoding']} ({entry['encoding_source']})"
            )
            print(f"  {_told(entry)}")
            for remark in entry["remarks"]:
                print(f"  remark: {remark}")
    return 2 if failed else 0


def _entries(path: Path, limits: Limits) -> Iterator[dict[str, Any]]:
    """Return one entry for a file, or one per picture of a folder, a zip archive or a glTF file."""
    if path.suffix.lower() in _ONLY_MODELS:
        return
    if not is_container(path):
        yield _facts(path, limits, str(path))
        return
    with tempfile.TemporaryDirectory() as folder:
        try:
            for one in unpack(path, Path(folder), limits):
                shown = path.parent / one.inside / one.name
                yield _facts(one.path, limits, str(shown), one.name)
        except PictureError as error:
            yield {"path": str(path), "error": error.message, "code": error.code}


def _is_model(path: Path) -> bool:
    return path.suffix.lower() in MODEL_ENDINGS and path.is_file()


def _model(path: Path) -> dict[str, Any]:
    """Return facts about a model, and the problems of its UV sets."""
    from copper_sieve.core.codecs.meshes.reading import read_model
    from copper_sieve.core.mesh.uv_facts import check_uvs

    try:
        mesh = read_model(path, load_settings().model_limits)
    except MeshError as error:
        return {"path": str(path), "error": error.message, "code": error.code}
    low, high = mesh.bounds()
    sets = []
    for n, material in product(range(max(1, len(mesh.uvs))), mesh.material_names):
        islands, found = check_uvs(mesh.of_material(material), n)
        entry: dict[str, Any] = {
            "uv_set": n,
            "material": material,
            "islands": 0 if islands is None else len(islands.counts),
            "facts": [{"rule": one.rule, "weight": one.weight, "text": one.text,
                       "evidence": one.evidence} for one in found],
        }  # fmt: skip
        if islands is not None:
            density = islands.densities(1024)
            entry |= {
                "covers": round(float(islands.shares.sum()), 4),
                "texels_per_metre_at_1024": [round(float(one), 2) for one in density[:100]],
            }
        sets.append(entry)
    return {
        "path": str(path),
        "triangles": mesh.count,
        "size_metres": [round(float(one), 6) for one in high - low],
        "materials": list(mesh.material_names),
        "parts": list(mesh.part_names),
        "tangents": mesh.tangents is not None,
        "uv_sets": sets,
        "remarks": list(mesh.remarks),
    }


def _tell_model(entry: dict[str, Any], quiet: bool) -> None:
    if "error" in entry:
        sys.stderr.write(f"sieve: {entry['error']}\n")
    elif not quiet:
        size = " x ".join(f"{one:.3g}" for one in entry["size_metres"])
        print(
            f"{entry['path']}: {entry['triangles']:,} triangles, {size} m, "
            f"{len(entry['parts'])} part(s), materials {', '.join(entry['materials'])}"
        )
        for uv in entry["uv_sets"]:
            if count := uv["islands"]:
                place = f"UV set {uv['uv_set']}, {uv['material']}"
                print(f"  {place}: {count} island(s), {uv['covers']:.0%} used")
            for fact in uv["facts"]:
                print(f"  {fact['weight']}: {fact['text']} ({fact['evidence']})")
        for remark in entry["remarks"]:
            print(f"  remark: {remark}")


def _facts(path: Path, limits: Limits, shown: str, name: str | None = None) -> dict[str, Any]:
    try:
        read_spec(path, limits)  # report invalid files before loading the detection code
        from copper_sieve.core.ingest.detect import recognize_file

        read = recognize_file(path, limits, name)
    except PictureError as error:
        return {"path": shown, "error": error.message, "code": error.code}
    except OSError as error:
        return {"path": shown, "error": f"{path}: {error.strerror}", "code": "unreadable"}
    spec, found = read.spec, read.recognition
    stated = _stated_beside(path)
    return {
        "path": shown,
        "format": spec.format,
        "size": [spec.width, spec.height],
        "width": spec.width,
        "height": spec.height,
        # The number of maps; for a packed file, the map of each channel.
        "channels": {one.name: one.kind for one in found.channels} or len(spec.channels),
        "channel_names": list(spec.channels),
        "bit_depth": spec.bit_depth,
        "float": spec.floating,
        "encoding": stated or spec.encoding,
        "encoding_source": "manifest" if stated else spec.encoding_source,
        "bytes": path.stat().st_size,
        "set": found.stem,
        "map": found.map,
        "confidence": found.confidence,
        "reason": found.reason,
        "packed": [asdict(one) for one in found.channels],
        "normal_y": found.normal_y,
        "normal_confidence": found.normal_confidence,
        "normal_reason": found.normal_reason,
        "tile": found.tile,
        "remarks": list(found.remarks),
    }


def _told(entry: dict[str, Any]) -> str:
    line = f"{entry['map'] or 'not known'} ({entry['confidence']:.0%}: {entry['reason']})"
    if entry["packed"]:
        line += "; " + ", ".join(
            f"{n} {kind or 'nothing'}" for n, kind in entry["channels"].items()
        )
    if entry["map"] == "normal":
        line += f"; green {entry['normal_y']} ({entry['normal_confidence']:.0%}: "
        line += f"{entry['normal_reason']})"
    return line


def _stated_beside(path: Path) -> str | None:
    """Return the encoding stated by a delivery's manifest in the same folder, if there is one."""
    from copper_sieve.core.export.assay import read_manifest

    try:
        manifest = read_manifest(path.parent)
    except ManifestError:
        return None
    return next((f.encoding.value for f in manifest.files if f.name == path.name), None)
