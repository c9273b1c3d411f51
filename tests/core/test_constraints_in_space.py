"""Constraints among parts that lie anywhere in space, beside vector algebra and SciPy's rotations."""

import unittest
from dataclasses import replace

import numpy as np
from hypothesis import example, given
from scipy.spatial.transform import Rotation

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.constraints.along_path import AlongPath
from jointed_crane.core.constraints.between import Between
from jointed_crane.core.constraints.carry import Carry, Hold
from jointed_crane.core.constraints.constraint import Goal, number_channel
from jointed_crane.core.constraints.follow import Follow
from jointed_crane.core.constraints.point_at import PointAt
from jointed_crane.core.constraints.span import Span
from jointed_crane.core.constraints.stay_above import StayAbove
from jointed_crane.core.edits import applied
from jointed_crane.core.edits.constraints.constraining import Constrain, MakeReach
from jointed_crane.core.edits.constraints.keeping_as_keys import KeepAsKeys
from jointed_crane.core.edits.placing.poses import MoveBy, TurnBy
from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.evaluate.pose_at_frame import pivot_at, world_at
from jointed_crane.core.geometry.bearings import bearings_of
from jointed_crane.core.model.scene import Drawing, Eyelet, Foothold, Inherits, Part, Scene
from jointed_crane.core.motion.channel import Channel, Key
from jointed_crane.core.viewing.projection import carried, linear_of, steps_in_space
from tests.constrained_rigs import arm, constrained
from tests.meeting import meeting_scene
from tests.strategies import ASIDE, STUB_NAME, TIMES, examples, random_scene, seeds

OWN = {"x": (1, 0, 0), "y": (0, 1, 0), "front": (0, 0, 1), "sight": (0, 0, -1), (3.0, 5.0, -2.0): None}


def with_free_pair(seed):
    """A random scene in depth, and two of its parts of which none hangs on the other."""
    scene = random_scene(seed, is_deep=True)
    scene = scene.with_parts(replace(part, footholds=()) for part in scene.parts)
    for one in scene.parts:
        for other in scene.parts:
            if one is not other and not {one.id, other.id} & (above(scene, one) | above(scene, other)):
                return scene, one, other
    return None


def above(scene, part):
    found = set()
    while part.parent is not None:
        found.add(part.parent)
        part = scene.part(part.parent)
    return found


def pairs(count):
    found = (with_free_pair(seed) for seed in range(100_000))
    named = (each for each in found if each)
    return [next(named) for _ in range(count)]


def ruled(scene, part, *rules, **numbers):
    rest = {number_channel(rules[-1].id, name): value for name, value in numbers.items()}
    return scene.with_parts([replace(part, constraints=rules).with_rest(rest)])


def turned_and_tipped(own, sight, offset, by, up):
    """The rotation by a share of how a direction has to turn about an axis, and to tip towards it, to be another."""
    axis = np.eye(3)[up]
    level = [vector - axis * vector[up] for vector in (own, sight)]
    turn = np.arctan2(axis @ np.cross(*level), level[0] @ level[1]) + offset
    turn = by * ((turn + np.pi) % (2 * np.pi) - np.pi)
    rise = [np.arcsin(vector[up] / np.linalg.norm(vector)) for vector in (own, sight)]
    first = Rotation.from_rotvec(turn * axis)
    across = np.cross(first.apply(level[0]), axis)
    return Rotation.from_rotvec(by * (rise[1] - rise[0]) * across / np.linalg.norm(across)) * first


class FlatTests(unittest.TestCase):
    def test_what_nearly_lies_flat_lies_near_what_does(self):
        """Goals of all weights about one axis, up to 220 degrees apart, and one of them tilted a little."""
        random = np.random.default_rng(11)
        for _ in range(8 * TIMES):
            goals = [Part(f"p{n}", f"P{n}", rest={"turn.z": float(random.uniform(-110, 110))}) for n in range(3)]
            rule = Between(id="c", name="C", goals=tuple(Goal(part=goal.id) for goal in goals), turns=True)
            rest = {number_channel("c", f"goal{n}"): float(random.uniform(0.2, 2)) for n in (1, 2, 3)}
            points = PointAt(id="d", name="D", goal=Goal(part="g"), along=(20.0, 9.0, 0.0))
            weight = {number_channel("d", "weight"): float(random.uniform(0.2, 1.0))}
            standing = (Foothold(0.0, (*random.uniform(-60, 60, 2).tolist(), 0.0)),)
            pointing = Part("q", "Q", rest=weight, footholds=standing, constraints=(points,))
            goal = Part("g", "G", rest={"move.x": 70.0, "move.y": float(random.uniform(-80, 80))})
            parts = (*goals, goal, Part("b", "B", rest=rest, constraints=(rule,)), pointing)
            flat = Scene("s", "S", parts=parts)
            lifted = goals[0].with_rest({"turn.x": 1e-7}), goal.with_rest({"move.z": 1e-7})
            one, other = (evaluate(each, [4.0]).world for each in (flat, flat.with_parts(lifted)))
            np.testing.assert_allclose(other, one, rtol=0, atol=1e-4)

    @given(seeds)
    @example(1498715031)  # what points by a share, from what it stands on, at a goal that is near
    @examples(60)
    def test_what_lies_flat_lies_the_same_whatever_else_leaves_the_plane(self, seed):
        scene = meeting_scene(seed) if seed % 3 == 0 else constrained(random_scene(seed), seed)
        tilted = Part("tilted", "Tilted", rest={"turn.x": 30.0, "move.z": 5.0})
        flat, deep = (
            evaluate(one, np.arange(0.0, 40.0, 3.5)) for one in (scene, replace(scene, parts=(*scene.parts, tilted)))
        )
        size = max(1.0, float(np.abs(flat.world).max()))
        rows = [deep.index[part_id] for part_id in flat.part_ids]
        np.testing.assert_allclose(deep.world[rows], flat.world, rtol=0, atol=1e-8 * size)


class PointAtTests(unittest.TestCase):
    def test_it_points_at_its_goal_wherever_both_lie(self):
        for number, (scene, part, goal) in enumerate(pairs(8 * TIMES)):
            for along, own in OWN.items():
                ready = ruled(scene, part, PointAt(id="c", name="C", goal=Goal(part=goal.id), along=along))
                for frame in (None, 13.5):
                    linear = linear_of(world_at(ready, part.id, frame))
                    seen = linear @ (np.subtract(along, part.pivot) if own is None else own)
                    sight = pivot_at(ready, goal.id, frame) - pivot_at(ready, part.id, frame)
                    off = seen / np.linalg.norm(seen) - sight / np.linalg.norm(sight)
                    np.testing.assert_allclose(off, 0, atol=1e-9, err_msg=f"{number} {along}")

    def test_a_share_of_it_turns_first_and_then_tips(self):
        random = np.random.default_rng(5)
        for scene, part, goal in pairs(8 * TIMES):
            along = str(random.choice(["x", "y", "front", "sight"]))
            by, offset = float(random.random()), float(random.uniform(-170, 170))
            ready = ruled(
                scene, part, PointAt(id="c", name="C", goal=Goal(part=goal.id), along=along), weight=by, offset=offset
            )
            was, now = (linear_of(world_at(each, part.id, 20.0)) for each in (scene, ready))
            sight = pivot_at(ready, goal.id, 20.0) - pivot_at(ready, part.id, 20.0)
            up = 2 if along in "xy" else 1
            rotation = turned_and_tipped(was @ OWN[along], sight, np.deg2rad(offset), by, up)
            np.testing.assert_allclose(now, rotation.as_matrix() @ was, atol=1e-9 * np.abs(was).max())

    def test_what_stands_upright_keeps_standing_upright(self):
        random = np.random.default_rng(7)
        for _ in range(12 * TIMES):
            place, there = random.normal(size=(2, 3)) * 300
            rest = dict(zip(("move.x", "move.y", "move.z", "turn.y"), (*place, random.uniform(-180, 180)), strict=True))
            look = PointAt(id="c", name="C", goal=Goal(part="goal"), along="sight")
            camera = Part(
                "camera", "Camera", rest={name: float(value) for name, value in rest.items()}, constraints=(look,)
            )
            goal = Part("goal", "Goal", rest=dict(zip(("move.x", "move.y", "move.z"), there.tolist(), strict=True)))
            linear = linear_of(world_at(Scene("s", "S", parts=(camera, goal), depth=True), "camera", None))
            self.assertAlmostEqual(linear[1, 0], 0, delta=1e-9)
            self.assertGreater(linear[1, 1], 0)

    def test_a_camera_that_looks_at_a_goal_is_rolled_by_its_own_turn_and_moved_by_its_own_place(self):
        look = PointAt(id="c", name="C", goal=Goal(part="goal"), along="sight")
        camera = Part("camera", "Camera", rest={"move.x": 200.0, "move.y": 90.0, "move.z": 500.0}, constraints=(look,))
        scene = Scene("s", "S", parts=(camera, Part("goal", "Goal")), depth=True)
        for edit, channels in [
            (TurnBy(("camera",), 20.0), {"turn.z"}),
            (MoveBy(("camera",), (30.0, 10.0), view=ASIDE), {"move.x", "move.y", "move.z"}),
        ]:
            after = applied(scene, [edit])
            changed = {name for name, value in after.part("camera").rest.items() if value != camera.rest_value(name)}
            self.assertLessEqual(changed, channels)
            self.assertTrue(changed)
            sight = linear_of(world_at(after, "camera", None)) @ (0, 0, -1)
            to_goal = -pivot_at(after, "camera", None)
            np.testing.assert_allclose(sight, to_goal / np.linalg.norm(to_goal), atol=1e-9)

    def test_no_keys_in_the_plane_follow_what_leaves_it(self):
        part = Part("p", "P", constraints=(PointAt(id="c", name="C", goal=Goal(part="goal")),))
        goal = Part("goal", "Goal", rest={"move.x": 200.0, "move.z": 100.0})
        with self.assertRaisesRegex(RuleError, "P lies in depth"):
            applied(Scene("s", "S", parts=(part, goal), depth=True), [KeepAsKeys("p", "c")])

    def test_what_lies_in_the_plane_of_the_stage_points_as_it_does_without_depth(self):
        for seed in range(12 * TIMES):
            scene = random_scene(seed)
            part, goal = scene.parts[0], scene.parts[-1]
            if part.id in above(scene, goal) or goal.id in above(scene, part):
                continue
            ready = ruled(scene, part, PointAt(id="c", name="C", goal=Goal(part=goal.id)), weight=0.7, offset=20.0)
            aside = replace(ready, parts=(*ready.parts, Part("aside", "Aside", rest={"turn.x": 50.0})))
            for other in scene.parts:
                for frame in (None, 7.0, 24.5):
                    flat, deep = (world_at(each, other.id, frame) for each in (ready, aside))
                    np.testing.assert_allclose(deep, flat, atol=1e-9 * max(1.0, np.abs(flat).max()))

    def test_a_front_or_an_eyelet_off_its_plane_leads_out_of_a_flat_scene(self):
        holder = Part("goal", "Goal", rest={"move.x": 300.0}, eyelets=(Eyelet("e", "E", (0.0, 0.0, 300.0)),))
        for along, goal, own, sight in [
            ("front", Goal(part="goal"), (0, 0, 1), (1, 0, 0)),
            ("x", Goal(part="goal", at="eyelet", named="e"), (1, 0, 0), np.sqrt([0.5, 0, 0.5])),
        ]:
            part = Part("p", "P", constraints=(PointAt(id="c", name="C", goal=goal, along=along),))
            scene = Scene("s", "S", parts=(part, holder))
            np.testing.assert_allclose(linear_of(world_at(scene, "p", None)) @ own, sight, atol=1e-9)

    def test_a_child_that_takes_turns_alone_is_turned_in_space_too(self):
        goal = Part("goal", "Goal", rest={"move.x": 200.0, "move.y": 90.0, "move.z": 150.0})
        part = Part("p", "P", constraints=(PointAt(id="c", name="C", goal=Goal(part="goal")),), rest={"scale.x": 2.0})
        child = Part("child", "Child", parent="p", inherits=Inherits(scale=False))
        scene = Scene("s", "S", parts=(part, child, goal), depth=True)
        linear = linear_of(world_at(scene, "child", None))
        np.testing.assert_allclose(linear.T @ linear, np.eye(3), atol=1e-9)
        np.testing.assert_allclose(linear[:, 0], np.array([200, 90, 150]) / np.linalg.norm([200, 90, 150]), atol=1e-9)


class PlaceTests(unittest.TestCase):
    def test_between_lies_at_the_mean_and_follow_at_its_offset(self):
        random = np.random.default_rng(2)
        for scene, part, goal in pairs(8 * TIMES):
            others = [each for each in scene.parts if part.id not in above(scene, each) | {each.id}]
            goals = tuple(Goal(part=each.id) for each in others[:3])
            weights = random.uniform(0.1, 2, len(goals))
            numbers = {f"goal{place + 1}": float(weight) for place, weight in enumerate(weights)}
            if len(goals) == 3:
                ready = ruled(scene, part, Between(id="c", name="C", goals=goals), **numbers)
                mean = np.average([pivot_at(ready, each.part, 9.0) for each in goals], axis=0, weights=weights)
                np.testing.assert_allclose(pivot_at(ready, part.id, 9.0), mean, atol=1e-9 * max(1, np.abs(mean).max()))
            offset = random.normal(size=3) * 40
            rule = Follow(id="c", name="C", goal=Goal(part=goal.id), turns=False, scales=False)
            ready = ruled(scene, part, rule, **dict(zip("xyz", offset.tolist(), strict=True)))
            there = pivot_at(ready, goal.id, 9.0) + linear_of(world_at(ready, goal.id, 9.0)) @ offset
            np.testing.assert_allclose(pivot_at(ready, part.id, 9.0), there, atol=1e-9 * max(1, np.abs(there).max()))

    def test_what_begins_to_follow_stays_and_is_moved_through_any_view(self):
        moved = 0
        for scene, part, goal in pairs(8 * TIMES):
            turns, scales = (bool(flag) for flag in np.random.default_rng(moved).integers(0, 2, 2))
            rule = Follow(id="c", name="C", goal=Goal(part=goal.id), turns=turns, scales=scales)
            try:
                ready = applied(scene, [Constrain(part.id, rule)])
            except RuleError:
                continue  # a goal of no size
            before = world_at(scene, part.id, None)
            np.testing.assert_allclose(world_at(ready, part.id, None), before, atol=1e-9 * max(1, np.abs(before).max()))
            place = pivot_at(ready, part.id, None)
            after = applied(ready, [MoveBy((part.id,), (30.0, -20.0), view=ASIDE, past_limits=True)])
            there = place + steps_in_space((30.0, -20.0), place, ASIDE)
            np.testing.assert_allclose(pivot_at(after, part.id, None), there, atol=1e-8)
            self.assertEqual(after.part(part.id).rest_value("move.z"), part.rest_value("move.z"))
            moved += 1
        self.assertGreater(moved, 5 * TIMES)

    def test_following_turns_as_its_goal_does_by_a_share_of_the_shortest_way(self):
        random = np.random.default_rng(8)
        names = ("turn.x", "turn.y", "turn.z")
        for _ in range(10 * TIMES):
            turns, offset = random.uniform(-170, 170, (2, 3)), random.uniform(-80, 80, 3)
            by = float(random.choice([1.0, random.random()]))
            part, goal = (
                Part(name, name, rest=dict(zip(names, angles.tolist(), strict=True)))
                for name, angles in zip(("p", "goal"), turns, strict=True)
            )
            scene = Scene("s", "S", parts=(part, goal), depth=True)
            numbers = dict(zip(("turnx", "turny", "turn"), offset.tolist(), strict=True))
            rule = Follow(id="c", name="C", goal=Goal(part="goal"), position=False, scales=False)
            ready = ruled(scene, part, rule, weight=by, **numbers)
            own, there = (Rotation.from_matrix(linear_of(world_at(scene, name, None))) for name in ("p", "goal"))
            whole = there * Rotation.from_euler("XYZ", offset, degrees=True) * own.inv()
            wanted = Rotation.from_rotvec(by * whole.as_rotvec()) * own
            np.testing.assert_allclose(linear_of(world_at(ready, "p", None)), wanted.as_matrix(), atol=1e-9)

    def test_what_is_flattened_to_a_line_lies_by_its_third_axis_whatever_the_last_digit_says(self):
        random = np.random.default_rng(3)
        turn, sizes = random.uniform(-np.pi, np.pi, (1, 40)), random.uniform(0.3, 2, (2, 1, 40))
        linear = np.zeros((3, 3, 1, 40))
        linear[:2, :2] = np.stack([np.cos(turn), np.sin(turn)])[:, None] * sizes
        linear[:2, :2] += random.choice([-1e-17, 0.0, 1e-17], (2, 2, 1, 40))
        linear[2, 2] = 1.0
        wanted = Rotation.from_euler("Z", turn.T).as_matrix()
        np.testing.assert_allclose(np.moveaxis(bearings_of(linear)[:, :, 0], -1, 0), wanted, rtol=0, atol=1e-12)

    def test_between_turns_at_its_share_of_the_way_and_to_the_mean_of_many(self):
        random = np.random.default_rng(9)
        names = ("turn.x", "turn.y", "turn.z")
        for number in range(12 * TIMES):
            angles = random.uniform(-170, 170, (4, 3))
            parts = [
                Part(f"p{n}", f"P{n}", rest=dict(zip(names, row.tolist(), strict=True))) for n, row in enumerate(angles)
            ]
            scene = Scene("s", "S", parts=tuple(parts), depth=True)
            goals = tuple(Goal(part=f"p{n}") for n in range(1, 3 + number % 2))
            there = Rotation.from_matrix([linear_of(world_at(scene, goal.part, None)) for goal in goals])
            if len(goals) == 2:
                numbers = {"share": float(random.uniform(-0.5, 1.5))}
                wanted = there[0] * Rotation.from_rotvec(numbers["share"] * (there[0].inv() * there[1]).as_rotvec())
            else:
                weights = random.uniform(0.2, 2, 3)
                numbers = {f"goal{place + 1}": float(weight) for place, weight in enumerate(weights)}
                about = there.mean(weights)
                ways = (about.inv() * there).as_rotvec()
                wanted = about * Rotation.from_rotvec(np.average(ways, axis=0, weights=weights))
            ready = ruled(scene, parts[0], Between(id="c", name="C", goals=goals, turns=True), **numbers)
            np.testing.assert_allclose(linear_of(world_at(ready, "p0", None)), wanted.as_matrix(), atol=1e-8)

    def test_reaching_turns_in_the_plane_of_what_the_chain_hangs_on(self):
        random = np.random.default_rng(6)
        names = ("turn.x", "turn.y", "turn.z", "move.x", "move.y", "move.z", "scale.x")
        for number in range(12 * TIMES):
            turns, place, there = random.uniform(-75, 75, 3), *random.normal(size=(2, 3)) * 90
            mirror = float(random.choice([-1.0, 1.0]))
            parts = arm(0, (100.0, 80.0), (0.0, 0.0), bends=int(random.choice([-1, 1])), turns=(20.0, 30.0))
            base, hand, goal = parts[0], parts[3], parts[4]
            rule = replace(hand.constraints[0], keeps_turn=bool(number % 2))
            base = base.with_rest(dict(zip(names, (*turns.tolist(), *place.tolist(), mirror), strict=True)))
            scene = Scene("s", "S", parts=(base, *parts[1:3], replace(hand, constraints=(rule,)), goal), depth=True)
            world = world_at(scene, base.id, None)
            across, normal = linear_of(world)[:, :2], linear_of(world)[:, 2]
            seen = world[:3, 3] + across @ (there[:2] / np.linalg.norm(there[:2]) * random.uniform(40, 160))
            put = dict(zip(names[3:6], (seen + normal * there[2]).tolist(), strict=True))
            ready = scene.with_parts([goal.with_rest(put)])
            np.testing.assert_allclose(pivot_at(ready, hand.id, None), seen, atol=1e-9 * 1000)
            without = ruled(ready, ready.part(hand.id), replace(rule, is_on=False))
            before, after = (linear_of(world_at(each, hand.id, None)) for each in (without, ready))
            np.testing.assert_allclose(after[:, 2], before[:, 2], atol=1e-9)
            if rule.keeps_turn:
                np.testing.assert_allclose(after, before, atol=1e-9)

    def test_nothing_moves_when_a_tilted_limb_begins_to_reach(self):
        random = np.random.default_rng(10)
        names = ("turn.x", "turn.y", "turn.z", "move.x", "move.y", "move.z", "scale.x")
        for _ in range(10 * TIMES):
            numbers = (*random.uniform(-170, 170, 3).tolist(), 50.0, -20.0, 70.0, float(random.choice([-1.0, 1.0])))
            base, upper, fore, hand, _ = arm(0, (100.0, 80.0), (0, 0), turns=random.uniform(-120, 120, 2).tolist())
            base = base.with_rest(dict(zip(names, numbers, strict=True)))
            keeps_turn = bool(random.integers(2))
            if keeps_turn:  # what hangs on it takes over its turns alone
                hand = replace(hand, orientation=tuple(Rotation.random(rng=random).as_quat().tolist()))
            rest = {"move.x": 9.0, "turn.x": 30.0}
            finger = Part("n-finger", "Finger", parent=hand.id, inherits=Inherits(scale=False), rest=rest)
            scene = Scene("s", "S", parts=(base, upper, fore, replace(hand, constraints=()), finger), depth=True)
            after = applied(scene, [MakeReach(hand.id, "n", keeps_turn=keeps_turn)])
            for part in scene.parts:
                was, now = (world_at(each, part.id, None) for each in (scene, after))
                np.testing.assert_allclose(now, was, atol=1e-9 * max(1, np.abs(was).max()))
            if keeps_turn:
                goal = after.part(next(one for one in after.part(hand.id).constraints).goal.part)
                led = after.with_parts([goal.with_rest({"move.x": goal.rest_value("move.x") - 30.0})])
                for part_id in (hand.id, finger.id):
                    was, now = (linear_of(world_at(each, part_id, None)) for each in (scene, led))
                    np.testing.assert_allclose(now, was, atol=1e-9)

    def test_what_is_held_between_two_goals_reaches_from_one_to_the_other(self):
        random = np.random.default_rng(12)
        tried = 0
        for scene, part, goal in pairs(12 * TIMES):
            (start, end), other = random.normal(size=(2, 2)) * 80, Part("other", "Other")
            points = ((*start.tolist(), 0.0), (*end.tolist(), 0.0))
            rule = Span(id="c", name="C", first=Goal(part=goal.id), second=Goal(part="other"), points=points)
            was = world_at(scene, part.id, 17.0)
            first, second = carried(was, np.array(points))
            if np.linalg.norm(second - first) < 1e-6:
                continue
            tried += 1
            stretch, area = float(random.uniform(0.5, 2)), float(random.uniform(0, 1))
            way = random.normal(size=3)
            way *= stretch * np.linalg.norm(second - first) / np.linalg.norm(way)
            there = pivot_at(scene, goal.id, 17.0) + way
            other = other.with_rest(dict(zip(("move.x", "move.y", "move.z"), there.tolist(), strict=True)))
            numbers = {"shortest": 0.1, "longest": 9.0, "thinnest": 0.1, "thickest": 9.0, "area": area}
            ready = ruled(replace(scene, parts=(*scene.parts, other)), part, rule, **numbers)
            now = world_at(ready, part.id, 17.0)
            scale = max(1.0, np.abs(there).max())
            np.testing.assert_allclose(carried(now, np.array(points)), [there - way, there], atol=1e-9 * scale)
            # What lies across the line in the plane of the art grows by as much as is asked, and nothing leaves it.
            linear = linear_of(was)
            normal = np.cross(linear[:, 0], linear[:, 1])
            across = np.cross(normal, second - first)
            across /= np.linalg.norm(across)
            carries = linear_of(now) @ np.linalg.pinv(linear)
            self.assertAlmostEqual(np.linalg.norm(carries @ across), stretch**-area, delta=1e-7)
            self.assertAlmostEqual((carries @ across) @ way, 0.0, delta=1e-6 * np.linalg.norm(way))
        self.assertGreater(tried, 5 * TIMES)

    def test_what_is_held_in_the_plane_of_the_stage_lies_as_it_does_without_depth(self):
        for seed in range(12 * TIMES):
            scene = random_scene(seed)
            part, goal = scene.parts[0], scene.parts[-1]
            if part.id in above(scene, goal) or goal.id in above(scene, part):
                continue
            rule = Span(
                id="c", name="C", first=Goal(part=goal.id), second=Goal(part=goal.id, at="centre"),
                points=((0.0, 0.0, 0.0), (40.0, 10.0, 0.0)),
            )  # fmt: skip
            ready = ruled(scene, part, rule, weight=0.7, yields=0.3)
            aside = replace(ready, parts=(*ready.parts, Part("aside", "Aside", rest={"turn.x": 50.0})))
            for frame in (None, 7.0, 24.5):
                flat, deep = (world_at(each, part.id, frame) for each in (ready, aside))
                np.testing.assert_allclose(deep, flat, atol=1e-9 * max(1.0, np.abs(flat).max()))

    def test_along_a_path_goes_round_its_plane_and_heads_as_it_does(self):
        random = np.random.default_rng(4)
        box = (0.0, 0.0, 100.0, 100.0)
        corners = np.array([(0.0, 0.0, 0.0), (100.0, 0.0, 0.0), (100.0, 100.0, 0.0), (0.0, 100.0, 0.0)])
        ring = tuple((x, y) for x, y, _ in corners.tolist())
        drawing = Drawing("d", "Square", STUB_NAME, box, box, outline=(ring,))
        for number in range(10 * TIMES):
            angles, place = random.uniform(-60, 60, 3), random.normal(size=3) * 200
            names = ("turn.x", "turn.y", "turn.z", "move.x", "move.y", "move.z")
            rest = dict(zip(names, (*angles.tolist(), *place.tolist()), strict=True))
            square = Part("square", "Square", drawings=(drawing,), rest=rest)
            rule = AlongPath(id="c", name="C", goal=Goal(part="square"))
            scene = Scene("s", "S", parts=(square, Part("p", "P")), depth=True)
            share, beside = 0.25 * (number % 4) + 0.125, float(random.normal() * 20)
            ready = ruled(scene, scene.part("p"), rule, along=share, beside=beside)
            world = world_at(ready, "square", None)
            begin, end = carried(world, corners[[number % 4, (number + 1) % 4]])
            right = np.cross(linear_of(world)[:, 2], (end - begin) / 100)
            np.testing.assert_allclose(pivot_at(ready, "p", None), (begin + end) / 2 + beside * right, atol=1e-9 * 500)
            own = linear_of(world_at(ready, "p", None))[:, 0]
            np.testing.assert_allclose(own, (end - begin) / 100, atol=1e-9)

    def test_carrying_takes_along_in_space_and_nothing_sinks_below_a_floor(self):
        for scene, part, carrier in pairs(8 * TIMES):
            turned = carrier.with_channel("turn.x", Channel((Key(0.0, 0.0), Key(40.0, 100.0))))
            scene = scene.with_parts([turned, replace(part, channels={}, inherits=Inherits(False, False, False))])
            ready = ruled(scene, scene.part(part.id), Carry(id="c", name="C", holds=(Hold(8.0, carrier.id),)))
            begun, now = (world_at(ready, carrier.id, frame) for frame in (8.0, 31.0))
            wanted = now @ np.linalg.inv(begun) @ world_at(scene, part.id, 31.0)
            carried_there = world_at(ready, part.id, 31.0)
            np.testing.assert_allclose(carried_there, wanted, atol=1e-8 * max(1, np.abs(wanted).max()))
            left, top, right, bottom = part.bounds
            ring = ((left, top), (right, top), (right, bottom), (left, bottom))
            outlined = replace(part, drawings=(replace(part.drawings[0], outline=(ring,)),))
            floored = ruled(scene, outlined, StayAbove(id="c", name="C", line=Goal(part=carrier.id)))
            for frame in (None, 17.0):
                corners = carried(world_at(floored, part.id, frame), np.array([(x, y, 0.0) for x, y in ring]))
                floor = pivot_at(floored, carrier.id, frame)[1]
                self.assertLessEqual(corners[:, 1].max(), floor + 1e-9 * max(1, abs(floor)))

    def test_a_share_of_being_carried_is_a_share_of_the_turn(self):
        random = np.random.default_rng(15)
        names = ("turn.x", "turn.y", "turn.z", "move.x", "move.y", "move.z")
        for _ in range(8 * TIMES):
            by, (first, last) = float(random.uniform(0.1, 0.9)), random.uniform(-80, 80, (2, 6))
            keys = {n: Channel((Key(0.0, a), Key(40.0, b))) for n, a, b in zip(names, first, last, strict=True)}
            own = dict(zip(names, random.uniform(-90, 90, 6).tolist(), strict=True))
            part = Part("p", "P", rest=own, constraints=(Carry(id="c", name="C", holds=(Hold(0.0, "q"),)),))
            carrier = Part("q", "Q", channels=keys)
            scene = Scene("s", "S", parts=(part.with_rest({number_channel("c", "weight"): by}), carrier), depth=True)
            begun, now = (world_at(scene, "q", frame) for frame in (0.0, 40.0))
            before = world_at(scene.with_parts([replace(part, constraints=())]), "p", None)
            turn = Rotation.from_matrix((now @ np.linalg.inv(begun))[:3, :3]).as_rotvec()
            wanted = Rotation.from_rotvec(by * turn).as_matrix() @ before[:3, :3]
            found = world_at(scene, "p", 40.0)
            np.testing.assert_allclose(found[:3, :3], wanted, atol=1e-9)
            there = (now @ np.linalg.inv(begun) @ before)[:3, 3]
            np.testing.assert_allclose(found[:3, 3], before[:3, 3] + by * (there - before[:3, 3]), atol=1e-9)

    def test_what_stays_on_one_side_of_a_plane_is_moved_square_to_it_as_far_as_it_must(self):
        random = np.random.default_rng(14)
        lifted = 0
        for scene, part, ground in pairs(12 * TIMES):
            side, points = int(random.choice([-1, 1])), random.normal(size=(3, 2)) * 60
            ring = tuple(map(tuple, points.tolist()))
            outlined = replace(part, drawings=(replace(part.drawings[0], outline=(ring,)),))
            rule = StayAbove(id="c", name="C", line=Goal(part=ground.id), plane=True, side=side)
            ready = ruled(scene, outlined, rule)
            for frame in (None, 17.0):
                was, now, plane = (
                    world_at(each, name, frame)
                    for each, name in ((scene, part.id), (ready, part.id), (ready, ground.id))
                )
                normal = np.cross(plane[:3, 0], plane[:3, 1])
                length = np.linalg.norm(normal)
                if length < 1e-9:
                    continue
                normal *= side * np.sign(normal @ plane[:3, 2]) / length
                corners = np.column_stack([points, np.zeros(3)])
                off = [carried(world, corners) - pivot_at(ready, ground.id, frame) for world in (was, now)]
                step = max(0.0, -(off[0] @ normal).min())
                scale = max(1.0, np.abs(was).max(), np.abs(now).max())
                np.testing.assert_allclose(now[:3, 3] - was[:3, 3], step * normal, atol=1e-9 * scale)
                lifted += step > 0
        self.assertGreater(lifted, 5 * TIMES)


if __name__ == "__main__":
    unittest.main()
