"""Shapes of segments, curves turned into keys, rolling, drift and the scene's time, against physics and standards."""

import unittest
from dataclasses import replace

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from scipy.optimize import brentq

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.constraints.constraint import Goal
from jointed_crane.core.constraints.follow import Follow
from jointed_crane.core.edits import applied
from jointed_crane.core.edits.constraints.constraining import Constrain
from jointed_crane.core.edits.constraints.keeping_as_keys import KeepAsKeys
from jointed_crane.core.edits.placing.pivot_throughout import MovePivotThroughout
from jointed_crane.core.edits.placing.poses import SetValues
from jointed_crane.core.edits.placing.rolling import Roll
from jointed_crane.core.edits.time.appearing import ShowFrom
from jointed_crane.core.edits.time.curving import Bake, LayHandles, ShapeLike, ShapeSegments
from jointed_crane.core.edits.time.inbetween import InBetween
from jointed_crane.core.edits.time.keys import DeleteKeys, KeyAt, SetHandles, SetOutside, SetSegmentKind, SetSway
from jointed_crane.core.edits.time.timing import SetLength, SetRate
from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.geometry.tumbling import hull_of
from jointed_crane.core.measures.drift import contact_speeds, course_of
from jointed_crane.core.model.scene import Drawing, Part, Scene
from jointed_crane.core.motion.channel import Channel, Key, Sway
from jointed_crane.core.motion.curves import PackedCurves, value_at, values
from jointed_crane.core.viewing.projection import on_stage
from tests.strategies import cornered_scene, examples, seeds

HEXAGON = [(50 * np.cos(angle), 50 * np.sin(angle)) for angle in np.arange(6) * np.pi / 3]
UNEVEN = [(0, 10), (70, 0), (90, 50), (20, 80)]


def body(corners, **fields):
    """A part whose outline is one ring of corners, its pivot away from all of them."""
    ring = tuple((float(x), float(y)) for x, y in corners)
    box = (min(x for x, _ in ring), min(y for _, y in ring), max(x for x, _ in ring), max(y for _, y in ring))
    drawing = Drawing("d", "body", "art", box, box, outline=(ring,))
    return Part("body", "Body", drawings=(drawing,), pivot=(5.0, 7.0, 0.0), **fields)


def keyed(keys, length=96, **fields):
    """A scene with one part that turns by keys."""
    part = Part("p", "Wing", channels={"turn.z": Channel(tuple(keys), **fields)})
    return Scene("s", "Scene", parts=(part,), length=length)


def turns(scene, frames, part=0, channel="turn.z"):
    return values(PackedCurves((scene.parts[part].channels[channel],)), np.asarray(frames, dtype=float))[0]


def css_bezier(x1, y1, x2, y2, share):
    """cubic-bezier() of CSS Easing 1, solved with a root finder of SciPy."""
    u = brentq(lambda u: 3 * x1 * u * (1 - u) ** 2 + 3 * x2 * u**2 * (1 - u) + u**3 - share, 0, 1, xtol=1e-14)
    return 3 * y1 * u * (1 - u) ** 2 + 3 * y2 * u**2 * (1 - u) + u**3


class ReadyShapeTests(unittest.TestCase):
    SCENE = keyed([Key(10.0, -20.0), Key(50.0, 100.0), Key(70.0, 100.0)])
    KEY = KeyAt("p", "turn.z", 10.0)

    def test_soft_shapes_are_the_keywords_of_css_easing(self):
        curves = {"soft start": (0.42, 0, 1, 1), "soft end": (0, 0, 0.58, 1), "soft both": (0.42, 0, 0.58, 1)}
        for shape, curve in curves.items():
            after = applied(self.SCENE, [ShapeSegments((self.KEY,), shape)])
            for share in (0.1, 0.37, 0.5, 0.82):
                wanted = -20 + 120 * css_bezier(*curve, share)
                self.assertAlmostEqual(turns(after, [10 + 40 * share])[0], wanted, 9, shape)

    def test_a_bounce_falls_with_one_acceleration_and_keeps_half_its_speed(self):
        after = applied(self.SCENE, [ShapeSegments((self.KEY,), "bounce", 3)])
        contacts = [key.frame for key in after.parts[0].channels["turn.z"].keys[1:5]]
        self.assertEqual(contacts[-1], 50.0)
        spans = np.diff(contacts)
        np.testing.assert_allclose(spans[1:] / spans[:-1], 0.5)
        pulls = []
        for begin, end in zip([10.0, *contacts[:-1]], contacts, strict=True):
            frames = begin + (end - begin) * np.array([0.2, 0.4, 0.6])
            pulls.append(float(np.diff(turns(after, frames), 2)[0]) / (frames[1] - frames[0]) ** 2)
        np.testing.assert_allclose(pulls, pulls[0], rtol=1e-9)
        self.assertAlmostEqual(float(turns(after, np.linspace(10, 50, 4001)).max()), 100.0, 9)

    def test_an_overshoot_goes_beyond_and_comes_back(self):
        after = applied(self.SCENE, [ShapeSegments((self.KEY,), "overshoot")])
        course = turns(after, np.linspace(10, 50, 401))
        self.assertAlmostEqual(float(course.max()), 100 + 0.12 * 120, 9)
        self.assertEqual(course[-1], 100.0)

    def test_a_shape_is_taken_from_one_segment_to_many(self):
        scene = applied(self.SCENE, [SetHandles((self.KEY,), None, (5.0, 70.0))])
        scene = applied(scene, [SetValues(("p",), {"scale.x": 1.0}, 0.0), SetValues(("p",), {"scale.x": 3.0}, 20.0)])
        after = applied(scene, [ShapeLike((KeyAt("p", "scale.x", 0.0),), self.KEY)])
        shares = np.linspace(0, 1, 21)
        turned = (turns(after, 10 + 40 * shares) + 20) / 120
        np.testing.assert_allclose((turns(after, 20 * shares, channel="scale.x") - 1) / 2, turned, atol=1e-9)
        with self.assertRaisesRegex(RuleError, "No segment leaves"):
            applied(scene, [ShapeLike((self.KEY,), KeyAt("p", "turn.z", 70.0))])

    @examples(20)
    @given(seeds, st.sampled_from(["soft end", "overshoot", "bounce", "snap at the end"]), st.integers(1, 12))
    def test_time_never_runs_backwards_in_a_shape(self, seed, shape, bounces):
        random = np.random.default_rng(seed)
        frames = np.cumsum(random.uniform(1, 20, 5))
        scene = keyed([Key(float(frame), float(random.normal() * 50)) for frame in frames])
        keys = tuple(KeyAt("p", "turn.z", float(frame)) for frame in frames)
        channel = applied(scene, [ShapeSegments(keys, shape, bounces)]).parts[0].channels["turn.z"]
        self.assertEqual(list(channel.frames), sorted(set(channel.frames)))
        self.assertLessEqual(set(frames), set(channel.frames))
        for frame, value in zip(frames, scene.parts[0].channels["turn.z"].keys, strict=True):
            self.assertAlmostEqual(value_at(channel, float(frame)), value.value, 9)


class HandleTests(unittest.TestCase):
    def test_joined_handles_lie_in_one_line_and_flat_ones_level(self):
        scene = keyed([Key(0.0, 0.0), Key(20.0, 30.0, "eased", (-4.0, -30.0), (8.0, 10.0)), Key(40.0, 80.0)])
        key = KeyAt("p", "turn.z", 20.0)
        joined = applied(scene, [LayHandles((key,), "joined")]).parts[0].channels["turn.z"].keys[1]
        self.assertAlmostEqual(joined.handle_in[1] / joined.handle_in[0], joined.handle_out[1] / joined.handle_out[0])
        self.assertEqual((joined.handle_in[0], joined.handle_out[0]), (-4.0, 8.0))
        flat = applied(scene, [LayHandles((key,), "flat")]).parts[0].channels["turn.z"].keys[1]
        self.assertEqual((flat.handle_in, flat.handle_out), ((-4.0, 0.0), (8.0, 0.0)))
        smooth = applied(scene, [LayHandles((key,), "smooth")]).parts[0].channels["turn.z"].keys[1]
        self.assertEqual((smooth.handle_in, smooth.handle_out), (None, None))


class BakeTests(unittest.TestCase):
    def test_a_sway_takes_less_than_a_quarter_of_the_frames_as_keys(self):
        part = Part("reed", "Reed", channels={"move.x": Channel(sway=Sway(12.0, 24.0, 0.1))})
        scene = Scene("s", "Scene", parts=(part,), length=96)
        channel = applied(scene, [Bake(0.0, 95.0, 0.05)]).parts[0].channels["move.x"]
        self.assertIsNone(channel.sway)
        self.assertLess(len(channel.keys), 96 / 4)
        frames = np.arange(0, 95.01, 0.25)
        course = values(PackedCurves((channel,)), frames)[0]
        np.testing.assert_allclose(course, 12 * np.sin(2 * np.pi * (frames / 24 + 0.1)), atol=0.05)

    @examples(20)
    @given(seeds, st.sampled_from(["repeat", "back and forth", "repeat onwards", "straight on"]))
    def test_cycles_and_sways_become_keys_within_the_tolerance(self, seed, outside):
        random = np.random.default_rng(seed)
        frames = np.cumsum(random.integers(2, 12, 4)).astype(float) + 20
        kinds = random.choice(["eased", "straight", "hold"], 4)
        keys = [Key(frame, float(random.normal() * 30), str(kind)) for frame, kind in zip(frames, kinds, strict=True)]
        scene = keyed(keys, before=outside, after=outside, sway=Sway(4.0, 17.0) if seed % 2 else None)
        after = applied(scene, [Bake(0.0, 95.0, 0.05)])
        self.assertTrue(after.parts[0].channels["turn.z"].is_plain)
        every = np.arange(0.0, 96.0)
        np.testing.assert_allclose(turns(after, every), turns(scene, every), atol=0.0501)

    def test_what_would_take_endless_samples_or_corners_is_refused(self):
        swaying = Part("reed", "Reed", channels={"move.x": Channel(sway=Sway(12.0, 24.0))})
        keys = (Key(0.0, 0.0), Key(0.001, 9.0))
        whirring = Part("wheel", "Wheel", channels={"turn.z": Channel(keys, after="repeat")})
        far = Part("far", "Far", channels={"turn.z": Channel((Key(-9e6, 0.0), Key(9e6, 1.0)))})
        scene = Scene("s", "Scene", parts=(swaying, whirring, far, Part("goal", "Goal")))
        follow = Follow(id="f", name="Follow", goal=Goal(part="goal"))
        for edits in (
            [Bake(-1e7, 95.0, parts=("reed",))],
            [Bake(0.0, 95.0, parts=("wheel",))],
            [MovePivotThroughout("far", (5.0, 5.0))],
            [Constrain("far", follow), KeepAsKeys("far", "f")],
        ):
            with self.subTest(edits[-1].kind), self.assertRaisesRegex(RuleError, "most.*Nothing was changed"):
                applied(scene, edits)

    def test_pictures_that_come_round_again_are_keyed_where_they_change(self):
        drawings = tuple(Drawing(f"d{i}", f"d{i}", "art", (0, 0, 1, 1), (0, 0, 1, 1)) for i in range(3))
        channel = Channel((Key(0.0, 0.0, "hold"), Key(4.0, 1.0, "hold"), Key(8.0, 2.0, "hold")), after="repeat")
        part = Part("p", "Hand", drawings=drawings, channels={"drawing": channel})
        scene = Scene("s", "Scene", parts=(part,), length=48)
        after = applied(scene, [Bake(0.0, 47.0)])
        frames = np.arange(48.0)
        np.testing.assert_array_equal(evaluate(after, frames).drawing, evaluate(scene, frames).drawing)


class RollTests(unittest.TestCase):
    def test_a_hexagon_goes_the_sum_of_its_sides_and_never_slips(self):
        scene = Scene("s", "Scene", parts=(body(HEXAGON, rest={"move.x": 300.0, "move.y": 400.0}),), length=120)
        after = applied(scene, [Roll("body", 10.0, 90.0, 6)])
        frames = np.arange(120.0)
        self.assertLess(contact_speeds(after, "body", frames).max(), 1e-6)
        world = evaluate(after, frames).world[0]
        np.testing.assert_allclose(world[-1, :2, 3] - world[0, :2, 3], [6 * 50, 0], atol=1e-9)
        self.assertAlmostEqual(turns(after, [90.0])[0], 360.0)

    @examples(20)
    @given(seeds, st.sampled_from(["right", "left"]), st.integers(1, 9), st.booleans())
    def test_an_uneven_crate_stays_on_the_ground_whatever_becomes_of_earlier_keys(self, seed, side, corners, is_tipped):
        random = np.random.default_rng(seed)
        above = Part("above", "Barge", rest={"turn.z": float(random.uniform(-40, 40)), "scale.x": 1.3, "scale.y": -1.3})
        rest = {"move.x": 300.0, "move.y": 90.0, "turn.z": float(random.uniform(-180, 180)), "scale.y": 0.7}
        if is_tipped:
            above = above.with_rest(
                {"turn.x": float(random.uniform(-60, 60)), "turn.y": float(random.uniform(-60, 60))}
            )
            rest["turn.y"] = float(random.uniform(-20, 20))
        parts = (above, body(UNEVEN, parent="above", rest=rest))
        scene = applied(Scene("s", "Scene", parts=parts, length=90), [SetValues(("body",), {"turn.z": 10.0}, 0.0)])
        after = applied(scene, [Roll("body", 12.0, 80.0, corners, side)])
        frames = np.arange(90.0)
        world = evaluate(after, frames).world[1]
        lowest = np.array([on_stage(matrix, np.array(UNEVEN))[:, 1].max() for matrix in world])
        np.testing.assert_allclose(lowest[12:], lowest[12], atol=1e-9)
        self.assertLess(contact_speeds(after, "body", frames).max(), 1e-6)
        middle = [on_stage(matrix, np.mean(UNEVEN, axis=0))[0] for matrix in world[[12, -1]]]
        self.assertGreater((middle[1] - middle[0]) * (1 if side == "right" else -1), 0)
        # Earlier turns are edited: it stands elsewhere, yet no contact slips.
        edited = applied(after, [SetValues(("body",), {"turn.z": float(random.normal() * 60)}, 5.0)])
        self.assertLess(contact_speeds(edited, "body", frames).max(), 1e-6)

    def test_a_wheel_of_many_sides_comes_near_the_cycloid(self):
        # A point on the rim of a rolling circle: x = r (t - sin t), height = r (1 - cos t) (Huygens; any textbook).
        sides, radius = 240, 100.0
        angles = (np.arange(sides) + 0.5) * 2 * np.pi / sides
        rim = np.stack([radius * np.sin(angles), radius * np.cos(angles)], axis=-1).tolist()
        scene = Scene("s", "Scene", parts=(body(rim, rest={"move.x": 5.0, "move.y": 7.0}),), length=241)
        after = applied(scene, [Roll("body", 0.0, 240.0, sides, "right", "straight")])
        path = course_of(after, "body", (0.0, radius), np.arange(241.0)).path
        t = np.arange(241) * 2 * np.pi / sides
        np.testing.assert_allclose(path[:, 0], radius * (t - np.sin(t)), atol=2.0)
        np.testing.assert_allclose(path[:, 1], radius * np.cos(t), atol=2.0)

    def test_a_crate_with_rounded_edges_has_four_corners(self):
        angles = np.arange(0, 91, 15) * np.pi / 180
        rounded = np.concatenate([
            np.stack([cx + 6 * np.cos(angles + turn), cy + 6 * np.sin(angles + turn)], axis=-1)
            for cx, cy, turn in ((74, 54, 0), (6, 54, np.pi / 2), (6, 6, np.pi), (74, 6, 1.5 * np.pi))
        ])  # fmt: skip
        corners = hull_of([rounded])
        np.testing.assert_allclose(sorted(corners.tolist()), [[0, 0], [0, 60], [80, 0], [80, 60]], atol=1e-9)
        self.assertEqual(len(hull_of([np.array(HEXAGON)])), 6)

    def test_what_cannot_roll_says_so(self):
        scene = Scene("s", "Scene", parts=(Part("body", "Ghost", kind="helper"),))
        with self.assertRaisesRegex(RuleError, "Ghost has no outline with corners"):
            applied(scene, [Roll("body", 0.0, 20.0)])
        tight = Scene("s", "Scene", parts=(body(UNEVEN, limits={"turn.z": (-30.0, 30.0)}),))
        with self.assertRaisesRegex(RuleError, "out of its range"):
            applied(tight, [Roll("body", 0.0, 20.0, 4)])


class ThroughoutTests(unittest.TestCase):
    @examples(25)
    @given(seeds)
    def test_the_art_stays_within_the_tolerance_at_every_frame(self, seed):
        before = applied(cornered_scene(seed), [])
        part = next((part for part in before.parts if not part.footholds), None)
        if part is None:
            return
        try:
            after = applied(before, [MovePivotThroughout(part.id, (part.pivot[0] + 20, part.pivot[1] - 9), 0.05)])
        except RuleError:
            return
        frames = np.arange(0.0, before.length)
        was, now = (evaluate(replace(scene, parts=tuple(replace(p, parent=None) for p in scene.parts)), frames)
                    for scene in (before, after))  # fmt: skip
        row = was.index[part.id]
        off = np.abs(was.world[row] - now.world[row])
        self.assertLess(off[:, :3, 3].max(), 0.0501 * np.sqrt(3))
        self.assertLess(off[:, :3, :3].max(), 1e-9 * max(1.0, np.abs(was.world[row, :, :3, :3]).max()))
        np.testing.assert_allclose(
            evaluate(after.at_rest, [0.0]).world, evaluate(before.at_rest, [0.0]).world, atol=1e-6, rtol=1e-9
        )


class TimeOfTheSceneTests(unittest.TestCase):
    def test_at_24_frames_a_second_frame_72_is_second_3(self):  # common practice, no source
        scene = keyed([Key(0.0, 0.0), Key(72.0, 90.0)], length=97)
        after = applied(scene, [SetRate((30, 1))])
        self.assertEqual(after.parts[0].channels["turn.z"].frames, (0.0, 90.0))
        self.assertEqual(float(72 / scene.rate), 3.0)
        self.assertEqual(float(90 / after.rate), 3.0)

    @examples(25)
    @given(seeds, st.sampled_from([(12, 1), (25, 1), (60, 1), (30000, 1001)]))
    def test_another_rate_shows_the_same_at_the_same_second(self, seed, fps):
        scene = applied(cornered_scene(seed), [])
        before = scene.with_parts(
            replace(part, footholds=()) for part in scene.parts
        )  # they might stand where values jump
        after = applied(before, [SetRate(fps)])
        seconds = np.linspace(0.0013, before.seconds - 0.0017, 40)  # off the frames, where values may jump
        was = evaluate(before, seconds * float(before.rate))
        now = evaluate(after, seconds * float(after.rate))
        np.testing.assert_allclose(now.world, was.world, atol=1e-6 * max(1.0, np.abs(was.world).max()))

    def test_frames_stay_where_they_are_wished_to(self):
        scene = keyed([Key(0.0, 0.0), Key(72.0, 90.0)], length=97)
        after = applied(scene, [SetRate((12, 1), "frames")])
        self.assertEqual((after.parts[0].channels, after.length), (scene.parts[0].channels, 97))

    def test_a_stretched_scene_ends_as_it_ended(self):
        scene = keyed([Key(0.0, 0.0), Key(48.0, 40.0), Key(96.0, 90.0)], length=97)
        after = applied(scene, [SetLength(194, stretches=True)])
        self.assertEqual(after.parts[0].channels["turn.z"].frames, (0.0, 96.0, 193.0))
        self.assertEqual(applied(scene, [SetLength(194)]).parts, scene.parts)


class BetweenAndShownTests(unittest.TestCase):
    SCENE = keyed([Key(0.0, 10.0), Key(10.0, 0.0), Key(20.0, 50.0)])

    def test_an_in_between_lies_at_a_share_of_the_keys_around_it(self):
        for frame, share, wanted in ((5.0, 0.25, 7.5), (10.0, 0.5, 30.0), (15.0, 1.1, 55.0)):
            after = applied(self.SCENE, [InBetween(("p",), frame, share)])
            self.assertAlmostEqual(turns(after, [frame])[0], wanted)
        with self.assertRaisesRegex(RuleError, "keys both before and after"):
            applied(self.SCENE, [InBetween(("p",), 30.0, 0.5)])

    def test_parts_appear_and_leave_at_frames(self):
        after = applied(self.SCENE, [ShowFrom(("p",), 24.0, True), ShowFrom(("p",), 48.0, False)])
        shown = evaluate(after, [0.0, 23.0, 24.0, 47.0, 48.0, 95.0]).shown[0]
        self.assertEqual(shown.tolist(), [False, False, True, True, False, False])


class HoldAndDeleteTests(unittest.TestCase):
    def test_a_hold_keeps_its_value_up_to_the_next_key(self):
        scene = applied(keyed([Key(0.0, 1.0), Key(10.0, 5.0)]), [SetSegmentKind((KeyAt("p", "turn.z", 0.0),), "hold")])
        np.testing.assert_array_equal(turns(scene, [0.0, 9.999, 10.0]), [1.0, 1.0, 5.0])

    def test_a_channel_that_only_sways_goes_on_without_its_keys(self):
        scene = applied(keyed([Key(0.0, 1.0)]), [SetSway("p", "turn.z", Sway(3.0, 8.0))])
        after = applied(scene, [DeleteKeys((KeyAt("p", "turn.z", 0.0),)), SetOutside("p", "turn.z", after="repeat")])
        self.assertAlmostEqual(evaluate(after, [2.0]).motion[0, 0], 3.0)
