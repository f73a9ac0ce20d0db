"""Files put in place one by one in a shared folder: nothing of others is touched, or all undone."""

from __future__ import annotations

import os
from pathlib import Path
from typing import Any

import pytest

from copper_sieve.core.errors import ForeignFileError
from copper_sieve.core.export.assay import assay_folder, read_manifest
from copper_sieve.core.export.atomic_swap import clear_left_behind
from copper_sieve.core.export.deliver import stage, swap_in
from copper_sieve.core.export.planning import plan_export
from copper_sieve.core.export.reuse import replaced_files
from copper_sieve.core.export.shared_folder import SharedStagedFolder, staged_folder_for
from copper_sieve.core.export.stager import DeliveryOptions, Staged
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.models.texture_set import Constant
from copper_sieve.core.targets.catalog import get_target
from tests.core.conftest import Wall

NAME = "wall.separate-png.manifest.json"


def staged(wall: Wall, folder: Path, set_name: str = "wall", **way: Any) -> Staged:
    texture_set = wall.texture_set.model_copy(update={"name": set_name})
    preset = get_target("separate-png")
    if fewer := way.pop("without", ""):
        files = tuple(one for one in preset.files if one.suffix != fewer)
        preset = preset.model_copy(update={"files": files})
    export = plan_export(preset, texture_set, wall.sizes)
    name = f"{set_name}.separate-png.manifest.json"
    return stage(export, folder, sizes=wall.sizes, load_source=wall.load, token="t",
                 options=DeliveryOptions(manifest_name=name, **way))  # fmt: skip


def write(wall: Wall, folder: Path, set_name: str = "wall", **way: Any) -> Staged:
    one = staged(wall, folder, set_name, **way)
    swap_in(one)
    one.place.discard()
    return one


def seen(folder: Path) -> dict[str, tuple[int, int, bytes]]:
    """Inode, time and bytes of every file, hidden ones too."""
    return {
        str(one.relative_to(folder)): (one.stat().st_ino, one.stat().st_mtime_ns, one.read_bytes())
        for one in folder.rglob("*") if one.is_file()
    }  # fmt: skip


def change(wall: Wall, value: float) -> None:
    for kind in ("roughness", "metallic"):
        wall.texture_set = wall.texture_set.with_map(MapKind(kind), Constant(value=(value,)))


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    """A folder in which somebody has something of his own."""
    made = tmp_path / "engine"
    (made / "deep").mkdir(parents=True)
    (made / "notes.txt").write_text("mine", "utf-8")
    (made / "deep" / "wall_normal.png").write_bytes(b"not imported picture")
    return made


def test_several_sets_share_a_folder_with_somebody(wall: Wall, folder: Path) -> None:
    before, number = seen(folder), folder.stat().st_ino
    write(wall, folder)
    first = seen(folder)
    write(wall, folder, "hall")
    now = seen(folder)
    assert {name: now[name] for name in first} == first
    assert {name: now[name] for name in before} == before
    assert folder.stat().st_ino == number  # the folder itself was never replaced
    for one in ("wall", "hall"):
        assert assay_folder(folder, f"{one}.separate-png.manifest.json").ok
    assert not [name for name in now if "sieve" in name]


def test_only_what_changed_is_replaced(wall: Wall, folder: Path) -> None:
    write(wall, folder)
    before = seen(folder)
    assert write(wall, folder).is_same
    assert seen(folder) == before
    change(wall, 0.25)
    write(wall, folder)
    after = seen(folder)
    assert {name for name in after if after[name] != before[name]} == {
        NAME, "wall_metallic.png", "wall_roughness.png"
    }  # fmt: skip


def test_a_file_of_somebody_else_is_in_the_way(wall: Wall, folder: Path) -> None:
    (folder / "wall_normal.png").write_bytes(b"mine")
    before = seen(folder)
    with pytest.raises(ForeignFileError, match=r"wall_normal\.png already exists"):
        staged(wall, folder)
    assert seen(folder) == before
    (folder / "wall_normal.png").unlink()
    one = staged(wall, folder)
    (folder / "wall_normal.png").write_bytes(b"mine")  # it comes while we compute
    with pytest.raises(ForeignFileError, match="wasn't written by this set"):
        swap_in(one)
    one.place.discard()
    assert seen(folder).keys() == before.keys()


def test_what_it_no_longer_has_stays_or_goes(wall: Wall, folder: Path) -> None:
    write(wall, folder)
    export = plan_export(get_target("separate-png"), wall.texture_set, wall.sizes)
    assert set(replaced_files(folder, export, NAME).values()) == {"replaces"}
    write(wall, folder, without="metallic")
    assert (folder / "wall_metallic.png").exists()
    assert [one.name for one in read_manifest(folder, NAME).left] == ["wall_metallic.png"]
    write(wall, folder, without="metallic", delete_obsolete=True)
    assert not (folder / "wall_metallic.png").exists()
    assert (folder / "notes.txt").exists()


class Dead(BaseException):
    """The process ends here."""


STEPS = [(os, "link"), (Path, "replace"), (Path, "unlink"), (Path, "rename"), (Path, "mkdir")]


@pytest.mark.parametrize("noted", [False, True])
@pytest.mark.parametrize("first", [False, True])
@pytest.mark.parametrize("at", range(12))
def test_whenever_the_process_dies_all_is_as_before_or_as_noted(
    wall: Wall, folder: Path, monkeypatch: pytest.MonkeyPatch, at: int, first: bool, noted: bool
) -> None:
    if not first:
        write(wall, folder)
    before = seen(folder)
    change(wall, 0.25)
    one = staged(wall, folder, delete_obsolete=True, without="ambient_occlusion")
    left = at

    def dying(real: Any) -> Any:
        def step(*given: Any, **more: Any) -> Any:
            nonlocal left
            left -= 1
            if left < 0:
                raise Dead
            return real(*given, **more)

        return step

    died = False
    with monkeypatch.context() as dangerous:
        for owner, name in STEPS:
            dangerous.setattr(owner, name, dying(getattr(owner, name)))
        try:
            one.place.swap()
        except Dead:
            died = True
    os.close(one.place._handle)  # type: ignore[arg-type]  # with the process its lock goes
    if noted and died:
        return  # it is only noted once all of it is in place
    after = seen(folder)
    assert clear_left_behind([staged_folder_for(folder, "t", NAME)], done=noted) == []
    assert not list(folder.glob(".*"))
    if not noted:
        assert {name: held[2] for name, held in seen(folder).items()} == {
            name: held[2] for name, held in before.items()
        }
        untouched = {"notes.txt", "wall_normal.png"} & before.keys()
        assert {name: seen(folder)[name] for name in untouched} == {
            name: before[name] for name in untouched
        }
    else:
        kept = {name: held for name, held in after.items() if ".sieve" not in name}
        assert seen(folder) == kept
        assert assay_folder(folder, NAME).ok


def test_what_a_dead_one_left_is_taken_back_before_the_next(wall: Wall, folder: Path) -> None:
    write(wall, folder)
    before = seen(folder)
    change(wall, 0.25)
    dead = staged(wall, folder)
    dead.place.swap()
    os.close(dead.place._handle)  # type: ignore[arg-type]
    SharedStagedFolder(folder, "another", NAME).settle_the_dead()
    shown = {name: held for name, held in seen(folder).items() if ".sieve" not in name}
    assert {name: held[2] for name, held in shown.items()} == {
        name: held[2] for name, held in before.items()
    }
