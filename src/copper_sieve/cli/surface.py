"""--wrap and --relief: the surface of a set that the command line makes."""

from __future__ import annotations

import argparse
from collections.abc import Iterable
from typing import TYPE_CHECKING, Any

from copper_sieve.core.errors import ParameterError
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.models.relief import RELIEF, RELIEFS, STEEPEST_RELIEF

if TYPE_CHECKING:  # what it takes to measure is loaded when it is measured
    from copper_sieve.core.image.wrap import WrapSpec
    from copper_sieve.core.ingest.sources import SourceFacts
    from copper_sieve.core.models.texture_set import SurfaceSpec

_STATED: dict[str, WrapSpec] = {"yes": True, "no": False, "across": "across", "down": "down"}


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """The two options."""
    parser.add_argument(
        "--wrap", choices=("auto", *_STATED), default="auto",
        help="which borders of the picture meet; auto measures, and tells what was found",
    )  # fmt: skip
    amounts = ", ".join(f"{word} {degrees:g}" for word, degrees in RELIEFS.items())
    parser.add_argument(
        "--relief", metavar="DEGREES",
        help=f"mean tilt of a relief whose depth nothing tells: degrees, or {amounts}; "
        f"default {RELIEF:g}",
    )  # fmt: skip


def surface_of(
    arguments: argparse.Namespace, facts: Iterable[tuple[MapKind, SourceFacts]]
) -> tuple[SurfaceSpec, str]:
    """The surface as stated, else as measured; and what was measured, in words, or nothing.

    Raises ParameterError.
    """
    from copper_sieve.core.ingest.sources import measured_surface

    known = list(facts)
    found = measured_surface(known)
    changes: dict[str, Any] = {}
    told = ""
    if arguments.wrap != "auto":
        changes["wrap"] = _STATED[arguments.wrap]
    elif found.wrap is not False:
        guide = next(f for _, f in known if f.tiling and f.tiling.wrap.spec == found.wrap)
        assert guide.tiling
        told = f"{guide.name}: {guide.tiling.text()}; --wrap no says otherwise"
    if arguments.relief is not None:
        changes["relief"] = _relief(arguments.relief)
    return found.model_copy(update=changes), told


def _relief(word: str) -> float:
    if word in RELIEFS:
        return RELIEFS[word]
    try:
        degrees = float(word)
        if 0 <= degrees <= STEEPEST_RELIEF:
            return degrees
    except ValueError:
        pass
    raise ParameterError(
        f"--relief {word}: give degrees from 0 to {STEEPEST_RELIEF:g}, "
        f"or one of {', '.join(RELIEFS)}"
    )
