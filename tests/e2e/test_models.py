"""The asset itself: a model dropped, its sets lit on it, maps taken from it, delivered in it."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from copper_sieve.core.codecs.meshes.reading import read_model
from copper_sieve.demo.patches import write_model
from tests.api.test_models import named
from tests.core.mesh.solids import ball, floor
from tests.e2e.conftest import Served
from tests.e2e.driving import SLOW, drawn, drop, read_set, screen, settled
from tests.e2e.test_accessible import violations

pytestmark = pytest.mark.browser
_GROUND = 119  # of picture windows


def _model(folder: Path, name: str = "globe.glb") -> Path:
    """A ball above a floor, each of its own material; the floor's islands lie over each other."""
    path = folder / name
    radius = 0.5 - sum(map(ord, name)) % 97 / 2000  # the same bytes would be the same model
    write_model(path, [named(ball(radius, rings=24, uv=(0.1, 0.1, 0.8, 0.5)), "globe"),
                       named(floor(0.9, 2, height=-0.55), "ground"),
                       named(floor(0.5, 1, height=-0.54), "ground")])  # fmt: skip
    return path


def _bench(served: Served, page: Page, folder: Path, name: str) -> None:
    """Drop a model, make sets of its materials, and go to the ball's Bench."""
    page.goto(f"{served.place}/models")
    drop(page, _model(folder, name))
    card = page.get_by_role("listitem", name=name)
    card.get_by_role("button", name="Make 2 sets").click()
    card.get_by_role("link", name="globe").first.click(timeout=SLOW)
    settled(page)


def test_a_dropped_model_tells_what_is_wrong_in_its_uvs(
    served: Served, page: Page, tmp_path: Path
) -> None:
    page.goto(f"{served.place}/models")
    drop(page, _model(tmp_path, "uvs.glb"))
    card = page.get_by_role("listitem", name="uvs.glb")
    expect(card.get_by_text("2,218 triangles")).to_be_visible(timeout=SLOW)
    islands = card.get_by_role("region", name="Islands of globe, uvs.glb")
    expect(islands.get_by_text("Nothing is wrong in these UVs.")).to_be_visible()
    card.get_by_role("button", name="ground").click()
    card.get_by_role("button", name="is covered more than once").click()
    expect(card.get_by_role("img", name="Islands, overlaps")).to_be_visible()
    assert violations(page) == []
    # Another file of that kind cannot be read, and says why.
    broken = tmp_path / "broken.glb"
    broken.write_bytes(_model(tmp_path, "uvs.glb").read_bytes()[:200])
    drop(page, broken)
    expect(page.get_by_text("broken.glb is no whole glTF file")).to_be_visible(timeout=SLOW)


def test_a_set_is_lit_on_its_model_and_takes_occlusion_from_it(
    served: Served, page: Page, tmp_path: Path
) -> None:
    _bench(served, page, tmp_path, "lit.glb")
    expect(page.get_by_role("link", name="lit.glb · globe")).to_be_visible()
    expect(page.get_by_role("radio", name="Model")).to_be_checked()
    seen = screen(page, "Lit")
    height, width = seen.shape[:2]
    middle = seen[height // 2 - 20 : height // 2 + 20, width // 2 - 20 : width // 2 + 20]
    assert middle.mean() > _GROUND + 15  # the ball, lit
    assert abs(int(seen[height // 2, 20].mean()) - _GROUND) <= 1  # beside it
    page.get_by_role("button", name="Add a map").click()
    page.get_by_role("menuitem", name="Occlusion").click()
    settled(page)
    assert read_set(page, served)["ambient_occlusion"] == {
        "how": "derived", "operation": "ambient_occlusion_from_model", "parameters": {}, "slots": {}
    }  # fmt: skip
    # The ball's top sees the sky, its underside the floor; v runs down.
    shade = screen(page, "Flat")[:, :, 0]
    column = shade[:, shade.shape[1] // 2]
    assert column[70:100].min() > 245
    assert column.min() < 120
    lit = screen(page, "Lit")
    assert lit[height * 2 // 3, width // 2].mean() < seen[height * 2 // 3, width // 2].mean() - 2


def test_a_point_of_the_map_is_marked_on_the_model(
    served: Served, page: Page, tmp_path: Path
) -> None:
    _bench(served, page, tmp_path, "marked.glb")
    expect(page.get_by_role("radiogroup", name="Over the map")).to_be_visible(timeout=SLOW)
    page.keyboard.press("i")
    expect(page.get_by_test_id("islands")).to_have_attribute("data-shows", "outline")
    before = screen(page, "Lit")
    box = page.get_by_test_id("flat").bounding_box()
    assert box
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + 130)
    drawn(page)
    assert np.abs(screen(page, "Lit") - before).max() > 20
    page.keyboard.press("i")
    expect(page.get_by_test_id("islands")).to_have_attribute("data-shows", "density")
    page.keyboard.press("i")
    expect(page.get_by_test_id("islands")).to_have_count(0)


def test_a_tie_is_changed_by_hand_and_undone(served: Served, page: Page, tmp_path: Path) -> None:
    page.goto(f"{served.place}/models")
    drop(page, _model(tmp_path, "tied.glb"))
    card = page.get_by_role("listitem", name="tied.glb")
    card.get_by_role("combobox", name="Set for globe").click()
    page.get_by_role("option", name="paper_lantern").click()
    card.get_by_role("link", name="paper_lantern").click()
    settled(page)
    expect(page.get_by_role("link", name="tied.glb · globe")).to_be_visible()
    expect(page.get_by_role("radio", name="Model")).to_be_checked()
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("link", name="tied.glb · globe")).to_have_count(0)
    expect(page.get_by_role("radio", name="Sphere")).to_be_checked()


def test_the_model_is_delivered_with_its_textures(
    served: Served, page: Page, tmp_path: Path
) -> None:
    _bench(served, page, tmp_path, "sent.glb")
    set_id = int(page.url.split("/bench/")[1].split("/")[0])
    body = {"set_ids": [set_id], "target_ids": ["gltf-metal-rough"], "longer_side": 64}
    asked = page.request.post(
        f"{served.address}/api/projects/lantern-row/deliveries", data=json.dumps(body),
        headers={"content-type": "application/json"},
    )  # fmt: skip
    page.goto(f"{served.place}/deliveries/{asked.json()['id']}")
    models = page.get_by_role("region", name="Models with these textures")
    expect(models).to_contain_text("sent.glb with 1 set for gltf-metal-rough inside", timeout=SLOW)
    expect(models).to_contain_text("without ground")
    with page.expect_download() as caught:
        models.get_by_role("link", name="Download sent.gltf-metal-rough.glb").click()
    path = tmp_path / "back.glb"
    caught.value.save_as(path)
    assert read_model(path).count == read_model(_model(tmp_path, "sent.glb")).count
    page.goto(f"{served.place}/models")
    drop(page, path)  # and what came out goes in again
    expect(page.get_by_role("listitem", name="back.glb")).to_be_visible(timeout=SLOW)
