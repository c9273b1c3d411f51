"""Whole pieces of work in time, as a new user does them, with undo and mostly by keyboard."""

import numpy as np
from playwright.sync_api import expect

from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.model.scene import Drawing, Part, Scene
from jointed_crane.core.motion.channel import Channel, Key
from tests.browser.test_whole_way import BenchTestCase

_STALL = (
    b'<svg xmlns="http://www.w3.org/2000/svg" width="80" height="120">'
    b'<path d="M0 120V30L40 0L80 30V120Z" fill="#b4694d"/></svg>'
)
NAMES = [f"Stall {number}" for number in range(1, 9)]


class PopUpTests(BenchTestCase):
    """Eight stalls pop up from the floor, one after the other."""

    def setUp(self):
        super().setUp()
        (art,) = self.served.library.assets.put([("image/svg+xml", _STALL)])
        box = (0.0, 0.0, 80.0, 120.0)
        stalls = [
            Part(
                f"s{number}",
                name,
                drawings=(Drawing(f"d{number}", name, art, box, box),),
                pivot=(40.0, 60.0, 0.0),
                rest={"move.x": 100.0 + 110 * number, "move.y": 400.0},
            )
            for number, name in enumerate(NAMES)
        ]
        self.served.library.scenes.create(Scene("s", "Market", length=96, parts=tuple(stalls)))
        self.open_bench("s")

    def test_eight_parts_pop_up_keyed_once_pasted_staggered_and_snapped_by_a_handle(self):
        before = self.scene()
        self.press("Control+a")
        self.command("Pivots to the lower middle")
        self.pick("Stall 1")
        self.press("m")
        for frame, height in ((0, "0"), (12, "1")):
            self.go_to(frame)
            field = self.page.locator("[data-channel='scale.y'] input")
            field.fill(height)
            field.press("Enter")
            self.settled()
        self.page.locator('[data-key="scale.y@0"]').click()
        self.page.click("[data-time=shape]")
        self.page.get_by_role("menuitem", name="Soft end").click()
        self.settled()
        self.assertEqual([key.frame for key in self.part("Stall 1").channels["scale.y"].keys], [0, 12])
        self.page.locator("[data-time=picture] text", has_text="Scale y").click()
        self.press("Control+c")
        for name in NAMES[1:]:
            self.row(name).click(modifiers=["Control"] if name != "Stall 2" else [])
        self.go_to(0)
        self.press("Control+v")
        self.press("Control+a")
        self.command("Stagger in time")
        self.page.locator("dialog[open] [name=amount]").fill("4")
        self.page.select_option("dialog[open] [name=order]", "across")
        self.settled()
        self.page.get_by_role("button", name="Stagger").click()
        self.settled()
        firsts = [self.part(name).channels["scale.y"].keys[0].frame for name in NAMES]
        self.assertEqual(firsts, [4 * number for number in range(8)])
        # One of them snaps: the handle at its end is pulled along its curve.
        self.pick("Stall 3")
        self.page.locator("[data-view=curves]").click()
        self.page.locator('[data-curve-key="scale.y@20"]').click()
        grip = self.page.locator("[data-handle=in]")
        expect(grip).to_be_visible()
        x, y = self.at("[data-handle=in]")
        self.drag((x, y), (x - 30, y - 25))
        handle = self.part("Stall 3").channels["scale.y"].keys[1].handle_in
        self.assertGreater(handle[1], 0.05, "it overshoots, since the handle was pulled above the key")
        # The lower edge of each stays on the floor at every frame.
        scene = self.scene()
        pose = evaluate(scene, np.arange(0.0, 60.0, 0.5))
        feet = pose.world[:, :, :2, :] @ np.array([40.0, 120.0, 0.0, 1.0])
        np.testing.assert_allclose(feet[:, :, 1], 460.0, atol=1e-9)
        for _ in range(12):
            if self.scene() == before:
                break
            self.press("Control+z")
        self.assertEqual(self.scene(), before)


class PauseAndLoopTests(BenchTestCase):
    def setUp(self):
        super().setUp()
        swing = Channel((Key(0.0, 0.0), Key(12.0, 60.0), Key(36.0, -20.0)))
        lift = Channel((Key(0.0, 0.0), Key(12.0, -30.0), Key(36.0, 8.0)))
        arm = Part("arm", "Arm", channels={"turn.z": swing, "move.y": lift})
        self.served.library.scenes.create(Scene("s", "Arm", length=49, parts=(arm,)))
        self.open_bench("s")
        self.pick("Arm")
        self.press("m")

    def motion(self, frames):
        return evaluate(self.scene(), np.asarray(frames, dtype=float)).world[0]

    def test_a_pause_is_made_by_copying_keys_and_pasting_them_later(self):
        self.go_to(12)
        self.press("Shift+D", "Control+c")
        self.go_to(20)
        self.press("Control+v")
        channels = self.part("Arm").channels
        self.assertEqual([key.frame for key in channels["turn.z"].keys], [0, 12, 20, 36])
        still = self.motion(np.arange(12.0, 20.01, 0.5))
        np.testing.assert_allclose(still, np.broadcast_to(still[0], still.shape), atol=1e-9)
        self.press("Control+z")
        self.assertEqual([key.frame for key in self.part("Arm").channels["turn.z"].keys], [0, 12, 36])

    def test_a_loop_is_made_to_close(self):
        self.command("Check the loop")
        expect(self.page.locator("dialog[open]")).to_contain_text("Arm")
        self.page.keyboard.press("Escape")
        self.go_to(0)
        self.press("Shift+D", "Control+c", "End", "Control+v")
        np.testing.assert_allclose(self.motion([0.0]), self.motion([48.0]), atol=1e-9)
        self.command("Check the loop")
        expect(self.page.locator("dialog[open]")).to_contain_text("closes")
