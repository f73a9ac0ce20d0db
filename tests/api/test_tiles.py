"""Tiles over the API: several files become one set, and more join it later."""

from __future__ import annotations

from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from tests.api.conftest import TakeIn
from tests.api.previewing import preview
from tests.api.test_intake import Intake, png
from tests.conftest import MakePhoto, photo_codes


@pytest.fixture
def intake(client: TestClient, project: str) -> Intake:
    return Intake(client, project)


def _send(intake: Intake, folder: Path, *names: str) -> dict[str, dict]:
    for n, name in enumerate(names):
        codes = photo_codes((48, 48), 200 + n + sum(map(ord, name)))
        intake.send(png(folder, "one.png", codes), name)
    rows = {row["name"]: row for row in intake.rows()}
    return {name: rows[name] for name in names}


def test_tiles_become_one_set_and_more_join_it(
    intake: Intake, client: TestClient, project: str, tmp_path: Path
) -> None:
    first = _send(intake, tmp_path, "hull_BaseColor.1001.png", "hull_BaseColor.1002.png")
    assert {row["set_name"] for row in first.values()} == {"hull"}
    assert [row["tile"] for row in first.values()] == [1001, 1002]
    assert all(row["problem"] is None for row in first.values())
    ids = [row["id"] for row in first.values()]
    made = client.post("/api/v1/arrivals/acceptances", json={"ids": ids}).json()["sets"]["hull"]
    seen = client.get(f"/api/v1/sets/{made}").json()
    assert (seen["width"], seen["height"]) == (96, 48)
    assert seen["sheet"]["numbers"] == [1001, 1002]
    more = _send(intake, tmp_path, "hull_BaseColor.1012.png")
    answer = client.post(
        "/api/v1/arrivals/acceptances", json={"ids": [row["id"] for row in more.values()]}
    )
    assert answer.status_code == 200, answer.text
    seen = client.get(f"/api/v1/sets/{made}").json()
    assert seen["sheet"] == {
        "numbers": [1001, 1002, 1012], "left": 0, "top": -1, "columns": 2, "rows": 2,
    }  # fmt: skip
    body = {"set_ids": [made], "target_ids": ["separate-png"]}
    planned = client.post(f"/api/v1/projects/{project}/dry-runs", json=body)
    assert planned.status_code == 200, planned.text
    names = {one["name"] for part in planned.json() for one in part["files"]}
    assert {"hull_base_color.1001.png", "hull_base_color.1012.png"} <= names
    # What tiles do not have: steps that would part them.
    update = {
        "version": seen["version"], "surface": seen["surface"],
        "maps": {one["kind"]: one["definition"] for one in seen["maps"]},
        "prepare": {"frame": {"crop": [0, 0, 0.5, 0.5]}},
    }  # fmt: skip
    refused = client.put(f"/api/v1/sets/{made}", json=update)
    assert refused.status_code == 422 and "hull has tiles" in refused.text


def test_what_does_not_belong_together_is_told(intake: Intake, tmp_path: Path) -> None:
    rows = _send(intake, tmp_path, "keel_BaseColor.1001.png", "keel_BaseColor.1002.png",
                 "keel_BaseColor.png")  # fmt: skip
    assert (
        "is a tile of the same map, but this file has no tile number"
        in rows["keel_BaseColor.png"]["problem"]
    )
    photos = _send(intake, tmp_path, "DSC_1003.png", "DSC_1004.png")
    assert [row["tile"] for row in photos.values()] == [None, None]
    assert {row["set_name"] for row in photos.values()} == {"DSC_1003", "DSC_1004"}
    assert [row["number"] for row in photos.values()] == [1003, 1004]
    for row in photos.values():  # said by hand, they are of one set after all
        intake.change([row["id"]], tile=row["number"])
    said = [row for row in intake.rows() if row["name"] in photos]
    assert {(row["set_name"], row["tile"]) for row in said} == {("DSC", 1003), ("DSC", 1004)}


def test_a_tile_too_far_away_joins_no_set(
    intake: Intake, client: TestClient, project: str, tmp_path: Path
) -> None:
    """It would make a sheet of hundreds of empty places; nothing is changed, all can be listed."""
    rows = _send(intake, tmp_path, "mast_BaseColor.1001.png", "mast_BaseColor.1002.png")
    made = client.post(
        "/api/v1/arrivals/acceptances", json={"ids": [row["id"] for row in rows.values()]}
    ).json()["sets"]["mast"]
    (far,) = _send(intake, tmp_path, "mast_BaseColor_1510.png").values()
    intake.change([far["id"]], tile=1510, set_name="mast")
    refused = client.post("/api/v1/arrivals/acceptances", json={"ids": [far["id"]]})
    assert refused.status_code in (409, 422) and "span 10 x 51" in refused.text
    listed = {one["id"]: one for one in client.get(f"/api/v1/projects/{project}/sets").json()}
    assert listed[made]["sheet"]["numbers"] == [1001, 1002]


def test_moss_over_a_wall_of_tiles(
    intake: Intake, client: TestClient, project: str, take_in: TakeIn, make_photo: MakePhoto,
    tmp_path: Path,
) -> None:  # fmt: skip
    """A set with tiles may lie below: its blend has the same tiles, each with a file of its own."""
    rows = _send(intake, tmp_path, "quay_BaseColor.1001.png", "quay_BaseColor.1011.png")
    ids = [row["id"] for row in rows.values()]
    wall = client.post("/api/v1/arrivals/acceptances", json={"ids": ids}).json()["sets"]["quay"]
    moss = take_in(make_photo("moss.png", seed=9))["set_id"]
    address = f"/api/v1/projects/{project}/blends"
    refused = client.post(address, json={"below": moss, "above": wall})
    assert refused.status_code == 422
    assert "quay has tiles and moss has none" in refused.json()["detail"]
    made = client.post(address, json={"below": wall, "above": moss, "name": "mossy"}).json()
    seen = client.get(f"/api/v1/sets/{made['id']}").json()
    assert seen["sheet"]["numbers"] == [1001, 1011]
    assert (seen["width"], seen["height"]) == (48, 96)
    body = {"set_ids": [made["id"]], "target_ids": ["separate-png"]}
    (planned,) = client.post(f"/api/v1/projects/{project}/dry-runs", json=body).json()
    names = {one["name"] for one in planned["files"]}
    assert {"mossy_base_color.1001.png", "mossy_normal.1011.png"} <= names
    shown = preview(client, made["id"], kinds=["base_color"], longer_side=96, window="w",
                    sequence=1)["base_color"].codes  # fmt: skip
    assert shown is not None and shown.shape[:2] == (96, 48)
