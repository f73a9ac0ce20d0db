"""Maps of one value in material documents: values instead of pictures, valid in each format."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest
from pxr import Usd, UsdShade

from copper_sieve.core.export.deliver import deliver
from copper_sieve.core.export.planning import plan_export
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.models.texture_set import Constant
from copper_sieve.core.targets.catalog import get_target
from copper_sieve.core.targets.target_preset import TargetPreset
from tests.core.conftest import Wall
from tests.core.test_documents import gltf_report, materialx, spoken, usd_errors


def test_what_no_file_holds_is_given_as_a_value(wall: Wall, tmp_path: Path) -> None:
    """A set whose metallic is one value, for a target without a file for it."""
    content = get_target("openpbr-separate").model_dump(mode="json")
    kept = [one for one in content["files"] if one["suffix"] in ("base_color", "normal")]
    formats = ("materialx", "usda", "gltf")
    content |= {"id": "few", "files": kept,
                "documents": [{"format": one, "name": "{set}"} for one in formats]}  # fmt: skip
    values = {MapKind.METALLIC: (1.0,), MapKind.ROUGHNESS: (0.25,)}
    texture_set = wall.texture_set
    for kind, value in values.items():
        texture_set = texture_set.with_map(kind, Constant(value=value))
    export = plan_export(TargetPreset.model_validate(content), texture_set, wall.sizes)
    deliver(export, tmp_path / "out", sizes=wall.sizes, load_source=wall.load, token="t")
    document = materialx(tmp_path / "out" / "wall.mtlx")
    (surface,) = document.getNodes("open_pbr_surface")
    assert surface.getInput("base_metalness").getValue() == 1
    assert surface.getInput("specular_roughness").getValue() == 0.25
    stage = Usd.Stage.Open(str(tmp_path / "out" / "wall.usda"))
    assert usd_errors(stage) == []
    shader = UsdShade.Shader(stage.GetPrimAtPath("/wall/Material/Surface"))
    assert (shader.GetInput("metallic").Get(), shader.GetInput("roughness").Get()) == (1, 0.25)
    pbr = json.loads((tmp_path / "out" / "wall.gltf").read_text())["materials"][0]
    assert pbr["pbrMetallicRoughness"]["metallicFactor"] == 1
    assert pbr["pbrMetallicRoughness"]["roughnessFactor"] == 0.25
    assert spoken(gltf_report(tmp_path / "out" / "wall.gltf")) == []


def _flat(target: str, document: str, **change: Any) -> TargetPreset:
    """A target with a normal map and nothing else, and a document."""
    content = get_target(target).model_dump(mode="json")
    kept = [one for one in content["files"] if one["suffix"] == "normal"]
    kept = [{**one, "format": "png", "bits": 8} for one in kept]
    content |= {"id": "flat", "files": kept, **change}
    content["documents"] = [{"format": document, "name": "{set}"}]
    return TargetPreset.model_validate(content)


def test_maps_of_one_value_become_values_of_the_document(wall: Wall, tmp_path: Path) -> None:
    values: dict[MapKind, tuple[float, ...]] = {
        MapKind.BASE_COLOR: (0.2, 0.4, 0.6), MapKind.DIFFUSE: (0.1, 0.1, 0.1),
        MapKind.SPECULAR_COLOR: (0.5, 0.4, 0.3), MapKind.METALLIC: (0.0,),
        MapKind.ROUGHNESS: (0.3,), MapKind.GLOSSINESS: (0.7,), MapKind.OPACITY: (0.5,),
        MapKind.HEIGHT: (0.5,), MapKind.EMISSIVE: (2.0, 0.5, 0.0),
    }  # fmt: skip
    texture_set = wall.texture_set
    for kind, value in values.items():
        texture_set = texture_set.with_map(kind, Constant(value=value))

    def made(preset: TargetPreset, ending: str) -> Path:
        export = plan_export(preset, texture_set, wall.sizes)
        folder = tmp_path / ending
        deliver(export, folder, sizes=wall.sizes, load_source=wall.load, token="t")
        return next(folder.glob(f"wall.{ending}"))

    document = materialx(made(_flat("openpbr-separate", "materialx"), "mtlx"))
    (surface,) = document.getNodes("open_pbr_surface")
    assert tuple(surface.getInput("base_color").getValue()) == pytest.approx((0.2, 0.4, 0.6))
    assert surface.getInput("geometry_opacity").getValue() == 0.5
    assert surface.getInput("emission_luminance").getValue() == 1
    preset = _flat("openpbr-separate", "materialx")
    of_model = preset.documents[0].model_copy(update={"model": "standard_surface"})
    preset = preset.model_copy(update={"documents": (of_model,)})
    document = materialx(made(preset, "mtlx"))
    (surface,) = document.getNodes("standard_surface")
    assert tuple(surface.getInput("opacity").getValue()) == (0.5, 0.5, 0.5)
    assert surface.getInput("metalness").getValue() == 0
    for workflow, color in (("metal_rough", (0.2, 0.4, 0.6)), ("spec_gloss", (0.1, 0.1, 0.1))):
        preset = _flat("usd-preview", "usda", workflow=workflow)
        stage = Usd.Stage.Open(str(made(preset, "usda")))
        stage.Reload()
        assert usd_errors(stage) == []
        shader = UsdShade.Shader(stage.GetPrimAtPath("/wall/Material/Surface"))
        assert tuple(shader.GetInput("diffuseColor").Get()) == pytest.approx(color)
        assert shader.GetInput("roughness").Get() == pytest.approx(0.3)
        assert not shader.GetInput("displacement")  # a level is no relief
    path = made(_flat("gltf-metal-rough", "gltf"), "gltf")
    (material,) = json.loads(path.read_text())["materials"]
    assert material["pbrMetallicRoughness"]["baseColorFactor"] == [0.2, 0.4, 0.6, 0.5]
    assert material["alphaMode"] == "BLEND"
    assert material["emissiveFactor"] == [1.0, 0.5, 0.0]
    assert spoken(gltf_report(path)) == []
    # Under a texture the opacity still counts, but not under one whose alpha is something else.
    content = get_target("gltf-metal-rough").model_dump(mode="json")
    content["documents"] = [{"format": "gltf", "name": "{set}"}]
    color = content["files"][0]["channels"]
    for alpha, due in ((None, 0.5), ({"map": "height"}, 1.0)):
        color.pop("A", None)
        content["id"] = "alpha" if alpha else "none"
        if alpha:
            color["A"] = alpha
        path = made(TargetPreset.model_validate(content), "gltf")
        (material,) = json.loads(path.read_text())["materials"]
        factor = material["pbrMetallicRoughness"]["baseColorFactor"]
        assert (factor[-1], material["alphaMode"]) == (due, "BLEND" if due < 1 else "OPAQUE")
        assert spoken(gltf_report(path)) == []
