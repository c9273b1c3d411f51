"""Parts that run along paths, against svgelements' arc lengths, and parts that change hands without a jump."""

import unittest
from dataclasses import replace

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from svgelements import Path

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.constraints.along_path import AlongPath
from jointed_crane.core.constraints.carry import Carry, Hold
from jointed_crane.core.constraints.constraint import Goal, number_channel
from jointed_crane.core.edits import applied
from jointed_crane.core.edits.constraints.changing_hands import CarryFrom, DropChange, MatchReach, MoveChange
from jointed_crane.core.edits.constraints.constraining import Constrain
from jointed_crane.core.edits.placing.poses import SetValues
from jointed_crane.core.edits.scene.parts import DeleteParts
from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.model.forms import Ellipse, Node, Paint, PenPath, Polygon, Rectangle
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.motion.channel import Channel, Key
from jointed_crane.core.shapes.picture import path_data, shape_drawing
from jointed_crane.core.shapes.reshaping import numbers_of_shape, shape_at
from tests.constrained_rigs import arm, constrained, helper, moving
from tests.strategies import edit_for, examples, random_scene, seeds

INK = Paint("", "#20303c", 2.0)
BEND = PenPath(
    ((Node((0.0, 0.0), None, (120.0, -40.0)), Node((200.0, 90.0), (-10.0, -80.0), (10.0, 80.0)), Node((330.0, 20.0))),),
    is_closed=False,
    paint=INK,
)
ROUND = Ellipse((10.0, -20.0), (140.0, 60.0), INK)


def on_path(shape, shares, world=None, **fields):
    """A boat on a path at some shares of it, one a frame, and the scene that it is in."""
    course = Part("course", "Course", "shape", drawings=(shape_drawing("d", "Course", shape),), rest=world or {})
    rule = AlongPath(id="a", name="Along", goal=Goal(part="course"), **fields)
    keys = tuple(Key(float(frame), float(share), "straight") for frame, share in enumerate(shares))
    boat = replace(helper("boat"), constraints=(rule,)).with_channel(number_channel("a", "along"), Channel(keys))
    return Scene("s", "S", parts=(course, boat))


def places(scene, frames, part="boat"):
    return evaluate(scene, frames).pivot[scene.index[part], :, :2]


class PathTests(unittest.TestCase):
    def test_equal_shares_are_equal_lengths_by_a_path_library(self):
        for shape in (BEND, ROUND):
            shares = np.linspace(0.0, 1.0, 9)
            found = places(on_path(shape, shares), np.arange(9.0))
            path = Path(path_data(shape))
            whole = path.length(error=1e-9)
            for share, place in zip(shares[1:-1], found[1:-1], strict=True):
                at = self._length_up_to(path, place)
                self.assertAlmostEqual(at, share * whole, delta=0.01)

    @staticmethod
    def _length_up_to(path, place):
        """How far along a path a point on it lies, px, by svgelements' own lengths of curves that are cut there."""
        best = None
        gone = 0.0
        for curve in (segment for segment in path if type(segment).__name__ == "CubicBezier"):
            found = np.array([(point.x, point.y) for point in map(curve.point, np.linspace(0, 1, 401))])
            near = int(np.linalg.norm(found - place, axis=1).argmin())
            low, high = max(near - 1, 0) / 400, min(near + 1, 400) / 400
            for _ in range(60):
                a, b = low + (high - low) / 3, high - (high - low) / 3
                off = [np.hypot(*(np.array((curve.point(t).x, curve.point(t).y)) - place)) for t in (a, b)]
                low, high = (low, b) if off[0] < off[1] else (a, high)
            t = (low + high) / 2
            off = float(np.hypot(*(np.array((curve.point(t).x, curve.point(t).y)) - place)))
            if best is None or off < best[0]:
                p = [np.array([q.x, q.y]) for q in (curve.start, curve.control1, curve.control2, curve.end)]
                q1, m = p[0] + t * (p[1] - p[0]), p[1] + t * (p[2] - p[1])
                q2 = q1 + t * (m - q1)
                q3 = q2 + t * (m + t * (p[2] + t * (p[3] - p[2]) - m) - q2)
                cut = Path("M{} {}C{} {} {} {} {} {}".format(*p[0], *q1, *q2, *q3))
                best = (off, gone + cut.length(error=1e-9))
            gone += curve.length(error=1e-9)
        return best[1]

    def test_lengths_are_equal_on_the_stage_however_the_path_is_scaled(self):
        world = {"scale.x": -2.5, "scale.y": 0.4, "shear.xy": 0.7, "turn.z": 33.0, "move.x": 50.0}
        for shape in (BEND, ROUND):
            scene = on_path(shape, np.linspace(0.0, 1.0, 8001), world)
            steps = np.linalg.norm(np.diff(places(scene, np.arange(8001.0)), axis=0), axis=1)
            # Chords of an even way differ by less than the square of the step over the curvature's radius.
            self.assertLess(np.ptp(np.cumsum(steps) - np.arange(1, 8001) * steps.mean()), 0.01)

    def test_closed_paths_run_round_and_open_ones_end(self):
        shares = [-0.25, 0.75, 1.75]
        first, second, third = places(on_path(ROUND, shares), [0.0, 1.0, 2.0])
        np.testing.assert_allclose([first, third], [second, second], rtol=0, atol=1e-9)
        begin, inner, end = places(on_path(BEND, [-3.0, 0.5, 4.0]), [0.0, 1.0, 2.0])
        np.testing.assert_allclose([begin, end], [(0.0, 0.0), (330.0, 20.0)], rtol=0, atol=1e-9)
        self.assertGreater(inner[1], 50.0)

    def test_turns_with_the_path_and_keeps_a_distance_beside_it(self):
        square = Rectangle((0.0, 0.0, 100.0, 100.0), paint=INK)
        scene = on_path(square, [0.125, 0.375])  # the middles of the upper and the right side
        boat = scene.part("boat").with_rest({number_channel("a", "beside"): 7.0, number_channel("a", "turn"): 90.0})
        pose = evaluate(scene.with_parts([boat]), [0.0, 1.0])
        np.testing.assert_allclose(pose.pivot[1, :, :2], [(50.0, 7.0), (93.0, 50.0)], rtol=0, atol=1e-9)
        turns = np.rad2deg(np.arctan2(pose.world[1, :, 1, 0], pose.world[1, :, 0, 0]))
        np.testing.assert_allclose(np.abs(turns), [90.0, 180.0], rtol=0, atol=1e-9)

    def test_a_path_whose_nodes_move_takes_what_runs_on_it_along(self):
        scene = on_path(BEND, [1.0, 1.0])
        course = scene.part("course").with_channel("node.2.y", Channel((Key(0.0, 0.0, "straight"), Key(1.0, 44.0))))
        np.testing.assert_allclose(places(scene.with_parts([course]), [1.0]), [(330.0, 64.0)], rtol=0, atol=1e-9)

    @given(seeds)
    @examples(12)
    def test_what_runs_on_a_shape_that_moves_is_where_it_would_be_on_the_shape_as_it_is_drawn(self, seed):
        random = np.random.default_rng(seed)
        corner = float(random.choice([0.0, 9.0]))
        shapes = (
            BEND, ROUND, Rectangle((-20.0, 5.0, 90.0, 60.0), corner, INK), Polygon((40.0, 30.0), 50.0, 6, 15.0, INK),
            PenPath(((Node((0.0, 0.0)), Node((90.0, 10.0)), Node((60.0, 80.0))),), paint=INK),
        )  # fmt: skip
        shape = shapes[seed % len(shapes)]
        names = [name for name in numbers_of_shape(shape) if name.startswith(("form.", "node."))]
        scene = on_path(shape, [0.1, 0.35, 0.62, 0.9])
        course = scene.part("course")
        for name in random.choice(names, min(4, len(names)), replace=False):
            values = random.normal(size=4) * 60.0
            keys = tuple(Key(float(frame), float(value), "straight") for frame, value in enumerate(values))
            course = course.with_channel(str(name), Channel(keys))
        scene = scene.with_parts([course])
        found = places(scene, np.arange(4.0))
        for frame in range(4):
            drawn = shape_at(course, 0, float(frame))
            still = replace(course, channels={}, drawings=(replace(course.drawings[0], shape=drawn),))
            wanted = places(scene.with_parts([still]), [float(frame)])
            np.testing.assert_allclose(found[frame], wanted[0], rtol=0, atol=0.01)

    def test_a_path_of_no_length_and_one_that_is_gone_give_numbers(self):
        for world in ({"scale.x": 0.0}, {"scale.x": 0.0, "scale.y": 0.0}):
            self.assertTrue(np.isfinite(places(on_path(ROUND, [0.3, 0.6], world), [0.0, 1.0])).all())
        gone = on_path(ROUND, [0.3, 0.6], contour=5)
        np.testing.assert_array_equal(places(gone, [0.0]), [(0.0, 0.0)])

    def test_a_part_is_put_on_the_path_where_it_is_nearest(self):
        scene = on_path(BEND, [0.0])
        bare = scene.with_parts([helper("boat", 400.0, -40.0)])
        after = applied(bare, [Constrain("boat", AlongPath(id="a", name="Along", goal=Goal(part="course")))])
        self.assertEqual(after.part("boat").rest[number_channel("a", "along")], 1.0)
        with self.assertRaises(RuleError):
            applied(scene, [Constrain("course", AlongPath(id="b", name="Along", goal=Goal(part="boat")))])


class CarryTests(unittest.TestCase):
    def _scene(self, seed):
        """Crate, hook and hand among random parts, the crate carried by hook, then by hand, then by none."""
        scene = random_scene(seed, 6)
        hook, hand = (moving(helper(name, 40.0, 9.0), x=(0, 90, -30), turn=(0, 50, 200)) for name in ("hook", "hand"))
        hand = replace(hand, parent=scene.parts[0].id)
        crate = moving(helper("crate", 12.0, 80.0), y=(0, 40, 10))
        crate = replace(crate, parent=scene.parts[seed % 6].id)
        scene = replace(scene, parts=(*scene.parts, hook, hand, crate))
        for frame, by in ((5.0, "hook"), (17.0, "hand"), (30.0, None)):
            scene = applied(scene, [CarryFrom("crate", by, frame, "c")])
        return scene

    def _assert_continuous(self, scene, frame, part, change):
        """At a frame nothing differs from how it lies without what changes there."""
        before, after = (evaluate(found, [frame]) for found in (change(scene), scene))
        size = max(1.0, float(np.abs(before.world).max()))
        np.testing.assert_allclose(after.world_of(part), before.world_of(part), rtol=0, atol=1e-9 * size)

    def _rule(self, scene):
        """What carries the crate, if it is there and carried."""
        constraints = scene.part("crate").constraints if "crate" in scene.index else ()
        return next((one for one in constraints if isinstance(one, Carry)), None)

    def _without(self, scene, frame):
        crate, rule = scene.part("crate"), self._rule(scene)
        fewer = replace(rule, holds=tuple(hold for hold in rule.holds if hold.frame < frame))
        constraints = tuple(fewer if one is rule else one for one in crate.constraints)
        return scene.with_parts([replace(crate, constraints=constraints)])

    @given(seeds, st.data())
    @examples(3)
    def test_nothing_jumps_when_hands_change_also_after_fifty_edits(self, seed, data):
        scene = self._scene(seed)
        for _ in range(50):
            try:
                scene = applied(scene, [data.draw(edit_for(scene))])
            except RuleError:
                continue
            if self._rule(scene) is None:
                break
            for frame in (5.0, 17.0, 30.0):
                if any(hold.frame == frame for hold in self._rule(scene).holds):
                    self._assert_continuous(scene, frame, "crate", lambda found, at=frame: self._without(found, at))

    def test_a_carried_part_keeps_its_place_on_its_carrier(self):
        scene = self._scene(3)
        frames = np.arange(6.0, 17.0)
        crate = replace(scene.part("crate"), channels={}, parent=None)
        pose = evaluate(scene.with_parts([crate]), frames)
        on_hook = np.linalg.inv(pose.world[scene.index["hook"]]) @ pose.world[scene.index["crate"]]
        np.testing.assert_allclose(on_hook, np.broadcast_to(on_hook[0], on_hook.shape), rtol=0, atol=1e-9)
        whole, single = evaluate(scene, np.arange(40.0)), evaluate(scene, [23.0])
        np.testing.assert_array_equal(whole.world_of("crate", 23), single.world_of("crate"))

    def test_in_rest_nobody_carries(self):
        scene = self._scene(4)
        bare = scene.with_parts([replace(scene.part("crate"), constraints=())])
        np.testing.assert_array_equal(evaluate(scene.at_rest, [0.0]).world, evaluate(bare.at_rest, [0.0]).world)

    def test_frames_of_hands_are_moved_and_dropped(self):
        scene = self._scene(5)
        moved = applied(scene, [MoveChange("crate", "c", 17.0, 33.4)])
        self.assertEqual([hold.frame for hold in moved.part("crate").constraints[0].holds], [5.0, 30.0, 33.0])
        fewer = applied(moved, [DropChange("crate", "c", 5.0), DropChange("crate", "c", 30.0)])
        self.assertEqual(len(fewer.part("crate").constraints[0].holds), 1)
        self.assertEqual(applied(fewer, [DropChange("crate", "c", 33.0)]).part("crate").constraints, ())
        with self.assertRaises(RuleError):
            applied(scene, [DropChange("crate", "c", 6.0)])

    def test_a_carrier_that_is_deleted_leaves_the_part_where_it_was(self):
        after = applied(self._scene(6), [DeleteParts(("hook",))])
        self.assertEqual(after.part("crate").constraints[0].holds[0], Hold(5.0, None))

    def test_a_part_that_carries_itself_or_its_parent_is_refused_with_the_names(self):
        scene = self._scene(7)
        parent = scene.part("crate").parent
        with self.assertRaisesRegex(RuleError, "loop: .*Crate"):
            applied(scene, [CarryFrom(parent, "crate", 2.0, "x")])

    def test_half_a_weight_carries_half_way(self):
        scene = self._scene(8)
        crate = replace(scene.part("crate"), channels={}, parent=None).with_rest({number_channel("c", "weight"): 0.5})
        half, none, full = (
            evaluate(scene.with_parts([crate.with_rest({number_channel("c", "weight"): by})]), [14.0]).pivot_of("crate")
            for by in (0.5, 0.0, 1.0)
        )
        np.testing.assert_allclose(half, (none + full) / 2, rtol=0, atol=1e-9)


class MatchTests(unittest.TestCase):
    FRAMES = (8.0, 21.0, 33.0)

    def _scene(self, seed, **fields):
        """An arm whose goal and joints move: it reaches, is turned by hand from 8 on, reaches from 21 and so on."""
        random = np.random.default_rng(seed)
        parts = arm(0, random.uniform(40, 120, 2), (90.0, 70.0), int(random.choice([-1, 1])), scale=(1.3, -0.8))
        found = {part.id: part for part in parts}
        for name in ("u0", "f0", "h0"):
            found[name] = moving(found[name], turn=random.uniform(-90, 90, 5))
        found["g0"] = moving(found["g0"], x=random.uniform(-80, 80, 5), y=random.uniform(-80, 80, 5))
        (rule,) = found["h0"].constraints
        found["h0"] = replace(found["h0"], constraints=(replace(rule, **fields),))
        scene = Scene("s", "S", parts=tuple(found.values()))
        for frame, to in zip(self.FRAMES, ("turn", "reach", "turn"), strict=True):
            scene = applied(scene, [MatchReach("h0", "r", to, frame)])
        return scene

    def _without(self, scene, frame):
        hand = scene.part("h0")
        (rule,) = hand.constraints
        changes = tuple(change for change in rule.changes if change.frame < frame)
        return scene.with_parts([replace(hand, constraints=(replace(rule, changes=changes),))])

    def _assert_no_jumps(self, scene):
        for frame in self.FRAMES:
            before, after = (evaluate(found, [frame]).world for found in (self._without(scene, frame), scene))
            np.testing.assert_allclose(after, before, rtol=0, atol=1e-9 * max(1.0, float(np.abs(before).max())))

    @given(seeds, st.booleans(), st.data())
    @examples(15)
    def test_change_over_frames_never_jump_also_after_fifty_edits(self, seed, keeps_turn, data):
        scene = self._scene(seed, keeps_turn=keeps_turn)
        self._assert_no_jumps(scene)
        for _ in range(50):
            part = data.draw(st.sampled_from(["u0", "f0", "h0", "g0"]))
            name = data.draw(st.sampled_from(["turn.z", "move.x"] if part != "g0" else ["move.x", "move.y"]))
            value, frame = data.draw(st.floats(-150, 150)), float(data.draw(st.integers(0, 40)))
            scene = applied(scene, [SetValues((part,), {name: value}, frame)])
        self._assert_no_jumps(scene)

    def test_hands_turn_joints_after_the_change_and_the_end_reaches_again(self):
        scene = self._scene(1)
        pose = evaluate(scene, [12.0, 13.0, 24.0])
        in_base = np.linalg.inv(pose.world[scene.index["s0"]]) @ pose.world[scene.index["u0"]]
        turned = np.rad2deg(np.diff(np.arctan2(in_base[:2, 1, 0], in_base[:2, 0, 0])))
        keys = pose.motion[pose.motion_index["u0", "turn.z"], :2]
        self.assertAlmostEqual(float(turned[0]), float(np.diff(keys)[0]), places=9)
        offset = evaluate(scene, [21.0]).pivot_of("h0") - evaluate(scene, [21.0]).pivot_of("g0")
        np.testing.assert_allclose(pose.pivot_of("h0", 2) - pose.pivot_of("g0", 2), offset, rtol=0, atol=1e-9)

    def test_a_change_to_what_is_so_already_is_refused(self):
        with self.assertRaisesRegex(RuleError, "turned by hand there already"):
            applied(self._scene(2), [MatchReach("h0", "r", "turn", 12.0)])

    def test_random_graphs_that_change_hands_give_the_same_film_frame_by_frame(self):
        for seed in range(20):
            scene = constrained(random_scene(seed, 7), seed)
            whole = evaluate(scene, np.arange(0.0, 30.0, 3.0))
            for column in (1, 8):
                single = evaluate(scene, [3.0 * column]).world[:, 0]
                size = max(1.0, float(np.abs(single).max()))
                np.testing.assert_allclose(whole.world[:, column], single, rtol=0, atol=1e-9 * size)


class StretchTests(unittest.TestCase):
    def _pose(self, distance, longest, keeps_area=False, soft=0.0):
        parts = {part.id: part for part in arm(0, (60.0, 40.0), (distance, 0.0))}
        (rule,) = parts["h0"].constraints
        parts["h0"] = replace(parts["h0"], constraints=(replace(rule, keeps_area=keeps_area),))
        numbers = {number_channel("r", "stretch"): longest, number_channel("r", "soft"): soft}
        parts["h0"] = parts["h0"].with_rest(numbers)
        return evaluate(Scene("s", "S", parts=tuple(parts.values())), [0.0])

    def test_bones_stretch_up_to_their_limit_and_the_end_is_not_stretched(self):
        for distance, longest, found in ((130.0, 1.5, 1.3), (200.0, 1.5, 1.5), (80.0, 1.5, 1.0), (130.0, 1.0, 1.0)):
            pose = self._pose(distance, longest)
            self.assertAlmostEqual(pose.pivot_of("h0")[0], min(distance, 100.0 * found), delta=1e-9)
            self.assertAlmostEqual(float(np.hypot(*pose.pivot_of("f0")[:2])), 60.0 * found, delta=1e-9)
            for part, along in (("u0", found), ("f0", found), ("h0", 1.0)):
                np.testing.assert_allclose(
                    np.linalg.norm(pose.world_of(part)[:2, :2], axis=0), [along, 1.0], rtol=0, atol=1e-9
                )

    def test_area_is_kept_where_that_is_chosen(self):
        pose = self._pose(140.0, 2.0, keeps_area=True)
        for part in ("u0", "f0", "h0"):
            self.assertAlmostEqual(float(np.linalg.det(pose.world_of(part)[:2, :2])), 1.0, delta=1e-9)

    def test_a_soft_approach_with_stretch_stays_on_its_goal(self):
        for distance in (85.0, 99.0, 120.0):
            self.assertAlmostEqual(self._pose(distance, 3.0, soft=0.2).pivot_of("h0")[0], distance, delta=1e-9)
            elbow = self._pose(distance, 3.0, soft=0.2).pivot_of("f0")
            self.assertGreater(abs(float(elbow[1])), 0.1)  # not straight before it has to be
