"""Every code block of the manual is executed as it stands, with sample files of the named kinds."""

from __future__ import annotations

import re
import shlex
import sys
from pathlib import Path

import numpy as np
import pytest

from copper_sieve.cli.command_line import main
from copper_sieve.core.codecs import write_picture
from copper_sieve.core.image.raster import Encoding, Picture
from copper_sieve.core.measuring.ball import Ball
from copper_sieve.demo import lamp_pictures as drawn
from tests.cli.test_bake import written
from tests.conftest import photo_codes
from tests.core.mesh.solids import floor
from tests.core.recognition.maps import encoded, normals, relief

ROOT = Path(__file__).parents[2]
PAGES = [*sorted((ROOT / "docs").rglob("*.md")), ROOT / "README.md"]
SIDE = 64
BLOCK = re.compile(r"^```(\w*)\n(.*?)^```", re.MULTILINE | re.DOTALL)


def blocks(language: str) -> list[tuple[str, str]]:
    """The code blocks of a language, with the page they are on."""
    return [
        (str(page.relative_to(ROOT)), text)
        for page in PAGES
        for found, text in BLOCK.findall(page.read_text("utf-8"))
        if found == language
    ]


def save(path: Path, codes: np.ndarray, encoding: Encoding = Encoding.SRGB) -> None:
    path.parent.mkdir(parents=True, exist_ok=True)
    channels = ("R", "G", "B") if codes.ndim == 3 and codes.shape[2] == 3 else ("Y",)
    name = {".png": "png", ".jpg": "jpeg"}[path.suffix]
    write_picture(path, Picture(codes.reshape(*codes.shape[:2], -1), channels, encoding), name)


@pytest.fixture
def room(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """A folder with all files that the manual names."""
    color = photo_codes((SIDE, SIDE), 1)
    vectors = encoded(normals(relief("stones", 2, SIDE), 0.5, down=False))
    grey = np.full((SIDE, SIDE, 1), 128, np.uint8) + np.arange(SIDE, dtype=np.uint8)[:, None, None]
    for name in ("wall.jpg", "kettle.jpg", "scans/oak.png", "scans/slate.png", "incoming/tin.png",
                 "downloads/brick_albedo.png", "downloads/plank_color.png",
                 "wall_color.1001.png", "wall_color.1002.png", "wall_color.1011.png"):  # fmt: skip
        save(tmp_path / name, color)
    for name in ("wall_normal.png", "T_Wall_N.png", "normals/wall_normal.png"):
        save(tmp_path / name, vectors, Encoding.LINEAR)
    for name in ("ao.png", "gloss.png"):
        save(tmp_path / name, grey, Encoding.LINEAR)
    mesh = floor(1.0, uv=(0.1, 0.1, 0.8, 0.8))
    for name in ("kettle.glb", "kettle_high.glb"):
        written(mesh, tmp_path / name, "kettle")
    (tmp_path / "kettle.obj").write_text(
        "v 0 0 0\nv 1 0 0\nv 1 0 1\nv 0 0 1\nvt .1 .1\nvt .9 .1\nvt .9 .9\nvt .1 .9\n"
        "usemtl kettle\nf 1/1 2/2 3/3\nf 1/1 3/3 4/4\n"
    )
    lamps = drawn.ring_of_lamps(6)
    rng = np.random.default_rng(3)
    ball = Ball(20.0, 20.0, 14.0, "white")
    for folder, names, size, held in (
        (".", ("1", "2", "3", "4"), SIDE, None),
        ("shots", [f"shot_{n}" for n in range(6)], 2 * SIDE, ball),
    ):
        codes, _ = drawn.pictures_of(drawn.pebbles(size, rng), lamps, rng, ball=held)
        for name, one in zip(names, codes, strict=False):
            save(tmp_path / folder / f"{name}.jpg", one)
    monkeypatch.chdir(tmp_path)
    return tmp_path


def expanded(line: str) -> list[str]:
    """The words of a command, with file name patterns filled in as a shell does."""
    words = []
    for word in shlex.split(line, comments=True):
        words += sorted(map(str, Path().glob(word))) or [word] if "*" in word else [word]
    return words


def commands(text: str) -> list[str]:
    return [line for line in text.replace("\\\n", " ").splitlines() if line.strip()]


def test_command_blocks(room: Path, capsys: pytest.CaptureFixture[str]) -> None:
    """Blocks without a language are commands that need no server, in the order of each page."""
    ran = 0
    for page, text in blocks(""):
        for line in commands(text):
            command, *words = expanded(line)
            assert command == "./sieve", f"{page}: {line}"
            if words[0] == "watch":
                words.append("--once")
            if words[0] == "bake" and "--list" not in words:
                words += ["--size", "64"]  # overrides the page's, which takes half a minute
            assert main(words) == 0, f"{page}: {line}\n{capsys.readouterr().err}"
            ran += 1
    assert ran > 30


@pytest.mark.parametrize(("page", "text"), blocks("python"))
def test_python_blocks(page: str, text: str, room: Path) -> None:
    exec(compile(text, page, "exec"), {"__name__": "__main__"})


def test_the_environment_finds_the_package() -> None:
    """A script run with the project's interpreter can import it without further settings."""
    paths = [Path(one) for one in sys.path if one.endswith("site-packages")]
    (listed,) = [one / "copper_sieve.pth" for one in paths if (one / "copper_sieve.pth").is_file()]
    assert Path(listed.read_text("utf-8").strip()).resolve() == ROOT / "src"


def test_server_blocks_use_paths_that_exist() -> None:
    listed = (ROOT / "web" / "src" / "api" / "openapi.json").read_text("utf-8")
    known = [re.sub(r"\{\w+\}", "[^/]+", one) for one in re.findall(r'"(/api/v1/[^"]+)"', listed)]
    used = [one for _, text in blocks("bash") for one in re.findall(r'"\$api(/[^"?]+)"', text)]
    assert len(used) >= 5
    for path in used:
        assert any(re.fullmatch(shape, f"/api/v1{path}") for shape in known), path
