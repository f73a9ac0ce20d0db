"""Every benchmark runs, on small pictures; its figures don't matter here."""

from __future__ import annotations

from pathlib import Path

import pytest
from benchmarks.__main__ import main, names, run

ROOT = Path(__file__).parents[2]
# What other tests run: tests/faults with more kills and starts, tests/jobs, and tests/e2e.
_ELSEWHERE = {"faults", "starts", "recovery", "under_the_hand"}


@pytest.mark.browser
@pytest.mark.parametrize("name", [one for one in names() if one not in _ELSEWHERE])
def test_it_runs(name: str, capfd: pytest.CaptureFixture[str]) -> None:
    assert run(name, [], quick=True) == 0
    assert capfd.readouterr().out


def test_figures_name_their_benchmark() -> None:
    """Every benchmark in a table of figures exists, and every figure names one."""
    page = (ROOT / "docs" / "performance.md").read_text("utf-8")
    rows = [line.split("|")[1:-1] for line in page.splitlines() if line.startswith("| ")][2:]
    assert len(rows) > 8
    for what, _, command in rows:
        named = {word.strip("` ") for word in command.split(",")}
        assert named <= set(names()) or "tests in" in command, what


@pytest.mark.parametrize(
    ("values", "message"),
    [(["wide"], "operations: invalid literal"), (["64", "1", "2"], "operations takes side, runs.")],
)
def test_values_that_do_not_fit_are_refused(
    values: list[str], message: str, capsys: pytest.CaptureFixture[str]
) -> None:
    assert main(["operations", *values]) == 2
    assert capsys.readouterr().err.startswith(message)


def test_an_unknown_name_is_answered_with_the_list(capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["none"]) == 2
    shown = capsys.readouterr()
    assert all(f"\n{name} " in f"\n{shown.out}" for name in names())
    assert "There is no benchmark named none." in shown.err
