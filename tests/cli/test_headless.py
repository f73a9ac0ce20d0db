"""The headless commands as a stranger calls them: own process, no server, no database."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from pathlib import Path

import cv2
import numpy as np
import pytest
from PIL import Image

from copper_sieve.cli.__main__ import main
from tests.conftest import MakePhoto, photo_codes


def sieve(*words: object) -> subprocess.CompletedProcess[str]:
    """Run in a process of its own, with the database and the web out of reach."""
    program = (
        "import sys\n"
        "for name in ('psycopg', 'fastapi', 'procrastinate', 'uvicorn'): sys.modules[name] = None\n"
        "from copper_sieve.cli.__main__ import main\n"
        "sys.exit(main(sys.argv[1:]))"
    )
    environment = {k: v for k, v in os.environ.items() if k != "DATABASE_URL"}
    return subprocess.run(
        [sys.executable, "-c", program, *map(str, words)],
        capture_output=True,
        text=True,
        env=environment,
        check=False,
    )


def refused(capsys: pytest.CaptureFixture[str], *words: object) -> str:
    """Run here; must end with status 2 and one line on standard error, which is returned."""
    try:
        status = main([str(word) for word in words])
    except SystemExit as stop:
        status = int(stop.code or 0)
    out = capsys.readouterr()
    assert status == 2
    assert out.out == ""
    assert out.err.count("\n") == 1
    return out.err


def read(path: Path) -> np.ndarray:
    with Image.open(path) as image:
        return np.asarray(image)


def test_make_delivers_to_both_targets(make_photo: MakePhoto, tmp_path: Path) -> None:
    photo, out = make_photo("brick_color.png", size=(256, 192)), tmp_path / "out"
    done = sieve(
        "make",
        photo,
        "--target",
        "orm-y-down",
        "--target",
        "gltf-metal-rough",
        "--out",
        out,
        "--json",
    )
    assert done.returncode == 0, done.stderr
    summary = json.loads(done.stdout)
    assert summary["set"] == "brick"
    names = {t["target"]: [f["name"] for f in t["files"]] for t in summary["targets"]}
    assert names == {
        "orm-y-down": ["T_brick_BC.tga", "T_brick_ORM.tga", "T_brick_N.tga"],
        "gltf-metal-rough": [
            "brick_base_color.png",
            "brick_orm.png",
            "brick_normal.png",
            "brick.glb",
        ],
    }
    assert summary["assay"]["ok"]
    assert len(summary["files"]) == len(summary["assay"]["files"]) == 7
    for target in summary["targets"]:
        assert target["assay"]["ok"]
        assert all(Path(f["path"]).stat().st_size == f["bytes"] for f in target["files"])
        assert sieve("assay", target["folder"]).returncode == 0
    down = read(out / "orm-y-down" / "T_brick_N.tga").astype(int)
    up = read(out / "gltf-metal-rough" / "brick_normal.png").astype(int)
    np.testing.assert_array_equal(down, np.where([0, 1, 0], 255 - up, up))
    np.testing.assert_array_equal(read(out / "orm-y-down" / "T_brick_BC.tga"), read(photo))


def test_assay_names_the_changed_file_and_channel(make_photo: MakePhoto, tmp_path: Path) -> None:
    sieve("make", make_photo(), "--target", "orm-y-down", "--out", tmp_path / "out")
    folder = tmp_path / "out" / "orm-y-down"
    codes = read(folder / "T_wall_ORM.tga").copy()
    codes[10, 10, 2] ^= 255
    Image.fromarray(codes).save(folder / "T_wall_ORM.tga")
    done = sieve("assay", folder, "--json")
    assert done.returncode == 1
    assert "T_wall_ORM.tga: channel B (metallic) differs" in done.stderr
    result = json.loads(done.stdout)
    assert not result["ok"]
    assert [f["name"] for f in result["files"] if not f["ok"]] == ["T_wall_ORM.tga"]


def test_assay_takes_the_folder_that_make_was_given(
    make_photo: MakePhoto, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    targets = ["--target", "orm-y-down", "--target", "gltf-metal-rough"]
    main(["make", str(make_photo()), *targets, "--out", str(tmp_path / "out"), "--json"])
    capsys.readouterr()
    assert main(["assay", str(tmp_path / "out"), "--json"]) == 0
    result = json.loads(capsys.readouterr().out)
    assert (result["ok"], len(result["folders"]), len(result["files"])) == (True, 2, 7)
    (tmp_path / "out" / "orm-y-down" / "T_wall_N.tga").unlink()
    assert main(["assay", str(tmp_path / "out")]) == 1
    assert "T_wall_N.tga: the file is missing" in capsys.readouterr().err
    assert "has no manifest.json" in refused(capsys, "assay", tmp_path / "nowhere")


def test_a_setting_out_of_range_is_named(
    make_photo: MakePhoto, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    monkeypatch.setenv("SIEVE_MAX_SIDE", "wide")
    assert "SIEVE_MAX_SIDE: " in refused(capsys, "inspect", make_photo())
    monkeypatch.setenv("SIEVE_MAX_SIDE", "50")
    assert main(["inspect", str(make_photo())]) == 2
    assert "the limit is 50 a side" in capsys.readouterr().err


def test_make_takes_further_maps_by_their_names(make_photo: MakePhoto, tmp_path: Path) -> None:
    flat = np.full((48, 64, 3), (128, 128, 255), np.uint8)
    flat[:, :32] = (160, 90, 240)
    Image.fromarray(flat).save(tmp_path / "wall_normal_dx.png")
    Image.fromarray(np.full((48, 64), 77, np.uint8)).save(tmp_path / "wall_gloss.png")
    maps = tmp_path / "wall_normal_dx.png", tmp_path / "wall_gloss.png"
    out = tmp_path / "out"
    done = sieve("make", make_photo(), *maps, "--target", "orm-y-down", "--out", out, "--set", "w")
    assert done.returncode == 0, done.stderr
    rough = read(out / "orm-y-down" / "T_w_ORM.tga")[:, :, 1]
    assert (rough == 255 - 77).all()
    normal = read(out / "orm-y-down" / "T_w_N.tga").astype(int)
    assert np.abs(normal[:, :, 1] - flat[:, :, 1]).max() <= 2  # down in, down out, re-normalised


def test_size_is_the_longer_side(make_photo: MakePhoto, tmp_path: Path) -> None:
    assert main(["make", str(make_photo()), "--target", "orm-y-down", "--out", str(tmp_path / "o"),
                 "--size", "32"]) == 0  # fmt: skip
    assert read(tmp_path / "o" / "orm-y-down" / "T_wall_BC.tga").shape == (24, 32, 3)


def test_make_refuses_in_one_line_and_writes_nothing(
    make_photo: MakePhoto, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    photo, out = make_photo(), tmp_path / "out"
    (tmp_path / "text.png").write_text("no picture")
    (tmp_path / "wall_what.png").write_bytes(photo.read_bytes())
    target = ("--target", "orm-y-down")
    cases = [
        ((photo, "--target", "nope", *target, "--out", out), "no target nope; choose one of"),
        ((tmp_path / "text.png", *target, "--out", out), "text.png is no picture"),
        ((tmp_path / "gone.png", *target, "--out", out), "gone.png is not there"),
        ((photo, tmp_path / "wall_what.png", *target, "--out", out), "does not say which map"),
        ((photo, photo, *target, "--out", out), "does not say which map"),
        ((photo, *target, "--out", photo), "is a file: give a folder"),
        ((photo, *target, "--out", out, "--size", "0"), "at least 1 texel"),
        ((photo, *target, "--out", out, "--size", "many"), "invalid int"),
        ((photo, "--out", out), "required: --target"),
    ]
    for words, says in cases:
        assert says in refused(capsys, "make", *words)
        assert not out.exists()


def test_inspect_keeps_the_order_and_tells_errors_apart(
    make_photo: MakePhoto, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    deep = tmp_path / "deep.png"
    cv2.imwrite(str(deep), (np.random.default_rng(1).random((5, 9)) * 65535).astype(np.uint16))
    (tmp_path / "bad.png").write_bytes(b"nothing")
    paths = [str(p) for p in (make_photo("a.tga"), tmp_path / "bad.png", deep)]
    assert main(["inspect", *paths, "--json"]) == 2
    out = capsys.readouterr()
    files = json.loads(out.out)["files"]
    assert [f["path"] for f in files] == paths
    assert (files[0]["format"], files[0]["size"], files[0]["channels"]) == ("tga", [64, 48], 3)
    assert "no picture" in files[1]["error"]
    assert (files[2]["bit_depth"], files[2]["channel_names"]) == (16, ["Y"])
    assert "bad.png" in out.err
    assert main(["inspect", paths[0]]) == 0
    assert "64 x 48, RGB, 8 bit, srgb (assumed)" in capsys.readouterr().out


def test_inspect_knows_delivered_data_by_its_manifest(
    make_photo: MakePhoto, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    main(["make", str(make_photo()), "--target", "orm-y-down", "--out", str(tmp_path / "o")])
    capsys.readouterr()
    folder = tmp_path / "o" / "orm-y-down"
    main(["inspect", str(folder / "T_wall_ORM.tga"), str(folder / "T_wall_BC.tga"), "--json"])
    orm, color = json.loads(capsys.readouterr().out)["files"]
    assert (orm["encoding"], orm["encoding_source"]) == ("linear", "manifest")
    assert color["encoding"] == "srgb"


@pytest.mark.parametrize("name", ["n.png", "n.tif", "n.tga", "n.exr"])
def test_derive_writes_the_format_its_name_says(
    make_photo: MakePhoto, tmp_path: Path, name: str
) -> None:
    out = tmp_path / name
    assert main(["derive", str(make_photo()), "--from", "color", "--to", "normal",
                 "--param", "strength=2", "--out", str(out)]) == 0  # fmt: skip
    from copper_sieve.core.codecs import read_picture

    codes = read_picture(out)[1].codes
    assert codes.shape == (48, 64, 3)
    assert not [p for p in tmp_path.iterdir() if p.name.startswith(".")]


def test_derive_takes_its_parameters_in_metres(tmp_path: Path) -> None:
    ramp = (np.tile(np.arange(64), (32, 1)) * 1000).astype(np.uint16)
    cv2.imwrite(str(tmp_path / "h.png"), ramp)
    slope = 1000 / 65535 * 0.5 / (2.0 / 64)  # height per texel x depth / texel's width
    source, out = str(tmp_path / "h.png"), str(tmp_path / "n.png")
    words = ["--param", "depth=0.5", "--param", "tile_size=2", "--out", out]
    assert main(["derive", source, "--from", "height", "--to", "normal", *words]) == 0
    codes = cv2.imread(out, cv2.IMREAD_UNCHANGED)[:, :, ::-1]
    assert codes.dtype == np.uint16  # 16 bits in, 16 bits out
    x = codes[16, 32, 0] / 65535 * 2 - 1
    assert x == pytest.approx(-slope / np.hypot(1, slope), abs=1e-4)


def test_derive_flips_green_exactly(make_photo: MakePhoto, tmp_path: Path) -> None:
    photo = make_photo()
    for direction in ("up", "down"):
        main(["derive", str(photo), "--from", "color", "--to", "normal", "--normal-y", direction,
              "--out", str(tmp_path / f"{direction}.png")])  # fmt: skip
    up, down = (read(tmp_path / f"{d}.png").astype(int) for d in ("up", "down"))
    np.testing.assert_array_equal(down, np.where([0, 1, 0], 255 - up, up))


def test_derive_color_from_color_changes_nothing(make_photo: MakePhoto, tmp_path: Path) -> None:
    out = tmp_path / "same.png"
    main(["derive", str(make_photo()), "--from", "color", "--to", "color", "--out", str(out)])
    np.testing.assert_array_equal(read(out), photo_codes())


def test_derive_lists_every_declaration(capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["derive", "--list", "--json"]) == 0
    listed = json.loads(capsys.readouterr().out)
    names = {one["name"]: one for one in listed["operations"]}
    strength = names["normal_from_height"]["parameters"][0]
    wanted = ("name", "low", "high", "unit", "default", "meaning")
    assert all(key in strength for key in wanted)
    assert names["height_from_normal"]["inputs"] == ["normal"]
    assert [one["name"] for one in listed["surface"]] == ["tile_size", "depth", "wrap"]
    assert main(["derive", "--list"]) == 0
    assert "give" not in capsys.readouterr().err
    assert "derive needs FILE, --out" in refused(
        capsys, "derive", "--from", "color", "--to", "height"
    )


def test_derive_integrates_normals(make_photo: MakePhoto, tmp_path: Path) -> None:
    there, back = tmp_path / "n.tif", tmp_path / "h.tif"
    photo = str(make_photo())
    main(["derive", photo, "--from", "color", "--to", "height", "--bits", "16",
          "--out", str(tmp_path / "due.tif")])  # fmt: skip
    main(["derive", str(tmp_path / "due.tif"), "--from", "height", "--to", "normal",
          "--out", str(there)])  # fmt: skip
    assert main(["derive", str(there), "--from", "normal", "--to", "height",
                 "--out", str(back)]) == 0  # fmt: skip
    due, found = (
        cv2.imread(str(p), -1).astype(float).ravel() for p in (tmp_path / "due.tif", back)
    )
    assert np.corrcoef(due, found)[0, 1] > 0.99


def test_derive_refuses_in_one_line(
    make_photo: MakePhoto, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    photo, out = make_photo(), tmp_path / "x.png"
    usual = ("derive", photo, "--from", "color", "--to", "normal", "--out")
    cases = [
        ((*usual, out, "--param", "strength=99"), "a number from 0 to 8"),
        ((*usual, out, "--param", "sparkle=1"), "use tile_size, depth, wrap, normal.strength"),
        ((*usual, out, "--param", "strength"), "name=value"),
        ((*usual, out, "--param", "depth=deep"), "depth in metres"),
        ((*usual, tmp_path / "x.bmp"), "the ending says no format"),
        ((*usual, tmp_path / "x.tga", "--bits", "16"), "tga holds (8,) bits"),
        (("derive", photo, "--from", "color", "--to", "shine", "--out", out), "no map kind shine"),
        (("derive", photo, "--from", "height", "--to", "roughness", "--out", out), "no roughness"),
    ]
    for words, says in cases:
        assert says in refused(capsys, *words)
        assert not out.exists()


def test_parameters_reach_maps_on_the_way(make_photo: MakePhoto, tmp_path: Path) -> None:
    photo = str(make_photo())
    results = []
    for words in ([], ["--param", "contrast=0"], ["--param", "height.invert=true"]):
        main(["derive", photo, "--from", "color", "--to", "normal", *words,
              "--out", str(tmp_path / "n.png")])  # fmt: skip
        results.append(read(tmp_path / "n.png").astype(int))
    plain, flat, inverted = results
    assert (flat == [128, 128, 255]).all()
    assert np.abs((inverted - 127.5)[:, :, :2] + (plain - 127.5)[:, :, :2]).max() <= 1


def test_targets_are_listed(capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["targets", "--json"]) == 0
    listed = json.loads(capsys.readouterr().out)["targets"]
    assert [t["id"] for t in listed] == ["gltf-metal-rough", "orm-y-down"]
    assert main(["targets"]) == 0
    assert "ORM packed" in capsys.readouterr().out
