"""Calling the headless commands: in a process of their own, or here."""

from __future__ import annotations

import contextlib
import io
import os
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from copper_sieve.cli.__main__ import main


def sieve(*words: object) -> subprocess.CompletedProcess[str]:
    """Run here, which is much quicker; see `sieve_apart`."""
    arguments = [str(word) for word in words]
    out, err = io.StringIO(), io.StringIO()
    with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
        try:
            status = main(arguments)
        except SystemExit as stop:
            status = int(stop.code or 0)
    return subprocess.CompletedProcess(arguments, status, out.getvalue(), err.getvalue())


def sieve_apart(*words: object) -> subprocess.CompletedProcess[str]:
    """Run in a process of its own, with the database and the web out of reach."""
    program = (
        "import sys\n"
        "for name in ('psycopg', 'fastapi', 'procrastinate', 'uvicorn'): sys.modules[name] = None\n"
        "from copper_sieve.cli.__main__ import main\n"
        "sys.exit(main(sys.argv[1:]))"
    )
    environment = {k: v for k, v in os.environ.items() if k != "DATABASE_URL"}
    return subprocess.run(
        [sys.executable, "-c", program, *map(str, words)],
        capture_output=True,
        text=True,
        env=environment,
        check=False,
    )


def refused(capsys: pytest.CaptureFixture[str], *words: object) -> str:
    """Run here; must end with status 2 and one line on standard error, which is returned."""
    try:
        status = main([str(word) for word in words])
    except SystemExit as stop:
        status = int(stop.code or 0)
    out = capsys.readouterr()
    assert status == 2
    assert out.out == ""
    assert out.err.count("\n") == 1
    return out.err


def read(path: Path) -> np.ndarray:
    with Image.open(path) as image:
        return np.asarray(image)
