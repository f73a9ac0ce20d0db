"""Folders for what is on its way: who holds one, and what becomes of those that nobody holds."""

from __future__ import annotations

import shutil
import tempfile
from pathlib import Path

import pytest

from copper_sieve.store.owned_folders import OwnedFolder, abandoned_folders, delete_abandoned


def test_only_what_nobody_holds_is_dead_and_cleared(tmp_path: Path) -> None:
    (tmp_path / "left").mkdir()
    (tmp_path / "left" / "half").write_bytes(b"half an upload")
    (tmp_path / "a_file").write_bytes(b"of a full disk")
    with OwnedFolder(tmp_path) as held:
        (held / "half").write_bytes(b"on its way")
        assert {one.name for one in abandoned_folders(tmp_path)} == {"left", "a_file"}
        delete_abandoned(tmp_path)
        assert list(tmp_path.iterdir()) == [held]
        assert (held / "half").read_bytes() == b"on its way"
    assert list(tmp_path.iterdir()) == []


def test_a_folder_that_is_not_there_holds_nothing(tmp_path: Path) -> None:
    assert list(abandoned_folders(tmp_path / "nowhere")) == []
    delete_abandoned(tmp_path / "nowhere")


def test_one_folder_is_held_once_at_a_time_and_free_afterwards(tmp_path: Path) -> None:
    one, other = OwnedFolder(tmp_path), OwnedFolder(tmp_path)
    assert one.path != other.path
    one.close()
    assert not one.path.exists()
    assert list(abandoned_folders(tmp_path)) == []
    other.close()


def test_one_that_is_deleted_before_it_is_locked_is_made_again(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Another process may look for abandoned folders between the two steps."""
    made: list[str] = []
    make = tempfile.mkdtemp

    def deleted_once(dir: Path) -> str:
        made.append(make(dir=dir))
        if len(made) == 1:
            shutil.rmtree(made[0])
        return made[-1]

    monkeypatch.setattr(tempfile, "mkdtemp", deleted_once)
    with OwnedFolder(tmp_path) as held:
        assert (len(made), str(held)) == (2, made[1])
        assert list(abandoned_folders(tmp_path)) == []
