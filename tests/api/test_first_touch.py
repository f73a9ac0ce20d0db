"""Readings lit beside each other and the doubt of a color key, through the API."""

from __future__ import annotations

import base64
import io
from pathlib import Path

import numpy as np
import pytest
from fastapi.testclient import TestClient
from PIL import Image

from copper_sieve.services import interpretations
from tests.api.conftest import TakeIn
from tests.core.recognition.maps import relief
from tests.core.recognition.test_light import lit


def _color(client: TestClient, take_in: TakeIn, pixels: np.ndarray, path: Path) -> dict:
    Image.fromarray((np.clip(pixels, 0, 1) ** (1 / 2.2) * 255).astype(np.uint8)).save(path)
    return client.get(f"/api/v1/sets/{take_in(path)['set_id']}").json()


def _picture(reading: dict) -> np.ndarray:
    data = base64.b64decode(reading["picture"].removeprefix("data:image/png;base64,"))
    return np.asarray(Image.open(io.BytesIO(data)), np.float32)


def _ask(client: TestClient, one: dict, **body: object) -> list[dict]:
    answer = client.post(f"/api/v1/sets/{one['id']}/interpretations", json=body)
    assert answer.status_code == 200, answer.text
    return answer.json()


def test_four_readings_of_a_photo_come_lit_and_one_is_taken(
    client: TestClient, take_in: TakeIn, tmp_path: Path
) -> None:
    one = _color(client, take_in, lit(relief("stones", 11, 256), 40), tmp_path / "low_sun.png")
    found = _ask(client, one)
    assert [each["name"] for each in found[:3]] == ["low", "medium", "high"]
    assert found[3]["name"].startswith("light from ")
    gentle, worked, rough = (_picture(each) for each in found[:3])
    assert gentle.shape == (one["height"], one["width"], 3)
    apart = [np.abs(a - b).mean() for a, b in ((gentle, worked), (worked, rough), (gentle, rough))]
    assert min(apart) > 1
    assert apart[2] > max(apart[:2])  # more relief, more light and shade
    body = {"version": one["version"], "surface": found[2]["surface"], "maps": found[2]["maps"]}
    kept = client.put(f"/api/v1/sets/{one['id']}", json=body).json()
    assert kept["surface"]["relief"] == 18
    assert [each["current"] for each in _ask(client, one)] == [False, False, True, False]
    sides = _ask(client, one, about="light")
    assert [each["current"] for each in sides] == [True, False, False]
    here, there = (_picture(each) for each in sides[1:])
    assert np.abs(here - there).mean() > 3


def test_the_light_turns_with_the_picture(
    client: TestClient, take_in: TakeIn, tmp_path: Path
) -> None:
    one = _color(client, take_in, lit(relief("stones", 11, 256), 40), tmp_path / "turned.png")
    measured = one["light"]["azimuth"]
    maps = {each["kind"]: each["definition"] for each in one["maps"]}
    draft = {"surface": one["surface"], "maps": maps}
    for frame, seen in (({"quarter_turns": 1}, measured - 90), ({"mirror": True}, -measured)):
        prepare = {"frame": frame}
        lit_from = _ask(client, one, draft={**draft, "prepare": prepare})[3]["name"]
        assert lit_from == f"light from {seen % 180:.0f}°"
        body = {"version": one["version"], **draft, "prepare": prepare}
        one = client.put(f"/api/v1/sets/{one['id']}", json=body).json()
        assert one["light"]["azimuth"] == seen % 180


def test_readings_say_where_there_is_nothing_to_read(
    client: TestClient, take_in: TakeIn, tmp_path: Path
) -> None:
    even = np.repeat(np.random.default_rng(2).uniform(0.2, 0.6, (64, 64, 1)), 3, axis=2)
    one = _color(client, take_in, even, tmp_path / "even.png")
    answer = client.post(f"/api/v1/sets/{one['id']}/interpretations", json={"about": "light"})
    assert answer.status_code == 422
    assert "no light direction was detected" in answer.json()["detail"]


def test_what_evening_takes_out_and_the_blotches_that_are_left(
    client: TestClient, take_in: TakeIn, tmp_path: Path
) -> None:
    y, x = np.mgrid[0:128, 0:128] / 128
    dark = 2.0 ** (-1.5 * np.exp(-((x - 0.4) ** 2 + (y - 0.5) ** 2) / 0.02))
    one = _color(client, take_in, np.repeat(0.4 * dark[:, :, None], 3, 2), tmp_path / "slab.png")
    maps = {each["kind"]: each["definition"] for each in one["maps"]}

    def ask(prepare: dict) -> dict:
        draft = {"surface": one["surface"], "maps": maps, "prepare": prepare}
        answer = client.post(f"/api/v1/sets/{one['id']}/removed-lighting", json={"draft": draft})
        assert answer.status_code == 200, answer.text
        return answer.json()

    as_it_is = ask({})
    assert as_it_is["picture"] is None
    assert as_it_is["blotches"]["stops"] > 0.3
    scale = as_it_is["blotches"]["scale"]
    evened = ask({"light": {"strength": 0.9, "scale": scale}})
    assert evened["blotches"] is None
    assert evened["stops"] > 0.4
    shown = _picture(evened)
    assert shown[64, 51] < shown[5, 120] - 20  # shade was taken out in the middle of the blotch


def test_the_doubt_of_a_key_shrinks_with_a_click_on_the_other_side(
    client: TestClient, take_in: TakeIn, tmp_path: Path
) -> None:
    side = 64
    pixels = np.empty((side, side, 3))
    pixels[:, : side // 2], pixels[:, side // 2 :] = (0.5, 0.25, 0.1), (0.1, 0.3, 0.1)
    pixels[: side // 4] = (0.8, 0.8, 0.9)
    one = _color(client, take_in, pixels, tmp_path / "plate.png")
    maps = {each["kind"]: each["definition"] for each in one["maps"]}

    def doubt(**parameters: str) -> dict:
        maps["metallic"] = {"how": "derived", "operation": "metallic_from_color",
                            "parameters": parameters}  # fmt: skip
        draft = {"surface": one["surface"], "maps": maps}
        answer = client.post(f"/api/v1/sets/{one['id']}/key-uncertainties",
                             json={"kind": "metallic", "draft": draft})  # fmt: skip
        assert answer.status_code == 200, answer.text
        return answer.json()

    copper, green = "#bc8859", "#599459"
    unsure = doubt(colors=copper, others=green)
    assert abs(unsure["uncertain"] - 0.25) < 0.02
    assert unsure["like"] in {"#e6e6f3", "#e6e6f2", "#e7e7f3"}
    sure = doubt(colors=copper, others=f"{green},{unsure['like']}")
    assert sure["uncertain"] < 0.02
    assert abs(sure["near"] - 0.375) < 0.02
    answer = client.post(f"/api/v1/sets/{one['id']}/key-uncertainties", json={"kind": "height"})
    assert answer.status_code == 422


@pytest.mark.parametrize(("columns", "rows"), [(700, 420), (641, 400), (200, 500), (640, 400)])
def test_of_a_large_picture_the_middle_is_shown(columns: int, rows: int) -> None:
    y, x = np.mgrid[0:rows, 0:columns].astype(np.float32)
    shown = interpretations._middle(np.stack([x, y], axis=2))
    assert shown.shape[:2] == (min(rows, 400), min(columns, 640))
    left, right = shown[0, 0, 0], columns - 1 - shown[0, -1, 0]
    top, bottom = shown[0, 0, 1], rows - 1 - shown[-1, 0, 1]
    assert abs(left - right) <= 1
    assert abs(top - bottom) <= 1
