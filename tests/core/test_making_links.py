"""Links that are made by what is there: ranges, where both ends stand, the values that a source takes."""

import unittest
from dataclasses import replace

import numpy as np
from hypothesis import assume, given
from hypothesis import strategies as st

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.edits import applied
from jointed_crane.core.edits.constraints.levers_and_links import AddLever
from jointed_crane.core.edits.constraints.making_links import LinkAsCurve, LinkByRanges, LinkFromHere
from jointed_crane.core.edits.placing.poses import SetValues
from jointed_crane.core.edits.shared.values_on_screen import value_on_screen
from jointed_crane.core.edits.time.keys import SetKeys
from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.evaluate.pose_at_frame import pose_at
from jointed_crane.core.model.levers import Link
from tests.core.test_driving import sluice
from tests.strategies import examples, random_scene, seeds


class MadeLinkTests(unittest.TestCase):
    """Links that are made by what is there."""

    @given(seeds, st.floats(-170, 170), st.floats(-60, 60), st.sampled_from(["turn.z", "move.x", "scale.x", "opacity"]))
    @examples(30)
    def test_what_was_posed_from_here_to_here_is_driven_and_nothing_moves(self, seed, turn, by, onto):
        scene = random_scene(seed)
        source, part = (one.id for one in scene.parts[:2])
        # What a part stands on it has come to by other frames, which a link changes too.
        scene = scene.with_parts([replace(one, parent=None, links=(), footholds=()) for one in scene.parts])
        frame = 12.0
        was = [value_on_screen(scene.part(one), channel, frame) for one, channel in ((source, "turn.z"), (part, onto))]
        assume(was[1] and abs(by) > 1e-3 and abs(turn) > 1e-3)
        now = was[1] * (1 + by / 100) if onto in ("scale.x", "opacity") else was[1] + by
        edits = [SetValues((source,), {"turn.z": was[0] + turn}, frame), SetValues((part,), {onto: now}, frame)]
        posed = applied(scene, edits)
        assume(value_on_screen(posed.part(part), onto, frame) != was[1])
        after = applied(posed, [LinkFromHere(part, "l", source, "turn.z", onto, *was, frame=frame)])
        np.testing.assert_allclose(pose_at(after, frame).world, pose_at(posed, frame).world, rtol=0, atol=1e-9 * 300)
        self.assertAlmostEqual(value_on_screen(after.part(part), onto, frame), was[1], 9)
        back = applied(after, [SetValues((source,), {"turn.z": was[0]}, frame)])
        before = applied(scene, [SetKeys((source, part), ("turn.z", onto), frame)])
        np.testing.assert_allclose(
            pose_at(back, frame).world_of(part), pose_at(before, frame).world_of(part), rtol=0, atol=3e-7
        )

    def test_what_has_not_moved_is_no_link(self):
        scene = applied(sluice(0.0, 1.0), [SetValues(("left",), {"turn.z": 30.0}, 10.0)])
        for source_was, was, named in ((1.0, 0.0, "Sluice"), (0.0, 30.0, "Turn of Left")):
            with self.assertRaisesRegex(RuleError, f"{named} stands where it stood"):
                applied(scene, [LinkFromHere("left", "l", "lever", "lever.x", "turn.z", source_was, was, 10.0)])

    def test_at_rest_only_levers_are_taken_from_here(self):
        scene = sluice(0.0, 1.0)
        with self.assertRaisesRegex(RuleError, "At rest only levers drive"):
            applied(scene, [LinkFromHere("left", "l", "right", "turn.z", "turn.z", 5.0, 9.0)])
        posed = applied(scene, [SetValues(("lever",), {"lever.x": 0.5}), SetValues(("left",), {"turn.z": 40.0})])
        after = applied(posed, [LinkFromHere("left", "l", "lever", "lever.x", "turn.z", 0.0, 0.0)])
        np.testing.assert_allclose(pose_at(after, None).world, pose_at(posed, None).world, rtol=0, atol=1e-9)

    def test_amounts_take_the_whole_range_of_one_through_that_of_the_other(self):
        scene = sluice(0.0, 1.0, low=-2.0, high=3.0)
        limited = replace(scene.part("left"), limits={"turn.z": (-20.0, 80.0), "move.x": (0.0, None)})
        scene = scene.with_parts([limited])
        wanted = {"turn.z": 100 / 5, "opacity": 1 / 5, "move.x": 90 / 5}
        for onto, amount in wanted.items():
            after = applied(scene, [LinkByRanges("left", "l", "lever", "lever.x", onto)])
            self.assertEqual(after.part("left").links[0].amount, amount)
        after = applied(scene, [LinkByRanges("right", "l", "left", "turn.z", "turn.z")])
        self.assertEqual(after.part("right").links[0].amount, 0.9)

    @given(seeds, st.floats(-3, 3), st.sampled_from(["turn.z", "move.x", "scale.x", "lever.x"]))
    @examples(30)
    def test_a_link_written_as_a_curve_moves_nothing_at_any_frame(self, seed, amount, channel):
        scene = applied(random_scene(seed), [AddLever("lever", "Lever")])
        source = "lever" if channel == "lever.x" else scene.parts[0].id
        part = scene.parts[1].id
        others = [Link(id="o", source="lever", channel="lever.x", onto=channel, amount=300.0)]
        driven = replace(scene.part(scene.parts[0].id), links=tuple(others) if channel != "lever.x" else ())
        link = Link(id="l", source=source, channel=channel, onto="turn.z", amount=amount)
        scene = scene.with_parts([driven, replace(scene.part(part), parent=None, links=(link,))])
        scene = applied(
            scene, [SetValues(("lever",), {"lever.x": 0.7}, 5.0), SetValues(("lever",), {"lever.x": -1.0}, 30.0)]
        )
        after = applied(scene, [LinkAsCurve(part, "l")])
        self.assertEqual(len(after.part(part).links[0].points), 3)
        frames = np.linspace(0, scene.length - 1, 90)
        was, now = (evaluate(one, frames).driven[part, "turn.z"] for one in (scene, after))
        np.testing.assert_allclose(now, was, rtol=1e-9, atol=1e-9)


if __name__ == "__main__":
    unittest.main()
