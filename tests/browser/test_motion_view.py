"""Curves, footholds and what is seen of motion, as a user does it on the bench."""

import numpy as np
from playwright.sync_api import expect

from jointed_crane.core.measures.drift import contact_speeds
from jointed_crane.core.model.scene import Drawing, Part, Scene
from jointed_crane.core.motion.channel import Channel, Key
from tests.browser.test_whole_way import BenchTestCase

_CRATE = (
    b'<svg xmlns="http://www.w3.org/2000/svg" width="100" height="60">'
    b'<rect width="100" height="60" fill="#b4694d"/></svg>'
)


class MotionTestCase(BenchTestCase):
    """A crate that lies on the ground and moves, and an arm that turns."""

    def setUp(self):
        super().setUp()
        (art,) = self.served.library.assets.put([("image/svg+xml", _CRATE)])
        box = (0.0, 0.0, 100.0, 60.0)
        ring = ((0.0, 0.0), (100.0, 0.0), (100.0, 60.0), (0.0, 60.0))
        drawing = Drawing("crate", "crate", art, box, box, outline=(ring,))
        crate = Part(
            "crate", "Crate", drawings=(drawing,), pivot=(50.0, 30.0, 0.0), rest={"move.x": 300, "move.y": 400}
        )
        slide = Channel((Key(0.0, 0.0), Key(24.0, 120.0)))
        arm = Part("arm", "Arm", channels={"turn.z": Channel((Key(0.0, 0.0), Key(24.0, 90.0), Key(48.0, 0.0)))})
        self.served.library.scenes.create(
            Scene("s", "Quay", length=97, parts=(crate.with_channel("move.x", slide), arm))
        )
        self.open_bench("s")
        self.page.keyboard.press("m")

    def turns(self, name="Arm"):
        return self.part(name).channels["turn.z"].keys


class CurveViewTests(MotionTestCase):
    def setUp(self):
        super().setUp()
        self.pick("Arm")
        self.page.locator("[data-view=curves]").click()
        expect(self.page.locator("[data-curve-key]")).to_have_count(3)

    def curve_key(self, frame):
        return self.page.locator(f'[data-curve-key="turn.z@{frame}"]')

    def test_a_key_is_dragged_in_time_and_value_and_shown_meanwhile(self):
        x, y = self.at('[data-curve-key="turn.z@24"]')
        self.drag((x, y), (x + 60, y + 30), release=False)
        line = self.page.locator('path.curve-line[stroke-width="2"]')
        before = line.get_attribute("d")
        self.page.mouse.move(x + 60, y + 45)
        self.settled()
        self.assertNotEqual(line.get_attribute("d"), before)
        self.page.mouse.up()
        self.settled()
        key = self.turns()[1]
        self.assertGreater(key.frame, 24)
        self.assertLess(key.value, 90)
        self.assertTrue(key.frame.is_integer())
        self.press("Control+z")
        self.assertEqual((self.turns()[1].frame, self.turns()[1].value), (24, 90))

    def test_a_handle_is_dragged_and_its_partner_stays_in_line(self):
        self.curve_key(24).click()
        self.drawn()
        x, y = self.at("[data-handle=out]")
        self.drag((x, y), (x + 25, y + 30))
        key = self.turns()[1]
        self.assertLess(key.handle_out[1], 0)
        slopes = [handle[1] / handle[0] for handle in (key.handle_in, key.handle_out)]
        self.assertAlmostEqual(slopes[0], slopes[1], 6)
        self.page.locator("[data-handle=out]").focus()
        self.press("Alt+ArrowDown")
        key = self.turns()[1]
        self.assertNotAlmostEqual(key.handle_in[1] / key.handle_in[0], key.handle_out[1] / key.handle_out[0], 3)

    def test_escape_leaves_a_drag_of_a_curve(self):
        x, y = self.at('[data-curve-key="turn.z@24"]')
        self.drag((x, y), (x + 60, y + 30), release=False)
        self.page.keyboard.press("Escape")
        self.page.mouse.up()
        self.settled()
        self.assertEqual((self.turns()[1].frame, self.turns()[1].value), (24, 90))

    def test_a_ready_shape_and_what_follows_the_keys_come_from_the_menu_by_keyboard(self):
        self.curve_key(0).focus()
        self.press("Enter")
        self.page.locator("[data-time=shape]").focus()
        self.page.keyboard.press("Enter")
        self.page.get_by_role("menuitem", name="Bounce").focus()
        self.press("Enter")
        self.assertEqual(len(self.turns()), 6)
        self.page.locator("[data-time=shape]").click()
        self.page.locator("[data-outside=after]").select_option("repeat onwards")
        self.settled()
        self.assertEqual(self.part("Arm").channels["turn.z"].after, "repeat onwards")
        self.press("Escape", "Control+z", "Control+z")
        self.assertEqual([key.frame for key in self.turns()], [0, 24, 48])

    def test_time_is_seen_nearer_and_whole_again(self):
        def reach():
            return self.at('[data-curve-key="turn.z@24"]')[0] - self.at('[data-curve-key="turn.z@0"]')[0]

        wide = reach()
        self.command("Zoom time in")
        self.assertGreater(reach(), 1.4 * wide)
        self.command("Zoom time to all")
        self.assertAlmostEqual(reach(), wide, delta=1)
        self.page.locator("[data-view=speeds]").click()
        self.drawn()
        expect(self.page.locator("[data-curve-key]")).to_have_count(0)
        expect(self.page.locator('path.curve-line[stroke-width="1.8"]')).to_have_count(1)

    def test_a_sway_is_given_and_turned_into_keys(self):
        self.press("Shift+Y")
        self.page.get_by_role("button", name="Let it sway").click()
        self.settled()
        self.assertEqual(self.part("Arm").channels["turn.z"].sway.amount, 5)
        self.press("/")
        self.page.keyboard.type("into keys")
        self.press("Enter")
        self.page.get_by_role("button", name="Make keys").click()
        self.settled()
        channel = self.part("Arm").channels["turn.z"]
        self.assertIsNone(channel.sway)
        self.assertGreater(len(channel.keys), 4)

    def test_a_part_is_laid_between_its_keys(self):
        self.go_to(12)
        self.press("z")
        self.page.get_by_label("Share of the way in percent").fill("25")
        expect(self.page.locator("dialog[open] [data-sheet=list]")).to_contain_text("22.5")
        self.page.get_by_role("button", name="Lay it there").click()
        self.settled()
        self.assertEqual([(key.frame, key.value) for key in self.turns()][1], (12, 22.5))


class FootholdTests(MotionTestCase):
    def setUp(self):
        super().setUp()
        self.pick("Crate")

    def stands(self):
        return [foothold.frame for foothold in self.part("Crate").footholds]

    def roll(self, corners):
        self.go_to(24)
        self.press("Shift+R")
        self.page.get_by_label("Number of corners").fill(str(corners))
        self.page.locator("dialog[open] [name=until]").fill("72")
        expect(self.page.locator("dialog[open] [data-sheet=list] li")).to_have_count(corners + 1)
        self.page.get_by_role("button", name="Roll it").click()
        self.settled()

    def test_a_crate_tumbles_over_three_corners_and_never_slips(self):
        self.roll(3)
        self.assertEqual(self.stands(), [24, 40, 56])
        self.assertEqual(self.part("Crate").channels["turn.z"].keys[-1].value, 270)
        self.assertLess(max(contact_speeds(self.scene(), "crate", np.arange(97.0))), 1e-6)
        self.press("Control+z")
        self.assertEqual(self.stands(), [])

    def test_a_foothold_is_dragged_in_time_and_deleted(self):
        self.roll(2)
        x, y = self.at("[data-stand='48']")
        step = (self.at("[data-stand='48']")[0] - self.at("[data-stand='24']")[0]) / 24
        self.drag((x, y), (x + 4 * step, y))
        self.assertEqual(self.stands(), [24, 52])
        self.press("Delete")
        self.assertEqual(self.stands(), [24])
        self.press("Control+z")
        # Off its turns the crate sinks; the sheet says so and puts the footholds back onto them.
        self.command("Watch a point")
        said = self.page.locator("dialog[open] [data-sheet=list]")
        expect(said).to_contain_text("below its level")
        self.page.get_by_role("button", name="Footholds on its turns").click()
        expect(said).to_contain_text("on its level")
        self.press("Escape")
        self.assertEqual(self.stands(), [24, 48])
        self.press("Control+z", "Control+z")
        self.assertEqual(self.stands(), [24, 48])

    def test_footholds_within_a_box_are_picked_with_the_keys_dragged_with_them_and_deleted(self):
        self.roll(2)
        left, right = (self.page.locator(f"[data-stand='{frame}']").bounding_box() for frame in (24, 48))
        last = self.page.locator("[data-key='turn.z@72']").bounding_box()
        step = (right["x"] - left["x"]) / 24
        self.drag((left["x"] - 8, left["y"] - 2), (last["x"] + 20, last["y"] + 14))
        x, y = self.at("[data-stand='24']")
        self.drag((x, y), (x + 6 * step, y))
        self.assertEqual(self.stands(), [30, 54])
        self.assertEqual([key.frame for key in self.part("Crate").channels["turn.z"].keys], [30, 54, 78])
        self.press("Delete")
        self.assertEqual((self.stands(), list(self.part("Crate").channels)), ([], ["move.x"]))
        self.press("Control+z", "Control+z")
        self.assertEqual(self.stands(), [24, 48])

    def test_a_first_key_keeps_what_came_before_unless_that_is_switched_off(self):
        self.page.set_viewport_size({"width": 1500, "height": 800})
        self.go_to(24)
        self.page.locator('[data-channel="scale.x"] input').fill("1.5")
        self.page.keyboard.press("Enter")
        self.settled()
        self.assertIn("Scale x of Crate keeps what it was before", self.page.inner_text("#notices"))
        self.assertEqual([key.frame for key in self.part("Crate").channels["scale.x"].keys], [0, 24])
        self.page.get_by_role("button", name="Undo").click()
        self.settled()
        self.assertNotIn("scale.x", self.part("Crate").channels)
        self.page.get_by_role("button", name="keeps before").click()
        self.page.locator('[data-channel="scale.x"] input').fill("1.5")
        self.page.keyboard.press("Enter")
        self.settled()
        self.assertEqual([key.frame for key in self.part("Crate").channels["scale.x"].keys], [24])

    def test_a_part_stands_on_the_point_that_is_pressed_from_this_frame_on(self):
        self.go_to(24)
        self.press("9")
        right = self.page.locator("[data-bench=over] path.stroke-lagoon").first.bounding_box()
        self.page.mouse.click(right["x"] + right["width"] - 4, right["y"] + right["height"] - 4)
        self.settled()
        (foothold,) = self.part("Crate").footholds
        self.assertEqual((foothold.frame, foothold.point), (24, (100, 60, 0)))
        expect(self.page.locator("[data-foothold]")).to_have_count(1)
        self.press("ArrowLeft")
        self.assertEqual(self.part("Crate").footholds[0].point, (99, 60, 0))

    def test_parts_appear_at_a_frame(self):
        self.go_to(24)
        self.press("/")
        self.page.keyboard.type("appear")
        self.press("Enter")
        shown = self.part("Crate").channels["shown"].keys
        self.assertEqual([(key.frame, key.value) for key in shown], [(0, 0), (24, 1)])


class SeeingTests(MotionTestCase):
    def test_onion_skin_and_arcs_are_seen_and_left_alone_while_playing(self):
        self.pick("Crate")
        self.go_to(12)
        self.press("Shift+G", "Shift+Z")
        expect(self.page.locator("[data-bench=ghosts] path")).to_have_count(4)
        expect(self.page.locator("[data-bench=arcs] path").first).to_be_attached()
        expect(self.page.locator("[data-arc-key]")).to_have_count(2)
        x, y = self.at("[data-arc-key='24']")
        self.drag((x, y), (x + 30, y), release=False)
        self.page.keyboard.press("Escape")
        self.page.mouse.up()
        self.settled()
        self.assertEqual(self.part("Crate").channels["move.x"].keys[-1].value, 120)
        self.assertEqual(self.at("[data-arc-key='24']"), (x, y))
        self.drag((x, y), (x + 30, y))
        self.assertGreater(self.part("Crate").channels["move.x"].keys[-1].value, 140)
        self.press(" ")
        expect(self.page.locator("[data-bench=ghosts] path")).to_have_count(0)
        self.press(" ", "Shift+G", "Shift+Z")
        expect(self.page.locator("[data-bench=arcs] path")).to_have_count(0)

    def test_a_loop_is_measured_and_a_point_is_watched(self):
        self.pick("Crate")
        self.press("/")
        self.page.keyboard.type("check the loop")
        self.press("Enter")
        expect(self.page.locator("dialog[open] li").first).to_contain_text("120 px")
        self.press("Escape")
        self.command("Watch a point")
        expect(self.page.locator("dialog[open] li").nth(1)).to_contain_text("120 px")

    def test_another_rate_keeps_the_seconds_of_the_keys(self):
        self.page.locator("h1 button").click()
        dialog = self.page.locator("dialog[open]")
        expect(dialog.locator("[name=length]")).to_have_value("97")
        dialog.locator("[name=fps]").select_option("12/1")
        dialog.get_by_role("button", name="Keep").click()
        self.settled()
        self.assertEqual([key.frame for key in self.turns()], [0, 12, 24])
        self.assertEqual((self.scene().fps, self.scene().length), ((12, 1), 48))
