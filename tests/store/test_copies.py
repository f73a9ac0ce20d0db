"""Copies of deliveries at a place by URL: only what changed is sent, all of it read back."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import fsspec
import pytest

from copper_sieve.core.errors import CancelledError, DeliveryError, ForeignFileError
from copper_sieve.store.copies import CopyCounts, copy_to

PLACE = "memory://bucket/wall"


@pytest.fixture
def there() -> Iterator[Any]:
    """A stand-in for object storage, which has no folders and cannot rename."""
    files = fsspec.filesystem("memory")
    files.store.clear()
    yield files
    files.store.clear()


def delivered(folder: Path, left: tuple[str, ...] = (), **files: str) -> Path:
    """A folder with these files and a manifest of them; some are left of an earlier delivery."""
    folder.mkdir(exist_ok=True)
    told: dict[str, list[dict[str, Any]]] = {"files": [], "documents": [], "left": []}
    for stem, text in files.items():
        name, data = f"{stem}.png", text.encode()
        (folder / name).write_bytes(data)
        entry = {"name": name, "sha256": hashlib.sha256(data).hexdigest(), "bytes": len(data)}
        told["left" if stem in left else "files"].append(entry)
    (folder / "manifest.json").write_text(json.dumps(told))
    return folder


def held(there: Any) -> dict[str, str]:
    return {
        path.rsplit("/", 1)[1]: there.cat_file(path).decode()
        for path in there.find("/bucket")
        if not path.endswith("manifest.json")
    }


def manifest(there: Any) -> bytes:
    return bytes(there.cat_file("/bucket/wall/manifest.json"))


def test_only_what_changed_is_sent_and_what_is_gone_goes(there: Any, tmp_path: Path) -> None:
    folder = delivered(tmp_path / "wall", color="brown", normal="flat", old="stays", left=("old",))
    assert copy_to(PLACE, folder, "manifest.json") == CopyCounts(3, 0, 0)
    assert held(there) == {"color.png": "brown", "normal.png": "flat", "old.png": "stays"}
    assert manifest(there) == (folder / "manifest.json").read_bytes()
    assert copy_to(PLACE, folder, "manifest.json") == CopyCounts(0, 3, 0)
    delivered(folder, color="ochre", normal="flat")
    assert copy_to(PLACE, folder, "manifest.json") == CopyCounts(1, 1, 1)
    assert held(there) == {"color.png": "ochre", "normal.png": "flat"}
    there.rm_file("/bucket/wall/normal.png")  # somebody took it away
    assert copy_to(PLACE, folder, "manifest.json") == CopyCounts(1, 1, 0)
    assert held(there)["normal.png"] == "flat"


def test_files_of_others_stay_and_are_never_replaced(there: Any, tmp_path: Path) -> None:
    there.pipe_file("/bucket/wall/readme.txt", b"mine")
    there.pipe_file("/bucket/wall/normal.png", b"mine too")
    folder = delivered(tmp_path / "wall", color="brown", normal="flat")
    with pytest.raises(
        ForeignFileError, match=r"normal\.png already exists at memory://bucket/wall"
    ):
        copy_to(PLACE, folder, "manifest.json")
    assert held(there)["normal.png"] == "mine too"
    assert not there.exists("/bucket/wall/manifest.json")
    there.rm_file("/bucket/wall/normal.png")
    copy_to(PLACE, folder, "manifest.json")
    assert held(there) == {"readme.txt": "mine", "color.png": "brown", "normal.png": "flat"}


def test_a_first_copy_that_was_cut_short_goes_on(
    there: Any, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """What was sent is in no manifest there yet, and known to be ours all the same."""
    folder = delivered(tmp_path / "wall", color="brown", normal="flat")
    put = type(there).put_file

    def breaks(self: Any, local: str, remote: str, **more: Any) -> None:
        put(self, local, remote, **more)
        if "normal" in remote:
            self.pipe_file(remote, b"fl")
            raise OSError("the line is dead")

    monkeypatch.setattr(type(there), "put_file", breaks)
    with pytest.raises(DeliveryError, match="the line is dead"):
        copy_to(PLACE, folder, "manifest.json")
    monkeypatch.undo()
    assert copy_to(PLACE, folder, "manifest.json").sent == 2
    assert held(there) == {"color.png": "brown", "normal.png": "flat"}  # and no list is left


def test_what_somebody_changed_there_is_not_removed(there: Any, tmp_path: Path) -> None:
    folder = delivered(tmp_path / "wall", color="brown", normal="flat")
    copy_to(PLACE, folder, "manifest.json")
    there.pipe_file("/bucket/wall/normal.png", b"painted over")
    delivered(folder, color="brown")
    assert copy_to(PLACE, folder, "manifest.json") == CopyCounts(0, 1, 0)
    assert held(there)["normal.png"] == "painted over"


def test_the_manifest_comes_last_and_other_bytes_are_told(
    there: Any, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    folder = delivered(tmp_path / "wall", color="brown", normal="flat")
    copy_to(PLACE, folder, "manifest.json")
    before = manifest(there)
    delivered(folder, color="ochre", normal="steep")
    put = type(there).put_file

    def cut_short(self: Any, local: str, remote: str, **more: Any) -> None:
        put(self, local, remote, **more)
        if "normal" in remote:
            self.pipe_file(remote, b"ste")

    monkeypatch.setattr(type(there), "put_file", cut_short)
    with pytest.raises(DeliveryError, match=r"returned different bytes of normal\.png"):
        copy_to(PLACE, folder, "manifest.json")
    assert manifest(there) == before
    monkeypatch.undo()
    assert copy_to(PLACE, folder, "manifest.json").sent == 2  # both differ from the manifest there
    assert held(there) == {"color.png": "ochre", "normal.png": "steep"}


def test_it_is_cancelled_between_files(there: Any, tmp_path: Path) -> None:
    folder = delivered(tmp_path / "wall", color="brown", normal="flat")
    with pytest.raises(CancelledError):
        copy_to(PLACE, folder, "manifest.json", is_cancelled=lambda: "color.png" in held(there))
    assert not there.exists("/bucket/wall/manifest.json")
    assert not there.exists("/bucket/wall/normal.png")


def test_what_cannot_be_reached_is_told_in_a_sentence(tmp_path: Path) -> None:
    folder = delivered(tmp_path / "wall", color="brown")
    with pytest.raises(DeliveryError, match=r"couldn't write nothing://x \(.*nothing"):
        copy_to("nothing://x", folder, "manifest.json")
    (tmp_path / "a_file").write_bytes(b"")
    with pytest.raises(DeliveryError, match="couldn't write"):
        copy_to(f"file://{tmp_path}/a_file/wall", folder, "manifest.json")
