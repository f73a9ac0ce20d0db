"""Shared pieces: pictures, a real PostgreSQL cluster for the run, a context per test."""

from __future__ import annotations

import itertools
import os
import shutil
import tempfile
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

# Two processes of tests, their servers and browsers share the cores: threads of kernels that wait
# for each other sleep instead of spinning, which takes half of the time otherwise. Set before any
# kernel is loaded, and inherited by what is started.
os.environ.setdefault("OMP_WAIT_POLICY", "passive")
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

import numpy as np
import pytest
from xdist.scheduler import LoadScopeScheduling

from copper_sieve.core.codecs import write_picture
from copper_sieve.core.image.raster import Encoding, Picture
from copper_sieve.jobs.queue import migrate_all
from copper_sieve.services.context import Context
from copper_sieve.settings import Settings
from copper_sieve.store.cluster import Cluster
from copper_sieve.store.database import Database, Transaction
from copper_sieve.store.projects import ensure_project
from tests.serving import JobThreads

RUN = "SIEVE_TEST_RUN"
_WHOLE = ("e2e", "faults")  # each in one process from beginning to end
_ORDER = ("e2e", "api", "apart", "faults")  # what serves the demo waits until that is drawn
# Browser tests that start servers of their own: the other process takes them, once the first has
# drawn what all servers of the demo begin with.
_APART = ("tests/e2e/test_access.py", "tests/e2e/test_start_and_stop.py")


def _folder(path: str) -> str:
    return path.removeprefix("tests/").partition("/")[0]


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """The longest first."""
    rank = {name: n for n, name in enumerate(_ORDER)}

    def place(item: pytest.Item) -> int:
        apart = item.nodeid.startswith(_APART)
        return rank.get("apart" if apart else _folder(item.nodeid), len(_ORDER))

    items.sort(key=place)


class _ByRoom(LoadScopeScheduling):
    """Shares the tests among processes: by folder those that serve something, else by file.

    So the browser has one core for most of the time, all else the other.
    """

    def _split_scope(self, nodeid: str) -> str:
        folder, file = _folder(nodeid), nodeid.partition("::")[0]
        return folder if folder in _WHOLE and file not in _APART else file


def pytest_xdist_make_scheduler(config: pytest.Config, log: Any) -> LoadScopeScheduling:
    """How `-n` shares the tests, whatever `--dist` says."""
    return _ByRoom(config, log)


def pytest_configure(config: pytest.Config) -> None:
    """What the processes of a run inherit: its number, and what ./sieve would have set."""
    root = Path(__file__).resolve().parents[1]
    given = {"PYTHONPATH": str(root / "src"), "COPPER_SIEVE_ROOT": str(root), "PYTHONUTF8": "1"}
    for name, value in given.items():
        os.environ[name] = os.environ.get(name) or value
    if not hasattr(config, "workerinput"):
        os.environ[RUN] = str(os.getpid())


def pytest_sessionfinish(session: pytest.Session) -> None:
    """What the processes of a run shared goes with the one that began it."""
    if hasattr(session.config, "workerinput"):
        return
    for left in Path(tempfile.gettempdir()).glob(f"sieve-drawn-{os.environ[RUN]}*"):
        if left.is_dir():
            shutil.rmtree(left, ignore_errors=True)
        else:
            left.unlink(missing_ok=True)


MakePhoto = Callable[..., Path]
_numbers = itertools.count(1)


def photo_codes(size: tuple[int, int] = (64, 48), seed: int = 1) -> np.ndarray:
    """A bumpy colour picture, (H, W, 3) uint8, different for each seed."""
    width, height = size
    rng = np.random.default_rng(seed)
    y, x = np.mgrid[0:height, 0:width] / width
    waves = np.sin(40 * x + seed) * np.cos(31 * y) * 0.25 + 0.5
    color = waves[:, :, None] * np.array([0.9, 0.7, 0.5]) + rng.normal(0, 0.02, (height, width, 3))
    return (np.clip(color, 0, 1) * 255).round().astype(np.uint8)


@pytest.fixture
def make_photo(tmp_path: Path) -> MakePhoto:
    """Writes a photo file and gives its path."""

    def make(name: str = "wall.png", size: tuple[int, int] = (64, 48), seed: int = 1) -> Path:
        path = tmp_path / name
        kind = {".png": "png", ".jpg": "jpeg", ".tga": "tga", ".tif": "tiff"}[path.suffix]
        picture = Picture(photo_codes(size, seed), ("R", "G", "B"), Encoding.SRGB)
        write_picture(path, picture, kind)
        return path

    return make


@pytest.fixture(scope="session")
def dsn() -> Iterator[str]:
    """A cluster of its own for this run, on loopback, gone afterwards."""
    with tempfile.TemporaryDirectory(prefix="sieve-tests-", ignore_cleanup_errors=True) as home:
        Path(home).chmod(0o755)
        cluster = Cluster(Path(home), durable=False)
        dsn = cluster.start()
        try:
            database = Database(dsn)
            migrate_all(database)
            database.close()
            yield dsn
        finally:
            cluster.release()


@pytest.fixture(scope="session")
def database(dsn: str) -> Iterator[Database]:
    """The migrated database."""
    database = Database(dsn)
    yield database
    database.close()


class _RollBackError(Exception):
    pass


@pytest.fixture
def transaction(database: Database) -> Iterator[Transaction]:
    """A transaction that is rolled back at the end of the test."""
    try:
        with database.transaction() as connection:
            yield connection
            raise _RollBackError
    except _RollBackError:
        pass


@pytest.fixture
def project(database: Database) -> str:
    """A fresh project; what a test commits, it commits there."""
    slug = f"test-{next(_numbers)}"
    with database.transaction() as connection:
        ensure_project(connection, slug, "Test")
    return slug


@pytest.fixture
def context(database: Database, tmp_path: Path) -> Iterator[Context]:
    """A context with its own cache and delivery root; queued deliveries are only noted, jobs are
    carried out by threads."""
    settings = Settings(home=tmp_path / "home", database_url=database.dsn)
    queued: list[int] = []
    made = Context(settings, database, lambda _, delivery_id: queued.append(delivery_id))
    made.queued = queued  # type: ignore[attr-defined]
    threads = JobThreads(made)
    yield made
    threads.stop()
