"""What a channel holds: changes by hand-worked values, segments, exact codes; every preset."""

from __future__ import annotations

import time
from functools import cache
from pathlib import Path
from typing import Any

import cv2
import numpy as np
import OpenEXR
import OpenImageIO as oiio  # noqa: N813
import pytest
from PIL import Image
from pydantic import TypeAdapter, ValidationError

from copper_sieve.core.codecs.checksums import file_sha256
from copper_sieve.core.export.assay import assay_folder
from copper_sieve.core.export.channels import Conventions, pack_codes
from copper_sieve.core.export.deliver import deliver
from copper_sieve.core.export.export_plan import ExportPlan, PackedFile
from copper_sieve.core.export.planning import plan_export
from copper_sieve.core.export.stager import Delivered
from copper_sieve.core.image.map_kind import MapKind, NormalY
from copper_sieve.core.image.raster import Raster
from copper_sieve.core.models.changes import Change
from copper_sieve.core.models.slot import Slot
from copper_sieve.core.models.texture_set import Constant, Imported, SetDefinition
from copper_sieve.core.targets.catalog import builtin_targets, get_target
from copper_sieve.core.targets.target_preset import FileSpec, TargetPreset
from copper_sieve.demo.lantern_row import SCENARIOS
from copper_sieve.store.cache import MemoryCache
from tests.core.rooms import room_of

_CHANGES: TypeAdapter[list[Change]] = TypeAdapter(list[Change])
ALL_CODES = np.arange(65536, dtype=np.float32).reshape(256, 256, 1) / np.float32(65535)


def changed(values: list[float], *changes: Any) -> list[float]:
    out = np.array([values], dtype=np.float32)
    for change in _CHANGES.validate_python(list(changes)):
        out = change.apply(out)
    return [round(float(v), 5) for v in out[0]]


def packed(
    slot: dict[str, Any], bits: int = 16, encoding: str = "linear", letter: str = "R", **maps: Any
) -> np.ndarray:
    """The codes that a slot makes of maps given by their kinds, (H, W)."""
    rasters = {}
    for name, pixels in maps.items():
        kind = MapKind(name)
        rasters[kind] = Raster(np.asarray(pixels, dtype=np.float32), kind.facts.meaning)
    shape = next(iter(rasters.values())).pixels.shape
    spec = FileSpec.model_validate(
        {"name": "x", "format": "png", "bits": bits, "encoding": encoding, "channels": {"R": slot}}
    )
    slots = {letter: Slot.model_validate(slot)}
    file = PackedFile("x.png", spec, slots, (shape[1], shape[0]))
    return pack_codes(file, rasters, Conventions(NormalY.DOWN)).codes[:, :, 0]


def data(*values: float) -> np.ndarray:
    return np.array(values, dtype=np.float32).reshape(1, -1, 1)


def test_each_change_by_hand() -> None:
    values = [0.0, 0.25, 0.5, 1.0]
    assert changed(values, "invert") == [1.0, 0.75, 0.5, 0.0]
    assert changed(values, {"do": "range", "to": [0.2, 0.6]}) == [0.2, 0.3, 0.4, 0.6]
    assert changed(values, {"do": "range", "of": [0.25, 0.75]}) == [0.0, 0.0, 0.5, 1.0]
    assert changed(values, {"do": "range", "to": [1, 0]}) == [1.0, 0.75, 0.5, 0.0]
    assert changed(values, {"do": "power", "exponent": 2}) == [0.0, 0.0625, 0.25, 1.0]
    assert changed(values, {"do": "threshold", "at": 0.5}) == [0.0, 0.0, 1.0, 1.0]
    assert changed(values, {"do": "clamp", "low": 0.3, "high": 0.9}) == [0.3, 0.3, 0.5, 0.9]
    assert changed([0.25], {"do": "power", "exponent": 0.5}, "invert") == [0.5]


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ("turn", "turn"),
        ({"do": "range", "of": [0.5, 0.5]}, "below its end"),
        ({"do": "clamp", "low": 0.6, "high": 0.5}, "above the upper"),
        ({"do": "power", "exponent": 0}, "greater than 0"),
        ({"do": "threshold", "at": 2}, "less than or equal to 1"),
    ],
)
def test_changes_that_make_no_sense_are_refused(change: Any, said: str) -> None:
    with pytest.raises(ValidationError, match=said):
        _CHANGES.validate_python([change])


@pytest.mark.parametrize("bits", [8, 16])
def test_inversion_is_exact_on_codes_and_its_own_inverse(bits: int) -> None:
    top = (1 << bits) - 1
    plain = packed({"map": "roughness"}, bits, roughness=ALL_CODES)
    once = packed({"map": "roughness", "changes": ["invert"]}, bits, roughness=ALL_CODES)
    twice = packed({"map": "roughness", "changes": ["invert"] * 2}, bits, roughness=ALL_CODES)
    np.testing.assert_array_equal(once.astype(int), top - plain.astype(int))
    np.testing.assert_array_equal(twice, plain)


def test_green_follows_the_file_s_direction_also_when_it_is_changed() -> None:
    vectors = np.zeros((1, 2, 3), np.float32)
    vectors[0, 0], vectors[0, 1] = (0, 0.6, 0.8), (0, -1, 0)
    slot = {"map": "normal", "component": "y"}
    np.testing.assert_array_equal(packed(slot, 8, normal=vectors), [[51, 255]])
    inverted = packed({**slot, "changes": ["invert"]}, 8, normal=vectors)
    np.testing.assert_array_equal(inverted, [[204, 0]])
    upper = packed({**slot, "changes": [{"do": "clamp", "low": 0.5}]}, 8, normal=vectors)
    np.testing.assert_array_equal(upper, [[128, 255]])


def test_luminance_is_taken_in_linear_light() -> None:
    color = np.array([[[1.0, 0.0, 0.0], [0.2, 0.2, 0.2]]], np.float32)
    slot = {"map": "emissive", "component": "l"}
    np.testing.assert_array_equal(packed(slot, 8, emissive=color), [[54, 51]])
    # 0.2126 as sRGB is 0.4984.
    np.testing.assert_array_equal(packed(slot, 8, "srgb", emissive=color), [[127, 124]])
    np.testing.assert_array_equal(packed(slot, 8, "srgb", "A", emissive=color), [[54, 51]])


METAL_OR_F0 = {
    "segments": [
        {"map": "metallic", "codes": [230, 255], "above": 0.5},
        {"map": "f0", "codes": [0, 229]},
    ]
}


def test_segments_share_a_channel_by_ranges_of_codes() -> None:
    metallic, f0 = data(0, 0.5, 0.6, 1, 1), data(0, 1, 0.5, 0.5, 0)
    found = packed(METAL_OR_F0, 8, metallic=metallic, f0=f0)
    np.testing.assert_array_equal(found, [[0, 229, 245, 255, 255]])
    wide = packed(METAL_OR_F0, 16, metallic=metallic, f0=f0)
    np.testing.assert_array_equal(wide, np.array([[0, 229, 245, 255, 255]]) * 257)


@pytest.mark.parametrize(
    "segments",
    [
        [{"map": "f0", "codes": [0, 229], "above": 0.5}],
        [{"map": "f0", "codes": [0, 229]}, {"map": "metallic", "codes": [230, 255]}],
        [{"map": "f0", "codes": [0, 300]}],
        [{"map": "f0", "component": "r", "codes": [0, 229]}],
    ],
)
def test_segments_that_leave_gaps_are_refused(segments: Any) -> None:
    with pytest.raises(ValidationError):
        Slot.model_validate({"segments": segments})


def test_a_segment_without_its_map_holds_nowhere() -> None:
    sha = "ab" * 32
    plain = SetDefinition(name="a", maps={MapKind.BASE_COLOR: Imported(source=sha)})
    target = get_target("voxel-pack-two-file")
    export = plan_export(target, plain, {sha: (16, 16)})
    slot = export.files[2].slots["G"]
    assert [segment.map for segment in slot.segments] == [MapKind.F0]
    whole = export.texture_set.maps
    assert whole[MapKind.F0] == Constant(value=MapKind.F0.facts.neutral)
    assert [s.map for s in export.files[2].slots["B"].segments] == [MapKind.POROSITY]
    assert any("f0" in remark.text for remark in export.remarks)


def _seen(path: Path) -> np.ndarray:
    """(H, W, C) as readers see it that the delivery does not use."""
    if path.suffix in (".tga", ".webp"):
        codes = np.asarray(Image.open(path))
    elif path.suffix == ".exr":
        with OpenEXR.File(str(path)) as file:
            (codes,) = (one.pixels for one in file.channels().values())
    else:
        read = cv2.imread(str(path), cv2.IMREAD_UNCHANGED)
        assert read is not None, path.name
        codes = read if read.ndim == 2 else read[:, :, [2, 1, 0, 3][: read.shape[2]]]
    return codes[:, :, None] if codes.ndim == 2 else codes


@cache
def _kept(room: str) -> MemoryCache:
    """The maps of a room, computed for the first target that wants them."""
    return MemoryCache(1 << 26)


def deliver_room(
    room: str, preset: TargetPreset, folder: Path, kept: MemoryCache | None = None
) -> tuple[ExportPlan, Delivered]:
    """Deliver a demo set at 64 texels."""
    set_of = room_of(room)
    sizes = set_of.sizes
    export = plan_export(preset, set_of.texture_set, sizes, longer_side=64)
    done = deliver(
        export, folder, sizes=sizes, load_source=set_of.pictures.__getitem__, token="t",
        cache=kept or _kept(room),
    )  # fmt: skip
    assert done.assay.ok
    assert assay_folder(folder).ok
    return export, done


def delivered(room: str, target: str, folder: Path) -> dict[str, np.ndarray]:
    """What a stranger's reader sees of a demo set for a built-in target, by file name."""
    export, _ = deliver_room(room, get_target(target), folder)
    return {file.name: _seen(folder / file.name) for file in export.files}


@pytest.mark.parametrize("target", sorted(builtin_targets()))
@pytest.mark.parametrize("room", sorted(SCENARIOS))
def test_every_preset_is_written_reopened_and_assayed(
    room: str, target: str, tmp_path: Path
) -> None:
    files = delivered(room, target, tmp_path / "out")
    assert files
    assert {codes.shape[:2] for codes in files.values()} == {(64, 64)}


def test_what_is_delivered_again_is_the_same_to_the_byte(tmp_path: Path) -> None:
    """So that versions of a folder differ only where a texture does; some formats keep the time."""
    found: list[dict[str, str]] = []
    for turn in ("first", "again"):
        kept = MemoryCache(1 << 26)
        for target in builtin_targets():
            deliver_room("lace_blind", get_target(target), tmp_path / turn / target, kept)
        found.append(
            {
                str(path.relative_to(tmp_path / turn)): file_sha256(path)
                for path in (tmp_path / turn).rglob("*")
                if path.is_file()
            }
        )
        time.sleep(1.1)
    assert found[0] == found[1]


def test_smoothness_lies_in_the_alpha_as_the_inverse_of_roughness(tmp_path: Path) -> None:
    separate = delivered("hammered_copper", "separate-png", tmp_path / "a")
    rough = separate["hammered_copper_roughness.png"][:, :, 0].astype(int)
    metal = separate["hammered_copper_metallic.png"][:, :, 0]
    files = delivered("hammered_copper", "metal-smooth-alpha-y-up", tmp_path / "b")
    packed_file = files["hammered_copper_metal_smooth.png"]
    np.testing.assert_array_equal(packed_file[:, :, 3], 255 - rough)
    for channel in range(3):
        np.testing.assert_array_equal(packed_file[:, :, channel], metal)
    again = np.asarray(Image.open(tmp_path / "b" / "hammered_copper_metal_smooth.png"))
    np.testing.assert_array_equal(again, packed_file)
    mask = delivered("hammered_copper", "mask-map-y-up", tmp_path / "c")["hammered_copper_mask.png"]
    np.testing.assert_array_equal(mask[:, :, 3], 255 - rough)
    np.testing.assert_array_equal(mask[:, :, 0], metal)


def test_the_specular_target_moves_the_metal_s_color(tmp_path: Path) -> None:
    files = delivered("hammered_copper", "spec-gloss", tmp_path / "a")
    plain = delivered("hammered_copper", "separate-png", tmp_path / "b")
    base = plain["hammered_copper_base_color.png"].astype(int)
    specular = files["hammered_copper_specular.tif"].astype(int)
    assert np.abs(np.round(specular / 257) - base).max() <= 1  # all metal
    assert files["hammered_copper_diffuse.tif"].max() == 0
    gloss = files["hammered_copper_glossiness.tif"][:, :, 0].astype(int)
    rough = plain["hammered_copper_roughness.png"][:, :, 0].astype(int)
    assert np.abs(np.round(gloss / 257) - (255 - rough)).max() <= 1


def test_the_block_world_encodings(tmp_path: Path) -> None:
    two = delivered("hammered_copper", "voxel-pack-two-file", tmp_path / "a")
    assert two["hammered_copper_n.png"][:, :, 3].min() >= 1  # a height of 0 means none
    assert (two["hammered_copper_s.png"][:, :, 1] == 255).all()  # all metal
    lace = delivered("lace_blind", "voxel-pack-two-file", tmp_path / "b")
    assert (lace["lace_blind_s.png"][:, :, 1] == 10).all()  # F0 0.04
    lamp = delivered("paper_lantern", "voxel-pack-classic", tmp_path / "c")
    assert lamp["paper_lantern_s.png"][:, :, 2].max() > 20


def mask_as(tmp_path: Path, **facts: Any) -> tuple[Path, Delivered]:
    """The mask file of a copy of a target with other facts, delivered; and its delivery."""
    preset = get_target("mask-map-y-up")
    files = [f.model_copy(update=facts) if f.suffix == "mask" else f for f in preset.files]
    other = preset.model_copy(update={"files": tuple(files)})
    _, done = deliver_room("hammered_copper", other, tmp_path / "o")
    return next((tmp_path / "o").glob("*_mask.*")), done


def test_lossless_webp_keeps_color_under_alpha(tmp_path: Path) -> None:
    path, done = mask_as(tmp_path, format="webp")
    exact = delivered("hammered_copper", "mask-map-y-up", tmp_path / "png")
    np.testing.assert_array_equal(_seen(path), exact["hammered_copper_mask.png"])
    entry = next(one for one in done.manifest.files if one.name == path.name)
    assert not entry.lossy


def test_half_floats_hold_values_to_their_precision(tmp_path: Path) -> None:
    path, done = mask_as(tmp_path, format="exr", bits=16)
    exact = delivered("hammered_copper", "mask-map-y-up", tmp_path / "png")
    config = oiio.ImageSpec()
    config.attribute("oiio:UnassociatedAlpha", 1)
    opened = oiio.ImageInput.open(str(path), config)
    assert str(opened.spec().format) == "half"
    held = np.asarray(opened.read_image(format="float"))
    due = exact["hammered_copper_mask.png"].astype(np.float32) / 255
    assert np.abs(held - due).max() < 0.5 / 255 + 1e-3
    entry = next(one for one in done.manifest.files if one.name == path.name)
    assert entry.channels[0].maximum == 1.0
    assert (entry.bits, entry.lossy) == (16, False)


def test_a_lossy_file_says_what_it_lost(tmp_path: Path) -> None:
    files = delivered("hammered_copper", "web-light", tmp_path / "a")
    exact = delivered("hammered_copper", "separate-png", tmp_path / "b")
    lossy = files["hammered_copper_base_color.jpg"].astype(int)
    difference = np.abs(lossy - exact["hammered_copper_base_color.png"])
    assert 0 < difference.max() <= 40
    assert difference.mean() <= 3
    deep = exact["hammered_copper_normal.png"]
    assert np.abs(files["hammered_copper_normal.webp"] - np.round(deep / 257)).max() <= 1


@pytest.mark.parametrize(
    ("facts", "said"),
    [
        ({"format": "jpeg", "bits": 16}, "jpeg has 8 bits"),
        ({"format": "tga", "bits": 16}, "tga has 8 bits"),
        ({"format": "webp", "bits": 8}, "webp supports 3 or 4 channels"),
        ({"format": "exr", "bits": 16, "encoding": "srgb"}, "exr requires the encoding data"),
    ],
)
def test_what_a_format_cannot_hold_is_refused(facts: dict[str, Any], said: str) -> None:
    slot = {"R": {"map": "roughness"}}
    with pytest.raises(ValidationError, match=said):
        FileSpec.model_validate({"name": "x", "encoding": "linear", "channels": slot, **facts})
