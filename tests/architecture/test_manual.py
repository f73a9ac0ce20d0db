"""The manual is built without a broken link, and describes everything that scripts may use."""

from __future__ import annotations

import os
import re
import subprocess
import sys
from pathlib import Path

import copper_sieve as cs

ROOT = Path(__file__).parents[2]
# Told by what gives them, and described with the files that they are in.
_ELSEWHERE = {"Assay", "Manifest", "MapKind", "NormalY", "Operation", "PictureError", "Preparation",
              "Recipe", "Rule", "TargetPreset"}  # fmt: skip
_CALLED = {"targets": "builtin_targets", "assay": "assay_folder"}


def test_it_is_built_whole(tmp_path: Path) -> None:
    done = subprocess.run(
        [sys.executable, "-m", "mkdocs", "build", "-q", "-d", str(tmp_path / "site")],
        cwd=ROOT, capture_output=True, text=True, check=False,
        env={**os.environ, "NO_MKDOCS_2_WARNING": "1"},
    )  # fmt: skip
    assert done.returncode == 0, done.stderr  # strict: every warning is an error
    site = tmp_path / "site"
    reference = (site / "reference" / "library.html").read_text("utf-8")
    described = set(re.findall(r'id="copper_sieve\.[\w.]*?(\w+)"', reference))
    missing = {_CALLED.get(name, name) for name in cs.__all__} - _ELSEWHERE - described
    assert missing == set()
    assert "<strong>Raises</strong>" in reference and "<code>PictureError</code>: if" in reference
    outside = re.compile(r'(?:src|href)="(https?://[^"]+)"[^>]*(?:rel="stylesheet"|></script>)')
    for page in site.rglob("*.html"):
        assert not outside.findall(page.read_text("utf-8")), f"{page} loads something from outside"


def test_its_first_script_is_true() -> None:
    text = (ROOT / "docs" / "manual" / "scripts.md").read_text("utf-8")
    used = set(re.findall(r"\bcs\.(\w+)", text))
    assert used <= set(cs.__all__)
