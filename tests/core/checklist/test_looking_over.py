"""Whole sets looked over: each rule on a set made for it, and the set once it is mended."""

from __future__ import annotations

from collections.abc import Mapping

import cv2
import numpy as np
import pytest

from copper_sieve.core.checklist.check import check_set, checklist_key
from copper_sieve.core.checklist.normals import check_normals
from copper_sieve.core.image.encoding import linear_to_srgb
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Codes, Encoding, Picture
from copper_sieve.core.models.file_facts import FileFacts
from copper_sieve.core.models.finding import TITLES, Finding, Fix
from copper_sieve.core.models.texture_set import Constant, Derived, Imported, SetDefinition
from copper_sieve.store.cache import MemoryCache
from tests.core.recognition.maps import encoded, jpeg, normals, relief

SIDE = 256
COLOR, ROUGH, GLOSS = MapKind.BASE_COLOR, MapKind.ROUGHNESS, MapKind.GLOSSINESS
NORMAL, HEIGHT, METAL = MapKind.NORMAL, MapKind.HEIGHT, MapKind.METALLIC


class Sources:
    """Pictures by made-up hashes, with the facts of their files."""

    def __init__(self) -> None:
        self.pictures: dict[str, Picture] = {}
        self.files: dict[str, FileFacts] = {}

    def add(self, values: np.ndarray, name: str, *, color: bool = False) -> Imported:
        """Values in [0, 1] as they are stored, (H, W) or (H, W, 3), as an 8-bit file."""
        codes: Codes = np.round(np.clip(values, 0, 1) * 255).astype(np.uint8)
        codes = codes if codes.ndim == 3 else codes[:, :, None]
        channels = ("R", "G", "B") if codes.shape[2] == 3 else ("Y",)
        encoding = Encoding.SRGB if color else Encoding.LINEAR
        sha = f"{len(self.pictures):064x}"
        self.pictures[sha] = Picture(codes, channels, encoding)
        self.files[sha] = FileFacts(
            file_name=name, format="png", width=codes.shape[1], height=codes.shape[0],
            channels=channels, bit_depth=8, floating=False, encoding=encoding,
            encoding_source="assumed", bytes=1,
        )  # fmt: skip
        letters = "RGB" if len(channels) == 3 else "R"
        return Imported(source=sha, channels=letters, encoding=encoding)

    def look(self, texture_set: SetDefinition) -> list[Finding]:
        files = {sha: self.files[sha] for sha in texture_set.sources()}
        return check_set(texture_set.checked(), files, self.pictures.__getitem__, MemoryCache())


@pytest.fixture
def sources() -> Sources:
    return Sources()


def grey(values: np.ndarray) -> np.ndarray:
    return np.repeat(values[:, :, None], 3, axis=2)


def quiet_color() -> np.ndarray:
    """Stored sRGB values about the middle, of a tile."""
    return grey(0.35 + 0.3 * relief("rough", 1, SIDE))


def a_set(maps: Mapping[MapKind, object], **more: object) -> SetDefinition:
    surface = {"wrap": True}
    return SetDefinition.model_validate({"name": "one", "surface": surface, "maps": maps, **more})


def rules(findings: list[Finding]) -> list[str]:
    return [one.rule for one in findings]


def fixed(texture_set: SetDefinition, findings: list[Finding]) -> SetDefinition:
    fix = findings[0].fix
    assert fix is not None
    return fix.applied(texture_set).checked()


def test_a_quiet_set_has_nothing_wrong(sources: Sources) -> None:
    field = relief("bricks", 2, SIDE)
    maps = {
        COLOR: sources.add(quiet_color(), "wall_color.png", color=True),
        NORMAL: sources.add(encoded(normals(field, 0.6, down=False)) / 255, "wall_normal.png"),
        HEIGHT: sources.add(field, "wall_height.png"),
        ROUGH: sources.add(0.8 - 0.3 * field, "wall_roughness.png"),
        METAL: Constant(value=(0.0,)),
    }
    assert sources.look(a_set(maps)) == []


def test_colors_beyond_what_surfaces_reflect_are_brought_into_range(sources: Sources) -> None:
    color = quiet_color()
    color[SIDE // 3 : 2 * SIDE // 3] *= 0.1
    color[SIDE // 2, SIDE // 2 :] = 0  # wholly black as well
    one = a_set({COLOR: sources.add(color, "coal.png", color=True)})
    found = sources.look(one)
    assert rules(found) == ["implausible_color"]
    assert "33% of the base color is darker than charcoal" in found[0].text
    assert found[0].weight == "warning"
    assert sources.look(fixed(one, found)) == []
    # Otherwise it stays as it is: nothing of its light, its crevices and its glints is evened.
    (fix,) = [each.fix for each in found if each.fix]
    limited = fix.maps[COLOR]
    assert isinstance(limited, Derived)
    assert limited.parameters == {
        "delight": 0,
        "crevices": 0,
        "highlights": 0,
        "plausible_range": True,
    }


def test_what_a_cut_out_hides_and_metal_count_for_nothing(sources: Sources) -> None:
    color = quiet_color()
    color[:, : SIDE // 2] = 0
    open_there = np.zeros((SIDE, SIDE))
    open_there[:, SIDE // 2 :] = 1
    maps = {
        COLOR: sources.add(color, "leaf.png", color=True),
        MapKind.OPACITY: sources.add(open_there, "leaf_opacity.png"),
    }
    assert sources.look(a_set(maps)) == []


def test_metal_that_is_darker_than_metals_are(sources: Sources) -> None:
    maps = {
        COLOR: sources.add(quiet_color() * 0.8, "pipe.png", color=True),
        METAL: sources.add(np.ones((SIDE, SIDE)), "pipe_metallic.png"),
    }
    found = sources.look(a_set(maps))
    assert rules(found) == ["dark_metal"]
    light = np.median(sources.pictures[maps[COLOR].source].codes / 255.0)
    assert f"{((light + 0.055) / 1.055) ** 2.4:.0%}" in found[0].evidence


def test_bare_copper_is_no_dark_metal(sources: Sources) -> None:
    copper = np.broadcast_to(linear_to_srgb([0.955, 0.638, 0.538]), (SIDE, SIDE, 3))
    maps = {COLOR: sources.add(copper, "copper.png", color=True), METAL: Constant(value=(1.0,))}
    assert sources.look(a_set(maps)) == []


@pytest.mark.parametrize("end", [0, 1])
def test_roughness_that_is_cut_off_is_kept_within_bounds(sources: Sources, end: int) -> None:
    field = relief("rough", 4, SIDE)
    values = np.where(field > 0.6, end, 0.3 + 0.4 * field)
    one = a_set({
        COLOR: sources.add(quiet_color(), "tile.png", color=True),
        ROUGH: sources.add(values, "tile_roughness.png"),
    })  # fmt: skip
    found = sources.look(one)
    assert rules(found) == ["clipped_roughness"]
    assert f"{(field > 0.6).mean():.1%} is {end}" in found[0].evidence
    assert sources.look(fixed(one, found)) == []


def test_derived_roughness_that_is_cut_off_is_mended_by_its_own_range(sources: Sources) -> None:
    height = sources.add(relief("bricks", 2, SIDE), "h.png")
    spread = {"spread": 0.3, "median": 0.9}
    rough = Derived(operation="roughness_from_surface", parameters=spread)
    color = sources.add(quiet_color(), "c.png", color=True)
    one = a_set({COLOR: color, HEIGHT: height, ROUGH: rough})
    found = sources.look(one)
    assert rules(found) == ["clipped_roughness"]
    after = fixed(one, found)
    assert after.maps[ROUGH].parameters == {**spread, "low": 0.05, "high": 0.98}  # type: ignore[union-attr]
    assert sources.look(after) == []


def test_glossiness_that_came_in_as_roughness(sources: Sources) -> None:
    field = relief("pebbles", 3, SIDE)
    gloss = sources.add(0.4 + 0.3 * field, "deck_gloss.png")
    one = a_set({COLOR: sources.add(quiet_color(), "deck.png", color=True), ROUGH: gloss})
    found = sources.look(one)
    assert rules(found) == ["looks_like_glossiness"]
    assert "deck_gloss.png" in found[0].evidence
    assert found[0].weight == "warning"
    after = fixed(one, found)
    assert after.maps[GLOSS] == gloss
    assert after.maps[ROUGH] == Derived(operation="roughness_from_glossiness")
    assert sources.look(after) == []


def test_a_guess_by_values_says_that_it_is_one_and_a_name_settles_it(sources: Sources) -> None:
    field = relief("pebbles", 3, SIDE)
    maps = {
        COLOR: sources.add(quiet_color(), "deck.png", color=True),
        HEIGHT: sources.add(field, "deck_height.png"),
        ROUGH: sources.add(0.3 + 0.5 * field, "deck_grey.png"),
    }
    found = sources.look(a_set(maps))
    assert rules(found) == ["looks_like_glossiness"]
    assert found[0].weight == "info"
    assert "This is a guess" in found[0].evidence
    named = {**maps, ROUGH: sources.add(0.3 + 0.5 * field, "deck_roughness.png")}
    assert sources.look(a_set(named)) == []


def test_roughness_that_came_in_as_glossiness(sources: Sources) -> None:
    rough = sources.add(0.4 + 0.3 * relief("rough", 3, SIDE), "hull_roughness.png")
    one = a_set({
        COLOR: sources.add(quiet_color(), "hull.png", color=True), GLOSS: rough,
        ROUGH: Derived(operation="roughness_from_glossiness"),
    })  # fmt: skip
    found = sources.look(one)
    assert rules(found) == ["looks_like_roughness"]
    after = fixed(one, found)
    assert after.maps[ROUGH] == rough
    assert GLOSS not in after.maps
    assert after.shelf[GLOSS] == (rough,)
    assert sources.look(after) == []


def test_normals_that_contradict_the_height_are_turned_inside_out(sources: Sources) -> None:
    field = relief("pebbles", 6, SIDE)
    normal = sources.add(encoded(normals(1 - field, 0.8, down=False)) / 255, "n.png")
    one = a_set({
        COLOR: sources.add(quiet_color(), "c.png", color=True), NORMAL: normal,
        HEIGHT: sources.add(field, "h.png"),
    })  # fmt: skip
    found = sources.look(one)
    assert rules(found) == ["inverted_relief"]
    assert sources.look(fixed(one, found)) == []


def test_an_adjusted_normal_map_is_mended_in_its_slot(sources: Sources) -> None:
    codes = encoded(normals(relief("bricks", 6, SIDE), 0.8, down=True)) / 255
    adjusted = Derived(
        operation="normal_from_picture", parameters={"strength": 0.5},
        slots={"picture": sources.add(codes, "n.png")},
    )  # fmt: skip
    one = a_set({COLOR: sources.add(quiet_color(), "c.png", color=True), NORMAL: adjusted})
    found = sources.look(one)
    assert rules(found) == ["green_direction"]
    after = fixed(one, found).maps[NORMAL]
    assert isinstance(after, Derived)
    assert after.parameters == {"strength": 0.5}
    assert after.slots["picture"].normal_y == "down"  # type: ignore[union-attr]


def test_borders_that_are_said_to_meet_and_do_not(sources: Sources) -> None:
    ramp = np.linspace(0.3, 0.7, SIDE)[None, :] + 0.05 * relief("rough", 1, SIDE)
    one = a_set({COLOR: sources.add(grey(ramp), "c.png", color=True)})
    found = sources.look(one)
    assert rules(found) == ["not_tileable"]
    assert found[0].weight == "warning"
    after = fixed(one, found)
    assert after.prepare.seams is not None
    assert sources.look(after) == []
    ends = one.model_copy(update={"surface": one.surface.model_copy(update={"wrap": False})})
    assert [(f.rule, f.weight) for f in sources.look(ends)] == [("not_tileable", "info")]


def test_sizes_that_differ_and_shapes_that_do_not_fit(sources: Sources) -> None:
    small = cv2.resize(relief("rough", 5, SIDE) * 0.4 + 0.3, (128, 128))
    color = sources.add(quiet_color(), "c.png", color=True)
    one = a_set({COLOR: color, ROUGH: sources.add(small, "r_roughness.png")})
    found = sources.look(one)
    assert [(f.rule, f.weight) for f in found] == [("sizes_differ", "info")]
    assert "roughness 128 × 128; the set is 256 × 256" in found[0].evidence
    assert fixed(one, found).prepare.size.longer_side == 128  # type: ignore[union-attr]
    other = a_set({COLOR: color, ROUGH: sources.add(small[:100], "r_roughness.png")})
    assert [(f.rule, f.weight) for f in sources.look(other)] == [("sizes_differ", "error")]


@pytest.mark.parametrize("field", ["bricks", "weave", "soft"])
def test_what_a_lossy_file_lost_is_no_mixed_green(sources: Sources, field: str) -> None:
    codes = jpeg(encoded(normals(relief(field, 6, SIDE), 0.3, down=False)), 50)
    picture = sources.add(codes / 255, "n.png")
    one = a_set({NORMAL: picture})
    # By the measure for lossless files it would be one.
    held_to_it = check_normals(sources.pictures[picture.source], picture, "none")
    assert "mixed_green" in [seen.rule for seen in held_to_it]
    assert "mixed_green" not in rules(sources.look(one))  # the values show their blocks
    # Where they do not, as of a cropped file, the format tells it.
    cropped = sources.add(codes[:40, :40] / 255, "c.dds")
    asked = []
    files = {cropped.source: sources.files[cropped.source]}
    check_set(a_set({NORMAL: cropped}), files, sources.pictures.__getitem__, MemoryCache(),
              lambda sha: asked.append(sha) or "heavy")  # fmt: skip
    assert asked == [cropped.source]


def test_the_gravest_come_first(sources: Sources) -> None:
    values = np.where(relief("rough", 4, SIDE) > 0.65, 1.0, 0.5)
    codes = encoded(normals(relief("bricks", 6, SIDE), 0.8, down=True)) / 255
    one = a_set({
        COLOR: sources.add(quiet_color(), "c.png", color=True), ROUGH: sources.add(values, "r.png"),
        NORMAL: sources.add(codes, "n.png"),
    })  # fmt: skip
    assert [f.weight for f in sources.look(one)] == ["error", "info"]


def test_a_key_is_that_of_what_is_looked_at(sources: Sources) -> None:
    one = a_set({COLOR: sources.add(quiet_color(), "c.png", color=True)})
    key = checklist_key(one)
    assert checklist_key(one.model_copy(update={"name": "two"})) == key
    shelved = one.model_copy(update={"shelf": {ROUGH: (Constant(value=(0.5,)),)}})
    assert checklist_key(shelved) == key
    assert checklist_key(one.with_map(ROUGH, Constant(value=(0.5,)))) != key
    surface = one.surface.model_copy(update={"wrap": False})
    assert checklist_key(one.model_copy(update={"surface": surface})) != key


def test_what_a_mend_does_not_name_stays_and_what_it_replaces_is_kept() -> None:
    old, new = Constant(value=(0.2,)), Constant(value=(0.4,))
    one = a_set({ROUGH: old, METAL: Constant(value=(0.0,))}, shelf={ROUGH: (new,)})
    after = Fix(title="t", maps={ROUGH: new}).applied(one)
    assert after.maps == {ROUGH: new, METAL: Constant(value=(0.0,))}
    assert after.shelf == {ROUGH: (old,)}
    assert (after.surface, after.prepare, after.name) == (one.surface, one.prepare, one.name)


def test_every_rule_has_a_title() -> None:
    declared = Finding.model_fields["rule"].annotation.__args__  # type: ignore[union-attr]
    assert set(TITLES) == set(declared)
