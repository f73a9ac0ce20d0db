"""Folders put in place: all or none, one writer each, links kept, nothing of others lost."""

from __future__ import annotations

import os
import shutil
import threading
import time
from pathlib import Path

import pytest

from copper_sieve.core.errors import (
    CancelledError,
    DatabaseUnavailableError,
    DeliveryError,
    ForeignFileError,
    PartialDeliveryError,
)
from copper_sieve.core.export import atomic_swap
from copper_sieve.core.export.atomic_swap import StagedFolder, clear_left_behind, swapped_in
from copper_sieve.core.export.shared_folder import staged_folder_for
from copper_sieve.core.models.manifest import FILE_NAME, Manifest


def manifest_of(name: str) -> str:
    entry = {
        "name": name, "sha256": "0" * 64, "bytes": 1, "format": "tga", "width": 1, "height": 1,
        "bits": 8, "encoding": "linear", "channels": [],
    }  # fmt: skip
    content = {
        "set": "wall", "target": "t", "target_title": "T", "normal_y": "up", "surface": {},
        "maps": {}, "files": [entry],
    }  # fmt: skip
    return Manifest.model_validate(content).model_dump_json()


def staged(folder: Path, content: str, token: str = "1") -> StagedFolder:
    """A folder staged with one file and its manifest."""
    place = StagedFolder(folder, token)
    working = place.stage()
    (working / "T_N.tga").write_text(content)
    (working / FILE_NAME).write_text(manifest_of("T_N.tga"))
    return place


def deliver(folder: Path, content: str, token: str = "1") -> None:
    place = staged(folder, content, token)
    with swapped_in([place]):
        pass
    place.discard()


def held(folder: Path) -> str:
    return (folder / "T_N.tga").read_text()


def hidden(folder: Path) -> list[str]:
    return [path.name for path in folder.rglob(".*")]


def test_a_second_that_fails_takes_the_first_back(tmp_path: Path) -> None:
    old, fresh, wrong = (tmp_path / name for name in ("old", "fresh", "wrong"))
    deliver(old, "before")
    places = [staged(folder, "after") for folder in (old, fresh, wrong)]
    wrong.mkdir()
    (wrong / "T_N.tga").write_text("of somebody else")
    with pytest.raises(ForeignFileError, match="wasn't written by a delivery"), swapped_in(places):
        raise AssertionError("never reached")
    for place in places:
        place.discard()
    assert (held(old), held(wrong)) == ("before", "of somebody else")
    assert not fresh.exists()
    assert hidden(tmp_path) == []


def test_what_cannot_be_taken_back_is_named(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    first, second = tmp_path / "first", tmp_path / "second"
    deliver(first, "before")
    places = [staged(first, "after"), staged(second, "after")]
    real = Path.rename

    def failing(path: Path, target: Path) -> Path:
        if path in (places[1].working, places[0].aside):
            raise OSError(5, "Input/output error")
        return real(path, target)

    monkeypatch.setattr(Path, "rename", failing)
    with pytest.raises(PartialDeliveryError) as caught, swapped_in(places):
        pass
    text = caught.value.message
    assert f"couldn't replace {second} (Input/output error)" in text
    assert f"These changes couldn't be reverted: {first} (" in text
    assert f"its previous files are in {places[0].aside}" in text
    assert "nothing was changed" not in text


def test_a_failure_that_was_taken_back_says_so(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    deliver(tmp_path / "a", "before")
    places = [staged(tmp_path / "a", "after"), staged(tmp_path / "b", "after")]
    monkeypatch.setattr(places[1].__class__, "swap", _full_at(places[1]))
    told = r"No space left on device.*Nothing was changed"
    with pytest.raises(DeliveryError, match=told), swapped_in(places):
        pass
    assert held(tmp_path / "a") == "before"


def _full_at(wrong: StagedFolder):  # type: ignore[no-untyped-def]
    real = StagedFolder.swap

    def swap(self: StagedFolder) -> None:
        if self is wrong:
            raise OSError(28, "No space left on device")
        real(self)

    return swap


def test_nobody_knows_if_it_was_noted(tmp_path: Path) -> None:
    folder = tmp_path / "out"
    deliver(folder, "before")
    for done, expected in ((False, "before"), (True, "after")):
        place = staged(folder, "after", "9")
        with (
            pytest.raises(DatabaseUnavailableError),
            swapped_in([place], undecided=(DatabaseUnavailableError,)),
        ):
            raise DatabaseUnavailableError
        place.discard()
        assert clear_left_behind([StagedFolder(folder, "9")], done=done) == []
        assert held(folder) == expected
        assert hidden(tmp_path) == []


@pytest.mark.parametrize("there_before", [True, False])
def test_a_death_between_the_parts_is_taken_back(tmp_path: Path, there_before: bool) -> None:
    folder = tmp_path / "out"
    if there_before:
        deliver(folder, "before")
    place = staged(folder, "after", "4")
    if os.fork() == 0:  # it dies when everything is swapped and nothing is noted
        place.swap()
        os._exit(0)
    os.wait()
    assert held(folder) == "after"
    place.discard()
    (folder / "of_others.txt").write_text("came since")
    assert clear_left_behind([StagedFolder(folder, "4")]) == []
    assert (folder / "of_others.txt").read_text() == "came since"
    assert (held(folder) == "before") if there_before else not (folder / "T_N.tga").exists()
    assert hidden(tmp_path) == []


def test_another_delivery_settles_what_a_dead_one_left(tmp_path: Path) -> None:
    folder = tmp_path / "out"
    deliver(folder, "before")
    staged(folder, "dead", "4").swap()
    deliver(folder, "after", "5")
    assert held(folder) == "after"
    assert clear_left_behind([StagedFolder(folder, "4")]) == []  # finds nothing of its own any more
    assert held(folder) == "after"
    assert hidden(tmp_path) == []


def test_links_stay_links(tmp_path: Path) -> None:
    real, link = tmp_path / "disk" / "textures", tmp_path / "project" / "out"
    library = tmp_path / "library"
    for folder in (real, link.parent, library):
        folder.mkdir(parents=True)
    (library / "big.exr").write_text("shared")
    link.symlink_to(real)
    (real / "library").symlink_to("../../library")
    (real / "note.txt").symlink_to("nowhere")
    for content in ("one", "two"):
        deliver(link, content)
        assert link.is_symlink()
        assert held(real) == content
        assert (real / "library").readlink() == Path("../../library")
        assert (real / "library" / "big.exr").read_text() == "shared"
        assert (real / "note.txt").is_symlink()
    assert hidden(tmp_path) == []


def test_files_of_others_stay_whenever_they_come(tmp_path: Path) -> None:
    folder = tmp_path / "out"
    deliver(folder, "one")
    (folder / "sub").mkdir()
    (folder / "sub" / "kept.txt").write_text("kept")
    place = staged(folder, "two")
    with swapped_in([place]):
        (place.aside / "late.txt").write_text("written while it was swapped")
    assert (folder / "sub" / "kept.txt").read_text() == "kept"
    assert (folder / "late.txt").read_text() == "written while it was swapped"
    assert held(folder) == "two"


def test_one_folder_has_one_writer(tmp_path: Path) -> None:
    folder = tmp_path / "out"
    order: list[str] = []
    holding = threading.Event()

    def first() -> None:
        place = staged(folder, "first", "1")
        with swapped_in([place]):
            holding.set()
            time.sleep(0.3)
            order.append("first")
        place.discard()

    thread = threading.Thread(target=first)
    thread.start()
    holding.wait()
    second = staged(folder, "second", "2")
    with pytest.raises(CancelledError), swapped_in([second], is_cancelled=lambda: True):
        pass
    with swapped_in([second]):
        order.append("second")
    thread.join()
    second.discard()
    assert order == ["first", "second"]
    assert held(folder) == "second"
    assert hidden(tmp_path) == []


def test_what_a_living_process_stages_is_left_alone(tmp_path: Path) -> None:
    place = staged(tmp_path / "out", "under way", "3")
    assert clear_left_behind([StagedFolder(tmp_path / "out", "3")]) is None
    assert (place.working / "T_N.tga").read_text() == "under way"
    place.discard()
    shutil.rmtree(tmp_path / "out", ignore_errors=True)
    assert clear_left_behind([StagedFolder(tmp_path / "out", "3")]) == []


def test_a_folder_that_another_holds_costs_no_handle(tmp_path: Path) -> None:
    held_one = atomic_swap._locked(tmp_path)
    assert held_one is not None
    before = len(list(Path("/proc/self/fd").iterdir()))
    for _ in range(5):
        with pytest.raises(BlockingIOError):
            atomic_swap._locked(tmp_path)
    assert len(list(Path("/proc/self/fd").iterdir())) == before
    os.close(held_one)


@pytest.mark.parametrize("manifest_name", ["manifest.json", "wall.orm.manifest.json"])
def test_what_a_process_staged_that_died_long_ago_is_removed(
    tmp_path: Path, manifest_name: str
) -> None:
    folder = tmp_path / "wall"
    folder.mkdir()
    dead, fresh, mine = (
        staged_folder_for(folder, token, manifest_name) for token in ("1", "2", "3")
    )
    for one in (dead, fresh):
        one.working.mkdir()
    os.utime(dead.working, (0, 0))
    living = staged_folder_for(folder, "4", manifest_name)
    living.stage()
    os.utime(living.working, (0, 0))
    mine.stage()
    with swapped_in([mine]):
        pass
    assert not dead.working.exists()
    assert fresh.working.exists()
    assert living.working.exists()
    living.discard()
