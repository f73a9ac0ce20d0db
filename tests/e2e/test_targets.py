"""Targets in the browser: a copy rebuilt on the packing grid, and what it says while it changes."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from tests.e2e.conftest import Served
from tests.e2e.driving import SLOW, choose, choose_target

pytestmark = pytest.mark.browser


def _target(page: Page, served: Served) -> dict:
    target_id = page.url.rsplit("/", 1)[1]
    found = page.request.get(f"{served.address}/api/v1/targets").json()
    return next(one for one in found if one["id"] == target_id)


def _packed(page: Page, served: Served, n: int) -> dict[str, str]:
    """What the channels of a file hold, as it is kept."""
    channels = _target(page, served)["files"][n]["channels"]
    return {letter: slot["map"] or str(slot["constant"]) for letter, slot in channels.items()}


def _copied(
    served: Served, page: Page, target: str, title: str, on: str = "hammered_copper"
) -> None:
    page.goto(f"{served.place}/targets/{target}")
    page.get_by_role("button", name="Duplicate and edit").click()
    field = page.get_by_role("textbox", name="Title of the target")
    field.fill(title)
    field.press("Enter")
    choose(page, "Preview with", on)


def _saved(page: Page) -> None:
    expect(page.get_by_text("saved", exact=True)).to_be_visible()


def test_a_copy_is_rebuilt_on_the_grid_and_undone(served: Served, page: Page) -> None:
    _copied(served, page, "orm-y-down", "Forge")
    expect(page.get_by_text("T_hammered_copper_ORM.tga")).to_be_visible(timeout=SLOW)

    # R metallic, G roughness, B occlusion, under a suffix of one's own.
    page.get_by_role("button", name="Metallic in R of ORM: not connected").click()
    page.get_by_role("button", name="Occlusion in B of ORM: not connected").click()
    suffix = page.get_by_role("textbox", name="Suffix").nth(1)
    suffix.fill("Mix")
    suffix.press("Enter")
    expect(page.get_by_text("T_hammered_copper_Mix.tga")).to_be_visible(timeout=SLOW)
    _saved(page)
    assert _packed(page, served, 1) == {
        "R": "metallic", "G": "roughness", "B": "ambient_occlusion"
    }  # fmt: skip

    # A fourth channel: smoothness, the inverse; its memory is remarked upon.
    assert page.get_by_text("as much memory as two files").count() == 0
    page.get_by_role("button", name="Roughness in A of Mix: not connected").click()
    page.get_by_role("button", name="Roughness in A of Mix: connected").click()
    page.get_by_role("button", name="+ invert").click()
    page.keyboard.press("Escape")
    expect(page.get_by_text("as much memory as two files")).to_be_visible(timeout=SLOW)
    expect(
        page.get_by_role("button", name="Roughness in A of Mix: connected, with changes")
    ).to_be_visible()
    expect(page.get_by_role("img", name=re.compile("Mix.tga, alpha"))).to_be_visible()
    _saved(page)
    slot = _target(page, served)["files"][1]["channels"]["A"]
    assert (slot["map"], slot["changes"]) == ("roughness", [{"do": "invert"}])

    # Two channels change places.
    page.get_by_role("button", name="Metallic in R of Mix: connected").click()
    page.get_by_role("button", name="R ⇄ B").click()
    page.keyboard.press("Escape")
    _saved(page)
    assert _packed(page, served, 1)["R"] == "ambient_occlusion"
    assert _packed(page, served, 1)["B"] == "metallic"

    # Two files under one name are refused, with the reason.
    first = page.get_by_role("textbox", name="Suffix").nth(0)
    first.fill("mix")
    first.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("two files would have the name", timeout=SLOW)
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("alert")).to_have_count(0, timeout=SLOW)
    page.get_by_role("button", name="Undo").click()
    _saved(page)
    assert _packed(page, served, 1)["R"] == "metallic"
    page.keyboard.press("Control+Shift+Z")
    _saved(page)
    assert _packed(page, served, 1)["R"] == "ambient_occlusion"

    target = _target(page, served)
    assert target["title"] == "Forge"
    _deliver_and_look_at_a_channel(served, page)
    _is_stale_after_a_change(served, page, target["id"])


def _deliver_and_look_at_a_channel(served: Served, page: Page) -> None:
    """It can be delivered like any other, and what was written is held against its source."""
    page.goto(f"{served.place}/deliveries")
    choose_target(page, "Forge")
    page.get_by_role("button", name=re.compile("hammered_copper for Forge: not delivered")).click()
    expect(page.get_by_text("T_hammered_copper_Mix.tga")).to_be_visible(timeout=SLOW)
    expect(page.get_by_text("A roughness, inverted")).to_be_visible()

    page.get_by_role("button", name=re.compile(r"^Deliver \d+ files")).click()
    page.get_by_role("link", name="Download zip").wait_for(timeout=SLOW)
    page.get_by_role("button", name=re.compile("Compare A of T_hammered_copper_Mix")).click()
    viewer = page.get_by_role("dialog")
    expect(viewer).to_contain_text("roughness, inverted")
    expect(viewer).to_contain_text("all texels as expected", timeout=SLOW)
    viewer.get_by_role("radio", name="8 : 1").click()
    close = viewer.get_by_role("img", name="in the file")
    expect(close).to_be_visible(timeout=SLOW)
    close.hover(position={"x": 60, "y": 60})
    code = r"\d+, \d+: source map 0\.\d{4} · expected (\d+) · in the file \1"
    expect(viewer.get_by_test_id("under")).to_have_text(re.compile(code), timeout=SLOW)
    viewer.get_by_role("radio", name="Fit").click()
    for title in ("source map", "expected", "in the file", "difference × 16"):
        expect(viewer.get_by_role("img", name=title)).to_be_visible()
    page.keyboard.press("Escape")
    expect(viewer).to_have_count(0)


def _is_stale_after_a_change(served: Served, page: Page, target_id: str) -> None:
    """A change makes that delivery stale, and the target says so."""
    page.goto(f"{served.place}/targets/{target_id}")
    again = page.get_by_role("link", name="Deliver again")
    suffix = page.get_by_role("textbox", name="Suffix").nth(1)
    expect(suffix).to_have_value("Mix")
    expect(again).to_have_count(0)
    suffix.fill("Mixed")
    suffix.press("Enter")
    expect(page.get_by_text("delivered before the last change: hammered_copper")).to_be_visible()
    again.click()
    expect(page.get_by_text("T_hammered_copper_Mixed.tga")).to_be_visible(timeout=SLOW)


def test_the_grid_is_worked_by_keys_and_grows_files(served: Served, page: Page) -> None:
    _copied(served, page, "mra-y-down", "Keyboard shortcuts")
    start = page.get_by_role("button", name="Roughness in G of MRA: connected")
    start.focus()
    for key in ("ArrowRight", "ArrowRight", "Enter"):
        page.keyboard.press(key)
    expect(page.get_by_role("button", name="Roughness in A of MRA: connected")).to_be_focused()
    page.get_by_role("button", name="File").click()
    page.get_by_role("button", name="Height in R of new: not connected").click()
    format_of_new = page.get_by_role("combobox", name="Format").nth(3)
    format_of_new.select_option("png 16")
    expect(page.get_by_text("T_hammered_copper_new.png")).to_be_visible(timeout=SLOW)
    _saved(page)
    made = _target(page, served)["files"][3]
    assert (made["format"], made["bits"], list(made["channels"])) == ("png", 16, ["R"])
    page.get_by_role("button", name="Remove new").click()
    _saved(page)
    assert len(_target(page, served)["files"]) == 3

    # Two maps share a channel by ranges of codes.
    page.get_by_role("button", name="Metallic in R of MRA: connected").click()
    choose(page, "Share with", "Porosity")
    last = page.get_by_role("textbox", name="Last code of metallic")
    last.fill("199")
    last.press("Enter")
    page.keyboard.press("Escape")
    expect(
        page.get_by_role("button", name="Porosity in R of MRA: shared by code ranges")
    ).to_be_visible()
    page.get_by_role("radio", name="Y+").click()
    _saved(page)
    kept = _target(page, served)
    assert kept["normal_y"] == "up"
    parts = [
        (s["map"], s["codes"], s["above"]) for s in kept["files"][1]["channels"]["R"]["segments"]
    ]
    assert parts == [("porosity", [230, 255], 0.5), ("metallic", [0, 199], None)]
    expect(page.get_by_role("alert")).to_have_count(0)

    page.get_by_role("button", name="Delete target").click()
    page.wait_for_url(re.compile("targets/(?!keys)"))
    page.goto(f"{served.place}/targets/voxel-pack-two-file")
    shared = page.get_by_role("button", name="Metallic in G of s: shared by code ranges")
    expect(shared).to_have_attribute("aria-disabled", "true")


def test_a_target_is_built_from_nothing(served: Served, page: Page) -> None:
    page.goto(f"{served.place}/targets/orm-y-down")
    page.get_by_role("button", name="New", exact=True).click()
    page.get_by_role("textbox", name="Title of the target").wait_for()
    choose(page, "Preview with", "hammered_copper")
    for component, letter in zip("rgb", "RGB", strict=True):
        name = f"Base color {component} in {letter} of new: not connected"
        page.get_by_role("button", name=name).click()
    page.get_by_role("combobox", name="Encoding").select_option("srgb")
    pattern = page.get_by_role("textbox", name="Name pattern")
    pattern.fill("forge_{set}_{size}")
    pattern.press("Enter")
    choose(page, "Size of the files", "512 texels")
    expect(page.get_by_text("forge_hammered_copper_512.png")).to_be_visible(timeout=SLOW)
    _saved(page)
    made = _target(page, served)
    assert made["size"] == {"mode": "fixed", "longer_side": 512}
    assert _packed(page, served, 0) == dict.fromkeys("RGB", "base_color")
    pattern.fill("{room}_x")
    pattern.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("unknown variable {room}", timeout=SLOW)
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("alert")).to_have_count(0, timeout=SLOW)


def test_conventions_documents_and_how_a_file_is_written(served: Served, page: Page) -> None:
    _copied(served, page, "separate-png", "Told", "cedar_lattice")  # of 64 texels: quickly tried
    expect(page.get_by_text("cedar_lattice_base_color.png")).to_be_visible(timeout=SLOW)
    page.get_by_role("button", name="Conventions").click()
    choose(page, "Case of file names", "UPPERCASE")
    choose(page, "Separator in file names", "hy-phen")
    choose(page, "Padding", "to the border")
    choose(page, "Add document", "MaterialX, OpenPBR")
    field = page.get_by_role("textbox", name="Dielectric F0")
    field.fill("0.02")
    field.press("Enter")
    expect(page.get_by_text("n 1.33")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_text("CEDAR-LATTICE-BASE-COLOR.png")).to_be_visible(timeout=SLOW)
    expect(page.get_by_label("Documents")).to_contain_text("CEDAR-LATTICE.mtlx")
    _saved(page)
    kept = _target(page, served)
    assert (kept["padding"]["mode"], kept["dielectric_f0"]) == ("border", 0.02)
    assert [one["format"] for one in kept["documents"]] == ["materialx"]

    # How the first file is written: for a GPU, with its smaller levels, at half the size.
    page.get_by_role("combobox", name="Format").first.select_option("ktx2 8")
    page.get_by_role("button", name=re.compile("Write settings of")).first.click()
    choose(page, "Size of the file", "half")
    page.get_by_role("checkbox", name="mipmaps").check()
    page.keyboard.press("Escape")
    expect(page.get_by_text("mips · half")).to_be_visible()
    expect(page.get_by_text("CEDAR-LATTICE-BASE-COLOR.ktx2")).to_be_visible(timeout=SLOW)
    _saved(page)
    first = _target(page, served)["files"][0]
    assert (first["format"], first["mips"], first["size"]["mode"]) == ("ktx2", True, "half")
    page.get_by_role("combobox", name="Format").first.select_option("png 8")
    _saved(page)
    assert not _target(page, served)["files"][0]["mips"]  # a PNG holds none

    # A value is multiplied by another map.
    page.get_by_role("button", name="Base color r in R of base_color: connected").click()
    choose(page, "Multiply by", "occlusion")
    page.keyboard.press("Escape")
    _saved(page)
    times = _target(page, served)["files"][0]["channels"]["R"]["times"]
    assert (times["map"], times["weight"]) == ("ambient_occlusion", 1)


def test_the_proof_is_seen_in_two_lit_windows(served: Served, page: Page) -> None:
    page.goto(f"{served.place}/targets/spec-gloss")
    choose(page, "Preview with", "hammered_copper")
    proof = page.get_by_role("region", name="Conversion check")
    expect(proof).to_contain_text("on average", timeout=SLOW)
    proof.get_by_role("button", name="Compare under a light").click()
    for title in ("set", "files read back"):
        window = page.get_by_role("region", name=f"Lit, {title}")
        expect(window).to_have_attribute("data-drawn", re.compile("base_color"), timeout=SLOW)
    canvases = page.locator("[role=dialog] canvas")
    expect(canvases).to_have_count(2)
    page.keyboard.press("Escape")
    expect(canvases).to_have_count(0)
