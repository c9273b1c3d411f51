"""Whole pieces of work in depth, as a new user does them, with undo and by keyboard where that is nearer."""

import io
import unittest

import numpy as np
from PIL import Image

from jointed_crane.core.edits import applied
from jointed_crane.core.edits.pictures.making_shapes import AddShape
from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.evaluate.pose_at_frame import pose_at
from jointed_crane.core.geometry.nine_points import box_corners
from jointed_crane.core.model.forms import Rectangle
from jointed_crane.core.model.scene import Scene
from jointed_crane.core.viewing.projection import carried
from jointed_crane.core.viewing.seeing import seen
from tests.browser.test_whole_way import BenchTestCase

#: As pictures come: of all sizes, none of them square.
PICTURES = (("#d2512f", 320, 200), ("#12706f", 210, 190), ("#b07d2b", 500, 333), ("#20303c", 90, 60),
            ("#a9c3c8", 640, 600), ("#e9c983", 64, 40))  # fmt: skip


def picture(colour, wide, high):
    stream = io.BytesIO()
    Image.new("RGB", (wide, high), colour).save(stream, "PNG")
    return {"name": f"{colour[1:]}.png", "mimeType": "image/png", "buffer": stream.getvalue()}


def corners(scene, part):
    return carried(pose_at(scene, None).world_of(part.id), np.column_stack([box_corners(part.bounds), np.zeros(4)]))


class DepthStories(BenchTestCase):
    def begin(self, *parts):
        self.served.library.scenes.create(applied(Scene("s", "Quay", length=48), parts))
        self.open_bench("s")
        self.acts = 0

    def number(self, channel, text):
        self.page.fill(f'[data-deep="{channel}"] input', text)
        self.press("Enter")
        self.acts += 1

    def assert_cube(self, sides):
        """Panels lie about eight places, three of their corners at each."""
        scene = self.scene()
        every = np.concatenate([corners(scene, part) for part in scene.parts if part.bounds])
        near = np.linalg.norm(every[:, None] - every[None], axis=-1) < 1e-9
        self.assertEqual(set(near.sum(axis=1).tolist()), {3})
        np.testing.assert_allclose(np.ptp(every, axis=0), sides, atol=1e-9)
        return every.mean(axis=0)

    def test_a_box_of_six_pictures_is_spun_as_one_body(self):
        self.begin()
        self.page.once("filechooser", lambda chooser: chooser.set_files([picture(*one) for one in PICTURES]))
        self.command("box of one picture")
        self.page.wait_for_selector("[data-row] >> nth=6")
        self.settled()
        self.assert_cube((320, 200, 320))
        self.press("m")
        for frame, turn in ((0, "0"), (47, "360")):
            self.go_to(frame)
            self.number("turn.y", turn)
        box = self.part("Box")
        self.assertEqual([key.value for key in box.channels["turn.y"].keys], [0, 360])
        self.assertEqual([part.name for part in self.scene().parts if part.channels], ["Box"])
        pose = evaluate(self.scene(), [0.0, 23.5])
        front, back = (pose.index[self.part(name).id] for name in ("Box front", "Box back"))
        np.testing.assert_array_equal(seen(pose).faces[[front, back]], [[1, -1], [-1, 1]])
        self.press("Control+z", "Control+z")
        self.assertEqual(self.part("Box").channels, {})
        self.press("Control+z")
        self.assertEqual(self.scene().parts, ())

    def test_six_squares_are_made_a_cube_by_hand(self):
        square = Rectangle((0.0, 0.0, 400.0, 400.0))
        self.begin(*(AddShape(name, square, name, (300.0, 200.0)) for name in ("Floor", *"NESW", "Lid")))
        self.page.click("[data-bench=depth]")
        self.acts += 1
        for name, edge, channel, turn in (
            ("N", "upper middle", "turn.x", "90"), ("S", "lower middle", "turn.x", "-90"),
            ("W", "left middle", "turn.y", "-90"), ("E", "right middle", "turn.y", "90"),
        ):  # fmt: skip
            self.pick(name)
            self.page.click(f'[aria-label="Pivot to the {edge}"]')
            self.settled()
            self.acts += 2
            self.number(channel, turn)
        self.pick("Lid")
        self.number("move.z", "400")
        self.assertLessEqual(self.acts, 25)
        middle = self.assert_cube((400, 400, 400))
        # Check values that are common practice: its middle is at 200.
        np.testing.assert_allclose(middle, (500, 400, 200), atol=1e-9)
        self.press("Control+z")
        self.assertEqual(self.part("Lid").rest_value("move.z"), 0)

    def test_a_title_flies_in_from_far_and_snaps_into_place(self):
        self.begin()
        self.command("add text")
        self.page.wait_for_selector("[data-text=words]:focus")
        self.page.keyboard.type("Heron Lock")
        self.page.dispatch_event("[data-text=words]", "change")
        self.settled()
        self.page.click("[data-bench=depth]")
        self.page.click("[data-tab=place]")
        lies = pose_at(self.scene(), None).world_of(self.part("Text").id)
        self.press("m")
        far = {"move.z": -3000, "turn.x": 200, "turn.y": -120}
        for frame, share in ((40, 0), (0, 1)):
            self.go_to(frame)
            for channel, value in far.items():
                self.number(channel, f"{value * share:g}")
        self.page.focus("[data-bench=stage]")
        self.press("Shift+D")
        self.page.click("[data-time=shape]")
        self.page.click("[data-time=shapes] >> text=Snap at the end")
        self.settled()
        title = self.part("Text")
        self.assertEqual(title.drawings[0].shape.words, "Heron Lock")
        self.assertEqual({name: channel.keys[0].value for name, channel in title.channels.items()}, far)
        pose = evaluate(self.scene(), [0.0, 4.0, 36.0, 40.0])
        world = pose.world[pose.index[title.id]]
        np.testing.assert_allclose(world[-1], lies, atol=1e-9)
        begins, ends = np.abs(np.diff(world[:, 2, 3]))[[0, 2]]
        self.assertGreater(ends, 2 * begins, "it is fastest where it arrives")
        self.press("Control+z")
        again = evaluate(self.scene(), [36.0, 40.0]).world[pose.index[title.id]]
        self.assertLess(abs(np.diff(again[:, 2, 3])[0]), ends)


if __name__ == "__main__":
    unittest.main()
