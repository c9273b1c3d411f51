"""Shapes in motion: each number of a shape moves like any other channel, and nothing else does."""

import unittest
from dataclasses import replace

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.edits import applied
from jointed_crane.core.edits.pictures.fusing import ensure_splittable, layers
from jointed_crane.core.edits.pictures.making_shapes import AddShape, KeyShape, MoveNode
from jointed_crane.core.edits.placing.settling import Reset, Settle
from jointed_crane.core.edits.time.keys import SetKeys
from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.model.channels import channel_kind
from jointed_crane.core.model.forms import Ellipse, Node, Paint, PenPath, Polygon, Rectangle, Text, ensure_drawable
from jointed_crane.core.shapes.reshaping import numbers_of_shape, reshaped, shape_at
from jointed_crane.core.soundness.whole_scene import ensure_sound
from tests.strategies import examples, random_scene, seeds

PAINT = Paint("#204060", "#d2512f", 4.0)
SHAPES = {
    "rectangle": Rectangle((10.0, 20.0, 90.0, 70.0), 6.0, PAINT),
    "ellipse": Ellipse((40.0, 30.0), (25.0, 15.0), PAINT),
    "polygon": Polygon((40.0, 40.0), 30.0, 6, 15.0, PAINT),
    "path": PenPath(
        ((Node((0.0, 0.0)), Node((40.0, 5.0), (-8.0, -4.0), (8.0, 4.0)), Node((30.0, 50.0), None, (-9.0, 2.0))),),
        True,
        PAINT,
    ),
}


def scene_of(name, seed=3):
    return applied(random_scene(seed, 3), [AddShape("own", SHAPES[name])])


def numbers_at(scene, frame):
    return numbers_of_shape(shape_at(scene.part("own"), 0, frame))


class ShapeMotionTests(unittest.TestCase):
    @given(st.sampled_from(sorted(SHAPES)), st.integers(0, 10**6))
    @examples(60)
    def test_a_shape_is_its_numbers_and_any_of_them_move_alone(self, name, seed):
        random = np.random.default_rng(seed)
        shape = SHAPES[name]
        numbers = numbers_of_shape(shape)
        moved = {number: float(random.normal() * 3) for number in numbers if random.random() < 0.5}
        after = numbers_of_shape(reshaped(shape, moved))
        for number, value in numbers.items():
            wanted = value + moved.get(number, 0.0)
            if number[:5] in ("fill.", "strok") and number != "stroke.width":
                wanted = round(min(max(wanted, 0), 255))
            if number in ("stroke.width", "form.corner"):
                wanted = max(wanted, 0.0)
            self.assertAlmostEqual(after[number], wanted, places=9, msg=number)

    @given(st.sampled_from(sorted(SHAPES)), st.integers(0, 10**6))
    @examples(40)
    def test_no_motion_makes_a_shape_that_cannot_be_drawn(self, name, seed):
        random = np.random.default_rng(seed)
        wild = {
            number: float(random.normal() * 10 ** random.integers(0, 6)) for number in numbers_of_shape(SHAPES[name])
        }
        ensure_drawable(reshaped(SHAPES[name], wild))

    @given(st.sampled_from(sorted(SHAPES)), seeds)
    @examples(30)
    def test_what_is_keyed_shows_at_its_frame_and_only_what_differs_gets_a_key(self, name, seed):
        scene = scene_of(name, seed)
        numbers = numbers_of_shape(SHAPES[name])
        chosen = sorted(numbers)[seed % len(numbers)]
        wanted = reshaped(SHAPES[name], {chosen: 7.0})
        after = applied(scene, [KeyShape("own", "own-1", SHAPES[name], 0.0), KeyShape("own", "own-1", wanted, 12.0)])
        self.assertEqual(list(after.part("own").channels), [chosen])
        self.assertEqual(shape_at(after.part("own"), 0, 12.0), wanted)
        self.assertEqual(shape_at(after.part("own"), 0, None), SHAPES[name])
        rest = {part.id: part for part in scene.parts}
        self.assertTrue(all(after.part(part_id) is part for part_id, part in rest.items() if part_id != "own"))

    def test_colours_mix_straight_in_srgb(self):
        # CSS Color 4: colours in hexadecimal mix gamma-encoded; half way from #204060 to #a08060 is #606060.
        scene = scene_of("rectangle")
        wanted = replace(SHAPES["rectangle"], paint=replace(PAINT, fill="#a08060"))
        scene = applied(scene, [SetKeys(("own",), ("fill.r", "fill.g", "fill.b"), 0.0)])
        scene = applied(scene, [KeyShape("own", "own-1", wanted, 10.0)])
        shape = shape_at(scene.part("own"), 0, 5.0)
        self.assertEqual(shape.paint.fill, "#606060")

    @given(st.sampled_from(sorted(SHAPES)), st.integers(0, 10**6))
    @examples(30)
    def test_settling_and_coming_home_change_no_frame_and_read_neutral(self, name, seed):
        random = np.random.default_rng(seed)
        numbers = [number for number in numbers_of_shape(SHAPES[name]) if number[:5] not in ("fill.", "strok")]
        targets = [reshaped(SHAPES[name], {n: float(random.normal() * 4) for n in numbers}) for _ in range(2)]
        edits = [KeyShape("own", "own-1", shape, frame) for shape, frame in zip(targets, (4.0, 20.0), strict=True)]
        scene = applied(scene_of(name), edits)
        after = ensure_sound(applied(scene, [Settle(9.0, ("own",))]))
        for frame in (0.0, 4.0, 9.0, 13.5, 30.0):
            before, now = numbers_at(scene, frame), numbers_at(after, frame)
            for number in numbers:
                self.assertAlmostEqual(now[number], before[number], delta=1e-9)
        home = applied(after, [Reset(("own",), frame=9.0)])
        self.assertEqual(shape_at(home.part("own"), 0, 9.0), shape_at(after.part("own"), 0, None))

    def test_a_node_pulled_in_motion_gets_keys_and_at_rest_the_path_changes(self):
        scene = scene_of("path")
        moved = MoveNode("own", "own-1", 0, 1, (60.0, 9.0), unit="art", frame=6.0)
        after = applied(scene, [moved])
        self.assertEqual(sorted(after.part("own").channels), ["node.1.x", "node.1.y"])
        self.assertEqual(after.part("own").drawings, scene.part("own").drawings)
        self.assertEqual(channel_kind("node.1.x").label, "Node 2 x")
        at_rest = applied(scene, [replace(moved, frame=None)])
        self.assertEqual(at_rest.part("own").channels, {})
        self.assertNotEqual(at_rest.part("own").drawings, scene.part("own").drawings)

    def test_form_words_and_nodes_do_not_move(self):
        scene = scene_of("path")
        fewer = replace(SHAPES["path"], contours=(SHAPES["path"].contours[0][:2],))
        for shape in (
            fewer,
            SHAPES["ellipse"],
            Text("Heron"),
            replace(SHAPES["path"], paint=Paint("", "#d2512f", 4.0)),
        ):
            with self.assertRaisesRegex(RuleError, "go to Rest"):
                applied(scene, [KeyShape("own", "own-1", shape, 6.0)])
        with self.assertRaisesRegex(RuleError, "There is no channel"):
            applied(scene, [SetKeys(("own",), ("node.01.x",), 0.0)])

    def test_what_would_lose_the_keys_of_a_shape_is_refused(self):
        scene = applied(scene_of("ellipse"), [AddShape("other", SHAPES["rectangle"])])
        scene = applied(scene, [KeyShape("own", "own-1", reshaped(SHAPES["ellipse"], {"form.rx": 9.0}), 9.0)])
        for act in (lambda: layers(scene, ("own", "other"), None), lambda: ensure_splittable(scene.part("own"))):
            with self.assertRaisesRegex(RuleError, "The shape of Shape moves"):
                act()

    def test_placement_and_shapes_do_not_touch_each_other(self):
        scene = scene_of("ellipse")
        frames = np.array([9.0, 2.0, 2.0, 30.0])
        after = applied(scene, [KeyShape("own", "own-1", reshaped(SHAPES["ellipse"], {"form.rx": 9.0}), 9.0)])
        one, other = (evaluate(found, frames) for found in (scene, after))
        np.testing.assert_array_equal(one.world, other.world)
        self.assertEqual(one.shapes(), {})
        for column, frame in enumerate(frames):
            self.assertEqual(other.shapes()["own"][column], shape_at(after.part("own"), 0, frame))
