"""What a target may say beside its channels, seen in the files: sizes, names, padding, units."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Callable
from pathlib import Path
from typing import Any

import cv2
import numpy as np
import OpenEXR
import pytest
import tifffile
from pydantic import ValidationError

from copper_sieve.core.codecs import reopen
from copper_sieve.core.errors import MissingMapError, NamePatternError
from copper_sieve.core.export.assay import assay_folder
from copper_sieve.core.export.deliver import deliver
from copper_sieve.core.export.export_plan import ExportPlan
from copper_sieve.core.export.planning import plan_export
from copper_sieve.core.export.stager import Delivered
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Encoding, Picture
from copper_sieve.core.models.naming import styled
from copper_sieve.core.models.texture_set import Constant, Imported, SetDefinition, SurfaceSpec
from copper_sieve.core.targets.memory import memory_of
from copper_sieve.core.targets.target_preset import FileSpec, TargetPreset

SIDE = 32
Given = dict[str, np.ndarray]


def picture_of(codes: np.ndarray, encoding: Encoding = Encoding.LINEAR) -> Picture:
    wide = codes if codes.ndim == 3 else codes[:, :, None]
    return Picture(wide, ("Y",) if wide.shape[2] == 1 else tuple("RGB"), encoding)


class Room:
    """A set of given codes, and a target of one file or more to deliver it to."""

    def __init__(self, folder: Path, given: Given, **surface: Any) -> None:
        self.folder = folder
        kinds = {MapKind(name): codes for name, codes in given.items()}
        shas = {kind: f"{n:064x}" for n, kind in enumerate(kinds)}
        self.pictures = {shas[kind]: picture_of(codes) for kind, codes in kinds.items()}
        self.texture_set = SetDefinition(
            name="one",
            surface=SurfaceSpec(**surface),
            maps={
                kind: Imported(
                    source=shas[kind],
                    channels="RGB" if codes.ndim == 3 else "R",
                    encoding=Encoding.SRGB if codes.ndim == 3 else Encoding.LINEAR,
                )
                for kind, codes in kinds.items()
            },
        )

    def pack(self, *files: dict[str, Any], **target: Any) -> ExportPlan:
        preset = TargetPreset.model_validate(
            {"id": "t", "title": "T", "normal_y": "up", "files": files, **target}
        )
        sizes = {sha: one.size for sha, one in self.pictures.items()}
        return plan_export(preset, self.texture_set, sizes, delivery=7)

    def deliver(self, *files: dict[str, Any], **target: Any) -> Delivered:
        sizes = {sha: one.size for sha, one in self.pictures.items()}
        done = deliver(
            self.pack(*files, **target), self.folder, sizes=sizes,
            load_source=self.pictures.__getitem__, token="t",
        )  # fmt: skip
        assert done.assay.ok
        assert assay_folder(self.folder).ok
        return done

    def read(self, name: str) -> np.ndarray:
        codes = cv2.imread(str(self.folder / name), cv2.IMREAD_UNCHANGED)
        assert codes is not None
        return codes[:, :, ::-1] if codes.ndim == 3 else codes


def grey(kind: str, **more: Any) -> dict[str, Any]:
    channels = {"R": {"map": kind, **more.pop("slot", {})}}
    return {"name": "{set}_{suffix}", "suffix": kind, "format": "png", "encoding": "linear",
            "channels": channels, **more}  # fmt: skip


def color(kind: str = "base_color", **more: Any) -> dict[str, Any]:
    slot = more.pop("slot", {})
    channels = {c.upper(): {"map": kind, "component": c, **slot} for c in "rgb"}
    return {"name": "{set}_{suffix}", "suffix": kind, "format": "png", "encoding": "srgb",
            "channels": channels, **more}  # fmt: skip


def codes(*shape: int, seed: int = 0, bits: int = 8) -> np.ndarray:
    kind = np.uint8 if bits == 8 else np.uint16
    return np.random.default_rng(seed).integers(0, 1 << bits, shape or (SIDE, SIDE)).astype(kind)


def test_a_file_has_a_size_of_its_own(tmp_path: Path) -> None:
    room = Room(tmp_path / "out", {"base_color": codes(32, 32, 3), "roughness": codes()})
    room.deliver(color(), grey("roughness", size={"mode": "half"}))
    assert room.read("one_base_color.png").shape == (32, 32, 3)
    assert room.read("one_roughness.png").shape == (16, 16)
    small = room.pack(color(size={"mode": "at_most", "longer_side": 8}), size={"mode": "half"})
    assert small.files[0].size == (8, 8)
    assert room.pack(color(size={"mode": "quarter"}), size={"mode": "half"}).files[0].size == (4, 4)


def test_pixel_art_is_reduced_without_mixing(tmp_path: Path) -> None:
    art = np.repeat(np.repeat(codes(16, 16, 3), 2, axis=0), 2, axis=1)
    room = Room(tmp_path / "out", {"base_color": art})
    room.deliver(color(), size={"mode": "half"}, resampling="nearest")
    np.testing.assert_array_equal(room.read("one_base_color.png"), art[::2, ::2])


@pytest.mark.parametrize(("padding", "grown"), [("none", 0), ("texels", 3), ("border", 99)])
def test_colors_and_data_are_padded_beyond_the_opacity(
    tmp_path: Path, padding: str, grown: int
) -> None:
    opacity = np.zeros((SIDE, SIDE), np.uint8)
    opacity[10:20, 12:18] = 255
    given = {"base_color": codes(32, 32, 3), "roughness": codes(), "opacity": opacity}
    given["base_color"][opacity == 0] = 0  # hole-punched: black under the holes
    room = Room(tmp_path / "out", given)
    files = [color(), grey("roughness"), grey("opacity")]
    room.deliver(*files, padding={"mode": padding, "texels": 3})
    np.testing.assert_array_equal(room.read("one_opacity.png"), opacity)
    found = room.read("one_base_color.png")
    np.testing.assert_array_equal(found[opacity > 0], given["base_color"][opacity > 0])
    away = cv2.distanceTransform((opacity == 0).astype(np.uint8), cv2.DIST_L2, 5)
    reached = (away > 0) & (away <= grown)
    for row, column in np.argwhere(reached & (away < 2.5)):
        near = given["base_color"][10:20, 12:18].reshape(-1, 3)
        assert (near == found[row, column]).all(axis=1).any()
    assert (found[(away > grown + 0.5)] == 0).all()
    untouched = room.read("one_roughness.png")[away > grown + 0.5]
    np.testing.assert_array_equal(untouched, given["roughness"][away > grown + 0.5])


def test_occlusion_is_multiplied_into_the_color_in_linear_light(tmp_path: Path) -> None:
    base, shade = codes(32, 32, 3), codes(seed=2)
    room = Room(tmp_path / "out", {"base_color": base, "ambient_occlusion": shade})
    times = {"map": "ambient_occlusion", "weight": 0.5}
    done = room.deliver(color(slot={"times": times}))
    assert done.manifest.files[0].channels[0].times.weight == 0.5  # type: ignore[union-attr]

    def light(v: np.ndarray) -> np.ndarray:
        return np.where(v <= 0.04045, v / 12.92, ((v + 0.055) / 1.055) ** 2.4)

    due = light(base / 255.0) * (0.5 + 0.5 * shade[:, :, None] / 255.0)
    due = np.where(due <= 0.0031308, due * 12.92, 1.055 * due ** (1 / 2.4) - 0.055)
    found = room.read("one_base_color.png").astype(float)
    assert np.abs(found - due * 255).max() <= 0.51
    alone = Room(tmp_path / "b", {"base_color": base})
    export = alone.pack(color(slot={"times": {"map": "opacity"}}))
    assert any("nothing is multiplied" in one.text for one in export.remarks)


def test_height_is_written_in_metres_from_its_mid_level(tmp_path: Path) -> None:
    height = codes(bits=16)
    room = Room(tmp_path / "out", {"height": height}, depth=0.04)
    target = {"height_unit": "metres", "height_mid": 0.5}
    room.deliver(grey("height", format="tiff", bits=32), **target)
    due = (height / 65535 - 0.5) * 0.04
    np.testing.assert_allclose(tifffile.imread(room.folder / "one_height.tif"), due, atol=1e-7)
    room.deliver(grey("height", format="exr", bits=16), **target)
    with OpenEXR.File(str(room.folder / "one_height.exr")) as file:
        (channel,) = file.channels().values()
    assert channel.pixels.dtype == np.float16
    np.testing.assert_allclose(channel.pixels, due, rtol=1e-3, atol=1e-6)
    room.deliver(grey("height", bits=16), **target)  # integers hold shares, whatever is said
    np.testing.assert_array_equal(room.read("one_height.png"), height)


def test_dither_takes_banding_away_and_leaves_masks(tmp_path: Path) -> None:
    slope = np.linspace(0, 65535 * 3 / 255, SIDE * 8).astype(np.uint16)  # three codes wide
    wide = np.tile(slope, (SIDE, 1))
    mask = np.tile((np.arange(SIDE * 8) > 99).astype(np.uint16) * 65535, (SIDE, 1))
    room = Room(tmp_path / "out", {"roughness": wide, "metallic": mask})
    room.deliver(grey("roughness", dither=True), grey("metallic", dither=True))
    found = room.read("one_roughness.png").astype(float)
    # The mean over a column says what eight bits cannot; without dither it would be off by half.
    assert np.abs(found.mean(axis=0) - slope / 257).max() < 0.2
    assert np.abs(found - wide / 257).max() <= 1
    np.testing.assert_array_equal(room.read("one_metallic.png"), mask // 257)
    whole = Room(tmp_path / "b", {"roughness": np.full((SIDE, SIDE), 77, np.uint8)})
    whole.deliver(grey("roughness", dither=True))
    assert (whole.read("one_roughness.png") == 77).all()  # a code's own value stays


@pytest.mark.parametrize(
    ("case", "separator", "due"),
    [
        ("as_written", "as_written", "T_old-Door_base.ORM"),
        ("lower", "as_written", "t_old-door_base.orm"),
        ("upper", "hyphen", "T-OLD-DOOR-BASE-ORM"),
        ("title", "none", "TOldDoorBaseORM"),
        ("as_written", "underscore", "T_old_Door_base_ORM"),
    ],
)
def test_names_take_the_chosen_case_and_separator(case: Any, separator: Any, due: str) -> None:
    assert styled("T_old-Door_base.ORM", case, separator) == due


def test_names_know_the_delivery_and_the_tile_and_still_may_not_collide(tmp_path: Path) -> None:
    room = Room(tmp_path / "out", {"roughness": codes(), "metallic": codes(seed=1)})
    named = room.pack(grey("roughness", name="{set}.{tile}_v{version}_{size}"))
    assert named.files[0].name == "one.1001_v007_32.png"
    two = [grey("roughness", name="a_b"), grey("metallic", name="A-B")]
    assert len(room.pack(*two).files) == 2
    with pytest.raises(NamePatternError, match="two files"):
        room.pack(*two, names={"case": "lower", "separator": "none"})
    with pytest.raises(MissingMapError, match="none of the maps"):
        room.pack(grey("opacity", slot={"if_missing": "omit"}))


def test_a_conversion_takes_the_target_s_reflectance(tmp_path: Path) -> None:
    room = Room(tmp_path / "out", {"base_color": codes(32, 32, 3)})
    bare = room.texture_set.with_map(MapKind.METALLIC, Constant(value=(0.0,)))
    room.texture_set = bare
    slot = {"if_missing": "derive"}
    room.deliver(color("specular_color", slot=slot), workflow="spec_gloss", dielectric_f0=0.08)
    due = round(255 * (1.055 * 0.08 ** (1 / 2.4) - 0.055))
    assert (room.read("one_specular_color.png") == due).all()


def test_a_packed_source_is_packed_anew_code_for_code(tmp_path: Path) -> None:
    packed = codes(32, 32, 3)
    room = Room(tmp_path / "out", {"base_color": packed})  # a colleague's order: metal, rough, AO
    (sha,) = room.pictures
    held = {"R": "metallic", "G": "roughness", "B": "ambient_occlusion"}
    maps = {MapKind(kind): Imported(source=sha, channels=letter, encoding=Encoding.LINEAR)
            for letter, kind in held.items()}  # fmt: skip
    room.texture_set = room.texture_set.model_copy(update={"maps": maps})
    order = {"R": "ambient_occlusion", "G": "metallic", "B": "roughness"}
    file = color(encoding="linear")
    file["channels"] = {letter: {"map": kind} for letter, kind in order.items()}
    file["channels"]["A"] = {"map": "roughness", "changes": ["invert"]}
    room.deliver(file)
    found = cv2.imread(str(room.folder / "one_base_color.png"), cv2.IMREAD_UNCHANGED)
    np.testing.assert_array_equal(found[:, :, [2, 1, 0]], packed[:, :, [2, 0, 1]])
    np.testing.assert_array_equal(found[:, :, 3], 255 - packed[:, :, 1])


def test_what_is_seldom_meant_is_remarked_upon(tmp_path: Path) -> None:
    normal = np.full((SIDE, SIDE, 3), (128, 128, 255), np.uint8)
    room = Room(tmp_path / "out", {"roughness": codes(), "normal": normal})
    same = grey("roughness")
    same["channels"] = {letter: {"map": "roughness"} for letter in "RGB"}
    lossy = color("normal", format="jpeg", encoding="linear")
    lossy["channels"] = {
        letter: {"map": "normal", "component": c} for letter, c in zip("RGB", "xyz", strict=True)
    }
    said = " ".join(remark.text for remark in room.pack(same, lossy).remarks)
    assert "R, G and B of roughness are identical" in said
    assert "distorts normals" in said
    usual = " ".join(
        one.text for one in room.pack(grey("roughness"), {**lossy, "format": "png"}).remarks
    )
    assert "hold the same" not in usual
    assert "distorts normals" not in usual


def test_padding_asks_for_an_opacity_only_where_there_is_one(tmp_path: Path) -> None:
    room = Room(tmp_path / "out", {"roughness": codes()})
    padded = room.pack(grey("roughness"), padding={"mode": "texels", "texels": 4})
    assert MapKind.OPACITY not in padded.wanted
    cut = Room(tmp_path / "cut", {"roughness": codes(), "opacity": codes()})
    assert MapKind.OPACITY not in cut.pack(grey("roughness")).wanted
    padded = cut.pack(grey("roughness"), padding={"mode": "texels", "texels": 4})
    assert MapKind.OPACITY in padded.wanted
    told = [one.text for one in padded.remarks]
    assert "padded beyond the opacity, 4 texels" in told
    without = room.pack(grey("roughness"), padding={"mode": "texels", "texels": 4})
    assert not any("padded" in one.text for one in without.remarks)


def test_green_down_and_inverted_is_green_up(tmp_path: Path) -> None:
    room = Room(tmp_path / "out", {"normal": np.random.default_rng(3).integers(
        40, 216, (SIDE, SIDE, 3), np.uint8)})  # fmt: skip

    def green(invert: int, normal_y: str) -> np.ndarray:
        changes = [{"do": "invert"}] * invert
        slot = {"map": "normal", "component": "y", "changes": changes}
        spec = {"name": f"g{invert}{normal_y}", "suffix": "g", "format": "png",
                "encoding": "linear", "channels": {"R": slot}}  # fmt: skip
        room.deliver(spec, normal_y=normal_y)
        return room.read(f"g{invert}{normal_y}.png").astype(int)

    up = green(0, "up")
    np.testing.assert_array_equal(green(1, "down"), up)
    np.testing.assert_array_equal(green(2, "up"), up)
    np.testing.assert_array_equal(green(1, "up"), 255 - up)


_WRONG: list[tuple[Callable[[], Any], str]] = [
    (lambda: grey("roughness", format="tga", compression="zip"), "rle or none"),
    (lambda: grey("roughness", format="png", compression="deflate"), "no compression setting"),
    (lambda: grey("roughness", format="dds", compression="bc1"), "bc1 supports 3"),
    (lambda: grey("roughness", format="ktx2", encoding="srgb"), "bc4 requires the encoding data"),
    (lambda: grey("roughness", mips=True), "support mipmaps"),
    (lambda: grey("roughness", tiles=True), "support tiled storage"),
    (lambda: grey("roughness", format="exr", bits=16, mips=True), "requires tiled storage"),
    (lambda: grey("roughness", bits=16, dither=True), "dithering requires 8"),
    (lambda: grey("roughness", quality=80), "no quality"),
    (lambda: color(format="exr", bits=32), "the encoding data"),
]


@pytest.mark.parametrize("n", range(len(_WRONG)))
def test_files_that_cannot_be_are_refused_in_words(n: int) -> None:
    made, said = _WRONG[n]
    with pytest.raises(ValidationError, match=said):
        FileSpec.model_validate(made())


def test_gpu_textures_cost_what_their_blocks_do() -> None:
    spec = FileSpec.model_validate(color(format="ktx2", mips=True))
    assert (spec.block, FileSpec.model_validate(grey("height", format="dds")).block) == (
        "bc7", "bc4",
    )  # fmt: skip
    for block, each in (("bc1", 0.5), ("bc7", 1), ("none", 4)):
        memory = memory_of(spec.channels, 1024, 1024, block)
        assert memory.blocks == round(1024 * 1024 * 4 / 3 * each)


def as_version_1(folder: Path) -> None:
    """Turn its manifest into what was written before digests named their way."""
    manifest = json.loads((folder / "manifest.json").read_text("utf-8"))
    for entry in manifest["files"]:
        found = [reopen(folder / entry["name"], n) for n in range(1 + len(entry["mips_digests"]))]
        for index, channel in enumerate(entry["channels"]):
            assert channel.pop("codes_digest").startswith("xxh3-128:")
            plane = np.ascontiguousarray(found[0][:, :, index])
            channel["codes_sha256"] = hashlib.sha256(plane.tobytes()).hexdigest()
        count = len(entry["channels"])
        del entry["mips_digests"]
        entry["mips_sha256"] = [
            hashlib.sha256(np.ascontiguousarray(one[:, :, :count]).tobytes()).hexdigest()
            for one in found[1:]
        ]
    manifest["version"] = 1
    (folder / "manifest.json").write_text(json.dumps(manifest), "utf-8")


@pytest.mark.parametrize(("format_", "way"), [("dds", "bc7"), ("ktx2", "bc1"), ("dds", "none")])
def test_gpu_textures_are_delivered_with_all_their_levels(
    tmp_path: Path, format_: str, way: str
) -> None:
    smooth = cv2.resize(codes(5, 5, 3), (SIDE, SIDE), interpolation=cv2.INTER_CUBIC)
    room = Room(tmp_path / "out", {"base_color": smooth})
    done = room.deliver(color(format=format_, compression=way, mips=True))
    (entry,) = done.manifest.files
    assert (len(entry.mips_digests), entry.compression, entry.lossy) == (5, way, way != "none")
    as_version_1(room.folder)
    assert assay_folder(room.folder).ok
    path = room.folder / entry.name
    data = bytearray(path.read_bytes())
    level = {"dds bc7": -90, "dds none": -10, "ktx2 bc1": -(SIDE * SIDE // 2 + 8)}
    data[level[f"{format_} {way}"]] ^= 0xFF  # a byte of a smaller level
    path.write_bytes(data)
    assert any("mip level" in one for one in assay_folder(room.folder).problems())


def test_without_padding_what_is_cut_out_keeps_its_colors(tmp_path: Path) -> None:
    opacity = np.zeros((SIDE, SIDE), dtype=np.uint8)
    opacity[4:9, 4:9] = 255
    art = codes(SIDE, SIDE, 3)
    room = Room(tmp_path / "out", {"base_color": art, "opacity": opacity})
    room.deliver(color(), grey("opacity"), padding={"mode": "none"})
    np.testing.assert_array_equal(room.read("one_base_color.png"), art)


def test_a_smaller_roughness_takes_what_its_normals_lose(tmp_path: Path) -> None:
    bumpy = np.zeros((SIDE, SIDE, 3), dtype=np.uint8) + 255
    bumpy[:, ::2, 0], bumpy[:, 1::2, 0], bumpy[:, :, 1] = 60, 196, 128  # left, right, left …
    smooth = np.full((SIDE, SIDE), 51, dtype=np.uint8)
    room = Room(tmp_path / "out", {"normal": bumpy, "roughness": smooth})
    room.deliver(grey("roughness", size={"mode": "half"}))
    assert room.read("one_roughness.png").min() > 100


def test_what_is_brighter_than_white_is_white_before_it_is_changed(tmp_path: Path) -> None:
    room = Room(tmp_path / "out", {"base_color": codes(SIDE, SIDE, 3)})
    room.texture_set = room.texture_set.with_map(MapKind.EMISSIVE, Constant(value=(3.0, 1.0, 0.0)))
    darker = {"changes": [{"do": "power", "exponent": 2}, "invert", {"do": "power", "exponent": 1}]}
    room.deliver(color("emissive", encoding="linear", slot=darker))
    np.testing.assert_array_equal(room.read("one_emissive.png")[0, 0], [0, 0, 255])
