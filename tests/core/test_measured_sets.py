"""Sets that are measured from pictures: planned, computed, prepared like any other."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass

import numpy as np
import pytest

from copper_sieve.core.errors import MeasureError, PlanError
from copper_sieve.core.graph.evaluate import evaluate
from copper_sieve.core.graph.geometry import geometry_of
from copper_sieve.core.graph.plan import plan
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Encoding, Float, Picture
from copper_sieve.core.ingest.light_captures import (
    ReadCapture,
    calibrated_captures,
    with_refined_lights,
)
from copper_sieve.core.measuring.measure import measure
from copper_sieve.core.measuring.stack import Capture
from copper_sieve.core.models.light_captures import BallSpec, CapturesSpec
from copper_sieve.core.models.measured_set import compose_measured, name_of
from copper_sieve.core.models.preparation import EvenLight, FrameSpec, Preparation, Seams
from copper_sieve.core.models.recipe import apply_recipe, recipe_of
from copper_sieve.core.models.texture_set import Derived, Imported, SetDefinition, compose
from copper_sieve.core.operations import get_operation
from copper_sieve.core.operations.declaration import SurfaceContext
from copper_sieve.demo import lamp_pictures as drawn
from copper_sieve.demo.noren import MOVED, SHADOWED, noren_lamps, noren_shots

SIDE = 96
LAMPS = drawn.ring_of_lamps(6)


@dataclass(frozen=True)
class Measured:
    """A drawn surface, its pictures, and a set that is measured from them."""

    true: drawn.SyntheticSurface
    pictures: dict[str, Picture]
    white: float
    definition: SetDefinition

    @property
    def sizes(self) -> dict[str, tuple[int, int]]:
        return {sha: one.size for sha, one in self.pictures.items()}

    def maps(self, definition: SetDefinition | None = None, **how: object) -> dict[MapKind, Float]:
        graph = plan(definition or self.definition, self.sizes, **how)  # type: ignore[arg-type]
        return {
            kind: one.pixels for kind, one in evaluate(graph, self.pictures.__getitem__).items()
        }


@pytest.fixture(scope="module")
def pebbles() -> Measured:
    rng = np.random.default_rng(5)
    true = drawn.pebbles(SIDE, rng)
    codes, white = drawn.pictures_of(true, LAMPS, rng)
    pictures = {
        hashlib.sha256(one.tobytes()).hexdigest(): Picture(one, ("R", "G", "B"), Encoding.SRGB)
        for one in codes
    }
    taken = [ReadCapture(sha, one) for sha, one in pictures.items()]
    captures = calibrated_captures(taken, lamps=LAMPS, static_camera=True, white=white)
    return Measured(true, pictures, white, compose_measured("bed", captures, (SIDE, SIDE)))


def angle(one: Float, other: Float) -> float:
    return float(np.degrees(np.arccos(np.clip((one * other).sum(-1), -1, 1))).mean())


def test_the_graph_gives_what_is_measured(pebbles: Measured) -> None:
    maps = pebbles.maps()
    lamps = [one.lamp.lamp() for one in _shots(pebbles.definition).captures]
    captures = [
        Capture(one.codes, lamp) for one, lamp in zip(pebbles.pictures.values(), lamps, strict=True)
    ]
    found = measure(captures, white=pebbles.white, static_camera=True)
    assert np.array_equal(maps[MapKind.NORMAL], found.normal)
    assert np.array_equal(maps[MapKind.BASE_COLOR], np.clip(found.color, 0, 1))
    assert np.array_equal(maps[MapKind.UNCERTAINTY], found.uncertainty)
    np.testing.assert_allclose(maps[MapKind.ROUGHNESS], found.roughness, atol=1e-6)
    assert set(maps) >= {MapKind.HEIGHT, MapKind.AMBIENT_OCCLUSION, MapKind.METALLIC}


def test_a_small_preview_is_that_of_the_whole(pebbles: Measured) -> None:
    small = pebbles.maps(longer_side=48, compute_side=48, wanted=[MapKind.NORMAL])
    whole = pebbles.true.normal.reshape(48, 2, 48, 2, 3).mean((1, 3))
    whole /= np.linalg.norm(whole, axis=-1, keepdims=True)
    assert angle(small[MapKind.NORMAL], whole) < 3


def test_keys_follow_what_is_said_of_the_pictures(pebbles: Measured) -> None:
    definition, captures = pebbles.definition, _shots(pebbles.definition)

    def key(said: CapturesSpec) -> str:
        changed = definition.model_copy(update={"captures": said})
        return plan(changed, pebbles.sizes).outputs[MapKind.NORMAL]

    first = captures.captures[0]
    turned = first.model_copy(update={"lamp": first.lamp.model_copy(update={"azimuth": 12.0})})
    out = first.model_copy(update={"used": False})
    guessed = first.model_copy(update={"light_origin": "estimated"})
    known = key(captures)
    assert key(_with_first(captures, turned)) != known
    assert key(_with_first(captures, out)) != known
    assert key(_with_first(captures, guessed)) == known
    assert key(captures.model_copy(update={"remarks": ("told",)})) == known
    # Nothing that is said of a picture that is left out counts.
    out_and_turned = turned.model_copy(update={"used": False})
    assert key(_with_first(captures, out)) == key(_with_first(captures, out_and_turned))
    other = compose_measured("bed", captures, (SIDE, SIDE)).model_dump_json()
    assert SetDefinition.model_validate_json(other) == definition


def test_a_turned_frame_turns_what_was_measured(pebbles: Measured) -> None:
    turned = pebbles.definition.model_copy(
        update={"prepare": Preparation(frame=FrameSpec(quarter_turns=1))}
    )
    plain, maps = pebbles.maps(), pebbles.maps(turned)
    was = np.rot90(plain[MapKind.NORMAL], -1)
    np.testing.assert_allclose(maps[MapKind.NORMAL][..., 0], was[..., 1], atol=1e-5)
    np.testing.assert_allclose(maps[MapKind.NORMAL][..., 1], -was[..., 0], atol=1e-5)
    expected = np.rot90(plain[MapKind.UNCERTAINTY], -1)
    np.testing.assert_allclose(maps[MapKind.UNCERTAINTY], expected, atol=1e-5)


def test_seams_are_closed_and_light_is_not_evened_twice(pebbles: Measured) -> None:
    lit = pebbles.definition.model_copy(update={"prepare": Preparation(light=EvenLight())})
    evened = pebbles.maps(lit, wanted=[MapKind.BASE_COLOR])
    plain = pebbles.maps(wanted=[MapKind.BASE_COLOR])
    np.testing.assert_allclose(evened[MapKind.BASE_COLOR], plain[MapKind.BASE_COLOR], atol=1e-5)
    seams = Preparation(seams=Seams(method="cut", overlap=(0.2, 0.2)))
    closed = pebbles.definition.model_copy(update={"prepare": seams})
    geometry = geometry_of(closed, pebbles.sizes)
    assert geometry.size == (77, 77)
    assert geometry.surface.wrap is True
    maps = pebbles.maps(closed, wanted=[MapKind.BASE_COLOR, MapKind.NORMAL])
    assert {one.shape[:2] for one in maps.values()} == {(77, 77)}


def test_slopes_that_are_in_doubt_are_guessed_from_the_color() -> None:
    """Where color is height, a guess is near the truth; where it says nothing, it is flat."""
    rng = np.random.default_rng(2)
    true = drawn.plaster(96, rng)
    level = (true.height - true.height.min()) / np.ptp(true.height)
    lost = np.zeros((96, 96), np.float32)
    lost[30:60, 20:70] = 1
    wrong = true.normal.copy()
    wrong[lost > 0] = (0.6, -0.3, 0.742)
    operation = get_operation("normal_from_captures")
    confidence = np.ones((96, 96, 1), np.float32)

    def off(color: Float) -> float:
        measured = np.concatenate([wrong, color, confidence, lost[..., None], confidence], 2)
        made = operation.compute(
            {"measured": measured.astype(np.float32)},  # type: ignore[dict-item]
            operation.resolve({"guessed": 1.0}), SurfaceContext(),
        )  # fmt: skip
        kept = lost == 0
        np.testing.assert_allclose(made[kept], true.normal[kept], atol=1e-4)
        return angle(made[lost > 0], true.normal[lost > 0])

    flat = angle(np.array([0, 0, 1], np.float32), true.normal[lost > 0])
    grey = np.repeat(0.1 + 0.8 * level[..., None], 3, 2)
    assert off(grey) < 0.8 * flat
    assert off(rng.uniform(0.3, 0.4, (96, 96, 3)).astype(np.float32)) < 1.05 * flat


def test_what_cannot_be_measured_is_said(pebbles: Measured) -> None:
    bare = pebbles.definition.model_copy(update={"captures": None})
    with pytest.raises(PlanError, match="requires light captures, but the set"):
        pebbles.maps(bare)
    captures = _shots(pebbles.definition)
    two = tuple(
        one.model_copy(update={"used": n < 2}) for n, one in enumerate(captures.captures)
    )  # fmt: skip
    few = pebbles.definition.model_copy(
        update={"captures": captures.model_copy(update={"captures": two})}
    )
    with pytest.raises(MeasureError, match="2 light captures are too few"):
        pebbles.maps(few)
    same = [captures.captures[0].model_dump()] * 3
    with pytest.raises(ValueError, match="the same picture was given twice"):
        CapturesSpec.model_validate({"captures": same})


def test_a_recipe_of_a_photo_leaves_what_is_measured(pebbles: Measured) -> None:
    """And a recipe of a measured set leaves a photo's maps."""
    photo = compose("photo", {MapKind.BASE_COLOR: Imported(source="a" * 64)})
    asked = Derived(operation="roughness_from_color")
    recipe = recipe_of(photo.with_map(MapKind.ROUGHNESS, asked), "r")
    applied = apply_recipe(recipe, pebbles.definition)
    measured = "it is measured from light captures"
    assert applied.kept[MapKind.ROUGHNESS] == applied.kept[MapKind.NORMAL] == measured
    assert applied.texture_set.maps[MapKind.HEIGHT] == recipe.maps[MapKind.HEIGHT]
    back = apply_recipe(recipe_of(pebbles.definition, "m"), photo)
    assert back.kept[MapKind.NORMAL] == "the set has no light captures"
    assert back.texture_set.maps[MapKind.NORMAL] == photo.maps[MapKind.NORMAL]


def test_a_ball_that_was_put_elsewhere_tells_nothing(pebbles: Measured) -> None:
    with pytest.raises(MeasureError, match="picture 1"):
        with_refined_lights(
            _shots(pebbles.definition), pebbles.pictures, "ball",
            BallSpec(x=0.5, y=0.5, radius=0.1, kind="shiny"),
        )  # fmt: skip


def test_a_set_is_called_by_what_its_pictures_share() -> None:
    assert name_of(["noren_01", "noren_02"]) == "noren"
    assert name_of(["IMG_0311", "IMG_0312"], "old wall") == "old_wall"
    assert name_of(["1", "2"]) == "surface"
    assert name_of(["Moss-a1", "Moss-b2"]) == "Moss"


def test_the_noren_was_looked_at_rightly() -> None:
    """What the demo keeps of its pictures is what they were drawn with."""
    captures = noren_shots([f"{n:064x}" for n in range(9)])
    assert [n for n, one in enumerate(captures.captures) if not one.used] == [SHADOWED]
    for one, lamp in zip(captures.captures, noren_lamps(), strict=True):
        assert np.degrees(np.arccos(one.lamp.lamp().unit @ lamp.unit)) < 1.5
    places = [one.placement.placement(512) for n, one in enumerate(captures.captures) if one.used]
    moved = places.pop(MOVED - 1)
    static_camera = np.mean([(one.right, one.down) for one in places], axis=0)
    np.testing.assert_allclose([moved.right, moved.down] - static_camera, (1.1, -0.6), atol=0.1)
    assert moved.rotation - np.mean([one.rotation for one in places]) == pytest.approx(
        0.15, abs=0.02
    )


def _shots(definition: SetDefinition) -> CapturesSpec:
    assert definition.captures
    assert isinstance(definition.maps[MapKind.NORMAL], Derived)
    return definition.captures


def _with_first(captures: CapturesSpec, first: object) -> CapturesSpec:
    return captures.model_copy(update={"captures": (first, *captures.captures[1:])})
