import unittest
from dataclasses import replace

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.edits import applied
from jointed_crane.core.edits.placing.kept_poses import DeletePose, KeepPose, PutPose
from jointed_crane.core.edits.placing.poses import SetValues
from jointed_crane.core.edits.shared.values_on_screen import value_on_screen
from jointed_crane.core.edits.time.inserting_frames import InsertFrames
from jointed_crane.core.edits.time.time_markers import AddMarker, DeleteMarker, SetMarker
from jointed_crane.core.edits.time.timing import SetLength, SetRate
from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.evaluate.links_as_keys import links_as_keys
from jointed_crane.core.model.channels import CHANNELS
from jointed_crane.core.model.markers import Marker
from jointed_crane.core.model.scene import Foothold, Part, Scene
from jointed_crane.core.motion.channel import BARE, Channel, Key, Sway
from jointed_crane.core.motion.cycles import swayed
from jointed_crane.core.soundness.whole_scene import ensure_sound
from jointed_crane.formats.excerpt import excerpt
from tests.constrained_rigs import constrained, linked
from tests.meeting import meeting_scene
from tests.strategies import cornered_scene, examples, random_scene, seeds

FRAMES = np.arange(0, 200, 0.5)


class KeptPoseTests(unittest.TestCase):
    @given(seeds)
    @examples(30)
    def test_a_pose_put_elsewhere_lies_as_it_lay_where_it_was_kept(self, seed):
        scene = replace(cornered_scene(seed), length=96)
        scene = replace(scene, depth=bool(seed % 2))
        after = applied(scene, [KeepPose("k", 9.0), PutPose("k", 60.0)])
        posed = [n for n, kind in CHANNELS.items() if kind.is_posed or (scene.depth and kind.is_posed_deep)]
        for part in scene.parts:
            for name in posed:
                self.assertAlmostEqual(
                    value_on_screen(after.part(part.id), name, 60.0), value_on_screen(part, name, 9.0), delta=1e-9
                )

    def test_a_share_goes_part_of_the_way_and_beyond(self):
        part = Part("a", "Arm").with_channel("turn.z", Channel())
        scene = applied(Scene("s", "S", parts=(part,)), [_turned(40.0, 0.0), KeepPose("k", 0.0), _turned(10.0, 20.0)])
        for share, expected in ((0.5, 25.0), (1.0, 40.0), (1.2, 46.0), (0.0, 10.0)):
            after = applied(scene, [PutPose("k", 20.0, ("a",), share)])
            self.assertAlmostEqual(value_on_screen(after.part("a"), "turn.z", 20.0), expected, places=9)

    def test_mirrored_it_takes_the_signs_of_the_other_side(self):
        scene = Scene("s", "S", parts=(Part("a", "Near arm"), Part("b", "Far arm")))
        scene = applied(
            scene, [_turned(30.0, 0.0), KeepPose("k", 0.0, ("a",)), PutPose("k", 12.0, ("b",), mirrored=True)]
        )
        self.assertEqual(evaluate(scene, np.array([12.0])).motion_at()["b"]["turn.z"], -30.0)

    def test_what_is_not_there_is_said(self):
        scene = Scene("s", "S", parts=(Part("a", "Arm"),))
        for edit in (PutPose("k", 0.0), DeletePose("k"), DeleteMarker("m"), SetMarker("m", 0.0)):
            with self.assertRaisesRegex(RuleError, "There is no such"):
                applied(scene, [edit])


def _turned(degrees, frame):
    return SetValues(("a",), {"turn.z": degrees}, frame)


class MarkerTests(unittest.TestCase):
    def test_markers_keep_their_seconds_or_their_place_in_the_whole(self):
        scene = applied(Scene("s", "S", length=49), [AddMarker("m", 24.0, 36.0, "Walk")])
        (slower,) = applied(scene, [SetRate((12, 1))]).markers
        self.assertEqual((slower.frame, slower.until), (12.0, 18.0))
        (longer,) = applied(scene, [SetLength(97, stretches=True)]).markers
        self.assertEqual((longer.frame, longer.until), (24.0 * 97 / 49, 36.0 * 97 / 49))
        (same,) = applied(scene, [SetLength(97)]).markers
        self.assertEqual((same.frame, same.until), (24.0, 36.0))

    def test_a_span_does_not_end_before_it_begins_and_names_are_unique(self):
        scene = applied(Scene("s", "S"), [AddMarker("m", 5.0, name="Look"), AddMarker("n", 9.0, name="Look")])
        self.assertEqual([marker.name for marker in scene.markers], ["Look", "Look 2"])
        for edit in (SetMarker("m", 5.0, 4.0), SetMarker("m", -1.0), SetMarker("m", float("nan")), AddMarker("m", 1.0)):
            with self.assertRaises(RuleError):
                ensure_sound(edit.apply(scene))


class FramesTests(unittest.TestCase):
    @given(seeds, st.integers(0, 60), st.integers(1, 40))
    @examples(20)
    def test_what_is_put_in_and_taken_out_again_was_never_there_and_what_lies_later_goes_along(
        self, seed, frame, count
    ):
        scene = meeting_scene(seed) if seed % 2 else random_scene(seed)
        scene = replace(scene, markers=(Marker("m", "Look", 9.0), Marker("s", "Walk", 20.0, 31.5)))
        longer = applied(scene, [InsertFrames(float(frame), count)])
        self.assertEqual(longer.length, scene.length + count)
        self.assertEqual(applied(longer, [InsertFrames(float(frame), -count)]), scene)
        frames = {one.frame for part in longer.parts for channel in part.channels.values() for one in channel.keys}
        self.assertFalse([at for at in frames if frame <= at < frame + count], "nothing stands in what was put in")

    def test_what_is_taken_out_goes_and_of_changes_there_the_last_holds(self):
        keys = Channel(tuple(Key(float(frame), float(frame)) for frame in (0, 10, 14, 30)))
        holds = tuple(Foothold(frame, (frame, 0.0, 0.0)) for frame in (4.0, 12.0, 15.0, 40.0))
        part = Part("a", "A", channels={"turn.z": keys}, footholds=holds)
        scene = Scene("s", "S", parts=(part, replace(part, id="b", name="B")), length=60)
        after = applied(scene, [InsertFrames(10.0, -8, ("a",))])
        self.assertEqual([key.frame for key in after.part("a").channels["turn.z"].keys], [0, 22])
        self.assertEqual(
            [(hold.frame, hold.point[0]) for hold in after.part("a").footholds], [(4, 4), (10, 15), (32, 40)]
        )
        self.assertEqual((after.part("b"), after.length), (scene.part("b"), 60))
        for count in (0, -60):
            with self.assertRaisesRegex(RuleError, "Nothing was changed"):
                applied(scene, [InsertFrames(0.0, count)])


class ExcerptTests(unittest.TestCase):
    @given(seeds, st.integers(0, 30), st.integers(0, 17))
    @examples(30)
    def test_frames_look_as_in_the_whole(self, seed, first, more):
        scene = cornered_scene(seed)
        part = scene.parts[0]
        sway = Sway(9.0, 7.0, 0.1, 0.6, 3, 8.0, 40.0, 6.0, 5.0)
        scene = scene.with_parts([part.with_channel("turn.z", replace(part.channels.get("turn.z", BARE), sway=sway))])
        found = evaluate(excerpt(scene, first, first + more), np.arange(0, more + 1, 0.5))
        whole = evaluate(scene, np.arange(first, first + more + 1, 0.5))
        scale = np.abs(whole.world).max() + 1
        for name in ("world", "opacity", "drawing", "shown", "order"):
            np.testing.assert_allclose(getattr(found, name), getattr(whole, name), atol=1e-9 * scale)

    @given(seeds, st.integers(0, 30))
    @examples(20)
    def test_spans_are_sent_as_in_the_whole_where_links_drive_what_steps_and_changes_hands(self, seed, first):
        random = np.random.default_rng(seed)
        scene = linked(constrained(random_scene(seed, 6), seed), seed)
        part = str(random.choice([part.id for part in scene.parts if part.links] or [scene.parts[0].id]))
        steps = [
            Foothold(frame, (float(x), 8.0, 0.0))
            for frame, x in zip((4.0, 13.5, 21.0), random.uniform(0, 40, 3), strict=True)
        ]
        scene = scene.with_parts([replace(scene.part(part), footholds=tuple(steps))])
        found = evaluate(links_as_keys(excerpt(scene, first, first + 10)), np.arange(11.0))
        whole = evaluate(scene, np.arange(first, first + 11.0))
        scale = np.abs(whole.world).max() + 1
        np.testing.assert_allclose(found.world, whole.world, atol=1e-7 * scale)

    def test_frames_that_are_not_there_are_refused(self):
        with self.assertRaisesRegex(RuleError, "frames 5 to 200 are not in it"):
            excerpt(Scene("s", "S"), 5, 200)


class SwayTests(unittest.TestCase):
    @given(st.integers(0, 1000), st.floats(0, 1), st.floats(2, 60), st.floats(0, 40), st.floats(0, 40))
    @examples(60)
    def test_it_stays_within_its_amount_and_its_frames(self, seed, irregularity, period, fade_in, fade_out):
        sway = Sway(3.0, period, 0.2, irregularity, seed, 30.0, 150.0, fade_in, fade_out)
        values = swayed(sway, FRAMES)
        self.assertLessEqual(np.abs(values).max(), 3.0 + 1e-12)
        self.assertTrue((values[(FRAMES < 30) | (FRAMES > 150)] == 0).all())
        np.testing.assert_array_equal(values, swayed(sway, FRAMES))

    @given(seeds, st.floats(0, 1), st.floats(1.5, 60), st.floats(2, 300), st.floats(-40, 40))
    @examples(40)
    def test_what_comes_round_is_as_it_was_also_when_shifted_and_stretched(self, seed, irregularity, period, round, by):
        sway = Sway(3.0, period, 0.2, irregularity, seed, comes_round=round)
        for one, length in ((sway, round), (sway.shifted(by), round), (sway.stretched(1.5), 1.5 * round)):
            first, again = (swayed(one, FRAMES + start) for start in (0.0, length))
            np.testing.assert_allclose(again, first, rtol=0, atol=1e-9)
        np.testing.assert_allclose(swayed(sway.shifted(by), FRAMES + by), swayed(sway, FRAMES), rtol=0, atol=1e-9)
        # The swings are as long as they were meant to be, but for what makes them whole.
        self.assertLessEqual(abs(round / sway.swing - round / period), max(0.5, 1 - round / period) + 1e-9)

    def test_without_irregularity_and_fading_it_is_the_sine(self):
        expected = 2 * np.sin(2 * np.pi * (FRAMES / 24 + 0.25))
        np.testing.assert_allclose(swayed(Sway(2.0, 24.0, 0.25), FRAMES), expected, atol=1e-12)

    def test_it_grows_along_half_a_cosine(self):
        faded = swayed(Sway(1.0, 4.0, 0.25, begin=0.0, fade_in=40.0), np.array([0.0, 20.0, 40.0]))
        np.testing.assert_allclose(faded, [0.0, 0.5, 1.0], atol=1e-12)

    def test_seeds_differ_and_swings_are_uneven(self):
        one, other = (swayed(Sway(1.0, 20.0, irregularity=0.8, seed=seed), FRAMES) for seed in (1, 2))
        self.assertGreater(np.abs(one - other).max(), 0.2)
        peaks = np.flatnonzero((one[1:-1] > one[:-2]) & (one[1:-1] > one[2:]))
        self.assertGreater(np.ptp(np.diff(FRAMES[peaks])), 1.0)
