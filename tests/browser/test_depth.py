"""The bench in depth: drawn elements beside the pose, clicks beside rays, and a newcomer's hands in the views."""

import unittest

import numpy as np
from scipy.spatial.transform import Rotation

from heron_lock import parcel
from jointed_crane.core.edits.scene.parts import AddParts
from jointed_crane.core.edits.shared.edit import applied
from jointed_crane.core.evaluate.pose_at_frame import pose_at
from jointed_crane.core.geometry.nine_points import box_corners
from jointed_crane.core.model.scene import Drawing, Part, Scene
from jointed_crane.core.viewing.projection import carried, plane_maps, seen_from
from jointed_crane.core.viewing.seeing import back_through
from jointed_crane.core.viewing.view import STAGE, from_around, straight
from jointed_crane.render.frames import frame
from tests.browser.chromium import shot
from tests.browser.test_rendered import assert_alike
from tests.browser.test_whole_way import BenchTestCase
from tests.deep_scenes import deep_scenes
from tests.demo_library import demo_scenes
from tests.strategies import STUB, STUB_NAME, some

#: Where each part is drawn in a pane: the boxes of what a click hits, and the pan and zoom of the pane.
DRAWN = """
(index) => {
  const pane = document.querySelector(`[data-pane="${index}"]`);
  const { left, top } = pane.querySelector("[data-stage]").getBoundingClientRect();
  const matrix = new DOMMatrix(getComputedStyle(pane.querySelector(".deep-world")).transform);
  const boxes = [...pane.querySelectorAll("[data-pick]")].map((one) => {
    const box = one.getBoundingClientRect();
    return [one.dataset.pick, [box.left - left, box.top - top, box.right - left, box.bottom - top]];
  });
  return { boxes, zoom: matrix.a, shift: [matrix.e, matrix.f], at: [left, top] };
}
"""
#: Leaves nothing on the page but what a pane shows, px for px.
BARE = """
() => {
  const world = document.querySelector('[data-pane="0"] .deep-world');
  document.body.replaceChildren(world);
  world.style.transform = "none";
}
"""
HIT = """
(places) => places.map(([x, y]) => document.elementFromPoint(x, y)?.dataset.pick ?? null)
"""
STRAIGHT = {"top": straight("top"), "right": straight("right"), "stage": STAGE}


def panels(count: int, seed: int) -> Scene:
    """Panels of all sizes, turned and placed anyhow; some are small and hang on others."""
    random = np.random.default_rng(seed)
    made = []
    for number in range(count):
        wide, high = (float(size) for size in random.uniform(40, 260, 2))
        box = (0.0, 0.0, wide, high)
        ring = ((0.0, 0.0), (wide, 0.0), (wide, high), (0.0, high))
        turn = tuple(
            float(value) for value in Rotation.random(random_state=np.random.RandomState(seed + number)).as_quat()
        )
        place = random.normal(size=3) * 150 + (640, 360, 0)
        parent = f"p{number - 1}" if number % 4 == 3 else None
        if parent:
            place = random.normal(size=3) * 60
        rest = dict(zip(("move.x", "move.y", "move.z"), (float(value) for value in place), strict=True))
        drawing = Drawing(f"d{number}", "Panel", STUB_NAME, box, box, outline=(ring,))
        pivot = (wide / 2, high / 2, 0.0)
        made.append(
            Part(
                f"p{number}",
                f"Panel {number}",
                parent=parent,
                drawings=(drawing,),
                pivot=pivot,
                orientation=turn,
                rest=rest,
            )
        )
    return Scene("deep", "Deep", parts=tuple(made), depth=True)


class DepthTests(BenchTestCase):
    def show(self, scene: Scene, looks):
        self.served.library.assets.put([STUB])
        self.served.library.scenes.create(scene)
        self.page.goto(self.served.address)
        self.page.evaluate(
            "(looks) => localStorage.setItem('looks-deep', JSON.stringify({ count: 4, looks }))", [*looks.values()]
        )
        self.open_bench("deep")
        self.settled()

    def test_parts_are_drawn_where_the_pose_says_and_clicks_hit_what_rays_hit(self):
        scene = panels(50, 5)
        looks = {
            "stage": {"side": "stage"},
            "free": {"side": "free", "yaw": 40, "pitch": 25},
            "top": {"side": "top"},
            "right": {"side": "right"},
        }
        self.show(scene, looks)
        views = STRAIGHT | {"free": from_around((640.0, 360.0, 0.0), 40.0, 25.0, 1.6 * 1280)}
        pose = pose_at(scene, None)
        random = np.random.default_rng(3)
        measured, hits = 0, 0
        for index, name in enumerate(looks):
            drawn, view = self.page.evaluate(DRAWN, index), views[name]
            corners = {}
            for part in scene.parts:
                there = carried(pose.world_of(part.id), np.column_stack([box_corners(part.bounds), np.zeros(4)]))
                corners[part.id] = seen_from(there, view) * drawn["zoom"] + drawn["shift"]
            for part_id, box in drawn["boxes"]:
                seen = corners[part_id]
                np.testing.assert_allclose(box, [*seen.min(axis=0), *seen.max(axis=0)], atol=0.1)
                measured += 1
            places = random.uniform((20, 80), (420, 220), (120, 2))
            told = [(place, self.ray(scene, pose, view, (place - drawn["shift"]) / drawn["zoom"])) for place in places]
            sure = [(place, part_id) for place, part_id in told if part_id != "unsure"]
            found = self.page.evaluate(HIT, [(place + drawn["at"]).tolist() for place, _ in sure])
            self.assertEqual(found, [part_id for _, part_id in sure], name)
            hits += len(sure)
        self.assertGreaterEqual(measured, 4 * 50)
        self.assertGreaterEqual(hits, 200)

    def ray(self, scene, pose, view, place):
        """The nearest part that the line of sight through a place meets, or None; not sure where rounding decides."""
        met = []
        for part in scene.parts:
            world = pose.world_of(part.id)
            map_ = plane_maps(world, view)
            x, y = back_through(map_, np.array([place]))[0]
            _, _, wide, high = part.bounds
            inside = min(x, wide - x, y, high - y)
            if abs(inside) < 4:
                return "unsure"
            if inside > 0:
                met.append((float(view.depths @ world @ [x, y, 0.0, 1.0]), part.id))
        met.sort()
        if len(met) > 1 and met[1][0] - met[0][0] < 4:
            return "unsure"
        return met[0][1] if met else None

    def test_the_stage_shows_what_frames_show(self):
        shown = dict(some([*deep_scenes().items()], 0.67))
        kept = next((scene, art) for scene, art in demo_scenes() if scene.name == parcel.NAME)
        for scene, frames in [*shown.values(), (kept[0], (60,))]:
            art = kept[1] if scene is kept[0] else self.served.library.assets.get
            if scene is kept[0]:
                names = {drawing.art for part in scene.parts for drawing in part.drawings}
                self.served.library.assets.put([art(name) for name in names])
            self.served.library.scenes.create(scene)
            self.open_bench(scene.id)
            self.press("m")
            self.go_to(frames[-1])
            self.page.evaluate(BARE)
            theirs = shot(self.page, round(scene.width), round(scene.height))
            with self.subTest(scene.name):
                assert_alike(self, frame(scene, float(frames[-1]), art), theirs)

    def test_a_gate_swings_on_its_hinge_in_a_view_from_aside(self):
        box = (0.0, 0.0, 200.0, 300.0)
        ring = ((0.0, 0.0), (200.0, 0.0), (200.0, 300.0), (0.0, 300.0))
        gate = Part(
            "gate", "Gate", drawings=(Drawing("d", "Gate", STUB_NAME, box, box, outline=(ring,)),),
            rest={"move.x": 540.0, "move.y": 200.0},
        )  # fmt: skip
        self.served.library.assets.put([STUB])
        self.served.library.scenes.create(applied(Scene("deep", "Gate"), [AddParts((gate,))]))
        self.open_bench("deep")
        page = self.page
        page.click("[data-bench=depth]")
        self.settled()
        self.assertTrue(self.scene().depth)
        page.select_option('[data-pane="0"] [data-look=side]', "free")
        self.settled()
        self.pick("Gate")
        self.settled()
        knob = self.at('circle[data-turns="y"]')
        self.drag(knob, (knob[0] + 30, knob[1] + 24))
        turned = self.part("Gate").rest_value("turn.y")
        self.assertGreater(abs(turned), 10)
        self.assertEqual([self.part("Gate").rest_value(f"turn.{axis}") for axis in "xz"], [0, 0])
        self.assertAlmostEqual(
            float(page.input_value('[data-deep="turn.y"] input').replace("−", "-")), turned, delta=0.006
        )
        self.press("Control+z")
        self.assertEqual(self.part("Gate").rest_value("turn.y"), 0)
        # Typed, and in the view from the top moved away from the viewer.
        page.fill('[data-deep="turn.y"] input', "90")
        self.press("Enter")
        self.assertAlmostEqual(self.part("Gate").rest_value("turn.y"), 90)
        # From above the hinge is a point, and the gate swings about it by its ring, in steps of 15 degrees with Shift.
        page.select_option('[data-pane="0"] [data-look=side]', "top")
        self.settled()
        knob, before = self.at('circle[data-turns="y"]'), self.part("Gate")
        page.keyboard.down("Shift")
        self.drag(knob, (knob[0] + 40, knob[1] + 50))
        page.keyboard.up("Shift")
        swung = self.part("Gate").rest_value("turn.y")
        self.assertNotAlmostEqual(swung, 90, delta=10)
        self.assertAlmostEqual(swung / 15, round(swung / 15), places=9)
        self.press("Control+z")
        self.assertEqual(self.part("Gate"), before)
        page.focus("[data-bench=stage]")
        self.press("Shift+End")
        self.assertEqual(page.input_value('[data-pane="0"] [data-look=side]'), "free")
        self.press("Shift+Home")
        self.assertEqual(page.input_value('[data-pane="0"] [data-look=side]'), "stage")
        # A second view, beside the one that was pointed at last, over a grid with its axes named.
        page.click('[data-pane="0"] [data-views="2"]')
        page.select_option('[data-pane="1"] [data-look=side]', "left")
        self.settled()
        self.assertEqual(page.input_value('[data-pane="1"] [data-look=side]'), "left")
        self.assertEqual(page.locator('[data-pane="1"] [data-stage-axes] text').all_text_contents(), ["y", "z"])


if __name__ == "__main__":
    unittest.main()
