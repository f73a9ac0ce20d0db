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
from copper_sieve.core.codecs.checksums import file_sha256
from copper_sieve.core.codecs.meshes.limits import ModelLimits
from copper_sieve.core.detection.names import read_name
from copper_sieve.core.errors import MeasureError, SieveError
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
from copper_sieve.library.batch_record import BatchRecord, signatures
from copper_sieve.library.importing import WrapChoice
from copper_sieve.library.light_captures import detect_light_captures
from copper_sieve.library.map_set import MapSet

_ENDINGS = {ending for codec in CODECS.values() for ending in codec.endings}


@dataclass(frozen=True, slots=True)
class FileSet:
    """Files of one set, grouped by name.

    Attributes
    ----------
    name : name of the set
    files : paths of the files
    measured : True if the files are light captures of one surface
    """

    name: str
    files: tuple[Path, ...]
    measured: bool = False


@dataclass(frozen=True)
class BatchOptions:
    """Options of a batch: targets, recipe, preparation, size and detection.

    Attributes
    ----------
    targets : targets that each set is delivered to
    cards : source cards; the one that matches a set's file names is applied
    recipe, prepare : applied to each set
    longer_side : texels of the longer side; None: as each target states
    model : each set is padded by the UV islands of the material with its name
    uv_set : number of the UV set, from 0
    new_cache : creates a cache for the maps that several targets of one set use
    normal_y, wrap, relief, limits : see `MapSet.from_files`
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
        """Return a SHA-256 of all options that affect the output, in hexadecimal."""
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
    """Result of one set.

    Attributes
    ----------
    name : name of the set
    state : "same" if its files and deliveries are unchanged since the previous batch
    files : paths of the input files
    folders : delivered folder of each target, by target id
    written, kept : numbers of written and of unchanged output files
    notes : guesses, and skipped parts of the recipe
    error : reason of a failure, else ""
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
    """Return all pictures in folders and their subfolders, by file extension.

    Parameters
    ----------
    paths : iterable of Path, folders and files; files are returned unchanged

    Returns
    -------
    list of Path
        Sorted within each folder, without duplicates, hidden files and delivered files.
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
    """Group pictures of each folder into sets by name.

    A file whose name contains only the map kind belongs to the set named after its folder.
    Pictures that differ only in a number and show one surface under different lights form a
    measured set.

    Parameters
    ----------
    paths : iterable of Path, picture files
    cards : sequence of SourceCard, optional, their suffixes are recognized as map kinds
    limits : Limits, optional, largest size of a file in bytes and texels

    Returns
    -------
    list of FileSet
        Names are unique, regardless of case.
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
    """Group the files of a folder by the names of their sets."""
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
    """Return a file's assignment by its name alone, the identifying words, and the confidence."""
    lower = path.stem.lower()
    for mark in sorted((m for card in cards for m in (*card.marks, *card.packed)), key=len)[::-1]:
        if lower.endswith(f"_{mark.lower()}"):
            return Assignment(set_name=slug(path.stem[: -len(mark) - 1]), map="none"), mark, 1.0
    read = read_name(path.stem)
    return guessed_by_name(read, path.parent.name), read.mark, read.confidence


def make_many(
    sets: Sequence[FileSet], options: BatchOptions, out: Path, jobs: int = 1
) -> Iterable[Made]:
    """Create sets and deliver them to `out/<target>/<set>`.

    Parameters
    ----------
    sets : sequence of FileSet, sets to deliver; see `sets_among`
    options : BatchOptions, targets and settings
    out : Path, output folder; created if missing
    jobs : int, number of processes

    Yields
    ------
    Made
        Result of each completed set. A failure is a result, too; other sets continue.
    """
    out.mkdir(parents=True, exist_ok=True)
    record = BatchRecord(out, options.digest())
    todo = []
    for one in sets:
        if record.is_same(one.name, one.files):
            yield Made(one.name, "same", tuple(map(str, one.files)))
        else:
            todo.append(one)
    stamps = {one.name: signatures(one.files) for one in todo}
    for one, made in _each(todo, options, out, jobs):
        if made.state == "done":
            record.put(one.name, made.folders.values(), stamps[one.name])
        yield made


def _each(
    todo: Sequence[FileSet], options: BatchOptions, out: Path, jobs: int
) -> Iterable[tuple[FileSet, Made]]:
    if jobs <= 1 or len(todo) <= 1:
        for one in todo:
            yield one, make_one(one, options, out)
        return
    with ProcessPoolExecutor(jobs, mp_context=get_context("spawn")) as pool:
        futures: dict[Future[Made], FileSet] = {
            pool.submit(make_one, one, options, out): one for one in todo
        }
        for done in as_completed(futures):
            yield futures[done], done.result()


def make_one(one: FileSet, options: BatchOptions, out: Path) -> Made:
    """Create and deliver one set.

    Parameters
    ----------
    one : FileSet, files of the set
    options : BatchOptions, targets and settings
    out : Path, output folder

    Returns
    -------
    Made
        State "done" or "failed"; errors are reported in it, not raised.
    """
    files = tuple(map(str, one.files))
    try:
        if one.measured:
            made = MapSet.from_captures(one.files, name=one.name, limits=options.limits)
        else:
            made = MapSet.from_recognized(
                one.files, name=one.name, cards=options.cards, normal_y=options.normal_y,
                wrap=options.wrap, relief=options.relief, limits=options.limits,
            )  # fmt: skip
        if options.prepare:
            made = made.prepared(options.prepare)
        if options.recipe:
            made = made.with_recipe(options.recipe)
        if options.model:
            made = made.for_model(options.model, uv_set=options.uv_set, limits=options.model_limits)
        exports = [made.plan(target, options.longer_side) for target in options.targets]
        cache = options.new_cache() if options.new_cache and len(exports) > 1 else None
        folders, written, kept = {}, 0, 0
        for export in exports:
            folder = out / export.preset.id / made.name
            delivered = made.deliver(export, folder, cache=cache)
            folders[export.preset.id] = str(folder)
            written += delivered.written
            kept += delivered.kept
    except MeasureError as error:
        message = f"{error.message}. If they show different surfaces, rename them"
        return Made(one.name, "failed", files, error=message)
    except SieveError as error:
        return Made(one.name, "failed", files, error=error.message)
    except MemoryError:
        error_text = "not enough memory for this size. Use a smaller --size or fewer --jobs"
        return Made(one.name, "failed", files, error=error_text)
    notes = tuple(str(note) for note in made.notes)
    return Made(one.name, "done", files, folders, written, kept, notes)


def report(made: Sequence[Made]) -> dict[str, Any]:
    """Return the results of a batch as JSON-compatible data.

    Parameters
    ----------
    made : sequence of Made, results of the sets

    Returns
    -------
    dict
        `ok`, `counts` by state, `files_written`, `files_kept`, and `sets`.
    """
    states = [one.state for one in made]
    return {
        "ok": "failed" not in states,
        "counts": {state: states.count(state) for state in ("done", "same", "failed")},
        "files_written": sum(one.written for one in made),
        "files_kept": sum(one.kept for one in made),
        "sets": [asdict(one) for one in made],
    }
