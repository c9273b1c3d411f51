import unittest
from dataclasses import replace

import numpy as np
from hypothesis import given
from pxr import Gf, UsdGeom, Vt  # noqa: F401
from pxr import Usd as SceneDescription
from scipy.spatial.transform import Rotation

from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.model.scene import Drawing, Foothold, Inherits, Part, Scene
from jointed_crane.core.motion.channel import Channel, Key
from tests.strategies import examples, random_scene, seeds


def world(part: Part, frame: float = 0.0) -> np.ndarray:
    return evaluate(Scene("s", "S", parts=(part,)), [frame]).world[0, 0]


class PlacementTests(unittest.TestCase):
    def test_formula_written_out_with_scipy_rotations(self):
        # An independent writing of design section 3 with SciPy's Rotation; intrinsic "XYZ" is Rx Ry Rz.
        for seed in range(60):
            scene = random_scene(seed, count=1, is_deep=True)
            part = replace(scene.parts[0], channels={}, footholds=())
            rest = part.rest_value

            def shift(x, y, z):
                matrix = np.eye(4)
                matrix[:3, 3] = (x, y, z)
                return matrix

            def linear(block):
                matrix = np.eye(4)
                matrix[:3, :3] = block
                return matrix

            def turn(channel, part=part, rest=rest):
                angles = [rest(f"{channel}.{axis.lower()}") for axis in part.turn_order]
                return linear(Rotation.from_euler(part.turn_order, angles, degrees=True).as_matrix())

            orientation = linear(Rotation.from_quat(part.orientation).as_matrix())
            shear = np.eye(4)
            shear[0, 1], shear[0, 2], shear[1, 2] = rest("shear.xy"), rest("shear.xz"), rest("shear.yz")
            scale = np.diag([rest("scale.x"), rest("scale.y"), rest("scale.z"), 1.0])
            slide = orientation[:3, :3] @ [rest("slide.x"), rest("slide.y"), rest("slide.z")]
            expected = (
                shift(*(np.array([rest("move.x"), rest("move.y"), rest("move.z")]) + slide))
                @ orientation @ turn("turn") @ shear @ scale
                @ shift(*-np.array(part.pivot)) @ shift(*part.centre) @ turn("spin") @ shift(*-np.array(part.centre))
            )  # fmt: skip
            np.testing.assert_allclose(world(part), expected, atol=1e-10)

    def test_worked_example_of_css_transforms(self):
        # CSS Transforms 1, "The Transform Rendering Model": translate(80px, 80px) scale(1.5, 1.5) rotate(45deg).
        # One part holds the scale, its child the rotation, so that the order is the example's.
        outer = Part("a", "A", rest={"move.x": 80.0, "move.y": 80.0, "scale.x": 1.5, "scale.y": 1.5})
        inner = Part("b", "B", parent="a", rest={"turn.z": 45.0})
        found = evaluate(Scene("s", "S", parts=(outer, inner)), [0]).world_of("b")
        half = 1.5 * np.sqrt(0.5)
        np.testing.assert_allclose(found[:2, [0, 1, 3]], [[half, -half, 80], [half, half, 80]], atol=1e-12)

    def test_worked_example_of_transform_origin(self):
        # CSS Transforms 1, "transform-origin": translate(origin) transform translate(-origin); from memory:
        # a 100 px square turned 90 degrees about its centre takes its upper left corner to the upper right.
        part = Part("a", "A", pivot=(50.0, 50.0, 0.0), rest={"move.x": 50.0, "move.y": 50.0, "turn.z": 90.0})
        np.testing.assert_allclose(world(part) @ [0, 0, 0, 1], [100, 0, 0, 1], atol=1e-12)

    def test_pivot_transform_of_a_scene_description_library(self):
        # usd-core's own xform op stack translate, pivot, rotate, scale, pivot inverse; it multiplies row vectors.
        random = np.random.default_rng(4)
        stage = SceneDescription.Stage.CreateInMemory()
        for number in range(40):
            pivot, move, angle, scale = (
                random.normal(size=3) * 30,
                random.normal(size=3) * 90,
                random.uniform(-400, 400),
                random.uniform(0.3, 2, 3),
            )
            prim = UsdGeom.Xform.Define(stage, f"/p{number}")
            prim.AddTranslateOp(UsdGeom.XformOp.PrecisionDouble).Set(Gf.Vec3d(*move))
            prim.AddTranslateOp(UsdGeom.XformOp.PrecisionDouble, "pivot").Set(Gf.Vec3d(*pivot))
            prim.AddRotateZOp(UsdGeom.XformOp.PrecisionDouble).Set(float(angle))
            prim.AddScaleOp(UsdGeom.XformOp.PrecisionDouble).Set(Gf.Vec3d(*scale))
            prim.AddTranslateOp(UsdGeom.XformOp.PrecisionDouble, "pivot", True)
            expected = np.array(prim.GetLocalTransformation()).T
            rest = {"turn.z": float(angle)}
            rest |= {f"scale.{axis}": float(scale[i]) for i, axis in enumerate("xyz")}
            rest |= {f"move.{axis}": float(move[i] + pivot[i]) for i, axis in enumerate("xyz")}
            part = Part("a", "A", pivot=tuple(float(value) for value in pivot), rest=rest)
            np.testing.assert_allclose(world(part), expected, atol=1e-10)

    def test_a_square_rolled_over_four_footholds_goes_its_perimeter(self):
        # Rolling polygon: each corner in turn is the contact point of one quarter turn; the centre goes 4 sides.
        square = Drawing("d", "square", "art", (0, 0, 100, 100), (0, 0, 100, 100))
        corners = [(100.0, 100.0, 0.0), (100.0, 0.0, 0.0), (0.0, 0.0, 0.0), (0.0, 100.0, 0.0)]
        part = Part(
            "crate", "Crate", drawings=(square,), pivot=corners[0], rest={"move.x": 100.0, "move.y": 100.0},
            channels={"turn.z": Channel((Key(0, 0, "straight"), Key(40, 360)))},
            footholds=tuple(Foothold(10.0 * k, corners[k % 4]) for k in range(1, 4)),
        )  # fmt: skip
        scene = Scene("s", "S", parts=(part,))
        pose = evaluate(scene, np.linspace(0, 40, 161))
        centre = pose.world[0] @ [50, 50, 0, 1]
        self.assertAlmostEqual(centre[-1, 0] - centre[0, 0], 400.0, places=9)
        self.assertAlmostEqual(centre[-1, 1], centre[0, 1], places=9)
        # No part of the crate goes under the floor, and the foothold of each quarter stands still.
        lowest = np.max([(pose.world[0] @ [*corner[:2], 0, 1])[:, 1] for corner in corners], axis=0)
        np.testing.assert_allclose(lowest, 100.0, atol=1e-9)
        for k in range(4):
            stands = evaluate(scene, np.linspace(10 * k, 10 * k + 9.99, 20)).world[0] @ [*corners[k], 1]
            np.testing.assert_allclose(stands, stands[:1].repeat(20, axis=0), atol=1e-9)

    def test_neither_scale_nor_skew_reaches_a_child_that_inherits_only_turn(self):
        parent = Part("a", "A", rest={"move.x": 10.0, "turn.z": 30.0, "scale.x": 3.0, "scale.y": 0.5})
        child = Part("b", "B", parent="a", rest={"move.x": 20.0}, inherits=Inherits(scale=False))
        found = evaluate(Scene("s", "S", parts=(parent, child)), [0])
        np.testing.assert_allclose(
            found.world_of("b")[:3, :3], Rotation.from_euler("z", 30, degrees=True).as_matrix(), atol=1e-12
        )
        # The pivot stays where the full matrix puts it.
        np.testing.assert_allclose(found.world_of("b")[:, 3], found.world_of("a") @ [20, 0, 0, 1], atol=1e-12)

    def test_inheriting_nothing_is_lying_on_the_stage(self):
        parent = Part("a", "A", rest={"move.x": 10.0, "turn.z": 30.0, "scale.x": -3.0})
        child = Part("b", "B", parent="a", rest={"move.x": 20.0}, inherits=Inherits(False, False, False))
        found = evaluate(Scene("s", "S", parts=(parent, child)), [0, 1]).world_of("b", 1)
        np.testing.assert_allclose(found, world(replace(child, parent=None)), atol=1e-12)

    def test_children_follow_turn_and_spin(self):
        parent = Part("a", "A", spin_centre=(50.0, 0.0, 0.0), rest={"spin.z": 180.0})
        child = Part("b", "B", parent="a")
        found = evaluate(Scene("s", "S", parts=(parent, child)), [0]).world_of("b")
        np.testing.assert_allclose(found[:3, 3], [100, 0, 0], atol=1e-12)

    def test_a_part_fades_and_vanishes_with_its_parent(self):
        parent = Part("a", "A", rest={"opacity": 0.5, "shown": 0.0})
        child = Part("b", "B", parent="a", rest={"opacity": 0.5})
        pose = evaluate(Scene("s", "S", parts=(child, parent)), [0])
        self.assertEqual((pose.opacity[0, 0], pose.shown[0, 0]), (0.25, False))

    @given(seeds)
    @examples(40)
    def test_any_frames_in_any_order_equal_one_frame_alone(self, seed):
        scene = random_scene(seed, is_deep=seed % 2 == 0)
        frames = np.random.default_rng(seed).uniform(-10, 60, 9)
        whole = evaluate(scene, frames)
        for column, frame in enumerate(frames):
            alone = evaluate(scene, [frame])
            np.testing.assert_allclose(whole.world[:, column], alone.world[:, 0], rtol=1e-9, atol=1e-9)
            np.testing.assert_array_equal(whole.shown[:, column], alone.shown[:, 0])
            np.testing.assert_array_equal(whole.drawing[:, column], alone.drawing[:, 0])

    @given(seeds)
    @examples(30)
    def test_world_is_parent_world_times_local(self, seed):
        scene = random_scene(seed, is_deep=True)
        frames = [0.0, 11.5, 40.0]
        pose = evaluate(scene, frames)
        for part in scene.parts:
            if part.parent is None:
                continue
            alone = evaluate(Scene("s", "S", parts=(replace(part, parent=None),)), frames)
            expected = pose.world[pose.index[part.parent]] @ alone.world[0]
            np.testing.assert_allclose(pose.world[pose.index[part.id]], expected, rtol=1e-9, atol=1e-8)
