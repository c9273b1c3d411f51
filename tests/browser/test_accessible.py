from pathlib import Path

from axe_playwright_python.sync_playwright import Axe

from heron_lock import quay_crate
from tests.browser.test_bench import DemoTestCase
from tests.strategies import some

ART = [Path(__file__).parents[1] / "art" / f"{name}.svg" for name in ("opacity", "masks", "hidden-layers")]


class AccessibleTests(DemoTestCase):
    """Every page against the rules of axe, a general checker of WCAG 2.2 and ARIA."""

    def rules_broken(self, within=None):
        """What breaks a rule on the page, or in the one element that is shown for a selector."""
        self.settled()
        # A rule that is not on by itself: the name that is spoken holds the words that are shown (WCAG 2.5.3).
        # What holds is not listed: for a page of 2,400 elements that takes twice as long as finding it.
        options = {"rules": {"label-content-name-mismatch": {"enabled": True}}, "resultTypes": ["violations"]}
        violations = Axe().run(self.page, context=within, options=options).response["violations"]
        return [
            (broken["id"], node["html"][:120])
            for broken in violations
            if broken["impact"] in ("serious", "critical") or broken["id"] == "page-has-heading-one"
            for node in broken["nodes"]
        ]

    def open_crate(self):
        """A small scene: the checker reads the whole page, whatever it is asked about."""
        self.open_bench(self.served.library.shelf.find(quay_crate.NAME).id)

    def test_pages(self):
        scene = f"/scenes/{self.heron}"
        guide = ("/guide", "/guide/reach")
        for path in ("/", *guide, f"{scene}/check", f"{scene}/map", f"{scene}/send", "/docs/edits", "/scenes/none"):
            self.page.goto(self.served.address + path)
            # Of a page of eighty sections that one loop makes, five: all of them take as long as all other pages.
            self.page.evaluate(
                "document.querySelectorAll('main > section:nth-of-type(n + 6)').forEach((one) => one.remove())"
            )
            self.assertEqual(self.rules_broken(), [], path)
        self.errors.clear()  # the last page is one that is not found, which the browser notes

    def test_the_bench_with_nothing_and_with_a_part_picked_and_its_tabs(self):
        self.open_crate()
        self.assertEqual(self.rules_broken(), [])
        self.pick("Crate")
        for state, tabs in (("m", ("art", "place")), ("r", ("joint", "constraints"))):
            self.page.keyboard.press(state)
            self.assertEqual(self.rules_broken(), [], state)
            for tab in tabs:
                self.page.click(f"[data-tab={tab}]")
                self.assertEqual(self.rules_broken("[data-bench=card]"), [], f"{tab}, {state}")

    def test_dialogs(self):
        self.open_crate()
        with self.page.expect_file_chooser() as chooser:
            self.page.click("text=Bring in")
        chooser.value.set_files(ART)
        self.page.wait_for_selector("dialog[open] [data-import=layers] li", state="attached")
        self.assertEqual(self.rules_broken("dialog[open]"), [], "what comes in")
        self.page.keyboard.press("Escape")
        self.pick("Crate")
        for key in some(["?", "/", "Shift+M", "Shift+P", "Shift+Y"]):
            self.page.keyboard.press(key)
            self.assertEqual(self.page.locator("dialog[open]").count(), 1, key)
            self.assertEqual(self.rules_broken("dialog[open]"), [], key)
            self.page.keyboard.press("Escape")
