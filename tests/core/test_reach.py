"""Chains that reach, against the law of cosines and SciPy's optimiser, and what makes them stretch or let go."""

import unittest
from dataclasses import replace
from itertools import product

import numpy as np
from scipy.optimize import least_squares

from jointed_crane.core.constraints.constraint import Goal, number_channel
from jointed_crane.core.constraints.reach import Reach
from jointed_crane.core.constraints.reaching.chain_pose import ChainPose
from jointed_crane.core.constraints.reaching.chain_turns import Solver
from jointed_crane.core.constraints.reaching.two_bones import two_bones
from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.geometry.plane import applied, length_of, turned
from jointed_crane.core.model.scene import Inherits, Part, Scene
from jointed_crane.core.motion.channel import Channel, Key
from jointed_crane.core.soundness.whole_scene import ensure_sound
from tests.constrained_rigs import arm, helper
from tests.strategies import TIMES

FRAMES = np.arange(0.0, 48.0, 3.5)


def turns_to_reach(chain, goal, bends, low, high):
    """How far joints turn for chains that are led through their given pose, two bones through none."""
    through = chain.limb.bends(bends.reshape(-1)).reshape(-1, *goal.shape[1:])
    through = through if len(through) > 1 else np.full_like(through, np.nan)
    return Solver(chain, bends, low, high, through).turns(goal)


class ReachTests(unittest.TestCase):
    def test_two_bones_follow_the_law_of_cosines(self):
        random = np.random.default_rng(2)
        parts, cases = [], []
        for number in range(1000):
            first, second = random.uniform(20, 200, 2)
            within = random.random() < 0.8
            distance = random.uniform(abs(first - second), first + second) if within else first + second + 40
            angle, root = random.uniform(0, 2 * np.pi), random.normal(size=2) * 50
            mirror = random.choice([-1.0, 1.0])
            place = root * (mirror, 1.0)
            goal = place + distance * np.array([np.cos(angle), np.sin(angle)])
            bends = int(random.choice([-1, 1]))
            parts += arm(number, (first, second), goal, bends, random.uniform(-400, 400, 2), root, (mirror, 1.0))
            cases.append((first, second, distance, place, goal, bends, within))
        pose = evaluate(ensure_sound(Scene("s", "S", parts=tuple(parts))), [0.0])
        for number, (first, second, distance, place, goal, bends, within) in enumerate(cases):
            elbow, hand = (pose.pivot_of(f"{name}{number}")[:2] for name in "fh")
            to_elbow, to_goal = elbow - place, goal - place
            self.assertAlmostEqual(float(np.hypot(*to_elbow)), first, delta=1e-9)
            if not within:
                straight = place + to_goal / distance * (first + second)
                self.assertLess(float(np.hypot(*(hand - straight))), 1e-9)
                continue
            self.assertLess(float(np.hypot(*(hand - goal))), 1e-9)
            cosine = (first**2 + distance**2 - second**2) / (2 * first * distance)  # the law of cosines
            self.assertAlmostEqual(float(to_elbow @ to_goal) / (first * distance), cosine, delta=1e-9)
            side = float(to_goal[0] * to_elbow[1] - to_goal[1] * to_elbow[0])
            self.assertTrue(side * bends >= 0 or abs(side) < 1e-6, number)

    def test_longer_chains_meet_every_goal_within_their_way_and_an_optimiser_comes_nearer_in_few_cases(self):
        random = np.random.default_rng(3)
        count_nearer = 0
        for case in range(5 * TIMES):
            solver, length = self._chains(random, int(random.integers(3, 9)), case, 40)
            away = np.append(random.uniform(0, 1.1 * length, 39), 0.01)
            angle = random.uniform(-np.pi, np.pi, 40)
            goal = away * np.array([np.cos(angle), np.sin(angle)])
            turns = solver.turns(goal)
            self.assertTrue(((turns >= solver.low - 1e-12) & (turns <= solver.high + 1e-12)).all())
            miss = np.hypot(*(solver.chain.end(turns)[0] - goal))
            far, near = solver.long.farthest, solver.long.nearest
            self.assertLessEqual(float(far.max()), length + 1e-9)
            np.testing.assert_allclose(miss, np.maximum(np.maximum(away - far, near - away), 0.0), rtol=0, atol=1e-6)
            one = Solver(
                solver.chain.of(np.array([39])),
                np.ones(1),
                solver.low[:, :1],
                solver.high[:, :1],
                solver.through[:, :1],
            )
            ends = (np.maximum(one.low, -7).ravel(), np.minimum(one.high, 7).ravel())

            def missed(turns, one=one, at=goal[:, 39]):
                return one.chain.end(turns[:, None])[0][:, 0] - at

            found = min(least_squares(missed, random.uniform(*ends), bounds=ends, max_nfev=40).cost for _ in range(4))
            count_nearer += miss[39] - (2 * found) ** 0.5 > 0.01 * length
        # Of 60 such chains 12 could come nearer to their base by more than a hundredth of their length.
        self.assertLess(count_nearer, 5 * TIMES * 0.6)

    def test_a_goal_that_moves_a_little_moves_no_joint_farther_than_the_root_of_that(self):
        random = np.random.default_rng(4)
        for case in range(60 * TIMES):
            count = int(random.integers(2, 9))
            solver, length = self._chains(random, count, case, 200)
            # Where poses along a way lie close to each other in distance a step goes farthest.
            told = solver.long.distances(0) if count > 2 else random.uniform(0.1, 1.0, 200) * length
            told = np.append(
                random.permutation(told[told > 0.1 * length])[:180], random.uniform(0.1, 1.1, 200) * length
            )[:200]
            heads, sides = random.uniform(-np.pi, np.pi, 200), random.uniform(-np.pi, np.pi, 200)
            goal = told * np.array([np.cos(heads), np.sin(heads)])
            step = 0.01 * np.array([np.cos(sides), np.sin(sides)])
            before, after = (self._joints(solver, goal + by * step) for by in (-0.5, 0.5))
            steps = np.linalg.norm(after - before, axis=1)
            self.assertLess(float(steps.max()), 6 * (0.01 * length) ** 0.5, case)

    @staticmethod
    def _joints(solver, goal):
        """Where the bones of a chain end, shape (joints, 2, points)."""
        return np.cumsum(solver.chain.turned(solver.turns(goal), np.ones(1)).bones, axis=0)

    def test_a_pose_that_a_way_leads_through_is_taken_again_however_hands_turn_the_joints(self):
        random = np.random.default_rng(5)
        for case in range(40):
            solver, _ = self._chains(random, int(random.integers(3, 7)), case, 2)
            end, _ = solver.chain.end(np.zeros(solver.low.shape))
            np.testing.assert_allclose(solver.turns(end), 0.0, rtol=0, atol=1e-6)
            by = random.uniform(-3, 3, solver.low.shape)
            other = replace(
                solver, chain=solver.chain.turned(by, np.ones(1)), low=solver.low - by, high=solver.high - by
            )
            whole = (other.turns(end) + by) / (2 * np.pi)
            np.testing.assert_allclose(whole, np.round(whole), rtol=0, atol=1e-6)

    @staticmethod
    def _chains(random, count, case, points):
        """A chain at many points, led through how it lies: straight, bent one way or anyhow, half of them in ranges."""
        lengths, angles = random.uniform(20, 100, count), random.uniform(-np.pi, np.pi, count)
        angles[1:] = (0.0, random.uniform(0.1, 1.2, count - 1), angles[1:])[case % 3] if case % 3 < 2 else angles[1:]
        cosine, sine = np.cos(angles), np.sin(angles)
        linear = np.repeat(np.moveaxis(np.array([[cosine, -sine], [sine, cosine]]), 2, 0)[..., None], points, axis=-1)
        carried = np.repeat(np.stack([lengths, 0 * lengths], -1)[..., None], points, axis=-1)
        chain = ChainPose(np.zeros((2, points)), linear, None, carried)
        ends = np.full((2, count, points), np.inf)
        if case % 2:
            ends[:, 1:] = random.uniform(0.2, 1.5, (2, count - 1, 1))
        sides = np.ones(points)
        return Solver(chain, sides, -ends[0], ends[1], chain.limb.bends(sides)), float(lengths.sum())

    def test_a_soft_approach_never_straightens_and_reaches_exactly_before_it(self):
        soft = number_channel("r", "soft")
        lengths = []
        for distance in (100.0, 150.0, 179.0, 180.0, 181.0, 300.0):
            parts = arm(0, (100.0, 80.0), (distance, 0.0))
            parts[3] = parts[3].with_rest({soft: 0.1})
            pose = evaluate(Scene("s", "S", parts=tuple(parts)), [0.0])
            lengths.append(float(pose.pivot_of("h0")[0]))
        self.assertEqual([round(found, 9) for found in lengths[:2]], [100.0, 150.0])
        self.assertTrue(all(a < b for a, b in zip(lengths, lengths[1:], strict=False)))
        self.assertLess(lengths[-1], 180.0)

    def test_the_weight_blends_with_the_hands_turns_and_the_end_keeps_its_own(self):
        parts = arm(0, (100.0, 80.0), (60.0, 90.0), turns=(10.0, 20.0), scale=(1.0, 1.6))
        flat = replace(parts[3].constraints[0], keeps_turn=True)
        parts[3] = replace(parts[3], constraints=(flat,), rest={**parts[3].rest, "turn.z": 35.0})
        parts[3] = parts[3].with_channel(number_channel("r", "weight"), Channel((Key(0.0, 0.0), Key(10.0, 1.0))))
        scene = ensure_sound(Scene("s", "S", parts=tuple(parts)))
        by_hand = evaluate(scene.with_parts([replace(parts[3], constraints=(), channels={})]), [0.0])
        pose = evaluate(scene, [0.0, 5.0, 10.0])
        np.testing.assert_allclose(pose.world[:, 0], by_hand.world[:, 0], rtol=0, atol=1e-9)
        for column in range(3):
            linear = pose.world_of("h0", column)[:3, :3]
            np.testing.assert_allclose(linear, by_hand.world_of("h0")[:3, :3], rtol=0, atol=1e-9)
        self.assertLess(float(np.hypot(*(pose.pivot_of("h0", 2)[:2] - (60.0, 90.0)))), 1e-9)

    def test_joints_stay_within_their_ranges_and_skewed_limbs_reach(self):
        parts = arm(0, (100.0, 80.0), (40.0, 100.0))
        parts[2] = replace(parts[2], limits={"turn.z": (-30.0, 30.0)})
        pose = evaluate(Scene("s", "S", parts=tuple(parts)), [0.0])
        turn = np.rad2deg(np.arctan2(*pose.world_of("f0")[1::-1, 0]) - np.arctan2(*pose.world_of("u0")[1::-1, 0]))
        self.assertAlmostEqual(abs(float(turn)), 30.0, places=6)
        parts = arm(0, (100.0, 80.0), (70.0, 60.0), turns=(30.0, -50.0))
        parts[1] = parts[1].with_rest({"scale.y": 0.6, "shear.xy": 0.4})
        pose = evaluate(Scene("s", "S", parts=tuple(parts)), [0.0])
        self.assertLess(float(np.hypot(*(pose.pivot_of("h0")[:2] - (70.0, 60.0)))), 1e-8)

    def test_a_joint_that_takes_over_its_parent_partly_brings_its_tip_towards_the_goal(self):
        goal = helper("g", 40.0, 60.0)
        for inherits in (Inherits(*flags) for flags in product((True, False), repeat=3)):
            even = ({"scale.x": -1.0}, {"scale.x": 1.5, "scale.y": 1.5})
            uneven = ({"scale.x": -1.0, "scale.y": 0.4, "shear.xy": 0.5},) if not inherits.scale else ()
            for rest in (*even, *uneven):
                above = Part("a", "A", rest={"turn.z": 30.0, "move.x": -5.0, **rest})
                rule = Reach(id="r", name="R", goal=Goal(part="g"), joints=1, tip=(20.0, 0.0, 0.0))
                part = Part("p", "P", parent="a", rest={"move.x": 15.0, "turn.z": 200.0}, inherits=inherits)
                scene = Scene("s", "S", parts=(above, replace(part, constraints=(rule,)), goal))
                pose = evaluate(scene, [0.0])
                pivot, along = pose.pivot_of("p")[:2], pose.world_of("p")[:2, 0]
                sight = np.array([40.0, 60.0]) - pivot
                np.testing.assert_allclose(along / np.hypot(*along), sight / np.hypot(*sight), rtol=0, atol=1e-9)


class UnevenBonesTests(unittest.TestCase):
    """Two bones, the second below an unevenly scaled and sheared part."""

    def test_the_end_comes_to_its_goal_on_the_side_asked_for_or_as_near_as_any_turns_bring_it(self):
        random = np.random.default_rng(11)
        count = 400
        linear, spin = random.normal(size=(2, 2, 2, 2, 1, count))
        carried = random.uniform(-90, 90, size=(2, 2, 1, count))
        chain = ChainPose(np.zeros((2, 1, count)), linear, spin, carried)
        goal = random.uniform(-160, 160, size=(2, 1, count))
        bends = random.choice([-1.0, 1.0], size=(1, count))
        free = np.full((2, 1, count), np.inf)
        end, _ = chain.end(turns_to_reach(chain, goal, bends, -free, free))
        miss = np.hypot(*(end - goal))[0]
        # Every bend of the second joint on the side asked for, at a thousand places, by the rule of the chain itself.
        looks = np.linspace(-np.pi, np.pi, 4001)
        for case in range(count):
            one = ChainPose(
                np.zeros((2, 1, len(looks))),
                *(np.repeat(of[..., case, None], len(looks), axis=-1) for of in (linear, spin, carried)),
            )
            turns = np.stack([np.zeros((1, len(looks))), looks[None]])
            ends, _ = one.end(turns)
            joint = one.turned(turns, np.ones(1)).bones[0]
            side = (ends[0] * joint[1] - ends[1] * joint[0])[0]
            lengths = np.hypot(*ends[:, 0])[np.sign(side) == bends[0, case]]
            distance = float(np.hypot(*goal[:, 0, case]))
            nearest = float(np.maximum(np.maximum(lengths.min() - distance, distance - lengths.max()), 0.0))
            self.assertLess(miss[case], nearest + 1e-2 if nearest > 0 else 1e-9)
            if nearest == 0.0:
                turned = turns_to_reach(chain, goal, bends, -free, free)
                bone = chain.turned(turned, np.ones(1)).bones[0][:, 0, case]
                across = float(goal[0, 0, case] * bone[1] - goal[1, 0, case] * bone[0])
                self.assertGreater(across * bends[0, case], -1e-3)

    def test_of_a_bone_without_length_or_bones_on_one_line_nothing_that_can_be_reached_is_lost(self):
        random = np.random.default_rng(3)
        count = 400
        first, second = random.uniform(-90, 90, (2, 2, count))
        above = random.normal(size=(2, 2, count))
        first[:, :200] = 0.0
        first[1, 200:] = above[1, :, 200:] = 0.0  # what M carries lies on the line of the first bone
        goal = random.uniform(-160, 160, size=(2, count))
        turns = two_bones(first, above, second, goal, random.choice([-1.0, 1.0], count))
        looks = np.linspace(-np.pi, np.pi, 4001)
        carried = applied(above[..., None], turned(second[..., None], looks))
        lengths, distance = length_of(first[..., None] + carried), length_of(goal)
        nearest = np.maximum(np.maximum(lengths.min(axis=1) - distance, distance - lengths.max(axis=1)), 0.0)
        miss = length_of(turned(first + applied(above, turned(second, turns[1])), turns[0]) - goal)
        self.assertLess(float((miss - nearest).max()), 1e-2)

    def test_a_goal_at_the_first_joint_is_met_folded_where_nothing_comes_nearer(self):
        # Beside the folded bones the distance turns back first: a case that a random search found.
        above = np.array([[1.71479865, -0.55443642], [-0.69308626, 0.45078036]])
        first, second = np.array([[180.91047843], [-77.60521443]]), np.array([[103.2421161], [-3.96403806]])
        turns = two_bones(first, above[..., None], second, np.zeros((2, 1)), np.array([-1.0]))
        carried = applied(above[..., None], turned(second, turns[1]))
        self.assertAlmostEqual(float(length_of(first + carried)[0]), 4.402105, delta=1e-6)


class RangedBonesTests(unittest.TestCase):
    """Two bones whose joints turn within ranges, the second below a scaled, sheared and mirrored part."""

    def test_the_end_is_as_near_its_goal_on_the_side_asked_for_as_any_turns_of_a_grid_within_the_ranges_bring_it(self):
        random = np.random.default_rng(16)
        count = 160
        turns, shear = random.uniform(-np.pi, np.pi, (2, count)), random.normal(size=(2, count)) * 0.3
        sizes = random.uniform(0.5, 1.8, (2, 2, count)) * random.choice([-1.0, 1.0], (2, 2, count))
        sizes[:, :, : count // 2], shear[:, : count // 2] = 1.0, 0.0  # half of them keep angles
        cosine, sine = np.cos(turns), np.sin(turns)
        linear = np.array([[cosine, -sine], [sine, cosine]]) * sizes
        linear[:, 1] += shear * linear[:, 0]
        linear = np.moveaxis(linear, 2, 0)
        lies = random.uniform(-np.pi, np.pi, (2, count))
        carried = random.uniform(20, 100, (2, 1, count)) * np.stack([np.cos(lies), np.sin(lies)], axis=1)
        chain = ChainPose(np.zeros((2, count)), linear, None, carried)
        low, high = -random.uniform(0, 2.2, (2, count)), random.uniform(0, 2.2, (2, count))
        low[random.random((2, count)) < 0.3], high[random.random((2, count)) < 0.3] = -np.inf, np.inf
        angle, distance = random.uniform(-np.pi, np.pi, count), random.uniform(10, 180, count)
        goal, bends = distance * np.stack([np.cos(angle), np.sin(angle)]), random.choice([-1.0, 1.0], count)
        found = turns_to_reach(chain, goal, bends, low, high)
        self.assertTrue(((found >= low) & (found <= high)).all())
        free = np.full((2, count), np.inf)
        without = turns_to_reach(chain, goal, bends, -free, free)
        beyond = np.flatnonzero(((without < low) | (without > high)).any(axis=0))
        self.assertGreater(len(beyond), count / 3)
        miss = np.hypot(*(chain.end(found)[0] - goal))
        for case in beyond:
            ends = zip(low[:, case], high[:, case], strict=True)
            ends = [pair if np.ptp(pair) < 2 * np.pi else (-np.pi, np.pi) for pair in ends]
            grid = np.stack([each.ravel() for each in np.meshgrid(*(np.linspace(*pair, 161) for pair in ends))])
            one = ChainPose(
                np.zeros((2, grid.shape[1])),
                *(np.repeat(of[..., case, None], grid.shape[1], axis=-1) if of is not None else None
                  for of in (linear, None, carried)),
            )  # fmt: skip
            ends = one.end(grid)[0]
            joint = one.turned(grid, np.ones(1)).bones[0]
            is_asked = (ends[0] * joint[1] - ends[1] * joint[0]) * bends[case] > 0
            misses = np.hypot(*(ends - goal[:, case, None]))
            nearest = float(misses[is_asked].min() if is_asked.any() else misses.min())
            self.assertLess(miss[case], nearest + 1e-6, case)
