"""`sieve measure`: files in, maps and figures out."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest

from copper_sieve.cli.command_line import main
from copper_sieve.core.codecs import read_picture, write_picture
from copper_sieve.core.image.raster import Encoding, Picture
from copper_sieve.core.measuring.ball import Ball
from copper_sieve.demo import lamp_pictures as drawn

LAMPS = drawn.ring_of_lamps(6)
PLACES = ",".join(f"{lamp.azimuth:.2f}:{lamp.elevation:.2f}" for lamp in LAMPS)


@pytest.fixture
def shots(tmp_path: Path) -> list[str]:
    """Six pictures of pebbles."""
    rng = np.random.default_rng(2)
    pictures, _ = drawn.pictures_of(drawn.pebbles(64, rng), LAMPS, rng)
    paths = [tmp_path / f"Stones {n}.png" for n in range(len(pictures))]
    for path, codes in zip(paths, pictures, strict=True):
        write_picture(path, Picture(codes, ("R", "G", "B"), Encoding.SRGB), "png")
    return [str(path) for path in paths]


def test_maps_are_written_and_figures_told(
    shots: list[str], tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    out = tmp_path / "maps"
    asked = ["measure", *shots, "--lamps", PLACES, "--white", "1.5", "--out", str(out)]
    assert main([*asked, "--name", "Pebbles", "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert {Path(one).name for one in told["files"]} == {path.name for path in out.iterdir()}
    spec, normal = read_picture(out / "Pebbles_normal.png")
    assert (spec.bit_depth, normal.size) == (16, (64, 64))
    assert read_picture(out / "Pebbles_roughness.png")[1].channels == ("Y",)
    assert 0 <= told["uncertain_share"] < 0.2
    assert told["roughness_measured_share"] > 0.5
    assert 0.02 < told["depth"] < 0.5


@pytest.mark.parametrize(
    ("lamps", "says"),
    [
        ("0:45,90:45", "6 pictures but 2 lights. Give one light per picture"),
        ("45", "--lights 45: give AZIMUTH:ELEVATION in degrees"),
        ("north:45", "--lights north:45: give AZIMUTH:ELEVATION"),
        ("0:45:-2", "greater than 0"),
        ("0:45,1:45,2:45,3:45,4:45,5:45", "all lights come from almost the same side"),
    ],
)
def test_what_cannot_be_measured_is_said(
    shots: list[str], tmp_path: Path, capsys: pytest.CaptureFixture[str], lamps: str, says: str
) -> None:
    out = tmp_path / "maps"
    assert main(["measure", *shots, "--lamps", lamps, "--out", str(out)]) != 0
    assert says in capsys.readouterr().err
    assert not out.exists()


def test_a_ball_tells_the_lamps(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    rng = np.random.default_rng(2)
    ball = Ball(92.0, 34.0, 22.0, "white")
    pictures, exposure = drawn.pictures_of(drawn.pebbles(128, rng), LAMPS, rng, ball=ball)
    paths = [tmp_path / f"shot_{n}.png" for n in range(len(pictures))]
    for path, codes in zip(paths, pictures, strict=True):
        write_picture(path, Picture(codes, ("R", "G", "B"), Encoding.SRGB), "png")
    names = [str(path) for path in paths]
    asked = ["measure", *names, "--still", "--json", "--white", str(exposure)]
    assert main([*asked, "--ball", "find", "--out", str(tmp_path / "a")]) == 0
    told = json.loads(capsys.readouterr().out)
    assert told["ball"]["kind"] == "white"
    assert abs(told["ball"]["x"] - 92) < 1 and abs(told["ball"]["radius"] - 22) < 1
    for one, lamp in zip(told["lights"], LAMPS, strict=True):
        assert abs((one["azimuth"] - lamp.azimuth + 180) % 360 - 180) < 2
        assert abs(one["elevation"] - lamp.elevation) < 2
    assert main([*asked, "--ball", "92:34:22", "--out", str(tmp_path / "b")]) == 0
    assert json.loads(capsys.readouterr().out)["ball"]["radius"] == 22
    for ball_word, says in (
        ("92:34", '--ball 92:34: give "auto", or X:Y:RADIUS'),
        ("92:34:0", "radius must be greater than 0"),
        ("30:90:20:shiny", "the ball in picture 1 has no highlight"),
    ):
        assert main([*asked, "--ball", ball_word, "--out", str(tmp_path / "c")]) != 0
        assert says in capsys.readouterr().err
    assert main([*asked, "--out", str(tmp_path / "c")]) != 0
    assert "measure requires --lights or --ball" in capsys.readouterr().err
