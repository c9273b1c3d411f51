from heron_lock.build import DEMO_SCENES
from heron_lock.heron import NAME as HERON
from tests.browser.test_whole_way import BenchTestCase


class ShelfCase(BenchTestCase):
    """The shelf, by mouse and by keyboard."""

    def names(self):
        return [card.name for card in self.served.library.shelf.cards()]

    def acted(self, act):
        """Do something that loads the shelf anew."""
        with self.page.expect_navigation():
            act()
        self.settled()


class ShelfTests(ShelfCase):
    def test_an_empty_shelf_offers_the_demo(self):
        page = self.page
        page.goto(self.served.address)
        self.assertEqual(page.locator("h2:visible").all_inner_texts(), ["The shelf is empty"])
        self.acted(lambda: page.click("text=put the demo scenes on the shelf"))
        self.assertEqual(self.names(), [scene.NAME for scene in reversed(DEMO_SCENES)])
        # Each thumbnail is a picture the browser could draw.
        widths = page.eval_on_selector_all("li.card img", "pictures => pictures.map(picture => picture.naturalWidth)")
        self.assertEqual(widths, [1280] * len(DEMO_SCENES))

    def test_new_rename_duplicate_delete_and_undo_by_keyboard(self):
        page = self.page
        page.goto(self.served.address)
        page.keyboard.press("n")
        page.fill("dialog[open] input[name=name]", "Weathervane")
        page.fill("dialog[open] input[name=width]", "800")
        page.select_option("dialog[open] select", "12/1")
        page.keyboard.press("Enter")
        page.wait_for_selector("[data-ready=true]")
        self.assertEqual((self.scene().name, self.scene().width, self.scene().fps), ("Weathervane", 800, (12, 1)))
        self.assertIn("Drop a layered drawing here", page.inner_text("main"))
        page.goto(self.served.address)
        page.keyboard.press("ArrowRight")
        page.keyboard.press("r")
        page.fill("dialog[open] input[name=name]", "Vane")
        self.acted(lambda: page.keyboard.press("Enter"))
        page.keyboard.press("ArrowRight")
        self.acted(lambda: page.keyboard.press("d"))
        self.assertEqual(self.names(), ["Vane copy", "Vane"])
        page.keyboard.press("ArrowRight")
        self.acted(lambda: page.keyboard.press("Delete"))
        self.assertEqual(self.names(), ["Vane"])
        self.assertIn("Undo: “Delete Vane copy”", page.inner_text("footer"))
        self.acted(lambda: page.keyboard.press("Control+z"))
        self.assertEqual(self.names(), ["Vane copy", "Vane"])
        self.acted(lambda: page.keyboard.press("Control+Shift+z"))
        self.assertEqual(self.names(), ["Vane"])


class FullShelfTests(ShelfCase):
    has_demo = True

    def test_a_cards_menu_and_what_is_refused(self):
        page = self.page
        page.goto(self.served.address)
        page.locator("[aria-label^='More for']").last.click()
        menu = page.locator("[role=menu]:visible")
        box = menu.bounding_box()
        self.assertLessEqual(box["y"] + box["height"], page.viewport_size["height"], "whole on the page")
        page.keyboard.press("Escape")
        menu.wait_for(state="hidden")
        page.click(f'[aria-label="More for {HERON}"]')
        with page.expect_download() as download:
            page.click("text=Send out: Zip of the scene")
        self.assertEqual(download.value.suggested_filename, "heron-on-the-sill.zip")
        page.set_input_files("input[type=file]", download.value.path())
        page.wait_for_selector("[data-ready=true]")
        self.assertEqual((self.scene().name, len(self.scene().parts)), (HERON, 29))
        page.goto(self.served.address)
        page.set_input_files("input[type=file]", {"name": "a.png", "mimeType": "image/png", "buffer": b"no picture"})
        page.wait_for_selector(".notice-refusal")
        self.assertIn("a.png is neither", page.inner_text(".notice-refusal"))
        self.assertEqual(len(self.names()), 9)
