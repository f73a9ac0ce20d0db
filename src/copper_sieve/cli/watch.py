"""./sieve watch: create and deliver sets from files that appear or change in a folder."""

from __future__ import annotations

import argparse
import json
import sys
import time
from dataclasses import asdict
from pathlib import Path

from watchfiles import watch

from copper_sieve.cli.many import delivery_options_of, report_progress, sets_of
from copper_sieve.core.errors import ParameterError
from copper_sieve.library.batch import BatchOptions, FileSet, make_many

_SETTLED = 1.0  # seconds without a write after which a file counts as complete
_REST_MS = 400


def run(arguments: argparse.Namespace) -> int:
    """Run until stopped; with --once, process existing files and return 1 if a set failed."""
    folder: Path = arguments.folder
    if not folder.is_dir():
        raise ParameterError(f"{folder} isn't a folder. Give the folder to watch")
    out, here = arguments.out.resolve(), folder.resolve()
    if out == here or here in out.parents:
        raise ParameterError(
            f"{arguments.out} is inside the watched folder. Choose another folder with --out"
        )
    watcher = _Watcher(folder, arguments.out, delivery_options_of(arguments), arguments)
    failed = watcher.look()
    if arguments.once:
        return 1 if failed else 0
    sys.stderr.write(f"sieve: watching {folder}. Press Ctrl+C to stop\n")
    for _ in watch(folder, step=100, debounce=_REST_MS, rust_timeout=1000, yield_on_timeout=True,
                   raise_interrupt=True):  # fmt: skip
        watcher.look()
    return 0


class _Watcher:
    """Processes a folder whenever it changes."""

    def __init__(
        self, folder: Path, out: Path, way: BatchOptions, arguments: argparse.Namespace
    ) -> None:
        self._folder, self._out, self._way = folder, out, way
        self._jobs, self._as_json = arguments.jobs, arguments.json
        self._told: dict[str, object] = {}  # file signatures of sets at their last message

    def look(self) -> bool:
        """Process new and changed complete sets; return whether one failed."""
        ready = [one for one in sets_of(self._folder, self._way) if self._is_new(one)]
        ready = [one for one in ready if _settled(one)]
        # Signatures are taken before reading, so that later changes count as new.
        stamps = {one.name: _stamp(one) for one in ready}
        failed = False
        for n, made in enumerate(make_many(ready, self._way, self._out, self._jobs), 1):
            failed = failed or made.state == "failed"
            if self._as_json:
                print(json.dumps(asdict(made)), flush=True)
            elif made.state != "same":
                report_progress(made, n, len(ready))
        self._told |= stamps
        return failed

    def _is_new(self, one: FileSet) -> bool:
        return self._told.get(one.name) != _stamp(one)


def _stamp(one: FileSet) -> object:
    found = []
    for path in one.files:
        try:
            stat = path.stat()
        except OSError:
            continue
        found.append((str(path), stat.st_size, stat.st_mtime_ns, stat.st_ino))
    return found


def _settled(one: FileSet) -> bool:
    """Return whether all files are complete, that is, unchanged for a moment."""
    now = time.time()
    try:
        return all(now - path.stat().st_mtime >= _SETTLED for path in one.files)
    except OSError:  # deleted in the meantime
        return False
