"""python -m copper_sieve.cli: install signal handlers first, then load and run the command line.

An interrupt during an import may be swallowed there, and the server would keep running.
"""

from __future__ import annotations

import gc
import os
import sys
import threading
from collections.abc import Sequence
from typing import NoReturn

from copper_sieve.cli.stopping import SERVERS, stopping


def main(argv: Sequence[str] | None = None) -> int:
    """Run the command line; returns the exit status."""
    # Garbage collection is off during imports, which saves a quarter of the startup time; the
    # command turns it on.
    gc.disable()
    from copper_sieve.cli import command_line

    return command_line.main(argv)


def _leave(status: int) -> NoReturn:
    """Exit the process without waiting for computing threads.

    A native thread that runs while the interpreter shuts down aborts the process.
    """
    sys.stdout.flush()
    sys.stderr.flush()
    if threading.active_count() > 1:
        os._exit(status)
    sys.exit(status)


def main_of_script() -> NoReturn:
    """Run the installed command `copper-sieve`."""
    if sys.argv[1:2] and sys.argv[1] in SERVERS:
        stopping.listen()
    _leave(main())


if __name__ == "__main__":
    main_of_script()
