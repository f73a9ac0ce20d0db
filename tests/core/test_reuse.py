"""What of an earlier delivery stays as it is: by key, by bytes, and only as long as it is true."""

from __future__ import annotations

import json
import os
from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest

from copper_sieve.core.export.assay import assay_folder
from copper_sieve.core.export.deliver import stage, swap_in
from copper_sieve.core.export.export_plan import ExportPlan
from copper_sieve.core.export.file_maps import graph_of
from copper_sieve.core.export.planning import plan_export
from copper_sieve.core.export.reuse import document_key, file_key, replaced_files
from copper_sieve.core.export.stager import DeliveryOptions, Staged
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.models.texture_set import Constant
from copper_sieve.core.targets.catalog import get_target
from copper_sieve.core.targets.target_preset import TargetPreset
from tests.core.conftest import Wall

GLTF, PLAIN = "gltf-metal-rough", "separate-png"


def planned(wall: Wall, target: str | TargetPreset = PLAIN, **more: Any) -> ExportPlan:
    preset = get_target(target) if isinstance(target, str) else target
    return plan_export(preset, wall.texture_set, wall.sizes, **more)


def write(wall: Wall, folder: Path, target: str | TargetPreset = PLAIN, **way: Any) -> Staged:
    staged = stage(
        planned(wall, target), folder, sizes=wall.sizes, load_source=wall.load, token="t",
        options=DeliveryOptions(**way),
    )  # fmt: skip
    swap_in(staged)
    staged.place.discard()
    assert staged.delivered.assay.ok
    assert assay_folder(folder).ok
    return staged


def seen(folder: Path) -> dict[str, tuple[int, int]]:
    """Inode and time of every file."""
    return {one.name: (one.stat().st_ino, one.stat().st_mtime_ns) for one in folder.iterdir()}


def change(wall: Wall, kind: str, value: float) -> None:
    wall.texture_set = wall.texture_set.with_map(MapKind(kind), Constant(value=(value,)))


@pytest.mark.parametrize("target", [PLAIN, GLTF, "usd-preview"])
def test_nothing_is_computed_or_touched_where_nothing_changed(
    wall: Wall, tmp_path: Path, target: str
) -> None:
    first = write(wall, tmp_path / "out", target)
    before, folder = seen(tmp_path / "out"), (tmp_path / "out").stat().st_ino
    wall.loads.clear()
    again = write(wall, tmp_path / "out", target)
    assert (again.written, again.kept, again.is_same) == (0, first.written, True)
    assert seen(tmp_path / "out") == before
    assert (tmp_path / "out").stat().st_ino == folder
    assert wall.loads == []
    assert again.delivered.manifest == first.delivered.manifest


def test_only_the_files_of_a_changed_map_are_made(wall: Wall, tmp_path: Path) -> None:
    write(wall, tmp_path / "out")
    before = seen(tmp_path / "out")
    wall.loads.clear()
    change(wall, "roughness", 0.25)
    staged = write(wall, tmp_path / "out")
    after = seen(tmp_path / "out")
    touched = {name for name in after if after[name] != before[name]}
    assert touched == {"wall_roughness.png", "manifest.json"}
    assert (staged.written, staged.kept) == (1, len(before) - 2)
    assert wall.loads == []  # not even the picture was read
    assert {one.name for one in staged.delivered.assay.files} == set(after) - {"manifest.json"}


def test_a_document_is_written_again_where_a_texture_or_the_depth_changed(
    wall: Wall, tmp_path: Path
) -> None:
    write(wall, tmp_path / "out", "usd-preview")
    before = seen(tmp_path / "out")
    surface = wall.texture_set.surface.model_copy(update={"relief": 12.0})
    wall.texture_set = wall.texture_set.model_copy(update={"surface": surface})
    write(wall, tmp_path / "out", "usd-preview")
    after = seen(tmp_path / "out")
    assert {Path(name).suffix for name in after if after[name] != before[name]} >= {".usdz"}


def test_what_was_changed_by_hand_is_made_again(wall: Wall, tmp_path: Path) -> None:
    write(wall, tmp_path / "out")
    path = tmp_path / "out" / "wall_normal.png"
    whole = path.read_bytes()
    path.write_bytes(whole[:-20] + bytes(20))  # as large as it was
    assert write(wall, tmp_path / "out").written == 1
    assert path.read_bytes() == whole
    path.unlink()
    assert write(wall, tmp_path / "out").written == 1


def test_all_is_made_on_request(wall: Wall, tmp_path: Path) -> None:
    first = write(wall, tmp_path / "out")
    again = write(wall, tmp_path / "out", rewrite=True)
    assert (again.written, again.kept, again.is_same) == (first.written, 0, False)


def test_a_manifest_from_before_there_were_keys_keeps_nothing(wall: Wall, tmp_path: Path) -> None:
    first = write(wall, tmp_path / "out")
    path = tmp_path / "out" / "manifest.json"
    held = json.loads(path.read_text("utf-8"))
    for one in held["files"]:
        del one["written_key"]
    path.write_text(json.dumps(held), "utf-8")
    assert write(wall, tmp_path / "out").written == first.written


def without(target: str, suffix: str) -> TargetPreset:
    preset = get_target(target)
    return preset.model_copy(
        update={"files": tuple(one for one in preset.files if one.suffix != suffix)}
    )


def test_what_a_delivery_no_longer_has_stays_until_it_is_removed(
    wall: Wall, tmp_path: Path
) -> None:
    folder = tmp_path / "out"
    write(wall, folder)
    fewer = without(PLAIN, "roughness")
    states = replaced_files(folder, planned(wall, fewer))
    assert [name for name, state in states.items() if state == "left"] == ["wall_roughness.png"]
    before = seen(folder)["wall_roughness.png"]
    staged = write(wall, folder, fewer)
    assert seen(folder)["wall_roughness.png"] == before
    assert [one.name for one in staged.delivered.manifest.left] == ["wall_roughness.png"]
    assert write(wall, folder, fewer).is_same
    write(wall, folder)  # it is still ours: a delivery that has it may write it
    write(wall, folder, fewer)
    (folder / "wall_roughness.png").write_bytes(b"mine now")
    staged = write(wall, folder, fewer)
    assert staged.delivered.manifest.left == ()
    assert (folder / "wall_roughness.png").read_bytes() == b"mine now"


def test_what_a_delivery_no_longer_has_is_removed_on_request(wall: Wall, tmp_path: Path) -> None:
    folder = tmp_path / "out"
    write(wall, folder)
    (folder / "notes.txt").write_text("of somebody", "utf-8")
    write(wall, folder, without(PLAIN, "roughness"), delete_obsolete=True)
    assert not (folder / "wall_roughness.png").exists()
    assert (folder / "notes.txt").read_text("utf-8") == "of somebody"


def test_proofs_that_are_known_are_taken_over_by_their_bytes(
    wall: Wall, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    first = write(wall, tmp_path / "out").delivered
    checks = {one.name: one for one in first.assay.files}
    proven = {one.sha256: checks[one.name] for one in first.manifest.entries}
    monkeypatch.setattr("copper_sieve.core.export.reuse.check_file", None)  # nothing is decoded
    export = planned(wall)
    staged = stage(export, tmp_path / "out", sizes=wall.sizes, load_source=wall.load, token="t",
                   options=DeliveryOptions(proven))  # fmt: skip
    assert staged.is_same
    assert staged.delivered.assay == first.assay


def test_where_links_are_not_to_be_had_files_are_copied(
    wall: Wall, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    write(wall, tmp_path / "out")
    before = seen(tmp_path / "out")["wall_normal.png"]

    def none(*_: Any, **__: Any) -> None:
        raise OSError(95, "Operation not supported")

    monkeypatch.setattr(os, "link", none)
    change(wall, "roughness", 0.25)
    write(wall, tmp_path / "out")
    after = seen(tmp_path / "out")["wall_normal.png"]
    assert (after[0] == before[0], after[1]) == (False, before[1])


def preset(**more: Any) -> TargetPreset:
    return TargetPreset.model_validate(
        {**get_target(GLTF).model_dump(mode="json"), **more, "id": "mine"}
    )


@pytest.mark.parametrize(
    "more",
    [
        {"normal_y": "down"},
        {"height_mid": 0.25},
        {"resampling": "nearest"},
        {"size": {"mode": "half"}},
        {"padding": {"mode": "texels", "texels": 4}},
    ],
)
def test_what_a_file_depends_on_is_in_its_key(wall: Wall, more: dict[str, Any]) -> None:
    keys = []
    for one in (preset(), preset(**more)):
        export = planned(wall, one)
        graph = graph_of(export, wall.sizes)
        keys.append([file_key(export, graph, file) for file in export.files])
    assert not set(keys[0]) & set(keys[1])


def test_what_is_encoded_or_named_otherwise_has_another_key(wall: Wall) -> None:
    export = planned(wall)
    graph, (file, *_) = graph_of(export, wall.sizes), export.files
    others = [
        replace(file, name="other.png"),
        replace(file, spec=file.spec.model_copy(update={"bits": 16})),
        replace(file, spec=file.spec.model_copy(update={"dither": True})),
        replace(file, size=(32, 24)),
    ]
    keys = [file_key(export, graph, one) for one in (file, *others)]
    assert len(set(keys)) == len(keys)


def test_a_document_depends_on_its_textures_its_material_and_the_depth(wall: Wall) -> None:
    export = planned(wall, GLTF)
    graph = graph_of(export, wall.sizes)
    files = {"a": "1"}
    named = replace(export, texture_set=export.texture_set.model_copy(update={"name": "hall"}))
    keys = [
        document_key(export, graph, 0, files),
        document_key(export, graph, 0, {"a": "2"}),
        document_key(named, graph, 0, files),
        document_key(export, replace(graph, depth="another"), 0, files),
        document_key(replace(export, preset=preset(dielectric_f0=0.08)), graph, 0, files),
    ]
    assert len(set(keys)) == len(keys)


@pytest.mark.parametrize(("unit", "differs"), [("metres", {"height"}), ("share", set())])
def test_only_a_height_in_metres_depends_on_the_width(
    wall: Wall, unit: str, differs: set[str]
) -> None:
    content = get_target(PLAIN).model_dump(mode="json") | {"id": "made", "height_unit": unit}
    for file in content["files"]:
        if any(slot["map"] == "height" for slot in file["channels"].values()):
            file |= {"format": "exr", "bits": 32}
    target = TargetPreset.model_validate(content)
    keys = []
    for width in (1.0, 2.0):
        # A set whose depth is stated: a measured one depends on the width itself.
        surface = wall.texture_set.surface.model_copy(update={"tile_size": width, "depth": 0.01})
        wall.texture_set = wall.texture_set.model_copy(update={"surface": surface})
        export = planned(wall, target)
        graph = graph_of(export, wall.sizes)
        height = next(f for f in export.files if MapKind.HEIGHT in f.slots[min(f.slots)].maps)
        color = next(f for f in export.files if MapKind.BASE_COLOR in f.slots[min(f.slots)].maps)
        # The pixels alike, so that only the key's own field can differ.
        graph.outputs[MapKind.HEIGHT] = graph.outputs[MapKind.BASE_COLOR] = "the same"
        keys.append({"height": file_key(export, graph, height),
                     "color": file_key(export, graph, color)})  # fmt: skip
    assert {name for name in keys[0] if keys[0][name] != keys[1][name]} == differs
