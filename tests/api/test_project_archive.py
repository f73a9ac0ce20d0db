"""A project packed, and taken in where nothing of it is known."""

from __future__ import annotations

import io
import json
import zipfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from fastapi.testclient import TestClient
from httpx2 import Response

from copper_sieve.core.codecs import write_picture
from copper_sieve.core.image.raster import Encoding, Picture
from copper_sieve.core.models.source_card import SourceCard
from copper_sieve.services.context import Context
from copper_sieve.store import arrivals, checklist
from tests.api.test_targets import copy_of
from tests.conftest import MakePhoto
from tests.serving import imported, refused

Change = Callable[[dict[str, bytes]], None]


@pytest.fixture
def packed(client: TestClient, project: str, make_photo: MakePhoto) -> bytes:
    """The archive of a project with two sets, one of them with a note and another map."""
    for seed in (61, 62):
        photo = make_photo(f"quay{seed}.png", size=(40, 24), seed=seed)
        client.post(f"/api/v1/projects/{project}/sources?name={photo.name}",
                    content=photo.read_bytes())  # fmt: skip
    rows = client.get(f"/api/v1/projects/{project}/tray").json()["rows"]
    ids = [row["id"] for row in rows]
    for change in (
        {"do": "tags", "add": ["wet"]},
        {"do": "notes", "text": "By the \u00fcber-old wall"},
        {"do": "constant", "kind": "roughness", "value": [0.25]},
    ):
        body = {"set_ids": ids[:1], "change": change}
        assert client.post(f"/api/v1/projects/{project}/changes", json=body).status_code == 200
    answer = client.get(f"/api/v1/projects/{project}/archive.zip")
    assert answer.headers["content-disposition"] == f'attachment; filename="{project}.zip"'
    return answer.content


def forget(context: Context, project: str) -> None:
    """As if this server had never seen the project."""
    with context.database.transaction() as connection:
        rows = connection.execute(
            "select distinct sha256 from texture_set_source u join texture_set s on s.id = u.set_id"
            " join project p on p.id = s.project_id where p.slug = %s", [project],
        ).fetchall()  # fmt: skip
        connection.execute("delete from project where slug = %s", [project])
        for row in rows:  # other tests may have had a set of the same picture
            connection.execute(
                "delete from texture_set where id in"
                " (select set_id from texture_set_source where sha256 = %s)", [row["sha256"]],
            )  # fmt: skip
            connection.execute("delete from source where sha256 = %s", [row["sha256"]])


def sent(client: TestClient, data: bytes) -> Response:
    return client.post("/api/v1/project-archives?name=quay.zip", content=data)


def take_in(client: TestClient, data: bytes) -> dict[str, Any]:
    """The project, with the report of its import."""
    made = imported(client, sent(client, data))
    projects = client.get("/api/v1/projects").json()
    found: dict[str, Any] = next(one for one in projects if one["slug"] == made["project"])
    return found | {"report": made["report"]}


def said(client: TestClient, project: str) -> list[dict[str, Any]]:
    """Everything of its sets but their numbers and dates."""
    rows = client.get(f"/api/v1/projects/{project}/tray").json()["rows"]
    sets = client.get(f"/api/v1/projects/{project}/sets").json()
    told = []
    for row, one in zip(rows, sets, strict=True):
        maps = [(m["kind"], m["definition"], m["key"]) for m in one["maps"]]
        told.append(
            {"name": row["name"], "tags": row["tags"], "notes": row["notes"], "maps": maps,
             "surface": one["surface"], "shelf": one["shelf"], "tiling": one["tiling"]}
        )  # fmt: skip
    return told


def test_a_project_goes_elsewhere_and_is_the_same(
    client: TestClient, project: str, packed: bytes, context: Context
) -> None:
    before = said(client, project)
    sources = {
        m[1]["source"]: client.get(f"/api/v1/sources/{m[1]['source']}/original").content
        for one in before for m in one["maps"] if m[1]["how"] == "imported"
    }  # fmt: skip
    title = next(
        one["title"] for one in client.get("/api/v1/projects").json() if one["slug"] == project
    )
    forget(context, project)
    made = take_in(client, packed)
    assert (made["title"], made["sets"]) == (title, 2)
    assert said(client, made["slug"]) == before
    for sha256, data in sources.items():
        assert client.get(f"/api/v1/sources/{sha256}/original").content == data
    again = take_in(client, packed)  # beside it, under an address of its own
    assert again["slug"] != made["slug"]
    assert said(client, again["slug"]) == before


def test_the_archive_is_open(packed: bytes) -> None:
    with zipfile.ZipFile(io.BytesIO(packed)) as archive:
        file = json.loads(archive.read("project.json"))
        assert (file["format"], file["version"]) == ("copper-sieve/project", 2)
        names = {f"originals/{one['sha256']}" for one in file["originals"]}
        assert {"project.json"} | names == set(archive.namelist())
        assert len(names) == 2


def _changed(packed: bytes, change: Change) -> bytes:
    with zipfile.ZipFile(io.BytesIO(packed)) as archive:
        files = {name: archive.read(name) for name in archive.namelist()}
    change(files)
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        for name, data in files.items():
            archive.writestr(name, data)
    return out.getvalue()


def _picture(files: dict[str, bytes]) -> str:
    return next(name for name in files if name.startswith("originals/"))


def _other_bytes(files: dict[str, bytes]) -> None:
    last = [name for name in files if name.startswith("originals/")][-1]
    files[last] += b"more"  # the others are stored by then


def _lost(files: dict[str, bytes]) -> None:
    del files[_picture(files)]


def _not_listed(files: dict[str, bytes]) -> None:
    file = json.loads(files["project.json"])
    file["originals"] = []
    files["project.json"] = json.dumps(file).encode()


def _newer(files: dict[str, bytes]) -> None:
    files["project.json"] = files["project.json"].replace(b'"version": 2', b'"version": 3')


def _leads_out(files: dict[str, bytes]) -> None:
    files["../evil"] = b"x"


def _no_project(files: dict[str, bytes]) -> None:
    del files["project.json"]


@pytest.mark.parametrize(
    ("change", "says"),
    [
        (_other_bytes, "was modified. Export it again"),
        (_lost, "doesn't contain the file"),
        (_not_listed, "doesn't contain the file"),
        (_newer, "newer version"),
        (_leads_out, "points outside the archive"),
        (_no_project, "doesn't contain project.json"),
    ],
)
def test_what_is_damaged_is_refused_and_nothing_stays(
    client: TestClient, project: str, packed: bytes, context: Context, change: Change, says: str
) -> None:
    forget(context, project)
    slugs = [one["slug"] for one in client.get("/api/v1/projects").json()]
    assert says in refused(client, sent(client, _changed(packed, change)))
    assert [one["slug"] for one in client.get("/api/v1/projects").json()] == slugs
    with context.database.transaction() as connection:
        left = connection.execute(
            "select s.name from source s left join texture_set_source u using (sha256)"
            " where s.name like 'quay6%%' and u.set_id is null"
        ).fetchall()
    assert left == []


def test_what_is_no_archive_is_told(client: TestClient) -> None:
    assert "Couldn't unpack quay.zip" in refused(client, sent(client, b"Dear artist"))


@pytest.fixture
def furnished(
    client: TestClient, context: Context, project: str, packed: bytes, tmp_path: Path
) -> str:
    """A project with everything that can belong to one; its number makes the names its own."""
    rows = client.get(f"/api/v1/projects/{project}/tray").json()["rows"]
    ids = [row["id"] for row in rows]
    here = f"/api/v1/projects/{project}"
    own = copy_of(client, "orm-y-down", f"{project}-ours")
    assert client.post("/api/v1/targets", json=own).status_code == 201
    assert (
        client.post("/api/v1/recipes", json={"set_id": ids[0], "name": project}).status_code == 201
    )
    card = {"name": project, "normal_y": "down", "licence": "CC0"}
    with context.database.transaction() as connection:
        arrivals.put_card(connection, SourceCard.model_validate(card))
        checklist.set_ignored(connection, ids[1], ["normal_gamma:normal"], purpose=True)
    sky = tmp_path / "sky.hdr"
    codes = np.ones((16, 32, 3), np.float32)
    codes[4, 7] = 90
    write_picture(sky, Picture(codes, ("R", "G", "B"), Encoding.LINEAR), "hdr")
    address = f"{here}/environments?name=sky.hdr&kind=panorama"
    imported(client, client.post(address, content=sky.read_bytes()))
    wanted = {"folder": str(context.settings.delivery_root / "game"), "pattern": "{set}",
              "options": {"longer_side": 512}}  # fmt: skip
    chosen = client.put(f"{here}/destinations/{own['id']}", json=wanted)
    assert chosen.status_code == 200, chosen.text
    kept = {"cells": [{"set_id": ids[0], "target_id": own["id"]}, {}], "kept": True}
    assert client.put(f"{here}/auto-deliver", json=kept).status_code == 200
    url = {"url": "https://build.example.org/x"}
    assert client.post(f"{here}/webhooks", json=url).status_code == 201
    return project


def contents(client: TestClient, project: str) -> dict[str, Any]:
    """What the file of a project says."""
    data = client.get(f"/api/v1/projects/{project}/archive.zip").content
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        found: dict[str, Any] = json.loads(archive.read("project.json"))
    return found


def test_a_project_file_holds_everything_and_a_round_trip_changes_nothing(
    client: TestClient, context: Context, furnished: str
) -> None:
    before = contents(client, furnished)
    mine = f"{furnished}-ours"
    assert [one["suppressed"] for one in before["sets"]] == [[], ["normal_gamma:normal"]]
    assert [one["name"] for one in before["environments"]] == ["sky.hdr"]
    assert [one["folder"] for one in before["destinations"]] == ["deliveries:game"]
    assert before["webhooks"] == ["https://build.example.org/x"]
    assert len(before["auto_deliver"]) == 2
    assert "secret" not in json.dumps(before)
    data = client.get(f"/api/v1/projects/{furnished}/archive.zip").content
    forget(context, furnished)
    with context.database.transaction() as connection:
        for table, column, name in (("target", "id", mine), ("recipe", "name", furnished),
                                    ("source_card", "name", furnished)):  # fmt: skip
            connection.execute(f"delete from {table} where {column} = %s", [name])
        connection.execute("delete from source where name = 'sky.hdr'")
    made = take_in(client, data)
    assert contents(client, made["slug"]) == before
    report = made["report"]
    for part in ("target", f"recipe {furnished}", f"source card {furnished}",
                 "environment sky.hdr", "destination of", "2 auto-deliver rules",
                 "webhook https://build.example.org/x, paused"):  # fmt: skip
        assert any(one.startswith(part) for one in report["added"]), (part, report)
    assert report["skipped"] == []
    again = take_in(client, data)["report"]  # all of it is there now
    assert f"recipe {furnished}" in again["merged"]
    assert f"source card {furnished}" in again["merged"]
    (webhook,) = client.get(f"/api/v1/projects/{made['slug']}/webhooks").json()
    assert webhook["paused_at"]


def test_what_differs_on_the_other_server_is_added_beside_it_or_skipped(
    client: TestClient, context: Context, furnished: str
) -> None:
    data = client.get(f"/api/v1/projects/{furnished}/archive.zip").content
    mine = f"{furnished}-ours"

    def elsewhere(files: dict[str, bytes]) -> None:
        found = json.loads(files["project.json"])
        for one in found["targets"]:
            one["note"] = "of the other server"
        for one in found["recipes"]:
            one["surface"] = {"tile_size": 7.5}
        for one in found["source_cards"]:
            one["licence"] = "other"
        found["destinations"].append(
            {"target_id": "orm-y-down", "folder": "no such:x", "pattern": "{set}", "options": {}}
        )
        found["destinations"].append(
            {"target_id": "separate-png", "folder": "deliveries:../../x", "pattern": "{set}"}
        )
        found["webhooks"] = ["http://a b/"]
        files["project.json"] = json.dumps(found).encode()

    made = take_in(client, _changed(data, elsewhere))
    report = made["report"]
    assert any(f"as {mine}-2: another target has its id" in one for one in report["added"])
    assert any(f"as {furnished} (2): another recipe" in one for one in report["added"])
    assert any(one.startswith(f"source card {furnished}:") for one in report["skipped"])
    assert sum("destination" in one for one in report["skipped"]) == 2
    assert any(one.startswith("webhook: ") for one in report["skipped"])
    there = contents(client, made["slug"])
    assert [one["target_id"] for one in there["destinations"]] == [f"{mine}-2"]
    assert {one["target_id"] for one in there["auto_deliver"]} == {f"{mine}-2", None}


def test_a_file_of_version_1_is_still_imported(client: TestClient, packed: bytes) -> None:
    def older(files: dict[str, bytes]) -> None:
        found = json.loads(files["project.json"])
        kept = ("format", "title", "originals")
        sets = [{key: one[key] for key in ("definition", "tags", "notes")} for one in found["sets"]]
        old = {"version": 1, "sets": sets} | {key: found[key] for key in kept}
        files["project.json"] = json.dumps(old).encode()

    assert take_in(client, _changed(packed, older))["sets"] == 2


def test_a_set_that_no_import_would_take_is_named(
    client: TestClient, context: Context, project: str, packed: bytes
) -> None:
    """An older version could call a set like a device."""
    with context.database.transaction() as connection:
        connection.execute(
            "update texture_set set name = 'CON', definition = jsonb_set(definition::jsonb,"
            " '{name}', '\"CON\"')::json where name = 'quay61' and project_id ="
            " (select id from project where slug = %s)", [project],
        )  # fmt: skip
    answer = client.get(f"/api/v1/projects/{project}/archive.zip")
    assert answer.status_code == 409
    assert "The set CON can't be exported" in answer.json()["detail"]
