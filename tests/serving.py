"""Test clients of the application."""

from __future__ import annotations

import threading
import time
from contextlib import suppress
from typing import Any

from fastapi.testclient import TestClient
from httpx2 import Response

from copper_sieve.api.access import Access, OpenOnLoopback
from copper_sieve.api.application import make_application
from copper_sieve.core.errors import NotFoundError
from copper_sieve.services.context import Context
from copper_sieve.services.jobs.execution import PutBackError, carry_out
from copper_sieve.store import jobs
from copper_sieve.store.database import Transaction
from copper_sieve.store.jobs import StoredJob

OPEN = Access(OpenOnLoopback())
LOOPBACK = ("127.0.0.1", 50000)


def open_client(context: Context, address: str = "http://127.0.0.1") -> TestClient:
    """Return a client of an application that needs no token."""
    return TestClient(make_application(context, OPEN), address, client=LOOPBACK)


class JobThreads:
    """Carries out the jobs of a context in this process, a thread for each lane: tests of what jobs
    do need no worker process. Threads begin with the first job."""

    def __init__(self, context: Context) -> None:
        self._context = context
        self._waiting: dict[str, list[StoredJob]] = {}
        self._changed = threading.Condition()
        self._threads: list[threading.Thread] = []
        self._over = False
        context.start_job = self.start

    def start(self, _: Transaction, job: StoredJob) -> None:
        with self._changed:
            if job.lane not in self._waiting:
                self._waiting[job.lane] = []
                thread = threading.Thread(target=self._run, args=[job.lane], daemon=True)
                self._threads.append(thread)
                thread.start()
            self._waiting[job.lane].append(job)
            self._changed.notify_all()

    def stop(self) -> None:
        with self._changed:
            self._over = True
            self._changed.notify_all()
        for thread in self._threads:
            thread.join()

    def _run(self, lane: str) -> None:
        waiting = self._waiting[lane]
        while True:
            with self._changed:
                while not waiting and not self._over:
                    self._changed.wait()
                if self._over:
                    return
                job = max(waiting, key=lambda one: (one.priority, -one.id))
                waiting.remove(job)
            if self._is_committed(job):
                with suppress(PutBackError):
                    carry_out(self._context, job.id, lambda: self._over)

    def _is_committed(self, job: StoredJob) -> bool:
        """Wait for the transaction that queued the job; return False if it was rolled back.

        A retried job is still read as cancelled or failed until then.
        """
        end = time.monotonic() + 2
        while time.monotonic() < end and not self._over:
            with (
                suppress(NotFoundError),
                self._context.database.transaction() as connection,
            ):
                if jobs.get_job(connection, job.id).is_open:
                    return True
            time.sleep(0.005)
        return False


def ended_job(
    client: TestClient, answer: Response, seconds: float = 60, expected: int = 202
) -> dict[str, Any]:
    """The job that an answer tells of, once it has ended."""
    assert answer.status_code == expected, answer.text
    job: dict[str, Any] = answer.json()
    end = time.monotonic() + seconds
    while job["state"] in ("queued", "running"):
        assert time.monotonic() < end, job
        time.sleep(0.01)
        job = client.get(f"/api/v1/jobs/{job['id']}").json()
    return job


def imported(client: TestClient, answer: Response) -> dict[str, Any]:
    """What an import made."""
    job = ended_job(client, answer)
    assert job["state"] == "done", job["error"]
    result: dict[str, Any] = job["result"]
    return result


def refused(client: TestClient, answer: Response) -> str:
    """Why an import failed."""
    job = ended_job(client, answer)
    assert job["state"] == "failed"
    assert job["error_code"] != "unexpected", job["error"]
    return str(job["error"])
