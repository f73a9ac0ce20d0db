"""File signatures of delivered files, so that unchanged files aren't read again."""

from __future__ import annotations

from pathlib import Path

from copper_sieve.core.codecs.checksums import file_signature, remember_sha256
from copper_sieve.core.models.assay import FileCheck
from copper_sieve.core.models.manifest import Manifest
from copper_sieve.store.delivery_rows import Stamps, VerifiedPart


def signatures_of(folder: Path, manifest: Manifest) -> Stamps:
    """Return the signature of every file of a manifest in a folder."""
    found = {}
    for entry in manifest.entries:
        try:
            found[entry.name] = list(file_signature(folder / entry.name))
        except OSError:
            continue
    return found


def checksums_of(folder: Path, proven: VerifiedPart | None) -> dict[str, FileCheck]:
    """Return checksums by SHA-256; files with unchanged signatures aren't read."""
    if proven is None:
        return {}
    for name, stamp in proven.stamps.items():
        if name in proven.digests:
            remember_sha256(folder / name, stamp, proven.digests[name])
    return {sha: FileCheck.model_validate(one) for sha, one in proven.checks.items()}
