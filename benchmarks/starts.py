"""Start the server and stop it at a random moment, many times: how each start ends.

Every one must end with 0 (it had started) or 130 (it had not), also one that is stopped while
kernels are compiled or the database is being started, and leave no process behind.
"""

from __future__ import annotations

import os
import random
import signal
import subprocess
import sys
import tempfile
import time
from collections import Counter
from pathlib import Path

from benchmarks.faults import of_home

QUICK = (2, 2.0)

ROOT = Path(__file__).resolve().parents[1]


def main(starts: int = 200, within: float = 5.0) -> int:
    """Print how often each end was seen."""
    random.seed(11)
    ends: Counter[int] = Counter()
    left = 0
    with tempfile.TemporaryDirectory(ignore_cleanup_errors=True) as name:
        Path(name).chmod(0o755)
        environment = {k: v for k, v in os.environ.items() if k != "DATABASE_URL"}
        environment |= {"SIEVE_HOME": name, "SIEVE_PORT": "8600"}
        # As the start script does it.
        command = [
            "env",
            "--block-signal=INT,TERM",
            sys.executable,
            "-m",
            "copper_sieve.cli",
            "demo",
        ]
        for n in range(starts):
            process = subprocess.Popen(
                command, env=environment, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL
            )
            time.sleep(random.uniform(0, within))
            process.send_signal((signal.SIGINT, signal.SIGTERM)[n % 2])
            status = process.wait(90)
            # A signal before any step ends the process; a shell returns 130 as well.
            ends[130 if status in (-signal.SIGINT, -signal.SIGTERM) else status] += 1
        end = time.monotonic() + 5
        while found := of_home(Path(name), b"copper_sieve") + of_home(Path(name), b"postgres"):
            if time.monotonic() > end:
                left = len(found)
                break
            time.sleep(0.1)
    print(f"{starts} starts stopped within {within:g} s ended with {dict(ends)}; {left} left")
    return 0 if set(ends) <= {0, 130} and not left else 1
