"""Surroundings that the browser keeps filtered: taken as they were, and made again when they go."""

from __future__ import annotations

import numpy as np
import pytest
from playwright.sync_api import Page

from tests.conftest import MakePhoto
from tests.e2e.conftest import Served
from tests.e2e.driving import bench_of, screen

pytestmark = pytest.mark.browser

_COUNT = """() => new Promise((found) => {
    const asked = indexedDB.open("sieve-light");
    asked.onsuccess = () => {
        const base = asked.result;
        const done = (count) => { base.close(); found(count); };
        if (!base.objectStoreNames.contains("filtered")) return done(0);
        const counted = base.transaction("filtered").objectStore("filtered").count();
        counted.onsuccess = () => done(counted.result);
    };
})"""
_DARKEN = """() => new Promise((found) => {
    const asked = indexedDB.open("sieve-light");
    asked.onsuccess = () => {
        const change = asked.result.transaction("filtered", "readwrite");
        const walked = change.objectStore("filtered").openCursor();
        walked.onsuccess = () => {
            const at = walked.result;
            if (!at) return;
            for (const level of at.value.levels) for (const face of level.faces) face.fill(0);
            at.update(at.value);
            at.continue();
        };
        change.oncomplete = () => { asked.result.close(); found(true); };
    };
})"""
_FORGET = """() => new Promise((found) => {
    const asked = indexedDB.deleteDatabase("sieve-light");
    asked.onsuccess = asked.onerror = asked.onblocked = () => found(true);
})"""


def test_a_filtered_surrounding_is_kept_and_made_again_when_it_is_gone(
    served: Served, page: Page, make_photo: MakePhoto
) -> None:
    def material() -> np.ndarray:
        lit = screen(page, "Lit")
        row, column = lit.shape[0] // 2, lit.shape[1] // 2
        return lit[row - 60 : row + 60, column - 60 : column + 60]

    def lit_anew() -> np.ndarray:
        page.reload()
        return material()

    page.goto(f"{served.address}/mark.svg")
    page.evaluate(_FORGET)
    bench_of(served, page, make_photo("kept.png", seed=17))
    first = material()
    assert page.evaluate(_COUNT) == 1
    assert np.abs(lit_anew() - first).max() == 0
    page.evaluate(_DARKEN)
    assert lit_anew().mean() < 0.9 * first.mean()  # it is what was kept that is shown
    page.evaluate(_FORGET)
    assert np.abs(lit_anew() - first).max() == 0
