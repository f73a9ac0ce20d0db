"""Folders of the server, taken in by path and kept in step with; files off the table and back."""

from __future__ import annotations

import os
import shutil
import time
import zipfile
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from copper_sieve.core.codecs import write_picture
from copper_sieve.core.image.raster import Encoding, Picture
from copper_sieve.services import disk_use, watched_folders
from copper_sieve.services.context import Context
from copper_sieve.services.watched_folders import FolderWatcher
from tests.conftest import photo_codes


@pytest.fixture
def root(context: Context) -> Path:
    """A folder that the server may read from."""
    folder = context.settings.delivery_root / "incoming"
    folder.mkdir(parents=True, exist_ok=True)
    return folder


@pytest.fixture
def follower(client: TestClient, context: Context) -> FolderWatcher:
    """One that takes every file for whole; the application's own is stopped."""
    client.app.state.follower.stop()  # type: ignore[attr-defined]
    with context.database.transaction() as connection:
        connection.execute("delete from watched_folder")
    return FolderWatcher(context, settled=0.0)


class Places:
    """The API of one project."""

    def __init__(self, client: TestClient, project: str) -> None:
        self.client, self.address = client, f"/api/v1/projects/{project}"

    def follow(self, path: Path, status: int = 201, *, watching: bool = True) -> dict[str, Any]:
        body = {"path": str(path), "watching": watching}
        answer = self.client.post(f"{self.address}/watched-folders", json=body)
        assert answer.status_code == status, answer.text
        return answer.json()

    def folders(self) -> list[dict[str, Any]]:
        return self.client.get(f"{self.address}/watched-folders").json()

    def rows(self) -> list[dict[str, Any]]:
        for _ in range(400):
            table = self.client.get(f"{self.address}/arrivals").json()
            if not table["waiting"]:
                return table["rows"]
            time.sleep(0.05)
        raise AssertionError("not recognized in time")

    def accept(self) -> dict[str, int]:
        ids = [row["id"] for row in self.rows()]
        answer = self.client.post("/api/v1/arrivals/acceptances", json={"ids": ids})
        assert answer.status_code == 200, answer.text
        return answer.json()["sets"]

    def source_of(self, set_id: int, kind: str) -> str:
        maps = self.client.get(f"/api/v1/sets/{set_id}").json()["maps"]
        return next(one["definition"]["source"] for one in maps if one["kind"] == kind)


@pytest.fixture
def places(client: TestClient, project: str) -> Places:
    return Places(client, project)


def draw(path: Path, seed: int) -> None:
    path.parent.mkdir(parents=True, exist_ok=True)
    picture = Picture(photo_codes((64, 64), seed), ("R", "G", "B"), Encoding.SRGB)
    write_picture(path, picture, "png")
    # Two writes in one tick of the clock would look alike.
    os.utime(path, ns=(time.time_ns(), time.time_ns()))


def test_a_folder_comes_in_once_and_stays_in_step(
    places: Places, root: Path, follower: FolderWatcher
) -> None:
    draw(root / "quay" / "wall" / "wall_color.png", 1)
    draw(root / "quay" / "floor_color.png", 2)
    (root / "quay" / "notes.txt").write_text("wet")
    (root / "quay" / ".hidden.png").write_bytes(b"x")
    places.follow(root / "quay")
    assert places.folders()[0]["read_at"] is None
    assert follower.look() == 2
    assert {(row["name"], row["inside"]) for row in places.rows()} == {
        ("wall_color.png", "quay/wall"), ("floor_color.png", "quay"),
    }  # fmt: skip
    (folder,) = places.folders()
    assert (folder["files"], folder["deleted"], folder["problem"]) == (2, 0, None)
    assert folder["read_at"] is not None
    assert follower.look() == 0
    sets = places.accept()

    # A file that is written anew is shown by its set at once, as one change that is undone.
    before = places.source_of(sets["wall"], "base_color")
    draw(root / "quay" / "wall" / "wall_color.png", 3)
    draw(root / "quay" / "roof_color.png", 4)
    assert follower.look() == 2
    after = places.source_of(sets["wall"], "base_color")
    assert after != before
    assert [row["name"] for row in places.rows()] == ["roof_color.png"]
    one = places.client.get(f"/api/v1/sets/{sets['wall']}").json()
    back = places.client.post(f"/api/v1/sets/{sets['wall']}/undo", json={"version": one["version"]})
    assert back.status_code == 200
    assert places.source_of(sets["wall"], "base_color") == before

    (root / "quay" / "floor_color.png").unlink()
    assert follower.look() == 0
    assert places.folders()[0]["deleted"] == 1
    assert places.client.get(f"/api/v1/sets/{sets['floor']}").status_code == 200


def test_what_was_said_of_a_file_stays_when_it_changes_before_it_is_accepted(
    places: Places, root: Path, follower: FolderWatcher
) -> None:
    draw(root / "odd" / "thing.png", 5)
    places.follow(root / "odd")
    follower.look()
    (row,) = places.rows()
    said = {"ids": [row["id"]], "change": {"set_name": "barge"}}
    assert places.client.patch("/api/v1/arrivals", json=said).status_code == 204
    draw(root / "odd" / "thing.png", 6)
    assert follower.look() == 1
    (after,) = places.rows()
    assert (after["id"], after["set_name"]) == (row["id"], "barge")
    assert after["sha256"] != row["sha256"]


def test_a_file_that_is_still_being_copied_is_waited_for(
    places: Places, root: Path, follower: FolderWatcher, context: Context
) -> None:
    draw(root / "slow" / "a_color.png", 7)
    whole = (root / "slow" / "a_color.png").read_bytes()
    places.follow(root / "slow")
    patient = FolderWatcher(context, settled=60.0)
    assert patient.look() == 0
    assert places.folders()[0]["read_at"] is None
    # One whose time says nothing is told, takes nothing in, and is read once it has grown.
    (root / "slow" / "a_color.png").write_bytes(whole[: len(whole) // 2])
    assert follower.look() == 0
    (told,) = places.folders()[0]["refused"]
    assert told.startswith("a_color.png")
    assert places.rows() == []
    (root / "slow" / "a_color.png").write_bytes(whole)
    assert follower.look() == 1
    assert places.folders()[0]["refused"] == []
    assert [row["state"] for row in places.rows()] == ["recognized"]


def test_what_is_no_picture_is_told_and_the_rest_comes_in(
    places: Places, root: Path, follower: FolderWatcher
) -> None:
    draw(root / "mixed" / "b_color.png", 8)
    (root / "mixed" / "deep").mkdir()
    (root / "mixed" / "deep" / "broken.png").write_bytes(b"\x89PNG\r\n\x1a\n nothing")
    places.follow(root / "mixed")
    assert follower.look() == 1
    (folder,) = places.folders()
    assert len(folder["refused"]) == 1
    assert folder["refused"][0].startswith("deep/broken.png")
    draw(root / "mixed" / "deep" / "broken.png", 9)
    assert follower.look() == 1
    assert places.folders()[0]["refused"] == []


def test_a_picture_that_breaks_keeps_what_came_in_and_follows_once_it_is_whole(
    places: Places, root: Path, follower: FolderWatcher
) -> None:
    draw(root / "late" / "c_color.png", 10)
    places.follow(root / "late")
    follower.look()
    sets = places.accept()
    (root / "late" / "c_color.png").write_bytes(b"\x89PNG\r\n\x1a\n cut")
    follower.look()
    assert len(places.folders()[0]["refused"]) == 1
    before = places.source_of(sets["c"], "base_color")
    draw(root / "late" / "c_color.png", 11)
    assert follower.look() == 1
    assert places.source_of(sets["c"], "base_color") != before
    assert places.rows() == []


def test_of_an_archive_that_is_packed_anew_only_what_is_new_comes_in(
    places: Places, root: Path, follower: FolderWatcher, tmp_path: Path
) -> None:
    for n in (12, 13):
        draw(tmp_path / f"d{n}_color.png", n)
    (root / "packed").mkdir()
    for names in ((12,), (12, 13)):
        with zipfile.ZipFile(root / "packed" / "all.zip", "w") as archive:
            for n in names:
                archive.write(tmp_path / f"d{n}_color.png", f"d{n}_color.png")
        if names == (12,):
            places.follow(root / "packed")
        follower.look()
    assert [row["name"] for row in places.rows()] == ["d12_color.png", "d13_color.png"]


def test_a_folder_that_is_taken_in_once_is_left_then(
    places: Places, root: Path, follower: FolderWatcher
) -> None:
    draw(root / "once" / "e_color.png", 14)
    number = places.follow(root / "once", watching=False)["id"]
    follower.look()
    draw(root / "once" / "f_color.png", 15)
    assert follower.look() == 0
    assert places.follow(root / "once", watching=True)["id"] == number
    assert follower.look() == 1
    assert places.client.delete(f"{places.address}/watched-folders/{number}").status_code == 204
    assert places.client.delete(f"{places.address}/watched-folders/{number}").status_code == 404
    draw(root / "once" / "g_color.png", 16)
    assert follower.look() == 0
    assert len(places.rows()) == 2


def test_only_folders_that_are_allowed_and_there(
    places: Places, root: Path, follower: FolderWatcher, tmp_path: Path
) -> None:
    assert "SIEVE_ROOTS" in places.follow(tmp_path / "else", 409)["detail"]
    assert "a folder on the server" in places.follow(root / "nowhere", 409)["detail"]
    assert "absolute path" in places.follow(Path("incoming"), 409)["detail"]
    # A link that leads out is passed over.
    draw(tmp_path / "secret_color.png", 17)
    draw(root / "links" / "h_color.png", 18)
    (root / "links" / "out.png").symlink_to(tmp_path / "secret_color.png")
    places.follow(root / "links")
    follower.look()
    assert [row["name"] for row in places.rows()] == ["h_color.png"]
    shutil.rmtree(root / "links")
    follower.look()
    (folder,) = places.folders()
    assert folder["problem"] is None
    assert folder["deleted"] == 1


def test_a_death_between_two_files_takes_none_in_twice(
    places: Places, root: Path, follower: FolderWatcher, monkeypatch: pytest.MonkeyPatch
) -> None:
    for n in (19, 20, 21):
        draw(root / "killed" / f"k{n}_color.png", n)
    places.follow(root / "killed")
    put = watched_folders.watched_folders.put_file
    calls: list[str] = []

    def dies(*given: Any) -> None:
        calls.append("x")
        if len(calls) == 2:
            raise KeyboardInterrupt
        put(*given)

    monkeypatch.setattr(watched_folders.watched_folders, "put_file", dies)
    with pytest.raises(KeyboardInterrupt):
        follower.look()
    monkeypatch.setattr(watched_folders.watched_folders, "put_file", put)
    assert follower.look() == 2
    assert [row["name"] for row in places.rows()] == [
        "k19_color.png", "k20_color.png", "k21_color.png",
    ]  # fmt: skip


def test_files_that_were_taken_off_the_table_are_brought_back(
    places: Places, root: Path, follower: FolderWatcher, context: Context
) -> None:
    for n in (22, 23):
        draw(root / "off" / f"m{n}_color.png", n)
    places.follow(root / "off")
    follower.look()
    rows = places.rows()
    ids = {"ids": [row["id"] for row in rows]}
    post = places.client.post
    assert post("/api/v1/arrivals/dismissals", json=ids).status_code == 204
    assert places.rows() == []
    assert post("/api/v1/arrivals/acceptances", json=ids).status_code == 404
    assert post("/api/v1/arrivals/restorations", json=ids).status_code == 204
    assert places.rows() == rows
    post("/api/v1/arrivals/dismissals", json=ids)
    with context.database.transaction() as connection:
        connection.execute("update arrival set dismissed_at = now() - interval '31 days' "
                           "where dismissed_at is not null")  # fmt: skip
    disk_use.purge(context)
    assert places.client.get(f"/api/v1/sources/{rows[0]['sha256']}").status_code == 404
    answer = post("/api/v1/arrivals/restorations", json=ids)
    assert answer.status_code == 404
    assert "too long ago" in answer.json()["detail"]
