"""Assay: reopen delivered files with another reader and hold every channel against its due."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from pydantic import ValidationError

from copper_sieve.core.codecs import read_spec, reopen
from copper_sieve.core.errors import ManifestError, SieveError
from copper_sieve.core.image.raster import Codes, Encoding
from copper_sieve.core.pipeline.checksums import codes_sha256, file_sha256
from copper_sieve.core.pipeline.documents import check_document
from copper_sieve.core.presets.assay import Assay, ChannelCheck, FileCheck
from copper_sieve.core.presets.manifest import (
    FILE_NAME,
    ChannelEntry,
    FileEntry,
    Manifest,
)

# By how many codes a lossy file may differ on average.
_LOSSY_MEAN, _POOR_MEAN = 3.0, 24.0  # the latter below a quality of 90
_BLOCK_MEAN = {"bc7": 12.0, "bc5": 8.0, "bc4": 8.0, "bc3": 24.0, "bc1": 24.0}
_HDR_MEAN = 0.02  # of values: eight bits share an exponent


def read_manifest(folder: Path) -> Manifest:
    """The manifest of a delivered folder. Raises ManifestError."""
    path = folder / FILE_NAME
    if not path.is_file():
        raise ManifestError(
            f"{folder} has no {FILE_NAME}: give the folder of one target, as a delivery wrote it"
        )
    try:
        return Manifest.model_validate_json(path.read_bytes())
    except ValidationError as error:
        first = error.errors()[0]
        place = ".".join(str(part) for part in first["loc"]) or "the whole"
        raise ManifestError(
            f"{path} is no manifest of version 1 ({place}: {first['msg']}): deliver again"
        ) from error


def assay_folder(folder: Path) -> Assay:
    """Verify a delivered folder against its manifest, without the sources.

    Raises ManifestError where there is no manifest; what differs is in the result.
    """
    manifest = read_manifest(folder)
    files = [check_file(folder, entry, None) for entry in manifest.files]
    documents = [check_document(folder, entry, manifest) for entry in manifest.documents]
    known = {FILE_NAME, *(entry.name for entry in manifest.entries)}
    strays = sorted(path.name for path in folder.iterdir() if path.name not in known)
    return summary(manifest, [*files, *documents], strays)


def summary(manifest: Manifest, files: list[FileCheck], strays: list[str]) -> Assay:
    """The checks of all files as one result."""
    return Assay(
        set=manifest.set,
        target=manifest.target,
        ok=all(file.ok for file in files),
        files=tuple(files),
        strays=tuple(strays),
    )


def check_file(folder: Path, entry: FileEntry, expected: Codes | None) -> FileCheck:
    """Reopen one texture file and compare facts, tag and every channel.

    expected : the codes it should hold, (H, W, C); without them the manifest's checksums decide
    """
    path = folder / entry.name
    if not path.is_file():
        return FileCheck(name=entry.name, ok=False, problems=("the file is missing",))
    problems: list[str] = []
    channels: list[ChannelCheck] = []
    try:
        spec = read_spec(path)
        codes = reopen(path)
        if entry.format in ("dds", "ktx2"):  # what a block's decoder adds is nobody's
            codes = codes[:, :, : len(entry.channels)]
        problems += _check_mips(path, entry)
    except SieveError as error:
        return FileCheck(name=entry.name, ok=False, problems=(error.message,))
    facts = [
        ("format", entry.format, spec.format),
        ("size", f"{entry.width} x {entry.height}", f"{spec.width} x {spec.height}"),
        ("bits", entry.bits, spec.bit_depth),
        ("number of channels", len(entry.channels), codes.shape[2]),
    ]
    if entry.format == "png":
        tagged = Encoding.SRGB if spec.encoding_source == "file: sRGB" else Encoding.LINEAR
        facts.append(("color tag", entry.encoding, tagged))
    problems += [
        f"its {name} is {found}, not {wanted}" for name, wanted, found in facts if wanted != found
    ]
    if not problems:
        for index, channel in enumerate(entry.channels):
            due = None if expected is None else expected[:, :, index]
            check = _check_channel(
                codes[:, :, index], channel, due, lossy=entry.lossy, most=most_lost(entry)
            )
            channels.append(check)
            if not check.ok:
                by = "" if check.largest is None else f" by up to {check.largest} codes"
                problems.append(f"channel {channel.channel} ({check.holds}) differs{by}")
    if not problems and file_sha256(path) != entry.sha256:
        problems.append("its bytes differ from the manifest, though every channel holds its due")
    return FileCheck(
        name=entry.name, ok=not problems, channels=tuple(channels), problems=tuple(problems)
    )


def _check_mips(path: Path, entry: FileEntry) -> list[str]:
    count = len(entry.channels)
    for n, due in enumerate(entry.mips_sha256, 1):
        if codes_sha256(reopen(path, n)[:, :, :count]) != due:
            return [f"level {n} of its mips differs"]
    return []


def most_lost(entry: FileEntry) -> float:
    """Codes by which a lossy file may differ from its due on average; more is no encoding of it."""
    if entry.format in ("dds", "ktx2"):
        return _BLOCK_MEAN[entry.compression or "bc7"]
    if entry.format == "hdr":
        return _HDR_MEAN
    return _POOR_MEAN if entry.quality is not None and entry.quality < 90 else _LOSSY_MEAN


def _check_channel(
    found: Codes, entry: ChannelEntry, due: Codes | None, *, lossy: bool, most: float
) -> ChannelCheck:
    holds = " ".join(filter(None, [entry.map, entry.component if entry.component != "v" else None]))
    holds = holds or "; ".join(segment.words() for segment in entry.segments)
    holds = holds or f"constant {entry.constant}"
    same = codes_sha256(found) == entry.codes_sha256
    ok = same
    largest, mean = (0, 0.0) if same and not lossy else (None, None)
    if due is not None and (lossy or not same):
        difference = np.abs(found.astype(np.float64) - due.astype(np.float64))
        whole = due.dtype != np.float32
        largest, mean = difference.max().item(), float(difference.mean())
        largest = round(largest) if whole else largest
        ok = same and mean <= most
    return ChannelCheck(channel=entry.channel, holds=holds, ok=ok, largest=largest, mean=mean)
