"""The built-in targets, read from the JSON files in this folder."""

from __future__ import annotations

from functools import cache
from importlib import resources

from copper_sieve.core.errors import UnknownTargetError
from copper_sieve.core.targets.target_preset import TargetPreset


@cache
def builtin_targets() -> dict[str, TargetPreset]:
    """Return all built-in targets by id, in alphabetical order."""
    folder = resources.files("copper_sieve.core.targets") / "builtin"
    found = [
        TargetPreset.model_validate_json(file.read_text("utf-8"))
        for file in folder.iterdir()
        if file.name.endswith(".json")
    ]
    return {preset.id: preset for preset in sorted(found, key=lambda preset: preset.id)}


def get_target(target_id: str) -> TargetPreset:
    """Return a built-in target.

    Raises
    ------
    UnknownTargetError : with the available ids
    """
    found = builtin_targets().get(target_id)
    if found is None:
        raise UnknownTargetError(
            f"there is no target {target_id}. Available: {', '.join(builtin_targets())}"
        )
    return found
