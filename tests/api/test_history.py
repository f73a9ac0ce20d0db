"""Earlier deliveries through the API: compared, restored, delivered again."""

from __future__ import annotations

import base64
import io
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from fastapi.testclient import TestClient
from PIL import Image

from copper_sieve.services import delivery_worker
from copper_sieve.services.context import Context
from tests.api.test_board import deliver
from tests.api.test_targets import texels
from tests.conftest import MakePhoto

ORM = "orm-y-down"


@pytest.fixture
def set_id(client: TestClient, project: str, make_photo: MakePhoto) -> int:
    """A set."""
    photo = make_photo("cellar.png", size=(32, 32), seed=71)
    taken = client.post(f"/api/v1/projects/{project}/sources?name={photo.name}",
                        content=photo.read_bytes())  # fmt: skip
    return int(taken.json()["set_id"])


def change(client: TestClient, project: str, set_id: int, **wanted: Any) -> dict[str, Any]:
    body = {"set_ids": [set_id], "change": wanted}
    answer = client.post(f"/api/v1/projects/{project}/changes", json=body)
    assert answer.status_code == 200, answer.text
    found: dict[str, Any] = answer.json()
    return found


def files_of(folder: str) -> dict[str, bytes]:
    return {one.name: one.read_bytes() for one in Path(folder).iterdir() if one.is_file()}


def picture(url: str) -> np.ndarray:
    with Image.open(io.BytesIO(base64.b64decode(url.partition(",")[2]))) as one:
        return np.asarray(one)


def test_two_deliveries_are_compared_by_file_channel_and_texel(
    client: TestClient, context: Context, project: str, set_id: int
) -> None:
    body = {"set_ids": [set_id], "target_ids": [ORM, "separate-png"]}
    first = deliver(client, context, project, body)
    change(client, project, set_id, do="constant", kind="roughness", value=[0.5])
    second = deliver(client, context, project, body)
    found = client.get(f"/api/v1/deliveries/{first}/comparisons/{second}").json()
    assert [(one["target_id"], one["maps"]) for one in found] == [
        (ORM, ["roughness"]), ("separate-png", ["roughness"])
    ]  # fmt: skip
    orm, plain = ({one["name"]: one for one in part["files"]} for part in found)
    assert orm["T_cellar_ORM.tga"] == {
        "name": "T_cellar_ORM.tga", "kind": "changed", "channels": ["G"], "words": "",
    }  # fmt: skip
    assert orm["T_cellar_BC.tga"]["kind"] == orm["T_cellar_N.tga"]["kind"] == "same"
    assert [name for name, one in plain.items() if one["kind"] != "same"] == [
        "cellar_roughness.png"
    ]
    assert client.get(f"/api/v1/deliveries/{second}/comparisons/{second}").json() == []

    address = (
        f"/api/v1/deliveries/{first}/parts/0/comparisons/{second}/0/files/T_cellar_ORM.tga/channels"
    )
    green = client.get(f"{address}/G").json()
    assert (picture(green["after"]) == 128).all()  # 0.5 of 255, rounded
    before = picture(green["before"]).astype(int)
    assert before.std() > 0
    assert green["largest"] == pytest.approx(np.abs(before - 128).max() / 255, abs=1e-6)
    head, close = texels(client, f"{address}/G", left=0, upper=0, columns=64, rows=64)
    assert head["top"] is None
    np.testing.assert_allclose(close["after"], 128 / 255, atol=1e-6)
    np.testing.assert_array_equal((close["before"] * 255).round(), before)
    assert client.get(f"{address}/R").json()["largest"] == 0
    assert client.get(f"{address}/A").status_code == 404
    lit = [
        client.get(f"/api/v1/deliveries/{one}/parts/0/lit.png").content for one in (first, second)
    ]
    assert lit[0] != lit[1]


def test_files_that_came_and_went_are_told(
    client: TestClient, context: Context, project: str, set_id: int
) -> None:
    first = deliver(client, context, project, {"set_ids": [set_id], "target_ids": ["separate-png"]})
    one = client.get(f"/api/v1/sets/{set_id}").json()
    maps = {m["kind"]: m["definition"] for m in one["maps"] if m["kind"] != "metallic"}
    maps["opacity"] = {"how": "constant", "value": [0.5]}
    body = {"version": one["version"], "surface": one["surface"], "maps": maps}
    assert client.put(f"/api/v1/sets/{set_id}", json=body).status_code == 200
    both = {"set_ids": [set_id], "target_ids": ["separate-png", ORM]}
    second = deliver(client, context, project, both)
    found = client.get(f"/api/v1/deliveries/{first}/comparisons/{second}").json()
    kinds = {file["name"]: file["kind"] for file in found[0]["files"]}
    assert kinds["cellar_opacity.png"] == "added"
    assert kinds["cellar_metallic.png"] == "gone"
    assert set(found[0]["maps"]) == {"metallic", "opacity"}
    assert (found[1]["target_id"], found[1]["n"], found[1]["other_n"]) == (ORM, None, 1)
    assert {file["kind"] for file in found[1]["files"]} == {"added"}


def test_a_set_is_as_it_was_delivered_and_back(
    client: TestClient, context: Context, project: str, set_id: int
) -> None:
    first = deliver(client, context, project, {"set_ids": [set_id], "target_ids": [ORM]})
    change(client, project, set_id, do="width", metres=4)
    change(client, project, set_id, do="rename", name="deep_cellar")
    done = change(client, project, set_id, do="restore", delivery_id=first)
    assert done["title"] == f"1 set: restored from delivery {first}"
    one = client.get(f"/api/v1/sets/{set_id}").json()
    assert (one["name"], one["surface"]["tile_size"]) == ("deep_cellar", 1.0)
    client.post(f"/api/v1/projects/{project}/changes/undo")
    assert client.get(f"/api/v1/sets/{set_id}").json()["surface"]["tile_size"] == 4.0


def test_an_old_delivery_is_made_again_to_the_byte(
    client: TestClient, context: Context, project: str, set_id: int
) -> None:
    body = {"set_ids": [set_id], "target_ids": [ORM]}
    first = deliver(client, context, project, body)
    folder = client.get(f"/api/v1/deliveries/{first}").json()["parts"][0]["folder"]
    before = files_of(folder)
    change(client, project, set_id, do="constant", kind="base_color", value=[0.2, 0.4, 0.8])
    deliver(client, context, project, body)
    assert files_of(folder) != before
    asked = client.post(f"/api/v1/deliveries/{first}/repetitions")
    assert asked.status_code == 202
    delivery_worker.run(context, asked.json()["id"])
    assert files_of(folder) == before
    assert client.get(f"/api/v1/deliveries/{first}").json()["parts"][0]["disk_state"] == "intact"
    Path(folder, "manifest.json").unlink()  # now nothing says that the files are ours
    refused = client.post(f"/api/v1/deliveries/{first}/repetitions")
    assert refused.status_code == 409
    assert "wasn't written by a delivery" in refused.json()["detail"]
    assert client.get("/api/v1/deliveries/999999/comparisons/1").status_code == 404
