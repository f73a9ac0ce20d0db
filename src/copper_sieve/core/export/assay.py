"""Assay: reopen delivered files with another reader, and compare every channel."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import cast

import cv2
import numpy as np
from pydantic import ValidationError

from copper_sieve.core.codecs import CODECS, FORMATS, read_spec, reopen
from copper_sieve.core.codecs.checksums import file_sha256, has_digest
from copper_sieve.core.errors import ManifestError, SieveError
from copper_sieve.core.export.documents import check_document
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Codes, Encoding
from copper_sieve.core.models.assay import Assay, ChannelCheck, FileCheck
from copper_sieve.core.models.manifest import (
    FILE_NAME,
    ChannelEntry,
    FileEntry,
    Manifest,
)
from copper_sieve.core.models.slot import Component, Slot

# A lossy file may differ by this many codes on average. Noise differs more, but its 16 x 16 block
# means differ by at most this many codes on average. Noise at JPEG quality 95 reaches 0.1, in BC1,
# the worst case, 3; swapped channels reach tens.
_LOSSY_MEAN = 3.0
_BLOCK = 16
_FINE, _COARSE = 1.5, 4.5
_ROWS = 64
_FLOAT = 0.02  # of the values, in floating point


def read_manifest(folder: Path, name: str = FILE_NAME) -> Manifest:
    """Read the manifest of a delivered folder.

    Parameters
    ----------
    folder : of the delivery
    name : of the manifest file, if several sets share the folder

    Returns
    -------
    Manifest

    Raises
    ------
    ManifestError : if there is no valid manifest
    """
    path = folder / name
    if not path.is_file():
        raise ManifestError(
            f"{folder} contains no {name}. Give the folder of one delivered set and target"
        )
    try:
        return Manifest.model_validate_json(path.read_bytes())
    except ValidationError as error:
        first = error.errors()[0]
        place = ".".join(str(part) for part in first["loc"]) or "the whole"
        raise ManifestError(
            f"{path} isn't a valid manifest of version 1 or 2 ({place}: {first['msg']}). "
            "Deliver again"
        ) from error


def assay_folder(folder: Path, name: str = FILE_NAME) -> Assay:
    """Verify a delivered folder against its manifest, without the sources.

    Parameters
    ----------
    folder : of the delivery
    name : of the manifest file, if several sets share the folder

    Returns
    -------
    Assay, with all differences

    Raises
    ------
    ManifestError : if there is no valid manifest
    """
    manifest = read_manifest(folder, name)
    files = [check_file(folder, entry) for entry in manifest.files]
    documents = [check_document(folder, entry, manifest) for entry in manifest.documents]
    known = {FILE_NAME, *(entry.name for entry in manifest.entries)}
    if name != FILE_NAME:  # other files in a shared folder are ignored
        return summary(manifest, [*files, *documents], [])
    known |= {one.name for one in manifest.left}
    unknown = sorted(path.name for path in folder.iterdir() if path.name not in known)
    return summary(manifest, [*files, *documents], unknown)


def summary(manifest: Manifest, files: list[FileCheck], unknown: list[str]) -> Assay:
    """Combine the checks of all files and the names of unknown files."""
    return Assay(
        set=manifest.set,
        target=manifest.target,
        ok=all(file.ok for file in files),
        files=tuple(files),
        unknown=tuple(unknown),
    )


def check_file(folder: Path, entry: FileEntry) -> FileCheck:
    """Reopen one texture file and compare facts, tag and every channel with the manifest."""
    path = folder / entry.name
    if not path.is_file():
        return FileCheck(name=entry.name, ok=False, problems=("the file is missing",))
    channels: list[ChannelCheck] = []
    try:
        codes = reopen(path)
        if FORMATS[entry.format].blocks:  # channels added by a block decoder are ignored
            codes = codes[:, :, : len(entry.channels)]
        problems = [*_wrong_facts(path, entry, codes.shape[2]), *_wrong_mips(path, entry)]
    except SieveError as error:
        return FileCheck(name=entry.name, ok=False, problems=(error.message,))
    if not problems:
        for index, channel in enumerate(entry.channels):
            same = has_digest(codes[:, :, index], channel.codes_digest)
            off = (0, 0.0) if same and not entry.lossy else (None, None)
            channels.append(_channel_check(channel, *off, ok=same))
        problems = _wrong_channels(channels)
    if not problems and file_sha256(path) != entry.sha256:
        problems = [
            "its bytes differ from the manifest, although every channel has the expected values"
        ]
    return _checked(entry, channels, problems)


def check_written(
    path: Path, entry: FileEntry, expected: Sequence[Codes], found: Sequence[Codes]
) -> FileCheck:
    """Compare a file that was just written with its expected content.

    Parameters
    ----------
    path : of the file
    entry : its manifest entry
    expected, found : codes of each mip level, (H, W, C), as packed and as read back

    Returns
    -------
    FileCheck
    """
    channels: list[ChannelCheck] = []
    problems = _wrong_facts(path, entry, found[0].shape[2])
    if not problems:
        same = _same(found[0], expected[0])
        for index, channel in enumerate(entry.channels):
            largest, mean = (0, 0.0) if same else \
                _apart(found[0][:, :, index], expected[0][:, :, index])  # fmt: skip
            ok = mean == 0
            if entry.lossy and not ok:
                ok = expected[0].dtype != np.float32 and mean <= _LOSSY_MEAN
                off = 0.0 if ok else _means_apart(found[0][:, :, index], expected[0][:, :, index])
                ok = off <= largest_error(entry)
            channels.append(_channel_check(channel, largest, mean, ok=ok))
        problems = _wrong_channels(channels)
        for n, (one, other) in enumerate(zip(found[1:], expected[1:], strict=True), 1):
            if not entry.lossy and not _same(one, other):
                problems.append(f"mip level {n} differs")
    return _checked(entry, channels, problems)


def _checked(
    entry: FileEntry, channels: Sequence[ChannelCheck], problems: Sequence[str]
) -> FileCheck:
    codec = CODECS[entry.format]
    return FileCheck(
        name=entry.name, ok=not problems, channels=tuple(channels), problems=tuple(problems),
        reader=codec.reader, own_reader=codec.own_reader,
    )  # fmt: skip


def _wrong_facts(path: Path, entry: FileEntry, channels: int) -> list[str]:
    spec = read_spec(path)
    facts = [
        ("format", entry.format, spec.format),
        ("size", f"{entry.width} x {entry.height}", f"{spec.width} x {spec.height}"),
        ("bits", entry.bits, spec.bit_depth),
        ("number of channels", len(entry.channels), channels),
    ]
    tag = CODECS[entry.format].color_tag
    if tag == "all" or (tag == "colors" and channels >= 3):
        says = spec.encoding_source.startswith("file") and spec.encoding is Encoding.SRGB
        tagged = Encoding.SRGB if says else Encoding.LINEAR
        facts.append(("color tag", entry.encoding, tagged))
    return [
        f"its {name} is {found}, not {wanted}" for name, wanted, found in facts if wanted != found
    ]


def _wrong_mips(path: Path, entry: FileEntry) -> list[str]:
    count = len(entry.channels)
    for n, expected in enumerate(entry.mips_digests, 1):
        if not has_digest(reopen(path, n)[:, :, :count], expected):
            return [f"mip level {n} differs"]
    return []


def _wrong_channels(channels: list[ChannelCheck]) -> list[str]:
    return [
        f"channel {one.channel} ({one.holds}) differs"
        + ("" if one.largest is None else f" by up to {one.largest} codes")
        for one in channels
        if not one.ok
    ]


def _same(found: Codes, expected: Codes) -> bool:
    """Return True if arrays are equal; compared in cache-sized blocks of rows."""
    if found.shape != expected.shape:
        return False
    starts = range(0, len(expected), _ROWS)
    return all(np.array_equal(found[r : r + _ROWS], expected[r : r + _ROWS]) for r in starts)


def _apart(found: Codes, expected: Codes) -> tuple[float, float]:
    """Return the largest and the mean difference of one channel, in codes or values."""
    if found.shape == expected.shape and np.array_equal(found, expected):
        return 0, 0.0
    difference = np.abs(found.astype(np.float64) - expected.astype(np.float64))
    largest = difference.max().item()
    return largest if expected.dtype == np.float32 else round(largest), float(difference.mean())


def largest_error(entry: FileEntry) -> float:
    """Return how far channel means of a lossy file may deviate."""
    if entry.bits > 8:
        return _FLOAT
    coarse = entry.compression in ("bc1", "bc3") or (entry.quality or 100) < 90
    return _COARSE if coarse else _FINE


def _means_apart(found: Codes, expected: Codes) -> float:
    """Return the mean difference of 16 x 16 block means; as a share for floating point."""
    height, width = expected.shape
    size = max(1, width // _BLOCK), max(1, height // _BLOCK)
    one, other = (
        cv2.resize(codes.astype(np.float32), size, interpolation=cv2.INTER_AREA)
        for codes in (found, expected)
    )
    share = max(1.0, float(np.abs(other).mean())) if expected.dtype == np.float32 else 1.0
    return float(np.abs(one - other).mean()) / share


def _channel_check(
    entry: ChannelEntry, largest: float | None, mean: float | None, *, ok: bool
) -> ChannelCheck:
    slot = Slot(
        map=MapKind(entry.map) if entry.map else None,
        component=cast(Component, entry.component or "v"),
        times=entry.times,
        changes=entry.changes,
        constant=entry.constant,
        segments=entry.segments,
    )
    return ChannelCheck(
        channel=entry.channel, holds=slot.words(), ok=ok, largest=largest, mean=mean
    )
