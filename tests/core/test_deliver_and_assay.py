"""From a set to proven files: exact channels, nothing half-written, tampering found and named."""

from __future__ import annotations

import json
import re
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from PIL import Image

from copper_sieve.core.errors import (
    CancelledError,
    DeliveryError,
    ForeignFileError,
    ManifestError,
    MissingMapError,
)
from copper_sieve.core.export.assay import assay_folder
from copper_sieve.core.export.atomic_swap import StagedFolder, clear_left_behind
from copper_sieve.core.export.deliver import deliver
from copper_sieve.core.export.export_plan import ExportPlan
from copper_sieve.core.export.planning import plan_export
from copper_sieve.core.export.reuse import replaced_files
from copper_sieve.core.export.stager import Delivered, DeliveryOptions
from copper_sieve.core.graph.evaluate import evaluate
from copper_sieve.core.graph.plan import plan
from copper_sieve.core.image.encoding import quantize
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Encoding, Picture
from copper_sieve.core.models.texture_set import Constant, Imported
from copper_sieve.core.targets.catalog import get_target
from copper_sieve.core.targets.target_preset import TargetPreset
from tests.core.conftest import SHA, Wall


def packed(wall: Wall, target: str = "orm-y-down", **options: object) -> ExportPlan:
    return plan_export(get_target(target), wall.texture_set, wall.sizes, **options)  # type: ignore[arg-type]


def write(wall: Wall, folder: Path, target: str = "orm-y-down", **options: object) -> Delivered:
    export = packed(wall, target)
    more = {"sizes": wall.sizes, "load_source": wall.load, "token": "t", **options}
    return deliver(export, folder, **more)  # type: ignore[arg-type]


def read(path: Path) -> np.ndarray:
    with Image.open(path) as image:  # a reader that the delivery does not use for reopening
        return np.asarray(image)


def test_packed_channels_equal_the_separate_maps(wall: Wall, tmp_path: Path) -> None:
    delivered = write(wall, tmp_path / "out")
    maps = evaluate(plan(wall.texture_set, wall.sizes), wall.load)
    orm = read(tmp_path / "out" / "T_wall_ORM.tga")
    for index, kind in enumerate(("ambient_occlusion", "roughness", "metallic")):
        due = quantize(maps[MapKind(kind)].pixels[:, :, 0], 8)
        np.testing.assert_array_equal(orm[:, :, index], due)
    np.testing.assert_array_equal(
        read(tmp_path / "out" / "T_wall_BC.tga"), wall.pictures[SHA].codes
    )
    checks = [c for file in delivered.assay.files for c in file.channels]
    assert len(checks) == 9
    assert {(c.ok, c.largest, c.mean) for c in checks} == {(True, 0, 0.0)}


def test_the_two_targets_differ_in_green_by_the_exact_flip(wall: Wall, tmp_path: Path) -> None:
    write(wall, tmp_path / "down")
    write(wall, tmp_path / "up", "gltf-metal-rough")
    down = read(tmp_path / "down" / "T_wall_N.tga").astype(int)
    up = read(tmp_path / "up" / "wall_normal.png").astype(int)
    np.testing.assert_array_equal(down[:, :, 1], 255 - up[:, :, 1])
    np.testing.assert_array_equal(down[:, :, ::2], up[:, :, ::2])
    assert np.ptp(up[:, :, 1]) > 5  # there is something to flip


def test_a_delivery_is_the_same_bytes_each_time(wall: Wall, tmp_path: Path) -> None:
    for name in ("a", "b"):
        write(wall, tmp_path / name, "gltf-metal-rough")
    for path in (tmp_path / "a").iterdir():
        assert path.read_bytes() == (tmp_path / "b" / path.name).read_bytes()


def test_a_fresh_delivery_passes_its_assay(wall: Wall, tmp_path: Path) -> None:
    for target in ("orm-y-down", "gltf-metal-rough"):
        write(wall, tmp_path / target, target)
        result = assay_folder(tmp_path / target)
        assert result.ok
        assert not result.problems()
        assert not result.unknown


def _change_pixel(path: Path) -> None:
    codes = read(path).copy()
    codes[3, 5, 1] ^= 4
    Image.fromarray(codes).save(path)


def _shrink(path: Path) -> None:
    Image.fromarray(read(path)[:-1]).save(path)


def _cut(path: Path) -> None:
    path.write_bytes(path.read_bytes()[:500])


def _repack(path: Path) -> None:
    Image.fromarray(read(path)).save(path)


@pytest.mark.parametrize(
    ("name", "damage", "says"),
    [
        ("T_wall_ORM.tga", _change_pixel, r"channel G \(roughness\) differs"),
        ("T_wall_N.tga", _shrink, "its size is 64 x 47, not 64 x 48"),
        ("T_wall_BC.tga", _cut, "truncated or corrupt"),
        ("T_wall_BC.tga", Path.unlink, "the file is missing"),
        ("T_wall_BC.tga", _repack, "its bytes differ .* every channel has the expected values"),
    ],
)
def test_the_assay_names_file_and_fault(
    wall: Wall, tmp_path: Path, name: str, damage: object, says: str
) -> None:
    write(wall, tmp_path)
    damage(tmp_path / name)  # type: ignore[operator]
    result = assay_folder(tmp_path)
    assert not result.ok
    assert [file.name for file in result.files if not file.ok] == [name]
    assert re.search(says, result.problems()[0])


def test_a_changed_picture_inside_the_glb_is_found(wall: Wall, tmp_path: Path) -> None:
    write(wall, tmp_path, "gltf-metal-rough")
    path = tmp_path / "wall.glb"
    data = bytearray(path.read_bytes())
    data[-200] ^= 1
    path.write_bytes(data)
    assert "differs from the file" in assay_folder(tmp_path).problems()[0]
    path.write_bytes(data[:-10])
    assert "valid .glb" in assay_folder(tmp_path).problems()[0]


def test_unknown_files_are_told_but_no_fault(wall: Wall, tmp_path: Path) -> None:
    write(wall, tmp_path)
    (tmp_path / "notes.txt").write_text("mine")
    result = assay_folder(tmp_path)
    assert result.ok
    assert result.unknown == ("notes.txt",)


def test_folders_without_a_manifest_are_refused(tmp_path: Path) -> None:
    with pytest.raises(ManifestError, match=r"contains no manifest\.json"):
        assay_folder(tmp_path)
    in_files = (3, [3], [{"channels": 3}], [{"channels": [3]}], [{"channels": [{}]}],
                [{"mips_sha256": 3}])  # fmt: skip
    for damaged in (
        *('{"version": 1, "files": ' + json.dumps(one) + "}" for one in in_files),
        *('{"version": 1}', '{"version": 3}', "[]", "{"),
    ):
        (tmp_path / "manifest.json").write_text(damaged)
        with pytest.raises(ManifestError, match="a valid manifest of version 1 or 2"):
            assay_folder(tmp_path)


def test_an_earlier_delivery_is_replaced_and_other_files_stay(wall: Wall, tmp_path: Path) -> None:
    folder = tmp_path / "out"
    write(wall, folder)
    (folder / "readme.txt").write_text("mine")
    (folder / "sub").mkdir()
    (folder / "sub" / "a.txt").write_text("mine too")
    assert set(replaced_files(folder, packed(wall)).values()) == {"replaces"}
    wall.texture_set = wall.texture_set.with_map(MapKind.METALLIC, Constant(value=(1.0,)))
    write(wall, folder)
    assert (folder / "readme.txt").read_text() == "mine"
    assert (folder / "sub" / "a.txt").read_text() == "mine too"
    assert (read(folder / "T_wall_ORM.tga")[:, :, 2] == 255).all()
    assert [path.name for path in tmp_path.iterdir()] == ["out"]  # nothing left beside it


def test_files_of_others_are_never_overwritten(wall: Wall, tmp_path: Path) -> None:
    (tmp_path / "T_wall_N.tga").write_bytes(b"precious")
    with pytest.raises(ForeignFileError, match=r"T_wall_N\.tga already exists"):
        write(wall, tmp_path)
    assert (tmp_path / "T_wall_N.tga").read_bytes() == b"precious"
    assert len(list(tmp_path.iterdir())) == 1


@pytest.mark.parametrize("stop_at", [1, 4, 7, 8])
def test_a_cancelled_delivery_leaves_the_previous_one_whole(
    wall: Wall, tmp_path: Path, stop_at: int
) -> None:
    folder = tmp_path / "out"
    write(wall, folder)
    before = {path.name: path.read_bytes() for path in folder.iterdir()}
    wall.texture_set = wall.texture_set.with_map(MapKind.METALLIC, Constant(value=(1.0,)))
    asked = 0

    def cancelled() -> bool:
        nonlocal asked
        asked += 1
        return asked >= stop_at

    with pytest.raises(CancelledError):
        write(wall, folder, is_cancelled=cancelled)
    assert {path.name: path.read_bytes() for path in folder.iterdir()} == before
    assert [path.name for path in tmp_path.iterdir()] == ["out"]


def test_a_failing_write_leaves_nothing(
    wall: Wall, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    def full(*_: object) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr("copper_sieve.core.export.stager.write_picture", full)
    with pytest.raises(DeliveryError, match="No space left on device"):
        write(wall, tmp_path / "out")
    assert list(tmp_path.iterdir()) == []


def test_a_file_that_reads_back_wrong_is_never_delivered(
    wall: Wall, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    from copper_sieve.core.export import stager as module

    honest = module.write_picture

    def off_by_one(path: Path, picture, *how: object) -> None:  # type: ignore[no-untyped-def]
        picture.codes[0, 0, 0] ^= 1
        honest(path, picture, *how)
        picture.codes[0, 0, 0] ^= 1

    monkeypatch.setattr(module, "write_picture", off_by_one)
    with pytest.raises(DeliveryError, match=r"T_wall_BC\.tga: channel R .* by up to 1 codes"):
        write(wall, tmp_path / "out")
    assert list(tmp_path.iterdir()) == []


def test_what_a_dead_process_left_is_cleared(wall: Wall, tmp_path: Path) -> None:
    folder = tmp_path / "out"
    place = StagedFolder(folder, "7")
    place.working.mkdir(parents=True)
    assert clear_left_behind([place]) == []
    assert list(tmp_path.iterdir()) == []
    write(wall, folder)  # and if it died between the two renames, the old folder comes back
    folder.rename(place.aside)
    assert clear_left_behind([place]) == []
    assert assay_folder(folder).ok
    assert list(tmp_path.iterdir()) == [folder]


def test_opacity_goes_into_alpha_and_is_left_out_without(wall: Wall, tmp_path: Path) -> None:
    assert list(packed(wall, "gltf-metal-rough").files[0].slots) == ["R", "G", "B"]
    wall.texture_set = wall.texture_set.with_map(
        MapKind.OPACITY, Imported(source=SHA, channels="G")
    )
    write(wall, tmp_path, "gltf-metal-rough")
    color = read(tmp_path / "wall_base_color.png")
    np.testing.assert_array_equal(color[:, :, 3], wall.pictures[SHA].codes[:, :, 1])
    np.testing.assert_array_equal(color[:, :, :3], wall.pictures[SHA].codes)


def test_rules_for_missing_maps(wall: Wall) -> None:
    bare = wall.texture_set.model_copy(update={"maps": {MapKind.BASE_COLOR: Imported(source=SHA)}})
    found = plan_export(get_target("orm-y-down"), bare, wall.sizes)
    assert {MapKind.ROUGHNESS, MapKind.METALLIC} <= set(found.texture_set.maps)
    texts = [remark.text for remark in found.remarks]
    assert "Roughness is derived with default settings" in texts
    assert "no metallic map: filled with its neutral value" in texts
    data = json.loads(get_target("orm-y-down").model_dump_json())
    data["files"][1]["channels"]["B"]["if_missing"] = "stop"
    with pytest.raises(MissingMapError, match="no metallic map, which the target requires"):
        plan_export(TargetPreset.model_validate(data), bare, wall.sizes)


def test_changes_constants_and_16_bits(wall: Wall, tmp_path: Path) -> None:
    data = json.loads(get_target("gltf-metal-rough").model_dump_json())
    rough = {"map": "roughness", "component": "v", "changes": ["invert"]}
    data["files"] = [
        {
            "name": "{set}_{map}_{size}_{depth}",
            "format": "png",
            "bits": 16,
            "encoding": "linear",
            "channels": {"R": rough, "G": {"constant": 0.5}, "B": {**rough, "changes": []}},
        }
    ]
    data["documents"] = []
    export = plan_export(TargetPreset.model_validate(data), wall.texture_set, wall.sizes)
    deliver(export, tmp_path, sizes=wall.sizes, load_source=wall.load, token="t")
    codes = np.asarray(
        __import__("cv2").imread(str(tmp_path / "wall_roughness_64_16.png"), -1), dtype=int
    )[:, :, ::-1]
    np.testing.assert_array_equal(codes[:, :, 0], 65535 - codes[:, :, 2])
    assert (codes[:, :, 1] == 32768).all()


def test_the_manifest_says_where_every_channel_comes_from(wall: Wall, tmp_path: Path) -> None:
    write(wall, tmp_path)
    manifest = json.loads((tmp_path / "manifest.json").read_text())
    keys = plan(wall.texture_set, wall.sizes).outputs
    orm = next(file for file in manifest["files"] if file["name"] == "T_wall_ORM.tga")
    assert [c["content_key"] for c in orm["channels"]] == [
        keys[MapKind.AMBIENT_OCCLUSION],
        keys[MapKind.ROUGHNESS],
        keys[MapKind.METALLIC],
    ]
    assert manifest["maps"]["height"]["definition"]["operation"] == "height_from_color"
    assert orm["encoding"] == "linear"
    assert "/" not in json.dumps(manifest).replace("copper-sieve/manifest", "")  # no paths


@pytest.mark.parametrize(
    "how",
    [
        {"format": "jpeg"}, {"format": "jpeg", "quality": 20},
        {"format": "webp", "compression": "lossy", "quality": 60},
        {"format": "dds", "compression": "bc1"}, {"format": "ktx2", "compression": "bc7"},
        {"format": "exr", "bits": 16, "compression": "dwaa", "encoding": "linear"},
        {"format": "hdr", "bits": 32, "encoding": "linear"},
    ],
    ids=lambda how: "-".join(str(word) for word in how.values()),
)  # fmt: skip
def test_lossy_files_of_pure_noise_are_delivered_and_wrong_ones_are_not(
    wall: Wall, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, how: dict[str, Any]
) -> None:
    noise = np.random.default_rng(0).integers(0, 256, (256, 256, 3)).astype(np.uint8)
    noise[:, :128] //= 4  # and dark on one side, as a picture has large shapes
    picture = Picture(noise, ("R", "G", "B"), Encoding.SRGB)
    content = get_target("orm-y-down").model_dump(mode="json")
    content |= {"id": "lossy", "files": [{**content["files"][0], **how}]}
    export = plan_export(
        TargetPreset.model_validate(content), wall.texture_set, {SHA: picture.size}
    )
    given: dict[str, Any] = {"sizes": {SHA: picture.size}, "token": "t"}
    given["load_source"] = lambda _: picture
    done = deliver(export, tmp_path / "out", **given)
    assert done.assay.ok
    assert assay_folder(tmp_path / "out").ok
    from copper_sieve.core.export import stager as module

    honest = module.write_picture

    def mirrored(path: Path, one: Picture, *rest: Any) -> None:
        honest(path, Picture(one.codes[:, ::-1].copy(), one.channels, one.encoding), *rest)

    monkeypatch.setattr(module, "write_picture", mirrored)
    with pytest.raises(DeliveryError, match="differs by up to"):
        deliver(export, tmp_path / "other", **given)
    assert not (tmp_path / "other").exists()


def test_a_file_where_the_folder_should_be_is_left_alone(wall: Wall, tmp_path: Path) -> None:
    (tmp_path / "out").write_text("mine", "utf-8")
    with pytest.raises(ForeignFileError, match=r"out is a file\. Move it"):
        write(wall, tmp_path / "out")
    assert [one.name for one in tmp_path.iterdir()] == ["out"]
    assert (tmp_path / "out").read_text("utf-8") == "mine"


def test_progress_only_rises(wall: Wall, tmp_path: Path) -> None:
    shares: list[float] = []
    write(wall, tmp_path / "out", on_progress=lambda share, _: shares.append(share))
    assert shares == sorted(shares)
    assert (shares[0] < 0.2, shares[-1]) == (True, 1.0)


def test_a_document_of_other_bytes_is_found(wall: Wall, tmp_path: Path) -> None:
    write(wall, tmp_path / "out", "openpbr-separate")
    (path,) = (tmp_path / "out").glob("*.mtlx")
    path.write_bytes(path.read_bytes() + b"\n")  # it still says the same
    assay = assay_folder(tmp_path / "out")
    assert assay.problems() == [f"{path.name}: its bytes differ from the manifest"]


def test_a_folder_keeps_its_rights(wall: Wall, tmp_path: Path) -> None:
    write(wall, tmp_path / "out")
    (tmp_path / "out").chmod(0o750)
    write(wall, tmp_path / "out", options=DeliveryOptions(rewrite=True))
    assert (tmp_path / "out").stat().st_mode & 0o777 == 0o750
