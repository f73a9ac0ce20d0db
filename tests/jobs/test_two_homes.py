"""Two machines that share only the database and a storage URL deliver together."""

from __future__ import annotations

import os
import socket
import subprocess
import sys
import time
import urllib.request
from collections.abc import Iterator
from pathlib import Path

import pytest

from copper_sieve.core.export.assay import assay_folder
from copper_sieve.services import deliveries
from copper_sieve.services.context import Context
from copper_sieve.services.delivered import delivered_files
from copper_sieve.services.delivery_preview import cells_of
from copper_sieve.services.shared_storage import Fetcher
from copper_sieve.store import texture_sets
from tests.conftest import MakePhoto
from tests.jobs.conftest import kill_worker, set_of, worker_process

# As many as are asked for; the whole suite has no time for more.
PARTS = int(os.environ.get("SIEVE_TEST_PARTS", "12"))


@pytest.fixture
def storage(monkeypatch: pytest.MonkeyPatch) -> Iterator[str]:
    """The URL of a bucket in a stand-in for object storage."""
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    address = f"http://127.0.0.1:{port}"
    for name, value in (
        ("AWS_ACCESS_KEY_ID", "sieve"), ("AWS_SECRET_ACCESS_KEY", "sieve"),
        ("AWS_ENDPOINT_URL", address), ("AWS_DEFAULT_REGION", "us-east-1"),
    ):  # fmt: skip
        monkeypatch.setenv(name, value)
    command = [sys.executable, "-m", "moto.server", "-H", "127.0.0.1", "-p", str(port)]
    server = subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    try:
        end = time.monotonic() + 60
        while True:
            try:
                urllib.request.urlopen(f"{address}/moto-api", timeout=5).close()
                break
            except OSError:
                assert time.monotonic() < end
                time.sleep(0.1)
        request = urllib.request.Request(f"{address}/quay", method="PUT")
        urllib.request.urlopen(request, timeout=10).close()
        yield "s3://quay/team"
    finally:
        server.terminate()
        server.wait(10)


def delivered_in(home: Path) -> int:
    """How many parts a machine has delivered."""
    return len(list((home / "deliveries").rglob("manifest.json")))


def test_a_worker_elsewhere_needs_only_the_database_and_a_storage_url(
    real: Context, project: str, make_photo: MakePhoto, tmp_path: Path, storage: str, dsn: str
) -> None:
    real.settings.storage = storage
    first = set_of(real, project, make_photo(size=(32, 32), seed=61), tmp_path)
    with real.database.transaction() as connection:
        kept = texture_sets.get_set(connection, first)
        ids = [first]
        for n in range(1, PARTS // 2):
            copy = kept.definition().model_copy(update={"name": f"quay_{n}"})
            ids.append(texture_sets.add_set(connection, kept.project_id, copy).id)
    cells = cells_of(ids, ["orm-y-down", "gltf-metal-rough"])
    delivery = deliveries.create_delivery(real, project, cells)
    assert len(delivery.parts) == PARTS
    homes = [tmp_path / "east", tmp_path / "west"]
    with (
        worker_process(dsn, homes[0], SIEVE_STORAGE=storage) as east,
        worker_process(dsn, homes[1], SIEVE_STORAGE=storage),
    ):
        end = time.monotonic() + 300
        while not all(delivered_in(home) for home in homes) or (
            (counts := deliveries.get(real, delivery.id).counts).done < PARTS // 4
        ):
            counts = deliveries.get(real, delivery.id).counts
            assert time.monotonic() < end, counts
            time.sleep(0.1)
        kill_worker(east)
        while deliveries.get(real, delivery.id).state not in ("done", "failed"):
            assert time.monotonic() < end, deliveries.get(real, delivery.id).counts
            time.sleep(0.2)
    done = deliveries.get(real, delivery.id)
    assert [part.error for part in done.parts if part.error] == []
    root = real.settings.delivery_root
    assert not root.exists() or not list(root.rglob("*.png"))
    assert Fetcher(real).look() >= PARTS  # the workers may have found a delivery of another test
    found = delivered_files(real, delivery.id)
    assert found.missing == ()
    assert all(assay_folder(part.folder).ok for part in done.parts)
    assert not list(root.rglob(".*"))
    # What the others have delivered is known here: nothing is made again.
    again = deliveries.create_delivery(real, project, cells[:4])
    assert all(part.state == "done" and part.written == 0 for part in again.parts)
