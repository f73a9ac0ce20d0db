"""A model with its materials as USD, and their assignment as MaterialX, in other readers' hands."""

from __future__ import annotations

import shutil
import zipfile
from collections.abc import Callable
from pathlib import Path

import cv2
import numpy as np
import pytest
from pxr import Gf, Usd, UsdGeom, UsdShade

import copper_sieve as cs
from copper_sieve.core.codecs.meshes.reading import read_model
from copper_sieve.core.errors import MeshError
from tests.core.mesh.gltf_files import Drawn
from tests.core.mesh.test_attaching import animated, plain
from tests.core.test_documents import materialx, usd_errors

# Two quads: one of copper, one of cedar and copper; corners turn as seen from the front.
_OBJ = """
o Body
v 0 0 0
v 2 0 0
v 2 1 0
v 0 1 0
v 4 0 -1
v 4 1 -1
vt 0 0
vt 0.5 0
vt 0.5 1
vt 0 1
vt 1 0.25
vt 1 0.75
vn 0 0 1
usemtl copper
f 1/1/1 2/2/1 3/3/1 4/4/1
o Lid & rim
usemtl cedar
f 2/2/1 5/5/1 6/6/1
usemtl copper
f 2/2/1 6/6/1 3/3/1
"""


@pytest.fixture(scope="module")
def deliveries(tmp_path_factory: pytest.TempPathFactory) -> Callable[[str], list[Path]]:
    """Folders of copper and cedar for a target."""
    folder = tmp_path_factory.mktemp("delivered")
    rng = np.random.default_rng(3)
    for name in ("copper", "cedar"):
        picture = rng.integers(40, 200, (32, 32, 3), dtype=np.uint8)
        cv2.imwrite(str(folder / f"{name}.png"), picture)

    def deliver(target: str) -> list[Path]:
        for name in ("copper", "cedar"):
            cs.make(folder / f"{name}.png", targets=[target], out=folder / name, wrap=False)
        return [folder / name / target for name in ("copper", "cedar")]

    return deliver


@pytest.fixture
def model(tmp_path: Path) -> Path:
    path = tmp_path / "tea house.obj"
    path.write_text(_OBJ)
    return path


Deliver = Callable[[str], list[Path]]


@pytest.mark.parametrize("ending", ["usda", "usdz"])
def test_a_stage_has_the_model_and_its_surfaces(
    deliveries: Deliver, model: Path, tmp_path: Path, ending: str
) -> None:
    out = tmp_path / "out" / f"house.{ending}"
    cs.attach(model, deliveries("usd-preview"), out)
    stage = Usd.Stage.Open(str(out))
    assert usd_errors(stage) == []
    meshes = {str(one.GetPath()): UsdGeom.Mesh(one)
              for one in stage.Traverse() if one.IsA(UsdGeom.Mesh)}  # fmt: skip
    assert set(meshes) == {
        "/house/Body/copper", "/house/Lid___rim/cedar", "/house/Lid___rim/copper"
    }  # fmt: skip
    cedar = meshes["/house/Lid___rim/cedar"]
    assert [tuple(one) for one in cedar.GetPointsAttr().Get()] == [
        (2, 0, 0),
        (4, 0, -1),
        (4, 1, -1),
    ]
    assert list(cedar.GetFaceVertexIndicesAttr().Get()) == [0, 1, 2]
    st = UsdGeom.PrimvarsAPI(cedar).GetPrimvar("st")
    assert [tuple(one) for one in st.Get()] == [(0.5, 0), (1, 0.25), (1, 0.75)]  # v up, as in OBJ
    assert all(Gf.IsClose(one, (0, 0, 1), 1e-6) for one in cedar.GetNormalsAttr().Get())
    # Two triangles of the quad share its diagonal.
    assert len(meshes["/house/Body/copper"].GetPointsAttr().Get()) == 4
    for path, mesh in meshes.items():
        bound = UsdShade.MaterialBindingAPI(mesh).ComputeBoundMaterial()[0]
        name = path.rpartition("/")[2]
        assert bound.GetPath() == f"/house/Materials/{name}"
        shader = bound.ComputeSurfaceSource()[0]
        texture = shader.GetInput("diffuseColor").GetConnectedSources()[0][0].source
        file = UsdShade.Shader(texture).GetInput("file").Get()
        assert file.path.startswith(f"./{name}")
        assert file.resolvedPath, "the embedded texture is found from where the stage lies"
    files = {path.name for path in out.parent.iterdir()}
    if ending == "usdz":
        assert files == {"house.usdz"}
        files = set(zipfile.ZipFile(out).namelist())
    assert {"house.usda", "copper_base_color.png", "cedar_normal.png"} <= files


def test_a_second_uv_set_and_a_bare_material(
    deliveries: Deliver, tmp_path: Path, model: Path
) -> None:
    mesh = read_model(model)
    assert len(mesh.uvs) == 1
    folders = deliveries("usd-preview")
    with pytest.raises(MeshError, match="1 UV sets, numbered from 0"):
        cs.attach(model, folders, tmp_path / "a.usda", uv_set=1)
    said = cs.attach(model, folders[:1], tmp_path / "a.usda")
    assert any("no textures for cedar" in one for one in said)
    stage = Usd.Stage.Open(str(tmp_path / "a.usda"))
    assert usd_errors(stage) == []
    bare = UsdShade.MaterialBindingAPI(stage.GetPrimAtPath("/a/Lid___rim/cedar"))
    assert not bare.ComputeBoundMaterial()[0]
    # Without a document of its kind, nothing is written.
    with pytest.raises(MeshError, match=r"a \.mtlx file can use\. Deliver"):
        cs.attach(model, folders, tmp_path / "b.mtlx")
    assert not (tmp_path / "b.mtlx").exists()


def test_materialx_assigns_by_the_paths_of_the_stage(
    deliveries: Deliver, model: Path, tmp_path: Path
) -> None:
    out = tmp_path / "out" / "house.mtlx"
    copper, cedar = deliveries("openpbr-separate")
    cs.attach(model, [copper, cedar], out)
    document = materialx(out)
    (look,) = document.getLooks()
    found = {one.getMaterial(): set(one.getGeom().split(",")) for one in look.getMaterialAssigns()}
    assert found == {
        "M_copper": {"/house/Body/copper", "/house/Lid___rim/copper"},
        "M_cedar": {"/house/Lid___rim/cedar"},
    }
    for name in found:
        assert document.getChild(name).getType() == "material"
    graphs = [document.getNodeGraph(f"NG_{name}") for name in ("copper", "cedar")]
    named = [one.getInputValue("file") for graph in graphs for one in graph.getNodes("image")]
    assert len(named) > 6 and all((out.parent / one).is_file() for one in named)
    # One set for both materials is there once.
    cs.attach(model, {"copper": cedar, "cedar": cedar}, out)
    document = materialx(out)
    assert [one.getName() for one in document.getMaterialNodes()] == ["M_cedar"]
    assert len(document.getLooks()[0].getMaterialAssigns()) == 2


def test_materialx_reads_the_uv_set_that_is_said(deliveries: Deliver, tmp_path: Path) -> None:
    drawn = Drawn()
    content = plain(drawn)
    attributes = content["meshes"][0]["primitives"][0]["attributes"]
    attributes["TEXCOORD_1"] = drawn.add(np.array([[0, 1], [1, 1], [0, 0]], np.float32))
    model = drawn.glb(tmp_path / "model.glb", **content)
    cs.attach(model, deliveries("openpbr-separate")[:1], tmp_path / "o.mtlx", uv_set=1)
    document = materialx(tmp_path / "o.mtlx")
    for image in document.getNodeGraph("NG_copper").getNodes("image"):
        where = image.getInput("texcoord").getConnectedNode()
        assert where.getInput("index").getValue() == 1
    cs.attach(model, deliveries("usd-preview")[:1], tmp_path / "o.usda", uv_set=1)
    stage = Usd.Stage.Open(str(tmp_path / "o.usda"))
    reader = next(one for one in stage.Traverse() if one.GetName() == "Coordinates")
    assert UsdShade.Shader(reader).GetInput("varname").Get() == "st1"
    mesh = next(one for one in stage.Traverse() if one.IsA(UsdGeom.Mesh))
    assert UsdGeom.PrimvarsAPI(mesh).HasPrimvar("st1")


def test_what_moves_stays_in_the_gltf_and_is_told(deliveries: Deliver, tmp_path: Path) -> None:
    copper = deliveries("usd-preview")[:1]
    for content, told in ((plain, False), (animated, True)):
        drawn = Drawn()
        model = drawn.glb(tmp_path / "model.glb", **content(drawn))
        said = cs.attach(model, copper, tmp_path / "o.usdz")
        assert any("animations aren't converted" in one for one in said) is told


def test_a_texture_that_is_another_now_is_refused(
    deliveries: Deliver, model: Path, tmp_path: Path
) -> None:
    folder = tmp_path / "copper"
    shutil.copytree(deliveries("usd-preview")[0], folder)
    picture = folder / "copper_base_color.png"
    picture.write_bytes(picture.read_bytes() + b"x")
    with pytest.raises(MeshError, match=r"copper_base_color\.png was modified since"):
        cs.attach(model, [folder], tmp_path / "a.usda")
    picture.unlink()
    with pytest.raises(MeshError, match=r"copper_base_color\.png was modified since"):
        cs.attach(model, [folder], tmp_path / "a.usdz")
    assert not list(tmp_path.glob("a.*"))


def test_tiles_lie_beside_a_stage_and_not_in_a_package(model: Path, tmp_path: Path) -> None:
    for tile in (1001, 1002):
        picture = np.full((16, 16, 3), tile % 1000 * 60, np.uint8)
        cv2.imwrite(str(tmp_path / f"copper_base_color.{tile}.png"), picture)
    files = sorted(tmp_path.glob("copper_*.png"))
    cs.make(files[0], files[1:], targets=["usd-preview"], out=tmp_path / "out")
    cs.attach(model, [tmp_path / "out" / "usd-preview"], tmp_path / "a" / "a.usda")
    beside = {path.name for path in (tmp_path / "a").iterdir()}
    assert {"copper_base_color.1001.png", "copper_base_color.1002.png"} <= beside
    with pytest.raises(MeshError, match="USD packages don't support tiles"):
        cs.attach(model, [tmp_path / "out" / "usd-preview"], tmp_path / "a.usdz")
