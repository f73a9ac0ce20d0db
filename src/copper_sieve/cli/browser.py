"""Headless Chromium, for the screenshots and the browser tests."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from playwright.sync_api import Browser

_CHROMIUM = "/usr/bin/chromium"
_ARGUMENTS = (
    "--no-sandbox",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--disable-quic",
    "--process-per-site",  # additional pages share the process of open ones
    "--disable-gpu-compositing",  # GPU compositing would compete with WebGL for the CPU
    "--use-angle=swiftshader",
    "--enable-unsafe-swiftshader",
)


@contextmanager
def chromium() -> Iterator[Browser]:
    """Start a browser that renders WebGL in software and makes no network requests."""
    from playwright.sync_api import sync_playwright

    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=_CHROMIUM, args=list(_ARGUMENTS))
        try:
            yield browser
        finally:
            browser.close()
