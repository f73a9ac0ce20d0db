"""The Tray through the API: the light list, many sets changed as one, and taken back as one."""

from __future__ import annotations

import io
import time
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import numpy as np
import pytest
from fastapi.testclient import TestClient
from PIL import Image

from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.models.source_card import SourceCard
from copper_sieve.core.models.texture_set import Constant, Imported
from copper_sieve.services.context import Context
from copper_sieve.services.disk_use import purge
from copper_sieve.services.tray import apply
from copper_sieve.services.tray.lit import lit_maps_of
from copper_sieve.store import projects, texture_sets, tray_changes
from copper_sieve.store.arrivals import put_card
from copper_sieve.store.sources import source_sizes
from tests.conftest import MakePhoto


@pytest.fixture
def sets(client: TestClient, project: str, make_photo: MakePhoto) -> list[dict]:
    """Three sets, each from a photo of its own: wall_a, wall_b, wall_c."""
    for seed, letter in enumerate("abc", 31):
        photo = make_photo(f"wall_{letter}.png", seed=seed)
        client.post(f"/api/v1/projects/{project}/sources?name={photo.name}",
                    content=photo.read_bytes())  # fmt: skip
    return client.get(f"/api/v1/projects/{project}/sets").json()


@pytest.fixture
def ask(client: TestClient, project: str) -> Any:
    """Ask for a change of sets."""

    def asked(ids: list[int], do: str, dry: bool = False, status: int = 200, **more: Any) -> dict:
        body = {"set_ids": ids, "dry": dry, "change": {"do": do, **more}}
        answer = client.post(f"/api/v1/projects/{project}/changes", json=body)
        assert answer.status_code == status, answer.text
        return answer.json()

    return asked


def ids_of(sets: list[dict]) -> list[int]:
    return [one["id"] for one in sets]


def rows(client: TestClient, project: str, **query: Any) -> dict[str, dict]:
    answer = client.get(f"/api/v1/projects/{project}/tray", params=query).json()
    return {one["name"]: one for one in answer["rows"]}


def turn(client: TestClient, project: str, way: str, status: int = 200) -> dict:
    answer = client.post(f"/api/v1/projects/{project}/changes/{way}")
    assert answer.status_code == status, answer.text
    return answer.json()


def test_the_list_tells_each_set_without_its_facts(
    client: TestClient, project: str, sets: list[dict]
) -> None:
    row = rows(client, project)["wall_a"]
    assert row["maps"] == {
        "base_color": "imported", "height": "derived", "normal": "derived",
        "ambient_occlusion": "derived", "roughness": "derived", "metallic": "constant",
    }  # fmt: skip
    assert (row["tags"], row["notes"], row["card"], row["delivered"]) == ([], "", None, {})
    some = client.get(f"/api/v1/projects/{project}/sets", params={"ids": [sets[1]["id"]]}).json()
    assert [one["name"] for one in some] == ["wall_b"]


def test_a_renamed_set_keeps_its_name_when_its_bench_undoes(
    client: TestClient, project: str, sets: list[dict], ask: Any
) -> None:
    ask([sets[0]["id"]], "width", metres=2.5)
    done = ask([sets[0]["id"]], "rename", name="harbour_wall")
    assert done["title"] == "1 set: renamed harbour_wall"
    one = client.get(f"/api/v1/sets/{sets[0]['id']}").json()
    assert one["name"] == "harbour_wall"
    body = {"version": one["version"]}
    back = client.post(f"/api/v1/sets/{one['id']}/undo", json=body).json()
    assert (back["name"], back["surface"]["tile_size"]) == ("harbour_wall", 1.0)


def test_names_change_places_at_once_and_never_collide(
    client: TestClient, project: str, sets: list[dict], ask: Any
) -> None:
    assert "select a single set" in ask(ids_of(sets), "rename", status=409, name="x")["detail"]
    taken = ask([sets[0]["id"]], "rename", status=409, name="WALL_B")["detail"]
    assert taken == "two sets would be named WALL_B; no set was renamed"
    assert "a valid set name" in ask([sets[0]["id"]], "rename", status=422, name="a b")["detail"]
    done = ask(ids_of(sets)[:2], "replace_in_names", find="WALL", into="stone")
    assert len(done["changed"]) == 2
    assert set(rows(client, project)) == {"stone_a", "stone_b", "wall_c"}
    ask([sets[2]["id"]], "rename", name="stone_aa")
    same = ask(ids_of(sets), "replace_in_names", find="aa", into="b", status=409)
    assert "two sets" in same["detail"]
    turn(client, project, "undo")
    assert turn(client, project, "undo")["title"].endswith("undone")
    assert set(rows(client, project)) == {"wall_a", "wall_b", "wall_c"}
    turn(client, project, "redo")
    assert set(rows(client, project)) == {"stone_a", "stone_b", "wall_c"}


def test_a_look_before_changes_nothing(
    client: TestClient, project: str, sets: list[dict], ask: Any
) -> None:
    said = ask(ids_of(sets), "width", dry=True, metres=3)
    assert said["title"] == "3 sets: width 3 m"
    now = client.get(f"/api/v1/projects/{project}/sets").json()
    assert [one["surface"]["tile_size"] for one in now] == [1, 1, 1]
    assert [one["version"] for one in now] == [one["version"] for one in sets]
    assert turn(client, project, "undo", 409)["detail"] == "there is nothing to undo on the Tray"


def test_many_are_changed_and_taken_back_as_one(
    client: TestClient, project: str, sets: list[dict], ask: Any
) -> None:
    ask(ids_of(sets), "constant", kind="roughness", value=[0.25])
    ask(ids_of(sets), "relief", degrees=20)
    listed = client.get(f"/api/v1/projects/{project}/tray").json()
    assert listed["undo"] == "3 sets: relief 20°"
    assert [one["maps"]["roughness"] for one in listed["rows"]] == ["constant"] * 3
    # A hand on the Bench of one of them in between: that one is left as it is, and told.
    one = client.get(f"/api/v1/sets/{sets[1]['id']}").json()
    maps = {m["kind"]: m["definition"] for m in one["maps"]}
    body = {"version": one["version"], "surface": {**one["surface"], "tile_size": 4}, "maps": maps}
    assert client.put(f"/api/v1/sets/{one['id']}", json=body).status_code == 200
    undone = turn(client, project, "undo")
    assert undone["changed"] == [sets[0]["id"], sets[2]["id"]]
    assert undone["kept"] == [
        {"text": "wall_b was changed since. Undo that change on its Bench first",
         "set_ids": [sets[1]["id"]]}
    ]  # fmt: skip
    reliefs = [
        one["surface"]["relief"] for one in client.get(f"/api/v1/projects/{project}/sets").json()
    ]
    assert reliefs == [sets[0]["surface"]["relief"], 20, sets[2]["surface"]["relief"]]
    again = turn(client, project, "redo")
    assert again["changed"] == [sets[0]["id"], sets[2]["id"]]
    assert turn(client, project, "redo", 409)["type"] == "/problems/conflict"


def test_what_is_so_already_and_what_cannot_be_is_told_by_reason(
    client: TestClient, project: str, sets: list[dict], ask: Any
) -> None:
    ask([sets[0]["id"]], "width", metres=2)
    done = ask(ids_of(sets), "width", metres=2)
    assert done["changed"] == ids_of(sets)[1:]
    assert done["kept"] == [{"text": "it already has this value", "set_ids": [sets[0]["id"]]}]
    none = ask(ids_of(sets), "flip_green")
    assert none["changed"] == []
    assert none["kept"] == [{"text": "it has no imported normal map", "set_ids": ids_of(sets)}]
    wrong = ask(ids_of(sets), "constant", kind="base_color", value=[0.5])
    assert "takes 3 number" in wrong["kept"][0]["text"]
    read = ask(ids_of(sets), "interpret", about="relief", name="low")
    assert len(read["changed"]) + sum(len(one["set_ids"]) for one in read["kept"]) == 3
    odd = ask([sets[0]["id"]], "interpret", about="relief", name="mild")
    assert odd["kept"][0]["text"].startswith("it can only be interpreted as low")
    assert ask([10**9], "delete", status=404)["type"] == "/problems/not-found"


def test_thrown_away_and_brought_back(
    client: TestClient, project: str, sets: list[dict], ask: Any, make_photo: MakePhoto
) -> None:
    gone = sets[0]["id"]
    ask([gone], "delete")
    assert set(rows(client, project)) == {"wall_b", "wall_c"}
    assert "Restore it on the Tray" in client.get(f"/api/v1/sets/{gone}").json()["detail"]
    assert set(rows(client, project, deleted=True)) == {"wall_a"}
    # Its name is free meanwhile, and the same photo makes a set of its own again.
    photo = make_photo("wall_a.png", seed=31)
    taken = client.post(f"/api/v1/projects/{project}/sources?name=wall_a.png",
                        content=photo.read_bytes()).json()  # fmt: skip
    assert (taken["set_name"], taken["known_set"]) == ("wall_a", False)
    back = ask([gone], "undelete")
    assert back["messages"][-1]["text"] == "the name wall_a is in use; it is restored as wall_a_2"
    assert client.get(f"/api/v1/sets/{gone}").json()["name"] == "wall_a_2"
    turn(client, project, "undo")
    assert set(rows(client, project, deleted=True)) == {"wall_a"}


def test_tags_and_notes(client: TestClient, project: str, sets: list[dict], ask: Any) -> None:
    ask(ids_of(sets), "tags", add=["Roof", "north"])
    ask([sets[0]["id"]], "tags", add=["ROOF", "wet"], remove=["north"])
    ask([sets[0]["id"]], "notes", text="Photographed in the rain.")
    row = rows(client, project)["wall_a"]
    assert (row["tags"], row["notes"]) == (["Roof", "wet"], "Photographed in the rain.")
    assert row["version"] == sets[0]["version"]  # nothing of the set itself changed
    for _ in range(2):
        turn(client, project, "undo")
    assert rows(client, project)["wall_a"]["tags"] == ["Roof", "north"]
    assert ask([sets[0]["id"]], "tags", status=422, add=["a, b"])["type"] == "/problems/invalid"


def test_copied_moved_and_merged(
    client: TestClient, project: str, sets: list[dict], ask: Any, context: Context
) -> None:
    made = ask([sets[0]["id"]], "duplicate")["made"]
    assert client.get(f"/api/v1/sets/{made[0]}").json()["name"] == "wall_a_2"
    third = ask(made, "duplicate")["made"]  # a copy of a copy counts on
    assert client.get(f"/api/v1/sets/{third[0]}").json()["name"] == "wall_a_3"
    turn(client, project, "undo")
    other = client.post("/api/v1/projects", json={"title": f"Other {project}"}).json()["slug"]
    ask([made[0], sets[1]["id"]], "move", project=other)
    assert set(rows(client, other)) == {"wall_a_2", "wall_b"}
    turn(client, project, "undo")
    assert set(rows(client, project)) == {"wall_a", "wall_a_2", "wall_b", "wall_c"}
    done = ask([sets[0]["id"], sets[1]["id"]], "merge", into=sets[0]["id"])
    told = [one["text"] for one in done["messages"]]
    assert "wall_b: base color kept as an alternative" in told
    assert not any("holds nothing" in one for one in told)
    one = client.get(f"/api/v1/sets/{sets[0]['id']}").json()
    source = next(m["definition"]["source"] for m in sets[1]["maps"] if m["kind"] == "base_color")
    assert [way["source"] for way in one["shelf"]["base_color"]] == [source]
    assert "wall_b" not in rows(client, project)
    again = ask([sets[0]["id"], made[0]], "merge", into=sets[0]["id"], dry=True)
    assert "wall_a_2 has no maps that wall_a lacks" in [one["text"] for one in again["messages"]]
    turn(client, project, "undo")
    assert "wall_b" in rows(client, project)
    assert client.get(f"/api/v1/sets/{sets[0]['id']}").json()["shelf"] == {}


def test_green_is_turned_for_all_from_one_card(
    client: TestClient, project: str, sets: list[dict], ask: Any, context: Context,
    make_photo: MakePhoto,
) -> None:  # fmt: skip
    card = f"Field kit {project}"
    with context.database.transaction() as connection:
        put_card(connection, SourceCard(name=card, licence="CC0", where="the shed"))
    photo = make_photo("wall_normal.png", seed=40)
    taken = client.post("/api/v1/maps/normal/sources?name=n.png", content=photo.read_bytes()).json()
    for one in sets:
        maps = {m["kind"]: m["definition"] for m in one["maps"]}
        maps["normal"] = {**taken["definition"], "normal_y": "down"}
        body = {"version": one["version"], "surface": one["surface"], "maps": maps}
        assert client.put(f"/api/v1/sets/{one['id']}", json=body).status_code == 200
    ask(ids_of(sets)[:2], "card", name=card)
    assert rows(client, project)["wall_a"]["card"] == card
    done = ask(ids_of(sets), "flip_green", card=card)
    assert done["changed"] == ids_of(sets)[:2]
    assert done["kept"] == [
        {"text": f"it has another source card than {card}", "set_ids": [sets[2]["id"]]}
    ]
    now = client.get(f"/api/v1/projects/{project}/sets").json()
    ways = [next(m["definition"] for m in one["maps"] if m["kind"] == "normal") for one in now]
    assert [way["normal_y"] for way in ways] == ["up", "up", "down"]
    assert now[0]["origin"] == {"card": card, "licence": "CC0", "where": "the shed"}
    assert ask(ids_of(sets), "card", status=404, name="nobody")["type"] == "/problems/not-found"


def test_a_lit_picture_follows_the_set(
    client: TestClient, project: str, sets: list[dict], ask: Any, monkeypatch: pytest.MonkeyPatch
) -> None:
    address = f"/api/v1/sets/{sets[0]['id']}/lit.png"
    first = client.get(address)
    assert first.content.startswith(b"\x89PNG")
    with monkeypatch.context() as quick:  # it is computed once
        quick.setattr("copper_sieve.services.tray.lit._light", None)
        assert client.get(address).content == first.content
    ask([sets[0]["id"]], "constant", kind="base_color", value=[0.9, 0.1, 0.1])
    assert client.get(address).content != first.content


def test_projects_live(client: TestClient, project: str, sets: list[dict]) -> None:
    title = f"North Quay {project}"
    made = client.post("/api/v1/projects", json={"title": f" {title} ", "copy_of": project})
    assert made.status_code == 201
    slug = made.json()["slug"]
    assert made.json()["title"] == title
    assert set(rows(client, slug)) == {"wall_a", "wall_b", "wall_c"}
    second = client.post("/api/v1/projects", json={"title": title}).json()["slug"]
    assert second == f"{slug}-2"
    renamed = client.patch(f"/api/v1/projects/{second}", json={"title": "South Quay"}).json()
    assert renamed["title"] == "South Quay"
    client.patch(f"/api/v1/projects/{second}", json={"deleted": True})
    assert second not in [one["slug"] for one in client.get("/api/v1/projects").json()]
    assert "Projects page" in client.get(f"/api/v1/projects/{second}/tray").json()["detail"]
    gone = client.get("/api/v1/projects", params={"deleted": True}).json()
    assert second in [one["slug"] for one in gone]
    client.patch(f"/api/v1/projects/{second}", json={"deleted": False})
    assert client.get(f"/api/v1/projects/{second}/tray").status_code == 200
    assert client.post("/api/v1/projects", json={"title": "  "}).status_code == 422


def test_what_was_thrown_away_long_ago_is_forgotten(
    client: TestClient, project: str, sets: list[dict], ask: Any, context: Context
) -> None:
    ask(ids_of(sets)[:2], "delete")
    with context.database.transaction() as connection:
        connection.execute(
            "update texture_set set deleted_at = now() - interval '31 days' where id = %s",
            [sets[0]["id"]],
        )
    purge(context)
    assert set(rows(client, project, deleted=True)) == {"wall_b"}


def test_a_change_is_seen_lit_before_it_is_made(
    client: TestClient, project: str, sets: list[dict], ask: Any
) -> None:
    address = f"/api/v1/sets/{sets[0]['id']}/change-previews"
    now = client.post(address, json={}).content
    red = {"do": "constant", "kind": "base_color", "value": [0.8, 0.05, 0.05]}
    seen = client.post(address, json={"change": red})
    assert seen.content.startswith(b"\x89PNG")
    assert seen.content != now
    assert client.post(address, json={}).content == now  # nothing was changed
    ask([sets[0]["id"]], **red)
    assert client.post(address, json={}).content == seen.content
    refused = client.post(address, json={"change": {"do": "flip_green"}})
    assert "no imported normal map" in refused.json()["detail"]
    assert client.post(address, json={"change": {"do": "delete"}}).status_code == 409


def test_on_the_wall_relief_throws_light_and_shade(context: Context, sets: list[dict]) -> None:
    """From a low light it shows more than under the usual one."""
    with context.database.transaction() as connection:
        kept = texture_sets.get_set(connection, sets[0]["id"]).definition()
        sizes = source_sizes(connection, kept.sources())
    photo, grey = kept.maps[MapKind.BASE_COLOR], Constant(value=(0.5, 0.5, 0.5))
    assert isinstance(photo, Imported)
    relief = Imported(source=photo.source, channels="R")
    maps = {**kept.maps, MapKind.BASE_COLOR: grey, MapKind.HEIGHT: relief}
    definition = kept.model_copy(update={"maps": maps})  # its own color would hide the relief

    def contrast(raking: bool) -> float:
        found = Image.open(io.BytesIO(lit_maps_of(context, definition, sizes, 64, raking=raking)))
        grey = np.asarray(found.convert("L"), dtype=float)
        return float(grey.std() / grey.mean())

    assert contrast(True) > 1.3 * contrast(False)


def test_two_undos_at_once_take_back_two_changes(
    client: TestClient, project: str, sets: list[dict], ask: Any, context: Context,
    monkeypatch: pytest.MonkeyPatch,
) -> None:  # fmt: skip
    found = tray_changes.next_change

    def slowly(*given: Any, **more: Any) -> Any:  # so that all are at it before one has ended
        change = found(*given, **more)
        time.sleep(0.15)
        return change

    monkeypatch.setattr(tray_changes, "next_change", slowly)
    for tag in ("one", "two", "three", "four"):
        ask(ids_of(sets), "tags", add=[tag])
    with ThreadPoolExecutor(4) as threads:
        done = list(threads.map(lambda _: apply.undo(context, project, again=False), range(4)))
    assert [one.kept for one in done] == [()] * 4
    assert rows(client, project)["wall_a"]["tags"] == []
    for _ in range(4):
        turn(client, project, "redo")
    assert rows(client, project)["wall_a"]["tags"] == ["one", "two", "three", "four"]


def test_two_changes_at_once_wait_for_each_other(
    client: TestClient, project: str, sets: list[dict], ask: Any, context: Context
) -> None:
    with ThreadPoolExecutor(1) as threads:
        with context.database.transaction() as connection:  # somebody changes the project
            found = projects.get_project(connection, project)
            texture_sets.lock_project(connection, found.id)
            asked = threads.submit(ask, ids_of(sets), "tags", add=["late"])
            with pytest.raises(TimeoutError):
                asked.result(0.4)
        asked.result(10)
    assert rows(client, project)["wall_a"]["tags"] == ["late"]
