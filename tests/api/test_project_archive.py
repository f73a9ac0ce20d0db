"""A project packed, and taken in where nothing of it is known."""

from __future__ import annotations

import io
import json
import zipfile
from collections.abc import Callable
from typing import Any

import pytest
from fastapi.testclient import TestClient

from copper_sieve.services.context import Context
from tests.conftest import MakePhoto

Change = Callable[[dict[str, bytes]], None]


@pytest.fixture
def packed(client: TestClient, project: str, make_photo: MakePhoto) -> bytes:
    """The archive of a project with two sets, one of them with a note and another map."""
    for seed in (61, 62):
        photo = make_photo(f"quay{seed}.png", size=(40, 24), seed=seed)
        client.post(f"/api/projects/{project}/sources?name={photo.name}",
                    content=photo.read_bytes())  # fmt: skip
    rows = client.get(f"/api/projects/{project}/tray").json()["rows"]
    ids = [row["id"] for row in rows]
    for change in (
        {"do": "tags", "add": ["wet"]},
        {"do": "notes", "text": "By the \u00fcber-old wall"},
        {"do": "constant", "kind": "roughness", "value": [0.25]},
    ):
        body = {"set_ids": ids[:1], "change": change}
        assert client.post(f"/api/projects/{project}/changes", json=body).status_code == 200
    answer = client.get(f"/api/projects/{project}/archive.zip")
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


def take_in(client: TestClient, data: bytes, status: int = 201) -> dict[str, Any]:
    answer = client.post("/api/project-archives?name=quay.zip", content=data)
    assert answer.status_code == status, answer.text
    found: dict[str, Any] = answer.json()
    return found


def said(client: TestClient, project: str) -> list[dict[str, Any]]:
    """Everything of its sets but their numbers and dates."""
    rows = client.get(f"/api/projects/{project}/tray").json()["rows"]
    sets = client.get(f"/api/projects/{project}/sets").json()
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
        m[1]["source"]: client.get(f"/api/sources/{m[1]['source']}/original").content
        for one in before for m in one["maps"] if m[1]["how"] == "imported"
    }  # fmt: skip
    title = next(
        one["title"] for one in client.get("/api/projects").json() if one["slug"] == project
    )
    forget(context, project)
    made = take_in(client, packed)
    assert (made["title"], made["sets"]) == (title, 2)
    assert said(client, made["slug"]) == before
    for sha256, data in sources.items():
        assert client.get(f"/api/sources/{sha256}/original").content == data
    again = take_in(client, packed)  # beside it, under an address of its own
    assert again["slug"] != made["slug"]
    assert said(client, again["slug"]) == before


def test_the_archive_is_open(packed: bytes) -> None:
    with zipfile.ZipFile(io.BytesIO(packed)) as archive:
        file = json.loads(archive.read("project.json"))
        assert (file["format"], file["version"]) == ("copper-sieve/project", 1)
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
    files["project.json"] = files["project.json"].replace(b'"version": 1', b'"version": 2')


def _leads_out(files: dict[str, bytes]) -> None:
    files["../evil"] = b"x"


def _no_project(files: dict[str, bytes]) -> None:
    del files["project.json"]


@pytest.mark.parametrize(
    ("change", "says"),
    [
        (_other_bytes, "was changed: pack it again"),
        (_lost, "lacks the file"),
        (_not_listed, "lacks the file"),
        (_newer, "newer version"),
        (_leads_out, "leads out of the archive"),
        (_no_project, "holds no project.json"),
    ],
)
def test_what_is_damaged_is_refused_and_nothing_stays(
    client: TestClient, project: str, packed: bytes, context: Context, change: Change, says: str
) -> None:
    forget(context, project)
    slugs = [one["slug"] for one in client.get("/api/projects").json()]
    assert says in take_in(client, _changed(packed, change), 422)["message"]
    assert [one["slug"] for one in client.get("/api/projects").json()] == slugs
    with context.database.transaction() as connection:
        left = connection.execute(
            "select s.name from source s left join texture_set_source u using (sha256)"
            " where s.name like 'quay6%%' and u.set_id is null"
        ).fetchall()
    assert left == []


def test_what_is_no_archive_is_told(client: TestClient) -> None:
    assert "Couldn't unpack quay.zip" in take_in(client, b"Dear artist", 422)["message"]
