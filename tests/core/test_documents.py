"""Material documents in the hands of their own validators: glTF, MaterialX, USD."""

from __future__ import annotations

import json
import subprocess
from collections.abc import Callable
from dataclasses import replace
from functools import cache
from pathlib import Path
from typing import Any

import MaterialX as mx  # noqa: N813
import numpy as np
import pytest
from pxr import Gf, Sdf, Usd, UsdShade, UsdValidation
from pydantic import ValidationError

from copper_sieve.core.codecs.documents.materialx import encode_materialx
from copper_sieve.core.codecs.documents.usd import encode_usda
from copper_sieve.core.export.assay import assay_folder
from copper_sieve.core.export.deliver import deliver
from copper_sieve.core.export.documents import material_of
from copper_sieve.core.export.planning import plan_export
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.models.texture_set import Constant
from copper_sieve.core.targets.catalog import get_target
from copper_sieve.core.targets.target_preset import TargetPreset
from copper_sieve.demo.lantern_row import SCENARIOS
from tests.core.conftest import Wall
from tests.core.test_channels import deliver_room

WEB = Path(__file__).resolve().parents[2] / "web"
Write = Callable[[TargetPreset], Path]


def depth_of(folder: Path) -> float:
    """Metres between height 0 and 1, as the delivery's manifest says it measured them."""
    depth = json.loads((folder / "manifest.json").read_text())["surface"]["depth"]
    assert 0.001 < depth < 0.1
    return float(depth)


def changed(target: str, change: Callable[[dict[str, Any]], None]) -> TargetPreset:
    content = get_target(target).model_dump(mode="json")
    change(content)
    return TargetPreset.model_validate(content)


@pytest.fixture
def write(wall: Wall, tmp_path: Path) -> Write:
    """Deliver a full set, with opacity and emission, to a target; gives the folder."""
    full = wall.texture_set
    for kind, value in ((MapKind.OPACITY, (0.75,)), (MapKind.EMISSIVE, (0.1, 0.2, 0.3))):
        full = full.with_map(kind, Constant(value=value))

    def run(preset: TargetPreset) -> Path:
        folder = tmp_path / preset.id
        export = plan_export(preset, full, wall.sizes)
        deliver(export, folder, sizes=wall.sizes, load_source=wall.load, token="t")
        assert assay_folder(folder).ok
        return folder

    return run


# --- glTF ---------------------------------------------------------------------------------------

_VALIDATE = """
const { validateBytes } = require("gltf-validator");
const { readFileSync } = require("node:fs");
const path = require("node:path");
const file = process.argv[1];
validateBytes(new Uint8Array(readFileSync(file)), {
  uri: path.basename(file),
  externalResourceFunction: (uri) => Promise.resolve(new Uint8Array(
    readFileSync(path.join(path.dirname(file), decodeURIComponent(uri))))),
}).then((report) => console.log(JSON.stringify(report)));
"""


def gltf_report(path: Path) -> dict[str, Any]:
    ran = subprocess.run(
        ["node", "-e", _VALIDATE, str(path)], cwd=WEB, capture_output=True, text=True, check=True
    )
    found: dict[str, Any] = json.loads(ran.stdout)
    return found


def spoken(report: dict[str, Any]) -> list[Any]:
    """Errors, warnings and infos but the one that this set's pictures are no power of two."""
    messages = report["issues"]["messages"]
    return [one for one in messages if one["code"] != "IMAGE_NPOT_DIMENSIONS"]


@pytest.mark.parametrize("ending", ["glb", "gltf"])
def test_gltf_passes_its_validator_without_a_word(write: Write, ending: str) -> None:
    folder = write(get_target("gltf-metal-rough"))
    report = gltf_report(folder / f"wall.{ending}")
    assert spoken(report) == []
    images = [one["image"] for one in report["info"]["resources"] if "image" in one]
    assert len(images) == 4
    if ending == "gltf":
        named = json.loads((folder / "wall.gltf").read_text())["images"]
        assert {one["uri"] for one in named} == {path.name for path in folder.glob("*.png")}


def test_gltf_takes_only_what_lies_where_it_reads(write: Write) -> None:
    def swap(content: dict[str, Any]) -> None:
        content["id"] = "swapped"
        orm = content["files"][1]["channels"]
        orm["R"], orm["B"] = orm["B"], orm["R"]
        content["normal_y"] = "down"

    folder = write(changed("gltf-metal-rough", swap))
    material = json.loads((folder / "wall.gltf").read_text())["materials"][0]
    assert "metallicRoughnessTexture" not in material["pbrMetallicRoughness"]
    assert "normalTexture" not in material
    assert "occlusionTexture" not in material
    assert spoken(gltf_report(folder / "wall.glb")) == []
    remarks = json.loads((folder / "manifest.json").read_text())["remarks"]
    assert any("wall.glb doesn't refer to metallic and roughness" in one for one in remarks)


@pytest.mark.parametrize("room", sorted(SCENARIOS))
def test_documents_of_every_demo_set_are_valid(room: str, tmp_path: Path) -> None:
    for target in ("gltf-metal-rough", "openpbr-separate", "usd-preview"):
        deliver_room(room, get_target(target), tmp_path / target)
    for ending in ("glb", "gltf"):
        found = gltf_report(tmp_path / "gltf-metal-rough" / f"{room}.{ending}")
        assert found["issues"]["messages"] == []
    materialx(tmp_path / "openpbr-separate" / f"{room}.mtlx")
    for ending in ("usda", "usdz"):
        stage = Usd.Stage.Open(str(tmp_path / "usd-preview" / f"{room}.{ending}"))
        assert usd_errors(stage) == []


# --- MaterialX ----------------------------------------------------------------------------------


@cache
def materialx_libraries() -> mx.Document:
    library = mx.createDocument()
    mx.loadLibraries(mx.getDefaultDataLibraryFolders(), mx.getDefaultDataSearchPath(), library)
    return library


def materialx(path: Path) -> mx.Document:
    """The document with the standard's own nodes, valid."""
    document = mx.createDocument()
    mx.readFromXmlFile(document, str(path))
    document.setDataLibrary(materialx_libraries())
    valid, why = document.validate()
    assert valid, why
    return document


def _separate(model: str, **more: Any) -> TargetPreset:
    def change(content: dict[str, Any]) -> None:
        content |= {"id": "made", **more}
        content["documents"][0]["model"] = model

    return changed("openpbr-separate", change)


@pytest.mark.parametrize("normal_y", ["up", "down"])
@pytest.mark.parametrize("model", ["open_pbr", "standard_surface"])
def test_materialx_is_valid_and_joins_every_file(write: Write, model: str, normal_y: str) -> None:
    folder = write(_separate(model, normal_y=normal_y))
    document = materialx(folder / "wall.mtlx")
    category = {"open_pbr": "open_pbr_surface"}.get(model, model)
    (surface,) = [n for n in document.getNodes() if n.getCategory() == category]
    connected = {i.getName() for i in surface.getInputs() if i.getConnectedOutput()}
    due = {"base_color", "specular_roughness", "emission_color"}
    due |= {"base_metalness", "geometry_opacity", "geometry_normal"} if model == "open_pbr" else {
        "metalness", "opacity", "normal"
    }  # fmt: skip
    assert connected == due
    graph = document.getNodeGraph("NG_wall")
    spaces = {}
    for node in graph.getNodes("image"):
        file = node.getInput("file")
        assert (folder / file.getValueString()).is_file()
        spaces[file.getValueString()] = file.getColorSpace()
    assert set(spaces) == {path.name for path in folder.glob("*.png")}
    colors = {"wall_base_color.png", "wall_emissive.png"}
    assert {name for name, space in spaces.items() if space == "srgb_texture"} == colors
    (shown,) = mx.getShaderNodes(document.getNode("M_wall"), "displacementshader")
    assert shown.getInput("scale").getValue() == pytest.approx(depth_of(folder), rel=1e-4)
    turned = [n.getName() for n in graph.getNodes("multiply")]
    assert turned == (["normal_turned"] if normal_y == "down" else [])


def test_materialx_takes_channels_out_of_packed_files(write: Write) -> None:
    def change(content: dict[str, Any]) -> None:
        content["id"] = "packed"
        content["documents"] = [{"format": "materialx", "name": "{set}"}]
        mask = content["files"][1]["channels"]
        mask["G"] = {"map": "glossiness", "component": "v", "if_missing": "derive"}

    folder = write(changed("gltf-metal-rough", change))
    document = materialx(folder / "wall.mtlx")
    graph = document.getNodeGraph("NG_wall")
    taken = {
        n.getName(): (n.getInput("in").getNodeName(), n.getInput("index").getValue())
        for n in graph.getNodes("extract")
    }
    assert taken == {
        "metallic_b": ("file_wall_orm", 2),
        "glossiness_g": ("file_wall_orm", 1),
        "ambient_occlusion_r": ("file_wall_orm", 0),
        "opacity_a": ("file_wall_base_color", 3),
    }
    (inverted,) = graph.getNodes("invert")
    assert inverted.getInput("in").getNodeName() == "glossiness_g"


# --- USD ----------------------------------------------------------------------------------------


def usd_errors(stage: Usd.Stage) -> list[str]:
    validators = UsdValidation.ValidationRegistry().GetOrLoadAllValidators()
    assert len(validators) > 20
    found = UsdValidation.ValidationContext(validators).Validate(stage)
    return [f"{one.GetName()}: {one.GetMessage()}" for one in found]


@pytest.mark.parametrize("ending", ["usda", "usdz"])
@pytest.mark.parametrize("target", ["usd-preview", "spec-gloss"])
def test_usd_passes_its_validators(write: Write, ending: str, target: str) -> None:
    def change(content: dict[str, Any]) -> None:
        content["id"] = "made"
        content["documents"] = [{"format": ending, "name": "{set}"}]
        for file in content["files"]:
            file |= {"format": "png", "bits": 8}

    folder = write(changed(target, change))
    stage = Usd.Stage.Open(str(folder / f"wall.{ending}"))
    assert usd_errors(stage) == []
    surface = UsdShade.Shader(stage.GetPrimAtPath("/wall/Material/Surface"))
    connected = {
        i.GetBaseName(): i.GetConnectedSources()[0][0].source.GetPrim().GetName()
        for i in surface.GetInputs() if i.HasConnectedSource()
    }  # fmt: skip
    due = {"normal": "Normal", "occlusion": "AmbientOcclusion"}
    if target == "usd-preview":
        due |= {"diffuseColor": "BaseColor", "metallic": "Metallic", "roughness": "Roughness",
                "emissiveColor": "Emissive", "opacity": "Opacity"}  # fmt: skip
    else:
        due |= {"diffuseColor": "Diffuse", "specularColor": "SpecularColor", "opacity": "Opacity",
                "roughness": "Glossiness"}  # fmt: skip
    assert connected == due
    assert surface.GetInput("useSpecularWorkflow").Get() == int(target == "spec-gloss")
    for name in connected.values():
        shader = UsdShade.Shader(stage.GetPrimAtPath(f"/wall/Material/{name}"))
        assert shader.GetInput("file").Get().resolvedPath, f"{name} names no file that is there"
        color = name in ("BaseColor", "Emissive", "Diffuse", "SpecularColor")
        assert shader.GetInput("sourceColorSpace").Get() == ("sRGB" if color else "raw")
    if target == "spec-gloss":
        gloss = UsdShade.Shader(stage.GetPrimAtPath("/wall/Material/Glossiness"))
        assert gloss.GetInput("scale").Get() == Gf.Vec4f(-1, -1, -1, -1)
        assert gloss.GetInput("bias").Get() == Gf.Vec4f(1, 1, 1, 1)


def test_usd_height_is_metres_from_its_mid_level(write: Write) -> None:
    def change(content: dict[str, Any]) -> None:
        content |= {"id": "made", "documents": [{"format": "usda", "name": "{set}"}]}

    folder = write(changed("openpbr-separate", change))
    stage = Usd.Stage.Open(str(folder / "wall.usda"))
    height = UsdShade.Shader(stage.GetPrimAtPath("/wall/Material/Height"))
    values = np.array([0, 0.5, 1]) * height.GetInput("scale").Get()[0]
    half = depth_of(folder) / 2
    np.testing.assert_allclose(
        values + height.GetInput("bias").Get()[0], [-half, 0, half], atol=1e-6
    )


@pytest.mark.parametrize(
    ("unit", "stored"), [("metres", "exr"), ("share", "exr"), ("metres", "png")]
)
def test_a_height_that_is_stored_in_metres_is_not_scaled_again(
    write: Write, unit: str, stored: str
) -> None:
    def change(content: dict[str, Any]) -> None:
        content |= {"id": "made", "documents": [{"format": "usda", "name": "{set}"}]}
        content["height_unit"] = unit
        for file in content["files"]:
            if any(slot["map"] == "height" for slot in file["channels"].values()):
                file |= {"format": stored, "bits": 32 if stored == "exr" else 16}

    folder = write(changed("openpbr-separate", change))
    stage = Usd.Stage.Open(str(folder / "wall.usda"))
    height = UsdShade.Shader(stage.GetPrimAtPath("/wall/Material/Height"))
    scale = height.GetInput("scale").Get()[0] if height.GetInput("scale") else 1.0
    metres = unit == "metres" and stored == "exr"
    assert scale == pytest.approx(1.0 if metres else depth_of(folder), rel=1e-5)


def test_a_package_is_aligned_and_a_changed_picture_in_it_is_found(write: Write) -> None:
    folder = write(get_target("usd-preview"))
    path = folder / "wall.usdz"
    assert Sdf.ZipFile.Open(str(path)) is not None
    package = Sdf.ZipFile.Open(str(path))
    for name in package.GetFileNames():
        assert package.GetFileInfo(name).dataOffset % 64 == 0
    data = bytearray(path.read_bytes())
    at = data.index(b"IDAT") + 20
    data[at] ^= 1
    path.write_bytes(data)
    assert "wall.usdz" in assay_folder(folder).problems()[0]


def test_documents_that_cannot_be_are_refused() -> None:
    for target, document, said in [
        ("orm-y-down", {"format": "glb", "name": "x"}, "png"),
        ("orm-y-down", {"format": "usdz", "name": "x"}, "tga"),
        ("spec-gloss", {"format": "materialx", "name": "x"}, "metallic/roughness"),
    ]:

        def add(content: dict[str, Any], document: Any = document) -> None:
            content["documents"] = [document]

        with pytest.raises(ValidationError, match=said):
            changed(target, add)


@pytest.mark.parametrize("name", ["2 walls & a door.x", "über-wall"])
def test_names_that_documents_do_not_allow_are_written_as_they_do(
    wall: Wall, tmp_path: Path, name: str
) -> None:
    export = plan_export(get_target("usd-preview"), wall.texture_set, wall.sizes)
    material = replace(
        material_of(export.texture_set, export.preset, export.size, export.files), name=name
    )
    path = tmp_path / "one.usda"
    path.write_bytes(encode_usda(material))
    stage = Usd.Stage.Open(str(path))
    assert stage.GetDefaultPrim().IsValid()
    (tmp_path / "one.mtlx").write_bytes(encode_materialx(material, "open_pbr"))
    materialx(tmp_path / "one.mtlx")


def test_a_document_that_was_cut_or_names_another_file_is_found(write: Write) -> None:
    for target, name, old, new in [
        ("gltf-metal-rough", "wall.gltf", "wall_orm.png", "wall_mro.png"),
        ("openpbr-separate", "wall.mtlx", "wall_height.png", "wall_depth.png"),
        ("usd-preview", "wall.usda", "wall_normal.png", "wall_flat.png"),
    ]:
        folder = write(get_target(target))
        text = (folder / name).read_text()
        (folder / name).write_text(text.replace(old, new))
        assert any(name in one and old in one for one in assay_folder(folder).problems())
        (folder / name).write_text(text[: len(text) // 2])
        assert any(name in one for one in assay_folder(folder).problems())
        (folder / name).unlink()
        assert any("missing" in one for one in assay_folder(folder).problems())
