"""Parse the command line, run one command, report errors in one line with an exit status."""

from __future__ import annotations

import argparse
import contextlib
import gc
import importlib
import signal
import sys
from collections.abc import Sequence
from typing import Any, NoReturn

from copper_sieve.cli.arguments import build_parser
from copper_sieve.cli.stopping import SERVERS, stopping
from copper_sieve.core.errors import SieveError

_MODULES = {
    "make": "make",
    "watch": "watch",
    "sets": "remote",
    "deliver": "remote",
    "derive": "derive",
    "pack": "channels",
    "split": "channels",
    "convert": "convert",
    "bake": "bake",
    "attach": "attach",
    "measure": "measure",
    "inspect": "inspect",
    "assay": "assay",
    "token": "access_token",
    "targets": "targets",
    "demo": "serve",
    "serve": "serve",
    "work": "serve",
    "backup": "backup",
    "restore": "backup",
    "openapi": "openapi",
    "shots": "shots",
    "texts": "texts",
}


def _run(arguments: argparse.Namespace) -> int:
    # Import lazily: each command loads only the modules that it uses.
    module = importlib.import_module(f"copper_sieve.cli.{_MODULES[arguments.command]}")
    gc.enable()  # see `__main__`
    return int(module.run(arguments))


def main(argv: Sequence[str] | None = None) -> int:
    """Run the command line; returns the exit status."""

    def interrupted(*_: Any) -> NoReturn:
        raise KeyboardInterrupt

    arguments = build_parser().parse_args(argv)
    with contextlib.suppress(ValueError):  # only the main thread may set handlers
        if arguments.command in SERVERS:
            stopping.listen()
        else:
            signal.signal(signal.SIGTERM, interrupted)
    try:
        return _run(arguments)
    except SieveError as error:
        sys.stderr.write(f"sieve: {' '.join(error.message.split())}\n")
        return 2
    except MemoryError:
        sys.stderr.write("sieve: not enough memory for this size; use a smaller --size\n")
        return 2
    except KeyboardInterrupt:
        sys.stderr.write("sieve: stopped\n")
        return 130
    except BrokenPipeError:
        return 1
    except OSError as error:
        place = f"{error.filename}: " if error.filename else ""
        sys.stderr.write(f"sieve: {place}{error.strerror or error}\n")
        return 2
