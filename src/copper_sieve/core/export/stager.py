"""Compute, write and verify the files of a delivery in a hidden folder."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from concurrent.futures import Future, ThreadPoolExecutor, wait
from dataclasses import dataclass, field, replace
from pathlib import Path

from copper_sieve.core.codecs import FORMATS, write_picture
from copper_sieve.core.codecs.checksums import (
    channel_checksum,
    file_sha256,
)
from copper_sieve.core.errors import (
    CancelledError,
    DeliveryError,
)
from copper_sieve.core.export.assay import summary
from copper_sieve.core.export.atomic_swap import StagedFolder, flush
from copper_sieve.core.export.content_store import ContentStore, NoContentStore, StoredFile
from copper_sieve.core.export.documents import check_document, material_of, write_document
from copper_sieve.core.export.export_plan import ExportPlan, PackedFile
from copper_sieve.core.export.file_maps import FileMaps
from copper_sieve.core.export.reuse import (
    ReusableFiles,
    document_key,
    file_key,
)
from copper_sieve.core.export.verify_files import WrittenFile, verify_channels
from copper_sieve.core.graph.evaluate import Cache, LoadModel, LoadSource, Maps, evaluate
from copper_sieve.core.graph.node import Plan
from copper_sieve.core.image.raster import Picture
from copper_sieve.core.models.assay import Assay, FileCheck
from copper_sieve.core.models.manifest import (
    FILE_NAME,
    DocumentEntry,
    FileEntry,
    Manifest,
    MapEntry,
    manifest_text,
)

_AT_ONCE = 3  # steps of proofs while the next file is packed: two compute, one flushes
_COMPUTING_SHARE = 0.6  # of the progress; the rest is packing, writing and proving


@dataclass(frozen=True, slots=True)
class Delivered:
    """Result of a delivery with its verification report.

    written, kept : number of written and unchanged files
    """

    manifest: Manifest
    assay: Assay
    written: int = 0
    kept: int = 0


@dataclass(frozen=True, slots=True)
class Staged:
    """Written and verified files in the hidden folder.

    is_same : the folder already contains all of them, so no swap is needed
    """

    place: StagedFolder
    delivered: Delivered
    is_same: bool = False

    @property
    def written(self) -> int:
        """How many files were made."""
        return self.delivered.written

    @property
    def kept(self) -> int:
        """Number of unchanged files."""
        return self.delivered.kept


@dataclass(frozen=True, slots=True)
class DeliveryOptions:
    """Options of a delivery.

    proven : results of earlier checks by the SHA-256 of a file; unchanged ones stay undecoded
    rewrite : write unchanged files too
    delete_obsolete : delete files of an earlier delivery that this one doesn't write
    manifest_name : name of the manifest, which differs if several sets share the folder
    """

    proven: Mapping[str, FileCheck] = field(default_factory=dict)
    rewrite: bool = False
    delete_obsolete: bool = False
    manifest_name: str = FILE_NAME


USUAL = DeliveryOptions()
NOTHING = NoContentStore()


def _none(sha256: str) -> Picture:
    raise DeliveryError(f"the picture {sha256[:12]} is missing")


@dataclass(slots=True)
class Stager:
    """A delivery in its hidden folder.

    Keys are those of the plan; a measured depth is only part of the output.
    """

    export: ExportPlan
    graph: Plan
    place: StagedFolder
    earlier: ReusableFiles
    load_source: LoadSource = _none
    cache: Cache | None = None
    on_progress: Callable[[float, str], None] | None = None
    is_cancelled: Callable[[], bool] | None = None
    stock: ContentStore = NOTHING
    load_model: LoadModel | None = None

    def untouched(self) -> Staged | None:
        """Return the earlier delivery if all its files are current, else None."""
        files, documents = self.earlier.files, self.earlier.documents
        export = self.export.with_depth(self.earlier.depth(self.graph))
        if len(files) < len(self.export.files) or len(documents) < len(self.export.documents):
            return None
        manifest = self._manifest(
            export,
            [files[one.name] for one in export.files],
            [documents[name] for name in export.documents],
        )
        if manifest != self.earlier.manifest:
            return None
        proof = summary(manifest, [self.earlier.checks[one.name] for one in manifest.entries], [])
        done = Delivered(manifest, proof, 0, len(manifest.entries))
        return Staged(self.place, done, is_same=True)

    def staged(self) -> Staged:
        """Write changed files, link unchanged ones, verify all."""
        working = self.place.stage()  # before computing: the lock shows that the process is alive
        missing = self.earlier.missing(self.export)
        brought = self._brought(working, missing)
        todo = [file for file in missing if file.name not in brought]
        known = self.earlier.depth(self.graph) or self._stocked_depth(brought)
        rasters = self._computed(todo, known)
        export = self.export.with_depth(known or rasters.depth)
        left = (one.name for one in self.earlier.left)
        for name in (*self.earlier.files, *left, *self.earlier.theirs):
            self.earlier.bring(name, working)
        made, checks = self._write_files(working, export, todo, rasters) if todo else ([], [])
        entries = {**self.earlier.files, **{one.name: one for one in made}}
        entries |= {name: one.entry for name, one in brought.items()}
        files = [entries[file.name] for file in self.export.files]
        documents, inside = self._write_documents(working, export, files)
        manifest = self._manifest(export, files, documents)
        kept = [self.earlier.checks[one.name] for one in files if one.name in self.earlier.files]
        found = [one.check for one in brought.values()]
        match_by_name = {one.name: one for one in [*kept, *found, *checks, *inside]}
        proof = summary(manifest, [match_by_name[one.name] for one in manifest.entries], [])
        if not proof.ok:
            raise DeliveryError("verification failed: " + proof.problems()[0])
        (working / self.place.manifest_name).write_text(manifest_text(manifest), "utf-8")
        self._stop_if_cancelled()
        made_count = len(manifest.entries) - len(kept)
        return Staged(self.place, Delivered(manifest, proof, made_count, len(kept)))

    def _brought(self, working: Path, missing: Sequence[PackedFile]) -> dict[str, StoredFile]:
        """Copy or link files of earlier deliveries with equal content."""
        found = {}
        for file in missing:
            self._stop_if_cancelled()
            stocked = self.stock.find(file_key(self.export, self.graph, file))
            if stocked is not None and self.stock.bring(stocked, working / file.name):
                flush(working / file.name)
                found[file.name] = stocked
        return found

    def _stocked_depth(self, brought: Mapping[str, StoredFile]) -> float | None:
        same = (one.depth for one in brought.values() if one.depth_key == self.graph.depth)
        return next(same, None) if self.graph.depth else None

    def _computed(self, todo: Sequence[PackedFile], known: float | None) -> Maps:
        """Compute the maps of the files to write, and the depth if it isn't `known`."""
        kinds = replace(self.export, files=tuple(todo)).wanted if todo else []
        depth = None if known else self.graph.depth
        keys = {kind: self.graph.outputs[kind] for kind in kinds}
        return evaluate(
            Plan(self.graph.nodes, keys, depth),
            self.load_source,
            self.load_model,
            cache=self.cache,
            on_progress=lambda share: self._report(share * _COMPUTING_SHARE, "computing maps"),
            is_cancelled=self.is_cancelled,
        )

    def _write_files(
        self, working: Path, export: ExportPlan, todo: Sequence[PackedFile], rasters: Maps
    ) -> tuple[list[FileEntry], list[FileCheck]]:
        """Write textures, each verified while the next one is packed; those of a tile together."""
        todo = sorted(todo, key=lambda file: file.tile or 0)
        maps = FileMaps(replace(export, files=tuple(todo)), rasters)
        proving: list[Future[tuple[FileEntry, FileCheck]]] = []
        with ThreadPoolExecutor(_AT_ONCE) as provers:
            for done, file in enumerate(todo):
                self._stop_if_cancelled()
                self._report(_COMPUTING_SHARE + 0.35 * done / len(todo), f"writing {file.name}")
                wait(proving[:-1])  # so that no more pictures wait than are looked at
                picture, mips = maps.picture(file), maps.mips(file)
                path, levels = working / file.name, [picture.codes, *mips]
                # The verification of a file takes the digests computed before it. The content of a
                # lossy file is its decoded content, which is unknown before it is written.
                lossy = FORMATS[file.spec.format].loses(file.spec.writing.compression)
                facts = None if lossy else provers.submit(channel_checksum, picture.codes)
                write_picture(path, picture, file.spec.writing, mips)
                provers.submit(flush, path)  # now, so that nothing has to be awaited at the end
                digest = provers.submit(file_sha256, path)
                key = file_key(self.export, self.graph, file)
                written = WrittenFile(path, file, levels, facts, digest, key)
                proving.append(provers.submit(verify_channels, written, self.graph))
        results = [one.result() for one in proving]
        return [entry for entry, _ in results], [check for _, check in results]

    def _write_documents(
        self, working: Path, export: ExportPlan, files: list[FileEntry]
    ) -> tuple[list[DocumentEntry], list[FileCheck]]:
        """Write all documents; identical ones stay the existing files."""
        material = material_of(export.texture_set, export.preset, export.size, export.files)
        keys = {one.name: one.written_key or "" for one in files}
        entries = []
        for n, (name, spec) in enumerate(
            zip(export.documents, export.preset.documents, strict=True)
        ):
            entry = write_document(working, name, spec, material)
            key = document_key(self.export, self.graph, n, keys)
            entries.append(entry.model_copy(update={"written_key": key}))
            if self.earlier.disk_state(name, entry.sha256):
                self.earlier.bring(name, working)
        manifest = self._manifest(export, files, entries)
        return entries, [check_document(working, entry, manifest) for entry in entries]

    def _manifest(
        self, export: ExportPlan, files: list[FileEntry], documents: list[DocumentEntry]
    ) -> Manifest:
        graph = self.graph
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
            depth_key=graph.depth,
            prepare=export.texture_set.prepare,
            origin=export.texture_set.origin,
            captures=export.texture_set.captures,
            maps={
                kind.value: MapEntry(content_key=node.key, definition=node.definition)
                for kind, node in used.items()
            },
            files=tuple(files),
            documents=tuple(documents),
            left=self.earlier.left,
            remarks=tuple(remark.text for remark in export.remarks),
        )

    def _report(self, share: float, step: str) -> None:
        if self.on_progress:
            self.on_progress(share, step)

    def _stop_if_cancelled(self) -> None:
        if self.is_cancelled and self.is_cancelled():
            raise CancelledError
