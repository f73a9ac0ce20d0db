"""Color difference against published values; the shader by hand; conversions proved on the demo."""

from __future__ import annotations

import numpy as np
import pytest

from copper_sieve.core.export.channels import Conventions, pack_codes
from copper_sieve.core.export.file_maps import quantized_as_written
from copper_sieve.core.export.planning import plan_export
from copper_sieve.core.graph.evaluate import evaluate
from copper_sieve.core.graph.plan import plan
from copper_sieve.core.image.color_difference import delta_e_2000, to_lab
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.lighting.shading import Material, shade
from copper_sieve.core.targets.catalog import get_target
from copper_sieve.core.targets.target_preset import TargetPreset
from copper_sieve.core.tools.conversion_check import BEFORE, Proof, check_conversion, lit_maps
from copper_sieve.demo.lantern_row import SCENARIOS
from tests.core.rooms import room_of

# From table 1 of Sharma, Wu and Dalal 2005: two colors and their difference.
PUBLISHED = [
    ((50, 2.6772, -79.7751), (50, 0, -82.7485), 2.0425),
    ((50, 3.1571, -77.2803), (50, 0, -82.7485), 2.8615),
    ((50, 2.8361, -74.0200), (50, 0, -82.7485), 3.4412),
    ((50, 0, 0), (50, -1, 2), 2.3669),
    ((50, 2.49, -0.001), (50, -2.49, 0.0009), 7.1792),
    ((50, 2.49, -0.001), (50, -2.49, 0.0011), 7.2195),
    ((50, -0.001, 2.49), (50, 0.0009, -2.49), 4.8045),
    ((50, 2.5, 0), (73, 25, -18), 27.1492),
    ((50, 2.5, 0), (58, 24, 15), 19.4535),
    ((60.2574, -34.0099, 36.2677), (60.4626, -34.1751, 39.4387), 1.2644),
    ((22.7233, 20.0904, -46.6940), (23.0331, 14.9730, -42.5619), 2.0373),
    ((2.0776, 0.0795, -1.1350), (0.9033, -0.0636, -0.5514), 0.9082),
]


@pytest.mark.parametrize(("one", "other", "due"), PUBLISHED)
def test_the_published_differences(one: tuple, other: tuple, due: float) -> None:
    a, b = np.array(one, float), np.array(other, float)
    assert float(delta_e_2000(a, b)) == pytest.approx(due, abs=1e-4)
    assert float(delta_e_2000(b, a)) == pytest.approx(due, abs=1e-4)
    assert float(delta_e_2000(a, a)) == 0


def test_lab_of_known_lights() -> None:
    np.testing.assert_allclose(to_lab(np.ones(3)), [100, 0, 0], atol=1e-3)
    np.testing.assert_allclose(to_lab(np.zeros(3)), [0, 0, 0], atol=1e-6)
    np.testing.assert_allclose(to_lab(np.full(3, 0.18418652)), [50, 0, 0], atol=1e-3)
    # sRGB red in D65.
    np.testing.assert_allclose(to_lab(np.array([1.0, 0, 0])), [53.24, 80.09, 67.20], atol=0.02)


def plain(f0: float, roughness: float, diffuse: float = 0.0) -> Material:
    shape = (1, 1, 3)
    normal = np.zeros(shape, np.float32)
    normal[..., 2] = 1
    return Material(
        np.full(shape, diffuse, np.float32), np.full(shape, f0, np.float32),
        np.full((1, 1, 1), roughness, np.float32), normal,
    )  # fmt: skip


def test_the_shader_behaves_as_light_does() -> None:
    # A flat matt white gives back of the lights what lies along them, and of the sky its share.
    lights = [((0.45, 0.55, 0.70), 2.6), ((-0.65, 0.15, 0.75), 1.2), ((0.1, -0.75, 0.65), 0.8)]
    along = sum(s * d[2] / np.linalg.norm(d) for d, s in lights) / np.pi + 0.35
    assert shade(plain(0, 1.0, 1.0))[0, 0, 0] == pytest.approx(along, rel=0.02)
    # Smooth metal that faces no light is darker than a rough one, and brighter where it mirrors.
    assert shade(plain(0.9, 0.1))[0, 0, 0] < shade(plain(0.9, 0.5))[0, 0, 0]
    mirror = plain(0.9, 0.2)
    half = np.array([0.45, 0.55, 0.70]) / np.linalg.norm([0.45, 0.55, 0.70]) + (0, 0, 1)
    mirror.normal[0, 0] = half / np.linalg.norm(half)
    assert shade(mirror)[0, 0, 0] > 20 * shade(plain(0.9, 0.2))[0, 0, 0]


def proved(room: str, target: str | TargetPreset) -> Proof | None:
    set_of = room_of(room)
    sizes = set_of.sizes
    export = plan_export(
        get_target(target) if isinstance(target, str) else target,
        set_of.texture_set, sizes, longer_side=128,
    )  # fmt: skip
    wanted = dict.fromkeys((*export.wanted, *BEFORE))
    rasters = evaluate(
        plan(export.texture_set, sizes, wanted=wanted, longer_side=128), set_of.pictures.__getitem__
    )
    files = {
        f.name: quantized_as_written(pack_codes(f, rasters, Conventions.of(export)), f.spec)
        for f in export.files
    }
    before, after = lit_maps(export, rasters, files)
    for kind in set(before) & set(after):  # a lit window shows what the proof is about
        assert before[kind].pixels.shape == after[kind].pixels.shape
    return check_conversion(export, rasters, files)


@pytest.mark.parametrize("room", sorted(SCENARIOS))
@pytest.mark.parametrize("target", ["spec-gloss", "metal-smooth-alpha-y-up", "mra-y-down"])
def test_the_demo_sets_look_the_same_after_conversion(room: str, target: str) -> None:
    proof = proved(room, target)
    assert proof
    assert proof.before.std() > 0
    assert proof.mean <= 1
    assert proof.largest <= 8


def test_a_proof_sees_what_is_wrong(monkeypatch: pytest.MonkeyPatch) -> None:
    good = proved("hammered_copper", "spec-gloss")
    assert good
    from copper_sieve.core.operations import OPERATIONS

    class Wrong:
        """Glossiness that was not inverted."""

        def __call__(self, inputs: dict, parameters: dict, surface: object) -> np.ndarray:
            return inputs[MapKind.ROUGHNESS]

    from dataclasses import replace

    changed = replace(OPERATIONS["glossiness_from_roughness"], compute=Wrong())
    monkeypatch.setitem(OPERATIONS, "glossiness_from_roughness", changed)
    # The demo's copper came with its glossiness; a set without it shows the fault.
    bad = proved("cedar_lattice", "spec-gloss")
    assert bad
    assert bad.mean > 3
    assert good.mean < 1


def test_a_proof_shows_what_a_lossy_file_loses() -> None:
    def blocks(way: str) -> TargetPreset:
        content = get_target("mra-y-down").model_dump(mode="json")
        for file in content["files"]:
            file |= {"format": "dds", "compression": way}
        return TargetPreset.model_validate(content)

    exact, best, coarse = (proved("terrazzo_counter", blocks(w)) for w in ("none", "bc7", "bc1"))
    assert exact and best and coarse
    assert exact.mean < best.mean < coarse.mean


def test_a_specular_target_may_tell_roughness_instead_of_gloss() -> None:
    stored = get_target("spec-gloss").model_dump_json().replace("glossiness", "roughness")
    rough = proved("hammered_copper", TargetPreset.model_validate_json(stored))
    gloss = proved("hammered_copper", "spec-gloss")
    assert rough
    assert gloss
    np.testing.assert_allclose(rough.after, gloss.after, atol=0.01)


def test_files_that_make_no_material_prove_nothing() -> None:
    assert proved("cedar_lattice", "voxel-pack-classic") is not None
    assert proved("cedar_lattice", "voxel-pack-two-file") is None


def test_z_that_a_file_leaves_out_is_built_again_for_the_proof() -> None:
    def with_two(channels: str) -> TargetPreset:
        content = get_target("separate-png").model_dump(mode="json") | {"id": "made"}
        for file in content["files"]:
            slots = file["channels"]
            if slots["R"]["map"] == "normal":
                for letter in set(slots) - set(channels):
                    slots[letter] = {"constant": 1.0}
        return TargetPreset.model_validate(content)

    whole, two = (proved("hammered_copper", with_two(one)) for one in ("RGB", "RG"))
    assert whole and two
    assert two.mean < 1.5 * whole.mean + 0.05
