"""The memory that workers of a machine share."""

from __future__ import annotations

import os
from pathlib import Path

import pytest

from copper_sieve.services import machine
from copper_sieve.settings import Settings


@pytest.mark.parametrize(
    ("limit", "expected"), [("3000000000\n", 3_000_000_000), ("max\n", None), (None, None)]
)
def test_a_limit_of_the_container_counts(
    limit: str | None, expected: int | None, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    whole = os.sysconf("SC_PAGE_SIZE") * os.sysconf("SC_PHYS_PAGES")
    if limit is not None:
        (tmp_path / "memory.max").write_text(limit)
    monkeypatch.setattr(machine, "_LIMIT", tmp_path / "memory.max")
    assert machine.memory_of_machine() == min(whole, expected or whole)
    shared = machine.this_machine(Settings(home=tmp_path))
    assert shared.budget == min(whole, expected or whole) * 2 // 3
    assert machine.this_machine(Settings(home=tmp_path, memory=5)).budget == 5
