"""Recipes through the API: saved, applied to other sets and undone there, exported, imported."""

from __future__ import annotations

import pytest
from fastapi.testclient import TestClient

from tests.api.previewing import preview
from tests.conftest import MakePhoto


@pytest.fixture
def sets(client: TestClient, project: str, make_photo: MakePhoto) -> list[dict]:
    """Three sets, each from a photo of its own."""
    for seed in (21, 22, 23):
        photo = make_photo(f"wall{seed}.png", seed=seed)
        client.post(f"/api/v1/projects/{project}/sources?name={photo.name}",
                    content=photo.read_bytes())  # fmt: skip
    return client.get(f"/api/v1/projects/{project}/sets").json()


def _changed(client: TestClient, one: dict, **parameters: object) -> dict:
    maps = {m["kind"]: m["definition"] for m in one["maps"]}
    maps["normal"] = {**maps["normal"], "parameters": parameters}
    body = {"version": one["version"], "surface": one["surface"], "maps": maps}
    answer = client.put(f"/api/v1/sets/{one['id']}", json=body)
    assert answer.status_code == 200
    return answer.json()


def _normal(one: dict) -> dict:
    return next(m["definition"] for m in one["maps"] if m["kind"] == "normal")["parameters"]


def test_save_apply_and_undo(client: TestClient, sets: list[dict], project: str) -> None:
    first = _changed(client, sets[0], strength=2.5)
    name = f"Steep {project}"
    saved = client.post("/api/v1/recipes", json={"name": name, "set_id": first["id"]})
    assert saved.status_code == 201
    again = client.post("/api/v1/recipes", json={"name": name, "set_id": first["id"]})
    assert again.status_code == 409
    assert "Replace it, or choose another name" in again.json()["detail"]
    chosen = {"set_ids": [sets[1]["id"], sets[2]["id"]]}
    applied = client.post(f"/api/v1/recipes/{saved.json()['id']}/applications", json=chosen).json()
    assert [one["changed"] for one in applied] == [["normal"], ["normal"]]
    for one in sets[1:]:
        now = client.get(f"/api/v1/sets/{one['id']}").json()
        assert _normal(now) == {"strength": 2.5}
        back = client.post(
            f"/api/v1/sets/{one['id']}/undo", json={"version": now["version"]}
        ).json()
        assert _normal(back) == {}


def test_use_the_settings_of_one_set_on_others(client: TestClient, sets: list[dict]) -> None:
    first = _changed(client, sets[0], strength=3)
    ids = [one["id"] for one in sets]  # itself is passed over
    applied = client.post(
        f"/api/v1/sets/{first['id']}/settings-copies", json={"set_ids": ids}
    ).json()
    assert [one["set_id"] for one in applied] == ids[1:]
    assert _normal(client.get(f"/api/v1/sets/{ids[2]}").json()) == {"strength": 3}


def test_all_or_none(client: TestClient, sets: list[dict]) -> None:
    first = _changed(client, sets[0], strength=3)
    ids = {"set_ids": [sets[1]["id"], 10**9]}
    assert client.post(f"/api/v1/sets/{first['id']}/settings-copies", json=ids).status_code == 404
    assert _normal(client.get(f"/api/v1/sets/{sets[1]['id']}").json()) == {}


def test_export_and_import(client: TestClient, sets: list[dict], project: str) -> None:
    first = _changed(client, sets[0], strength=4)
    name = f"Out {project}"
    saved = client.post("/api/v1/recipes", json={"name": name, "set_id": first["id"]}).json()
    file = client.get(f"/api/v1/recipes/{saved['id']}/file.json")
    assert f"Out_{project}.recipe.json" in file.headers["content-disposition"]
    recipe = file.json()
    assert client.delete(f"/api/v1/recipes/{saved['id']}").status_code == 204
    assert client.get(f"/api/v1/recipes/{saved['id']}/file.json").status_code == 404
    recipe["maps"]["normal"]["slots"] = {"second": {"how": "imported", "source": "9" * 64}}
    taken = client.post("/api/v1/recipes/imports", json={"recipe": recipe})
    assert taken.status_code == 201
    assert taken.json()["remarks"] == [
        "normal: the second picture of the recipe isn't available and was skipped"
    ]
    assert client.post("/api/v1/recipes/imports", json={"recipe": recipe}).status_code == 409
    more = {"recipe": recipe, "replace": True}
    assert client.post("/api/v1/recipes/imports", json=more).status_code == 201
    assert name in [one["name"] for one in client.get("/api/v1/recipes").json()]


def test_what_is_no_recipe_is_refused_with_the_place(client: TestClient) -> None:
    answer = client.post("/api/v1/recipes/imports", json={"recipe": {"maps": {}, "version": 9}})
    assert answer.status_code == 422
    assert answer.json()["detail"].startswith("recipe.")


def test_a_normal_is_blended_with_a_picture_and_previewed(
    client: TestClient, sets: list[dict], make_photo: MakePhoto
) -> None:
    one = sets[0]
    bumps = make_photo("bumps.png", seed=31)
    taken = client.post("/api/v1/maps/normal/sources?name=bumps.png", content=bumps.read_bytes())
    maps = {m["kind"]: m["definition"] for m in one["maps"]}
    maps["normal"]["slots"] = {"second": taken.json()["definition"]}
    draft = {"surface": one["surface"], "maps": maps}
    blended = preview(client, one["id"], draft=draft, kinds=["normal"])["normal"]
    plain = preview(client, one["id"], kinds=["normal"])["normal"]
    assert blended.key != plain.key
    assert (blended.codes != plain.codes).any()
    maps["normal"]["slots"] = {"shine": taken.json()["definition"]}
    refused = client.post(f"/api/v1/sets/{one['id']}/previews", json={"draft": draft})
    assert "has no input named shine. It has second" in refused.json()["detail"]
