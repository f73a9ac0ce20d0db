"""Lantern Row's files dropped in one go, accepted as recognized, hold what was drawn."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from fastapi.testclient import TestClient

from copper_sieve.core.codecs import write_picture
from copper_sieve.core.image.raster import Picture
from copper_sieve.demo.hammered_copper import draw_hammered_copper
from copper_sieve.demo.lace_blind import draw_lace_blind
from copper_sieve.demo.tatami_weave import draw_tatami_weave
from copper_sieve.demo.terrazzo_counter import draw_terrazzo_counter
from tests.api.previewing import preview
from tests.api.test_intake import Intake

SIDE = 512


def drawn() -> dict[str, dict[str, Picture]]:
    return {
        "hammered_copper": draw_hammered_copper(SIDE),
        "terrazzo_counter": draw_terrazzo_counter(SIDE),
        "lace_blind": draw_lace_blind(SIDE),
        "tatami_weave": {"photo": draw_tatami_weave(SIDE)},
    }


@pytest.fixture
def intake(client: TestClient, project: str) -> Intake:
    return Intake(client, project)


def test_they_come_out_right_without_a_correction(intake: Intake, tmp_path: Path) -> None:
    rooms = drawn()
    files = {}
    for room, pictures in rooms.items():
        for part, picture in pictures.items():
            path = tmp_path / f"{room}_{part}.png"
            write_picture(path, picture, "png")
            files[path.name] = path.read_bytes()
    rows = intake.drop(files, "delivery")
    assert [row["name"] for row in rows if row["problem"] or row["error"]] == []
    made = intake.post("arrivals/acceptances", ids=[row["id"] for row in rows])["sets"]
    assert set(made) == set(rooms)

    def seen(room: str, kind: str) -> np.ndarray:
        shown = preview(intake.client, made[room], kinds=[kind], longer_side=SIDE)[kind].codes
        assert shown is not None
        return shown.astype(int)

    copper = rooms["hammered_copper"]
    np.testing.assert_array_equal(seen("hammered_copper", "base_color"), copper["base_color"].codes)
    gloss = copper["glossiness"].codes[:, :, :1].astype(int)
    assert np.abs(seen("hammered_copper", "roughness") - (255 - gloss)).max() <= 1
    maps = intake.set(made["hammered_copper"])
    assert maps["normal"]["normal_y"] == "down"
    up = copper["normal_dx"].codes.astype(int) * (1, -1, 1) + (0, 255, 0)
    assert np.abs(seen("hammered_copper", "normal") - up).max() <= 2

    packed = rooms["terrazzo_counter"]["packed"].codes.astype(int)
    for n, kind in enumerate(("roughness", "metallic", "ambient_occlusion")):
        found = seen("terrazzo_counter", kind)
        np.testing.assert_array_equal(found, packed[:, :, n : n + 1], err_msg=kind)

    lace = rooms["lace_blind"]
    np.testing.assert_array_equal(seen("lace_blind", "base_color"), lace["base_color"].codes)
    np.testing.assert_array_equal(
        seen("lace_blind", "opacity"), lace["opacity"].codes[:, :, :1].astype(int)
    )
    np.testing.assert_array_equal(
        seen("tatami_weave", "base_color"), rooms["tatami_weave"]["photo"].codes
    )
