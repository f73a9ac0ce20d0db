"""Run benchmarks: `./sieve bench [--quick] [NAME [VALUE...]]`; without a name, list them.

Each module here with a function `main` is a benchmark. The values are the arguments of `main`, and
`QUICK` holds those of a short run. `--quick` without a name runs every benchmark in a separate
process, and the exit status is 1 if one of them failed.
"""

from __future__ import annotations

import inspect
import os
import shutil
import subprocess
import sys
import tempfile
import time
from concurrent.futures import ThreadPoolExecutor
from importlib import import_module
from pathlib import Path

from tests.conftest import RUN

# Memory blocks that the imaging library keeps; the start script sets it as well.
os.environ.setdefault("PILLOW_BLOCKS_MAX", "5")
_NO_BENCHMARKS = {"__init__", "__main__", "plainly"}


def names() -> list[str]:
    """Return the names of all benchmarks."""
    return sorted({one.stem for one in Path(__file__).parent.glob("*.py")} - _NO_BENCHMARKS)


def run(name: str, values: list[str], *, quick: bool = False) -> int:
    """Run a benchmark in this process and return its exit status.

    Parameters
    ----------
    name : str
    values : list of str
        Arguments of its `main`, in order. Default: those of the module.
    quick : bool
        Use the values of a short run.
    """
    module = import_module(f"benchmarks.{name}")
    if quick:
        return module.main(*module.QUICK) or 0
    parameters = list(inspect.signature(module.main).parameters.values())
    try:
        given = [type(one.default)(value) for one, value in zip(parameters, values, strict=False)]
    except ValueError as error:
        return _refuse(f"{name}: {error}.")
    if len(values) > len(parameters):
        return _refuse(f"{name} takes {', '.join(one.name for one in parameters)}.")
    return module.main(*given) or 0


def _refuse(message: str) -> int:
    print(message, file=sys.stderr)
    return 2


def run_all() -> int:
    """Run every benchmark shortly, two at a time; return 1 if one failed.

    The demo's pictures are drawn once for all of them.
    """
    os.environ[RUN] = str(os.getpid())
    with ThreadPoolExecutor(2) as pool:
        failed = [
            name for name, ok in zip(names(), pool.map(_is_run, names()), strict=True) if not ok
        ]
    for left in Path(tempfile.gettempdir()).glob(f"sieve-drawn-{os.environ[RUN]}*"):
        shutil.rmtree(left) if left.is_dir() else left.unlink()
    print(f"failed: {', '.join(failed) or 'none'}")
    return 1 if failed else 0


def _is_run(name: str) -> bool:
    """Run a benchmark shortly in another process, print its output, and return if it succeeded."""
    start = time.monotonic()
    done = subprocess.run(
        [sys.executable, "-m", "benchmarks", "--quick", name],
        check=False, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True,
    )  # fmt: skip
    print(f"== {name}, {time.monotonic() - start:.0f} s\n{done.stdout}", flush=True)
    return done.returncode == 0


def main(words: list[str]) -> int:
    """Run the benchmarks that a command line names; return the exit status."""
    quick = "--quick" in words
    name, *values = [word for word in words if word != "--quick"] or [""]
    if not name and quick:
        return run_all()
    if name not in names():
        for one in names():
            described = (import_module(f"benchmarks.{one}").__doc__ or "").partition("\n")[0]
            print(f"{one:22} {described}")
        return _refuse(f"There is no benchmark named {name}.") if name else 0
    return run(name, values, quick=quick)


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
