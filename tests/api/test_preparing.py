"""Preparing a set through the API: kept, previewed, measured, delivered."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from fastapi.testclient import TestClient

from copper_sieve.core.operations.prepare.measure_seams import seam_visibility
from copper_sieve.services import delivery_worker
from copper_sieve.services.context import Context
from tests.api.conftest import TakeIn
from tests.api.previewing import preview, preview_head
from tests.conftest import MakePhoto

CROP = {"frame": {"crop": [0.25, 0.0, 0.75, 1.0]}}


@pytest.fixture
def wall(client: TestClient, take_in: TakeIn, make_photo: MakePhoto) -> dict:
    """A set made of a photo of 160 x 120."""
    taken = take_in(make_photo(size=(160, 120)))
    return client.get(f"/api/v1/sets/{taken['set_id']}").json()


def draft_of(wall: dict, prepare: dict[str, Any]) -> dict[str, Any]:
    maps = {one["kind"]: one["definition"] for one in wall["maps"]}
    return {"surface": wall["surface"], "maps": maps, "prepare": prepare}


def keep(client: TestClient, wall: dict, prepare: dict[str, Any], **more: Any) -> dict:
    body = {"version": wall["version"], **draft_of(wall, prepare), **more}
    answer = client.put(f"/api/v1/sets/{wall['id']}", json=body)
    assert answer.status_code == 200, answer.text
    return answer.json()


def test_steps_are_kept_and_change_size_and_surface(client: TestClient, wall: dict) -> None:
    assert wall["prepare"]["frame"]["crop"] == [0, 0, 1, 1]
    ruler = {"start": [0.5, 0.5], "end": [0.75, 0.5], "metres": 0.2}
    kept = keep(client, wall, {**CROP, "ruler": ruler})
    assert (kept["width"], kept["height"]) == (80, 120)
    assert kept["prepared_surface"]["tile_size"] == pytest.approx(0.4)
    assert kept["surface"] == wall["surface"]
    again = client.get(f"/api/v1/sets/{wall['id']}").json()
    assert again["prepare"] == kept["prepare"]
    assert again["prepare"]["frame"]["crop"] == CROP["frame"]["crop"]
    # Every map has another key now, and its thumbnail shows the part.
    assert not {one["key"] for one in wall["maps"] if one["definition"]["how"] != "constant"} & {
        one["key"] for one in again["maps"]
    }


def test_a_preview_says_what_preparing_comes_to(client: TestClient, wall: dict) -> None:
    head = preview_head(client, wall["id"], draft=draft_of(wall, CROP), longer_side=1024)
    assert (head["width"], head["height"]) == (80, 120)
    assert head["width_share"] == pytest.approx(0.5)
    assert head["guide"]["kind"] == "base_color"
    assert (head["guide"]["width"], head["guide"]["height"]) == (160, 120)
    # No map is shown larger than it is.
    assert {(m["width"], m["height"]) for m in head["maps"].values()} == {(80, 120)}
    whole = preview(client, wall["id"], kinds=["base_color"], longer_side=160)
    part = preview(client, wall["id"], draft=draft_of(wall, CROP), kinds=["base_color"],
                   longer_side=160)  # fmt: skip
    wanted, found = whole["base_color"].codes, part["base_color"].codes
    assert wanted is not None
    np.testing.assert_array_equal(found, wanted[:, 40:120])


def test_what_belongs_to_a_change_is_undone_with_it(client: TestClient, wall: dict) -> None:
    first = keep(client, wall, CROP)
    seams = {"method": "gradient", "overlap": [0, 0]}
    second = keep(client, first, {**CROP, "seams": seams}, amends=True)
    assert second["prepare"]["seams"]["method"] == "gradient"
    undone = client.post(
        f"/api/v1/sets/{wall['id']}/undo", json={"version": second["version"]}
    ).json()
    assert undone["prepare"] == wall["prepare"]
    redone = client.post(
        f"/api/v1/sets/{wall['id']}/redo", json={"version": undone["version"]}
    ).json()
    assert redone["prepare"] == second["prepare"]


def test_each_way_to_close_the_seams_is_measured(client: TestClient, wall: dict) -> None:
    address = f"/api/v1/sets/{wall['id']}/seam-measures"
    found = client.post(address, json={}).json()
    assert set(found["ways"]) == {"gradient", "blend", "cut"}
    best = found["ways"][found["chosen"]]
    assert best["good"]
    assert best["after"] <= 1.15 < best["before"]
    assert 0 <= best["contrast_loss"] <= 0.1
    # What it says is what one gets.
    draft = draft_of(wall, {"seams": best["seams"]})
    shown = preview(client, wall["id"], draft=draft, kinds=["base_color"], longer_side=160)
    codes = shown["base_color"].codes
    assert codes is not None
    assert seam_visibility(codes.astype(np.float32) / 255).visibility <= 1.25
    # The steps before are done first, those after it are not.
    small = draft_of(wall, {"size": {"longer_side": 64}, "seams": best["seams"]})
    assert client.post(address, json={"draft": small}).json() == found
    turned = draft_of(wall, {"frame": {"angle": 20}})
    assert client.post(address, json={"draft": turned}).json() != found


def test_what_cannot_be_prepared_is_refused_in_words(client: TestClient, wall: dict) -> None:
    whole = [[0.01, 0.01], [0.99, 0.01], [0.99, 0.99], [0.01, 0.99]]
    draft = draft_of(wall, {"marks": [{"outline": whole}]})
    answer = client.post(f"/api/v1/sets/{wall['id']}/previews", json={"draft": draft})
    assert answer.status_code == 422
    assert "mark 1 is too large" in answer.json()["detail"]
    bad = draft_of(wall, {"frame": {"corners": whole[::-1]}})
    answer = client.post(f"/api/v1/sets/{wall['id']}/previews", json={"draft": bad})
    assert answer.status_code == 422
    assert "clockwise" in answer.json()["detail"]
    no_picture = {**draft_of(wall, {}), "maps": {"metallic": {"how": "constant", "value": [0]}}}
    answer = client.post(f"/api/v1/sets/{wall['id']}/seam-measures", json={"draft": no_picture})
    assert answer.status_code == 422
    assert "no picture" in answer.json()["detail"]


def test_a_delivery_holds_the_prepared_set_and_says_how(
    client: TestClient, context: Context, project: str, wall: dict
) -> None:
    seams = client.post(f"/api/v1/sets/{wall['id']}/seam-measures", json={}).json()["ways"]["cut"]
    kept = keep(client, wall, {**CROP, "seams": seams["seams"]})
    body = {"set_ids": [wall["id"]], "target_ids": ["gltf-metal-rough"]}
    answer = client.post(f"/api/v1/projects/{project}/deliveries", json=body)
    assert answer.status_code in (200, 201, 202), answer.text
    delivery_worker.run(context, answer.json()["id"])
    part = client.get(f"/api/v1/deliveries/{answer.json()['id']}/parts/0").json()
    manifest = part["manifest"]
    assert manifest["prepare"] == kept["prepare"]
    assert manifest["surface"]["wrap"]
    assert manifest["surface"]["tile_size"] == pytest.approx(kept["prepared_surface"]["tile_size"])
    sizes = {(one["width"], one["height"]) for one in manifest["files"]}
    assert sizes == {(kept["width"], kept["height"])}
    assert part["assay"]["ok"]
