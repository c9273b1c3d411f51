"""The bench in the browser: opening 300 parts, picking and filtering among them, and a drag of 120 moves."""

from __future__ import annotations

import time
from dataclasses import dataclass

import numpy as np
from playwright.sync_api import Page

from bench.real_server import serving
from tests.browser.chromium import browser

#: Milliseconds of work between an act and the frame that shows it: the act itself, then all drawing of the next frame
#: with its layout. The idle time between the two is not counted.
_EACH = """
async ([selector, act]) => {
  const times = [];
  const elements = [...document.querySelectorAll(selector)].slice(0, 40);
  const words = act === "type" ? ["1", "12", "Part 2", "part 29", ""] : elements;
  for (const [index, one] of words.entries()) {
    await new Promise((done) => setTimeout(done, 30));
    const element = act === "type" ? elements[0] : one;
    let drawing;
    requestAnimationFrame(() => (drawing = performance.now()));
    const begin = performance.now();
    if (act === "click") element.click();
    else {
      element.value = words[index];
      element.dispatchEvent(new Event("input", { bubbles: true }));
    }
    const acted = performance.now() - begin;
    times.push(
      await new Promise((done) =>
        requestAnimationFrame(() => {
          document.body.getBoundingClientRect();
          done(acted + performance.now() - drawing);
        }),
      ),
    );
  }
  return times;
}
"""


@dataclass(frozen=True)
class PageFigures:
    """Times in ms.

    Opening until ready; p50 and p95 of forty picks right after opening, when the browser has compiled nothing yet, and
    of forty more; the slowest letter of filtering; p95 of the pauses while scrolling; p50 and p95 of drag previews.
    """

    opening: float
    first_picks: tuple[float, float]
    picks: tuple[float, float]
    filtering: float
    scrolling: float
    drag_p50: float
    drag_p95: float
    previews: int


def page_figures() -> PageFigures:
    """Measure on 300 parts, the drag on a seated limb of 200."""
    page = browser().new_page(viewport={"width": 1280, "height": 800})
    try:
        with serving(300, 200, is_seated=True) as address:
            opening = min(_opened(page, f"{address}/scenes/crowd-300") for _ in range(3))
            first_picks, picks = _picked(page), _picked(page)
            filtering = float(max(page.evaluate(_EACH, ["[data-tree=search]", "type"])))
            page.wait_for_timeout(2000)  # the tree finishes its rows once it is left alone
            scrolling = _scrolled(page, "div:has(> [data-tree=list])")
            _opened(page, f"{address}/scenes/crowd-200")
            return PageFigures(opening, first_picks, picks, filtering, scrolling, *_dragged(page))
    finally:
        page.close()
        browser().close()


def _opened(page: Page, address: str) -> float:
    begin = time.perf_counter()
    page.goto(address)
    page.wait_for_selector("[data-ready=true]")
    return (time.perf_counter() - begin) * 1000


def dense_figures() -> tuple[float, float, float]:
    """Opening 200 parts with 40 keys on five channels each in the browser, the first time and again, ms; and p95 of the
    pauses while the rows of keys of the whole scene scroll.
    """
    page = browser().new_page(viewport={"width": 1280, "height": 800})
    try:
        with serving(is_dense=True) as address:
            page.goto(address)  # the scripts are there, as for somebody who comes from the shelf
            first = _opened(page, f"{address}/scenes/dense")
            again = _opened(page, f"{address}/scenes/dense")
            page.locator("[data-rows=whole]").click()
            page.wait_for_timeout(500)
            return first, again, _scrolled(page, "[data-time=area]")
    finally:
        page.close()


def work_of_planes() -> tuple[float, float]:
    """What the page itself does for one frame of 200 planes in space while they play, script and style, ms of its
    thread's processor time, as the stage sees them and from aside. Painting is the browser's, on the same processors.
    """
    page = browser().new_page(viewport={"width": 1280, "height": 800})
    try:
        with serving(is_deep=True) as address:
            _opened(page, f"{address}/scenes/planes")
            found = []
            for side in ("stage", "free"):
                page.select_option('[data-pane="0"] [data-look=side]', side)
                page.wait_for_timeout(1000)
                found.append(_work_of_playing(page))
            return found[0], found[1]
    finally:
        page.close()


def _work_of_playing(page: Page) -> float:
    told = page.context.new_cdp_session(page)
    told.send("Performance.enable", {"timeDomain": "threadTicks"})

    def seconds() -> float:
        metrics = {one["name"]: one["value"] for one in told.send("Performance.getMetrics")["metrics"]}
        return float(metrics["ScriptDuration"] + metrics["RecalcStyleDuration"])

    page.focus("[data-bench=stage]")
    page.keyboard.press(" ")
    page.wait_for_timeout(3000)  # films have come
    begun = seconds()
    frames = page.evaluate(
        """async () => {
          let count = 0;
          for (const begin = performance.now(); performance.now() - begin < 3000; count++)
            await new Promise(requestAnimationFrame);
          return count;
        }"""
    )
    spent = seconds() - begun
    page.keyboard.press(" ")
    told.detach()
    return 1000 * spent / float(frames)


def _picked(page: Page) -> tuple[float, float]:
    p50, p95 = np.percentile(page.evaluate(_EACH, ["[data-row]", "click"]), [50, 95])
    return float(p50), float(p95)


def _scrolled(page: Page, selector: str) -> float:
    """The 95th percentile of the pauses between two frames while a panel scrolls from end to end, ms."""
    return float(
        page.evaluate(
            """async (selector) => {
              const list = document.querySelector(selector);
              const pauses = [];
              let last = await new Promise(requestAnimationFrame);
              for (let step = 0; step <= 60; step++) {
                list.scrollTop = ((list.scrollHeight - list.clientHeight) * step) / 60;
                const now = await new Promise(requestAnimationFrame);
                pauses.push(now - last);
                last = now;
              }
              return pauses.sort((a, b) => a - b)[Math.floor(pauses.length * 0.95)];
            }""",
            selector,
        )
    )


def _dragged(page: Page) -> tuple[float, float, int]:
    """p50 and p95 of the previews of a drag of 120 moves over one second, and how many there were."""
    page.keyboard.press("r")
    page.locator('[data-tree=name]:text-is("Part 102")').click()
    page.wait_for_timeout(400)
    box = page.locator("circle[data-ring]").last.bounding_box()
    assert box is not None
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.evaluate("performance.clearResourceTimings()")
    page.mouse.move(x, y)
    page.mouse.down()
    begin = time.monotonic()
    for step in range(1, 121):
        page.mouse.move(x + step, y + step / 2)
        time.sleep(max(0.0, begin + step / 120 - time.monotonic()))
    page.wait_for_timeout(300)
    page.mouse.up()
    times = page.evaluate(
        """() => performance.getEntriesByType("resource").filter((entry) => entry.name.endsWith("/preview"))
                  .map((entry) => entry.duration)"""
    )
    p50, p95 = np.percentile(times, [50, 95])
    return float(p50), float(p95), len(times)
