"""./sieve make: photo in, verified target folders out, all in this process."""

from __future__ import annotations

import argparse
import json
import os
import sys
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any, TypeVar

from pydantic import BaseModel, ValidationError
from pydantic_core import from_json, to_json

from copper_sieve.cli.surface import surface_of
from copper_sieve.core.codecs import loss_of, read_picture
from copper_sieve.core.errors import DeliveryError, ManifestError, PlanError, RecipeError
from copper_sieve.core.export.assay import read_manifest
from copper_sieve.core.export.deliver import Delivered, deliver
from copper_sieve.core.export.export_plan import ExportPlan
from copper_sieve.core.export.planning import plan_export
from copper_sieve.core.image.map_kind import MapKind, NormalY
from copper_sieve.core.image.raster import Picture
from copper_sieve.core.ingest.sources import (
    SourceFacts,
    examine,
    imported_maps,
    likely_green,
)
from copper_sieve.core.models.assignment import AS_SPECULAR, is_specular_set
from copper_sieve.core.models.naming import slug
from copper_sieve.core.models.preparation import Preparation
from copper_sieve.core.models.recipe import Recipe, apply_recipe
from copper_sieve.core.models.texture_set import Imported, compose
from copper_sieve.core.recognition.classify import recognize_picture
from copper_sieve.core.recognition.names import kind_from_name, read_name
from copper_sieve.core.targets.catalog import get_target
from copper_sieve.core.targets.target_preset import TargetPreset
from copper_sieve.settings import load_settings
from copper_sieve.store.cache import MemoryCache

_Model = TypeVar("_Model", bound=BaseModel)
_KEPT_BYTES = 2 * 1024**3  # of maps that the next target may want as well


class LocalSources:
    """Files of this machine as sources, known by their SHA-256."""

    def __init__(self) -> None:
        self.settings = load_settings()
        self.facts: dict[str, SourceFacts] = {}
        self.guesses: list[str] = []  # and whatever else is to be told of the files, in words
        self._paths: dict[str, Path] = {}

    def add(self, path: Path) -> SourceFacts:
        """Read a file; raises PictureError naming it and what to do."""
        return self._examined(path)[0]

    def add_map(
        self, path: Path, kind: MapKind, stated: NormalY | None = None
    ) -> dict[MapKind, Imported]:
        """Read a file as a map; raises PictureError naming it and what to do.

        stated : the direction of green of a normal map; None: as it is measured, else as its name
        says, else as most of it has it. What is guessed is noted in `guesses`.
        """
        facts, picture = self._examined(path)
        green = stated
        if kind is MapKind.NORMAL and stated is None:
            green = self.green_of(facts)
        self.guesses += [f"{path.name}: {text}" for text in _about(path, facts, picture, kind)]
        return imported_maps(facts, kind, green)

    def green_of(self, facts: SourceFacts) -> NormalY:
        """The direction of green of a file that was added; a guess is noted."""
        path = self._paths[facts.sha256]
        green, guess = likely_green(path, facts, self.load(facts.sha256))
        if guess:
            self.guesses.append(f"{path.name}: {guess}; --normal-y says otherwise")
        return green

    def _examined(self, path: Path) -> tuple[SourceFacts, Picture]:
        facts, picture = examine(path, self.settings.limits)
        self.facts[facts.sha256] = facts
        self._paths[facts.sha256] = path
        return facts, picture

    @property
    def sizes(self) -> dict[str, tuple[int, int]]:
        """Width and height of every source."""
        return {sha: facts.size for sha, facts in self.facts.items()}

    def load(self, source: str) -> Picture:
        """The codes of a source."""
        return read_picture(self._paths[source], self.settings.limits)[1]


def _about(path: Path, facts: SourceFacts, picture: Picture, kind: MapKind) -> tuple[str, ...]:
    """What a colleague would mention of a specular picture."""
    if kind is not MapKind.SPECULAR_COLOR:
        return ()
    loss = loss_of(path, facts.spec.format)
    found = recognize_picture(path.stem, picture, loss=loss)
    return found.remarks if found.kind is kind else ()


def tell(remarks: list[str]) -> None:
    """A guess is told as a guess: one line each on standard error."""
    for remark in remarks:
        sys.stderr.write(f"sieve: {remark}\n")


def run(arguments: argparse.Namespace) -> int:
    """Deliver to every target; nothing is written before all of them are known to be possible."""
    presets = [_target(target) for target in dict.fromkeys(arguments.target)]
    if arguments.out.exists() and not arguments.out.is_dir():
        raise DeliveryError(f"{arguments.out} is a file: give a folder to --out")
    sources = LocalSources()
    imported, taken = _take_in(arguments, sources)
    name = slug(arguments.set_name or _set_name(arguments.photo))
    surface, measured = surface_of(arguments, _facts_of(imported, sources))
    sources.guesses += [measured] if measured else []
    texture_set = compose(name, imported, surface)
    notes: list[str] = []
    if arguments.prepare:
        prepare = _preparation(arguments.prepare)
        texture_set = texture_set.model_copy(update={"prepare": prepare})
    if arguments.recipe:
        applied = apply_recipe(_recipe(arguments.recipe), texture_set, known_sources=())
        texture_set = applied.texture_set
        notes = [f"{kind}: {reason}" for kind, reason in applied.kept.items()]
    exports = [
        plan_export(preset, texture_set, sources.sizes, longer_side=arguments.size)
        for preset in presets
    ]
    folders = [_folder(arguments, export, name) for export in exports]
    tell(sources.guesses)
    results = []
    cache = MemoryCache(_KEPT_BYTES) if len(exports) > 1 else None
    for export, folder in zip(exports, folders, strict=True):
        delivered = deliver(
            export,
            folder,
            sizes=sources.sizes,
            load_source=sources.load,
            token=str(os.getpid()),
            cache=cache,
            on_progress=None if arguments.json else _progress(export.preset.id),
        )
        results.append(_summary(export, folder, delivered))
    if arguments.json:
        overview = _overview(name, taken, results)
        told = {"recipe_notes": notes, "remarks": sources.guesses}
        print(json.dumps({**overview, **told}, indent=2))
    else:
        for note in notes:
            print(f"recipe, {note}")
        for result in results:
            print(f"{result['folder']}: {len(result['files'])} files, every channel proven")
            for remark in result["remarks"]:
                print(f"  {remark}")
    return 0


def _take_in(
    arguments: argparse.Namespace, sources: LocalSources
) -> tuple[dict[MapKind, Imported], dict[MapKind, Path]]:
    """The maps that the files give, and the file of each. Raises PlanError, PictureError."""
    kinds = {arguments.photo: MapKind.BASE_COLOR}
    taken = {MapKind.BASE_COLOR: arguments.photo}
    for path in arguments.maps:
        kind = kind_from_name(path.stem)
        if kind is None:
            raise PlanError(
                f"{path.name}: its name does not say which map it is; "
                "end it in _normal, _roughness, _height, _ao, _metallic or the like"
            )
        if kind in taken:
            raise PlanError(f"{path.name}: {taken[kind].name} is the {kind} map already; give one")
        kinds[path] = kind
        taken[kind] = path
    if is_specular_set(taken):
        for path, kind in kinds.items():
            if (read_as := AS_SPECULAR.get(kind)) and read_as not in taken:
                kinds[path] = read_as
                title = read_as.facts.title.lower()
                sources.guesses.append(
                    f"{path.name}: taken as {title}, since a specular color lies beside it and no "
                    "metallic"
                )
    stated = NormalY(arguments.normal_y) if arguments.normal_y else None
    imported: dict[MapKind, Imported] = {}
    for path, kind in kinds.items():
        imported |= sources.add_map(path, kind, stated)
    return imported, {kind: path for path, kind in kinds.items()}


def _facts_of(
    imported: dict[MapKind, Imported], sources: LocalSources
) -> Iterator[tuple[MapKind, SourceFacts]]:
    """Each map with the facts of its file."""
    for kind, one in imported.items():
        yield kind, sources.facts[one.source]


def _folder(arguments: argparse.Namespace, export: ExportPlan, name: str) -> Path:
    """Where a target's files go; a tile of several goes beside the others of its material.

    Raises DeliveryError where another set lies there, which would be replaced.
    """
    folder: Path = arguments.out / export.preset.id
    if read_name(arguments.photo.stem).tile is not None:
        folder /= name
    try:
        there = read_manifest(folder)
    except ManifestError:
        return folder
    if there.set != name:
        raise DeliveryError(
            f"{folder} holds the set {there.set}, and {name} would replace it: give another folder "
            f"to --out, or --set {there.set} if it is the same one"
        )
    return folder


def _target(word: str) -> TargetPreset:
    """A built-in target by its id, or one that a file holds."""
    if not word.endswith(".json"):
        return get_target(word)
    return _read(Path(word), "target", TargetPreset.model_validate_json)


def _recipe(path: Path) -> Recipe:
    return _read(path, "recipe", Recipe.model_validate_json)


def _preparation(path: Path) -> Preparation:
    """A preparation by itself, or the one that a manifest tells of."""

    def parse(text: bytes) -> Preparation:
        content = from_json(text)
        if isinstance(content, dict) and "files" in content:
            content = content.get("prepare", {})
        return Preparation.model_validate_json(to_json(content))

    return _read(path, "preparation", parse)


def _read(path: Path, word: str, parse: Callable[[bytes], _Model]) -> _Model:
    try:
        return parse(path.read_bytes())
    except OSError as error:
        raise RecipeError(
            f"{path} cannot be read ({error.strerror}): give a {word} file"
        ) from error
    except ValidationError as error:
        first = error.errors()[0]
        place = ".".join(str(part) for part in first["loc"])
        raise RecipeError(
            f"{path} is no {word} ({place or 'content'}: {first['msg']}): export it again"
        ) from error
    except ValueError as error:
        raise RecipeError(f"{path} is no {word} (content: {error}): export it again") from error


def _set_name(photo: Path) -> str:
    """The stem without the words that only say which map it is, with the number of its tile."""
    read = read_name(photo.stem)
    stem = read.stem if read.kind is MapKind.BASE_COLOR else photo.stem
    # Until sets hold tiles, each is a set of its own.
    return stem if read.tile is None or str(read.tile) in stem else f"{stem}_{read.tile}"


def _progress(target: str) -> Callable[[float, str], None] | None:
    if not sys.stderr.isatty():
        return None

    def show(share: float, text: str) -> None:
        sys.stderr.write(f"\r\033[K{target}: {share:4.0%} {text}" + ("\n" if share >= 1 else ""))
        sys.stderr.flush()

    return show


def _overview(
    name: str, taken: dict[MapKind, Path], results: list[dict[str, Any]]
) -> dict[str, Any]:
    """Everything written, all files and the assay at the top, then target by target."""
    return {
        "set": name,
        "maps_from": {kind.value: str(path) for kind, path in taken.items()},
        "files": [file for result in results for file in result["files"]],
        "assay": {
            "ok": all(result["assay"]["ok"] for result in results),
            "files": [file for result in results for file in result["assay"]["files"]],
        },
        "targets": results,
    }


def _summary(export: ExportPlan, folder: Path, delivered: Delivered) -> dict[str, Any]:
    manifest = delivered.manifest
    return {
        "target": export.preset.id,
        "folder": str(folder),
        "manifest": str(folder / "manifest.json"),
        "normal_y": export.preset.normal_y,
        "files": [
            {
                **entry.model_dump(mode="json"),
                "path": str(folder / entry.name),
                "target": export.preset.id,
            }
            for entry in manifest.entries
        ],
        "remarks": list(manifest.remarks),
        "assay": delivered.assay.model_dump(mode="json"),
    }
