"""What edits of time promise, over random scenes: the same motion at other frames, or none at all."""

import unittest
from dataclasses import replace

import numpy as np
from hypothesis import assume, given
from hypothesis import strategies as st

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.edits import applied
from jointed_crane.core.edits.placing.whole_turns import TurnRound
from jointed_crane.core.edits.scene.mirrored_copies import MirroredCopy
from jointed_crane.core.edits.time.keys import KeyAt
from jointed_crane.core.edits.time.repeating import CopiedKeys, HoldUntil, PasteKeys
from jointed_crane.core.edits.time.retiming import ReverseKeys, Stagger, StretchKeys
from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.hierarchy.tree import descendants
from jointed_crane.core.model.channels import CHANNELS
from jointed_crane.core.model.scene import Foothold, Part, Scene
from jointed_crane.core.motion.channel import Channel, Key
from jointed_crane.core.motion.curves import PackedCurves, values
from tests.strategies import cornered_scene, examples, random_channel, random_scene, seeds

KEYS = (Key(0.0, 0.0), Key(10.0, 90.0, "straight"), Key(16.0, 30.0, "eased", (-2.0, 5.0), (3.0, -4.0)))


def values_of(scene, part_id, name, frames):
    return values(PackedCurves((scene.part(part_id).channels[name],)), np.asarray(frames, dtype=float))[0]


def keys_of(scene, part_id, name):
    return tuple(KeyAt(part_id, name, frame) for frame in scene.part(part_id).channels[name].frames)


def one_part(*keys, name="turn.z"):
    return Scene("s", "S", parts=(Part("a", "A", channels={name: Channel(keys)}), Part("b", "B"), Part("c", "C")))


def _flowing(channel):
    """The channel without sway and steps: a step stands on one side of its key only, so it has no reverse."""
    kinds = {"hold": "straight"}
    return Channel(tuple(replace(key, kind=kinds.get(key.kind, key.kind)) for key in channel.keys))


def _moving(part, random):
    """The part with a key on frames 4, 20 and 33 of each of its channels, moves along both axes eased alike."""
    channels = {}
    for name in ("turn.z", "move.x", "move.y", "slide.x", "spin.z", "shear.xy", "scale.x", "opacity"):
        neutral, spread = CHANNELS[name].neutral, 20.0 if CHANNELS[name].unit else 0.2
        keys = []
        for frame in (4.0, 20.0, 33.0):
            value, rise = (random.normal(size=2) * spread).tolist()
            keys.append(Key(frame, neutral + value, "eased", None, (5.0, rise)))
        channels[name] = Channel(tuple(keys))
    return replace(part, channels=channels)


class RetimingTests(unittest.TestCase):
    @examples(60)
    @given(seeds, st.floats(0.2, 5.0), st.floats(-20.0, 60.0))
    def test_stretched_keys_say_the_same_at_stretched_frames_and_come_back(self, seed, factor, about):
        channel = replace(
            random_channel(np.random.default_rng(seed), 0.0, 40.0), sway=None, before="hold", after="hold"
        )
        scene = one_part(*channel.keys)
        frames = np.linspace(-5.0, 60.0, 130)
        wide = applied(scene, [StretchKeys(keys_of(scene, "a", "turn.z"), about, factor)])
        places = about + (frames - about) * factor
        # Beside a step the rounding of a frame may fall on either side of it.
        calm = np.abs(frames[:, None] - channel.frames).min(axis=1) > 1e-6
        np.testing.assert_allclose(
            values_of(wide, "a", "turn.z", places)[calm], values_of(scene, "a", "turn.z", frames)[calm], atol=1e-9
        )
        back = applied(wide, [StretchKeys(keys_of(wide, "a", "turn.z"), about, 1 / factor)])
        np.testing.assert_allclose(
            values_of(back, "a", "turn.z", frames)[calm], values_of(scene, "a", "turn.z", frames)[calm], atol=1e-9
        )

    def test_whole_frames_are_kept_where_they_are_wished(self):
        scene = one_part(*KEYS)
        wide = applied(scene, [StretchKeys(keys_of(scene, "a", "turn.z"), 0.0, 1.23, True)])
        self.assertEqual(wide.part("a").channels["turn.z"].frames, (0.0, 12.0, 20.0))

    def test_a_stretch_needs_a_factor_above_0(self):
        scene = one_part(*KEYS)
        with self.assertRaisesRegex(RuleError, "above 0, not by -1"):
            applied(scene, [StretchKeys(keys_of(scene, "a", "turn.z"), 0.0, -1.0)])

    @examples(60)
    @given(seeds)
    def test_reversed_keys_run_backwards_between_the_ends_of_all_and_twice_is_none(self, seed):
        random = np.random.default_rng(seed)
        one, other = (_flowing(random_channel(random, 0.0, 40.0)) for _ in "ab")
        scene = Scene("s", "S", parts=(Part("a", "A", channels={"turn.z": one, "scale.x": other}),))
        names = keys_of(scene, "a", "turn.z") + keys_of(scene, "a", "scale.x")
        first, last = min(key.frame for key in names), max(key.frame for key in names)
        back = applied(scene, [ReverseKeys(names)])
        for name, channel in (("turn.z", one), ("scale.x", other)):
            inside = np.linspace(channel.frames[0], channel.frames[-1], 60)
            np.testing.assert_allclose(
                values_of(back, "a", name, (first + last - inside)[::-1])[::-1],
                values_of(scene, "a", name, inside),
                atol=1e-9,
            )
            again = applied(back, [ReverseKeys(keys_of(back, "a", "turn.z") + keys_of(back, "a", "scale.x"))])
            self.assertEqual(again.part("a").channels[name].keys[:-1], channel.keys[:-1])

    @examples(40)
    @given(seeds, st.integers(-9, 9), st.sampled_from(["picked", "tree", "across", "down", "shuffled"]))
    def test_staggered_parts_do_the_same_one_step_after_the_other(self, seed, step, order):
        scene = cornered_scene(seed)
        ids = tuple(part.id for part in scene.parts)
        assume(any(part.channels for part in scene.parts))
        after = applied(scene, [Stagger(ids, float(step), None, order, seed=3)])
        shifts = set()
        for part in scene.parts:
            moved = {
                name: {
                    new - old
                    for new, old in zip(after.part(part.id).channels[name].frames, channel.frames, strict=True)
                }
                for name, channel in part.channels.items()
            }
            found = set().union(*moved.values())
            self.assertLessEqual(len(found), 1, "all channels of a part are shifted alike")
            shifts |= found
        self.assertLessEqual(shifts, {float(step * number) for number in range(len(ids))})

    def test_parts_follow_in_the_order_that_was_asked(self):
        parts = tuple(
            Part(
                name,
                name,
                parent=parent,
                rest={"move.x": x, "move.y": y},
                channels={"turn.z": Channel((Key(0.0, 1.0),))},
            )
            for name, parent, x, y in (("a", None, 50.0, 0.0), ("b", None, 10.0, 9.0), ("c", "a", 10.0, 5.0))
        )
        scene = Scene("s", "S", parts=parts)

        def order(word):
            after = applied(scene, [Stagger(("c", "a", "b"), 2.0, None, word)])
            return "".join(sorted("abc", key=lambda name: after.part(name).channels["turn.z"].frames))

        self.assertEqual(order("picked"), "cab")
        self.assertEqual(order("across"), "bac")
        self.assertEqual(order("down"), "acb")
        self.assertEqual(order("tree"), "bac", "as the joint tree lists them: what lies in front comes first")

    def test_each_sets_out_when_a_share_of_the_move_before_it_is_done(self):
        keys = ((Key(0.0, 0.0), Key(10.0, 1.0)), (Key(0.0, 0.0), Key(20.0, 1.0)), (Key(0.0, 0.0), Key(4.0, 1.0)))
        parts = tuple(Part(n, n, channels={"turn.z": Channel(k)}) for n, k in zip("abc", keys, strict=True))
        after = applied(Scene("s", "S", parts=parts), [Stagger(("a", "b", "c"), share=0.8)])
        self.assertEqual([part.channels["turn.z"].frames[0] for part in after.parts], [0.0, 8.0, 24.0])

    def test_without_keys_there_is_nothing_to_stagger(self):
        with self.assertRaisesRegex(RuleError, "has keys to stagger"):
            applied(one_part(*KEYS), [Stagger(("b", "c"), 2.0)])


class WholeTurnTests(unittest.TestCase):
    @examples(60)
    @given(seeds, st.integers(-3, 3), st.floats(0.0, 40.0), st.floats(1.0, 20.0))
    def test_nothing_looks_otherwise_before_and_after_whole_turns(self, seed, turns, frame, length):
        scene = cornered_scene(seed)
        # A part that goes round on another foothold comes elsewhere, and a cycle repeats the turns with the rest.
        scene = scene.with_parts(replace(part, footholds=()) for part in scene.parts)
        part = scene.parts[0]
        if "turn.z" in part.channels:
            part = part.with_channel("turn.z", replace(part.channels["turn.z"], before="hold", after="hold"))
        scene = scene.with_parts([part])
        part = scene.parts[0].id
        try:
            after = applied(scene, [TurnRound((part,), turns, frame, frame + length)])
        except RuleError as refused:
            self.assertIn("closer than", str(refused))  # a key a hair's breadth from the frame
            return
        frames = np.array([-4.0, 0.0, frame / 2, frame, frame + length, frame + length + 1.5, 49.0, 80.0])
        frames = frames[(frames <= frame) | (frames >= frame + length)]
        for found, wanted in zip(evaluate(after, frames).world, evaluate(scene, frames).world, strict=True):
            np.testing.assert_allclose(found, wanted, atol=1e-9 * max(1.0, float(np.abs(wanted).max())))

    def test_two_turns_anticlockwise_are_two_turns_anticlockwise(self):
        scene = one_part(Key(0.0, 10.0), Key(30.0, 50.0))
        after = applied(scene, [TurnRound(("a",), -2, 0.0, 24.0, segment="straight")]).part("a").channels["turn.z"]
        at_24 = values_of(scene, "a", "turn.z", [24.0])[0] - 720.0
        self.assertEqual([key.frame for key in after.keys], [0.0, 24.0, 30.0])
        self.assertAlmostEqual(after.keys[1].value, at_24)
        self.assertEqual(after.keys[2].value, 50.0 - 720.0)
        self.assertEqual(after.keys[0].kind, "straight")

    def test_under_a_mirrored_parent_the_sense_is_the_one_that_is_seen(self):
        parts = (Part("a", "A", rest={"scale.x": -1.0}), Part("b", "B", parent="a"))
        after = applied(Scene("s", "S", parts=parts), [TurnRound(("a", "b"), 1, 0.0, 10.0)])
        self.assertEqual([part.channels["turn.z"].keys[-1].value for part in after.parts], [360.0, -360.0])

    def test_ranges_and_fixed_channels_refuse_by_name(self):
        for part, words in (
            (Part("a", "Neck", limits={"turn.z": (-70.0, 45.0)}), "Neck would turn to 360 deg, out of its range"),
            (Part("a", "Neck", fixed=("turn.z",)), "Turn of Neck is fixed"),
        ):
            with self.assertRaisesRegex(RuleError, words):
                applied(Scene("s", "S", parts=(part,)), [TurnRound(("a",), 1, 0.0, 10.0)])


class RepeatingTests(unittest.TestCase):
    @examples(60)
    @given(seeds, st.integers(1, 55))
    def test_a_held_pose_stands_still_until_the_frame(self, seed, frame):
        scene = cornered_scene(seed)
        part = next(
            (part for part in scene.parts if any(c.place_of(frame) and not c.sway for c in part.channels.values())),
            None,
        )
        assume(part is not None)
        after = applied(scene, [HoldUntil((part.id,), frame)])
        for name, channel in part.channels.items():
            if not channel.place_of(frame) or channel.sway:
                continue
            last = channel.keys[channel.place_of(frame) - 1]
            still = values_of(after, part.id, name, np.linspace(last.frame, frame, 20))
            np.testing.assert_array_equal(still, np.full(20, last.value))
            self.assertEqual(after.part(part.id).channels[name].key_at(frame).value, last.value)
            np.testing.assert_array_equal(
                [key for key in after.part(part.id).channels[name].frames if key > frame],
                [key for key in channel.frames if key > frame],
            )

    @examples(60)
    @given(seeds, st.integers(1, 40))
    def test_a_hold_that_pushes_shows_all_that_followed_later_by_as_much(self, seed, frame):
        part = next(iter(one_part(*random_channel(np.random.default_rng(seed), 0.0, 40.0).keys).parts))
        channel = part.channels["turn.z"]
        assume(channel.place_of(frame))
        last = channel.keys[channel.place_of(frame) - 1].frame
        after = applied(Scene("s", "S", parts=(part,)), [HoldUntil(("a",), frame, pushes=True)])
        # From the next key on; up to there the motion begins softly anew, as after any stop.
        here = np.linspace(next((at for at in channel.frames if at > last), last), 60, 40)
        np.testing.assert_allclose(
            values_of(after, "a", "turn.z", here + frame - last),
            values_of(Scene("s", "S", parts=(part,)), "a", "turn.z", here),
            atol=1e-9,
        )
        np.testing.assert_array_equal(
            values_of(after, "a", "turn.z", np.linspace(last, frame, 9)), np.full(9, channel.key_at(last).value)
        )

    def test_a_hold_that_pushes_takes_footholds_and_keys_of_all_channels_along(self):
        turn, move = (Channel((Key(0.0, 0.0), Key(at, 9.0), Key(20.0, 3.0))) for at in (10.0, 8.0))
        part = Part("a", "A", channels={"turn.z": turn, "move.x": move}, footholds=(Foothold(15.0, (1.0, 0.0, 0.0)),))
        after = applied(Scene("s", "S", parts=(part,)), [HoldUntil(("a",), 16.0, pushes=True)]).part("a")
        self.assertEqual(after.channels["turn.z"].frames, (0, 10, 16, 26))
        self.assertEqual(after.channels["move.x"].frames, (0, 8, 16, 26))
        self.assertEqual([hold.frame for hold in after.footholds], [21])

    def test_the_motion_goes_on_from_the_held_pose_as_it_did(self):
        after = applied(one_part(*KEYS), [HoldUntil(("a",), 13.0)]).part("a").channels["turn.z"]
        self.assertEqual(
            [(key.frame, key.value, key.kind) for key in after.keys[1:3]], [(10, 90, "hold"), (13, 90, "straight")]
        )

    def test_before_the_first_key_nothing_can_be_held(self):
        with self.assertRaisesRegex(RuleError, "before frame 0"):
            applied(one_part(*KEYS), [HoldUntil(("a",), 0.0)])

    def test_pasted_keys_repeat_the_motion_from_a_frame_on(self):
        scene = one_part(*KEYS)
        copied = (CopiedKeys("A", "turn.z", KEYS),)
        frames = np.linspace(0, 15.9, 40)
        for ids, taker in (((), "a"), (("b", "c"), "b"), (("b", "c"), "c")):
            after = applied(scene, [PasteKeys(copied, 40.0, ids)])
            np.testing.assert_allclose(
                values_of(after, taker, "turn.z", 40 + frames), values_of(scene, "a", "turn.z", frames), atol=1e-9
            )
        self.assertEqual(applied(scene, [PasteKeys(copied, 40.0)]).part("a").channels["turn.z"].keys[:3], KEYS)

    def test_channels_keep_their_distance_and_parts_are_found_by_name(self):
        copied = (CopiedKeys("A", "turn.z", (Key(4.0, 1.0),)), CopiedKeys("B", "scale.x", (Key(7.0, 2.0),)))
        after = applied(one_part(*KEYS), [PasteKeys(copied, 20.0, (), True)])
        self.assertEqual(after.part("a").channels["turn.z"].key_at(20.0).kind, "hold")
        self.assertEqual(after.part("b").channels["scale.x"].frames, (23.0,))
        self.assertNotIn("scale.x", after.part("a").channels)

    @examples(30)
    @given(seeds)
    def test_keys_pasted_mirrored_move_the_other_side_as_its_reflection(self, seed):
        scene = random_scene(seed, 5)
        root = next((part for part in scene.parts if part.parent is not None), None)
        assume(root is not None)
        limb = [root.id, *descendants(scene, root.id)]
        random = np.random.default_rng(seed)
        scene = scene.with_parts(
            _moving(replace(scene.part(part_id), name=f"Near {number}", channels={}, footholds=()), random)
            for number, part_id in enumerate(limb)
        )
        wanted = applied(scene, [MirroredCopy((root.id,), "m")])
        copies = [part.id for part in wanted.parts if part.name.startswith("Far")]
        bare = wanted.with_parts(replace(wanted.part(part_id), channels={}) for part_id in copies)
        copied = tuple(
            CopiedKeys(part.name, name, channel.keys)
            for part in (scene.part(part_id) for part_id in limb)
            for name, channel in part.channels.items()
        )
        after = applied(bare, [PasteKeys(copied, 4.0, tuple(copies), mirrored=True)])
        frames = np.arange(0.0, 40.0, 1.7)
        found, expected = (evaluate(one, frames) for one in (after, wanted))
        for part_id in copies:
            np.testing.assert_allclose(
                found.world[found.index[part_id]], expected.world[expected.index[part_id]], atol=1e-8
            )
        self.assertTrue(copies)

    def test_keys_that_fit_nobody_are_refused(self):
        copied = (CopiedKeys("Jib", "turn.z", KEYS), CopiedKeys("Hook", "turn.z", KEYS))
        with self.assertRaisesRegex(RuleError, "no name is the same"):
            applied(one_part(*KEYS), [PasteKeys(copied, 4.0, ("a", "b"))])
        with self.assertRaisesRegex(RuleError, "No keys were copied"):
            applied(one_part(*KEYS), [PasteKeys((), 4.0)])

    def test_a_fixed_channel_takes_nothing(self):
        scene = Scene("s", "S", parts=(Part("a", "A", fixed=("turn.z",)), Part("b", "B")))
        after = applied(scene, [PasteKeys((CopiedKeys("X", "turn.z", KEYS),), 0.0, ("a", "b"))])
        self.assertEqual(after.part("a").channels, {})
        self.assertEqual(evaluate(after, [10.0]).motion_at()["b"]["turn.z"], 90.0)
