import unittest
from dataclasses import replace

from playwright.sync_api import expect

from jointed_crane.core.measures.seam import seams
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.motion.channel import Channel, Key
from tests.browser.test_whole_way import BenchTestCase

KEYS = (Key(0.0, 0.0), Key(6.0, 40.0), Key(12.0, 0.0))


class TimeTestCase(BenchTestCase):
    """Three posts, of which one has keys."""

    def setUp(self):
        super().setUp()
        posts = [Part(name, name, rest={"move.x": 100.0 * number}) for number, name in enumerate(("A", "B", "C"))]
        posts[0] = posts[0].with_channel("turn.z", Channel(KEYS))
        self.served.library.scenes.create(Scene("s", "Posts", length=96, parts=tuple(posts)))
        self.open_bench("s")
        self.pick("A")
        self.page.keyboard.press("m")

    def key(self, frame):
        return self.page.locator(f'[data-key="turn.z@{frame:g}"]')

    def pick_keys(self, *frames):
        self.key(frames[0]).click()
        for frame in frames[1:]:
            self.key(frame).click(modifiers=["Shift"])
        self.drawn()

    def frames(self, name="A"):
        channel = self.part(name).channels.get("turn.z")
        return [key.frame for key in channel.keys] if channel else []


class KeyCommandTests(TimeTestCase):
    def test_a_hold_pushes_what_follows_easing_opens_on_a_key_and_a_curve_is_hidden_by_its_colour(self):
        self.go_to(9)
        self.command("what follows comes later")
        self.assertEqual(self.frames(), [0, 6, 9, 15])
        self.key(9).click(button="right")
        easing = self.page.locator("#shapes")
        expect(easing).to_be_visible()
        easing.locator("[data-outside=after]").select_option("repeat")
        self.page.keyboard.press("Escape")
        self.settled()
        self.assertEqual(self.part("A").channels["turn.z"].after, "repeat")
        self.press("Shift+C")
        curve = self.page.locator("g.curve")
        expect(curve).to_have_count(1)
        self.page.get_by_role("button", name="Hide Turn").click()
        expect(curve).to_have_count(0)
        self.page.get_by_role("button", name="Show Turn").press("Enter")
        expect(curve).to_have_count(1)

    def test_picked_keys_are_copied_and_pasted_at_the_frame_and_onto_other_parts(self):
        self.pick_keys(0, 6, 12)
        self.press("Control+c")
        expect(self.page.locator(".notice").last).to_contain_text("3 keys are copied")
        self.go_to(24)
        self.press("Control+v")
        self.assertEqual(self.frames(), [0, 6, 12, 24, 30, 36])
        self.assertEqual(self.page.locator("[data-key].stroke-coral").count(), 3, "what was pasted is picked")
        self.row("B").click()
        self.row("C").click(modifiers=["Control"])
        self.press("Control+v")
        self.assertEqual((self.frames("B"), self.frames("C")), ([24, 30, 36], [24, 30, 36]))
        self.press("Control+z", "Control+z")
        self.assertEqual((self.frames(), self.frames("B")), ([0, 6, 12], []))

    def test_parts_are_pasted_where_parts_were_copied_last(self):
        self.pick_keys(0)
        self.press("Control+c")
        self.pick("B")
        self.press("Control+c", "Control+v")
        self.assertEqual(len(self.scene().parts), 4)

    def test_picked_keys_are_stretched_to_the_frame_and_stay_picked(self):
        self.pick_keys(0, 6, 12)
        self.go_to(36)
        self.press("Shift+S")
        self.assertEqual(self.frames(), [0, 18, 36])
        self.assertEqual(self.page.locator("[data-key].stroke-coral").count(), 3)
        self.press("Control+z")
        self.assertEqual(self.frames(), [0, 6, 12])

    def test_picked_keys_are_reversed(self):
        self.pick_keys(6, 12)
        self.command("Reverse picked keys")
        found = [(key.frame, key.value) for key in self.part("A").channels["turn.z"].keys]
        self.assertEqual(found, [(0, 0), (6, 0), (12, 40)])

    def test_a_pause_is_held_until_the_frame(self):
        self.go_to(20)
        self.press("s")
        found = [(key.frame, key.value, key.kind) for key in self.part("A").channels["turn.z"].keys[2:]]
        self.assertEqual(found, [(12, 0, "hold"), (20, 0, "eased")])
        self.pick("B")
        self.press("s")
        expect(self.page.locator(".notice-refusal").last).to_contain_text("No key stands before frame 20")

    def test_a_box_picks_the_keys_in_it_and_more_with_shift(self):
        picked = self.page.locator("[data-key].stroke-coral")
        (x0, y), (x6, _), (x12, _) = (self.at(f'[data-key="turn.z@{frame}"]') for frame in (0, 6, 12))
        self.drag((x6 - 20, y + 14), (x12 + 20, y - 8))
        self.assertEqual(picked.count(), 2)
        self.page.keyboard.down("Shift")
        self.drag((x0 - 12, y + 14), (x0 + 12, y))
        self.page.keyboard.up("Shift")
        self.assertEqual(picked.count(), 3)
        self.page.mouse.click(x12 + 80, y)
        self.drawn()
        self.assertEqual(picked.count(), 0)
        self.drag((x6 - 20, y + 14), (x12 + 20, y - 8), release=False)
        self.page.keyboard.press("Escape")
        self.page.mouse.up()
        self.assertEqual(picked.count(), 0)

    def test_escape_leaves_a_drag_of_keys_and_their_row_as_it_was(self):
        x, y = self.at('[data-key="turn.z@6"]')
        self.drag((x, y), (x + 40, y), release=False)
        expect(self.key(6)).to_have_count(0)
        self.page.keyboard.press("Escape")
        self.page.mouse.up()
        expect(self.key(6)).to_have_count(1)
        self.assertEqual(self.frames(), [0, 6, 12])

    def test_a_row_and_a_frame_pick_their_keys(self):
        picked = self.page.locator("[data-key].stroke-coral")
        self.page.locator("[data-time=picture] text", has_text="Turn").click()
        self.drawn()
        self.assertEqual(picked.count(), 3)
        self.go_to(6)
        self.press("Shift+D")
        self.assertEqual(picked.count(), 1)
        self.assertEqual(picked.first.get_attribute("data-key"), "turn.z@6")

    def test_keys_are_left_with_their_part(self):
        self.pick_keys(0)
        self.pick("B")
        self.press("Delete")
        self.assertEqual([part.name for part in self.scene().parts], ["A", "C"])
        self.assertEqual(self.frames(), [0, 6, 12])

    def test_easing_shows_what_it_can_do_with_what_is_picked(self):
        menu = self.page.locator("#shapes")
        shape, like = (menu.get_by_role("menuitem", name=name) for name in ("Soft start", "Like the key picked last"))
        opens = self.page.locator("[data-time=shape]")

        def shown():
            opens.click()
            expect(menu).to_be_visible()
            state = (shape.is_enabled(), like.is_enabled(), menu.locator("[data-time=no-keys]").is_visible())
            self.press("Escape")
            return state

        self.press("Escape")
        self.pick("A")
        self.assertEqual(shown(), (False, False, True))
        self.pick_keys(0)
        self.assertEqual(shown(), (True, False, False))
        self.pick_keys(0, 6)
        self.assertEqual(shown(), (True, True, False))
        opens.click()
        menu.locator("[data-outside=after]").select_option("repeat")
        self.settled()
        self.press("Escape")
        self.row("C").click()
        opens.click()
        self.assertEqual(
            menu.locator("[data-outside=after]").evaluate("(box) => box.selectedOptions[0].text"), "no keys"
        )

    def test_without_a_picked_key_it_is_said_what_to_do(self):
        self.page.keyboard.press("Escape")
        self.pick("A")
        for key in ("Shift+S", "<"):
            self.press(key)
            expect(self.page.locator(".notice").last).to_contain_text("No key is picked")


class StaggerTests(TimeTestCase):
    def setUp(self):
        super().setUp()
        self.pick_keys(0, 6, 12)
        self.press("Control+c")
        self.go_to(0)
        self.row("B").click()
        self.row("C").click(modifiers=["Control"])
        self.press("Control+v")
        for name, more in (("C", False), ("B", True), ("A", True)):
            self.row(name).click(modifiers=["Control"] if more else [])
        self.drawn()

    def test_parts_follow_each_other_as_the_sheet_says(self):
        self.command("Stagger in time")
        sheet = self.page.locator("dialog[data-bench=stagger]")
        sheet.get_by_label("How much later").fill("75")
        sheet.get_by_label("Frames or share of the move").select_option("share")
        sheet.get_by_label("Order").select_option("across")
        self.settled()
        self.assertEqual(
            sheet.locator("li").all_inner_texts(), ["A\nfrom frame 0", "B\nfrom frame 9", "C\nfrom frame 18"]
        )
        self.assertEqual(self.frames("C"), [0, 6, 12], "nothing is kept yet")
        sheet.get_by_role("button", name="Stagger").click()
        self.settled()
        self.assertEqual(
            (self.frames("A"), self.frames("B"), self.frames("C")), ([0, 6, 12], [9, 15, 21], [18, 24, 30])
        )
        self.press("Control+z")
        self.assertEqual(self.frames("C"), [0, 6, 12])

    def test_leaving_the_sheet_leaves_everything(self):
        self.command("Stagger in time")
        self.page.locator("dialog[data-bench=stagger]").get_by_label("How much later").fill("9")
        self.settled()
        self.press("Escape")
        self.assertEqual(self.frames("A"), [0, 6, 12])
        self.assertEqual(self.page.locator('[data-key="turn.z@9"]').count(), 0)


class WholeTurnTests(TimeTestCase):
    def test_two_turns_anticlockwise_until_a_frame(self):
        self.pick("B")
        self.go_to(12)
        self.press("Shift+W")
        sheet = self.page.locator("dialog[data-bench=turns]")
        sheet.get_by_label("Number of turns").fill("2")
        sheet.get_by_label("Which way").select_option("anticlockwise")
        sheet.get_by_label("until frame").fill("12 + 48")
        self.settled()
        self.assertEqual(sheet.locator("li").all_inner_texts(), ["B\nreads −720° at frame 60"])
        self.press("Enter")
        found = [(key.frame, key.value) for key in self.part("B").channels["turn.z"].keys]
        self.assertEqual(found, [(12, 0), (60, -720)])
        self.assertIn("2 turns anticlockwise", self.page.get_by_role("button", name="Undo").get_attribute("title"))

    def test_several_parts_sway_one_after_the_other_and_close_on_the_length(self):
        self.pick("A")
        self.row("B").click(modifiers=["Control"])
        self.press("Shift+Y")
        sheet = self.page.locator("dialog[data-bench=sway]")
        sheet.get_by_label("Period").fill("13")
        sheet.get_by_label("Irregular").fill("0.5")
        sheet.get_by_label("Each later by").fill("1/4")
        sheet.get_by_label("Closes on the length").check()
        sheet.get_by_role("button", name="Let it sway").click()
        self.settled()
        one, other = (self.part(name).channels["turn.z"].sway for name in "AB")
        self.assertEqual((one.phase, other.phase), (0, -0.25))
        self.assertNotEqual(one.seed, other.seed)
        length = self.scene().length - 1
        self.assertEqual(one.comes_round, length)
        bare = replace(
            self.scene(),
            parts=tuple(
                part.with_channels({"turn.z": replace(part.channels["turn.z"], keys=())})
                for part in self.scene().parts
                if part.name in "AB"
            ),
        )
        self.assertLess(max(seam.degrees for seam in seams(bare)), 1e-9)

    def test_a_turn_that_ends_before_it_begins_is_refused_in_the_sheet(self):
        self.go_to(12)
        self.press("Shift+W")
        sheet = self.page.locator("dialog[data-bench=turns]")
        sheet.get_by_label("until frame").fill("3")
        self.settled()
        expect(sheet.locator("[data-sheet=problem]")).to_contain_text("from an earlier frame to a later one")


if __name__ == "__main__":
    unittest.main()
