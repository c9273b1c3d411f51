"""A crate that is carried, a boat on a path, a hand that changes between reaching and turning, as a user makes them."""

import numpy as np
from playwright.sync_api import expect

from jointed_crane.core.edits import applied
from jointed_crane.core.edits.joints.joining import Join
from jointed_crane.core.edits.pictures.making_shapes import AddShape
from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.model.forms import Ellipse, Node, Paint, PenPath
from jointed_crane.core.model.scene import Scene
from jointed_crane.core.motion.channel import Channel, Key
from tests.browser.test_whole_way import BenchTestCase
from tests.core.test_shape_motion import SHAPES

WATER = Paint("", "#12706f", 6.0)
COURSE = PenPath(
    ((Node((0.0, 0.0), None, (200.0, -160.0)), Node((500.0, 40.0), (-200.0, 160.0))),), is_closed=False, paint=WATER
)


class CarryingTests(BenchTestCase):
    def setUp(self):
        super().setUp()
        places = {"Hook": (300, 150), "Crate": (320, 260), "Quay": (900, 500), "Upper arm": (500, 350),
                  "Fore arm": (600, 420), "Hand": (700, 350), "Boat": (200, 600)}  # fmt: skip
        edits = [AddShape(name, SHAPES["rectangle"], name, place) for name, place in places.items()]
        edits += [
            AddShape("Course", COURSE, "Course", (150, 620)),
            AddShape("Pond", Ellipse((0, 0), (90, 40), WATER), "Pond"),
        ]
        edits += [Join(("Fore arm",), "Upper arm"), Join(("Hand",), "Fore arm")]
        scene = applied(Scene("s", "Quay", length=49), edits)
        hook = scene.part("Hook")
        for name, far in (("move.x", 400.0), ("move.y", 120.0), ("turn.z", 30.0)):
            hook = hook.with_channel(name, Channel((Key(6.0, 0.0), Key(30.0, far))))
        self.served.library.scenes.create(scene.with_parts([hook]))
        self.open_bench("s")

    def pivot(self, name, frame=0.0):
        return evaluate(self.scene(), [frame]).pivot_of(self.part(name).id)[:2]

    def constrain(self, kind):
        self.page.get_by_role("tab", name="Constraints").click()
        self.page.select_option("[data-rule=kind]", kind)
        self.page.locator("[data-rule=add]").click()
        self.settled()

    def test_a_crate_goes_with_the_hook_and_is_put_down_on_the_quay(self):
        self.press("m")
        rest = self.pivot("Crate")
        self.go_to(8)
        self.pick("Hook")
        self.row("Crate").click(modifiers=["Control"])
        self.constrain("carry")
        self.go_to(28)
        self.page.get_by_role("button", name="Crate is put down at this frame").click()
        self.settled()
        np.testing.assert_allclose(self.pivot("Crate", 8.0), rest, atol=1e-9)
        carried = self.pivot("Crate", 28.0)
        self.assertGreater(float(np.hypot(*(carried - rest))), 200)
        np.testing.assert_allclose(self.pivot("Crate", 48.0), carried, atol=1e-9)
        self.pick("Crate")
        expect(self.page.locator("[data-change]")).to_have_count(2)
        expect(self.page.locator("[data-time=picture]")).to_contain_text("Hook")
        # The block's end is dragged: the hook puts it down later, without a jump there.
        x, y = self.at('[data-change="28"]')
        self.drag((x, y), (x + 60, y))
        frame = self.part("Crate").constraints[0].holds[1].frame
        self.assertGreater(frame, 29)
        before, after = (self.pivot("Crate", frame + by) for by in (-1e-6, 0.0))
        np.testing.assert_allclose(before, after, atol=1e-3)
        self.page.locator(f'[data-change="{frame:g}"]').press("Enter")
        self.press("Delete")
        self.assertEqual(len(self.part("Crate").constraints[0].holds), 1)
        self.press("Control+z", "Control+z")
        self.assertEqual([hold.frame for hold in self.part("Crate").constraints[0].holds], [8.0, 28.0])
        self.page.get_by_role("button", name="More of Carry").click()
        self.page.get_by_role("button", name="Carry: put keys in its place").click()
        self.settled()
        self.assertEqual(self.part("Crate").constraints, ())
        np.testing.assert_allclose(self.pivot("Crate", 48.0), carried, atol=0.2)
        expect(self.page.locator("[data-key^='move.x@']").first).to_be_visible()
        self.press("Control+z")
        self.assertEqual(len(self.part("Crate").constraints), 1)

    def test_a_boat_runs_along_a_path_and_on_a_closed_one_by_commands(self):
        self.pick("Course")
        self.row("Boat").click(modifiers=["Control"])
        self.constrain("along a path")
        self.assertLess(float(np.hypot(*(self.pivot("Boat") - (200, 600)))), 60)
        self.page.get_by_role("button", name="More of Along a path").click()
        self.press("m")
        for frame, share in ((0, 0), (48, 1)):
            self.go_to(frame)
            field = self.page.get_by_role("textbox", name="Share of the path of Along a path")
            field.fill(str(share))
            field.press("Enter")
            self.settled()
        found = evaluate(self.scene(), np.arange(49.0)).pivot[self.scene().index["Boat"], :, :2]
        np.testing.assert_allclose(found[[0, -1]], [(150, 620), (650, 660)], atol=1e-6)
        self.assertLess(found[:, 1].min(), 600)
        self.page.get_by_role("spinbutton", name="Contour of Along a path").fill("9")
        self.page.get_by_role("spinbutton", name="Contour of Along a path").press("Tab")
        self.settled()
        self.press("Control+z")
        self.assertEqual(self.part("Boat").constraints[0].contour, 0)

    def test_a_hand_is_matched_to_turning_and_back_without_a_jump(self):
        self.pick("Hand")
        self.press("Shift+O")
        self.press("m")
        for frame, x in ((0, 700.0), (40, 640.0)):
            self.go_to(frame)
            self.page.evaluate("document.querySelector('[data-tab=place]').click()")
            field = self.page.locator("[data-channel='move.x'] input").first
            field.fill(str(x - 700.0))
            field.press("Enter")
            self.settled()
        self.pick("Hand")
        self.go_to(20)
        self.command("Turn by hand from here")
        self.go_to(32)
        self.command("Reach again from here")
        self.assertEqual(
            [(one.frame, one.to) for one in self.part("Hand").constraints[0].changes], [(20.0, "turn"), (32.0, "reach")]
        )
        self.pick("Upper arm")
        self.go_to(26)
        self.press("2", "ArrowRight", "ArrowRight")
        for frame in (20.0, 32.0):
            before, after = (evaluate(self.scene(), [frame + by]).world for by in (-1e-7, 0.0))
            np.testing.assert_allclose(before, after, atol=1e-4)
        self.pick("Hand")
        expect(self.page.locator("[data-change]")).to_have_count(2)
        expect(self.page.locator("[data-time=picture]")).to_contain_text("by hand")
