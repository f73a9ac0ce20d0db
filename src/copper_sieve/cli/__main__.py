"""python -m copper_sieve.cli: listen for the stop first, then load and run the command line.

An interrupt in the middle of an import may be swallowed there, and the server would run on.
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
    # What is imported stays: to look through it again and again takes a quarter of a start. It is
    # turned on once the command is there.
    gc.disable()
    from copper_sieve.cli import command_line

    return command_line.main(argv)


def _leave(status: int) -> NoReturn:
    """End the process; threads that still compute end with it, not the interpreter under them.

    A native thread that is at work while the interpreter ends aborts the process.
    """
    sys.stdout.flush()
    sys.stderr.flush()
    if threading.active_count() > 1:
        os._exit(status)
    sys.exit(status)


def main_of_script() -> NoReturn:
    """What the installed command `copper-sieve` runs."""
    if sys.argv[1:2] and sys.argv[1] in SERVERS:
        stopping.listen()
    _leave(main())


if __name__ == "__main__":
    main_of_script()
