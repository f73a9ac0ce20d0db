"""What the lit window shows of a model, held against a still of the core's reference shader."""

from __future__ import annotations

import json
from pathlib import Path

import cv2
import numpy as np
import pytest
from playwright.sync_api import Page, expect

from copper_sieve.core.codecs import read_picture
from copper_sieve.core.codecs.meshes.reading import read_model
from copper_sieve.core.image.color_difference import delta_e_2000, to_lab
from copper_sieve.core.image.encoding import srgb_to_linear
from copper_sieve.core.image.map_kind import MapKind, Meaning
from copper_sieve.core.image.tile_layout import TileLayout
from copper_sieve.core.lighting.environment import Environment
from copper_sieve.core.lighting.still import Camera, Lighting, render_still
from copper_sieve.core.mesh.tiles import on_tile_layout
from copper_sieve.demo.yard_wall import WALL_MATERIAL, WALL_TILES, write_wall
from tests.e2e.conftest import Served
from tests.e2e.driving import screen, settled

pytestmark = pytest.mark.browser
_SKY = Path(__file__).resolve().parents[2] / "web" / "public" / "environments" / "soft.hdr"
_LAMP = 128.0, 42.0, 1.1  # the dial's first place, and how much it counts beside that sky


def _neutral(light: np.ndarray) -> np.ndarray:
    """The neutral tone mapping for the web as its specification has it (Khronos 2024)."""
    start, dull = 0.8 - 0.04, 0.15
    least = light.min(-1, keepdims=True)
    light = light - np.where(least < 0.08, least - 6.25 * least * least, 0.04)
    peak = light.max(-1, keepdims=True)
    squeezed = 1 - (1 - start) ** 2 / (peak + 1 - 2 * start)
    share = 1 - 1 / (dull * (peak - squeezed) + 1)
    high = light * squeezed / np.maximum(peak, 1e-6)
    return np.where(peak < start, light, high * (1 - share) + squeezed * share)


def _maps(page: Page, served: Served, set_id: int) -> dict[MapKind, np.ndarray]:
    """The maps as the Bench shows them, by the same request."""
    answer = page.request.post(
        f"{served.address}/api/v1/sets/{set_id}/previews",
        data={"longer_side": 1024, "window": "still", "sequence": 1},
    )
    content = answer.body()
    length = int.from_bytes(content[:4], "little")
    head, at = json.loads(content[4 : 4 + length]), 4 + length
    found = {}
    for name, one in head["maps"].items():
        flat = np.frombuffer(content, np.uint8, one["bytes"], at)
        values = flat.reshape(one["height"], one["width"], one["channels"]) / np.float32(255)
        at += one["bytes"]
        kind = MapKind(name)
        if kind.facts.meaning is Meaning.COLOR:
            values = srgb_to_linear(values)
        elif kind.facts.meaning is Meaning.NORMAL:
            values = values * 2 - 1
        found[kind] = values.astype(np.float32)
    return found


def test_the_model_is_lit_as_the_reference_shader_lights_it(
    served: Served, page: Page, tmp_path: Path
) -> None:
    sets = page.request.get(f"{served.address}/api/v1/projects/lantern-row/sets").json()
    set_id = next(one["id"] for one in sets if one["name"] == "yard_wall")
    page.goto(f"{served.place}/bench/{set_id}/base_color")
    settled(page)
    page.get_by_role("button", name="Environment settings").click()
    shadows = page.get_by_role("radiogroup", name="Light casts shadows")
    shadows.get_by_role("radio", name="off").click()
    expect(shadows.get_by_role("radio", name="off")).to_be_checked()
    page.keyboard.press("Escape")
    seen = srgb_to_linear((screen(page, "Lit") / 255).astype(np.float32))
    height, width = seen.shape[:2]

    around, up = np.radians(_LAMP[:2])
    lamp = np.cos(up) * np.cos(around), np.cos(up) * np.sin(around), np.sin(up)
    _, picture = read_picture(_SKY)
    mesh = on_tile_layout(read_model(write_wall(tmp_path / "wall.glb")), TileLayout.of(WALL_TILES))
    worn = {WALL_MATERIAL: _maps(page, served, set_id)}
    light = Lighting(((lamp, _LAMP[2]),), Environment.of(picture.codes))
    wanted, covered = render_still(mesh, worn, Camera(), width, height, light)
    shown = np.clip(_neutral(wanted), 0, 1).astype(np.float32)
    # Away from the rim, and from what lies over the window.
    inside = cv2.erode((covered[..., 0] == 1).astype(np.uint8), np.ones((5, 5))) > 0
    inside[:60] = inside[-60:] = False
    assert inside.sum() > 20_000
    assert delta_e_2000(to_lab(seen), to_lab(shown))[inside].mean() < 2.0
    # Single texels are averaged otherwise by a graphics processor than by rays; nine are alike.
    apart = delta_e_2000(to_lab(cv2.blur(seen, (3, 3))), to_lab(cv2.blur(shown, (3, 3))))[inside]
    assert apart.mean() < 1.0
    assert np.percentile(apart, 95) < 2.5
