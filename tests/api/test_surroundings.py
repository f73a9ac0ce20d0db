"""Surroundings through the API: taken in as a panorama or a mirror ball, given as light."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import cv2
import numpy as np
import pytest
from fastapi.testclient import TestClient
from httpx2 import Response

from copper_sieve.core.codecs import write_picture
from copper_sieve.core.image.raster import Encoding, Picture
from tests.conftest import MakePhoto
from tests.core.test_panorama import spot
from tests.serving import imported, refused

TOWARD = (0.2, 0.3, 0.9)


def drawn(folder: Path, ending: str = "hdr", size: float = 0.1) -> Path:
    """A panorama with one bright place."""
    path = folder / f"yard.{ending}"
    write_picture(path, Picture(spot(TOWARD, size=size), ("R", "G", "B"), Encoding.LINEAR), ending)
    return path


def sent(client: TestClient, project: str, path: Path, kind: str = "panorama") -> Response:
    return client.post(
        f"/api/v1/projects/{project}/environments", params={"name": path.name, "kind": kind},
        content=path.read_bytes(),
    )  # fmt: skip


def send(client: TestClient, project: str, path: Path, kind: str = "panorama") -> dict[str, Any]:
    number = imported(client, sent(client, project, path, kind))["environment_id"]
    there = client.get(f"/api/v1/projects/{project}/environments").json()
    found: dict[str, Any] = next(one for one in there if one["id"] == number)
    return found


@pytest.mark.parametrize("ending", ["hdr", "exr"])
def test_its_light_is_what_came_in_and_its_lamp_is_proposed(
    client: TestClient, project: str, tmp_path: Path, ending: str
) -> None:
    made = send(client, project, drawn(tmp_path, ending))
    unit = np.array(TOWARD) / np.linalg.norm(TOWARD)
    assert np.array(made["lamp"]) @ unit > 0.999
    assert made["strength"] > 50
    light = tmp_path / "light.hdr"
    light.write_bytes(client.get(made["light"]).content)
    held = cv2.imread(str(light), cv2.IMREAD_UNCHANGED)[:, :, ::-1]  # an independent reader
    assert held.shape == (512, 1024, 3)
    assert held.max() == pytest.approx(spot(TOWARD).max(), rel=0.02)
    assert held.mean() == pytest.approx(float(spot(TOWARD).mean()), rel=0.01)
    assert client.get(made["thumbnail"]).status_code == 200
    assert [one["id"] for one in client.get(f"/api/v1/projects/{project}/environments").json()] == [
        made["id"]
    ]


def test_a_photo_of_a_mirror_ball_is_one_too(
    client: TestClient, project: str, make_photo: MakePhoto
) -> None:
    ball = make_photo("ball.png", size=(64, 64))
    made = send(client, project, ball, "mirror_ball")
    assert (made["kind"], made["strength"] > 1) == ("mirror_ball", True)
    assert client.get(made["light"]).content[:10] == b"#?RADIANCE"
    wide = make_photo("wide.png", size=(64, 48))
    said = refused(client, sent(client, project, wide, "mirror_ball"))
    assert "wide.png: the picture has 64 x 48 texels. Crop the photo" in said


def test_what_is_no_panorama_is_refused_by_name(
    client: TestClient, project: str, make_photo: MakePhoto, tmp_path: Path
) -> None:
    photo = make_photo("street.png", size=(60, 40))
    said = refused(client, sent(client, project, photo))
    assert "street.png: the picture has 60 x 40 texels" in said
    cut = tmp_path / "cut.hdr"
    cut.write_bytes(drawn(tmp_path).read_bytes()[:200])
    assert "cut.hdr" in refused(client, sent(client, project, cut))
    assert client.get(f"/api/v1/projects/{project}/environments").json() == []


def test_it_is_taken_out_with_its_bytes(client: TestClient, project: str, tmp_path: Path) -> None:
    # The bytes of no other test: what another project has stays.
    made = send(client, project, drawn(tmp_path, size=0.21))
    assert client.delete(f"/api/v1/environments/{made['id']}").status_code == 204
    assert client.get(made["light"]).status_code == 404
    assert client.get(made["thumbnail"]).status_code == 404
