"""The rooms: imports go downwards, a violation is caught, the core stands alone, types are true."""

from __future__ import annotations

import json
import os
import re
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

from copper_sieve.cli.openapi import openapi_text

ROOT = Path(__file__).resolve().parents[2]


def lint_imports(root: Path) -> subprocess.CompletedProcess[str]:
    program = Path(sys.executable).with_name("lint-imports")
    return subprocess.run(
        [str(program), "--config", str(root / ".importlinter"), "--no-cache"],
        cwd=root,
        env={**os.environ, "PYTHONPATH": str(root / "src")},
        capture_output=True,
        text=True,
        check=False,
    )


def test_the_import_rule_holds() -> None:
    done = lint_imports(ROOT)
    assert done.returncode == 0, done.stdout


@pytest.mark.parametrize(
    ("module", "line"),
    [
        ("core/graph/plan.py", "from copper_sieve.services import context"),
        ("core/codecs/formats/png.py", "from copper_sieve.core.operations import OPERATIONS"),
        ("core/operations/numerics/spectrum.py", "import pydantic"),
        ("core/targets/catalog.py", "import psycopg"),
        ("store/cache.py", "from copper_sieve.api import deps"),
    ],
)
def test_a_planted_violation_is_caught(tmp_path: Path, module: str, line: str) -> None:
    shutil.copytree(ROOT / "src", tmp_path / "src", ignore=shutil.ignore_patterns("__pycache__"))
    shutil.copy(ROOT / ".importlinter", tmp_path)
    path = tmp_path / "src" / "copper_sieve" / module
    path.write_text(path.read_text() + f"\n{line}\n")
    done = lint_imports(tmp_path)
    assert done.returncode == 1, done.stdout
    assert "BROKEN" in done.stdout


def test_the_core_works_with_web_database_and_queue_blocked() -> None:
    program = """
import sys
for name in ("fastapi", "starlette", "uvicorn", "psycopg", "psycopg_pool", "procrastinate",
             "fsspec", "zipstream", "pygltflib"):
    sys.modules[name] = None
import copper_sieve.cli.make, copper_sieve.cli.derive, copper_sieve.cli.assay
del sys.modules["pygltflib"]  # loaded by the targets that write glTF
import importlib, pkgutil, copper_sieve.core
for info in pkgutil.walk_packages(copper_sieve.core.__path__, "copper_sieve.core."):
    importlib.import_module(info.name)
"""
    subprocess.run([sys.executable, "-c", program], check=True)


def test_no_module_is_overlong() -> None:
    endings = {".py", ".ts", ".tsx", ".sql", ".css"}
    for folder in ("src", "web/src", "tests"):
        for path in (ROOT / folder).rglob("*"):
            if path.suffix in endings and path.name != "schema.d.ts":
                lines = path.read_text().count("\n")
                assert lines <= 420, f"{path.relative_to(ROOT)} has {lines} lines"


def test_the_generated_client_types_are_up_to_date(tmp_path: Path) -> None:
    kept = ROOT / "web" / "src" / "api"
    assert openapi_text() == (kept / "openapi.json").read_text(), "run ./sieve types"
    node = os.environ.get("PATH", "")
    out = tmp_path / "schema.d.ts"
    subprocess.run(
        ["node", "generate-types.mjs", str(out)],
        cwd=ROOT / "web",
        env={**os.environ, "PATH": node},
        check=True,
        capture_output=True,
    )
    assert out.read_text() == (kept / "schema.d.ts").read_text(), "run ./sieve types"


def test_lock_files_carry_no_addresses() -> None:
    for name in (
        "web/package-lock.json",
        "requirements.lock",
        "requirements-dev.lock",
        "requirements-uv.lock",
        "requirements-node.lock",
    ):
        assert not re.search(r"https?://", (ROOT / name).read_text()), name
    locked = json.loads((ROOT / "web" / "package-lock.json").read_text())["packages"]
    assert all("resolved" not in entry for entry in locked.values())


def test_the_front_end_asks_nothing_of_other_hosts() -> None:
    dist = ROOT / "web" / "dist"
    page = (dist / "index.html").read_text()
    assert not re.search(r'(src|href)="https?:', page)
    for style in (dist / "assets").glob("*.css"):
        assert not re.search(r"url\(['\"]?https?:|@import", style.read_text())
