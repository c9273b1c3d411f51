"""Constraints turned into keys: how far the keys stray, and how few they are."""

import unittest
from dataclasses import replace

import numpy as np
from hypothesis import given

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.constraints.carry import Carry
from jointed_crane.core.constraints.constraint import Goal
from jointed_crane.core.constraints.follow import Follow
from jointed_crane.core.constraints.point_at import PointAt
from jointed_crane.core.constraints.reach import Reach
from jointed_crane.core.edits import applied
from jointed_crane.core.edits.constraints.changing_hands import CarryFrom, MatchReach
from jointed_crane.core.edits.constraints.constraining import Constrain
from jointed_crane.core.edits.constraints.keeping_as_keys import KeepAsKeys
from jointed_crane.core.edits.shared.values_on_screen import motion_value
from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.evaluate.inverse_placement import PLACING, placing_values
from jointed_crane.core.evaluate.values import motion_values
from jointed_crane.core.model.scene import Inherits, Scene
from jointed_crane.core.motion.channel import Channel, Sway
from jointed_crane.core.motion.curves import value_at
from jointed_crane.core.motion.fitting import fitted
from tests.constrained_rigs import arm, constrained, helper, moving
from tests.strategies import examples, random_scene, seeds


class FittingTests(unittest.TestCase):
    def test_a_course_is_found_once_for_all_frames_however_many_corners_and_jumps_it_has(self):
        asked = []

        def course(frames):
            asked.append(len(frames))
            return np.floor(frames / 7.0) * 5 + np.abs(frames % 7.0 - 3.5)

        keys = fitted(course, 0.0, 100.0, 0.01, [7.0 * n for n in range(30)] + [3.5 + 7.0 * n for n in range(30)])
        self.assertEqual(len(asked), 1)
        frames = np.concatenate([np.arange(0.0, 100.0, 0.25) + 0.1, np.arange(0.0, 100.0, 7.0)])
        np.testing.assert_allclose([value_at(Channel(keys), at) for at in frames], course(frames), rtol=0, atol=0.011)

    def test_corners_and_jumps_that_are_hardly_apart_are_taken_for_one(self):
        def course(frames):
            return np.where(frames < 10.0, 0.0, np.where(frames < 10.0005, 90.0, 40.0))

        for corners in ([10.0, 10.0005], [10.0005, 10.0, 10.001, 0.0005, 19.9995], [10.0, 10.0 + 1e-12]):
            keys = fitted(course, 0.0, 20.0, 0.01, corners)
            frames = [key.frame for key in keys]
            self.assertEqual(frames, sorted(set(frames)))
            self.assertTrue(all(np.isfinite([key.value, *(key.handle_out or ())]).all() for key in keys))
            found = [value_at(Channel(keys), at) for at in (0.0, 9.5, 10.5, 20.0)]
            np.testing.assert_allclose(found, [0.0, 0.0, 40.0, 40.0], atol=0.011)


class KeepAsKeysTests(unittest.TestCase):
    def _off(self, before, after, parts):
        """How far corners of the arts of parts lie apart at every quarter of a frame, px."""
        frames = np.arange(0.0, before.length - 1, 0.25)
        there, here = (evaluate(scene, frames) for scene in (before, after))
        most = 0.0
        for part_id in parts:
            part = before.part(part_id)
            left, top, right, bottom = part.bounds or (*part.pivot[:2], *part.pivot[:2])
            box = np.array([(left, top, 0, 1), (right, top, 0, 1), (right, bottom, 0, 1), (left, bottom, 0, 1)])
            off = (there.world[there.index[part_id]] - here.world[here.index[part_id]]) @ box.T
            most = max(most, float(np.hypot(off[:, 0], off[:, 1]).max()))
        return most

    @given(seeds)
    @examples(3)
    def test_keys_stay_within_the_tolerance_in_random_scenes(self, seed):
        scene = replace(constrained(random_scene(seed, 6), seed), length=40)
        for part in scene.parts:
            for one in part.constraints[:1]:
                try:
                    after = applied(scene, [KeepAsKeys(part.id, one.id, 0.2)])
                except RuleError:
                    continue
                self.assertNotIn(one.id, [other.id for other in after.part(part.id).constraints])
                if len(part.constraints) == 1:
                    self.assertLessEqual(self._off(scene, after, [part.id]), 0.2 * (1 + 1e-9))

    def test_a_reach_becomes_turns_of_its_joints_and_nothing_else(self):
        parts = {part.id: part for part in arm(0, (80.0, 70.0), (90.0, 60.0), scale=(1.3, 1.3))}
        parts["g0"] = moving(parts["g0"], x=(0, 40, -60), y=(0, 30, 20))
        scene = Scene("s", "S", parts=tuple(parts.values()), length=30)
        after = applied(scene, [KeepAsKeys("h0", "r", 0.1)])
        self.assertLessEqual(self._off(scene, after, ["u0", "f0", "h0"]), 0.1)
        self.assertEqual({name: set(after.part(name).channels) for name in ("u0", "f0", "h0")},
                         {"u0": {"turn.z"}, "f0": {"turn.z"}, "h0": set()})  # fmt: skip
        count = sum(len(channel.frames) for name in ("u0", "f0") for channel in after.part(name).channels.values())
        coarse = applied(scene, [KeepAsKeys("h0", "r", 2.0)])
        fewer = sum(len(channel.frames) for name in ("u0", "f0") for channel in coarse.part(name).channels.values())
        self.assertLess(fewer, count)
        self.assertLess(count, 40)
        self.assertEqual(after.part("h0").constraints, ())

    def test_a_stretching_reach_that_changes_to_turning_is_kept_too(self):
        parts = {part.id: part for part in arm(0, (80.0, 70.0), (90.0, 60.0))}
        (rule,) = parts["h0"].constraints
        parts["h0"] = replace(parts["h0"], constraints=(replace(rule, keeps_turn=True),))
        parts["h0"] = parts["h0"].with_rest({"constraint.r.stretch": 1.4})
        parts["g0"] = moving(parts["g0"], x=(0, 140, -60), y=(0, 30, 20))
        scene = Scene("s", "S", parts=tuple(parts.values()), length=30)
        scene = applied(scene, [MatchReach("h0", "r", "turn", 14.0), MatchReach("h0", "r", "reach", 20.0)])
        after = applied(scene, [KeepAsKeys("h0", "r", 0.3)])
        self.assertLessEqual(self._off(scene, after, ["u0", "f0", "h0"]), 0.3)

    def test_what_is_carried_is_kept_whole_turns_included(self):
        hook = moving(helper("hook"), turn=(0, 900, 900), x=(0, 60, 0))
        crate = helper("crate", 30.0, 10.0)
        scene = applied(Scene("s", "S", parts=(hook, crate), length=30), [CarryFrom("crate", "hook", 2.0, "c")])
        after = applied(scene, [KeepAsKeys("crate", "c", 0.1)])
        self.assertLessEqual(self._off(scene, after, ["crate"]), 0.1)
        keys = after.part("crate").channels["turn.z"].keys
        self.assertGreater(max(key.value for key in keys), 700.0)
        self.assertFalse(any(isinstance(one, Carry) for one in after.part("crate").constraints))

    def test_those_that_act_before_go_with_it_and_later_ones_stay(self):
        goal = moving(helper("goal", 50.0, 50.0), x=(0, 40, 0))
        scene = Scene("s", "S", parts=(goal, helper("part", 10.0, 0.0)), length=20)
        for rule in (
            Follow(id="a", name="A", goal=Goal(part="goal")),
            PointAt(id="b", name="B", goal=Goal(part="goal")),
            PointAt(id="c", name="C", goal=Goal(part="goal"), along="y"),
        ):
            scene = applied(scene, [Constrain("part", rule, {"weight": 0.7})])
        after = applied(scene, [KeepAsKeys("part", "b", 0.05)])
        self.assertEqual([one.id for one in after.part("part").constraints], ["c"])
        self.assertLessEqual(self._off(scene, after, ["part"]), 0.05)

    def test_joints_that_another_reach_turns_are_refused(self):
        parts = {part.id: part for part in arm(0, (80.0, 70.0), (90.0, 60.0))}
        other = Reach(id="q", name="Other", goal=Goal(part="g0"), joints=1)
        parts["f0"] = replace(parts["f0"], constraints=(other,))
        with self.assertRaisesRegex(RuleError, "Other of F0 reaches with F0"):
            applied(Scene("s", "S", parts=tuple(parts.values())), [KeepAsKeys("h0", "r")])


class UnplacingTests(unittest.TestCase):
    @given(seeds)
    @examples(15)
    def test_what_places_a_plain_part_is_what_its_channels_say(self, seed):
        scene = random_scene(seed, 5)
        frames = np.arange(0.0, 30.0, 2.5)
        for part in scene.parts:
            if part.footholds or "scale.x" in part.channels:  # others have the same place by other numbers too
                continue
            found = placing_values(scene, part, frames)
            for name in PLACING:
                off = found[name] - motion_values(part, name, frames)
                off = (off + 180) % 360 - 180 if name == "turn.z" else off
                self.assertLess(float(np.abs(off).max()), 1e-7, (part.id, name))

    def test_also_where_a_part_takes_over_only_some_of_a_turned_uneven_and_moving_parent(self):
        parent = moving(helper("parent", 40.0, 20.0), turn=(30, 200), x=(0, 50)).with_rest(
            {"scale.x": 1.6, "scale.y": -0.7}
        )
        frames = np.arange(0.0, 10.0, 2.5)
        for chosen in np.ndindex(2, 2, 2):
            kept = Inherits(*map(bool, chosen))
            part = moving(helper("part", 12.0, -7.0, parent="parent", inherits=kept), turn=(10, 80), y=(0, 30))
            part = replace(part, pivot=(5.0, 9.0, 0.0)).with_rest({"shear.xy": 0.3, "scale.y": 1.4, "slide.x": 6.0})
            found = placing_values(Scene("s", "S", parts=(parent, part)), part, frames)
            for name in PLACING:
                wanted = motion_values(part, name, frames)
                np.testing.assert_allclose(found[name], wanted, rtol=0, atol=1e-9, err_msg=f"{name} {kept}")
        goal = moving(helper("goal", 90.0, 10.0), x=(0, 60), y=(0, -30))
        part = replace(part, inherits=Inherits(position=True, turn=False, scale=True))
        scene = Scene("s", "S", parts=(parent, goal, part), length=12)
        scene = applied(scene, [Constrain("part", PointAt(id="a", name="A", goal=Goal(part="goal")))])
        after = applied(scene, [KeepAsKeys("part", "a", 0.05)])
        frames = np.arange(0.0, 11.0, 0.25)
        there, here = (evaluate(found, frames) for found in (scene, after))
        np.testing.assert_allclose(here.pivot[2], there.pivot[2], rtol=0, atol=0.05)
        np.testing.assert_allclose(here.world[2, :, :3, :3], there.world[2, :, :3, :3], rtol=0, atol=0.05)

    def test_a_sway_without_keys_swings_about_neutral_wherever_the_part_rests(self):
        part = helper("reed").with_rest({"turn.z": 30.0}).with_channel("turn.z", Channel(sway=Sway(5.0, 20.0, 0.25)))
        self.assertAlmostEqual(motion_value(part, "turn.z", 0.0), 5.0, places=9)
