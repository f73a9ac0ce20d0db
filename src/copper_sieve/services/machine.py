"""The machine that we run on, as far as workers share it."""

from __future__ import annotations

import os
import socket
from pathlib import Path

from copper_sieve.settings import Settings
from copper_sieve.store.delivery_parts import Machine

_LIMIT = Path("/sys/fs/cgroup/memory.max")


def this_machine(settings: Settings) -> Machine:
    """Return the machine's name and the memory for parts of deliveries: the setting, or two thirds
    of the total.
    """
    return Machine(socket.gethostname(), settings.memory or memory_of_machine() * 2 // 3)


def memory_of_machine() -> int:
    """Bytes of memory that we may use at most: the machine's, or less where we are limited."""
    whole = os.sysconf("SC_PAGE_SIZE") * os.sysconf("SC_PHYS_PAGES")
    try:
        return min(whole, int(_LIMIT.read_text("ascii")))
    except (OSError, ValueError):  # no limit, or another system
        return whole
