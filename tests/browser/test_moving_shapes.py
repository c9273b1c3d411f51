"""Shapes of the app's own in motion, as a user keys and plays them."""

from playwright.sync_api import expect

from jointed_crane.core.edits import applied
from jointed_crane.core.edits.pictures.making_shapes import AddShape
from jointed_crane.core.edits.time.keys import SetKeys
from jointed_crane.core.model.scene import Scene
from tests.browser.test_whole_way import BenchTestCase
from tests.core.test_shape_motion import SHAPES


class MovingShapeTests(BenchTestCase):
    def setUp(self):
        super().setUp()
        edits = [
            AddShape("sun", SHAPES["ellipse"], "Sun", (300, 200)),
            AddShape("reed", SHAPES["path"], "Reed", (500, 200)),
            SetKeys(("sun",), ("form.rx", "fill.r", "fill.g"), 0.0),
        ]
        self.served.library.scenes.create(applied(Scene("s", "Morning", length=49), edits))
        self.open_bench("s")
        self.page.keyboard.press("m")

    def picture(self, name):
        return self.page.locator(f'[data-part="{self.part(name).id}"] path:not([data-pick])')

    def test_colour_width_and_radius_are_keyed_where_they_are_changed_and_played(self):
        self.pick("Sun")
        self.page.get_by_role("tab", name="Art").click()
        self.go_to(24)
        field = self.page.get_by_role("textbox", name="Radius x")
        field.fill("40")
        field.press("Enter")
        self.settled()
        self.page.evaluate(
            """() => {
              const colour = document.querySelector("[data-paint=fill]");
              colour.value = "#a08060";
              colour.dispatchEvent(new Event("change", { bubbles: true }));
            }"""
        )
        self.settled()
        channels = self.part("Sun").channels
        self.assertEqual(channels["form.rx"].key_at(24).value, 15)
        self.assertEqual([channels[f"fill.{letter}"].key_at(24).value for letter in "rg"], [128, 64])
        self.assertNotIn("fill.b", channels, "blue stays as it is, so it gets no key")
        expect(self.page.locator("[data-art=form] .field-keyed input")).to_have_attribute("aria-label", "Radius x")
        self.assertEqual(self.part("Sun").drawings[0].shape, SHAPES["ellipse"])
        self.assertEqual(field.input_value(), "40")
        labels = self.page.locator("[data-time=picture] > text")
        self.assertIn("Radius x", "".join(labels.all_text_contents()))
        self.go_to(12)
        expect(self.picture("Sun")).to_have_attribute("fill", "#606060")
        shown = self.picture("Sun").get_attribute("d")
        self.page.evaluate("window.paths = new Set()")
        self.page.evaluate(
            """() => {
              const path = document.querySelector('[data-part="sun"] path:not([data-pick])');
              new MutationObserver(() => window.paths.add(path.getAttribute("d"))).observe(path, { attributes: true });
            }"""
        )
        self.press("Shift+G")
        ghosts = self.page.locator("[data-bench=ghosts] path")
        expect(ghosts).to_have_count(4)
        self.assertEqual(len({*(ghost.get_attribute("d") for ghost in ghosts.all()), shown}), 5, "it grows")
        self.press("Shift+G", "Home", " ")
        self.page.wait_for_timeout(900)
        self.press(" ")
        self.assertGreater(self.page.evaluate("window.paths.size"), 5)
        self.press("r")
        expect(self.picture("Sun")).to_be_hidden()
        self.press("m")
        self.go_to(12)
        self.assertEqual(self.picture("Sun").get_attribute("d"), shown)

    def test_a_node_is_dragged_in_motion_and_shown_meanwhile(self):
        self.pick("Reed")
        self.go_to(12)
        self.press("8")
        x, y = self.at('[data-path-node=point][data-node-index="2"]')
        self.drag((x, y), (x + 20, y + 12), release=False)
        expect(self.picture("Reed")).to_be_visible()
        self.page.mouse.up()
        self.settled()
        channels = self.part("Reed").channels
        self.assertEqual(sorted(channels), ["node.2.x", "node.2.y"])
        self.assertGreater(channels["node.2.x"].key_at(12).value, 5)
        moved = self.at('[data-path-node=point][data-node-index="2"]')
        self.assertAlmostEqual(moved[0], x + 20, delta=1.5)
        self.press("Control+z")
        self.assertEqual(self.part("Reed").channels, {})
