"""The real browser and the real server for tests: Debian's Chromium through Playwright, waitress on loopback."""

from __future__ import annotations

import atexit
import contextlib
import io
import tempfile
import threading
from functools import cache
from pathlib import Path
from typing import Any

import numpy as np
from flask import Flask
from jinja2 import FileSystemBytecodeCache
from PIL import Image
from playwright.sync_api import Browser, Error, FloatRect, Page, ViewportSize, sync_playwright
from waitress.server import create_server

from heron_lock.build import build_demo
from jointed_crane.sending.sender import Sender
from jointed_crane.store.library import Library
from jointed_crane.web import create_app
from tests.demo_library import WORKERS, copy_demo, copy_empty

CHROMIUM = "/usr/bin/chromium-headless-shell"

_playwright = None
_browser: Browser | None = None
_page: Page | None = None
_VIEWPORT: ViewportSize = {"width": 1280, "height": 800}


def browser() -> Browser:
    """One browser for the whole run; where the process is ended from outside it goes with its driver."""
    global _playwright, _browser
    if _browser is None:
        _playwright = sync_playwright().start()
        _browser = _playwright.chromium.launch(executable_path=CHROMIUM, args=["--no-sandbox"])
        atexit.register(_close)
    return _browser


def _close() -> None:
    global _playwright, _browser, _page
    if _browser is not None and _playwright is not None:
        _browser.close()
        _playwright.stop()
    _browser = _playwright = _page = None


#: Told to every page of the run: what it asks for, how many answers and bodies it waits for, and what it puts off for
#: a moment. The browser's own events of each request would cost the tests as much time as the pages themselves.
_LISTENING = """
(() => {
  window.askedFor = new Set();
  const heard = (list) => list.getEntries().forEach((entry) => window.askedFor.add(entry.name));
  new PerformanceObserver(heard).observe({ type: "resource", buffered: true });
  window.underWay = 0;
  const counted = (holder, name) => {
    const own = holder[name];
    holder[name] = function (...given) {
      window.underWay += 1;
      return own.apply(this, given).finally(() => (window.underWay -= 1));
    };
  };
  counted(window, "fetch");
  for (const name of ["json", "text", "blob", "arrayBuffer"]) counted(Response.prototype, name);
  window.putOff = new Set();
  const { setTimeout: later, clearTimeout: never } = window;
  window.setTimeout = (act, delay = 0, ...given) => {
    const number = later(
      (...told) => {
        window.putOff.delete(number);
        act(...told);
      },
      delay,
      ...given,
    );
    if (delay < 100) window.putOff.add(number);
    return number;
  };
  window.clearTimeout = (number) => {
    window.putOff.delete(number);
    never(number);
  };
})();
"""
#: Resolves when the page has had an answer to everything, has nothing put off and has drawn what has happened.
SETTLED = """
async () => {
  const frame = () => new Promise((done) => requestAnimationFrame(() => queueMicrotask(done)));
  const isBusy = () =>
    window.underWay || window.putOff.size || document.querySelector('[aria-busy="true"]') ||
    [...document.images].some((image) => !image.complete);
  do {
    do await frame();
    while (isBusy());
    const pictures = [...document.querySelectorAll("image")].slice(0, 80);
    await Promise.all(pictures.map((picture) => picture.decode().catch(() => null)));
    await frame();
  } while (isBusy());
}
"""


def fresh_page() -> Page:
    """The one page of the run, as if it were new but for the scripts that it has compiled; `leave` gives it back."""
    global _page
    if _page is None or _page.is_closed():
        context = browser().new_context(viewport=_VIEWPORT, accept_downloads=True)
        context.add_init_script(_LISTENING)
        _page = context.new_page()
    return _page


def leave(page: Page) -> None:
    """Have a page forget what it was told, went to and was shown in."""
    with contextlib.suppress(Error):  # a page that never went anywhere keeps nothing
        page.evaluate("localStorage.clear(); sessionStorage.clear()")
    page.unroute_all()
    page.mouse.up()
    for key in ("Shift", "Control", "Alt"):  # a test that failed may have left them down
        page.keyboard.up(key)
    page.goto("about:blank")
    page.set_viewport_size(_VIEWPORT)
    page.emulate_media(color_scheme="null", reduced_motion="null")
    page.context.clear_cookies()


class _Switchboard:
    """One server for the whole run, on one port, so that the browser knows its scripts; it serves the newest
    library.
    """

    def __init__(self) -> None:
        self._apps: list[Any] = []
        self._under_way = 0
        self._quiet = threading.Condition()
        server = create_server(self, host="127.0.0.1", port=0, threads=8)
        self.address = f"http://127.0.0.1:{server.effective_port}"
        threading.Thread(target=server.run, daemon=True).start()

    def __call__(self, environ: Any, start_response: Any) -> Any:
        with self._quiet:
            self._under_way += 1
            app = self._apps[-1] if self._apps else _nothing
        try:
            return app(environ, start_response)
        finally:
            with self._quiet:
                self._under_way -= 1
                self._quiet.notify_all()

    def open(self, app: Any) -> None:
        """Serve an application from now on."""
        self._apps.append(app)

    def close(self, app: Any) -> None:
        """Serve it no more; waits for the requests that are under way."""
        self._apps.remove(app)
        with self._quiet:
            self._quiet.wait_for(lambda: not self._under_way, timeout=10)


def _nothing(_environ: Any, start_response: Any) -> list[bytes]:
    start_response("503 Service Unavailable", [("Content-Length", "0")])
    return [b""]


@cache
def _switchboard() -> _Switchboard:
    return _Switchboard()


@cache
def _compiled() -> tuple[tempfile.TemporaryDirectory, FileSystemBytecodeCache]:
    """Templates that one application of the run has compiled, for the others."""
    folder = tempfile.TemporaryDirectory()
    return folder, FileSystemBytecodeCache(folder.name)


@cache
def _application() -> tuple[tempfile.TemporaryDirectory, Flask]:
    """One application for the whole run, which is given the library of each test."""
    folder = tempfile.TemporaryDirectory()
    copy_empty(Path(folder.name))
    app = create_app(Path(folder.name), build_demo, WORKERS)
    app.jinja_env.bytecode_cache = _compiled()[1]
    return folder, app


class ServedLibrary:
    """A library in a folder of its own, with the demo scenes if wished, served until it is closed."""

    def __init__(self, has_demo: bool = False) -> None:
        self._folder = tempfile.TemporaryDirectory()
        (copy_demo if has_demo else copy_empty)(Path(self._folder.name))
        self.library = Library(Path(self._folder.name))
        app = _application()[1]
        app.config["DATA_FOLDER"] = self._folder.name
        app.extensions["library"] = self.library
        self.sender = app.extensions["sender"] = Sender(self.library, WORKERS)
        self._app = app.wsgi_app
        _switchboard().open(self._app)
        self.address = _switchboard().address

    def close(self) -> None:
        """Stop serving and remove the folder."""
        _switchboard().close(self._app)
        self.sender.close()
        self._folder.cleanup()


def shot(page: Page, width: int, height: int) -> np.ndarray:
    """The upper left of a page as pixels, shape (height, width, 3), once what was asked of it is painted.

    On a busy machine Chromium now and then paints no picture at all and says so; it is asked once more.
    """
    clip: FloatRect = {"x": 0, "y": 0, "width": width, "height": height}
    page.evaluate("() => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)))")
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
