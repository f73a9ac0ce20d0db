"""./sieve make with several sets: folders, lists, files grouped by name."""

from __future__ import annotations

import argparse
import json
import sys
from collections.abc import Iterable
from functools import partial
from pathlib import Path

from copper_sieve.cli import options
from copper_sieve.core.errors import DeliveryError, ParameterError, UnsafeNameError
from copper_sieve.core.ingest.unpack import is_importable
from copper_sieve.core.untrusted_paths import local_path
from copper_sieve.library import documents
from copper_sieve.library.batch import (
    BatchOptions,
    FileSet,
    Made,
    make_many,
    pictures_in,
    report,
    sets_among,
)
from copper_sieve.settings import load_settings
from copper_sieve.store.cache import MemoryCache

_KEPT_BYTES = 1 << 30  # of maps that the next target of a set may use


def is_many(arguments: argparse.Namespace) -> bool:
    """Return whether several sets are given instead of one photo with its maps."""
    given = [one for one in (arguments.photo, *arguments.maps) if one is not None]
    return arguments.sets or arguments.listed is not None or any(one.is_dir() for one in given)


def run(arguments: argparse.Namespace) -> int:
    """Create and deliver every set; status 1 if one of them failed."""
    if arguments.set_name:
        raise ParameterError("--set names a single set, but there are several. Remove --set")
    given = [one for one in (arguments.photo, *arguments.maps) if one is not None]
    for one in given:
        if one.is_file() and not is_importable(one.name):
            raise ParameterError(
                f"{one} isn't a picture. Give pictures and folders, or a list of them with "
                "--list FILE"
            )
    given += _listed(arguments.listed)
    way = delivery_options_of(arguments)
    sets = sets_among(pictures_in(given), way.cards, way.limits)
    if not sets:
        raise ParameterError("No pictures found. Give pictures or folders that contain pictures")
    made = []
    for one in make_many(sets, way, arguments.out, arguments.jobs):
        made.append(one)
        if not arguments.json:
            report_progress(one, len(made), len(sets))
    if arguments.json:
        print(json.dumps(report(made), indent=2))
    else:
        counts = report(made)["counts"]
        print(f"{counts['done']} created, {counts['same']} unchanged, {counts['failed']} failed")
    return 1 if any(one.state == "failed" for one in made) else 0


def delivery_options_of(arguments: argparse.Namespace) -> BatchOptions:
    """Return how sets are created, from the options. Raises SieveError for invalid options."""
    if arguments.model and not arguments.model.is_file():
        raise ParameterError(f"{arguments.model} doesn't exist. Give a model file with --model")
    if getattr(arguments, "material", None):
        raise ParameterError(
            "--material applies to a single set; several sets use the material with their name"
        )
    if arguments.out.exists() and not arguments.out.is_dir():
        raise DeliveryError(f"{arguments.out} is a file. Give a folder with --out")
    return BatchOptions(
        targets=tuple(documents.target(one) for one in dict.fromkeys(arguments.target)),
        cards=tuple(documents.card(one) for one in arguments.card),
        recipe=documents.recipe(arguments.recipe) if arguments.recipe else None,
        prepare=documents.preparation(arguments.prepare) if arguments.prepare else None,
        longer_side=arguments.size,
        normal_y=arguments.normal_y,
        wrap=options.wrap_of(arguments),
        relief=arguments.relief,
        limits=load_settings().limits,
        model=arguments.model,
        uv_set=arguments.uv,
        model_limits=load_settings().model_limits,
        new_cache=partial(MemoryCache, _KEPT_BYTES),
    )


def report_progress(one: Made, number: int, count: int) -> None:
    """Print the result of a set; guesses and failures go to standard error."""
    place = f"[{number}/{count}] {one.name}: "
    if one.state == "failed":
        sys.stderr.write(f"sieve: {place}{one.error}\n")
    elif one.state == "same":
        print(f"{place}unchanged", flush=True)
    else:
        kept = f", {one.kept} unchanged" if one.kept else ""
        print(f"{place}{one.written} files written{kept}, all channels verified", flush=True)
        options.print_remarks(f"{one.name}: {note}" for note in one.notes)


def _listed(path: Path | None) -> list[Path]:
    if path is None:
        return []
    try:
        lines = path.read_text("utf-8").splitlines()
    except OSError as error:
        raise ParameterError(f"Couldn't read {path} ({error.strerror})") from error
    except ValueError as error:
        raise ParameterError(
            f"Couldn't read {path}: it isn't a text file in UTF-8. Give a list of files and "
            "folders, one per line"
        ) from error
    found: list[Path] = []
    for number, line in enumerate(lines, 1):
        if not line.strip() or line.startswith("#"):
            continue
        try:
            found += _matching(path.parent, line.strip())
        except UnsafeNameError as error:
            raise ParameterError(
                f"{path}, line {number}: {error.message}. Correct or remove the line"
            ) from error
    return found


def _matching(base: Path, name: str) -> Iterable[Path]:
    """Return the files that a line of a list refers to; it may be a pattern. Raises
    UnsafeNameError.
    """
    whole = local_path(name, base)
    if any(sign in name for sign in "*?["):
        anchor = Path(name).anchor
        start = Path(anchor) if anchor else base
        return sorted(start.glob(name.removeprefix(anchor)))
    return [whole]


def sets_of(folder: Path, way: BatchOptions) -> list[FileSet]:
    """Return the sets that are currently in a folder."""
    return sets_among(pictures_in([folder]), way.cards, way.limits)
