"""From a photo to verified folders in one call; and what there is to make and convert by."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from pathlib import Path
from typing import Any

from copper_sieve.core.export.deliver import Delivered
from copper_sieve.core.operations import OPERATIONS, Operation
from copper_sieve.core.tools.convert import RULES, Rule
from copper_sieve.library.map_set import MapSet


def make(
    photo: Path | str,
    maps: Sequence[Path | str] = (),
    *,
    targets: Iterable[str],
    out: Path | str,
    longer_side: int | None = None,
    **how: Any,
) -> dict[str, Delivered]:
    """Deliver a photo (and more maps) to targets; returns the verified deliveries by target.

    maps : more files; the names determine the map types
    targets : ids of built-in targets, or JSON files; each gets a subfolder of `out`
    longer_side : texels; default: as the target states
    how : arguments of `MapSet.from_files`: name, normal_y, wrap, relief
    Nothing is written before all targets are checked. Raises SieveError.
    """
    texture_set = MapSet.from_files(photo, *maps, **how)
    exports = [texture_set.plan(target, longer_side) for target in targets]
    return {
        export.preset.id: texture_set.deliver(export, Path(out) / export.preset.id)
        for export in exports
    }


def operations() -> dict[str, Operation]:
    """Every operation by its name, with its inputs, its slots and its parameters."""
    return dict(OPERATIONS)


def rules() -> dict[str, Rule]:
    """Every rule of `convert` by its name, with the maps that it takes and gives."""
    return dict(RULES)
