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
    """A photo (and further maps) as files for targets, each proven: what was delivered, by target.

    maps : further files, told apart by their names
    targets : ids of built-in ones, or JSON files; each gets a folder of its id in `out`
    longer_side : texels; default: as the target says
    how : as `MapSet.from_files` takes it: name, normal_y, wrap, relief
    Nothing is written before all of them are known to be possible. Raises SieveError.
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
