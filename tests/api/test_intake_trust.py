"""Intake keeps its word: odd names and damaged files harm nobody, nothing is replaced unsaid."""

from __future__ import annotations

import zipfile
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from copper_sieve.core.codecs import write_picture
from copper_sieve.core.image.raster import Encoding, Picture
from tests.api.test_intake import Intake, grey, intake, metal_drop, png
from tests.conftest import MakePhoto, photo_codes
from tests.core.recognition.maps import encoded, normals, relief

__all__ = ["intake"]  # the fixture


@pytest.mark.parametrize(
    "name", ["unpacked", "inside", "file", "incoming", "x/" * 400 + "wall.png"]
)
def test_whatever_an_upload_is_called(intake: Intake, tmp_path: Path, name: str) -> None:
    intake.send(png(tmp_path, "a.png", photo_codes((32, 32), 1)), name)
    assert len(intake.rows()) == 1


def test_a_damaged_file_does_not_take_its_archive_with_it(intake: Intake, tmp_path: Path) -> None:
    whole = png(tmp_path, "a.png", photo_codes((32, 32), 2))
    codes = photo_codes((32, 32), 3).astype(np.float32)
    write_picture(tmp_path / "b.exr", Picture(codes, tuple("RGB"), Encoding.LINEAR), "exr")
    damaged = bytearray((tmp_path / "b.exr").read_bytes())
    damaged[8:60] = b"\xff" * 52
    archive = tmp_path / "drop.zip"
    with zipfile.ZipFile(archive, "w") as file:
        file.writestr("wall_color.png", whole)
        file.writestr("wall_height.exr", bytes(damaged))
    added = intake.send(archive.read_bytes(), "drop.zip")
    assert (len(added["ids"]), [one["name"] for one in added["refused"]]) == (
        1,
        ["wall_height.exr"],
    )


def test_a_container_without_a_picture_says_so(intake: Intake, tmp_path: Path) -> None:
    body = b'{"asset": {"version": "2.0"}, "materials": [{"name": "plain"}]}'
    message = intake.send(body, "plain.gltf", status=422)["detail"]
    assert "plain.gltf isn't a picture" in message


def test_picks_that_follow_one_another_are_all_kept(intake: Intake, tmp_path: Path) -> None:
    packed = np.dstack([grey(5), grey(6), grey(7)])
    intake.send(png(tmp_path, "a.png", packed), "wall_xyz.png")
    (row,) = intake.rows()
    intake.change([row["id"]], map="packed")
    for letter, kind in zip("RGB", ("roughness", "metallic", "ambient_occlusion"), strict=True):
        intake.change([row["id"]], channels={letter: kind})  # each knows nothing of the others
    (row,) = intake.rows()
    held = {one["name"]: one["kind"] for one in row["channels"]}
    assert held == {"R": "roughness", "G": "metallic", "B": "ambient_occlusion"}
    intake.change([row["id"]], channels={"G": None})
    (row,) = intake.rows()
    held = {one["name"]: one["kind"] for one in row["channels"]}
    assert held == {"R": "roughness", "G": None, "B": "ambient_occlusion"}


def test_a_map_that_begins_no_set_is_for_intake(
    intake: Intake, make_photo: MakePhoto, tmp_path: Path
) -> None:
    data = png(tmp_path, "o.png", grey(8))
    address = f"{intake.address}/sources"
    answer = intake.client.post(address, params={"name": "x_opacity.png"}, content=data)
    assert (answer.status_code, answer.json()["type"]) == (409, "/problems/review-required")
    assert intake.client.get(f"{intake.address}/sets").json() == []


def test_a_map_that_the_set_has_is_not_replaced_without_a_word(
    intake: Intake, tmp_path: Path
) -> None:
    rows = intake.drop(metal_drop(tmp_path, "sheet", 1), "one")
    made = intake.post("arrivals/acceptances", ids=[row["id"] for row in rows])["sets"]
    vectors = normals(relief("stones", 9, 64), 0.5, down=True)
    intake.send(png(tmp_path, "n2.png", encoded(vectors)), "sheet_nrm.png", "two")
    (row,) = intake.rows()
    assert any("sheet already has a normal map. This file replaces it" in one
               for one in row["remarks"])  # fmt: skip
    intake.post("arrivals/acceptances", ids=[row["id"]])
    whole = intake.set(made["sheet"])["whole"]
    assert len(whole["shelf"]["normal"]) == 1  # the one before is kept beside it


def test_a_grey_specular_beside_a_gloss_is_a_specular_color(intake: Intake, tmp_path: Path) -> None:
    files = {
        "ladle_diff.png": png(tmp_path, "a.png", photo_codes((64, 64), 4)),
        "ladle_specular.png": png(tmp_path, "s.png", grey(4)),
        "ladle_gloss.png": png(tmp_path, "g.png", grey(5)),
    }
    rows = {row["name"]: row for row in intake.drop(files, "one")}
    assert {name: row["map"] for name, row in rows.items()} == {
        "ladle_diff.png": "diffuse", "ladle_specular.png": "specular_color",
        "ladle_gloss.png": "glossiness",
    }  # fmt: skip
    assert any("there is a glossiness map" in one for one in rows["ladle_specular.png"]["remarks"])


def test_a_lossy_file_of_data_is_remarked_upon(intake: Intake, tmp_path: Path) -> None:
    Image.fromarray(photo_codes((64, 64), 4)).save(tmp_path / "r.jpg", quality=80)
    (row,) = intake.drop({"wall_roughness.jpg": (tmp_path / "r.jpg").read_bytes()}, "one")
    assert "lossy file used for data" in row["remarks"]
    (color,) = intake.drop({"wall_color.jpg": (tmp_path / "r.jpg").read_bytes()}, "two")[:1]
    kept = {one["name"]: one for one in intake.rows()}
    assert "lossy file used for data" not in kept["wall_color.jpg"]["remarks"], color
