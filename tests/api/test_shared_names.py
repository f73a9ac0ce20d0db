"""Parts of one delivery that write to the same folder."""

from __future__ import annotations

from pathlib import Path

from copper_sieve.core.targets.catalog import builtin_targets
from copper_sieve.services.delivery_preview import DryRunPart, _apart


def part(set_id: int, folder: str, *names: str, error: str | None = None) -> DryRunPart:
    states = dict.fromkeys(names, "new")
    preset = builtin_targets()["orm-y-down"]
    return DryRunPart(set_id, None, preset, f"set_{set_id}", Path(folder), "m.json", states, error)


def test_names_that_differ_in_case_collide() -> None:
    """Common file systems keep one of Wall.png and wall.png."""
    first, same, other, elsewhere, failed = _apart([
        part(1, "/quay", "wall_orm.png", "wall.png"), part(2, "/quay", "new.png", "Wall.PNG"),
        part(3, "/quay", "deck.png"), part(4, "/pier", "wall.png"),
        part(5, "/quay", "wall.png", error="unreadable"),
    ])  # fmt: skip
    assert [one.error for one in (first, other, elsewhere)] == [None] * 3
    assert failed.error == "unreadable"
    assert same.error == (
        "set_1 for orm-y-down would also write Wall.PNG to /quay. Use separate folders or "
        "different file names"
    )
