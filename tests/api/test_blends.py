"""Two sets blended over HTTP: made, tuned by drafts, changed, copied, delivered, taken back."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import pytest
from fastapi.testclient import TestClient

from copper_sieve.services import deliveries, delivery_worker
from copper_sieve.services.context import Context
from tests.api.conftest import TakeIn
from tests.api.previewing import preview as previewed
from tests.conftest import MakePhoto


@pytest.fixture
def pair(take_in: TakeIn, make_photo: MakePhoto) -> tuple[int, int]:
    """Two sets, each of a photo."""
    ids = [take_in(make_photo(f"pile{n}.png", seed=n))["set_id"] for n in (41, 42)]
    return ids[0], ids[1]


def blend(client: TestClient, project: str, below: int, above: int, **more: Any) -> Any:
    body = {"below": below, "above": above, **more}
    return client.post(f"/api/v1/projects/{project}/blends", json=body)


def preview(client: TestClient, number: int, kind: str, **body: Any) -> np.ndarray:
    asked = {"kinds": [kind], "longer_side": 64, "window": "w", "sequence": 1, **body}
    codes = previewed(client, number, **asked)[kind].codes
    assert codes is not None
    return codes.astype(int)


def definitions(one: dict[str, Any]) -> dict[str, Any]:
    return {m["kind"]: m["definition"] for m in one["maps"]}


def test_a_blend_is_made_tuned_and_kept(
    client: TestClient, project: str, pair: tuple[int, int]
) -> None:
    made = blend(client, project, *pair, name="pier").json()
    one = client.get(f"/api/v1/sets/{made['id']}").json()
    assert (made["name"], one["name"]) == ("pier", "pier")
    assert one["blended_of"] == {"below": "pile41", "above": "pile42"}
    assert (one["width"], one["height"]) == (64, 48)
    maps = definitions(one)
    assert maps["base_color"]["operation"] == "value_from_parts"
    assert maps["normal"]["operation"] == "normal_from_height"
    assert maps["mask_1"]["operation"] == "mask_from_part_heights"

    below, above = (preview(client, number, "base_color") for number in pair)

    def shown(**given: Any) -> np.ndarray:
        changed = {**maps["mask_1"], "parameters": {**maps["mask_1"]["parameters"], **given}}
        draft = {"surface": one["surface"], "maps": {**maps, "mask_1": changed}}
        return preview(client, made["id"], "base_color", draft=draft)

    assert np.abs(shown(offset=-1.0, contrast=0.0) - below).max() <= 1
    assert np.abs(shown(offset=1.0, contrast=0.0) - above).max() <= 1
    mixed = shown(by="noise")
    assert np.abs(mixed - below).max() > 20
    assert np.abs(mixed - above).max() > 20

    # What is saved keeps the sets it is blended of.
    body = {"version": one["version"], "surface": one["surface"], "maps": maps}
    assert client.put(f"/api/v1/sets/{made['id']}", json=body).status_code == 200
    assert client.get(f"/api/v1/sets/{made['id']}").json()["blended_of"] == one["blended_of"]


def test_the_sets_stay_and_the_blend_stays_as_it_was_when_they_change(
    client: TestClient, project: str, pair: tuple[int, int]
) -> None:
    made = blend(client, project, *pair).json()
    assert made["name"] == "pile41_pile42"
    before = preview(client, made["id"], "roughness")
    body = {
        "set_ids": list(pair),
        "change": {"do": "constant", "kind": "roughness", "value": [0.1]},
    }
    assert client.post(f"/api/v1/projects/{project}/changes", json=body).status_code == 200
    np.testing.assert_array_equal(preview(client, made["id"], "roughness"), before)
    gone = {"set_ids": list(pair), "change": {"do": "delete"}}
    client.post(f"/api/v1/projects/{project}/changes", json=gone)
    np.testing.assert_array_equal(preview(client, made["id"], "roughness"), before)


def test_a_blend_is_taken_back_like_any_change(
    client: TestClient, project: str, pair: tuple[int, int]
) -> None:
    made = blend(client, project, *pair, name="pier").json()
    undone = client.post(f"/api/v1/projects/{project}/changes/undo").json()
    assert undone["title"] == "pier blended, undone"
    assert client.get(f"/api/v1/sets/{made['id']}").status_code == 404
    client.post(f"/api/v1/projects/{project}/changes/redo")
    assert client.get(f"/api/v1/sets/{made['id']}").status_code == 200


def test_a_blend_is_delivered_and_proven(
    client: TestClient, project: str, context: Context, pair: tuple[int, int], tmp_path: Path
) -> None:
    made = blend(client, project, *pair).json()
    one = deliveries.create_delivery(context, project, [(made["id"], "orm-y-down")])
    delivery_worker.run(context, one.id)
    done = deliveries.get(context, one.id)
    assert [part.state for part in done.parts] == ["done"]


@pytest.mark.parametrize(
    ("give", "status", "said"),
    [
        (lambda a, b: {"below": a, "above": a}, 409, "select exactly two sets"),
        (lambda a, b: {"below": a, "above": 10**9}, 404, "no texture set"),
        (lambda a, b: {"below": a, "above": b, "name": "no/slash"}, 422, "a valid set name"),
    ],
)
def test_what_cannot_be_blended_says_why(
    client: TestClient, project: str, pair: tuple[int, int], give: Any, status: int, said: str
) -> None:
    asked = give(*pair)
    answer = blend(client, project, asked["below"], asked["above"],
                   **({"name": asked["name"]} if "name" in asked else {}))  # fmt: skip
    assert answer.status_code == status, answer.text
    assert said in answer.json()["detail"]
    rows = client.get(f"/api/v1/projects/{project}/tray").json()["rows"]
    assert len(rows) == 2
