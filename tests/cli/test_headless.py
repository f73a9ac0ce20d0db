"""The headless commands as a stranger calls them: own process, no server, no database."""

from __future__ import annotations

import json
from pathlib import Path

import cv2
import numpy as np
import pytest
from PIL import Image

from copper_sieve.cli.__main__ import main
from tests.cli.calling import read, refused, sieve, sieve_apart
from tests.conftest import MakePhoto, photo_codes
from tests.core.recognition.maps import encoded, normals, relief


def test_make_delivers_to_both_targets(make_photo: MakePhoto, tmp_path: Path) -> None:
    photo, out = make_photo("brick_color.png", size=(256, 192)), tmp_path / "out"
    done = sieve_apart(
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
            "brick.gltf",
        ],
    }
    assert summary["assay"]["ok"]
    assert len(summary["files"]) == len(summary["assay"]["files"]) == 8
    for target in summary["targets"]:
        assert target["assay"]["ok"]
        assert all(Path(f["path"]).stat().st_size == f["bytes"] for f in target["files"])
        assert sieve_apart("assay", target["folder"]).returncode == 0
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
    assert (result["ok"], len(result["folders"]), len(result["files"])) == (True, 2, 8)
    (tmp_path / "out" / "orm-y-down" / "T_wall_N.tga").unlink()
    assert main(["assay", str(tmp_path / "out")]) == 1
    assert "T_wall_N.tga: the file is missing" in capsys.readouterr().err
    assert "contains no manifest.json" in refused(capsys, "assay", tmp_path / "nowhere")


def test_a_setting_out_of_range_is_named(
    make_photo: MakePhoto, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    monkeypatch.setenv("SIEVE_MAX_SIDE", "wide")
    assert "SIEVE_MAX_SIDE: " in refused(capsys, "inspect", make_photo())
    monkeypatch.setenv("SIEVE_MAX_SIDE", "50")
    assert main(["inspect", str(make_photo())]) == 2
    assert "the limit is 50 per side" in capsys.readouterr().err


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
    (tmp_path / "text.png").write_text("a supported picture")
    (tmp_path / "wall_what.png").write_bytes(photo.read_bytes())
    target = ("--target", "orm-y-down")
    cases = [
        ((photo, "--target", "nope", *target, "--out", out), "no target nope. Available"),
        ((tmp_path / "text.png", *target, "--out", out), "text.png isn't a supported picture"),
        ((tmp_path / "gone.png", *target, "--out", out), "gone.png doesn't exist"),
        (
            (photo, tmp_path / "wall_what.png", *target, "--out", out),
            "name doesn't identify the map",
        ),
        ((photo, photo, *target, "--out", out), "name doesn't identify the map"),
        ((photo, *target, "--out", photo), "is a file"),
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
    assert "a supported picture" in files[1]["error"]
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


def test_targets_are_listed(capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["targets", "--json"]) == 0
    listed = json.loads(capsys.readouterr().out)["targets"]
    named = [t["id"] for t in listed]
    assert named == sorted(named)
    assert {"gltf-metal-rough", "orm-y-down", "spec-gloss", "voxel-pack-two-file"} <= set(named)
    assert main(["targets"]) == 0
    assert "ORM packed" in capsys.readouterr().out


def test_make_follows_a_recipe(
    make_photo: MakePhoto, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    recipe = {
        "name": "flat",
        "maps": {
            "normal": {"how": "constant", "value": [0, 0, 1]},
            "roughness": {"how": "constant", "value": [0.25]},
            "base_color": {"how": "derived", "operation": "base_color_from_photo"},
        },
    }
    (tmp_path / "flat.recipe.json").write_text(json.dumps(recipe))
    words = ["make", str(make_photo()), "--target", "orm-y-down", "--out", str(tmp_path / "o")]
    assert main([*words, "--recipe", str(tmp_path / "flat.recipe.json"), "--json"]) == 0
    assert json.loads(capsys.readouterr().out)["recipe_notes"] == []
    folder = tmp_path / "o" / "orm-y-down"
    assert (read(folder / "T_wall_ORM.tga")[:, :, 1] == 64).all()
    assert (read(folder / "T_wall_BC.tga") != photo_codes()).any()
    (tmp_path / "bad.json").write_text('{"name": "x", "maps": {"height": 3}}')
    assert "isn't a valid recipe (maps.height" in refused(
        capsys, *words, "--recipe", tmp_path / "bad.json"
    )
    assert "couldn't read" in refused(capsys, *words, "--recipe", tmp_path / "gone.json")


def test_make_prepares_the_pictures_as_a_file_says(
    make_photo: MakePhoto, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    photo = make_photo(size=(64, 48))
    words = ["make", str(photo), "--target", "orm-y-down", "--json"]
    (tmp_path / "turn.json").write_text('{"frame": {"quarter_turns": 1, "crop": [0, 0, 1, 0.5]}}')
    assert (
        main([*words, "--out", str(tmp_path / "a"), "--prepare", str(tmp_path / "turn.json")]) == 0
    )
    folder = tmp_path / "a" / "orm-y-down"
    np.testing.assert_array_equal(read(folder / "T_wall_BC.tga"), np.rot90(photo_codes(), -1)[:32])
    # The manifest tells how, and does as such a file.
    manifest = str(folder / "manifest.json")
    assert main([*words, "--out", str(tmp_path / "b"), "--prepare", manifest]) == 0
    again = tmp_path / "b" / "orm-y-down"
    for name in ("T_wall_BC.tga", "T_wall_ORM.tga", "T_wall_N.tga"):
        assert (again / name).read_bytes() == (folder / name).read_bytes()
    capsys.readouterr()
    out = ("--out", tmp_path / "c")
    (tmp_path / "bad.json").write_text('{"frame": {"angle": 90}}')
    said = refused(capsys, *words[:-1], *out, "--prepare", tmp_path / "bad.json")
    assert "isn't a valid preparation (frame.angle" in said
    (tmp_path / "text.json").write_text("turn it")
    said = refused(capsys, *words[:-1], *out, "--prepare", tmp_path / "text.json")
    assert "isn't a valid preparation (content" in said
    assert not (tmp_path / "c").exists()


@pytest.mark.parametrize("down", [False, True])
def test_make_measures_which_way_green_grows(
    tmp_path: Path, make_photo: MakePhoto, down: bool, capsys: pytest.CaptureFixture[str]
) -> None:
    photo = make_photo("tile.png", size=(128, 128))
    codes = encoded(normals(relief("pebbles", 3, 128), 0.5, down=down))
    Image.fromarray(codes).save(tmp_path / "tile_nrm.png")
    words = ["make", str(photo), str(tmp_path / "tile_nrm.png"), "--target", "gltf-metal-rough"]
    assert main([*words, "--out", str(tmp_path / "o"), "--json"]) == 0
    capsys.readouterr()
    found = read(tmp_path / "o" / "gltf-metal-rough" / "tile_normal.png").astype(int)
    up = np.where([0, 1, 0], 255 - codes.astype(int), codes) if down else codes
    assert np.abs(found - up).max() <= 1


def test_make_takes_a_target_from_a_file(
    make_photo: MakePhoto, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    assert main(["targets", "--json"]) == 0
    listed = {one["id"]: one for one in json.loads(capsys.readouterr().out)["targets"]}
    own = listed["mra-y-down"] | {"id": "own"}
    own["files"][1]["suffix"] = "Mix"
    own["files"][1]["channels"]["A"] = {"map": "roughness", "changes": ["invert"]}
    (tmp_path / "own.json").write_text(json.dumps(own))
    words = ["make", str(make_photo()), "--out", str(tmp_path / "o"), "--target"]
    assert main([*words, str(tmp_path / "own.json"), "--json"]) == 0
    capsys.readouterr()
    mix = read(tmp_path / "o" / "own" / "T_wall_Mix.tga")
    np.testing.assert_array_equal(mix[:, :, 3], 255 - mix[:, :, 1])
    (tmp_path / "bad.json").write_text('{"id": "x"}')
    assert "isn't a valid target" in refused(capsys, *words, tmp_path / "bad.json")


def test_make_takes_every_built_in_target_at_once(make_photo: MakePhoto, tmp_path: Path) -> None:
    from copper_sieve.core.targets.catalog import builtin_targets

    photo = make_photo("brick_color.png", size=(64, 64))
    words = [word for target in builtin_targets() for word in ("--target", target)]
    assert main(["make", str(photo), *words, "--out", str(tmp_path / "out")]) == 0
    folders = {path.name for path in (tmp_path / "out").iterdir()}
    assert folders == set(builtin_targets())
    documents = {path.name for path in (tmp_path / "out").rglob("brick.*") if path.suffix != ".png"}
    assert documents == {"brick.glb", "brick.gltf", "brick.mtlx", "brick.usda", "brick.usdz"}
    assert main(["assay", str(tmp_path / "out")]) == 0


def test_make_takes_a_target_of_one_s_own_for_a_gpu(make_photo: MakePhoto, tmp_path: Path) -> None:
    done = sieve("targets", "--json")
    listed = json.loads(done.stdout)["targets"]
    target = next(one for one in listed if one["id"] == "orm-y-down")
    target |= {"id": "ours", "documents": []}
    for file in target["files"]:
        file |= {"format": "ktx2", "mips": True, "size": {"mode": "half"}}
    (tmp_path / "ours.json").write_text(json.dumps(target))
    photo = make_photo("brick_color.png", size=(64, 64))
    out = tmp_path / "out"
    assert (
        main(["make", str(photo), "--target", str(tmp_path / "ours.json"), "--out", str(out)]) == 0
    )
    texture = out / "ours" / "T_brick_ORM.ktx2"
    seen = json.loads(sieve("inspect", texture, "--json").stdout)
    (facts,) = seen["files"]
    assert (facts["width"], facts["height"], facts["format"]) == (32, 32, "ktx2")
    data = bytearray(texture.read_bytes())
    data[-5] ^= 0xFF
    texture.write_bytes(data)
    broken = sieve("assay", out / "ours")
    assert broken.returncode == 1
    assert "T_brick_ORM.ktx2" in broken.stdout + broken.stderr
