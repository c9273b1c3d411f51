"""Beside the stage: numbers and names that are typed and dragged, tabs, and the marks that say how things are."""

import numpy as np
from playwright.sync_api import expect

from jointed_crane.core.edits.scene.stage import RenameScene
from jointed_crane.core.model.scene import Part, Scene
from tests.browser.test_bench import DemoTestCase
from tests.browser.test_whole_way import BenchTestCase


class FieldTests(DemoTestCase):
    def test_a_number_is_dragged_stepped_and_brought_home(self):
        self.open_bench(self.heron)
        self.page.keyboard.press("r")
        self.pick("Wing")
        field = '[data-channel="turn.z"]'
        x, y = self.at(f"{field} .unit")
        self.drag((x, y), (x + 30, y))
        self.assertAlmostEqual(self.part("Wing").rest_value("turn.z"), 15.0)
        self.page.focus(f"{field} input")
        self.page.keyboard.press("ArrowUp")
        self.page.keyboard.press("Shift+ArrowUp")
        self.page.keyboard.press("Alt+ArrowDown")
        self.settled()
        self.assertAlmostEqual(self.part("Wing").rest_value("turn.z"), 25.9)
        self.page.dblclick(f"{field} .unit")
        self.settled()
        self.assertEqual(self.part("Wing").rest_value("turn.z"), 0.0)

    def test_escape_leaves_a_drag_of_a_number_and_of_a_bar_between_panels(self):
        self.open_bench(self.heron)
        self.page.keyboard.press("r")
        self.pick("Wing")
        x, y = self.at('[data-channel="turn.z"] .unit')
        self.drag((x, y), (x + 30, y), release=False)
        expect(self.page.locator('[data-channel="turn.z"] input')).to_have_value("15")
        self.page.keyboard.press("Escape")
        self.page.mouse.move(x + 60, y)
        self.page.mouse.up()
        self.settled()
        expect(self.page.locator('[data-channel="turn.z"] input')).to_have_value("0")
        self.assertEqual(self.part("Wing").rest_value("turn.z"), 0.0)
        self.assertEqual(self.page.locator(".tree-row[aria-selected=true]").count(), 1)
        bar = self.page.locator("[data-divides=column]")
        size = bar.get_attribute("aria-valuenow")
        x, y = self.at("[data-divides=column]")
        self.drag((x, y), (x + 20, y), release=False)
        self.assertNotEqual(bar.get_attribute("aria-valuenow"), size)
        self.page.keyboard.press("Escape")
        self.page.mouse.up()
        self.assertEqual(bar.get_attribute("aria-valuenow"), size)

    def test_what_is_under_the_pointer_is_shown_in_the_tree_and_on_the_stage(self):
        self.open_bench(self.heron)
        self.page.mouse.move(*self.on_screen(1167, 446))
        self.page.wait_for_selector('.tree-row.is-hovered:has-text("Reeds behind")')
        self.page.hover('[data-tree=name]:text-is("Head")')
        self.page.wait_for_selector('.tree-row.is-hovered:has-text("Head")')
        self.assertEqual(self.page.locator("[data-tree=list] .is-hovered").count(), 1)
        self.assertEqual(self.page.locator("[data-bench=over] path[vector-effect]").count(), 1)

    def test_escape_leaves_a_name_as_it_was(self):
        self.open_bench(self.heron)
        self.pick("Wing")
        version = self.served.library.scenes.load(self.heron).version
        self.page.fill("[data-card=name]", "Feather")
        self.page.press("[data-card=name]", "Escape")
        self.settled()
        self.assertEqual(self.page.input_value("[data-card=name]"), "Wing")
        self.assertEqual(self.served.library.scenes.load(self.heron).version, version)

    def test_copies_too_large_for_the_browsers_store_are_pasted_in_their_window(self):
        self.open_bench(self.heron)
        self.page.evaluate("localStorage.setItem('full', 'x'.repeat(5 * 1024 * 1024 - 500))")
        self.pick("Wing")
        self.page.focus("[data-bench=stage]")
        self.page.keyboard.press("Control+c")
        self.assertIn("too large", self.page.inner_text(".notice >> nth=-1"))
        self.page.keyboard.press("Control+v")
        self.settled()
        self.assertEqual(self.part("Wing 2").kind, "drawing")

    def test_tabs_are_chosen_by_arrow_keys(self):
        self.open_bench(self.heron)
        self.pick("Wing")
        self.page.focus("[role=tab][aria-selected=true]")
        for expected in ("Joint", "Art", "Constraints", "Place"):
            self.page.keyboard.press("ArrowRight")
            self.assertEqual(self.page.inner_text("[role=tab][aria-selected=true]"), expected)
            self.assertTrue(self.page.is_visible(f"[role=tabpanel][aria-labelledby=tab-{expected.lower()}]"))

    def test_the_hint_says_what_each_tool_does_and_how_near_the_stage_is(self):
        self.open_bench(self.heron)
        x, y = self.on_screen(1167, 446)  # the reeds, which nothing covers
        for digit, words in {
            "1": "click picks",
            "2": "turns it",
            "3": "shows its handles",
            "6": "places a helper",
        }.items():
            self.page.keyboard.press(digit)
            self.page.mouse.move(x, y)
            self.page.mouse.move(x + 2, y)
            self.assertIn(words, self.page.inner_text("[data-bench=hint]"))
        before = self.page.inner_text("[data-bench=place]")
        self.page.mouse.wheel(0, -400)
        self.page.wait_for_function(
            "before => document.querySelector('[data-bench=place]').textContent !== before", arg=before
        )

    def test_what_has_a_key_here_carries_the_brass_edge(self):
        self.open_bench(self.heron)
        self.pick("Lower neck")
        self.settled()
        keyed = "document.querySelector('[data-channel=\"turn.z\"]').classList.contains('field-keyed')"
        self.assertTrue(self.page.evaluate(keyed))
        self.page.keyboard.press(".")
        self.settled()
        self.assertFalse(self.page.evaluate(keyed))

    def test_an_edit_from_elsewhere_is_noticed_and_nothing_is_lost(self):
        self.open_bench(self.heron)
        self.page.keyboard.press("r")
        self.pick("Wing")
        known = self.served.library.scenes.load(self.heron)
        self.served.library.scenes.keep(self.heron, known.version, [RenameScene("From another window")])
        self.page.focus("[data-bench=stage]")
        self.page.keyboard.press("2")
        self.page.keyboard.press("ArrowRight")
        self.page.wait_for_selector(".notice-refusal")
        self.assertIn("changed meanwhile", self.page.inner_text(".notice-refusal"))
        self.settled()
        self.assertIn("From another window", self.page.inner_text("header"))
        self.page.keyboard.press("ArrowRight")
        self.settled()
        self.assertAlmostEqual(self.part("Wing").rest_value("turn.z"), 1.0)

    def test_helpers_are_placed_by_click_and_above_what_is_picked(self):
        self.open_bench(self.heron)
        self.page.keyboard.press("r")
        self.pick("Ripples")
        self.page.keyboard.press("6")
        self.page.mouse.click(*self.on_screen(300, 300))
        self.settled()
        helper = self.part("Helper")
        self.assertEqual((helper.kind, self.part("Ripples").parent), ("helper", helper.id))
        np.testing.assert_allclose([helper.rest_value("move.x"), helper.rest_value("move.y")], [300, 300], atol=0.5)
        self.page.keyboard.press("Delete")
        self.settled()
        self.assertIsNone(self.part("Ripples").parent)


class NumberTests(BenchTestCase):
    def test_arithmetic_is_read_as_people_write_it(self):
        self.served.library.scenes.create(Scene("s", "S", parts=(Part("a", "A"),)))
        self.open_bench("s")
        cases = {"45/2": 22.5, "-(3+4)*2": -14, "1 000 + .5": 1000.5, "−38,5°": -38.5, "2*-3": -6, "1e3": 1000}
        wrong = ["", "x", "1+", "(1", "1/0", "alert(1)", "1 2a"]
        found = self.page.evaluate(
            """async ([cases, wrong]) => {
              const { arithmetic } = await import(document.querySelector("link[href$='/fields.js']").href);
              return [cases.map(arithmetic), wrong.map(arithmetic)];
            }""",
            [list(cases), wrong],
        )
        self.assertEqual(found, [list(cases.values()), [None] * len(wrong)])

    def test_what_is_no_number_is_said_and_the_number_stays(self):
        self.served.library.scenes.create(Scene("s", "S", parts=(Part("a", "A"),)))
        self.open_bench("s")
        self.pick("A")
        field = self.page.get_by_label("Scale x", exact=True)
        for words in ("twice", "1e400"):
            field.fill(words)
            field.press("Enter")
            expect(self.page.locator(".notice-refusal").last).to_contain_text(
                f'"{words}" is not a number. Scale x stays 1.000'
            )
        self.assertEqual(field.input_value(), "1.000")
        self.assertEqual(self.scene().parts[0].rest, {})
