"""Every map kind from its file name to documents and back: nothing to be registered elsewhere."""

from __future__ import annotations

import json
from pathlib import Path

import cv2
import numpy as np
import pytest
from pxr import Usd, UsdShade

from copper_sieve.core.codecs.gltf_materials import GltfMaterial, gltf_materials
from copper_sieve.core.codecs.gltf_textures import gltf_textures
from copper_sieve.core.detection.names import read_name
from copper_sieve.core.export.assay import assay_folder
from copper_sieve.core.export.deliver import deliver
from copper_sieve.core.export.planning import plan_export
from copper_sieve.core.graph.evaluate import evaluate, picture_to_map
from copper_sieve.core.graph.plan import plan
from copper_sieve.core.image.map_kind import KindGroup, MapKind, Meaning
from copper_sieve.core.image.raster import Encoding, Picture
from copper_sieve.core.image.reduction import reduce_picture
from copper_sieve.core.models.blending import BlendInput, blend_definitions
from copper_sieve.core.models.texture_set import Constant, Derived, Imported, SetDefinition
from copper_sieve.core.operations import OPERATIONS
from copper_sieve.core.targets.catalog import get_target
from copper_sieve.core.targets.target_preset import TargetPreset
from tests.core.test_documents import gltf_report, materialx, usd_errors

SIDE = 16
OWN = MapKind.mask("Edge wear")
KINDS = [*MapKind, OWN]
_IN_GLTF = [kind for kind in KINDS if kind.facts.gltf and kind.facts.gltf.texture]
_OF_CORE = {
    MapKind.BASE_COLOR, MapKind.METALLIC, MapKind.ROUGHNESS, MapKind.NORMAL, MapKind.EMISSIVE,
    MapKind.AMBIENT_OCCLUSION, MapKind.OPACITY,
}  # fmt: skip


def picture_of(kind: MapKind) -> Picture:
    """A picture that could be such a map, unlike that of any other kind."""
    rng = np.random.default_rng(KINDS.index(kind))
    if kind.facts.meaning is Meaning.NORMAL:
        angle = rng.uniform(-0.5, 0.5, (SIDE, SIDE))
        lean = 1.0 if kind.facts.planar else 0.3
        vectors = np.stack([np.cos(angle) * lean, np.sin(angle) * lean, np.full_like(angle, 0)], 2)
        vectors[:, :, 2] = np.sqrt(np.maximum(1 - (vectors[:, :, :2] ** 2).sum(2), 0))
        codes = np.floor((vectors * 0.5 + 0.5) * 255 + 0.5)
    else:
        codes = rng.integers(1, 255, (SIDE, SIDE, 1 if kind.facts.multiplies else 3))
    names = ("R", "G", "B") if codes.shape[2] == 3 else ("Y",)
    return Picture(codes.astype(np.uint8), names, _encoding(kind))


def _encoding(kind: MapKind) -> Encoding:
    return Encoding.SRGB if kind.facts.meaning is Meaning.COLOR else Encoding.LINEAR


PICTURES = {f"{n:064x}": picture_of(kind) for n, kind in enumerate(KINDS)}
SIZES = dict.fromkeys(PICTURES, (SIDE, SIDE))


def imported(kind: MapKind) -> Imported:
    """The map of a kind from its picture."""
    channels = "R" if kind.facts.multiplies else "RG" if kind.facts.planar else "RGB"
    source = list(PICTURES)[KINDS.index(kind)]
    return Imported(source=source, channels=channels, encoding=_encoding(kind))


def whole() -> SetDefinition:
    """A set with a map of every kind."""
    return SetDefinition(name="all", maps={kind: imported(kind) for kind in KINDS})


def _delivered(preset: TargetPreset, texture_set: SetDefinition, folder: Path) -> Path:
    export = plan_export(preset, texture_set, SIZES)
    deliver(export, folder, sizes=SIZES, load_source=PICTURES.__getitem__, token="t")
    assert assay_folder(folder).ok
    return folder


def test_facts_are_whole() -> None:
    words = [word for kind in MapKind for level in kind.facts.spellings for word in level.split()]
    assert len(set(words)) == len(words)
    for kind in MapKind:
        facts = kind.facts
        assert facts.title
        assert len(facts.neutral) == len(facts.components)
        assert all(MapKind.of(other) for other in facts.ranged_from)
        assert kind.widened_by is None or kind.widened_by.facts.meaning is Meaning.NORMAL
        assert bool(facts.widened_by) == (facts.reduction in {"roughness", "glossiness"})


@pytest.mark.parametrize("kind", [one for one in MapKind if one.facts.spellings])
def test_a_kind_is_read_from_its_spellings(kind: MapKind) -> None:
    for words, due in zip(kind.facts.spellings, (0.9, 0.9, 0.5, 0.5), strict=False):
        for word in words.split():
            read = read_name(f"old_wall_{word}")
            assert (read.kind, read.confidence >= due) == (kind, True), word


def test_every_kind_can_be_made_from_a_range_or_has_another_way() -> None:
    ranged = {kind for kind in KINDS if KindGroup.RANGES.holds(kind)}
    made = {kind for one in OPERATIONS.values() for kind in KINDS if one.makes(kind)}
    assert made == set(KINDS)
    assert OWN in ranged
    for kind in ranged:
        way = OPERATIONS["value_from_range"].making(kind)
        (slot,) = way.slots
        assert slot.prefers
        made_by = Derived(operation=way.name, slots={"map": imported(MapKind.BASE_COLOR)})
        one = SetDefinition(name="one", maps={kind: made_by}).checked()
        pixels = evaluate(plan(one, SIZES), PICTURES.__getitem__)[kind].pixels
        assert (pixels.min(), pixels.max(), pixels.shape) == (
            pytest.approx(0, abs=0.2), pytest.approx(1, abs=0.2), (SIDE, SIDE, 1)
        )  # fmt: skip


def test_two_sets_with_every_kind_blend() -> None:
    below, above = whole(), whole().model_copy(update={"name": "above"})
    parts = [BlendInput(one, one.surface, 0.01, (SIDE, SIDE)) for one in (below, above)]
    mixed = blend_definitions("mixed", *parts)
    assert set(mixed.maps) == {*KINDS, MapKind("mask_5")}
    found = evaluate(plan(mixed, SIZES), PICTURES.__getitem__)
    for kind in KINDS:  # equal below and above
        due = picture_to_map(PICTURES[imported(kind).source], kind, imported(kind))
        np.testing.assert_allclose(found[kind].pixels, due.pixels, atol=2e-2 if kind.facts.planar
                                   else 1e-5)  # fmt: skip


def test_every_kind_is_packed_and_read_back_to_the_code(tmp_path: Path) -> None:
    files = [
        {"name": "{set}_{suffix}", "suffix": kind.value, "format": "png", "bits": 8,
         "encoding": _encoding(kind).value,
         "channels": {letter: {"map": kind.value, "component": component, "if_missing": "stop"}
                      for letter, component in zip("RGB", kind.facts.components, strict=False)}}
        for kind in KINDS
    ]  # fmt: skip
    preset = TargetPreset.model_validate(
        {"id": "each", "title": "Each", "normal_y": "up", "files": files}
    )
    folder = _delivered(preset, whole(), tmp_path / "out")
    for kind in KINDS:
        written = cv2.imread(str(folder / f"all_{kind}.png"), cv2.IMREAD_UNCHANGED)
        codes = PICTURES[imported(kind).source].codes
        found = written[:, :, None] if written.ndim == 2 else written[:, :, ::-1]
        if kind.facts.planar:
            found, codes = found[:, :, :2], codes[:, :, :2]
        assert np.abs(found.astype(int) - codes).max() <= (1 if kind.facts.planar else 0), kind
    kept = json.loads((folder / "manifest.json").read_text())
    assert OWN in {slot["map"] for file in kept["files"] for slot in file["channels"]}


def _read_back(folder: Path) -> GltfMaterial:
    (material,), _ = gltf_materials(folder / "all.glb")
    return material


def test_gltf_extensions_contain_their_maps_and_give_them_back(tmp_path: Path) -> None:
    folder = _delivered(get_target("gltf-extended"), whole(), tmp_path / "out")
    for ending in ("glb", "gltf"):
        assert gltf_report(folder / f"all.{ending}")["issues"]["messages"] == []
    material, read = gltf_materials(folder / "all.glb")
    (made,) = material
    assert set(made.pictures) == {*_IN_GLTF, *_OF_CORE}
    assert [one for one in made.remarks if "thickness texture" not in one] == []
    for kind in _IN_GLTF:
        use = made.pictures[kind]
        data, _ = read(use.image)
        codes = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_UNCHANGED)
        codes = codes[:, :, [2, 1, 0, 3][: codes.shape[2]]]
        found = codes[:, :, ["RGBA".index(letter) for letter in use.channels]]
        due = PICTURES[imported(kind).source].codes[:, :, : len(use.channels)]
        assert np.abs(found.astype(int) - due).max() <= 1, kind
        assert use.encoding is _encoding(kind)
    # The same pictures as files: their names tell what each channel contains.
    held: set[MapKind | None] = set()
    for texture in gltf_textures(folder / "all.glb"):
        name = read_name(Path(texture.name).stem)
        held |= set(name.packed or ()) | {name.kind}
    assert held >= set(_IN_GLTF)


def test_constants_become_factors_of_extensions_and_are_read_back(tmp_path: Path) -> None:
    values: dict[MapKind, Constant] = {}
    for n, kind in enumerate(MapKind):
        place = kind.facts.gltf
        if place and place.factor and not place.in_widths:
            count = len(kind.facts.components)
            values[kind] = Constant(value=tuple((n + one) / 64 for one in range(count)))
    values[MapKind.ANISOTROPY_DIRECTION] = Constant(value=(0.6, 0.8, 0.0))
    values[MapKind.F0] = Constant(value=(0.02,))
    maps = {MapKind.BASE_COLOR: imported(MapKind.BASE_COLOR), **values}
    preset = get_target("gltf-metal-rough")
    folder = _delivered(preset, SetDefinition(name="all", maps=maps), tmp_path / "out")
    report = gltf_report(folder / "all.gltf")["issues"]["messages"]
    assert report == []
    made = _read_back(folder)
    for kind, constant in values.items():
        assert made.constants[kind] == pytest.approx(constant.value, abs=1e-6), kind
    remarks = " ".join(json.loads((folder / "manifest.json").read_text())["remarks"])
    assert "sheen color" in remarks
    assert "a value in the documents, not a file" in remarks
    assert "no channel for" not in remarks


@pytest.mark.parametrize("model", ["open_pbr", "standard_surface"])
def test_materialx_surfaces_read_every_map_they_have_an_input_for(
    model: str, tmp_path: Path
) -> None:
    preset = get_target("openpbr-extended")
    document = preset.documents[0].model_copy(update={"model": model})
    preset = preset.model_copy(update={"documents": (document,)})
    folder = _delivered(preset, whole(), tmp_path / "out")
    read = materialx(folder / "all.mtlx")
    (surface,) = read.getNodes(f"{model}_surface" if model == "open_pbr" else model)
    declared = surface.getNodeDef()
    for kind in KINDS:
        if name := getattr(kind.facts, model):
            given = surface.getInput(name)
            assert given.getConnectedOutput(), name
            assert declared.getActiveInput(name).getType() == given.getType()
        if kind.facts.turned_on_by:
            switch = kind.facts.turned_on_by[model == "standard_surface"]
            assert surface.getInput(switch).getValue() == 1
    for given in surface.getInputs():
        assert declared.getActiveInput(given.getName()), given.getName()


def test_a_usd_surface_reads_every_map_it_has_an_input_for(tmp_path: Path) -> None:
    preset = get_target("openpbr-extended")
    document = preset.documents[0].model_copy(update={"format": "usda"})
    preset = preset.model_copy(update={"documents": (document,)})
    folder = _delivered(preset, whole(), tmp_path / "out")
    stage = Usd.Stage.Open(str(folder / "all.usda"))
    assert usd_errors(stage) == []
    shader = UsdShade.Shader(stage.GetPrimAtPath("/all/Material/Surface"))
    for kind in (MapKind.CLEARCOAT, MapKind.CLEARCOAT_ROUGHNESS, MapKind.ROUGHNESS):
        assert shader.GetInput(kind.facts.usd).HasConnectedSource()


def test_what_a_document_cannot_contain_is_told(tmp_path: Path) -> None:
    files = [
        {"name": "{set}_{suffix}", "suffix": kind, "format": "png", "bits": 8,
         "encoding": "linear", "channels": {"R": {"map": kind}}}
        for kind in ("sheen_roughness", "subsurface", "porosity")
    ]  # fmt: skip
    preset = TargetPreset.model_validate(
        {"id": "few", "title": "Few", "normal_y": "up", "files": files,
         "documents": [{"format": "gltf", "name": "{set}"}]}
    )  # fmt: skip
    export = plan_export(preset, whole(), SIZES)
    told = [one.text for one in export.remarks if "doesn't refer to" in one.text]
    assert told == [
        "all.gltf doesn't refer to sheen roughness and subsurface, which it needs in other channels"
    ]


@pytest.mark.parametrize("word", ["", "!", "x" * 41])
def test_a_mask_needs_a_name(word: str) -> None:
    with pytest.raises(ValueError, match="mask"):
        MapKind.mask(word)


def test_masks_with_own_names_are_kinds() -> None:
    assert OWN == "mask_edge_wear"
    assert MapKind("mask_edge_wear") is OWN
    assert MapKind.mask("Mask 2".removeprefix("Mask ")) is MapKind.MASK_2
    assert OWN.facts.title == "Mask edge wear"
    assert MapKind.mask("Größe") == "mask_grösse"
    for wrong in ("mask", "mask_", "mask_Dust", "mask__dust", "mask_dust_", "dust", "mask_a b"):
        assert MapKind.of(wrong) is None
    assert MapKind.in_order([OWN, MapKind.MASK_4, MapKind.METALLIC]) == [
        MapKind.METALLIC, MapKind.MASK_4, OWN,
    ]  # fmt: skip


def test_maps_from_one_picture_are_reduced_each_in_its_own_way() -> None:
    """A mask, a roughness and a glossiness from one file, beside a normal map."""
    gray, normal = imported(MapKind.MASK_1), imported(MapKind.NORMAL)
    kinds = (MapKind.MASK_1, MapKind.ROUGHNESS, MapKind.GLOSSINESS, MapKind.OPACITY)
    maps = {**dict.fromkeys(kinds, gray), MapKind.NORMAL: normal}
    one = SetDefinition(name="one", maps=maps)
    graph = plan(one, SIZES, longer_side=SIDE // 4, reduction="appearance")
    found = evaluate(graph, PICTURES.__getitem__)
    for kind in kinds:
        both = {kind: gray, MapKind.NORMAL: normal}
        whole_maps = {k: picture_to_map(PICTURES[way.source], k, way) for k, way in both.items()}
        alone = reduce_picture(whole_maps, SIDE // 4, SIDE // 4)[kind]
        np.testing.assert_allclose(found[kind].pixels, alone.pixels, atol=1e-6, err_msg=kind)
