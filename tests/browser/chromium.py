"""The real browser and the real server for tests: Debian's Chromium through Playwright, waitress on loopback."""

from __future__ import annotations

import contextlib
import io
import tempfile
import threading
import unittest
from pathlib import Path

import numpy as np
from PIL import Image
from playwright.sync_api import Browser, Error, FloatRect, Page, sync_playwright
from waitress.server import create_server

from demo.build import build_demo
from jointed_crane.store.library import Library
from jointed_crane.web import create_app
from tests.demo_library import READER, copy_demo

CHROMIUM = "/usr/bin/chromium"

_playwright = None
_browser: Browser | None = None


def browser() -> Browser:
    """One browser for the whole run."""
    global _playwright, _browser
    if _browser is None:
        _playwright = sync_playwright().start()
        _browser = _playwright.chromium.launch(executable_path=CHROMIUM, args=["--no-sandbox"])
        unittest.addModuleCleanup(_close)
    return _browser


def _close() -> None:
    global _playwright, _browser
    if _browser is not None and _playwright is not None:
        _browser.close()
        _playwright.stop()
    _browser = _playwright = None


class ServedLibrary:
    """A library in a folder of its own, with the demo scenes if wished, served on a free port."""

    def __init__(self, has_demo: bool = False) -> None:
        self._folder = tempfile.TemporaryDirectory()
        if has_demo:
            copy_demo(Path(self._folder.name))
        app = create_app(Path(self._folder.name), build_demo, READER)
        self.library: Library = app.extensions["library"]
        self._server = create_server(app, host="127.0.0.1", port=0, threads=8)
        self.address = f"http://127.0.0.1:{self._server.effective_port}"
        self._thread = threading.Thread(target=self._run, daemon=True)
        self._thread.start()

    def _run(self) -> None:
        with contextlib.suppress(OSError):  # the socket is closed under the loop, which is how it is stopped
            self._server.run()

    def close(self) -> None:
        """Stop serving and remove the folder.

        The workers end first: one that finishes after the server's descriptors are closed would wake the server through
        a number that the next test's database has by then.
        """
        self._server.task_dispatcher.shutdown(timeout=10)
        self._server.close()
        for channel in list(self._server.active_channels.values()):
            channel.close()
        self._folder.cleanup()


def shot(page: Page, width: int, height: int) -> np.ndarray:
    """The upper left of a page as pixels, shape (height, width, 3).

    On a busy machine Chromium now and then paints no picture at all and says so; it is asked once more.
    """
    clip: FloatRect = {"x": 0, "y": 0, "width": width, "height": height}
    try:
        data = page.screenshot(clip=clip)
    except Error as error:
        if "Unable to capture" not in error.message:
            raise
        data = page.screenshot(clip=clip)
    return np.asarray(Image.open(io.BytesIO(data)).convert("RGB")).astype(int)


def share_of_different_pixels(one: np.ndarray, other: np.ndarray, by_more_than: int = 8) -> float:
    """The share of pixels that differ by more than this in any channel."""
    return float((np.abs(one - other).max(axis=-1) > by_more_than).mean())
