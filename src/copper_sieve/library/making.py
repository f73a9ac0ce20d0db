"""Deliver a photo to targets in one call, and list operations and conversions."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from pathlib import Path
from typing import Any

from copper_sieve.core.export.stager import Delivered
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
    **options: Any,
) -> dict[str, Delivered]:
    """Deliver a photo and optional further maps to targets.

    Nothing is written until all targets are checked.

    Parameters
    ----------
    photo : Path or str, photo of the surface, used as base color
    maps : sequence of Path or str, further files; their names determine their map kinds
    targets : iterable of str, ids of built-in targets, or JSON files of targets
    out : Path or str, output folder; each target gets a subfolder
    longer_side : int, optional, texels of the longer side. Default: as each target states
    options : `name`, `normal_y`, `wrap`, `relief` and `limits` as in `MapSet.from_files`

    Returns
    -------
    dict of str to Delivered
        Verified delivery of each target, by target id.

    Raises
    ------
    SieveError : see `MapSet.from_files` and `MapSet.deliver`
    """
    texture_set = MapSet.from_files(photo, *maps, **options)
    exports = [texture_set.plan(target, longer_side) for target in targets]
    return {
        export.preset.id: texture_set.deliver(export, Path(out) / export.preset.id)
        for export in exports
    }


def operations() -> dict[str, Operation]:
    """Return every operation by its name, with its inputs and parameters."""
    return dict(OPERATIONS)


def rules() -> dict[str, Rule]:
    """Return every conversion by its name, with its inputs and outputs."""
    return dict(RULES)
