"""Intake over the API: drop, look, correct, learn, accept."""

from __future__ import annotations

import io
import time
import zipfile
from pathlib import Path

import numpy as np
import pytest
from fastapi.testclient import TestClient

from copper_sieve.core.codecs import write_picture
from copper_sieve.core.export.assay import read_manifest
from copper_sieve.core.export.deliver import deliver
from copper_sieve.core.export.planning import plan_export
from copper_sieve.core.image.raster import Encoding, Picture
from copper_sieve.core.targets.catalog import get_target
from copper_sieve.services.context import Context
from copper_sieve.services.hints import hint_drop
from copper_sieve.store.projects import get_project
from copper_sieve.store.texture_sets import get_set
from tests.conftest import MakePhoto, photo_codes
from tests.core.recognition.maps import blended, encoded, normals, relief

ROWS = "RGB"


def png(folder: Path, name: str, codes: np.ndarray) -> bytes:
    codes = codes[:, :, None] if codes.ndim == 2 else codes
    names = {1: ("Y",), 3: tuple("RGB"), 4: tuple("RGBA")}[codes.shape[2]]
    write_picture(folder / name, Picture(codes, names, Encoding.SRGB), "png")
    return (folder / name).read_bytes()


def grey(seed: int, low: int = 40, high: int = 200) -> np.ndarray:
    field = relief("stones", seed, 64)
    return (low + field * (high - low)).astype(np.uint8)


def metal_drop(folder: Path, name: str, seed: int) -> dict[str, bytes]:
    """What a download site gives: color, gloss, normals with green downwards."""
    vectors = normals(relief("pebbles", seed, 64), 0.5, down=True)
    return {
        f"{name}_alb.png": png(folder, "a.png", photo_codes((64, 64), seed)),
        f"{name}_gloss.png": png(folder, "g.png", grey(seed)),
        f"{name}_nrm.png": png(folder, "n.png", encoded(vectors)),
    }


class Intake:
    """A client's view of the sorting table."""

    def __init__(self, client: TestClient, project: str) -> None:
        self.client, self.address = client, f"/api/v1/projects/{project}"

    def send(self, data: bytes, name: str, batch: str = "", status: int = 201) -> dict:
        answer = self.client.post(
            f"{self.address}/arrivals", params={"name": name, "batch": batch}, content=data
        )
        assert answer.status_code == status, answer.text
        return answer.json()

    def drop(self, files: dict[str, bytes], batch: str) -> list[dict]:
        for name, data in files.items():
            self.send(data, name, batch)
        return [row for row in self.rows() if row["batch"] == batch]

    def table(self, **more: bool) -> dict:
        for _ in range(400):
            answer = self.client.get(f"{self.address}/arrivals", params=more)
            assert answer.status_code == 200, answer.text
            if not answer.json()["waiting"]:
                return answer.json()
            time.sleep(0.05)
        raise AssertionError("not recognized in time")

    def rows(self) -> list[dict]:
        return self.table()["rows"]

    def post(self, address: str, status: int = 200, **body: object) -> dict:
        answer = self.client.post(f"/api/v1/{address}", json=body)
        assert answer.status_code == status, answer.text
        return answer.json() if answer.content else {}

    def change(self, ids: list[int], **change: object) -> None:
        answer = self.client.patch("/api/v1/arrivals", json={"ids": ids, "change": change})
        assert answer.status_code == 204, answer.text

    def set(self, set_id: int) -> dict:
        found = self.client.get(f"/api/v1/sets/{set_id}").json()
        return {one["kind"]: one["definition"] for one in found["maps"]} | {"whole": found}


@pytest.fixture
def intake(client: TestClient, project: str) -> Intake:
    return Intake(client, project)


def test_files_are_sorted_and_accepted_into_a_set(intake: Intake, tmp_path: Path) -> None:
    rows = intake.drop(metal_drop(tmp_path, "sheet", 1), "one")
    assert {row["map"]: row["set_name"] for row in rows} == {
        "base_color": "sheet", "glossiness": "sheet", "normal": "sheet"
    }  # fmt: skip
    normal = next(row for row in rows if row["map"] == "normal")
    assert normal["normal"]["y"] == "down"
    assert normal["normal"]["confidence"] > 0.8
    sets = intake.client.get(f"{intake.address}/sets").json()
    assert sets == []  # nothing is in a set before it is accepted
    made = intake.post("arrivals/acceptances", ids=[row["id"] for row in rows])["sets"]
    maps = intake.set(made["sheet"])
    assert maps["normal"]["normal_y"] == "down"
    assert maps["glossiness"]["encoding"] == "linear"
    assert maps["roughness"]["operation"] == "roughness_from_glossiness"
    assert intake.rows() == []


def test_a_correction_makes_a_card_that_is_offered_for_the_next_drop(
    intake: Intake, tmp_path: Path
) -> None:
    first = intake.drop(metal_drop(tmp_path, "sheet", 1), "one")
    gloss = next(row for row in first if row["name"].endswith("gloss.png"))
    intake.change([gloss["id"]], map="roughness")
    assert intake.table()["offers"] == []
    intake.post("source-cards", 201, ids=[row["id"] for row in first], name="Canal Metals",
                licence="CC0", where="their shop")  # fmt: skip
    made = intake.post("arrivals/acceptances", ids=[row["id"] for row in first])["sets"]
    assert "glossiness" not in intake.set(made["sheet"])

    second = intake.drop(metal_drop(tmp_path, "plate", 2), "two")
    assert {row["decided_by"] for row in second} == {"detected"}  # not before it is confirmed
    offer = intake.table()["offers"][0]
    assert offer["card"]["name"] == "Canal Metals"
    assert offer["card"]["normal_y"] == "down"
    assert sorted(offer["ids"]) == sorted(row["id"] for row in second)
    intake.post("arrivals/cards", 204, ids=offer["ids"], card="Canal Metals")
    rows = intake.rows()
    assert {row["map"] for row in rows} == {"base_color", "roughness", "normal"}
    assert {row["decided_by"] for row in rows} == {"card"}
    made = intake.post("arrivals/acceptances", ids=offer["ids"])["sets"]
    card = {row["name"]: row for row in intake.client.get("/api/v1/source-cards").json()}
    assert card["Canal Metals"]["licence"] == "CC0"
    assert "glossiness" not in intake.set(made["plate"])
    assert intake.client.delete("/api/v1/source-cards/Canal Metals").status_code == 204


def test_packed_channels_become_maps_of_their_own(intake: Intake, tmp_path: Path) -> None:
    rough, metal, open_ = grey(1), np.where(grey(2) > 120, 255, 0), grey(3, 180, 255)
    packed = np.dstack([rough, metal.astype(np.uint8), np.maximum(open_, 235)])
    files = {
        "floor_color.png": png(tmp_path, "c.png", photo_codes((64, 64), 4)),
        "floor_packed.png": png(tmp_path, "p.png", packed),
    }
    row = next(r for r in intake.drop(files, "one") if r["map"] == "packed")
    assert [one["kind"] for one in row["channels"]] == [
        "roughness",
        "metallic",
        "ambient_occlusion",
    ]
    for name in ROWS:
        shown = intake.client.get(f"/api/v1/arrivals/{row['id']}/channel-{name}.png")
        assert shown.headers["content-type"] == "image/png"
    intake.change([row["id"]], channels={"R": "glossiness", "G": None, "B": "ambient_occlusion"})
    made = intake.post("arrivals/acceptances", ids=[r["id"] for r in intake.rows()])["sets"]
    maps = intake.set(made["floor"])
    assert maps["glossiness"]["channels"] == "R"
    assert maps["ambient_occlusion"]["channels"] == "B"
    assert maps["metallic"]["how"] == "constant"
    # A later change is possible: the set follows.
    intake.change(
        [row["id"]], channels={"R": "roughness", "G": "metallic", "B": "ambient_occlusion"}
    )
    maps = intake.set(made["floor"])
    assert maps["metallic"] == {**maps["metallic"], "how": "imported", "channels": "G"}
    assert maps["roughness"]["channels"] == "R"
    assert "glossiness" not in maps


def test_two_for_one_map_and_unknown_directions_are_not_accepted(
    intake: Intake, tmp_path: Path
) -> None:
    broad = normals(relief("soft", 1, 128), 1.0, down=False)
    fine = normals(relief("fine", 7, 128), 1.0, down=True)
    files = {
        "a_color.png": png(tmp_path, "1.png", photo_codes((64, 64), 1)),
        "a_albedo.png": png(tmp_path, "2.png", photo_codes((32, 32), 2)),
        "a_normal.png": png(tmp_path, "3.png", encoded(blended(broad, fine))),
        "a_7.png": png(tmp_path, "4.png", np.full((8, 8), 90, np.uint8)),
    }
    rows = {row["name"]: row for row in intake.drop(files, "one")}
    assert rows["a_color.png"]["problem"] is None
    assert "a_color.png is used as the base color of a already" in rows["a_albedo.png"]["problem"]
    assert any(
        "32 x 32, but the set has 128 x 128" in remark for remark in rows["a_albedo.png"]["remarks"]
    )
    assert "green" in rows["a_normal.png"]["problem"]
    assert "map type unknown" in rows["a_7.png"]["problem"]
    for name in ("a_albedo.png", "a_normal.png", "a_7.png"):
        answer = intake.post(
            "arrivals/acceptances", 409, ids=[rows[name]["id"], rows["a_color.png"]["id"]]
        )
        assert name in answer["detail"]
    intake.change([rows["a_normal.png"]["id"]], normal_y="up")
    intake.change([rows["a_albedo.png"]["id"], rows["a_7.png"]["id"]], map="none")
    ids = [row["id"] for row in intake.rows()]
    assert list(intake.post("arrivals/acceptances", ids=ids)["sets"]) == ["a"]


def test_both_readings_of_a_normal_map_are_shown(intake: Intake, tmp_path: Path) -> None:
    row = intake.drop({"x_n.png": metal_drop(tmp_path, "x", 3)["x_nrm.png"]}, "one")[0]
    shown = [
        intake.client.get(f"/api/v1/arrivals/{row['id']}/lit-{y}.png").content
        for y in ("up", "down")
    ]
    assert shown[0][:4] == shown[1][:4] == b"\x89PNG"
    assert shown[0] != shown[1]


def test_a_zip_comes_in_file_by_file_and_an_evil_one_not_at_all(
    intake: Intake, tmp_path: Path
) -> None:
    held = io.BytesIO()
    with zipfile.ZipFile(held, "w") as archive:
        for name, data in metal_drop(tmp_path, "sheet", 5).items():
            archive.writestr(f"deep/{name}", data)
        archive.writestr("deep/broken.png", b"\x89PNG\r\n\x1a\nno")
        archive.writestr("readme.txt", "hello")
    added = intake.send(held.getvalue(), "Sheet 05.zip")
    assert len(added["ids"]) == 3
    assert [one["name"] for one in added["refused"]] == ["broken.png"]
    assert {row["inside"] for row in intake.rows()} == {"Sheet 05.zip/deep"}

    evil = io.BytesIO()
    with zipfile.ZipFile(evil, "w") as archive:
        archive.writestr("ok.png", png(tmp_path, "ok.png", photo_codes()))
        archive.writestr("../../out.png", b"x")
    answer = intake.send(evil.getvalue(), "evil.zip", status=422)
    assert "points outside the archive" in answer["detail"]
    assert len(intake.rows()) == 3


@pytest.mark.parametrize(
    ("data", "word"),
    [(b"", "empty"), (b"<svg xmlns='x'/>", "a supported picture"), (b"PK\x03\x04xx", "zip")],
)
def test_what_is_no_picture_is_refused_and_nothing_kept(
    intake: Intake, data: bytes, word: str
) -> None:
    assert word in intake.send(data, "wall.png", status=422)["detail"]
    assert intake.rows() == []


def test_a_file_that_turns_out_damaged_says_so_and_can_be_dismissed(
    intake: Intake, make_photo: MakePhoto
) -> None:
    whole = make_photo("wall.jpg", (256, 256)).read_bytes()
    intake.send(whole[: len(whole) // 2], "wall.jpg")
    row = intake.rows()[0]
    assert row["state"] == "refused"
    assert "truncated" in row["error"]
    assert "truncated" in intake.post("arrivals/acceptances", 409, ids=[row["id"]])["detail"]
    intake.post("arrivals/dismissals", 204, ids=[row["id"]])
    assert intake.rows() == []


def test_a_file_joins_the_set_of_its_name_that_is_there(intake: Intake, tmp_path: Path) -> None:
    color = {"wall_color.png": png(tmp_path, "c.png", photo_codes((64, 64), 6))}
    ids = [row["id"] for row in intake.drop(color, "one")]
    set_id = intake.post("arrivals/acceptances", ids=ids)["sets"]["wall"]
    rows = intake.drop({"wall_rough.png": png(tmp_path, "r.png", grey(6))}, "two")
    assert intake.table()["known_sets"] == {"wall": set_id}
    assert intake.post("arrivals/acceptances", ids=[rows[0]["id"]])["sets"] == {"wall": set_id}
    found = intake.set(set_id)
    assert found["roughness"]["how"] == "imported"
    assert found["whole"]["shelf"]["roughness"][0]["how"] == "derived"


def test_an_inverted_relief_is_hinted_at_by_the_height_of_its_set(
    intake: Intake, tmp_path: Path
) -> None:
    field = relief("pebbles", 4, 64)
    vectors = normals(field, 0.5, down=False) * np.array([-1, -1, 1])
    files = {
        "bay_color.png": png(tmp_path, "c.png", photo_codes((64, 64), 9)),
        "bay_normal.png": png(tmp_path, "n.png", encoded(vectors)),
        "bay_height.png": png(tmp_path, "h.png", (field * 255).astype(np.uint8)),
    }
    intake.drop(files, "one")
    for _ in range(100):
        row = next(row for row in intake.rows() if row["map"] == "normal")
        if row["hint"]:
            break
        time.sleep(0.05)
    assert "inverted" in row["hint"]
    assert "bay_height.png" in row["hint"]
    assert row["problem"] is None  # a hint stops nobody


def test_a_height_of_another_drop_hints_at_nothing(
    intake: Intake, context: Context, project: str, tmp_path: Path
) -> None:
    field = relief("pebbles", 4, 64)
    vectors = normals(field, 0.5, down=False) * np.array([-1, -1, 1])
    intake.drop({"cove_height.png": png(tmp_path, "h.png", (field * 255).astype(np.uint8))}, "one")
    intake.drop({"cove_normal.png": png(tmp_path, "n.png", encoded(vectors))}, "two")
    with context.database.transaction() as connection:
        number = get_project(connection, project).id
    hint_drop(context, number, "two")
    assert [row["hint"] for row in intake.rows()] == ["", ""]


def test_normals_of_two_channels_get_their_z_back(intake: Intake, tmp_path: Path) -> None:
    vectors = normals(relief("pebbles", 4, 64), 0.8, down=True)
    codes = encoded(vectors)
    codes[:, :, 2] = 0
    files = {
        "bow_color.png": png(tmp_path, "c.png", photo_codes((64, 64), 9)),
        "bow_normal.png": png(tmp_path, "n.png", codes),
    }
    rows = intake.drop(files, "one")
    made = intake.post("arrivals/acceptances", ids=[row["id"] for row in rows])["sets"]
    normal = intake.set(made["bow"])["normal"]
    assert (normal["channels"], normal["normal_y"]) == ("RG", "down")


def test_the_licence_of_the_card_travels_into_the_manifest(
    intake: Intake, tmp_path: Path, context: Context
) -> None:
    rows = intake.drop(metal_drop(tmp_path, "rail", 8), "one")
    ids = [row["id"] for row in rows]
    intake.post("source-cards", 201, ids=ids, name="Canal Metals", licence="CC0", where="a shop")
    set_id = intake.post("arrivals/acceptances", ids=ids)["sets"]["rail"]
    sizes = {row["sha256"]: (64, 64) for row in rows}
    kept = intake.client.get(
        f"/api/v1/sets/{set_id}"
    ).json()  # an edit of the set leaves its origin
    edit = {
        "version": kept["version"],
        "surface": {**kept["surface"], "tile_size": 0.5},
        "maps": {one["kind"]: one["definition"] for one in kept["maps"]},
    }
    edited = intake.client.put(f"/api/v1/sets/{set_id}", json=edit).json()
    assert edited["origin"] == {"card": "Canal Metals", "licence": "CC0", "where": "a shop"}
    with context.database.transaction() as connection:
        definition = get_set(connection, set_id).definition()
    export = plan_export(get_target("orm-y-down"), definition, sizes)
    written = deliver(export, tmp_path / "out", sizes=sizes, load_source=context.load_source,
                      token="1")  # fmt: skip
    assert written.manifest.origin is not None
    assert written.manifest.origin.licence == "CC0"
    assert read_manifest(tmp_path / "out").origin == written.manifest.origin


def test_a_single_normal_map_has_its_direction_measured_as_well(
    intake: Intake, tmp_path: Path
) -> None:
    data = metal_drop(tmp_path, "pipe", 9)["pipe_nrm.png"]  # green downwards, its name says nothing
    for address in (f"{intake.address}/sources", "/api/v1/maps/normal/sources"):
        answer = intake.client.post(address, params={"name": "pipe_nrm.png"}, content=data)
        assert answer.status_code == 201, answer.text
        made = answer.json()
        found = made["definition"] if "definition" in made else intake.set(made["set_id"])["normal"]
        assert found["normal_y"] == "down"


def test_a_color_beside_a_specular_color_is_a_diffuse(intake: Intake, tmp_path: Path) -> None:
    def drop(name: str, *parts: str) -> dict[str, str]:
        files = {
            f"{name}_{part}.png": png(tmp_path, "x.png", photo_codes((64, 64), n))
            for n, part in enumerate(parts)
        }
        return {row["name"]: row["map"] for row in intake.drop(files, name)}

    brass = drop("brass", "diffuse", "specular")
    assert brass == {"brass_diffuse.png": "diffuse", "brass_specular.png": "specular_color"}
    ids = [row["id"] for row in intake.rows() if row["batch"] == "brass"]
    made = intake.post("arrivals/acceptances", ids=ids)["sets"]
    maps = intake.set(made["brass"])
    assert maps["base_color"]["operation"] == "base_color_from_spec_gloss"
    assert maps["metallic"]["operation"] == "metallic_from_spec_gloss"
    steel = drop("steel", "diffuse", "specular", "metallic")
    assert steel["steel_diffuse.png"] == "base_color"
    assert drop("wood", "diffuse")["wood_diffuse.png"] == "base_color"
    row = next(row for row in intake.rows() if row["name"] == "wood_diffuse.png")
    assert not any("specular" in remark for remark in row["remarks"])


def test_borders_are_measured_and_relief_is_said_and_remembered(
    intake: Intake, tmp_path: Path
) -> None:
    field = relief("stones", 21, 256)
    codes = np.clip(110 + 30 * field / field.std(), 0, 255).astype(np.uint8)
    shades = np.repeat(codes[:, :, None], 3, axis=2)
    intake.send(png(tmp_path, "a.png", shades), "quay_color.png")
    intake.send(png(tmp_path, "b.png", shades[:, :170]), "jetty_color.png")
    rows = {row["name"]: row for row in intake.rows()}
    told = {name: row["facts"]["tiling"]["text"] for name, row in rows.items()}
    assert told["quay_color.png"].startswith("tileable (seam ")
    assert told["jetty_color.png"].startswith("tileable vertically (seam ")
    ids = [row["id"] for row in rows.values()]
    intake.change(ids, relief=18)
    intake.post("source-cards", 201, ids=ids, name="Harbour Walks")
    made = intake.post("arrivals/acceptances", ids=ids)["sets"]
    surfaces = {
        name: intake.client.get(f"/api/v1/sets/{set_id}").json() for name, set_id in made.items()
    }
    assert [surfaces[name]["surface"]["wrap"] for name in ("quay", "jetty")] == [True, "down"]
    assert {one["surface"]["relief"] for one in surfaces.values()} == {18.0}
    assert {one["surface"]["depth"] for one in surfaces.values()} == {None}
    assert surfaces["quay"]["tiling"]["wrap"] is True
    intake.send(png(tmp_path, "c.png", shades[:150]), "slip_color.png")
    (row,) = intake.rows()
    assert row["relief"] is None
    intake.post("arrivals/cards", 204, ids=[row["id"]], card="Harbour Walks")
    assert intake.rows()[0]["relief"] == 18.0
