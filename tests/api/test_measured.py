"""Pictures of one surface through the API: noticed in Intake, accepted, lit on the Bench."""

from __future__ import annotations

import threading
import time
from collections.abc import Sequence
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from fastapi.testclient import TestClient
from PIL import Image

from copper_sieve.core.export.assay import read_manifest
from copper_sieve.core.measuring.ball import Ball
from copper_sieve.core.measuring.calibration import f0_remarks
from copper_sieve.demo import lamp_pictures as drawn
from copper_sieve.services import capture_groups
from copper_sieve.services.context import Context
from tests.api.previewing import preview
from tests.api.test_board import deliver
from tests.api.test_intake import Intake
from tests.serving import imported, open_client, refused

LAMPS = drawn.ring_of_lamps(6)
SIDE, BALL = 160, Ball(124, 126, 22, "shiny")


def pictures(folder: Path, kind: str = "pebbles", *, ball: bool = False) -> list[Path]:
    """Six pictures of a drawn surface."""
    rng = np.random.default_rng(4)
    surface = drawn.SURFACES[kind](SIDE, rng)
    codes, _ = drawn.pictures_of(surface, LAMPS, rng, ball=BALL if ball else None)
    paths = [folder / f"{kind}_{n + 1}.png" for n in range(len(codes))]
    for path, one in zip(paths, codes, strict=True):
        Image.fromarray(one).save(path)
    return paths


def looked(intake: Intake) -> dict[str, Any]:
    """The table, once nothing is looked at any more."""
    for _ in range(600):
        table = intake.table()
        if not table["looking"]:
            return table
        time.sleep(0.1)
    raise AssertionError("not looked at in time")


def looking(intake: Intake) -> bool:
    """Lights are estimated now."""
    return bool(intake.table()["looking"])


def drop(intake: Intake, paths: Sequence[Path]) -> dict[str, Any]:
    intake.drop({path.name: path.read_bytes() for path in paths}, "drop")
    return looked(intake)


@pytest.fixture
def intake(client: TestClient, project: str) -> Intake:
    return Intake(client, project)


@pytest.fixture
def bed(intake: Intake, tmp_path: Path) -> int:
    """A set that is measured from six pictures with a ball."""
    (offer,) = drop(intake, pictures(tmp_path, ball=True))["surfaces"]
    return int(intake.post(f"capture-groups/{offer['id']}/acceptances")["sets"]["pebbles"])


def test_pictures_of_one_surface_are_offered_as_a_set(
    client: TestClient, intake: Intake, tmp_path: Path
) -> None:
    other = tmp_path / "sky_9.png"
    Image.fromarray(np.full((SIDE, SIDE, 3), 120, np.uint8)).save(other)
    table = drop(intake, [*pictures(tmp_path, ball=True), other])
    (offer,) = table["surfaces"]
    assert (offer["name"], len(offer["ids"]), offer["error"]) == ("pebbles", 6, None)
    captures = offer["captures"]
    assert captures["ball"]["kind"] == "shiny"
    assert captures["ball"]["x"] * SIDE == pytest.approx(BALL.x, abs=1.5)
    for one, lamp in zip(captures["captures"], LAMPS, strict=True):
        assert one["light_origin"] == "ball"
        assert one["lamp"]["elevation"] == pytest.approx(lamp.elevation, abs=4)
    held = {row["id"]: row["problem"] for row in table["rows"]}
    assert all("one of 6 pictures of one surface" in held[n] for n in offer["ids"])
    assert "one of" not in (held[max(held)] or "")
    answer = intake.post(f"capture-groups/{offer['id']}/acceptances", name="river bed")
    made = intake.set(answer["sets"]["river_bed"])
    assert made["normal"]["operation"] == "normal_from_captures"
    assert made["height"]["operation"] == "height_from_normal"
    assert len(made["whole"]["captures"]["captures"]) == 6
    assert len(made["whole"]["prepare"]["marks"]) == 1  # the ball, filled from around
    assert looked(intake)["surfaces"] == []
    again = client.post(f"/api/v1/capture-groups/{offer['id']}/acceptances", json={})
    assert again.status_code == 409


def test_no_file_waits_behind_an_estimation_and_copies_are_not_estimated_again(
    context: Context, project: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    begun, may_end = threading.Event(), threading.Event()
    real, estimated = capture_groups._looked_at, []

    def slow(context: Context, waiting: Any, running: Any) -> Any:
        estimated.append(waiting.id)
        begun.set()
        assert may_end.wait(60)
        return real(context, waiting, running)

    monkeypatch.setattr(capture_groups, "_looked_at", slow)
    with context.database.transaction() as connection:  # those of other tests
        connection.execute("delete from capture_group")
    bed = {path.name: path.read_bytes() for path in pictures(tmp_path, ball=True)}
    with open_client(context) as client:
        intake = Intake(client, project)
        intake.drop(bed, "bed")
        assert begun.wait(60)
        other = tmp_path / "wall_color.png"
        Image.fromarray(np.full((SIDE, SIDE, 3), 90, np.uint8)).save(other)
        intake.drop({other.name: other.read_bytes()}, "other")  # waits until it is recognized
        assert looking(intake)
        may_end.set()
        (offer,) = looked(intake)["surfaces"]
        there = Intake(
            client, client.post("/api/v1/projects", json={"title": "Copies"}).json()["slug"]
        )
        there.drop(bed, "bed")
        (again,) = looked(there)["surfaces"]
        assert again["captures"] == offer["captures"] is not None
    assert len(estimated) == 1


def test_files_that_are_gone_are_not_accepted_and_different_things_are_sorted_one_by_one(
    client: TestClient, intake: Intake, tmp_path: Path
) -> None:
    (offer,) = drop(intake, pictures(tmp_path, ball=True))["surfaces"]
    client.post("/api/v1/arrivals/dismissals", json={"ids": offer["ids"][:1]})
    assert looked(intake)["surfaces"] == []
    answer = client.post(f"/api/v1/capture-groups/{offer['id']}/acceptances", json={})
    assert (answer.status_code, answer.json()["type"]) == (409, "/problems/conflict")
    client.post("/api/v1/arrivals/restorations", json={"ids": offer["ids"][:1]})
    assert len(looked(intake)["surfaces"]) == 1
    assert client.post(f"/api/v1/capture-groups/{offer['id']}/declines").status_code == 204
    table = looked(intake)
    assert table["surfaces"] == []
    assert not any("one of 6" in (row["problem"] or "") for row in table["rows"])
    assert client.post("/api/v1/capture-groups/999999/declines").status_code == 404


def test_a_light_that_is_moved_changes_what_is_measured(client: TestClient, bed: int) -> None:
    kept = client.get(f"/api/v1/sets/{bed}").json()
    maps = {one["kind"]: one["definition"] for one in kept["maps"]}
    draft = {"surface": kept["surface"], "prepare": kept["prepare"], "maps": maps}
    asked: dict[str, Any] = {"kinds": ["normal"], "longer_side": 80, "compute_side": 80,
                             "window": "w", "known": []}  # fmt: skip
    before = preview(client, bed, draft=draft, sequence=1, **asked)["normal"]
    captures = kept["captures"]
    captures["captures"][0]["lamp"]["azimuth"] = 90.0
    moved = preview(client, bed, draft={**draft, "captures": captures}, sequence=2, **asked)[
        "normal"
    ]
    assert moved.key != before.key
    assert before.codes is not None and moved.codes is not None
    off = np.abs(before.codes.astype(int) - moved.codes.astype(int)).mean()
    assert 1 < off < 60
    # Told by the ball again, all is as it was.
    asked = {"how": "ball", "ball": captures["ball"], "draft": {**draft, "captures": captures}}
    told = imported(client, client.post(f"/api/v1/sets/{bed}/lights", json=asked))["captures"]
    assert abs((told["captures"][0]["lamp"]["azimuth"] + 180) % 360 - 180) < 6
    wrong = {"x": 0.3, "y": 0.3, "radius": 0.05, "kind": "shiny"}
    answer = client.post(f"/api/v1/sets/{bed}/lights", json={"how": "ball", "ball": wrong})
    assert "picture" in refused(client, answer)


def test_lights_are_fitted_to_the_pictures(client: TestClient, bed: int) -> None:
    kept = client.get(f"/api/v1/sets/{bed}").json()
    maps = {one["kind"]: one["definition"] for one in kept["maps"]}
    true = [one["lamp"]["azimuth"] for one in kept["captures"]["captures"]]
    captures = kept["captures"]
    for n, one in enumerate(captures["captures"]):
        one["lamp"]["azimuth"] = (one["lamp"]["azimuth"] + (-1) ** n * 6) % 360
    captures["light_remarks"] = ["where the light was is estimated from the pictures alone"]
    draft = {
        "surface": kept["surface"],
        "prepare": kept["prepare"],
        "maps": maps,
        "captures": captures,
    }
    asked = {"how": "refined", "draft": draft}
    answer = imported(client, client.post(f"/api/v1/sets/{bed}/lights", json=asked))["captures"]
    told = answer["captures"]
    assert not any("guessed" in one for one in answer["light_remarks"])

    def off(some: list[dict[str, Any]]) -> float:
        both = zip(some, true, strict=True)
        return float(np.mean([abs((a["lamp"]["azimuth"] - b + 180) % 360 - 180) for a, b in both]))

    assert off(told) < 0.6 * off(captures["captures"])
    assert {one["light_origin"] for one in told} == {"refined"}
    unsaid = client.post(f"/api/v1/sets/{bed}/lights", json={"how": "ball"})
    assert unsaid.status_code == 422 and "give its position" in unsaid.json()["detail"]


def test_a_grey_card_tells_how_strong_the_light_was_and_of_what_tint(
    client: TestClient, bed: int
) -> None:
    kept = client.get(f"/api/v1/sets/{bed}").json()
    maps = {one["kind"]: one["definition"] for one in kept["maps"]}
    card = {"x": 0.31, "y": 0.4, "reflectance": 0.3}
    captures = {**kept["captures"], "f0": 0.08}
    captures["light_remarks"] = list(f0_remarks(0.08))
    draft = {
        "surface": kept["surface"],
        "prepare": kept["prepare"],
        "maps": maps,
        "captures": captures,
    }
    asked = {"card": card, "draft": draft}
    found = client.post(f"/api/v1/sets/{bed}/gray-cards", json=asked).json()
    # Its glints are as strong as they were: against what is white now, that is another share.
    assert found["f0"] * found["white"] == pytest.approx(0.08 * captures["white"], rel=1e-3)
    assert found["light_remarks"] == list(f0_remarks(found["f0"], white_is_told=True))
    assert found["gray_card"] == card
    tint = found["tint"]
    assert sum(tint.values()) == pytest.approx(3, abs=1e-3)
    assert max(tint.values()) > min(tint.values())  # a pebble is not grey
    draft["captures"] = found
    asked = {"kinds": ["base_color"], "longer_side": SIDE, "compute_side": SIDE,
             "window": "w", "known": []}  # fmt: skip
    codes = preview(client, bed, draft=draft, sequence=1, **asked)["base_color"].codes
    assert codes is not None
    azimuth = codes[int(0.4 * SIDE) - 2 :, int(0.31 * SIDE) - 2 :][:4, :4, :3]
    assert np.median(azimuth, (0, 1)) == pytest.approx([149] * 3, abs=4)  # sRGB of 0.3
    beyond = {"card": {**card, "y": 3.0}}
    answer = client.post(f"/api/v1/sets/{bed}/gray-cards", json=beyond)
    assert answer.status_code == 422 and "outside the picture" in answer.json()["detail"]


def test_a_change_keeps_the_pictures_and_can_be_undone(client: TestClient, bed: int) -> None:
    kept = client.get(f"/api/v1/sets/{bed}").json()
    maps = {one["kind"]: one["definition"] for one in kept["maps"]}
    body = {"version": kept["version"], "surface": {"tile_size": 0.3}, "maps": maps}
    changed = client.put(f"/api/v1/sets/{bed}", json=body).json()
    assert changed["captures"] == kept["captures"]
    captures = {**kept["captures"]}
    captures["captures"] = [{**one, "used": n > 1} for n, one in enumerate(captures["captures"])]
    body |= {"version": changed["version"], "captures": captures}
    fewer = client.put(f"/api/v1/sets/{bed}", json=body).json()
    assert [one["used"] for one in fewer["captures"]["captures"]] == [False, False] + [True] * 4
    undone = client.post(f"/api/v1/sets/{bed}/undo", json={"version": fewer["version"]}).json()
    assert undone["captures"] == kept["captures"]
    lost = {**kept["captures"], "captures": [{**kept["captures"]["captures"][0],
    "source": "0" * 64},
                                       *kept["captures"]["captures"][1:]]}  # fmt: skip
    body |= {"version": undone["version"], "captures": lost}
    assert client.put(f"/api/v1/sets/{bed}", json=body).status_code == 409


def test_a_picture_is_held_against_what_was_measured(client: TestClient, bed: int) -> None:
    kept = client.get(f"/api/v1/sets/{bed}").json()
    source = kept["captures"]["captures"][2]["source"]
    look = client.post(f"/api/v1/sets/{bed}/capture-comparisons", json={"source": source}).json()
    assert look["delta_e"] < 5
    assert all(look[name].startswith("data:image/png") for name in ("photo", "ours", "difference"))
    captures = kept["captures"]
    captures["captures"][2]["lamp"] = {"azimuth": 200.0, "elevation": 20.0}
    maps = {one["kind"]: one["definition"] for one in kept["maps"]}
    draft = {"surface": kept["surface"], "maps": maps, "captures": captures}
    off = client.post(
        f"/api/v1/sets/{bed}/capture-comparisons", json={"source": source, "draft": draft}
    ).json()
    assert off["delta_e"] > look["delta_e"] + 1
    answer = client.post(f"/api/v1/sets/{bed}/capture-comparisons", json={"source": "0" * 64})
    assert (answer.status_code, answer.json()["type"]) == (422, "/problems/plan")


def test_a_measured_set_is_delivered_with_its_pictures_told(
    client: TestClient, context: Context, project: str, bed: int
) -> None:
    asked = {"set_ids": [bed], "target_ids": ["separate-png"], "longer_side": 64}
    number = deliver(client, context, project, asked)
    (part,) = client.get(f"/api/v1/deliveries/{number}").json()["parts"]
    manifest = read_manifest(Path(part["folder"]))
    kept = client.get(f"/api/v1/sets/{bed}").json()
    assert manifest.captures is not None
    assert manifest.captures.model_dump(mode="json") == kept["captures"]
    assert manifest.maps["normal"].definition.how == "derived"
