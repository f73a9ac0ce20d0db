"""Many sets headless: folders sorted by names, only what changed made, failures told, watched."""

from __future__ import annotations

import json
import os
import shutil
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import cv2
import numpy as np
import pytest

from copper_sieve.core.export.assay import assay_folder, read_manifest
from copper_sieve.library import batch
from copper_sieve.library.batch import FileSet, pictures_in, sets_among
from tests.cli.calling import main

Said = pytest.CaptureFixture[str]
SIDE = 32


def picture(path: Path, seed: int = 0, *, grey: bool = False) -> Path:
    path.parent.mkdir(parents=True, exist_ok=True)
    rng = np.random.default_rng(seed)
    codes = rng.integers(60, 190, (SIDE, SIDE) if grey else (SIDE, SIDE, 3)).astype(np.uint8)
    assert cv2.imwrite(str(path), codes)
    os.utime(path, (time.time() - 60,) * 2)  # nobody is writing it any more
    return path


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    """Three sets: a photo, a color with a roughness, and a folder whose files name only maps."""
    made = tmp_path / "in"
    picture(made / "quay.png", 1)
    picture(made / "deck_basecolor.png", 2)
    picture(made / "deck_roughness.png", 3, grey=True)
    picture(made / "mast" / "albedo.png", 4)
    picture(made / "mast" / "roughness.png", 5, grey=True)
    (made / "notes.txt").write_text("no picture", "utf-8")
    picture(made / ".hidden" / "x.png", 6)
    return made


def run(*words: object) -> int:
    return int(main([str(word) for word in words]))


def make(folder: Path, out: Path, *more: object, status: int = 0) -> None:
    assert run("make", folder, "--target", "separate-png", "--out", out, *more) == status


def seen(out: Path) -> dict[str, tuple[int, int]]:
    return {
        str(one.relative_to(out)): (one.stat().st_ino, one.stat().st_mtime_ns)
        for one in out.rglob("*") if one.is_file() and one.name[0] != "."
    }  # fmt: skip


def test_pictures_are_sorted_into_sets_by_their_names(folder: Path) -> None:
    found = {
        one.name: [path.name for path in one.files] for one in sets_among(pictures_in([folder]))
    }
    assert found == {
        "quay": ["quay.png"],
        "deck": ["deck_basecolor.png", "deck_roughness.png"],
        "mast": ["albedo.png", "roughness.png"],
    }
    twice = sets_among([folder / "quay.png", folder / "other" / "quay.png"])
    assert [one.name for one in twice] == ["quay", "quay_2"]
    assert isinstance(twice[0], FileSet)


def test_a_folder_is_made_once_and_then_only_what_changed(
    folder: Path, tmp_path: Path, capsys: Said
) -> None:
    out = tmp_path / "out"
    make(folder, out)
    assert "3 created, 0 unchanged, 0 failed" in capsys.readouterr().out
    for name in ("quay", "deck", "mast"):
        assert assay_folder(out / "separate-png" / name).ok
    deck = read_manifest(out / "separate-png" / "deck")
    assert deck.maps["roughness"].definition.how == "imported"
    before = seen(out)
    make(folder, out)
    assert "0 created, 3 unchanged, 0 failed" in capsys.readouterr().out
    assert seen(out) == before
    picture(folder / "deck_roughness.png", 33, grey=True)
    make(folder, out, "--json")
    told = json.loads(capsys.readouterr().out)
    assert (told["ok"], told["counts"]) == (True, {"done": 1, "same": 2, "failed": 0})
    assert told["files_written"] == 1
    after = seen(out)
    changed = {name for name in after if after[name] != before[name]}
    assert changed == {
        "separate-png/deck/deck_roughness.png", "separate-png/deck/manifest.json"
    }  # fmt: skip
    (out / "separate-png" / "quay" / "quay_normal.png").unlink()  # somebody took it away
    make(folder, out, "--json")
    assert json.loads(capsys.readouterr().out)["counts"]["done"] == 1
    make(folder, out, "--size", "16", "--json")  # another way: all of it
    assert json.loads(capsys.readouterr().out)["counts"]["done"] == 3


def test_what_fails_is_told_and_the_others_go_on(
    folder: Path, tmp_path: Path, capsys: Said
) -> None:
    (folder / "broken.png").write_bytes(b"\x89PNG\r\n\x1a\n and no more")
    picture(folder / "deck_rough.png", 8, grey=True)  # two roughness maps of one set
    make(folder, tmp_path / "out", "--json", status=1)
    told = json.loads(capsys.readouterr().out)
    errors = {one["name"]: one["error"] for one in told["sets"] if one["state"] == "failed"}
    assert set(errors) == {"broken", "deck"}
    assert "broken.png" in errors["broken"]
    assert "is used as the roughness map already" in errors["deck"]
    assert (tmp_path / "out" / "separate-png" / "quay" / "manifest.json").exists()


def test_several_at_once_make_the_same(folder: Path, tmp_path: Path) -> None:
    make(folder, tmp_path / "one")
    make(folder, tmp_path / "two", "--jobs", 2)
    for path in (tmp_path / "one").rglob("*.png"):
        assert (
            path.read_bytes()
            == (tmp_path / "two" / path.relative_to(tmp_path / "one")).read_bytes()
        )


def test_lists_patterns_and_files_of_several_sets(
    folder: Path, tmp_path: Path, capsys: Said
) -> None:
    listed = tmp_path / "list.txt"
    listed.write_text("# what we want\nin/mast\nin/deck_*.png\n", "utf-8")
    assert run("make", "--list", listed, "--target", "orm-y-down", "--out", tmp_path / "a") == 0
    assert {one.name for one in (tmp_path / "a" / "orm-y-down").iterdir()} == {"mast", "deck"}
    assert run("make", "--sets", folder / "quay.png", folder / "deck_basecolor.png", "--target",
               "orm-y-down", "--out", tmp_path / "b") == 0  # fmt: skip
    assert {one.name for one in (tmp_path / "b" / "orm-y-down").iterdir()} == {"quay", "deck"}
    capsys.readouterr()
    empty = tmp_path / "empty"
    empty.mkdir()
    assert run("make", empty, "--target", "orm-y-down", "--out", tmp_path / "c") == 2
    assert "No pictures found" in capsys.readouterr().err
    assert run("make", folder, "--set", "x", "--target", "orm-y-down", "--out", tmp_path) == 2
    assert "names a single set" in capsys.readouterr().err


def test_a_card_says_what_names_mean_and_its_licence_goes_along(
    tmp_path: Path, capsys: Said
) -> None:
    made = tmp_path / "in"
    picture(made / "beam_basecolor.png", 1)
    picture(made / "beam_shine.png", 2, grey=True)
    picture(made / "beam_xyz.png", 3)
    card = tmp_path / "card.json"
    card.write_text(json.dumps({
        "name": "Harbour scans", "licence": "CC0",
        "marks": {"shine": "glossiness", "basecolor": "base_color"},
        "packed": {"xyz": {"R": "ambient_occlusion", "G": "metallic", "B": None}},
    }), "utf-8")  # fmt: skip
    make(made, tmp_path / "out", "--card", card)
    manifest = read_manifest(tmp_path / "out" / "separate-png" / "beam")
    assert manifest.origin and (manifest.origin.card, manifest.origin.licence) == (
        "Harbour scans", "CC0"
    )  # fmt: skip
    how = {kind: one.definition.how for kind, one in manifest.maps.items()}
    assert {how[kind] for kind in ("metallic", "ambient_occlusion")} == {"imported"}


@pytest.fixture
def watching(folder: Path, tmp_path: Path) -> Iterator[subprocess.Popen[str]]:
    command = [sys.executable, "-m", "copper_sieve.cli", "watch", str(folder), "--target",
               "separate-png", "--out", str(tmp_path / "out"), "--json"]  # fmt: skip
    process = subprocess.Popen(
        command, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True
    )
    late = threading.Timer(90, process.kill)  # it never waits for ever
    late.start()
    yield process
    late.cancel()
    process.kill()
    process.wait()


def told(process: subprocess.Popen[str], count: int) -> dict[str, Any]:
    """The next so many sets that it tells of, by name."""
    assert process.stdout
    lines = [json.loads(process.stdout.readline()) for _ in range(count)]
    return {one["name"]: one for one in lines}


def test_a_watched_folder_is_made_and_made_again_when_it_changes(
    watching: subprocess.Popen[str], folder: Path, tmp_path: Path
) -> None:
    first = told(watching, 3)
    assert {one["state"] for one in first.values()} == {"done"}
    picture(folder / "deck_roughness.png", 44, grey=True)
    assert told(watching, 1)["deck"]["written"] == 1
    # One that is still being copied is waited for.
    whole = picture(tmp_path / "late.png", 9).read_bytes()
    late = folder / "late.png"
    with late.open("wb") as file:
        for start in range(0, len(whole), len(whole) // 4 + 1):
            file.write(whole[start : start + len(whole) // 4 + 1])
            file.flush()
            time.sleep(0.5)
    assert told(watching, 1)["late"]["state"] == "done"
    assert assay_folder(tmp_path / "out" / "separate-png" / "late").ok
    watching.send_signal(signal.SIGTERM)
    assert watching.wait(20) == 130


def test_what_cannot_be_watched_is_told(folder: Path, tmp_path: Path, capsys: Said) -> None:
    to = ("--target", "separate-png", "--out")
    assert run("watch", folder / "quay.png", *to, tmp_path / "out") == 2
    assert "isn't a folder" in capsys.readouterr().err
    assert run("watch", folder, *to, folder / "out") == 2
    assert "is inside the watched folder" in capsys.readouterr().err
    assert run("watch", folder, *to, tmp_path / "out", "--once") == 0
    shutil.rmtree(tmp_path / "out")


def test_what_changes_while_it_is_made_is_made_again(
    folder: Path, tmp_path: Path, capsys: Said, monkeypatch: pytest.MonkeyPatch
) -> None:
    real = batch.make_one

    def slow(one: FileSet, *more: Any) -> batch.Made:
        made = real(one, *more)
        if one.name == "deck":  # somebody saves it once more in this moment
            picture(folder / "deck_roughness.png", 77, grey=True)
        return made

    monkeypatch.setattr(batch, "make_one", slow)
    make(folder, tmp_path / "out")
    monkeypatch.undo()
    capsys.readouterr()
    make(folder, tmp_path / "out", "--json")
    states = {one["name"]: one["state"] for one in json.loads(capsys.readouterr().out)["sets"]}
    assert states == {"deck": "done", "mast": "same", "quay": "same"}
