""" "saved" is true: with the server away, after a refusal, after a change made elsewhere, after a
reload; and the page goes on by itself when the database is back."""

from __future__ import annotations

import os
import signal
import tempfile
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Locator, Page, Route, expect

from tests.conftest import MakePhoto
from tests.e2e.conftest import Served, start_demo, stop_demo
from tests.e2e.driving import bench_of, read_set, settled

pytestmark = pytest.mark.browser


def number(page: Page, label: str) -> Locator:
    return page.get_by_role("textbox", name=label, exact=True)


def type_in(page: Page, label: str, value: str) -> None:
    number(page, label).fill(value)
    number(page, label).press("Enter")


def contrast(page: Page, served: Served) -> float:
    return read_set(page, served)["height"]["parameters"].get("contrast", 1.0)


@pytest.fixture
def quiet_page(
    served: Served, page: Page, make_photo: MakePhoto, request: pytest.FixtureRequest
) -> Page:
    """The Bench of a set of the test's own."""
    seed = 300 + sum(map(ord, request.node.name)) % 600
    bench_of(served, page, make_photo(f"own_{seed}.png", size=(96, 96), seed=seed))
    return page


def test_not_saved_is_said_while_the_server_is_away_and_saved_when_it_is_back(
    served: Served, quiet_page: Page
) -> None:
    page = quiet_page
    away = [True]

    def unreachable(route: Route) -> None:
        if away[0]:
            route.abort("connectionrefused")
        else:
            route.continue_()

    page.route("**/api/v1/**", unreachable)
    type_in(page, "Contrast", "1.6")
    expect(page.get_by_text("Not saved", exact=True)).to_be_visible()
    expect(page.get_by_text("The server is unreachable.").first).to_be_visible()
    expect(page.get_by_text("saved", exact=True)).to_have_count(0)
    away[0] = False
    expect(page.get_by_text("saved", exact=True)).to_be_visible()
    expect(page.get_by_text("Your changes are kept in this page")).to_have_count(0)
    assert contrast(page, served) == 1.6


def test_what_was_not_saved_is_saved_after_a_reload(served: Served, quiet_page: Page) -> None:
    page = quiet_page
    page.route("**/api/v1/sets/*", lambda route: (
        route.fulfill(status=503, json={"type": "/problems/database-unavailable", "detail": "-"})
        if route.request.method == "PUT" else route.continue_()
    ))  # fmt: skip
    type_in(page, "Contrast", "1.7")
    expect(page.get_by_text("Not saved", exact=True)).to_be_visible()
    page.unroute("**/api/v1/sets/*")
    number(page, "Contrast").select_text()
    page.keyboard.type("1.8")  # typed, and not yet accepted when the page goes
    page.reload()
    expect(page.get_by_text("saved", exact=True)).to_be_visible()
    expect(number(page, "Contrast")).to_have_value("1.80")
    assert contrast(page, served) == 1.8


def test_a_save_that_arrived_after_the_page_went_is_no_change_made_elsewhere(
    served: Served, quiet_page: Page
) -> None:
    page, arrived = quiet_page, []

    def unheard(route: Route) -> None:
        """Carried out, and its answer never comes."""
        if route.request.method == "PUT" and not arrived:
            arrived.append(route.fetch().status)
        else:
            route.continue_()

    page.route("**/api/v1/sets/*", unheard)
    type_in(page, "Contrast", "1.7")
    while not arrived:
        page.wait_for_timeout(20)
    type_in(page, "Fine detail", "0.7")
    page.reload()
    expect(page.get_by_text("saved", exact=True)).to_be_visible()
    assert arrived == [200]
    parameters = read_set(page, served)["height"]["parameters"]
    assert (parameters["contrast"], parameters["detail"]) == (1.7, 0.7)


def test_a_refused_change_is_not_called_saved(served: Served, quiet_page: Page) -> None:
    page = quiet_page
    refuse = {"type": "/problems/parameter", "detail": "contrast: that cannot be computed"}
    page.route("**/api/v1/sets/*", lambda route: (
        route.fulfill(status=422, json=refuse) if route.request.method == "PUT"
        else route.continue_()
    ))  # fmt: skip
    type_in(page, "Contrast", "1.9")
    expect(page.get_by_text("contrast: that cannot be computed").first).to_be_visible()
    expect(page.get_by_text("saved", exact=True)).to_have_count(0)
    page.unroute("**/api/v1/sets/*")
    page.get_by_role("button", name="Reload saved version").click()
    expect(page.get_by_text("saved", exact=True)).to_be_visible()
    expect(number(page, "Contrast")).to_have_value("1.00")


@pytest.mark.parametrize(("choice", "due"), [("Keep yours", 1.4), ("Load theirs", 2.0)])
def test_after_a_conflict_yours_or_theirs(
    served: Served, quiet_page: Page, choice: str, due: float
) -> None:
    page = quiet_page
    set_id = page.url.split("/bench/")[1].split("/")[0]
    one = page.request.get(f"{served.address}/api/v1/sets/{set_id}").json()
    maps = {each["kind"]: each["definition"] for each in one["maps"]}
    maps["height"]["parameters"]["contrast"] = 2.0
    body = {"version": one["version"], "surface": one["surface"], "prepare": one["prepare"],
            "maps": maps}  # fmt: skip
    assert page.request.put(f"{served.address}/api/v1/sets/{set_id}", data=body).ok
    type_in(page, "Contrast", "1.4")
    expect(page.get_by_text("Someone else changed this.")).to_be_visible()
    expect(page.get_by_text("saved", exact=True)).to_have_count(0)
    assert contrast(page, served) == 2.0
    page.get_by_role("button", name=choice).click()
    expect(page.get_by_text("saved", exact=True)).to_be_visible()
    expect(number(page, "Contrast")).to_have_value(f"{due:.2f}")
    assert contrast(page, served) == due


def test_what_is_typed_while_an_undo_runs_is_kept(served: Served, quiet_page: Page) -> None:
    page = quiet_page
    type_in(page, "Contrast", "1.5")
    expect(page.get_by_text("saved", exact=True)).to_be_visible()
    page.route(
        "**/api/v1/sets/*/undo", lambda route: (page.wait_for_timeout(700), route.continue_())
    )
    page.get_by_role("button", name="Undo", exact=True).click()
    type_in(page, "Fine detail", "0.7")
    expect(page.get_by_text("saved", exact=True)).to_be_visible()
    parameters = read_set(page, served)["height"]["parameters"]
    assert (parameters.get("contrast", 1.0), parameters["detail"]) == (1.0, 0.7)


def test_a_part_that_did_not_load_is_asked_for_again(served: Served, page: Page) -> None:
    failed: list[str] = []

    def once(route: Route) -> None:
        if len(failed) < 2:
            failed.append(route.request.url)
            route.abort("connectionreset")
        else:
            route.continue_()

    page.route("**/assets/lit-window*.js", once)
    sets = page.request.get(f"{served.address}/api/v1/projects/lantern-row/sets").json()
    page.goto(f"{served.place}/bench/{sets[0]['id']}")
    settled(page)
    expect(page.get_by_test_id("lit")).to_be_visible()
    assert len(failed) == 2


@pytest.fixture
def own_demo() -> Iterator[Served]:
    """A demo whose database may be killed."""
    with tempfile.TemporaryDirectory(prefix="sieve-away-", ignore_cleanup_errors=True) as name:
        served = start_demo(Path(name))
        yield served
        stop_demo(served)


def test_the_page_goes_on_when_the_killed_database_is_back(
    own_demo: Served, page: Page, make_photo: MakePhoto
) -> None:
    bench_of(own_demo, page, make_photo("away.png", size=(96, 96), seed=77))
    pid = int((own_demo.home / "postgres/data/postmaster.pid").read_text().splitlines()[0])
    os.kill(pid, signal.SIGKILL)
    type_in(page, "Contrast", "1.3")
    expect(page.get_by_text("saved", exact=True)).to_be_visible(timeout=40_000)
    assert contrast(page, own_demo) == 1.3
    answer = page.request.get(f"{own_demo.address}/api/v1/projects")
    assert answer.ok
