"""Whole pieces of work in time, as a new user does them, with undo and mostly by keyboard."""

import numpy as np
from playwright.sync_api import expect

from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.motion.channel import Channel, Key
from tests.browser.test_whole_way import BenchTestCase


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
