"""Each statement that a store module names exists, and each one that exists is used."""

import re
from pathlib import Path

import pytest

STORE = Path(__file__).parents[2] / "src" / "copper_sieve" / "store"


@pytest.mark.parametrize(
    "query_file", sorted((STORE / "queries").glob("*.sql")), ids=lambda p: p.stem
)
def test_statements_and_their_uses_agree(query_file: Path) -> None:
    names = set(re.findall(r"(?m)^-- name: (\w+)$", query_file.read_text("utf-8")))
    modules = [
        text for path in STORE.glob("*.py")
        if f'_SQL = statements("{query_file.stem}")' in (text := path.read_text("utf-8"))
    ]  # fmt: skip
    assert len(modules) == 1
    assert names
    indexed = set(re.findall(r'_SQL\[\s*"(\w+)"\s*\]', modules[0]))
    assert indexed <= names
    assert {name for name in names if f'"{name}"' not in modules[0]} == set()
