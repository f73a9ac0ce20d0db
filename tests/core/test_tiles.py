"""Sets with tiles (UDIM): made on one sheet, so that all meets; delivered tile by tile."""

from __future__ import annotations

import json
from pathlib import Path

import MaterialX as mx  # noqa: N813
import numpy as np
import pytest
from PIL import Image
from pxr import Usd, UsdShade

from copper_sieve.core.baking import OnModel
from copper_sieve.core.detection.names import read_name
from copper_sieve.core.errors import ParameterError
from copper_sieve.core.export.assay import assay_folder, read_manifest
from copper_sieve.core.export.deliver import deliver
from copper_sieve.core.export.documents import check_document
from copper_sieve.core.export.planning import plan_export
from copper_sieve.core.graph.evaluate import evaluate
from copper_sieve.core.graph.geometry import geometry_of
from copper_sieve.core.graph.plan import plan
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Encoding, Picture
from copper_sieve.core.image.tile_layout import TileLayout
from copper_sieve.core.mesh.coverage import Coverage
from copper_sieve.core.models.model_tie import ModelLink
from copper_sieve.core.models.preparation import FrameSpec, Preparation
from copper_sieve.core.models.texture_set import (
    Derived,
    Imported,
    SetDefinition,
    SurfaceSpec,
    compose,
)
from copper_sieve.core.models.tile_numbers import Numbered, group_tiles, joined, tiles_among
from copper_sieve.core.targets.catalog import get_target
from tests.conftest import photo_codes
from tests.core.mesh.solids import floor

SIDE = 48
NUMBERS = (1001, 1002, 1011)  # an L: the upper right place is empty
WHOLE = "0f" * 32


def sha(number: int) -> str:
    return f"{number:064d}"


class Wall:
    """The same wall twice: as one picture, and as tiles that it was cut into."""

    def __init__(self) -> None:
        codes = photo_codes((2 * SIDE, 2 * SIDE), seed=3)
        sheet = TileLayout.of(NUMBERS)
        names = ("R", "G", "B")
        self.pictures = {WHOLE: Picture(codes, names, Encoding.SRGB)}
        for number in NUMBERS:
            cut = codes[sheet.box(number, (2 * SIDE, 2 * SIDE))]
            self.pictures[sha(number)] = Picture(np.ascontiguousarray(cut), names, Encoding.SRGB)
        self.sizes = {one: picture.size for one, picture in self.pictures.items()}
        surface = SurfaceSpec(tile_size=2.0, depth=0.1)
        self.whole = compose("wall", {MapKind.BASE_COLOR: Imported(source=WHOLE)}, surface)
        tiles = Imported(source=sha(1001)).on_tiles({n: sha(n) for n in NUMBERS})
        self.tiled = compose(
            "wall", {MapKind.BASE_COLOR: tiles}, SurfaceSpec(tile_size=1.0, depth=0.1)
        )

    def deliver(self, texture_set: SetDefinition, target: str, folder: Path,
                side: int | None = None, coverage: Coverage | None = None) -> Path:  # fmt: skip
        export = plan_export(
            get_target(target), texture_set, self.sizes, longer_side=side, coverage=coverage
        )
        deliver(export, folder, sizes=self.sizes, load_source=self.pictures.__getitem__, token="t")
        assert assay_folder(folder).ok
        return folder


@pytest.fixture
def wall() -> Wall:
    return Wall()


def codes(path: Path) -> np.ndarray:
    with Image.open(path) as picture:
        return np.asarray(picture).astype(int)


def test_tens_go_up_and_the_grid_is_the_smallest() -> None:
    sheet = TileLayout.of([1012, 1001])
    assert (sheet.left, sheet.top, sheet.columns, sheet.rows) == (0, -1, 2, 2)
    assert sheet.box(1001, (8, 8)) == (slice(4, 8), slice(0, 4))
    assert sheet.box(1012, (8, 8)) == (slice(0, 4), slice(4, 8))
    # The middle of 1012, v down: u 1.5, v -0.5.
    assert sheet.placed(np.array([1.5, -0.5], np.float32)).tolist() == [0.75, 0.25]
    for numbers, said in (
        ([999], "isn't a tile"),
        ([], "needs at least one tile"),
        ([1001, 1995], "span 5 x 100 positions"),
    ):
        with pytest.raises(ParameterError, match=said):
            TileLayout.of(numbers)


def test_what_is_derived_meets_across_tiles(wall: Wall, tmp_path: Path) -> None:
    """Near where two tiles meet, each file holds what the one picture gives there. The empty place
    is not the wall's, so what lies beside it is left out."""
    sheet = TileLayout.of(NUMBERS)
    size = (2 * SIDE, 2 * SIDE)
    whole = wall.deliver(wall.whole, "separate-png", tmp_path / "whole")
    tiled = wall.deliver(wall.tiled, "separate-png", tmp_path / "tiled")
    near = {
        1001: np.s_[SIDE // 2 :, :],  # below its middle: far from the tile above, near that beside
        1002: np.s_[SIDE // 2 :, :],
    }
    for name in ("wall_base_color", "wall_normal"):
        every = codes(whole / f"{name}.png")
        for number in NUMBERS if name.endswith("color") else near:
            rows = near.get(number, np.s_[:]) if name.endswith("normal") else np.s_[:]
            own, cut = codes(tiled / f"{name}.{number}.png"), every[sheet.box(number, size)]
            assert own.shape == cut.shape == (SIDE, SIDE, 3)
            difference = np.abs(own - cut)[rows]
            assert difference.max() <= (0 if name.endswith("color") else 6), (name, number)
    # The step from the last column of 1001 to the first of 1002 is as any other of the wall.
    left, right = (codes(tiled / f"wall_normal.{n}.png") for n in (1001, 1002))
    across = np.abs(left[:, -1] - right[:, 0]).mean()
    inside = np.abs(np.diff(np.concatenate([left, right], 1), axis=1)).mean()
    assert across < 1.6 * inside


def test_files_are_named_by_their_tiles_and_lie_in_the_manifest(wall: Wall, tmp_path: Path) -> None:
    folder = wall.deliver(wall.tiled, "orm-y-down", tmp_path / "out")
    manifest = json.loads((folder / "manifest.json").read_text())
    tiles = {one["name"]: one["tile"] for one in manifest["files"]}
    assert len(tiles) == 3 * len(NUMBERS)
    assert all(name.rsplit(".", 2)[1] == str(tile) for name, tile in tiles.items())
    assert {(one["width"], one["height"]) for one in manifest["files"]} == {(SIDE, SIDE)}
    again = plan_export(get_target("orm-y-down"), wall.tiled, wall.sizes)
    kept = deliver(
        again, folder, sizes=wall.sizes, load_source=wall.pictures.__getitem__, token="u"
    )
    assert (kept.written, kept.kept) == (0, len(manifest["files"]))


def test_smaller_files_have_the_size_of_a_tile(wall: Wall, tmp_path: Path) -> None:
    folder = wall.deliver(wall.tiled, "separate-png", tmp_path / "small", side=12)
    sizes = {codes(path).shape[:2] for path in folder.glob("*.png")}
    assert sizes == {(12, 12)}


def test_documents_call_all_tiles_by_one_name(wall: Wall, tmp_path: Path) -> None:
    """Told by the libraries of both formats themselves."""
    folder = wall.deliver(wall.tiled, "usd-preview", tmp_path / "usd")
    (stage,) = folder.glob("*.usda")
    opened = Usd.Stage.Open(str(stage))
    named = [
        UsdShade.Shader(prim).GetInput("file").Get()
        for prim in opened.Traverse()
        if prim.IsA(UsdShade.Shader) and UsdShade.Shader(prim).GetInput("file")
    ]
    assert named and all("<UDIM>" in one.path for one in named)
    layer = opened.GetRootLayer()
    for one in named:
        found = UsdShade.UdimUtils.ResolveUdimTilePaths(one.path, layer)
        assert sorted(int(tile) for _, tile in found) == list(NUMBERS)
    folder = wall.deliver(wall.tiled, "openpbr-separate", tmp_path / "mtlx")
    document = mx.createDocument()
    (path,) = folder.glob("*.mtlx")
    mx.readFromXmlFile(document, str(path))
    assert document.validate()[0]
    files = [
        one.getInputValue("file")
        for graph in document.getNodeGraphs() for one in graph.getNodes() if one.getInput("file")
    ]  # fmt: skip
    assert files and all(str(one).endswith(".<UDIM>.png") for one in files)


def test_a_tile_that_a_document_means_and_nobody_wrote_is_noticed(
    wall: Wall, tmp_path: Path
) -> None:
    folder = wall.deliver(wall.tiled, "usd-preview", tmp_path / "usd")
    manifest = read_manifest(folder)
    (document,) = manifest.documents
    assert check_document(folder, document, manifest).ok
    fewer = tuple(one for one in manifest.files if not one.name.endswith("normal.1011.png"))
    assert len(fewer) == len(manifest.files) - 1
    lacking = manifest.model_copy(update={"files": fewer})
    check = check_document(folder, document, lacking)
    assert not check.ok and "the file wall_normal.1011.png is missing" in check.problems


def test_what_knows_no_tiles_is_left_out_and_told(wall: Wall) -> None:
    export = plan_export(get_target("gltf-metal-rough"), wall.tiled, wall.sizes)
    assert export.documents == ()
    assert any("glb doesn't support tiles" in one.text for one in export.remarks)
    normal = Imported(source=sha(1001), encoding=Encoding.LINEAR).on_tiles({1001: sha(1001)})
    lacking = wall.tiled.with_map(MapKind.NORMAL, normal)
    remarks = plan_export(get_target("separate-png"), lacking, wall.sizes).remarks
    assert ("error", "normal has no tile 1002 and 1011: filled with its neutral value") in [
        (one.weight, one.text) for one in remarks
    ]


def test_tiles_are_padded_each_by_itself(wall: Wall, tmp_path: Path) -> None:
    """One island goes on from 1001 into 1002; beyond it each tile is filled from its own part."""
    island = floor(1.0, uv=(0.5, 0.25, 1.0, 0.5))
    sheet = TileLayout.of(NUMBERS)
    coverage = Coverage.of(island, "a floor", sheet=sheet)
    plain = wall.deliver(wall.tiled, "separate-png", tmp_path / "plain")
    padded = wall.deliver(wall.tiled, "separate-png", tmp_path / "padded", coverage=coverage)
    rows, columns = np.mgrid[:SIDE, :SIDE]
    for number, (first, last) in ((1001, (SIDE // 2, SIDE - 1)), (1002, (0, SIDE // 2 - 1))):
        name = f"wall_base_color.{number}.png"
        before, after = codes(plain / name), codes(padded / name)
        inside = before[np.clip(rows, SIDE // 4, 3 * SIDE // 4 - 1), np.clip(columns, first, last)]
        assert np.array_equal(after, inside)
    name = "wall_base_color.1011.png"  # no island lies there
    assert np.array_equal(codes(plain / name), codes(padded / name))


def test_maps_from_a_model_lie_on_every_tile(wall: Wall) -> None:
    """Where on the model a texel lies, as color: u and v of the floor go on across tiles."""
    model = "ab" * 32
    mesh = floor(2.0, pieces=4, uv=(0.0, -1.0, 2.0, 2.0))
    mask = Derived(
        operation="mask_1_from_model_place", parameters={"way": "right", "softness": 1.0}
    )
    tied = wall.tiled.with_map(MapKind.MASK_1, mask).model_copy(
        update={"model": ModelLink(source=model)}
    )
    graph = plan(tied, wall.sizes, wanted=[MapKind.MASK_1])
    found = evaluate(graph, wall.pictures.__getitem__, lambda _: mesh)[MapKind.MASK_1].pixels
    assert found.shape == (2 * SIDE, 2 * SIDE, 1)
    below = found[SIDE:, :, 0]  # 1001 and 1002 side by side
    assert np.abs(np.diff(below, axis=1)).max() < 3 / SIDE  # no step where they meet
    assert below.max() - below.min() > 0.9
    assert found[: SIDE - 2, SIDE + 2 :].max() == 0  # the place without a tile
    taken = OnModel(floor(1.0), 2 * SIDE, 2 * SIDE, high_poly=floor(1.0, height=0.01),
                    sheet=TileLayout.of(NUMBERS)).take("normal", detail=True)  # fmt: skip
    # Tiles in which it has no triangles have normals all the same.
    assert np.allclose(np.linalg.norm(taken, axis=2), 1, atol=0.01)


def test_a_picture_without_tiles_serves_every_tile(wall: Wall) -> None:
    rough = Imported(source=sha(1002), channels="R", encoding=Encoding.LINEAR)
    mixed = wall.tiled.with_map(MapKind.ROUGHNESS, rough)
    graph = plan(mixed, wall.sizes, wanted=[MapKind.ROUGHNESS])
    found = evaluate(graph, wall.pictures.__getitem__)[MapKind.ROUGHNESS].pixels
    sheet = TileLayout.of(NUMBERS)
    cuts = [found[sheet.box(number, (2 * SIDE, 2 * SIDE))] for number in NUMBERS]
    assert np.array_equal(cuts[0], cuts[1]) and np.array_equal(cuts[0], cuts[2])


def test_previews_are_whole_tiles_and_widths_are_those_of_all(wall: Wall) -> None:
    geometry = geometry_of(wall.tiled, wall.sizes)
    assert geometry.size == (2 * SIDE, 2 * SIDE) and geometry.tile == (SIDE, SIDE)
    assert geometry.surface.tile_size == 2.0 and geometry.surface.wrap is False
    assert geometry.fit(33) == (32, 32)  # two tiles of 16
    assert plan(wall.tiled, wall.sizes, longer_side=33).nodes


def test_steps_that_part_tiles_are_refused(wall: Wall) -> None:
    cropped = Preparation(frame=FrameSpec(crop=(0.1, 0.1, 0.9, 0.9)))
    with pytest.raises(ParameterError, match="wall has tiles"):
        wall.tiled.model_copy(update={"prepare": cropped}).checked()
    wall.tiled.checked()


def numbered(*names: str) -> list[int | None]:
    return tiles_among([Numbered.of(name, "", read_name(name)) for name in names])


def test_tiles_are_told_from_counters() -> None:
    assert numbered("hull_BaseColor.1001", "hull_BaseColor.1002", "hull_Normal.1001") == [
        1001, 1002, 1001,
    ]  # fmt: skip
    assert numbered("hull.1001", "hull.1012") == [1001, 1012]
    assert numbered("DSC_1001", "DSC_1002") == [None, None]  # a camera counts so
    assert numbered("hull_BaseColor_1001", "keel_BaseColor_1002") == [None, None]
    assert numbered("wall_col_1534", "wall_col_1535") == [None, None]  # no row of tiles is so high
    assert numbered("wall_color_1024", "wall_color_2048") == [None, None]


def test_files_of_tiles_become_one_map_and_more_join_it() -> None:
    def one(number: int) -> dict[MapKind, Imported]:
        return {MapKind.HEIGHT: Imported(source=sha(number), channels="R")}

    made = group_tiles([(one(1002), 1002), (one(1001), 1001)])[MapKind.HEIGHT]
    assert made.source == sha(1001) and list(made.tiles) == [1001, 1002]
    more = joined(made, group_tiles([(one(1011), 1011)])[MapKind.HEIGHT])
    assert list(more.tiles) == [1001, 1002, 1011]
    assert Imported.model_validate_json(more.model_dump_json()) == more
    assert "tiles" not in one(1001)[MapKind.HEIGHT].model_dump()  # older keys stay as they were
