"""./sieve assay: verify a delivered folder against its manifest."""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path

from copper_sieve.cli.progress import Report, progress
from copper_sieve.core.export.assay import assay_folder
from copper_sieve.core.models.assay import Assay
from copper_sieve.core.models.manifest import FILE_NAME


def run(arguments: argparse.Namespace) -> int:
    """Verify the folder, or all delivered folders in it; status 1 if anything differs."""
    with progress(f"reading {arguments.folder}", quiet=arguments.json) as report:
        results = _assayed(_delivered(arguments.folder), report)
    ok = all(result.ok for result in results.values())
    problems = [
        str(folder / problem) for folder, result in results.items() for problem in result.problems()
    ]
    if arguments.json:
        folders = [
            {"folder": str(folder), **result.model_dump(mode="json")}
            for folder, result in results.items()
        ]
        files = [file for entry in folders for file in entry["files"]]
        print(json.dumps({"ok": ok, "problems": problems, "files": files, "folders": folders},
                         indent=2))  # fmt: skip
    elif ok:
        for folder, result in results.items():
            print(f"{folder}: {len(result.files)} files verified, every channel as in the manifest")
            if own := result.own_readers():
                print(f" {', '.join(own)}: checked only with the code that wrote it")
    for problem in problems:
        sys.stderr.write(f"sieve: {problem}\n")
    return 0 if ok else 1


def _assayed(folders: list[Path], report: Report | None) -> dict[Path, Assay]:
    results = {}
    for n, folder in enumerate(folders):
        if report:
            report(n / len(folders), folder.name)
        results[folder] = assay_folder(folder)
    return results


def _delivered(folder: Path) -> list[Path]:
    """Return the folder itself, or the delivered folders inside it."""
    if (folder / FILE_NAME).exists():
        return [folder]
    inside = sorted(path.parent for path in folder.rglob(FILE_NAME) if path.parent.name[0] != ".")
    return inside or [folder]
