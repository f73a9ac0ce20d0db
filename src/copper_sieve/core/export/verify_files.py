"""Verifies a file that was just written: reads it back and compares it."""

from __future__ import annotations

from concurrent.futures import Future
from dataclasses import dataclass
from pathlib import Path

from copper_sieve.core.codecs import FORMATS, reopen
from copper_sieve.core.codecs.checksums import ChannelChecksum, channel_checksum, codes_digest
from copper_sieve.core.export.assay import check_written
from copper_sieve.core.export.export_plan import PackedFile
from copper_sieve.core.graph.node import Plan
from copper_sieve.core.image.raster import Codes
from copper_sieve.core.models.assay import FileCheck
from copper_sieve.core.models.manifest import ChannelEntry, FileEntry
from copper_sieve.core.models.slot import Slot


@dataclass(frozen=True, slots=True)
class WrittenFile:
    """A file that was just written, with its pending verification."""

    path: Path
    file: PackedFile
    levels: list[Codes]
    facts: Future[list[ChannelChecksum]] | None  # of its channels as packed; None: it is lossy
    sha256: Future[str]
    key: str


def verify_channels(written: WrittenFile, graph: Plan) -> tuple[FileEntry, FileCheck]:
    """Read a file back; return its manifest entry and whether its content is as expected."""
    path, file, levels = written.path, written.file, written.levels
    lossy = written.facts is None
    found = [reopen(path, n)[:, :, : len(file.slots)] for n in range(len(levels))]
    facts = written.facts.result() if written.facts else channel_checksum(found[0])
    entry = FileEntry(
        name=file.name,
        sha256=written.sha256.result(),
        bytes=path.stat().st_size,
        format=file.spec.format,
        width=file.size[0],
        height=file.size[1],
        bits=file.spec.bits,
        encoding=file.spec.encoding,
        compression=file.spec.writing.compression
        or next(iter(FORMATS[file.spec.format].compressions), None),
        quality=file.spec.quality,
        tiles=file.spec.tiles,
        tile=file.tile,
        mips_digests=tuple(codes_digest(level) for level in (found if lossy else levels)[1:]),
        lossy=lossy,
        channels=tuple(
            _channel_entry(letter, slot, held, graph)
            for (letter, slot), held in zip(file.slots.items(), facts, strict=True)
        ),
        written_key=written.key,
    )
    return entry, check_written(path, entry, levels, found)


def _channel_entry(letter: str, slot: Slot, held: ChannelChecksum, graph: Plan) -> ChannelEntry:
    return ChannelEntry(
        channel=letter,
        map=slot.map,
        component=slot.component if slot.map else None,
        times=slot.times,
        constant=slot.constant,
        changes=slot.changes,
        segments=slot.segments,
        content_key=graph.outputs[slot.map] if slot.map else None,
        codes_digest=held.digest,
        minimum=held.minimum,
        maximum=held.maximum,
        mean=held.mean,
    )
