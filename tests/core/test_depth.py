"""Scenes in depth: turns about any line, moves in views, axes, cameras, boxes, and what is painted over what."""

import unittest
from dataclasses import replace

import numpy as np
import shapely
from hypothesis import given
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.edits.pictures.boxes import AddBox, AddPrism
from jointed_crane.core.edits.pictures.folding import Fold
from jointed_crane.core.edits.pictures.making_shapes import AddShape, MoveNode
from jointed_crane.core.edits.placing.axes import SetAxes
from jointed_crane.core.edits.placing.pivots import MovePivot
from jointed_crane.core.edits.placing.poses import MoveAlong, MoveBy, SetValues, TurnBy
from jointed_crane.core.edits.placing.turning import ScaleAbout, TurnAbout
from jointed_crane.core.edits.scene.cameras import AddCamera, MoveCamera, SetCut, SpreadInDepth
from jointed_crane.core.edits.scene.framing import FrameParts
from jointed_crane.core.edits.scene.parts import DeleteParts
from jointed_crane.core.edits.shared.edit import applied
from jointed_crane.core.evaluate.pose_at_frame import pose_at, world_at
from jointed_crane.core.geometry.decomposition import turns_of
from jointed_crane.core.geometry.nine_points import box_corners
from jointed_crane.core.measures.snapping import Snapping
from jointed_crane.core.model.forms import Node, Paint, PenPath, Rectangle
from jointed_crane.core.model.scene import Drawing, Part, Scene
from jointed_crane.core.viewing.cameras import camera_on, camera_view, stage_view
from jointed_crane.core.viewing.painting import painting
from jointed_crane.core.viewing.projection import carried, on_stage, seen_from
from jointed_crane.core.viewing.shown import shown
from jointed_crane.core.viewing.view import STAGE, from_around, straight
from tests.strategies import ASIDE, STUB_NAME, examples, random_scene, seeds

ORDERS = ("XYZ", "XZY", "YXZ", "YZX", "ZXY", "ZYX")


def rigid_scene(seed: int) -> Scene:
    """Deep parts without stretch or shear, so that a turn of one is a turn in space; some are mirrored."""
    scene = random_scene(seed, is_deep=True)
    kept = ("move.", "turn.", "spin.", "slide.")
    parts = []
    for number, part in enumerate(scene.parts):
        rest = {name: value for name, value in part.rest.items() if name.startswith(kept)}
        if number % 3 == 0:
            rest["scale.x"] = -1.0
        parts.append(replace(part, rest=rest, channels={}, footholds=()))
    return replace(scene, parts=tuple(parts))


def deep_part(seed: int) -> tuple[Scene, Part, np.random.Generator]:
    """A random scene in depth, a part of it by chance, and more of that chance."""
    random, scene = np.random.default_rng(seed), random_scene(seed, is_deep=True)
    return scene, scene.parts[int(random.integers(len(scene.parts)))], random


def linear(scene, part_id):
    return pose_at(scene, None).world_of(part_id)[:3, :3]


class TurningTests(unittest.TestCase):
    @given(seeds, st.floats(-1200, 1200))
    @examples(40)
    def test_what_lies_flat_turns_by_whole_turns_too_as_it_does_without_depth(self, seed, degrees):
        flat = random_scene(seed)
        part = flat.parts[seed % len(flat.parts)].id
        shared, own = TurnAbout((part,), degrees, (40.0, -25.0), 7.0), TurnBy((part,), degrees, 7.0)
        for edit, in_depth in ((shared, shared), (own, replace(own, about="sight", view=STAGE))):
            known = applied(flat, [edit]).part(part)
            found = applied(replace(flat, depth=True), [in_depth]).part(part)
            for name in ("turn.z", "move.x", "move.y"):
                one, other = (each.channels[name].keys if name in each.channels else () for each in (known, found))
                np.testing.assert_allclose(
                    [key.value for key in other], [key.value for key in one], rtol=0, atol=1e-9, err_msg=name
                )

    @given(seeds)
    @examples(40)
    def test_turns_come_back_from_rotations_beside_the_ones_before(self, seed):
        random = np.random.default_rng(seed)
        for order in ORDERS:
            angles = random.uniform(-500, 500, 3)
            angles[order.index(order[1])] = random.uniform(-85, 85)
            places = ["XYZ".index(letter) for letter in order]
            matrix = Rotation.from_euler(order, angles[places], degrees=True).as_matrix()
            near = angles + random.uniform(-1, 1, 3)
            found = turns_of(matrix, order, near)
            again = Rotation.from_euler(order, found[places], degrees=True).as_matrix()
            np.testing.assert_allclose(again, matrix, atol=1e-9)
            self.assertLess(np.abs(found - near).max(), 360)

    def test_turns_come_back_where_two_axes_fall_together(self):
        for middle in (90.0, -90.0, 90.0 + 360):
            matrix = Rotation.from_euler("XYZ", (20.0, middle, 35.0), degrees=True).as_matrix()
            found = turns_of(matrix, "XYZ", np.array([20.0, middle, 35.0]))
            np.testing.assert_allclose(Rotation.from_euler("XYZ", found, degrees=True).as_matrix(), matrix, atol=1e-7)
            np.testing.assert_allclose(found, (20.0, middle, 35.0), atol=1e-5)

    @given(seeds)
    @examples(40)
    def test_a_part_turns_about_the_line_of_sight_as_scipy_turns_it(self, seed):
        scene = rigid_scene(seed)
        random = np.random.default_rng(seed)
        part = scene.parts[int(random.integers(len(scene.parts)))]
        degrees = float(random.uniform(-170, 170))
        for view in (STAGE, ASIDE, straight("top")):
            after = applied(scene, [TurnBy((part.id,), degrees, about="sight", view=view)])
            pivot = pose_at(scene, None).pivot_of(part.id)
            turn = Rotation.from_rotvec(np.deg2rad(degrees) * -view.sight_of(pivot)).as_matrix()
            np.testing.assert_allclose(linear(after, part.id), turn @ linear(scene, part.id), atol=1e-9)
            np.testing.assert_allclose(pose_at(after, None).pivot_of(part.id), pivot, atol=1e-9)

    @given(seeds)
    @examples(20)
    def test_many_turn_and_grow_as_one_body(self, seed):
        scene = rigid_scene(seed)
        ids = tuple(part.id for part in scene.parts if part.parent is None)
        centre = np.mean([pose_at(scene, None).pivot_of(part_id) for part_id in ids], axis=0)
        turned = applied(scene, [TurnAbout(ids, 33.0, "shared centre", view=ASIDE)])
        grown = applied(scene, [ScaleAbout(ids, 1.7, "shared centre", view=ASIDE)])
        turn = Rotation.from_rotvec(np.deg2rad(33.0) * -ASIDE.sight_of(centre)).as_matrix()
        for part_id in ids:
            arm = pose_at(scene, None).pivot_of(part_id) - centre
            np.testing.assert_allclose(pose_at(turned, None).pivot_of(part_id), centre + turn @ arm, atol=1e-9)
            np.testing.assert_allclose(linear(turned, part_id), turn @ linear(scene, part_id), atol=1e-9)
            np.testing.assert_allclose(pose_at(grown, None).pivot_of(part_id), centre + 1.7 * arm, atol=1e-8)

    def test_a_hinge_turns_about_its_one_axis_whatever_the_view(self):
        part = replace(rigid_scene(4).parts[0], parent=None, fixed=("turn.y", "turn.z"))
        scene = Scene("s", "Hinge", parts=(part,), depth=True)
        after = applied(scene, [TurnBy((part.id,), 20.0, about="sight", view=ASIDE)]).part(part.id)
        self.assertEqual([after.rest_value(f"turn.{axis}") for axis in "yz"],
                         [part.rest_value(f"turn.{axis}") for axis in "yz"])  # fmt: skip
        self.assertNotEqual(after.rest_value("turn.x"), part.rest_value("turn.x"))


class ViewTests(unittest.TestCase):
    @given(seeds)
    @examples(40)
    def test_a_part_moves_in_the_plane_of_the_view_by_the_px_that_were_dragged(self, seed):
        scene, part, random = deep_part(seed)
        by = tuple(random.uniform(-80, 80, 2).tolist())
        for view in (from_around((0, 0, 0), 34, 21, 4000), straight("right", scale=2.0)):
            before = pose_at(scene, None).pivot_of(part.id)
            after = pose_at(applied(scene, [MoveBy((part.id,), by, view=view)]), None).pivot_of(part.id)
            np.testing.assert_allclose(seen_from(after, view) - seen_from(before, view), by, atol=1e-6)
            np.testing.assert_allclose(view.depths[:3] @ after, view.depths[:3] @ before, atol=1e-6)

    @given(seeds)
    @examples(40)
    def test_a_pivot_dragged_in_a_view_leaves_the_art_where_it_is(self, seed):
        scene, part, random = deep_part(seed)
        # What spins carries its art past the pivot, so the point that is seen there is another one.
        part = part.with_rest({f"spin.{axis}": 0.0 for axis in "xyz"})
        scene = scene.with_parts([part])
        view = from_around((0, 0, 0), 34, 21, 4000)
        where = seen_from(pose_at(scene, None).pivot_of(part.id), view) + random.uniform(-30, 30, 2)
        try:
            after = applied(scene, [MovePivot(part.id, tuple(where.tolist()), "stage", view=view)])
        except RuleError:
            return  # beyond what numbers reach
        was, now = pose_at(scene, None).world, pose_at(after, None).world
        np.testing.assert_allclose(now, was, rtol=1e-9, atol=1e-6)
        np.testing.assert_allclose(seen_from(pose_at(after, None).pivot_of(part.id), view), where, atol=1e-5)

    def test_a_node_of_a_tilted_path_comes_to_where_it_is_dragged_in_any_view(self):
        random = np.random.default_rng(2)
        path = PenPath(((Node((0.0, 0.0)), Node((90.0, 10.0)), Node((40.0, 80.0))),), paint=Paint("#12706f"))
        for view in (ASIDE, from_around((300, 300, 0), -40, 20, 3000), STAGE):
            scene = applied(Scene("s", "S", depth=True), [AddShape("p", path, "P", (200.0, 150.0))])
            turns = dict(zip(("turn.x", "turn.y", "turn.z"), random.uniform(-50, 50, 3).tolist(), strict=True))
            scene = applied(scene, [SetValues(("p",), turns)])
            seen = on_stage(world_at(scene, "p", None), np.array([90.0, 10.0]), view) + np.array([25.0, -14.0])
            after = applied(scene, [MoveNode("p", "p-1", 0, 1, tuple(seen.tolist()), view=view)])
            (_, node, _), *_ = after.part("p").drawings[0].shape.contours
            now = on_stage(world_at(after, "p", None), np.array(node.point), view)
            np.testing.assert_allclose(now, seen, atol=1e-6)

    def test_a_pivot_snaps_to_the_corner_of_a_plane_that_lies_elsewhere(self):
        box = (0.0, 0.0, 100.0, 60.0)
        ring = ((0.0, 0.0), (100.0, 0.0), (100.0, 60.0), (0.0, 60.0))
        drawing = Drawing("d", "D", STUB_NAME, box, box, outline=(ring,))
        far = Part("far", "Far", drawings=(drawing,), rest={"move.x": 30.0, "move.z": -200.0, "turn.y": 40.0})
        near = Part("near", "Near", drawings=(replace(drawing, id="e"),), rest={"move.y": 90.0})
        scene = Scene("s", "Corners", parts=(far, near), depth=True)
        corner = carried(pose_at(scene, None).world_of("far"), np.array([100.0, 60.0, 0.0]))
        at = seen_from(corner, ASIDE) + np.array([2.0, -1.0])
        edit = MovePivot("near", tuple(at.tolist()), "stage", snapping=Snapping(6.0, ("corners",)), view=ASIDE)
        after = applied(scene, [edit])
        np.testing.assert_allclose(pose_at(after, None).pivot_of("near"), corner, atol=1e-9)
        np.testing.assert_allclose(
            pose_at(after, None).world_of("near"), pose_at(scene, None).world_of("near"), atol=1e-9
        )

    def test_moves_go_along_the_stage_the_parent_or_the_part_itself(self):
        hub = Part("hub", "Hub", "helper", rest={"turn.y": 90.0})
        arm = Part("arm", "Arm", "helper", "hub", rest={"move.x": 10.0})
        scene = applied(Scene("s", "Along", parts=(hub, arm), depth=True), [SetAxes("arm", (90.0, 0.0, 0.0))])
        start = pose_at(scene, None).pivot_of("arm")
        wanted = {"stage": (0, 0, 5), "parent": (5, 0, 0), "own": (0, -5, 0)}
        for of, way in wanted.items():
            after = applied(scene, [MoveAlong(("arm",), "z", 5.0, of)])
            np.testing.assert_allclose(pose_at(after, None).pivot_of("arm") - start, way, atol=1e-9)

    @given(seeds)
    @examples(30)
    def test_axes_are_laid_as_scipy_says_and_the_art_stays(self, seed):
        scene, part, random = deep_part(seed)
        turns = tuple(random.uniform(-180, 180, 3).tolist())
        after = applied(scene, [SetAxes(part.id, turns)])
        places = ["XYZ".index(letter) for letter in part.turn_order]
        wanted = Rotation.from_euler(part.turn_order, np.array(turns)[places], degrees=True).as_matrix()
        found = Rotation.from_quat(after.part(part.id).orientation).as_matrix()
        np.testing.assert_allclose(found, wanted, atol=1e-9)
        at_rest = pose_at(scene, None).world, pose_at(after, None).world
        np.testing.assert_allclose(at_rest[1], at_rest[0], rtol=1e-9, atol=1e-7)


class CameraTests(unittest.TestCase):
    def test_a_new_camera_sees_the_stage_as_it_is_and_is_on_until_the_next_cut(self):
        scene = applied(Scene("s", "Cameras"), [AddCamera("a"), AddCamera("b", view=ASIDE), SetCut(12.0, "b")])
        scene = applied(scene, [SetCut(30.0, None)])
        self.assertTrue(scene.depth)
        on = [camera_on(scene, frame) for frame in (None, 0.0, 11.5, 12.0, 29.0, 30.0)]
        self.assertEqual([camera and camera.id for camera in on], ["a", "a", "a", "b", "b", None])
        places = np.array([[0.0, 0.0, 0.0], [1280.0, 720.0, 0.0], [300.0, 100.0, 0.0]])
        seen = seen_from(places, stage_view(scene, pose_at(scene, 0.0)))
        np.testing.assert_allclose(seen, places[:, :2], atol=1e-9)
        aside = seen_from(places, stage_view(scene, pose_at(scene, 12.0))) - (640.0, 360.0)
        np.testing.assert_allclose(aside, seen_from(places, ASIDE), atol=1e-9)
        self.assertEqual(stage_view(scene, pose_at(scene, 30.0)), STAGE)
        self.assertEqual(applied(scene, [DeleteParts(("b",))]).cuts[1].camera, None)

    def test_round_aside_and_nearer_keep_what_is_looked_at_in_the_middle(self):
        scene = applied(Scene("s", "Round"), [AddCamera("a")])
        middle = np.array([640.0, 360.0, 0.0])
        far = np.linalg.norm(np.array(stage_view(scene, pose_at(scene, None), is_at_rest=True).place) - middle)
        for move, share in ((MoveCamera("a", (30.0, 20.0)), 1.0), (MoveCamera("a", nearer=0.25), 0.75)):
            view = stage_view(applied(scene, [move]), pose_at(applied(scene, [move]), None), is_at_rest=True)
            np.testing.assert_allclose(seen_from(middle, view), (640, 360), atol=1e-9)
            self.assertAlmostEqual(np.linalg.norm(np.array(view.place) - middle), share * far)
        aside = applied(scene, [MoveCamera("a", aside=(50.0, -20.0))])
        view = stage_view(aside, pose_at(aside, None), is_at_rest=True)
        np.testing.assert_allclose(seen_from(middle, view), (690, 340), atol=1e-9)

    @given(seeds, st.booleans())
    @examples(20)
    def test_what_a_camera_frames_fills_its_picture_but_for_a_margin(self, seed, is_parallel):
        random = np.random.default_rng(seed)
        box = AddBox("b", size=tuple(random.uniform(50, 400, 3).tolist()))
        view = from_around((640, 360, 0), *random.uniform(-80, 80, 2).tolist(), 900)
        camera = AddCamera("cam", view=view, parallel=is_parallel)
        scene = applied(Scene("s", "Frame"), [box, camera])
        faces = tuple(part.id for part in scene.parts if part.bounds)
        after = applied(scene, [FrameParts("cam", faces)])
        was, now = (camera_view(one, one.part("cam"), pose_at(one, None), is_at_rest=True) for one in (scene, after))
        np.testing.assert_allclose(now.axes, was.axes, atol=1e-12)
        seen = seen_from(np.concatenate([*PanelTests().corners(after).values()]), now)
        margins = np.array([*seen.min(axis=0), *((1280, 720) - seen.max(axis=0))]) / (1280, 720, 1280, 720)
        self.assertAlmostEqual(margins.min(), 0.08, delta=2e-3)
        free = int(margins[[0, 2]].min() > margins[[1, 3]].min())
        self.assertAlmostEqual(margins[free], margins[free + 2], delta=4e-3)

    @given(seeds)
    @examples(20)
    def test_layers_spread_in_depth_look_the_same_from_the_camera(self, seed):
        random = np.random.default_rng(seed)
        ids = [f"layer {number}" for number in range(4)]
        shapes = [
            AddShape(name, Rectangle(tuple((random.uniform(0, 300, 4) + np.array([0, 0, 400, 400])).tolist())), name)
            for name in ids
        ]
        camera = AddCamera("cam", view=from_around((640, 360, 0), *random.uniform(-25, 25, 2).tolist(), 1500))
        scene = applied(Scene("s", "Layers"), [*shapes, camera])
        after = applied(scene, [SpreadInDepth(tuple(ids), float(random.uniform(-150, 400)))])
        for part in scene.parts[:-1]:
            corners = box_corners(part.bounds)
            was, now = (
                on_stage(pose_at(one, None).world_of(part.id), corners, stage_view(one, pose_at(one, None)))
                for one in (scene, after)
            )
            np.testing.assert_allclose(now, was, atol=1e-9, rtol=1e-9)


class PanelTests(unittest.TestCase):
    def corners(self, scene, kinds=("drawing", "shape")):
        pose = pose_at(scene, None)
        rings = {part.id: np.array(part.outline[0]) for part in scene.parts if part.kind in kinds}
        return {
            name: carried(pose.world_of(name), np.column_stack([ring, np.zeros(len(ring))]))
            for name, ring in rings.items()
        }

    def test_the_faces_of_a_box_meet_at_eight_corners(self):
        scene = applied(Scene("s", "Box"), [AddBox("b", size=(300.0, 200.0, 120.0))])
        met = np.concatenate([*self.corners(scene).values()])
        self.assertEqual(len(met), 24)
        places, counts = np.unique(np.round(met, 6), axis=0, return_counts=True)
        self.assertEqual(counts.tolist(), [3] * 8)
        np.testing.assert_allclose(places.max(axis=0) - places.min(axis=0), (300, 200, 120), atol=1e-6)
        np.testing.assert_allclose(places.mean(axis=0), (640, 360, 0), atol=1e-6)

    def test_pictures_are_fitted_to_the_faces_and_are_slots(self):
        drawings = tuple(
            Drawing(f"d{number}", "Picture", STUB_NAME, (0.0, 0.0, 40.0, 30.0), (5.0, 5.0, 35.0, 25.0))
            for number in range(6)
        )
        scene = applied(Scene("s", "Box"), [AddBox("b", size=(300.0, 200.0, 120.0), drawings=drawings)])
        faces = [part for part in scene.parts if part.parent == "b"]
        self.assertEqual(faces[0].bounds, (-150.0, -100.0, 150.0, 100.0))
        self.assertEqual(faces[1].bounds, (-60.0, -100.0, 60.0, 100.0))
        self.assertEqual([part.slots["picture"] for part in faces][4:], ["Box top", "Box bottom"])

    def test_the_sides_of_a_prism_meet_edge_to_edge(self):
        for sides in (3, 5, 24):
            scene = applied(Scene("s", "Prism"), [AddPrism("p", sides=sides, wide=80.0, high=150.0)])
            corners = self.corners(scene)
            met = np.round(np.concatenate([corners[f"p-{number}"] for number in range(sides)]), 6)
            _, counts = np.unique(met, axis=0, return_counts=True)
            self.assertEqual(counts.tolist(), [2] * (2 * sides))
            top = corners[f"p-{sides}"]
            for corner in top:
                self.assertLess(np.abs(met - corner).max(axis=1).min(), 1e-3)
        with self.assertRaisesRegex(RuleError, "3 to"):
            applied(Scene("s", "Prism"), [AddPrism("p", sides=2)])

    def test_a_lever_folds_as_far_as_rest_does(self):
        paint = Paint(stroke="#6b4a1f", width=2.0)  # whose corners are cut off in the outline
        places = {"m": (0, 0), "n": (0, -200), "e": (200, 0), "s": (0, 200), "w": (-200, 0), "l": (400, 0)}
        shapes = [
            AddShape(name, Rectangle((x + 500.0, y + 300.0, x + 700.0, y + 500.0), paint=paint), name)
            for name, (x, y) in places.items()
        ]
        flat = applied(Scene("s", "Net"), shapes)
        folded = applied(flat, [Fold(tuple(places), 90.0, 3.0)])
        levered = applied(flat, [Fold(tuple(places), 90.0, 3.0, "lever")])
        self.assertTrue(levered.depth)
        for name in places:
            np.testing.assert_allclose(
                pose_at(levered, None).world_of(name), pose_at(flat, None).world_of(name), atol=1e-9
            )
        after = applied(levered, [SetValues(("lever",), {"lever.x": 1.0})])
        for name in places:
            np.testing.assert_allclose(
                pose_at(after, None).world_of(name), pose_at(folded, None).world_of(name), atol=1e-9
            )


class PaintingTests(unittest.TestCase):
    def cards(self, **rest):
        box = (0.0, 0.0, 100.0, 100.0)
        return {
            name: Part(name, name, drawings=(Drawing(name, "D", STUB_NAME, box, box),), rest=own)
            for name, own in rest.items()
        }

    def order(self, scene, view=STAGE):
        return [one.part_id for one in painting(shown(scene, pose_at(scene, None)), view)]

    def test_a_shape_that_grows_is_cut_as_large_as_it_is(self):
        shape = Rectangle((0.0, 0.0, 100.0, 40.0), paint=Paint("#b07d2b"))
        scene = applied(Scene("s", "Grows", depth=True), [AddShape("s", shape, "S", (200.0, 200.0))])
        scene = applied(scene, [SetValues(("s",), {"form.right": 300.0}, 20.0)])
        upright = self.cards(u={"move.x": 260.0, "move.y": 170.0, "move.z": 50.0, "turn.y": 70.0})["u"]
        scene = replace(scene, parts=(upright, *scene.parts))
        clips = [one.clip for one in painting(shown(scene, pose_at(scene, 20.0)), STAGE) if one.part_id == "s"]
        self.assertEqual(len(clips), 2)
        left, right = 0.0, 400.0  # of the shape itself, where the picture's zero is
        reach = np.concatenate(clips)[:, 0]
        self.assertLess(reach.min(), left + 1e-9)
        self.assertGreater(reach.max(), right - 1e-9)

    def test_without_depth_the_list_counts_and_with_it_what_is_nearer(self):
        cards = self.cards(a={"move.z": 30.0}, b={"move.z": -30.0}, c={})
        scene = Scene("s", "Cards", parts=tuple(cards.values()))
        self.assertEqual(self.order(scene), ["a", "b", "c"])
        deep = replace(scene, depth=True)
        self.assertEqual(self.order(deep), ["b", "c", "a"])
        self.assertEqual(self.order(deep, straight("back")), ["a", "c", "b"])

    def test_what_hangs_on_a_helper_is_painted_by_the_list_where_that_is_chosen(self):
        cards = self.cards(a={"move.z": 30.0}, b={"move.z": -30.0}, c={"move.z": 5.0}, d={"move.z": 60.0})
        hub = Part("hub", "Hub", "helper", painted_by="list")
        parts = (hub, *(replace(cards[name], parent="hub") for name in "abc"), cards["d"])
        scene = Scene("s", "Cards", parts=parts, depth=True)
        self.assertEqual(self.order(scene), ["a", "b", "c", "d"])
        self.assertEqual(self.order(replace(scene, parts=(*parts[:-1], replace(parts[-1], rest={"move.z": -9.0})))),
                         ["d", "a", "b", "c"])  # fmt: skip

    def test_a_piece_hides_what_it_lies_before(self):
        cards = self.cards(a={}, b={"turn.y": 30.0, "move.x": -20.0})
        cards["b"] = replace(cards["b"], pivot=(50.0, 50.0, 0.0), rest={"turn.y": 30.0, "move.x": 50.0, "move.y": 50.0})
        scene = Scene("s", "Cards", parts=tuple(cards.values()), depth=True)
        pieces = painting(shown(scene, pose_at(scene, None)), STAGE)
        self.assertEqual(len(pieces), 3)
        whole, (first, *_, last) = [one for one in pieces if one.clip is None], pieces
        self.assertEqual([one.part_id for one in whole], ["a"] if first.part_id == "b" else ["b"])
        # Pieces of one plane overlap a little at their line, so that nothing shines through it.
        clips = [one.clip for one in (first, last)]
        areas = [shapely.Polygon(clip).area for clip in clips]
        self.assertGreater(sum(areas), 100 * 100)


if __name__ == "__main__":
    unittest.main()
