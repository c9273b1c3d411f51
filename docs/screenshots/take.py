"""Takes the pictures of the main views from the demo scenes: `make screenshots`."""

from __future__ import annotations

from pathlib import Path

from playwright.sync_api import Page

from heron_lock import dock_crane, heron, lantern, lock_gates, parcel, quay_crate
from heron_lock.build import build_demo
from heron_lock.rigging import ART
from jointed_crane.core.edits.placing.poses import MoveBy, SetValues
from jointed_crane.core.model.scene import Scene
from tests.browser.chromium import ServedLibrary, browser

HERE = Path(__file__).parent


def main() -> None:
    """Take them all, 1280 x 800."""
    served = ServedLibrary()
    page = browser().new_page(viewport={"width": 1280, "height": 800})
    page.goto(served.address)
    page.wait_for_timeout(400)
    page.screenshot(path=HERE / "shelf-empty.png")
    build_demo(served.library)
    page.goto(served.address)
    page.wait_for_timeout(600)
    page.locator("li.card a").first.focus()
    page.screenshot(path=HERE / "shelf.png")
    _motion(page, served)
    _poses(page, served)
    _curves(page, served)
    _footholds(page, served)
    _levers(page, served)
    _constraints(page, served)
    _rest(page, served)
    _joint(page, served)
    _map_and_check(page, served)
    _depth(page, served)
    _send_out(page, served)
    _import(page, served)
    _art(page, served)
    page.close()
    browser().close()
    served.close()


def _open(page: Page, served: ServedLibrary, name: str) -> None:
    card = served.library.shelf.find(name)
    assert card is not None
    page.goto(f"{served.address}/scenes/{card.id}")
    page.wait_for_selector("[data-ready=true]")


def _pick(page: Page, name: str) -> None:
    page.click(f'[data-tree=name]:text-is("{name}")')


def _send_out(page: Page, served: ServedLibrary) -> None:
    card = served.library.shelf.find(heron.NAME)
    assert card is not None
    page.goto(f"{served.address}/scenes/{card.id}/send#frame=34")
    for tag, scale in (("Animated SVG", ""), ("WebM film", "0.3"), ("Animated PNG", "")):
        page.click(f'.send-tag:has(b:text-is("{tag}"))')
        if scale:
            page.fill("[name=scale]", scale)
        page.click("[data-send=go]")
        if tag != "Animated PNG":
            page.wait_for_selector('[data-sending]:first-child[data-state="done"]', timeout=60_000)
    page.click('.send-tag:has(b:text-is("Loop for a page"))')
    page.wait_for_selector(".send-item:first-child >> text=/frame [1-9][0-9]* of 96/", timeout=60_000)
    page.wait_for_selector("[data-send=forecast]:not([aria-busy])", timeout=60_000)
    page.wait_for_timeout(1500)
    page.screenshot(path=HERE / "send-out.png")
    page.click("text=Stop")


def _depth(page: Page, served: ServedLibrary) -> None:
    _open(page, served, parcel.NAME)
    page.click('[data-pane="0"] [data-views="2"]')
    _pick(page, "Lid")
    for _ in range(66):
        page.keyboard.press(".")
    page.wait_for_timeout(1500)
    page.screenshot(path=HERE / "bench-depth.png")


def _motion(page: Page, served: ServedLibrary) -> None:
    _open(page, served, heron.NAME)
    _pick(page, "Lower neck")
    for _ in range(30):
        page.keyboard.press(".")
    page.wait_for_timeout(400)
    ring = page.locator("circle[data-ring]").last.bounding_box()
    assert ring is not None
    x, y = ring["x"] + 7, ring["y"] + 7
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x - 12, y + 16, steps=6)
    page.wait_for_timeout(300)
    page.screenshot(path=HERE / "bench-motion.png")
    page.keyboard.press("Escape")
    page.mouse.up()


def _poses(page: Page, served: ServedLibrary) -> None:
    _open(page, served, heron.NAME)
    _pick(page, "Body")
    page.keyboard.press("Shift+P")
    page.wait_for_timeout(500)
    page.locator(".pose-card").nth(1).click()
    page.fill("dialog[open] [name=share]", "70")
    page.wait_for_timeout(700)
    page.screenshot(path=HERE / "bench-poses.png")
    page.keyboard.press("Escape")


def _curves(page: Page, served: ServedLibrary) -> None:
    _open(page, served, heron.NAME)
    for name in ("Lower neck", "Upper neck"):
        page.click(f'[data-tree=name]:text-is("{name}")', modifiers=["Control"])
    page.click("[data-view=curves]")
    page.wait_for_timeout(600)
    page.locator("[data-curve-key]").nth(1).click()
    page.wait_for_timeout(400)
    page.screenshot(path=HERE / "bench-curves.png")


def _footholds(page: Page, served: ServedLibrary) -> None:
    _open(page, served, quay_crate.NAME)
    _pick(page, "Crate")
    page.keyboard.press("Home")
    for _ in range(42):
        page.keyboard.press(".")
    page.keyboard.press("9")
    page.keyboard.press("Shift+G")
    page.wait_for_timeout(800)
    page.screenshot(path=HERE / "bench-footholds.png")
    page.keyboard.press("Shift+G")


def _levers(page: Page, served: ServedLibrary) -> None:
    _open(page, served, lock_gates.NAME)
    _pick(page, "Gates")
    _to_frame(page, 58)
    page.click("[data-on-board] >> text=More")
    page.wait_for_timeout(600)
    page.screenshot(path=HERE / "bench-levers.png")


def _constraints(page: Page, served: ServedLibrary) -> None:
    _open(page, served, lantern.NAME)
    _pick(page, "Lantern")
    _to_frame(page, 50)
    page.click("[data-tab=constraints]")
    page.click('[data-tree=name]:text-is("Keeper hand")', modifiers=["Control"])
    page.wait_for_timeout(600)
    page.screenshot(path=HERE / "bench-constraints.png")


def _to_frame(page: Page, frame: int) -> None:
    page.keyboard.press("Home")
    for _ in range(frame):
        page.keyboard.press(".")


def _rest(page: Page, served: ServedLibrary) -> None:
    _open(page, served, dock_crane.NAME)
    page.keyboard.press("r")
    page.keyboard.press("4")
    _pick(page, "Jib")
    page.wait_for_timeout(400)
    page.screenshot(path=HERE / "bench-rest.png")


def _joint(page: Page, served: ServedLibrary) -> None:
    _open(page, served, heron.NAME)
    page.keyboard.press("r")
    _pick(page, "Body")
    page.keyboard.press("5")
    page.click("[data-tab=joint]")
    page.wait_for_timeout(700)
    page.screenshot(path=HERE / "bench-joint.png")


def _map_and_check(page: Page, served: ServedLibrary) -> None:
    mapped, card = (served.library.shelf.find(name) for name in (lantern.NAME, heron.NAME))
    assert mapped is not None
    assert card is not None
    page.goto(f"{served.address}/scenes/{mapped.id}/map")
    page.wait_for_timeout(500)
    page.screenshot(path=HERE / "map.png")
    kept = served.library.scenes.load(card.id)
    part = {part.name: part.id for part in kept.scene.parts}
    wrong = [
        MoveBy((part["Upper neck"],), (6.0, 4.0)),
        SetValues((part["Head"],), {"turn.z": 52.0}, 40.0, past_limits=True),
        SetValues(("heron-helper",), {"scale.x": 1.2}),
    ]
    served.library.scenes.keep(card.id, kept.version, wrong, "Show what the check finds")
    page.goto(f"{served.address}/scenes/{card.id}/check")
    page.wait_for_timeout(500)
    page.screenshot(path=HERE / "check.png")
    served.library.scenes.undo(card.id, kept.version + 1)
    page.goto(f"{served.address}/docs/edits")
    page.wait_for_timeout(300)
    page.screenshot(path=HERE / "docs.png")


def _import(page: Page, served: ServedLibrary) -> None:
    served.library.scenes.create(Scene("lock", "The lock", ground="#e3edf0"))
    page.goto(f"{served.address}/scenes/lock")
    page.wait_for_selector("[data-ready=true]")
    with page.expect_file_chooser() as chooser:
        page.click("text=Bring in")
    chooser.value.set_files(ART / "heron.svg")
    page.wait_for_selector("dialog[open] [data-import=layers] li >> nth=27")
    page.wait_for_timeout(500)
    page.screenshot(path=HERE / "import.png")


def _art(page: Page, served: ServedLibrary) -> None:
    _open(page, served, dock_crane.NAME)
    page.keyboard.press("r")
    page.keyboard.press("/")
    page.keyboard.type("add text")
    page.keyboard.press("Enter")
    page.wait_for_timeout(500)
    page.click("[data-tab=art]")
    page.wait_for_timeout(700)
    page.screenshot(path=HERE / "bench-art.png")


if __name__ == "__main__":
    main()
