"""Name and memory of this machine, which workers share."""

from __future__ import annotations

import os
import socket
from pathlib import Path

from copper_sieve.settings import Settings
from copper_sieve.store.delivery_parts import Machine

_LIMIT = Path("/sys/fs/cgroup/memory.max")


def this_machine(settings: Settings) -> Machine:
    """Return the machine's name and the memory for parts of deliveries.

    The memory is set by SIEVE_MEMORY, by default two thirds of the total.
    """
    return Machine(socket.gethostname(), settings.memory or memory_of_machine() * 2 // 3)


def memory_of_machine() -> int:
    """Return the usable bytes of memory: the machine's, or a lower limit of the container."""
    whole = os.sysconf("SC_PAGE_SIZE") * os.sysconf("SC_PHYS_PAGES")
    try:
        return min(whole, int(_LIMIT.read_text("ascii")))
    except (OSError, ValueError):  # no limit, or another system
        return whole
