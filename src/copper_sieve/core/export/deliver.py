"""Deliver: write one set for one target into a folder, prove it, and only then put it in place.

Everything is written into a hidden sibling folder, reopened and compared there, and put in place
at the end (`placing`): a delivery that fails at any point leaves the previous one whole.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from concurrent.futures import Future, ThreadPoolExecutor, wait
from dataclasses import dataclass
from pathlib import Path

from copper_sieve.core.codecs import FORMATS, reopen, write_picture
from copper_sieve.core.codecs.checksums import (
    ChannelFacts,
    channel_facts,
    codes_digest,
    file_sha256,
)
from copper_sieve.core.errors import (
    CancelledError,
    DeliveryError,
    ForeignFileError,
)
from copper_sieve.core.export.assay import check_written, summary
from copper_sieve.core.export.documents import check_document, describe, write_document
from copper_sieve.core.export.export_plan import ExportPlan, PackedFile
from copper_sieve.core.export.file_maps import FileMaps, graph_of
from copper_sieve.core.export.placing import Place, flush, in_place, own_files
from copper_sieve.core.graph.evaluate import Cache, LoadSource, evaluate
from copper_sieve.core.graph.plan import Plan
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Codes, Raster
from copper_sieve.core.models.assay import Assay, FileCheck
from copper_sieve.core.models.manifest import (
    FILE_NAME,
    ChannelEntry,
    FileEntry,
    Manifest,
    MapEntry,
)
from copper_sieve.core.models.slot import Slot

_AT_ONCE = 3  # steps of proofs while the next file is packed: two compute, one flushes
_COMPUTING_SHARE = 0.6  # of the progress; the rest is packing, writing and proving


@dataclass(frozen=True, slots=True)
class Delivered:
    """What a delivery wrote and what its assay says."""

    manifest: Manifest
    assay: Assay


@dataclass(frozen=True, slots=True)
class Staged:
    """Files that are written and proven, and still hidden beside the folder that they are for."""

    place: Place
    delivered: Delivered


def replaced_files(folder: Path, export: ExportPlan) -> dict[str, str]:
    """For each file that will be written: "new", "replaces" (ours) or "foreign" (blocked)."""
    names = [*(file.name for file in export.files), *export.documents, FILE_NAME]
    if not folder.is_dir() and not folder.exists():
        return dict.fromkeys(names, "new")
    ours = own_files(folder)
    states = {True: "replaces", False: "foreign"}
    return {name: states[name in ours] if (folder / name).exists() else "new" for name in names}


def deliver(
    export: ExportPlan,
    folder: Path,
    *,
    sizes: Mapping[str, tuple[int, int]],
    load_source: LoadSource,
    token: str,
    cache: Cache | None = None,
    on_progress: Callable[[float, str], None] | None = None,
    is_cancelled: Callable[[], bool] | None = None,
) -> Delivered:
    """Compute, pack, write, reopen, compare, and put the folder in place.

    folder : where the files shall be; an earlier delivery there is replaced as a whole, files
        of others in it are kept
    token : names the hidden working folder, so that what a dead process left can be found
    Raises ForeignFileError, DeliveryError, CancelledError; then nothing has changed.
    """
    report = on_progress or (lambda share, text: None)
    staged = stage(
        export, folder, sizes=sizes, load_source=load_source, token=token, cache=cache,
        on_progress=report, is_cancelled=is_cancelled,
    )  # fmt: skip
    try:
        report(0.97, "putting the folder in place")
        with in_place([staged.place], is_cancelled=is_cancelled):
            pass
    finally:
        staged.place.discard()
    report(1.0, "done")
    return staged.delivered


def stage(
    export: ExportPlan,
    folder: Path,
    *,
    sizes: Mapping[str, tuple[int, int]],
    load_source: LoadSource,
    token: str,
    cache: Cache | None = None,
    on_progress: Callable[[float, str], None] | None = None,
    is_cancelled: Callable[[], bool] | None = None,
) -> Staged:
    """All of `deliver` but the last step: what is written waits in a hidden folder beside."""
    report = on_progress or (lambda share, text: None)
    for name, state in replaced_files(folder, export).items():
        if state == "foreign":
            raise ForeignFileError(
                f"{folder / name} is already there and was not written by a delivery: "
                "move it away or choose another folder"
            )
    graph = graph_of(export, sizes)
    place = Place(folder, token)
    try:
        working = place.stage()  # before the computing: its lock tells others that we live
        rasters = evaluate(
            graph,
            load_source,
            cache=cache,
            on_progress=lambda share: report(share * _COMPUTING_SHARE, "computing maps"),
            is_cancelled=is_cancelled,
        )
        export = export.with_depth(rasters.depth)
        files, checks = _write_files(
            working, export, rasters, graph, report=report, is_cancelled=is_cancelled
        )
        manifest = _manifest(export, graph, files)
        material = describe(export.texture_set, export.preset, export.size, export.files)
        documents = tuple(
            write_document(working, name, spec, material)
            for name, spec in zip(export.documents, export.preset.documents, strict=True)
        )
        manifest = manifest.model_copy(update={"documents": documents})
        inside = [check_document(working, entry, manifest) for entry in documents]
        proof = summary(manifest, [*checks, *inside], [])
        if not proof.ok:
            raise DeliveryError("the files do not hold what they should: " + proof.problems()[0])
        (working / FILE_NAME).write_text(manifest.model_dump_json(indent=2) + "\n", "utf-8")
        if is_cancelled and is_cancelled():
            raise CancelledError
    except OSError as error:
        place.discard()
        raise DeliveryError(
            f"{folder} could not be written ({error.strerror}): check the room and the rights "
            "there; nothing was replaced"
        ) from error
    except BaseException:
        place.discard()
        raise
    return Staged(place, Delivered(manifest, proof))


def _write_files(
    working: Path,
    export: ExportPlan,
    rasters: dict[MapKind, Raster],
    graph: Plan,
    *,
    report: Callable[[float, str], None],
    is_cancelled: Callable[[], bool] | None,
) -> tuple[list[FileEntry], list[FileCheck]]:
    """Write every texture, each proven while the next one is packed."""
    maps = FileMaps(export, rasters)
    proving: list[Future[tuple[FileEntry, FileCheck]]] = []
    with ThreadPoolExecutor(_AT_ONCE) as provers:
        for done, file in enumerate(export.files):
            if is_cancelled and is_cancelled():
                raise CancelledError
            report(_COMPUTING_SHARE + 0.35 * done / len(export.files), f"writing {file.name}")
            wait(proving[:-1])  # so that no more pictures wait than are looked at
            picture, mips = maps.picture(file), maps.mips(file)
            path, levels = working / file.name, [picture.codes, *mips]
            # A file's proof takes up what was begun before it and so is done before it. Of a
            # lossy file what it gives back is what it holds, so nothing is known before that.
            lossy = FORMATS[file.spec.format].loses(file.spec.writing.compression)
            facts = None if lossy else provers.submit(channel_facts, picture.codes)
            write_picture(path, picture, file.spec.writing, mips)
            provers.submit(flush, path)  # now, so that nothing has to be awaited at the end
            digest = provers.submit(file_sha256, path)
            written = _Written(path, file, levels, facts, digest)
            proving.append(provers.submit(_prove, written, graph))
    results = [one.result() for one in proving]
    return [entry for entry, _ in results], [check for _, check in results]


@dataclass(frozen=True, slots=True)
class _Written:
    """A file that was just written, and what is being found out about it."""

    path: Path
    file: PackedFile
    levels: list[Codes]
    facts: Future[list[ChannelFacts]] | None  # of its channels as packed; None: it is lossy
    sha256: Future[str]


def _prove(written: _Written, graph: Plan) -> tuple[FileEntry, FileCheck]:
    """Reopen what was written: what the manifest says of it, and if it holds what it should."""
    path, file, levels = written.path, written.file, written.levels
    lossy = written.facts is None
    found = [reopen(path, n)[:, :, : len(file.slots)] for n in range(len(levels))]
    facts = written.facts.result() if written.facts else channel_facts(found[0])
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
        mips_digests=tuple(codes_digest(level) for level in (found if lossy else levels)[1:]),
        lossy=lossy,
        channels=tuple(
            _channel_entry(letter, slot, held, graph)
            for (letter, slot), held in zip(file.slots.items(), facts, strict=True)
        ),
    )
    return entry, check_written(path, entry, levels, found)


def _channel_entry(letter: str, slot: Slot, held: ChannelFacts, graph: Plan) -> ChannelEntry:
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


def _manifest(export: ExportPlan, graph: Plan, files: list[FileEntry]) -> Manifest:
    used = {node.kind: node for node in graph.nodes.values() if not node.passing}
    used |= {kind: graph.nodes[key] for kind, key in graph.outputs.items()}
    return Manifest(
        set=export.texture_set.name,
        target=export.preset.id,
        target_title=export.preset.title,
        normal_y=export.preset.normal_y,
        dielectric_f0=export.preset.dielectric_f0,
        height_mid=export.preset.height_mid,
        height_unit=export.preset.height_unit,
        padding=export.preset.padding,
        surface=export.texture_set.surface,
        prepare=export.texture_set.prepare,
        origin=export.texture_set.origin,
        maps={
            kind.value: MapEntry(content_key=node.key, definition=node.definition)
            for kind, node in used.items()
        },
        files=tuple(files),
        remarks=tuple(remark.text for remark in export.remarks),
    )
