"""The board through the API: how cells stand, a look at many, what became of their files."""

from __future__ import annotations

import base64
import io
import shutil
from html.parser import HTMLParser
from typing import Any

import numpy as np
import pytest
from fastapi.testclient import TestClient
from PIL import Image

from copper_sieve.services import delivery_worker
from copper_sieve.services.contact_sheet.contents import ContactSheet, ContactSheetPart
from copper_sieve.services.contact_sheet.picture import png as sheet_png
from copper_sieve.services.context import Context
from tests.conftest import MakePhoto

TARGETS = ["orm-y-down", "separate-png"]


@pytest.fixture
def ids(client: TestClient, project: str, make_photo: MakePhoto) -> list[int]:
    """Two sets."""
    for seed in (51, 52):
        photo = make_photo(f"floor{seed}.png", size=(32, 32), seed=seed)
        client.post(f"/api/v1/projects/{project}/sources?name={photo.name}",
                    content=photo.read_bytes())  # fmt: skip
    return [row["id"] for row in client.get(f"/api/v1/projects/{project}/tray").json()["rows"]]


def board(client: TestClient, project: str) -> dict[tuple[int, str], dict[str, Any]]:
    found = client.get(f"/api/v1/projects/{project}/board").json()
    return {(one["set_id"], one["target_id"]): one for one in found}


def deliver(client: TestClient, context: Context, project: str, body: dict[str, Any]) -> int:
    asked = client.post(f"/api/v1/projects/{project}/deliveries", json=body)
    assert asked.status_code == 202, asked.text
    delivery_worker.run(context, asked.json()["id"])
    return int(asked.json()["id"])


def deliveries_in_jobs(client: TestClient, project: str) -> list[dict[str, Any]]:
    """Jobs of no project, which other tests may have left, are listed as well."""
    listed = client.get(f"/api/v1/projects/{project}/jobs").json()
    return [one for one in listed if one["kind"] == "delivery"]


def test_cells_tell_how_they_stand(
    client: TestClient, context: Context, project: str, ids: list[int]
) -> None:
    assert board(client, project) == {}
    cells = [
        {"set_id": ids[0], "target_id": TARGETS[0]},
        {"set_id": ids[1], "target_id": TARGETS[1]},
    ]
    waiting = client.post(f"/api/v1/projects/{project}/deliveries", json={"cells": cells}).json()
    assert {key: one["state"] for key, one in board(client, project).items()} == {
        (ids[0], TARGETS[0]): "waiting",
        (ids[1], TARGETS[1]): "waiting",
    }
    (job,) = deliveries_in_jobs(client, project)
    assert (job["id"], job["state"]) == (waiting["id"], "queued")
    delivery_worker.run(context, waiting["id"])
    assert deliveries_in_jobs(client, project) == []
    assert board(client, project)[ids[0], TARGETS[0]]["state"] == "delivered"
    change = {"set_ids": [ids[0]], "change": {"do": "width", "metres": 2}}
    client.post(f"/api/v1/projects/{project}/changes", json=change)
    assert board(client, project)[ids[0], TARGETS[0]]["state"] == "stale"
    assert board(client, project)[ids[1], TARGETS[1]]["state"] == "delivered"
    stopped = client.post(f"/api/v1/projects/{project}/deliveries", json={"cells": cells}).json()
    client.post(f"/api/v1/deliveries/{stopped['id']}/cancel")
    assert board(client, project)[ids[0], TARGETS[0]]["state"] == "stale"  # as before it


def test_a_failed_delivery_says_more_than_what_was_before(
    client: TestClient, context: Context, project: str, ids: list[int]
) -> None:
    body = {"set_ids": [ids[0]], "target_ids": [TARGETS[0]]}
    deliver(client, context, project, body)
    folder = context.settings.delivery_root / project / TARGETS[0]
    rewrite = {**body, "rewrite": True}
    failing = client.post(f"/api/v1/projects/{project}/deliveries", json=rewrite).json()
    shutil.rmtree(folder)
    folder.write_bytes(b"a file in the way")
    delivery_worker.run(context, failing["id"])
    cell = board(client, project)[ids[0], TARGETS[0]]
    assert (cell["state"], cell["delivery_id"]) == ("failed", failing["id"])
    assert cell["error"]


def test_what_became_of_the_files_is_told_for_the_sets_in_sight(
    client: TestClient, context: Context, project: str, ids: list[int]
) -> None:
    deliver(client, context, project, {"set_ids": ids, "target_ids": TARGETS})
    address = f"/api/v1/projects/{project}/board/disk-states"
    assert client.get(address, params={"ids": ids}).json() == []
    root = context.settings.delivery_root / project
    names = [row["name"] for row in client.get(f"/api/v1/projects/{project}/tray").json()["rows"]]
    shutil.rmtree(root / TARGETS[0] / names[0])
    next((root / TARGETS[1] / names[1]).glob("*.png")).write_bytes(b"painted over")
    told = client.get(address, params={"ids": ids}).json()
    assert {(one["set_id"], one["target_id"]): one["disk_state"] for one in told} == {
        (ids[0], TARGETS[0]): "missing",
        (ids[1], TARGETS[1]): "modified",
    }
    assert client.get(address, params={"ids": [ids[0]]}).json()[0]["disk_state"] == "missing"


@pytest.mark.parametrize(
    ("change", "differ"),
    [
        ({"do": "constant", "kind": "metallic", "value": [0.5]}, {TARGETS[0]: 1, TARGETS[1]: 1}),
        ({"do": "relief", "degrees": 9}, None),
        ({"do": "replace_in_names", "find": "floor", "into": "wall"}, None),
        ({"do": "notes", "text": "of the hall"}, {}),
    ],
)
def test_a_stale_cell_says_how_many_files_the_next_delivery_makes(
    client: TestClient, context: Context, project: str, ids: list[int],
    change: dict[str, Any], differ: dict[str, int] | None,
) -> None:  # fmt: skip
    body = {"set_ids": [ids[0]], "target_ids": TARGETS}
    deliver(client, context, project, body)
    address = f"/api/v1/projects/{project}/board/stale"
    assert client.get(address, params={"ids": ids}).json() == []
    done = client.post(f"/api/v1/projects/{project}/changes",
                       json={"set_ids": [ids[0]], "change": change})  # fmt: skip
    assert done.status_code == 200, done.text
    found = client.get(address, params={"ids": ids}).json()
    told = {one["target_id"]: one["differ"] for one in found}
    assert {one["set_id"] for one in found} <= {ids[0]}
    if differ is not None:
        assert told == differ
    made = client.get(f"/api/v1/deliveries/{deliver(client, context, project, body)}").json()
    for part in made["parts"]:
        assert part["written"] == told.get(part["target_id"], 0), part
    assert client.get(address, params={"ids": ids}).json() == []


def test_a_look_tells_each_cause_once(
    client: TestClient, context: Context, project: str, ids: list[int]
) -> None:
    client.post(f"/api/v1/projects/{project}/changes",
                json={"set_ids": [ids[0]], "change": {"do": "duplicate"}})  # fmt: skip
    ids = [row["id"] for row in client.get(f"/api/v1/projects/{project}/tray").json()["rows"]]
    body = {"set_ids": ids, "target_ids": TARGETS}
    found = client.post(f"/api/v1/projects/{project}/delivery-previews", json=body).json()
    details = client.post(f"/api/v1/projects/{project}/dry-runs", json=body).json()
    assert (found["parts"], found["blocked"], found["replaced"]) == (6, 0, 0)
    assert found["files"] == sum(len(one["files"]) + len(one["other_files"]) for one in details)
    texts = [cause["text"] for cause in found["causes"]]
    assert len(texts) == len(set(texts))
    told = sum(len(one["remarks"]) for one in details)
    assert sum(cause["cells"] for cause in found["causes"]) == told
    folder = context.settings.delivery_root / project / TARGETS[0] / details[0]["set_name"]
    folder.mkdir(parents=True)
    (folder / details[0]["files"][0]["name"]).write_bytes(b"not ours")
    blocked = client.post(f"/api/v1/projects/{project}/delivery-previews", json=body).json()
    assert blocked["blocked"] == 1
    assert blocked["causes"][0]["weight"] == "blocked"
    assert blocked["shown"][0]["error"]  # what is in the way comes first
    asked = client.post(f"/api/v1/projects/{project}/deliveries", json=body)
    assert asked.status_code == 202  # the others are delivered, the one is named
    (skipped,) = asked.json()["skipped"]
    assert (skipped["set_name"], skipped["target_id"]) == (details[0]["set_name"], TARGETS[0])
    assert "wasn't written by a delivery" in skipped["reason"]
    assert asked.json()["counts"]["parts"] == 5
    only = {"cells": [{"set_id": skipped["set_id"], "target_id": skipped["target_id"]}]}
    refused = client.post(f"/api/v1/projects/{project}/deliveries", json=only)
    assert refused.status_code == 409
    assert skipped["reason"] in refused.json()["detail"]


def test_what_was_delivered_is_unchanged_until_something_changes(
    client: TestClient, context: Context, project: str, ids: list[int]
) -> None:
    body = {"set_ids": ids[:1], "target_ids": TARGETS[:1]}

    def look() -> tuple[list[str], int, int, int]:
        found = client.post(f"/api/v1/projects/{project}/delivery-previews", json=body).json()
        (part,) = found["shown"]
        states = {one["name"]: one["state"] for one in part["files"]} | part["other_files"]
        return sorted(set(states.values())), found["files"], found["replaced"], found["unchanged"]

    states, files, *counts = look()
    assert (states, counts) == (["new"], [0, 0])
    deliver(client, context, project, body)
    assert look() == (["unchanged"], files, 0, files)
    change = {"do": "constant", "kind": "roughness", "value": [0.125]}
    asked = {"set_ids": ids[:1], "change": change}
    assert client.post(f"/api/v1/projects/{project}/changes", json=asked).status_code == 200
    states, _, replaced, unchanged = look()
    assert states == ["replaces", "unchanged"]
    assert replaced + unchanged == files
    folder = context.settings.delivery_root / project / TARGETS[0]
    (normal,) = folder.rglob("*_N.tga")
    normal.write_bytes(b"")  # what was cut is written again
    assert look()[3] == unchanged - 1


def test_nothing_chosen_is_told(client: TestClient, project: str, ids: list[int]) -> None:
    for body in ({}, {"set_ids": ids}, {"target_ids": TARGETS}):
        assert (
            client.post(f"/api/v1/projects/{project}/delivery-previews", json=body).status_code
            == 422
        )
    unknown = {"cells": [{"set_id": ids[0], "target_id": "nowhere"}]}
    assert (
        client.post(f"/api/v1/projects/{project}/delivery-previews", json=unknown).status_code
        == 404
    )


def test_a_contact_sheet_shows_what_was_delivered(
    client: TestClient, context: Context, project: str, ids: list[int]
) -> None:
    body = {"set_ids": ids, "target_ids": TARGETS}
    waiting = client.post(f"/api/v1/projects/{project}/deliveries", json=body).json()
    early = client.get(f"/api/v1/deliveries/{waiting['id']}/sheet.html")
    assert early.status_code == 409
    assert "has no delivered files to show" in early.json()["detail"]
    delivery_worker.run(context, waiting["id"])
    page = client.get(f"/api/v1/deliveries/{waiting['id']}/sheet.html")
    assert page.headers["content-type"].startswith("text/html")
    found = _Read()
    found.feed(page.text)
    delivery = client.get(f"/api/v1/deliveries/{waiting['id']}").json()
    address = f"/api/v1/deliveries/{waiting['id']}/parts"
    for part in delivery["parts"]:
        part.update(client.get(f"{address}/{part['n']}").json())
        assert f"{part['set_name']} for {part['manifest']['target_title']}" in found.text
        for file in part["manifest"]["files"]:
            assert file["name"] in found.text
    assert found.text.count("G roughness") == 2  # of the packed file of each set
    assert "32 px/m" in found.text
    assert "normal Y−" in found.text
    assert found.outside == []
    maps, files = 6, [len(part["manifest"]["files"]) for part in delivery["parts"]]
    channels = [
        len(file["channels"]) for part in delivery["parts"] for file in part["manifest"]["files"]
    ]
    assert len(found.pictures) == 4 * (1 + maps) + sum(files) + sum(channels)
    for data in found.pictures:
        with Image.open(io.BytesIO(base64.b64decode(data))) as picture:
            picture.verify()
    with Image.open(
        io.BytesIO(client.get(f"/api/v1/deliveries/{waiting['id']}/sheet.png").content)
    ) as one:
        codes = np.asarray(one)
    assert codes.shape[1] == 1600
    boxes = [int((codes[:, 40] == 255).all(axis=1).sum())]  # the white cards, a row for each part
    assert boxes == [4 * (220 + 2 * 14 + 1)]
    for n in range(4):  # the lit picture of each lies in its card
        top = 90 + n * (220 + 3 * 14) + 14
        lit = codes[top : top + 220, 46 : 46 + 220]
        assert len(np.unique(lit.reshape(-1, 3), axis=0)) > 50
    # A file that is gone is told; the rest still stands.
    gone = delivery["parts"][0]
    shutil.rmtree(gone["folder"])
    later = client.get(f"/api/v1/deliveries/{waiting['id']}/sheet.html").text
    assert "no longer exists. Deliver" in later


class _Read(HTMLParser):
    """The texts of a page, the pictures in it, and whatever it would fetch."""

    def __init__(self) -> None:
        super().__init__()
        self.text, self.pictures, self.outside = "", [], []

    def handle_data(self, data: str) -> None:
        self.text += data

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        for name, value in attrs:
            if name in ("src", "href") and value:
                head, _, data = value.partition("base64,")
                if head == "data:image/png;":
                    self.pictures.append(data)
                else:
                    self.outside.append(value)
        if tag in ("script", "link", "iframe"):
            self.outside.append(tag)


def test_a_picture_of_many_parts_says_how_many_more_there_are() -> None:
    part = ContactSheetPart("wall", "a target", "1 m wide", "", None, (), (), ())
    sizes, last = [], []
    for count in (24, 25):
        shown = ContactSheet(7, None, count, iter([part] * count))
        with Image.open(io.BytesIO(sheet_png(shown))) as one:
            sizes.append(one.size)
            last.append(len(np.unique(np.asarray(one)[-40:-10])))
    assert sizes == [(1600, 90 + 24 * 262), (1600, 90 + 24 * 262 + 50)]
    assert last[1] > last[0]  # and there it stands


def test_all_deliveries_are_listed_page_by_page(
    client: TestClient, context: Context, project: str, ids: list[int]
) -> None:
    body = {"set_ids": ids[:1], "target_ids": TARGETS[:1]}
    asked = [
        client.post(f"/api/v1/projects/{project}/deliveries", json=body).json()["id"]
        for _ in range(7)
    ]
    found: list[int] = []
    address = f"/api/v1/projects/{project}/deliveries"
    while True:
        before = {"before": found[-1]} if found else {}
        page = client.get(address, params={"limit": 3, **before}).json()
        found += [one["id"] for one in page]
        if len(page) < 3:
            break
    assert found == sorted(asked, reverse=True)
    assert client.get(address, params={"limit": 0}).status_code == 422


def test_a_warning_is_dismissed_for_a_set_and_shown_again(
    client: TestClient, project: str, ids: list[int]
) -> None:
    for number in ids:
        held = client.get(f"/api/v1/sets/{number}").json()
        mask = {"how": "constant", "value": [0.2]}
        maps = {one["kind"]: one["definition"] for one in held["maps"]} | {"curvature": mask}
        body = {"version": held["version"], "surface": held["surface"], "maps": maps}
        assert client.put(f"/api/v1/sets/{number}", json=body).status_code == 200

    def causes() -> list[dict[str, Any]]:
        body = {"set_ids": ids, "target_ids": ["orm-y-down", "mra-y-down"]}
        address = f"/api/v1/projects/{project}/delivery-previews"
        found = client.post(address, json=body).json()["causes"]
        return [one for one in found if one["cause"] == "delivery.no_channel:curvature"]

    def dismiss(dismissed: bool, **more: Any) -> int:
        body = {"set_ids": ids[:1], "cause": causes()[0]["cause"], "dismissed": dismissed, **more}
        return client.put(f"/api/v1/projects/{project}/dismissed-warnings", json=body).status_code

    assert [(one["dismissed"], one["set_ids"]) for one in causes()] == [(False, ids)] * 2
    assert dismiss(True) == 204
    # For every target of that set, and for no other set.
    assert sorted((one["dismissed"], one["set_ids"]) for one in causes()) == [
        *[(False, ids[1:])] * 2, *[(True, ids[:1])] * 2,
    ]  # fmt: skip
    parts = client.post(
        f"/api/v1/projects/{project}/dry-runs", json={"set_ids": ids, "target_ids": ["orm-y-down"]}
    ).json()
    shown = [[one["cause"] for one in part["remarks"]] for part in parts]
    assert ["delivery.no_channel:curvature" in one for one in shown] == [False, True]
    assert dismiss(False) == 204
    assert [one["dismissed"] for one in causes()] == [False, False]
    assert dismiss(True, set_ids=[10**9]) == 404
    assert dismiss(True, cause="green_direction:normal") == 422  # a finding of the checklist
