"""Batch processing: group the pictures of folders by name, create and deliver each set."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Callable, Iterable, Mapping, Sequence
from concurrent.futures import Future, ProcessPoolExecutor, as_completed
from dataclasses import asdict, dataclass, field
from multiprocessing import get_context
from pathlib import Path
from typing import Any, Literal

from copper_sieve import __version__
from copper_sieve.core.codecs import CODECS, Limits
from copper_sieve.core.codecs.checksums import file_sha256, known_sha256
from copper_sieve.core.codecs.meshes.limits import ModelLimits
from copper_sieve.core.detection.names import read_name
from copper_sieve.core.errors import ManifestError, MeasureError, SieveError, WriteError
from copper_sieve.core.export.assay import read_manifest
from copper_sieve.core.graph.evaluate import Cache
from copper_sieve.core.models.assignment import Assignment, guessed_by_name, resolve_with_siblings
from copper_sieve.core.models.manifest import FILE_NAME
from copper_sieve.core.models.measured_set import name_of
from copper_sieve.core.models.naming import slug
from copper_sieve.core.models.preparation import Preparation
from copper_sieve.core.models.recipe import Recipe
from copper_sieve.core.models.source_card import SourceCard
from copper_sieve.core.models.tile_numbers import Numbered, tiles_among
from copper_sieve.core.targets.target_preset import TargetPreset
from copper_sieve.library.importing import WrapChoice
from copper_sieve.library.light_captures import detect_light_captures
from copper_sieve.library.map_set import MapSet

RECORD = ".sieve-made.json"
_ENDINGS = {ending for codec in CODECS.values() for ending in codec.endings}


@dataclass(frozen=True, slots=True)
class FileSet:
    """Pictures of one set, grouped by name.

    measured : light captures of one surface
    """

    name: str
    files: tuple[Path, ...]
    measured: bool = False


@dataclass(frozen=True)
class BatchOptions:
    """How sets are made of pictures.

    cards : source cards; the one that knows the names of a set's files is applied
    model : by the islands of whose material of its name each set is padded
    new_cache : gives one that keeps the maps of a set from target to target
    The rest is as `MapSet.from_files` takes it.
    """

    targets: tuple[TargetPreset, ...]
    cards: tuple[SourceCard, ...] = ()
    recipe: Recipe | None = None
    prepare: Preparation | None = None
    longer_side: int | None = None
    normal_y: str | None = None
    wrap: WrapChoice = "auto"
    relief: float | str | None = None
    limits: Limits = field(default_factory=Limits)
    model: Path | None = None
    uv_set: int = 0
    model_limits: ModelLimits = field(default_factory=ModelLimits)
    new_cache: Callable[[], Cache] | None = None

    def digest(self) -> str:
        """The same for ways that make the same of the same pictures."""
        held: dict[str, Any] = {
            "program": __version__,
            "targets": [one.model_dump(mode="json") for one in self.targets],
            "cards": [one.model_dump(mode="json") for one in self.cards],
            "recipe": self.recipe and self.recipe.model_dump(mode="json"),
            "prepare": self.prepare and self.prepare.model_dump(mode="json"),
            "rest": [self.longer_side, self.normal_y, str(self.wrap), self.relief],
        }
        if self.model:
            held["model"] = [file_sha256(self.model), self.uv_set]
        return hashlib.sha256(json.dumps(held, sort_keys=True).encode()).hexdigest()


@dataclass(frozen=True, slots=True)
class Made:
    """What became of one set.

    state : "same" where its pictures and all that was delivered are as they were
    written, kept : how many files were made, and how many stayed as they were
    folders : of each target
    notes : what was guessed, and what a recipe left out
    """

    name: str
    state: Literal["done", "same", "failed"]
    files: tuple[str, ...]
    folders: Mapping[str, str] = field(default_factory=dict)
    written: int = 0
    kept: int = 0
    notes: tuple[str, ...] = ()
    error: str = ""


def pictures_in(paths: Iterable[Path]) -> list[Path]:
    """Return all pictures in folders and subfolders, by extension; files are returned unchanged.

    Hidden files and delivered files are skipped.
    """
    found: dict[Path, None] = {}
    for path in paths:
        if not path.is_dir():
            found[path] = None
            continue
        for one in sorted(path.rglob("*")):
            inside = one.relative_to(path).parts
            hidden = any(part.startswith(".") for part in inside)
            picture = one.suffix.lower() in _ENDINGS and not hidden and one.is_file()
            if picture and not (one.parent / FILE_NAME).exists():
                found[one] = None
    return list(found)


def sets_among(
    paths: Iterable[Path], cards: Sequence[SourceCard] = (), limits: Limits | None = None
) -> list[FileSet]:
    """Group pictures into sets by name, per folder; a file whose name contains only the map type
    belongs to the set named after the folder. Set names are unique.

    cards : source cards, whose marks are known name endings
    Pictures that differ only in a number and show one surface with different lights form a measured
    set.
    """
    folders: dict[Path, list[Path]] = {}
    for path in paths:
        folders.setdefault(path.parent, []).append(path)
    taken: set[str] = set()
    found = []

    def add(wanted: str, files: Sequence[Path], *, measured: bool = False) -> None:
        name, n = wanted, 1
        while name.lower() in taken:
            n += 1
            name = f"{wanted}_{n}"
        taken.add(name.lower())
        found.append(FileSet(name, tuple(files), measured))

    for folder, files in folders.items():
        named = _by_name(files, cards)
        alone = [some[0] for some in named.values() if len(some) == 1]
        groups = detect_light_captures(alone, limits)
        for group in groups:
            add(name_of([one.stem for one in group], folder.name), group, measured=True)
        shown = {one for group in groups for one in group}
        for wanted, some in named.items():
            if some[0] not in shown:
                add(wanted, some)
    return found


def _by_name(files: Sequence[Path], cards: Sequence[SourceCard]) -> dict[str, list[Path]]:
    """The files of one folder by the names of their sets."""
    guesses = _guesses(files, cards)
    stems = {one.set_name.lower(): one.set_name for one, mark, _ in guesses.values() if mark}
    groups: dict[str, list[Path]] = {}
    names: dict[str, str] = {}
    for path, (assignment, mark, confidence) in guesses.items():
        name = assignment.set_name
        if not assignment.tile:
            name = resolve_with_siblings(slug(path.stem), assignment, mark, confidence, stems)[
                0
            ].set_name
        groups.setdefault(names.setdefault(name.lower(), name), []).append(path)
    return groups


def _guesses(
    files: Sequence[Path], cards: Sequence[SourceCard]
) -> dict[Path, tuple[Assignment, str, float]]:
    """Guess each file on its own, except for tiles, which depend on each other."""
    guesses = {path: _guess(path, cards) for path in files}
    reads = {path: read_name(path.stem) for path in files}
    numbered = [Numbered.of(path.stem, path.parent.name, read) for path, read in reads.items()]
    for path, tile in zip(reads, tiles_among(numbered), strict=True):
        if tile:
            assignment = guessed_by_name(reads[path], path.parent.name, tile=tile)
            guesses[path] = assignment, *guesses[path][1:]
    return guesses


def _guess(path: Path, cards: Sequence[SourceCard]) -> tuple[Assignment, str, float]:
    """The place of a file by its name alone, the mark in it, and how sure that is."""
    lower = path.stem.lower()
    for mark in sorted((m for card in cards for m in (*card.marks, *card.packed)), key=len)[::-1]:
        if lower.endswith(f"_{mark.lower()}"):
            return Assignment(set_name=slug(path.stem[: -len(mark) - 1]), map="none"), mark, 1.0
    read = read_name(path.stem)
    return guessed_by_name(read, path.parent.name), read.mark, read.confidence


class Record:
    """Record of the created sets of a folder, so that unchanged ones are skipped."""

    def __init__(self, out: Path, way: BatchOptions) -> None:
        self._path, self._way = out / RECORD, way.digest()
        self._sets: dict[str, Any] = {}
        try:
            held = json.loads(self._path.read_bytes())
            if held["version"] == 1 and held["way"] == self._way:
                self._sets = dict(held["sets"])
        except (OSError, ValueError, KeyError, TypeError):
            pass  # there is none, or of another way: everything is made

    def is_same(self, one: FileSet) -> bool:
        """Return whether pictures and delivered files of a set are unchanged."""
        held = self._sets.get(one.name)
        if not held or held["files"] != _stamps(one.files):
            return False
        return all(_lies_whole(Path(folder), sha) for folder, sha in held["folders"].items())

    def put(self, one: FileSet, made: Made, stamps: dict[str, list[int]]) -> None:
        """Record the result of a set immediately.

        stamps : file signatures before reading, so that later changes are detected
        """
        folders = made.folders.values()
        self._sets[one.name] = {
            "files": stamps,
            "folders": {folder: file_sha256(Path(folder) / FILE_NAME) for folder in folders},
        }
        text = json.dumps({"version": 1, "way": self._way, "sets": self._sets}, indent=1)
        half = self._path.with_suffix(".half")
        try:
            half.write_text(text, "utf-8")
            half.replace(self._path)
        except OSError as error:
            raise WriteError(f"couldn't write {self._path} ({error.strerror})") from error


def _stamps(files: Sequence[Path]) -> dict[str, list[int]]:
    found = {}
    for path in files:
        try:
            stat = path.stat()
        except OSError:
            continue
        found[str(path)] = [stat.st_size, stat.st_mtime_ns]
    return found


def _lies_whole(folder: Path, sha256: str) -> bool:
    try:
        if known_sha256(folder / FILE_NAME) != sha256:
            return False
        manifest = read_manifest(folder)
        return all(known_sha256(folder / one.name) == one.sha256 for one in manifest.entries)
    except (OSError, ManifestError):
        return False


def make_many(
    sets: Sequence[FileSet], way: BatchOptions, out: Path, jobs: int = 1
) -> Iterable[Made]:
    """Create and deliver sets to `out/<target>/<set>`; yields them when done.

    jobs : number of processes
    Failures are part of the results; other sets continue.
    """
    out.mkdir(parents=True, exist_ok=True)
    record = Record(out, way)
    todo = []
    for one in sets:
        if record.is_same(one):
            yield Made(one.name, "same", tuple(map(str, one.files)))
        else:
            todo.append(one)
    stamps = {one.name: _stamps(one.files) for one in todo}
    for one, made in _each(todo, way, out, jobs):
        if made.state == "done":
            record.put(one, made, stamps[one.name])
        yield made


def _each(
    todo: Sequence[FileSet], way: BatchOptions, out: Path, jobs: int
) -> Iterable[tuple[FileSet, Made]]:
    if jobs <= 1 or len(todo) <= 1:
        for one in todo:
            yield one, make_one(one, way, out)
        return
    with ProcessPoolExecutor(jobs, mp_context=get_context("spawn")) as pool:
        futures: dict[Future[Made], FileSet] = {
            pool.submit(make_one, one, way, out): one for one in todo
        }
        for done in as_completed(futures):
            yield futures[done], done.result()


def make_one(one: FileSet, way: BatchOptions, out: Path) -> Made:
    """Make and deliver one set."""
    files = tuple(map(str, one.files))
    try:
        if one.measured:
            made = MapSet.from_shots(one.files, name=one.name, limits=way.limits)
        else:
            made = MapSet.from_recognized(
                one.files, name=one.name, cards=way.cards, normal_y=way.normal_y, wrap=way.wrap,
                relief=way.relief, limits=way.limits,
            )  # fmt: skip
        if way.prepare:
            made = made.prepared(way.prepare)
        if way.recipe:
            made = made.with_recipe(way.recipe)
        if way.model:
            made = made.for_model(way.model, uv_set=way.uv_set, limits=way.model_limits)
        exports = [made.plan(target, way.longer_side) for target in way.targets]
        cache = way.new_cache() if way.new_cache and len(exports) > 1 else None
        folders, written, kept = {}, 0, 0
        for export in exports:
            folder = out / export.preset.id / made.name
            delivered = made.deliver(export, folder, cache=cache)
            folders[export.preset.id] = str(folder)
            written += delivered.written
            kept += delivered.kept
    except MeasureError as error:
        said = f"{error.message}. If they are different things, rename them"
        return Made(one.name, "failed", files, error=said)
    except SieveError as error:
        return Made(one.name, "failed", files, error=error.message)
    except MemoryError:
        error_text = "not enough memory for this size. Use a smaller --size or fewer --jobs"
        return Made(one.name, "failed", files, error=error_text)
    notes = tuple(str(note) for note in made.notes)
    return Made(one.name, "done", files, folders, written, kept, notes)


def report(made: Sequence[Made]) -> dict[str, Any]:
    """All of it as JSON has it."""
    states = [one.state for one in made]
    return {
        "ok": "failed" not in states,
        "counts": {state: states.count(state) for state in ("done", "same", "failed")},
        "files_written": sum(one.written for one in made),
        "files_kept": sum(one.kept for one in made),
        "sets": [asdict(one) for one in made],
    }
