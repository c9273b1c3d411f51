import unittest
from dataclasses import replace

import numpy as np
from scipy.spatial.transform import Rotation

from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.model.scene import Scene
from jointed_crane.core.motion.channel import Channel, Key
from jointed_crane.core.motion.curves import PackedCurves, values
from tests.browser.chromium import browser
from tests.strategies import random_scene

# The placement formula of design section 3, written with the browser's own DOMMatrix (Geometry Interfaces 1).
# Chromium keeps the arguments of translate, scale and of free axes as float32, so those factors are given as matrices,
# and O as turns about the axes themselves (SciPy's Euler angles); multiplying and turning are the browser's.
PLACE = """
part => {
  const axes = { X: [1, 0, 0], Y: [0, 1, 0], Z: [0, 0, 1] };
  const shift = (x, y, z) => new DOMMatrix([1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, x, y, z, 1]);
  const turned = (matrix, order, angle) =>
    [...order].reduce((m, axis) => m.rotateAxisAngle(...axes[axis], angle(axis)), matrix);
  const turn = (matrix, channel) => turned(matrix, part.order, axis => part.rest[`${channel}.${axis.toLowerCase()}`]);
  const r = part.rest;
  const o = turned(new DOMMatrix(), "XYZ", axis => part.orientation["XYZ".indexOf(axis)]);
  const [px, py, pz] = part.pivot, [cx, cy, cz] = part.centre;
  const moved = shift(r["move.x"], r["move.y"], r["move.z"]);
  let m = moved.multiply(o).multiply(shift(r["slide.x"], r["slide.y"], r["slide.z"]));
  m = turn(m, "turn");
  m = m.multiply(new DOMMatrix([1, 0, 0, 0, r["shear.xy"], 1, 0, 0, r["shear.xz"], r["shear.yz"], 1, 0, 0, 0, 0, 1]));
  m = m.multiply(new DOMMatrix([r["scale.x"], 0, 0, 0, 0, r["scale.y"], 0, 0, 0, 0, r["scale.z"], 0, 0, 0, 0, 1]));
  m = turn(m.multiply(shift(-px, -py, -pz)).multiply(shift(cx, cy, cz)), "spin").multiply(shift(-cx, -cy, -cz));
  return [...m.toFloat64Array()];
}
"""


class BrowserMathematicsTests(unittest.TestCase):
    """Numbers held against Chromium's own engine."""

    @classmethod
    def setUpClass(cls):
        cls.page = browser().new_page()
        cls.addClassCleanup(cls.page.close)
        cls.page.set_content("<div id=mark>mark</div>")

    def test_placement_of_200_random_parts_is_that_of_dom_matrix(self):
        for seed in range(200):
            part = random_scene(seed, count=1, is_deep=True).parts[0]
            part = replace(part, channels={}, footholds=(), parent=None)
            names = [f"{kind}.{axis}" for kind in ("move", "slide", "turn", "spin", "scale") for axis in "xyz"]
            rest = {name: part.rest_value(name) for name in (*names, "shear.xy", "shear.xz", "shear.yz")}
            found = self.page.evaluate(
                PLACE,
                {
                    "rest": rest,
                    "order": part.turn_order,
                    "orientation": Rotation.from_quat(part.orientation).as_euler("XYZ", degrees=True).tolist(),
                    "pivot": list(part.pivot),
                    "centre": list(part.centre),
                },
            )
            expected = np.array(found).reshape(4, 4).T
            actual = evaluate(Scene("s", "S", parts=(part,)), [0.0]).world[0, 0]
            size = np.abs(expected).max()
            np.testing.assert_allclose(actual / size, expected / size, rtol=0, atol=1e-9, err_msg=f"seed {seed}")

    def test_200_segments_are_those_of_web_animations(self):
        # CSS Easing 1 through Web Animations: the progress of an animation with that easing. Chromium keeps control
        # points as float32, so only such numbers are compared.
        random = np.random.default_rng(8)
        easings, channels = [], []
        for number in range(200):
            kind = ("eased", "eased", "eased", "hold", "straight")[number % 5]
            points = (random.random(), random.normal(), random.random(), random.normal())
            x1, y1, x2, y2 = (float(np.float32(value)) for value in points)
            keys = (Key(0, 0, kind, None, (x1, y1)), Key(1, 1, "eased", (x2 - 1, y2 - 1), None))
            channels.append(Channel(keys))
            eased = f"cubic-bezier({x1!r}, {y1!r}, {x2!r}, {y2!r})"
            easings.append({"eased": eased, "hold": "steps(1, jump-end)", "straight": "linear"}[kind])
        shares = [0.0, *map(float, np.linspace(0.02, 0.98, 25)), 1.0]
        found = self.page.evaluate(
            """([easings, shares]) => easings.map((easing) => {
              const timing = { duration: 1e6, easing, fill: "both" };
              const animation = document.querySelector("#mark").animate({ opacity: [0, 1] }, timing);
              animation.pause();
              const progress = shares.map((share) => {
                animation.currentTime = share * 1e6;
                return animation.effect.getComputedTiming().progress;
              });
              animation.cancel();
              return progress;
            })""",
            [easings, shares],
        )
        actual = values(PackedCurves(tuple(channels)), np.array(shares))
        for index, easing in enumerate(easings):
            np.testing.assert_allclose(actual[index], found[index], rtol=0, atol=1e-6, err_msg=easing)
