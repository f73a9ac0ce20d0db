"""Caches: they may forget, they may lose their folder, they never lie."""

from __future__ import annotations

import os
import shutil
from pathlib import Path

import numpy as np
import pytest

from copper_sieve.store.cache import FolderCache, LayeredCache, MemoryCache
from copper_sieve.store.owned_folders import OwnedFolder


def pixels(value: float, side: int = 8) -> np.ndarray:
    return np.full((side, side, 1), value, np.float32)


def test_the_folder_keeps_pixels_over_a_restart(tmp_path: Path) -> None:
    FolderCache(str(tmp_path / "c"), 10**6).put("aa11", pixels(0.25))
    again = FolderCache(str(tmp_path / "c"), 10**6)
    np.testing.assert_array_equal(again.get("aa11"), pixels(0.25))
    assert again.get("bb22") is None


def test_the_least_recently_used_goes_first(tmp_path: Path) -> None:
    size = pixels(0).nbytes
    header = 128  # of a file
    limit = 7 * (size + header) // 2  # an eighth of it stays free for what others write meanwhile
    for cache in (FolderCache(str(tmp_path), limit), MemoryCache(3 * size)):
        for key in ("a1", "b2", "c3"):
            cache.put(key, pixels(1))
        assert cache.get("a1") is not None
        cache.put("d4", pixels(1))
        assert cache.get("b2") is None
        assert cache.get("a1") is not None


def test_a_key_that_is_stored_again_counts_once() -> None:
    cache = MemoryCache(2 * pixels(0).nbytes)
    for key in ("a1", "a1", "a1", "b2"):
        cache.put(key, pixels(1))
    assert cache.get("a1") is not None
    assert cache.get("b2") is not None


def test_the_limit_holds_for_what_an_earlier_run_left(tmp_path: Path) -> None:
    first = FolderCache(str(tmp_path), 10**6)
    for n in range(8):
        first.put(f"k{n}", pixels(n))
    FolderCache(str(tmp_path), 3000).put("new", pixels(0))
    kept = list(tmp_path.rglob("*.npy"))
    assert sum(path.stat().st_size for path in kept) <= 3000


def test_a_deleted_folder_costs_only_time(tmp_path: Path) -> None:
    cache = FolderCache(str(tmp_path / "c"), 10**6)
    cache.put("aa", pixels(1))
    shutil.rmtree(tmp_path / "c")
    assert cache.get("aa") is None
    cache.put("aa", pixels(2))
    np.testing.assert_array_equal(cache.get("aa"), pixels(2))


@pytest.mark.parametrize("damage", [b"", b"\x93NUMPY", b"nonsense" * 100])
def test_a_damaged_entry_counts_as_forgotten(tmp_path: Path, damage: bytes) -> None:
    cache = FolderCache(str(tmp_path), 10**6)
    cache.put("aa", pixels(1))
    next(tmp_path.rglob("*.npy")).write_bytes(damage)
    assert cache.get("aa") is None


def test_an_unwritable_place_is_no_error(tmp_path: Path) -> None:
    (tmp_path / "file").write_text("in the way")
    cache = FolderCache(str(tmp_path / "file"), 10**6)
    cache.put("aa", pixels(1))
    assert cache.get("aa") is None


def test_any_fsspec_place_will_do() -> None:
    cache = FolderCache("memory://sieve-test", 10**6)
    cache.put("aa", pixels(3))
    np.testing.assert_array_equal(cache.get("aa"), pixels(3))


def test_layers_bring_the_far_near(tmp_path: Path) -> None:
    far = FolderCache(str(tmp_path), 10**6)
    far.put("aa", pixels(4))
    near = MemoryCache()
    layered = LayeredCache(near, far)
    assert near.get("aa") is None
    np.testing.assert_array_equal(layered.get("aa"), pixels(4))
    kept = near.get("aa")
    assert kept is not None
    assert not kept.flags.writeable


def test_the_limit_holds_for_all_processes_together(tmp_path: Path) -> None:
    size = pixels(0, 64).nbytes + 128
    caches = [FolderCache(str(tmp_path), 40 * size) for _ in range(3)]  # as many processes
    largest = 0
    for n in range(80):
        for m, cache in enumerate(caches):
            cache.put(f"{n:02}{m}", pixels(n, 64))
        there = sum(path.stat().st_size for path in tmp_path.rglob("*.npy"))
        largest = max(largest, there)
    assert 30 * size < largest <= 40 * size
    assert caches[0].get("792") is not None


def test_what_a_dead_process_left_half_written_goes_at_the_next_start(tmp_path: Path) -> None:
    living = FolderCache(str(tmp_path), 10**6)
    living.put("aa", pixels(1))
    if os.fork() == 0:
        dead = OwnedFolder(tmp_path / "partial")
        (dead.path / "half").write_bytes(b"half an entry")
        os._exit(0)
    os.wait()
    left = {path.name for path in (tmp_path / "partial").iterdir()}
    FolderCache(str(tmp_path), 10**6).clear_left_behind()
    kept = {path.name for path in (tmp_path / "partial").iterdir()}
    assert len(left - kept) == len(kept) == 1
    living.put("bb", pixels(2))
    assert living.get("bb") is not None
    living.close()
    assert list((tmp_path / "partial").iterdir()) == []


def test_a_full_disk_leaves_no_partial_entry(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    def full(file, pixels, **_):  # type: ignore[no-untyped-def]
        file.write(b"some")
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(np, "save", full)
    FolderCache(str(tmp_path), 10**6).put("aa", pixels(1))
    assert [path for path in tmp_path.rglob("*") if path.is_file()] == []


def test_one_folder_for_what_is_half_written_however_much_is_put(tmp_path: Path) -> None:
    cache = FolderCache(str(tmp_path), 10**6)
    for n in range(3):
        cache.put(f"{n}a", pixels(n))
        assert len(list((tmp_path / "partial").iterdir())) == 1
    shutil.rmtree(tmp_path / "partial")  # somebody cleans up
    cache.put("dd", pixels(4))
    assert cache.get("dd") is not None
    cache.close()


def test_a_long_batch_drives_nothing_out_of_the_folder(tmp_path: Path) -> None:
    near, far = MemoryCache(10**6), FolderCache(str(tmp_path), 10**6)
    far.put("aa", pixels(1))
    batch = LayeredCache(near, far, only_near=True)
    batch.put("bb", pixels(2))
    assert (near.get("bb") is None, far.get("bb") is None) == (False, True)
    assert batch.get("aa") is not None  # what is there already is used


def test_what_is_larger_than_the_limit_is_never_written(tmp_path: Path) -> None:
    cache = FolderCache(str(tmp_path), 10)
    cache.put("aa", pixels(1))
    assert not list(tmp_path.rglob("*.npy"))
    assert not (tmp_path / "partial").exists()
