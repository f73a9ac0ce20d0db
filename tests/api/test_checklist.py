"""The lasting checklist over HTTP: looked over once rested, mended as one, so on purpose."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from copper_sieve.core.codecs import write_picture
from copper_sieve.core.image.raster import Encoding, Picture
from copper_sieve.core.models.texture_set import SetDefinition
from copper_sieve.services import checklist, sets
from copper_sieve.services.checklist import ChecklistRunner
from copper_sieve.services.context import Context
from copper_sieve.store import checklist as kept
from tests.api.conftest import TakeIn
from tests.core.recognition.maps import encoded, normals, relief


@pytest.fixture
def overseer(context: Context, client: TestClient) -> ChecklistRunner:
    """One that finds every hand rested; the application's own waits longer than a test."""
    client.app.state.overseer.stop()  # type: ignore[attr-defined]
    with context.database.transaction() as connection:  # of other tests' projects
        connection.execute("update texture_set set deleted_at = now() where deleted_at is null")
    return ChecklistRunner(context, lambda: 60.0, rest=0.0)


@pytest.fixture
def turned(take_in: TakeIn, tmp_path: Path) -> dict[str, Any]:
    """A set of one normal map whose name says the wrong direction of green."""
    codes = encoded(normals(relief("bricks", 7, 128), 0.8, down=True))
    path = tmp_path / "kerb_normal.png"
    write_picture(path, Picture(codes, ("R", "G", "B"), Encoding.LINEAR), "png")
    return take_in(path)


def read_up(context: Context, set_id: int) -> None:
    """Say that its green grows upwards, as its maker believes."""
    view = sets.get_view(context, set_id)
    stored = view.texture_set.model_dump(mode="json")
    stored["maps"]["normal"]["normal_y"] = "up"
    stored["surface"]["wrap"] = True
    sets.change(context, set_id, view.version, SetDefinition.model_validate(stored))


def asked(client: TestClient, project: str, *ids: int) -> list[dict[str, Any]]:
    answer = client.post(f"/api/v1/projects/{project}/checklists", json={"set_ids": list(ids)})
    assert answer.status_code == 200, answer.text
    return answer.json()


def open_on_tray(client: TestClient, project: str) -> list[list[str]]:
    rows = client.get(f"/api/v1/projects/{project}/tray").json()["rows"]
    return [[one["rule"] for one in row["findings"]] for row in rows]


def test_a_finding_is_told_mended_with_the_rest_and_undone(
    client: TestClient,
    project: str,
    context: Context,
    overseer: ChecklistRunner,
    turned: dict[str, Any],
) -> None:
    number = turned["set_id"]
    read_up(context, number)
    assert asked(client, project, number)[0]["current"] is False
    assert overseer.look() == [number]
    (one,) = asked(client, project, number)
    assert one["current"]
    (finding,) = one["findings"]
    assert finding["rule"] == "green_direction"
    assert finding["fix"] == "Read green as Y−"
    assert open_on_tray(client, project) == [["green_direction"]]

    body = {"set_ids": [number], "change": {"do": "fix", "rule": "green_direction"}}
    after = client.post(f"/api/v1/sets/{number}/change-previews", json={"change": body["change"]})
    before = client.post(f"/api/v1/sets/{number}/change-previews", json={"change": None})
    assert after.status_code == before.status_code == 200
    assert after.content != before.content
    done = client.post(f"/api/v1/projects/{project}/changes", json=body).json()
    assert done["title"] == "1 set: wrong green direction, fixed"
    assert (
        client.get(f"/api/v1/sets/{number}").json()["maps"][0]["definition"]["normal_y"] == "down"
    )
    assert asked(client, project, number)[0]["current"] is False
    overseer.look()
    assert asked(client, project, number)[0]["findings"] == []
    assert open_on_tray(client, project) == [[]]
    client.post(f"/api/v1/projects/{project}/changes/undo")
    overseer.look()
    assert open_on_tray(client, project) == [["green_direction"]]


def test_what_is_so_on_purpose_is_told_no_more(
    client: TestClient,
    project: str,
    context: Context,
    overseer: ChecklistRunner,
    turned: dict[str, Any],
) -> None:
    number, key = turned["set_id"], "green_direction:normal"
    read_up(context, number)
    overseer.look()
    address = f"/api/v1/sets/{number}/ignored-findings"
    answer = client.put(address, json={"finding": key, "ignored": True})
    assert [one["ignored"] for one in answer.json()["findings"]] == [True]
    assert open_on_tray(client, project) == [[]]
    body = {"set_ids": [number], "change": {"do": "fix", "rule": "green_direction"}, "dry": True}
    done = client.post(f"/api/v1/projects/{project}/changes", json=body).json()
    assert done["kept"][0]["text"] == "the set no longer has this finding"
    client.put(address, json={"finding": key, "ignored": False})
    assert open_on_tray(client, project) == [["green_direction"]]
    unknown = client.put(address, json={"finding": "mixed:normal", "ignored": True})
    assert unknown.status_code == 404


def test_what_has_changed_since_is_not_mended_by_what_was_found(
    client: TestClient,
    project: str,
    context: Context,
    overseer: ChecklistRunner,
    turned: dict[str, Any],
) -> None:
    number = turned["set_id"]
    read_up(context, number)
    overseer.look()
    view = sets.get_view(context, number)
    wider = view.texture_set.surface.model_copy(update={"tile_size": 3.0})
    changed = view.texture_set.model_copy(update={"surface": wider})
    sets.change(context, number, view.version, changed)
    body = {"set_ids": [number], "change": {"do": "fix", "rule": "green_direction"}}
    done = client.post(f"/api/v1/projects/{project}/changes", json=body).json()
    assert done["changed"] == []
    assert "changed since it was checked" in done["kept"][0]["text"]


def test_a_copy_is_looked_over_without_reading_anything(
    client: TestClient, project: str, context: Context, overseer: ChecklistRunner,
    turned: dict[str, Any],
    monkeypatch: pytest.MonkeyPatch,
) -> None:  # fmt: skip
    read_up(context, turned["set_id"])
    overseer.look()
    body = {"set_ids": [turned["set_id"]], "change": {"do": "duplicate"}}
    (made,) = client.post(f"/api/v1/projects/{project}/changes", json=body).json()["made"]

    def never(*_: object) -> None:
        raise AssertionError("it was looked at again")

    monkeypatch.setattr(checklist, "check_set", never)
    assert overseer.look() == [made]
    assert open_on_tray(client, project) == [["green_direction"], ["green_direction"]]


def test_what_cannot_be_looked_over_says_why_and_is_not_tried_again(
    client: TestClient,
    project: str,
    context: Context,
    overseer: ChecklistRunner,
    turned: dict[str, Any],
) -> None:
    number = turned["set_id"]
    with context.database.transaction() as connection:
        connection.execute("delete from source_chunk where sha256 = %s", (turned["sha256"],))
    assert overseer.look() == [number]
    (one,) = asked(client, project, number)
    assert one["findings"] == []
    assert "kerb_normal.png" in one["problem"]
    assert overseer.look() == []


def test_while_a_hand_is_at_work_sets_are_looked_over_one_by_one(
    client: TestClient,
    project: str,
    context: Context,
    overseer: ChecklistRunner,
    turned: dict[str, Any],
) -> None:
    body = {"set_ids": [turned["set_id"]], "change": {"do": "duplicate"}}
    client.post(f"/api/v1/projects/{project}/changes", json=body)
    busy = ChecklistRunner(context, lambda: 0.1, rest=0.0)
    assert [len(busy.look()) for _ in range(3)] == [1, 1, 0]


def test_a_hand_that_has_not_rested_is_waited_for(
    context: Context, overseer: ChecklistRunner, turned: dict[str, Any]
) -> None:
    assert ChecklistRunner(context, lambda: 60.0, rest=30.0).look() == []
    with context.database.transaction() as connection:
        assert kept.next_due(connection, 1, 0.0) == turned["set_id"]
