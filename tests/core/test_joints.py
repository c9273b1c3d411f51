import unittest
from dataclasses import replace

import numpy as np
import shapely
from hypothesis import assume, given
from hypothesis import strategies as st
from shapely.affinity import rotate
from shapely.geometry import LineString

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.edits import applied
from jointed_crane.core.edits.joints.eyelets import AddEyelet, DeleteEyelet, MoveEyelet, RenameEyelet, Seat, Unseat
from jointed_crane.core.edits.joints.joining import Join
from jointed_crane.core.edits.pictures.patching import AddRoundPatch
from jointed_crane.core.edits.placing.pivots import MovePivot, PivotIntoRoundEnd
from jointed_crane.core.edits.placing.poses import MoveBy, SetValues, TurnBy
from jointed_crane.core.edits.placing.settling import Reset, Settle
from jointed_crane.core.edits.placing.turning import AddMark, DeleteMark, ScaleAbout, SetMark, TurnAbout
from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.evaluate.pose_at_frame import pivot_at, pose_at
from jointed_crane.core.hierarchy.dependencies import dependencies_of
from jointed_crane.core.measures.gaps import gaps
from jointed_crane.core.measures.round_joints import unlike_round_joint
from jointed_crane.core.measures.snapping import Snapping, circle_centre, nearest, nearest_on_ring
from jointed_crane.core.model.scene import Drawing, Part, Scene
from jointed_crane.core.outlines.outline import filled_area
from jointed_crane.core.viewing.projection import on_stage
from tests.constrained_rigs import constrained, linked
from tests.strategies import examples, random_scene, seeds


def part(name, **fields):
    box = (0.0, 0.0, 40.0, 20.0)
    outline = (((0.0, 0.0), (40.0, 0.0), (40.0, 20.0), (0.0, 20.0)),)
    return Part(name, name, drawings=(Drawing("d", "first", "art", box, box, outline=outline),), **fields)


def one_limb(outline, **fields):
    box = (0.0, 0.0, 40.0, 20.0)
    return Scene(
        "s", "S", parts=(Part("p", "Limb", drawings=(Drawing("d", "D", "art", box, box, outline=outline),), **fields),)
    )


def arm():
    """Body with an arm and a hand, each a little off its eyelet."""
    parts = (
        part("Body", rest={"move.x": 100.0, "turn.z": 20.0}),
        part("Arm", parent="Body", rest={"move.x": 33.0, "move.y": 4.0}, pivot=(5.0, 5.0, 0.0)),
        part("Hand", parent="Arm", rest={"move.x": 3.0, "slide.x": 7.0}, pivot=(1.0, 2.0, 0.0)),
    )
    scene = Scene("s", "S", parts=parts)
    return applied(
        scene, [AddEyelet("Body", "e1", (38.0, 10.0), name="arm"), AddEyelet("Arm", "e2", (39.0, 9.0), name="Hand")]
    )


def widest(scene, frame=None):
    return max((gap.distance for gap in gaps(scene, frame)), default=0.0)


class SeatTests(unittest.TestCase):
    def test_seat_all_brings_every_gap_to_nothing_by_name(self):
        scene = arm()
        self.assertGreater(widest(scene), 1)
        after = applied(scene, [Seat()])
        self.assertLess(widest(after), 1e-9)
        self.assertEqual([gap.is_seated for gap in gaps(after, None)], [True, True])

    @given(seeds)
    @examples(40)
    def test_seat_all_after_parts_were_thrown_about(self, seed):
        random = np.random.default_rng(seed)
        scene = random_scene(seed, is_deep=seed % 2 == 0)
        scene = scene.with_parts(replace(p, footholds=()) for p in scene.parts)
        edits = []
        for child in scene.parts:
            if child.parent:
                x, y = (float(value) for value in random.normal(size=2) * 30)
                edits.append(AddEyelet(child.parent, f"e-{child.id}", (x, y), name=child.name))
        assume(edits)
        frame = [None, 7.5][seed % 2]
        after = applied(scene, [*edits, Seat(frame=frame)])
        for p in after.parts:
            x, y = (float(value) for value in random.normal(size=2) * 80)
            after = applied(after, [SetValues((p.id,), {"move.x": x, "move.y": y}, frame)])
        after = applied(after, [Seat(frame=frame)])
        self.assertLess(widest(after, frame), 1e-6)

    @examples(6)
    @given(seeds)
    def test_seat_all_among_constraints_and_links(self, seed):
        scene = linked(constrained(random_scene(seed), seed), seed)
        frame = [None, 7.5][seed % 2]
        edits = [AddEyelet(child.parent, f"e-{child.id}", (9.0, 4.0), name=child.name)
                 for child in scene.parts if child.parent]  # fmt: skip
        assume(edits)
        after = applied(scene, [*edits, Seat(frame=frame)])
        # What constraints make of a part comes after its own place, and chains stretch what hangs on their joints.
        placed = {part.id for part in after.parts if part.constraints}
        placed |= {joint for chain in dependencies_of(after).companions.values() for joint in chain}
        for gap in gaps(after, frame):
            if gap.part not in placed:
                self.assertLess(gap.distance, 1e-6, gap.part)

    def test_a_seated_child_stays_seated_when_the_eyelet_moves(self):
        scene = applied(arm(), [Seat()])
        after = applied(scene, [MoveEyelet("Body", "e1", (10.0, 3.0))])
        self.assertLess(widest(after), 1e-9)
        self.assertNotEqual(after.part("Arm").rest, scene.part("Arm").rest)

    def test_a_seated_child_stays_seated_when_the_parents_art_slides(self):
        scene = applied(arm(), [Seat()])
        after = applied(scene, [MovePivot("Body", (13.0, 4.0), "art", "pivot"), MovePivot("Body", (3.0, 4.0))])
        self.assertLess(widest(after), 1e-9)

    def test_unseat_frees_and_moves_nothing(self):
        scene = applied(arm(), [Seat()])
        after = applied(scene, [Unseat(("Arm",)), MoveEyelet("Body", "e1", (10.0, 3.0))])
        self.assertIsNone(after.part("Arm").seat)
        self.assertEqual(after.part("Arm").rest, scene.part("Arm").rest)

    def test_joining_elsewhere_and_deleting_the_eyelet_free_the_child(self):
        scene = applied(arm(), [Seat()])
        self.assertIsNone(applied(scene, [Join(("Hand",), "Body")]).part("Hand").seat)
        after = applied(scene, [DeleteEyelet("Body", "e1")])
        self.assertIsNone(after.part("Arm").seat)
        np.testing.assert_allclose(evaluate(after, [0]).world, evaluate(scene, [0]).world)

    def test_in_motion_the_gap_is_closed_by_keys_and_the_rest_stays(self):
        scene = applied(arm(), [Seat(), MoveBy(("Arm",), (12.0, -5.0), 10.0)])
        self.assertAlmostEqual(widest(scene, 10.0), 13.0)
        after = applied(scene, [Seat(("Arm",), frame=10.0)])
        self.assertLess(widest(after, 10.0), 1e-9)
        self.assertEqual(after.part("Arm").rest, scene.part("Arm").rest)

    def test_by_choice_by_pattern_and_what_is_refused(self):
        scene = applied(arm(), [RenameEyelet("Body", "e1", "near joint")])
        with self.assertRaisesRegex(RuleError, "Arm has no eyelet"):
            applied(scene, [Seat(("Arm",))])
        self.assertEqual(applied(scene, [Seat(("Arm",), "e1")]).part("Arm").seat, "e1")
        named = applied(scene, [RenameEyelet("Body", "e1", "joint of Arm"), Seat(("Arm",), pattern="joint of {name}")])
        self.assertEqual(named.part("Arm").seat, "e1")
        with self.assertRaisesRegex(RuleError, "Body has no parent"):
            applied(scene, [Seat(("Body",), "e1")])


class SnapTests(unittest.TestCase):
    def snap(self, at, *kinds, within=6.0, scene=None):
        scene = scene or arm()
        found = nearest(scene, scene.part("Arm"), (*at, 0.0), Snapping(within, kinds), None)
        return found and found.name

    def test_each_kind_by_its_name(self):
        scene = applied(arm(), [Seat(), AddMark("m", (300.0, 200.0))])
        self.assertEqual(self.snap((1, 1), "nine points", scene=scene), "upper left corner of Arm")
        self.assertEqual(self.snap((39, 19), "vertices", scene=scene), "vertex of Arm")
        self.assertEqual(self.snap((22, 2), "edges", scene=scene), "edge of Arm")
        self.assertEqual(self.snap((6, 6), "eyelets", scene=scene), "eyelet arm of Body")
        self.assertEqual(self.snap((38, 9), "pivots", scene=scene), "pivot of Hand")
        self.assertIsNone(self.snap((20, 10), "vertices", "edges", scene=scene))
        self.assertIsNone(self.snap((1, 1), scene=scene))

    def test_a_point_wins_over_an_edge_and_an_edge_over_pixels(self):
        self.assertEqual(self.snap((3, 1), "edges", "nine points", "pixels"), "upper left corner of Arm")
        self.assertEqual(self.snap((12, 1), "edges", "nine points", "pixels"), "edge of Arm")
        self.assertEqual(self.snap((12, 10), "edges", "nine points", "pixels"), "whole pixel")

    @given(seeds)
    @examples(50)
    def test_the_nearest_point_on_an_edge_is_shapelys(self, seed):
        random = np.random.default_rng(seed)
        ring = random.normal(size=(random.integers(3, 20), 2)) * 50
        here = tuple(float(value) for value in random.normal(size=2) * 80)
        line = shapely.LinearRing(ring)
        self.assertAlmostEqual(
            np.hypot(*np.subtract(nearest_on_ring(ring, ring, here)[0], here)), line.distance(shapely.Point(here))
        )

    def test_the_centre_of_a_drawn_circle_and_of_nothing_else(self):
        angle = np.linspace(0, 2 * np.pi, 40, endpoint=False)
        circle = np.stack([30 + 12 * np.cos(angle), -7 + 12 * np.sin(angle)], axis=1)
        np.testing.assert_allclose(circle_centre(tuple(map(tuple, circle))), (30, -7), atol=1e-9)
        self.assertIsNone(circle_centre(tuple(map(tuple, circle * [1, 1.4]))))
        self.assertGreater(filled_area([circle]).area, 400)

    def test_a_dragged_eyelet_does_not_snap_to_itself(self):
        scene = arm()
        edit = MoveEyelet("Body", "e1", (37.5, 9.8), snapping=Snapping(3.0, ("eyelets",)))
        self.assertIsNone(edit.snap(scene))


class GridTests(unittest.TestCase):
    @examples(40)
    @given(st.sampled_from([1.6, 8.0, 40.0, 200.0]), st.floats(-300, 300), st.floats(-300, 300))
    def test_points_go_to_the_lines_that_the_mat_shows(self, square, x, y):
        scene = arm()
        edit = MovePivot("Hand", (x, y), "stage", "art", Snapping(1e6, ("grid",), square))
        found = pivot_at(applied(scene, [edit]), "Hand", None)[:2]
        marked = applied(scene, [AddMark("m", (x, y)), SetMark("m", (x, y), None, Snapping(1e6, ("grid",), square))])
        for place in (found, np.array(marked.marks[-1].place)):  # halfway between lines either is the nearest
            np.testing.assert_allclose(place, np.round(place / square) * square, atol=1e-6)
            self.assertLess(np.abs(place - [x, y]).max(), square / 2 + 1e-6)

    def test_squares_without_size_draw_nothing(self):
        for square in (0.0, -8.0, 1e-300, 1e300):
            after = applied(arm(), [MovePivot("Arm", (3.3, 4.4), "art", "art", Snapping(1e6, ("grid",), square))])
            self.assertEqual(after.part("Arm").pivot[:2], (3.3, 4.4))


class RoundEndTests(unittest.TestCase):
    """The middle of a round end, against shapely's round caps, whose corners lie on their circle."""

    @examples(40)
    @given(st.floats(4, 12), st.floats(6, 40), st.integers(6, 30), st.floats(0, 360), seeds)
    def test_a_pivot_near_a_round_end_goes_into_its_middle_and_the_art_stays(self, slim, radius, corners, turn, seed):
        at = np.random.default_rng(seed).normal(0, radius / 2, 2)
        cap = LineString([(0, 0), (0, slim * radius)]).buffer(radius, quad_segs=corners)
        outline = (tuple(rotate(cap, turn, origin=(0, 0)).exterior.coords[:-1]),)
        scene = one_limb(outline, pivot=(*at, 0.0), rest={"turn.z": 20.0, "scale.x": -1.5, "shear.xy": 0.3})
        after = applied(scene, [PivotIntoRoundEnd(("p",))])
        np.testing.assert_allclose(after.part("p").pivot[:2], (0, 0), atol=0.01 * radius / corners)
        np.testing.assert_allclose(evaluate(after, [0.0]).world, evaluate(scene, [0.0]).world, atol=1e-9)

    @examples(20)
    @given(st.floats(5, 40), st.floats(5, 40), st.sampled_from([-1.0, 0.7, 1.0]), st.booleans(), st.floats(-90, 90))
    def test_a_round_patch_is_as_large_as_the_larger_end_at_every_angle(self, one, other, scale, is_behind, turn):
        """About the joint, where the limb lies in any order, mirrored and turned."""

        def limb(name, radius, parent, place):
            rings = (tuple(LineString([(0, 0), (0, 150)]).buffer(radius, quad_segs=24).exterior.coords),)
            box = (-radius, -radius, radius, 150 + radius)
            drawing = Drawing(f"d{name}", name, "art", box, box, outline=rings)
            rest = {"move.x": place[0], "move.y": place[1]}
            return Part(name, name, parent=parent, drawings=(drawing,), rest=rest)

        upper = limb("Upper", one, None, (200.0, 100.0))
        lower = limb("Lower", other, "Upper", (0.0, 150.0))
        lower = replace(lower, rest={**lower.rest, "scale.x": scale, "scale.y": abs(scale), "turn.z": 20.0})
        parts = (lower, upper) if is_behind else (upper, lower)
        after = applied(Scene("s", "S", parts=parts), [AddRoundPatch("Lower", "patch", "#334455")])
        self.assertEqual([part.id for part in after.parts][1], "patch")
        after = applied(after, [TurnBy(("Lower",), turn, 3.0)])
        centre = pivot_at(after, "Lower", 3.0)[:2]
        world = pose_at(after, 3.0).world_of("patch")
        drawing = after.part("patch").drawings[0]
        ring = on_stage(world, np.array(drawing.outline[0]))
        # The limb ends as a polygon of 96 corners, in which the circle lies that counts.
        largest = max(one, other * abs(scale)) * np.cos(np.pi / 96)
        self.assertLess(np.abs(np.linalg.norm(ring - centre, axis=1) - largest).max(), 0.02 * largest)
        self.assertEqual(drawing.shape.paint.fill, "#334455")
        self.assertEqual(
            [unlike_round_joint(after, after.part(name), 0.75, 0.03) for name in ("Lower", "patch")], [None] * 2
        )

    def test_a_patch_without_a_limb_says_so(self):
        with self.assertRaisesRegex(RuleError, "Neither Body nor a parent of it ends round"):
            applied(arm(), [AddRoundPatch("Body", "patch", "#334455")])

    def test_what_has_no_round_end_says_so(self):
        scene = one_limb((((0.0, 0.0), (40.0, 0.0), (40.0, 90.0), (0.0, 90.0)),))
        with self.assertRaisesRegex(
            RuleError, "no round end: nowhere does its outline follow a circle over 120 degrees"
        ):
            applied(scene, [PivotIntoRoundEnd(("p",))])


class SettleTests(unittest.TestCase):
    @given(seeds)
    @examples(40)
    def test_settling_moves_nothing_at_any_frame_and_reads_neutral_here(self, seed):
        scene = random_scene(seed, is_deep=seed % 2 == 0)
        frame = float(np.random.default_rng(seed).uniform(0, 48))
        frames = np.linspace(-5, 60, 40)
        before = evaluate(scene, frames)
        try:
            after = applied(scene, [Settle(frame)])
        except RuleError:
            assume(False)
        found = evaluate(after, frames)
        size = max(1.0, float(np.abs(before.world).max()))
        np.testing.assert_allclose(found.world / size, before.world / size, atol=1e-9)
        np.testing.assert_allclose(found.opacity, before.opacity, atol=1e-9)
        np.testing.assert_array_equal(found.shown, before.shown)
        motion = evaluate(after, [frame]).motion_at()
        for channels in motion.values():
            for name, value in channels.items():
                if name not in ("shown", "drawing"):
                    self.assertAlmostEqual(value, 1.0 if name in ("scale.x", "opacity") else 0.0, places=7)

    def test_a_scale_of_nothing_is_not_settled(self):
        scene = applied(arm(), [SetValues(("Arm",), {"scale.x": 0.0}, 4.0)])
        with self.assertRaisesRegex(RuleError, "Scale x of Arm is 0 at frame 4"):
            applied(scene, [Settle(4.0)])

    def test_reset_brings_keyed_channels_home_at_the_frame_only(self):
        scene = applied(arm(), [SetValues(("Arm",), {"turn.z": 30.0, "scale.y": 2.0}, 4.0)])
        after = applied(scene, [Reset(("Arm",), (), 8.0)])
        self.assertEqual(evaluate(after, [8.0]).motion_at()["Arm"], {"turn.z": 0.0, "scale.y": 1.0})
        self.assertEqual(after.part("Arm").channels["turn.z"].key_at(4.0).value, 30.0)
        self.assertEqual(after.part("Hand"), scene.part("Hand"))

    def test_reset_at_rest_leaves_where_parts_rest(self):
        after = applied(arm(), [Reset()])
        self.assertEqual(after.part("Body").rest_value("turn.z"), 0.0)
        self.assertEqual(after.part("Body").rest_value("move.x"), 100.0)
        self.assertEqual(after.part("Hand").rest_value("slide.x"), 0.0)


class TurnAboutTests(unittest.TestCase):
    def test_parts_turn_and_scale_as_one_body(self):
        for seed in range(10):
            scene = random_scene(seed)
            scene = scene.with_parts(
                replace(p, rest={**p.rest, "shear.xy": 0.0}) for p in scene.parts if p.parent is None
            )
            tops = tuple(p.id for p in scene.parts if p.parent is None)
            before = evaluate(scene.at_rest, [0])
            turned = evaluate(applied(scene, [TurnAbout(tops, 40.0, (70.0, -20.0))]).at_rest, [0])
            scaled = evaluate(applied(scene, [ScaleAbout(tops, 1.5, (70.0, -20.0))]).at_rest, [0])
            angle = np.deg2rad(40)
            turn = np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])
            for p in scene.parts:
                pivot = before.pivot_of(p.id)[:2] - (70.0, -20.0)
                for found, by in ((turned, turn), (scaled, 1.5 * np.eye(2))):
                    now = found.pivot_of(p.id)[:2] - (70.0, -20.0)
                    np.testing.assert_allclose(now, by @ pivot, atol=1e-8)

    def test_marks_are_placed_moved_and_taken_away(self):
        scene = applied(
            arm(), [AddMark("m", (3.0, 4.0)), AddMark("n", (5.0, 6.0)), SetMark("m", (7.0, 8.0), "Heel post")]
        )
        found = [(mark.name, mark.place) for mark in scene.marks]
        self.assertEqual(found, [("Heel post", (7.0, 8.0)), ("Mark 2", (5.0, 6.0))])
        self.assertEqual([mark.id for mark in applied(scene, [DeleteMark("m")]).marks], ["n"])
        with self.assertRaisesRegex(RuleError, "no such mark"):
            applied(scene, [DeleteMark("x")])
