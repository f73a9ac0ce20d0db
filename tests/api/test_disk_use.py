"""Purged sets release their originals; what a project takes is told, and its trash emptied."""

from __future__ import annotations

import itertools
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from copper_sieve.services import delivery_worker, disk_use
from copper_sieve.services.context import Context
from tests.api.conftest import TakeIn
from tests.conftest import MakePhoto

_seeds = itertools.count(7000, 10)


@pytest.fixture
def photos(make_photo: MakePhoto) -> list[Path]:
    seed = next(_seeds)  # bytes that no other test has
    return [make_photo(f"jetty{n}.png", size=(48, 32), seed=seed + n) for n in range(3)]


def delete(client: TestClient, project: str, ids: list[int]) -> None:
    body = {"set_ids": ids, "change": {"do": "delete"}}
    assert client.post(f"/api/v1/projects/{project}/changes", json=body).status_code == 200


def originals(context: Context, sha256s: list[str]) -> int:
    with context.database.transaction() as connection:
        row = connection.execute(
            "select count(*) as n from source where sha256 = any(%s)", [sha256s]
        ).fetchone()
    assert row
    return int(row["n"])


def age(context: Context) -> None:
    """As if a month had gone by."""
    with context.database.transaction() as connection:
        for table, column in (("texture_set", "deleted_at"), ("arrival", "dismissed_at"),
                              ("source", "imported_at")):  # fmt: skip
            connection.execute(
                f"update {table} set {column} = {column} - interval '31 days'"  # type: ignore[arg-type]
                f" where {column} is not null"
            )


def test_purged_sets_release_their_originals_and_nothing_else(
    client: TestClient, context: Context, project: str, take_in: TakeIn, photos: list[Path]
) -> None:
    taken = [take_in(photo) for photo in photos]
    ids, shas = [one["set_id"] for one in taken], [one["sha256"] for one in taken]
    other = client.post("/api/v1/projects", json={"title": "Other pier"}).json()["slug"]
    address = f"/api/v1/projects/{other}/sources?name=jetty2.png"
    assert client.post(address, content=photos[2].read_bytes()).status_code == 201
    delete(client, project, ids)
    age(context)
    assert originals(context, shas) == 3
    assert disk_use.purge(context) > 0
    assert originals(context, shas) == 1  # the other project has it too
    rows = client.get(f"/api/v1/projects/{other}/tray").json()["rows"]
    assert client.get(f"/api/v1/sets/{rows[0]['id']}").status_code == 200
    assert take_in(photos[0])["set_id"]  # and what is gone can be imported again
    assert originals(context, shas) == 2


def test_originals_of_drafts_recipes_and_running_deliveries_stay(
    client: TestClient, context: Context, project: str, take_in: TakeIn, photos: list[Path]
) -> None:
    recent = client.post("/api/v1/maps/height/sources?name=jetty0.png",
                         content=photos[0].read_bytes())  # fmt: skip
    assert recent.status_code == 201
    draft = recent.json()["definition"]["source"]
    assert disk_use.purge(context) >= 0
    assert originals(context, [draft]) == 1  # its draft may be saved yet
    age(context)
    client.post("/api/v1/maps/height/sources?name=jetty0.png", content=photos[0].read_bytes())
    disk_use.purge(context)
    assert originals(context, [draft]) == 1  # it was imported again
    age(context)
    disk_use.purge(context)
    assert originals(context, [draft]) == 0
    taken = take_in(photos[1])
    body = {"set_ids": [taken["set_id"]], "target_ids": ["orm-y-down"]}
    asked = client.post(f"/api/v1/projects/{project}/deliveries", json=body).json()
    delete(client, project, [taken["set_id"]])
    age(context)
    disk_use.purge(context)
    assert originals(context, [taken["sha256"]]) == 1
    delivery_worker.run(context, asked["id"])
    assert client.get(f"/api/v1/deliveries/{asked['id']}").json()["state"] == "done"
    disk_use.purge(context)
    assert originals(context, [taken["sha256"]]) == 0


def test_disk_use_is_told_and_the_trash_emptied(
    client: TestClient, context: Context, project: str, take_in: TakeIn, photos: list[Path]
) -> None:
    def use() -> dict[str, Any]:
        found: dict[str, Any] = client.get(f"/api/v1/projects/{project}/disk-use").json()
        return found

    assert set(use().values()) == {0}
    taken = [take_in(photo) for photo in photos]
    sizes = [photo.stat().st_size for photo in photos]
    body = {"set_ids": [taken[0]["set_id"]], "target_ids": ["orm-y-down"]}
    for _ in range(2):  # the second writes nothing more
        asked = client.post(f"/api/v1/projects/{project}/deliveries", json=body).json()
        delivery_worker.run(context, asked["id"])
    folder = context.settings.delivery_root / project
    written = [one for one in folder.rglob("*") if one.is_file() and one.name != "manifest.json"]
    before = use()
    assert (before["originals"], before["original_bytes"]) == (3, sum(sizes))
    assert before["delivered_files"] == len(written)
    assert before["delivered_bytes"] == sum(one.stat().st_size for one in written)
    assert (before["trash_sets"], before["trash_bytes"]) == (0, 0)
    delete(client, project, [taken[1]["set_id"]])
    in_trash = use()
    assert (in_trash["trash_sets"], in_trash["trash_files"]) == (1, 1)
    assert in_trash["trash_bytes"] == sizes[1]
    emptied = client.delete(f"/api/v1/projects/{project}/trash").json()
    assert emptied == use()
    assert (emptied["originals"], emptied["trash_sets"]) == (2, 0)
    assert originals(context, [taken[1]["sha256"]]) == 0
    names = [row["name"] for row in client.get(f"/api/v1/projects/{project}/tray").json()["rows"]]
    assert names == ["jetty0", "jetty2"]
    assert client.get("/api/v1/projects/nowhere/disk-use").status_code == 404


def test_a_delivery_whose_originals_were_deleted_says_so(
    client: TestClient, context: Context, project: str, take_in: TakeIn, photos: list[Path]
) -> None:
    taken = take_in(photos[0])
    cells = [{"set_id": taken["set_id"], "target_id": "orm-y-down"}]
    asked = client.post(f"/api/v1/projects/{project}/deliveries", json={"cells": cells}).json()
    delivery_worker.run(context, asked["id"])
    delete(client, project, [taken["set_id"]])
    client.delete(f"/api/v1/projects/{project}/trash")
    age(context)
    disk_use.purge(context)
    assert originals(context, [taken["sha256"]]) == 0
    answers = [client.post(f"/api/v1/deliveries/{asked['id']}/repetitions"),
               client.get(f"/api/v1/deliveries/{asked['id']}/sheet.png")]  # fmt: skip
    for answer in answers:
        assert answer.status_code == 409
        assert "was deleted with the Trash" in answer.json()["detail"]
