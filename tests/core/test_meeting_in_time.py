"""What is promised where rules meet over time: settling, cycles, numbers that overshoot, pictures that change."""

import unittest
from dataclasses import replace

import numpy as np
from hypothesis import assume, given
from hypothesis import strategies as st

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.constraints.between import Between
from jointed_crane.core.constraints.carry import Carry, Hold
from jointed_crane.core.constraints.constraint import Goal, number_channel
from jointed_crane.core.constraints.follow import Follow
from jointed_crane.core.constraints.span import Span
from jointed_crane.core.constraints.stay_above import StayAbove
from jointed_crane.core.edits import applied
from jointed_crane.core.edits.constraints.levers_and_links import SetLink
from jointed_crane.core.edits.pictures.making_shapes import AddShape, MoveNode
from jointed_crane.core.edits.placing.poses import SetValues
from jointed_crane.core.edits.placing.rolling import Roll
from jointed_crane.core.edits.placing.settling import Settle
from jointed_crane.core.edits.scene.parts import AddParts
from jointed_crane.core.edits.shared.first_keys import with_what_came_before
from jointed_crane.core.edits.time.appearing import ShowFrom
from jointed_crane.core.edits.time.keys import DeleteKeys, KeyAt
from jointed_crane.core.edits.time.repeating import CopiedKeys, PasteKeys
from jointed_crane.core.edits.time.retiming import MoveKeys, ReverseKeys, Stagger, StretchKeys
from jointed_crane.core.edits.time.timing import SetLength
from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.model.forms import Ellipse, Node, Paint, PenPath
from jointed_crane.core.model.levers import Link
from jointed_crane.core.model.scene import Drawing, Mark, Part, Scene
from jointed_crane.core.motion.channel import Channel, Key, Sway
from jointed_crane.core.motion.curves import PackedCurves, values
from jointed_crane.core.motion.cycle_keys import CYCLES
from jointed_crane.core.motion.editing import with_key
from jointed_crane.core.shapes.picture import shape_drawing
from jointed_crane.core.shapes.reshaping import reshaped
from tests.constrained_rigs import helper
from tests.core.test_exactness import ExactnessCase, moments
from tests.meeting import meeting_scene
from tests.strategies import examples, seeds

#: Channels that drive and are driven in turn: added, multiplied, numbers of constraints, numbers in a row.
DRIVING = ("turn.z", "move.x", "scale.x", "spin.z", "drawing")


def driven_scene(seed: int) -> Scene:
    """A scene where everything meets, with links of each sort, by amounts and by curves, one driving the next."""
    random = np.random.default_rng(seed)
    scene = meeting_scene(seed, has_links=False)
    ids = [part.id for part in scene.parts]
    numbers = [(part.id, number_channel(one.id, "weight")) for part in scene.parts for one in part.constraints]
    for number in range(6):
        source, part_id = (str(name) for name in random.choice(ids, 2, replace=False))
        onto = str(random.choice(["turn.z", "move.x", "scale.x", "opacity", "spin.z"]))
        if numbers and number == 5:
            part_id, onto = numbers[0]
        points = tuple((float(x), float(random.uniform(-0.4, 0.4))) for x in (-50.0, 0.0, 0.5, 40.0))
        link = Link(
            id=f"l{number}", source=source, channel=str(random.choice(DRIVING)), onto=onto,
            amount=float(random.uniform(-0.3, 0.3)), points=points if random.random() < 0.4 else (),
        )  # fmt: skip
        try:
            scene = applied(scene, [SetLink(part_id, link)])
        except RuleError:
            continue
    return scene


class SettlingTests(ExactnessCase):
    @given(seeds, moments)
    @examples(12)
    def test_settling_changes_no_frame_of_what_is_driven_swayed_or_exchanged(self, seed, frame):
        scene = driven_scene(seed)
        random = np.random.default_rng(seed + 1)
        for part in scene.parts:
            for one in part.constraints[:1]:  # a number that sways about its rest alone
                name = number_channel(one.id, "weight")
                sway = Channel(sway=Sway(0.2, 17.0))
                scene = scene.with_parts([scene.part(part.id).with_rest({name: 0.6}).with_channel(name, sway)])
        picked = () if seed % 2 else tuple(str(one) for one in random.choice([p.id for p in scene.parts], 2))
        after = self.edited(scene, Settle(frame or 0.0, picked))
        frames = np.linspace(0.0, 60.0, 61)
        was, now = evaluate(scene, frames), evaluate(after, frames)
        # Half of half a turn goes to one side or the other by the last digit: there a nudge says as much as an edit.
        is_chance = np.zeros(was.world.shape[:2], dtype=bool)
        for by in (1e-10, -1e-10, 3e-11, -3e-11):
            nudged = (p.with_rest({"turn.z": p.rest_value("turn.z") + by * n}) for n, p in enumerate(scene.parts))
            is_chance |= np.abs(evaluate(scene.with_parts(nudged), frames).world - was.world).max(axis=(2, 3)) > 1e-5
        self.assertLess(is_chance.mean(), 0.1)
        for row in range(len(scene.parts)):
            self.assert_same(now.world[row][~is_chance[row]], was.world[row][~is_chance[row]])
        self.assert_same(now.opacity, was.opacity)
        np.testing.assert_array_equal(now.drawing, was.drawing)

    def test_a_spinning_shape_that_grew_and_what_follows_its_centre_stay(self):
        shape = Ellipse((10.0, 0.0), (30.0, 20.0), Paint("#336699"))
        keys = {name: Channel((Key(0.0, 0.0), Key(20.0, 25.0))) for name in ("form.cx", "form.rx")}
        spin = Channel((Key(0.0, 0.0), Key(30.0, 200.0)))
        grown = Part("a", "A", drawings=(shape_drawing("d", "D", shape),), channels={**keys, "spin.z": spin})
        box = (0.0, 0.0, 40.0, 20.0)
        pair = tuple(Drawing(f"e{n}", "E", "", b, b) for n, b in enumerate((box, (-90.0, -10.0, 10.0, 60.0))))
        turned = Part("b", "B", drawings=pair, rest={"spin.z": 30.0})
        turned = turned.with_channel("drawing", Channel((Key(0.0, 0.0), Key(10.0, 1.0))))
        follow = Follow(id="c", name="F", goal=Goal(part="b", at="centre"))
        scene = Scene("s", "S", parts=(grown, turned, helper("h", constraints=(follow,))))
        self.assert_same_film(self.edited(scene, Settle(18.0)), scene)


class CycleTests(unittest.TestCase):
    OUTSIDE = ("hold", "straight on", "repeat", "back and forth", "repeat onwards")

    @given(seeds, st.sampled_from([0.0, 1.0, 45.0, 60.0, 83.0, 120.0]))
    @examples(60)
    def test_a_key_beyond_cycling_keys_changes_nothing_before_it(self, seed, frame):
        random = np.random.default_rng(seed)
        frames = np.sort(random.choice(np.arange(3, 40), int(random.integers(2, 6)), replace=False)).tolist()
        numbers = random.uniform(-50, 50, len(frames)).tolist()
        if random.random() < 0.5:
            numbers[-1] = numbers[0]  # a loop that closes

        def handle(side):
            return None if random.random() < 0.5 else (side * random.uniform(0.5, 8), random.uniform(-30, 30))

        kinds = random.choice(["hold", "straight", "eased"], len(frames)).tolist()
        keys = tuple(Key(float(f), v, k, handle(-1), handle(1)) for f, v, k in zip(frames, numbers, kinds, strict=True))
        before, after = random.choice(self.OUTSIDE, 2).tolist()
        assume((before if frame < keys[0].frame else after) in CYCLES)
        channel = Channel(keys, before, after, Sway(3.0, 11.0) if random.random() < 0.2 else None)
        made = with_key(channel, Key(frame, 77.0, "hold"))
        # Up to the key that stands before the new one.
        until = max((key.frame for key in made.keys if key.frame < frame), default=0.0)
        whole = np.arange(0.0, until)
        was, now = (values(PackedCurves((one,)), whole)[0] for one in (channel, made))
        np.testing.assert_allclose(now, was, atol=1e-9)

    def test_a_part_that_blinks_goes_on_blinking_up_to_where_it_leaves(self):
        blink = Channel((Key(0.0, 1.0, "hold"), Key(3.0, 0.0, "hold"), Key(6.0, 1.0, "hold")), after="repeat")
        scene = Scene("s", "S", parts=(Part("a", "A", channels={"shown": blink}),))
        after = applied(scene, [ShowFrom(("a",), 20.0, is_shown=False)])
        was, now = (evaluate(one, range(30)).shown[0] for one in (scene, after))
        np.testing.assert_array_equal(now[:20], was[:20])
        self.assertFalse(now[20:].any())


class NumbersAndGoalsTests(ExactnessCase):
    def test_weights_that_overshoot_keep_their_ends(self):
        weight = Channel((Key(0.0, 0.0, "eased", None, (10.0, 3.0)), Key(20.0, 1.0, "eased", (-10.0, 2.0), None)))
        follow = Follow(id="c", name="F", goal=Goal(part="g"), turns=False, scales=False)
        part = Part("a", "A", constraints=(follow,), channels={number_channel("c", "weight"): weight})
        scene = Scene("s", "S", parts=(helper("g", 100.0), part))
        places = evaluate(scene, np.linspace(0, 20, 41)).pivot[1, :, 0]
        self.assertGreaterEqual(places.min(), 0.0)
        self.assertEqual(places.max(), 100.0)

    def between(self, goals, **more):
        rest = {number_channel("c", name): value for name, value in more.items()}
        one = Between(id="c", name="B", goals=tuple(goals), turns=True, is_shortest="share" not in more)
        return Part("a", "A", constraints=(one,), rest=rest)

    def test_a_goal_without_a_weight_has_no_say(self):
        lying = (helper("g", turn) for turn in (0.0, 0.0, 0.0))
        turns = (170.0, -100.0, -60.0)
        goals = [part.with_rest({"turn.z": turn}) for part, turn in zip(lying, turns, strict=True)]
        goals = [replace(part, id=f"g{n}") for n, part in enumerate(goals)]
        part = self.between((Goal(part=one.id) for one in goals), goal1=0.0, goal2=1.0, goal3=1.0)
        pose = evaluate(Scene("s", "S", parts=(*goals, part)), [0.0])
        world = pose.world_of("a")
        self.assertAlmostEqual(np.rad2deg(np.arctan2(world[1, 0], world[0, 0])), -80.0)

    @given(seeds)
    @examples(30)
    def test_whole_turns_are_counted_as_they_are_shown(self, seed):
        random = np.random.default_rng(seed)
        turns = [float(value) for value in random.uniform(-900, 900, 3)]
        mirrored = float(random.choice([1.0, -1.0]))
        base = Part("base", "Base", rest={"turn.z": turns[0], "scale.y": mirrored})
        first = helper("first", parent="base").with_rest({"turn.z": turns[1]})
        hub = helper("hub").with_rest({"turn.z": 40.0})
        follow = Follow(id="f", name="F", goal=Goal(part="hub"), position=False, scales=False)
        second = helper("second", constraints=(follow,)).with_rest({"turn.z": turns[2]})
        part = self.between((Goal(part="first"), Goal(part="second")), share=0.25)
        world = evaluate(Scene("s", "S", parts=(base, first, hub, second, part)), [0.0]).world_of("a")
        # In a mirrored parent turns go the other way; what follows turns the shortest way from where hands turned it.
        ends = (turns[0] + mirrored * turns[1], turns[2] + (40.0 - turns[2] + 180) % 360 - 180)
        off = np.rad2deg(np.arctan2(world[1, 0], world[0, 0])) - (0.75 * ends[0] + 0.25 * ends[1])
        self.assertAlmostEqual((off + 180) % 360 - 180, 0.0, delta=1e-6)

    def test_a_span_does_not_jump_in_length_where_its_goals_meet(self):
        one = Span(id="c", name="S", first=Goal(part="g"), second=Goal(part="h"), points=((0, 0, 0), (100.0, 0, 0)))
        rest = {number_channel("c", name): value for name, value in (("shortest", 0.3), ("thickest", 2.0))}
        goals = helper("g"), helper("h").with_channel("move.x", Channel((Key(0.0, 30.0, "straight"), Key(10.0, 0.0))))
        scene = Scene("s", "S", parts=(*goals, Part("a", "A", constraints=(one,), rest=rest)))
        world = evaluate(scene, [9.0, 9.9999999, 10.0]).world[2]
        sizes = np.linalg.norm(world[:, :2, :2], axis=1)
        np.testing.assert_allclose(sizes, np.broadcast_to(sizes[:1], sizes.shape), atol=1e-9)
        np.testing.assert_allclose(sizes[0], (0.3, 2.0), atol=1e-9)

    @given(seeds)
    @examples(20)
    def test_what_stays_above_a_line_goes_by_the_picture_that_is_shown(self, seed):
        random = np.random.default_rng(seed)
        shape = Ellipse((0.0, 10.0), (30.0, 20.0), Paint("#336699", "#000000", 6.0))
        keys = {name: Channel((Key(0.0, 0.0), Key(20.0, 25.0))) for name in ("form.cy", "form.ry", "stroke.width")}
        box = (-20.0, -10.0, 20.0, 90.0)
        ring = ((-20.0, -10.0), (20.0, -10.0), (20.0, 90.0), (-20.0, 90.0))
        drawings = (shape_drawing("d", "D", shape), Drawing("e", "E", "", box, box, outline=(ring,)))
        rest = {"turn.z": float(random.uniform(-180, 180)), "scale.x": float(random.choice([-1.4, 0.6]))}
        rule = StayAbove(id="c", name="A", line=Goal(at="mark", named="m"))
        part = Part("a", "A", drawings=drawings, rest=rest, channels=keys, constraints=(rule,))
        part = part.with_channel("drawing", Channel((Key(0.0, 0.0), Key(25.0, 1.0))))
        scene = Scene("s", "S", parts=(part,), marks=(Mark("m", "M", (0.0, -400.0)),))
        assume(abs(rest["turn.z"]) > 1)
        for frame in (0.0, 12.0, 20.0, 30.0):
            pose = evaluate(scene, [frame])
            if frame < 25:
                moved = {
                    name: float(values(PackedCurves((one,)), np.array([frame]))[0, 0]) for name, one in keys.items()
                }
                rings = shape_drawing("d", "D", reshaped(shape, moved)).outline
            else:
                rings = (ring,)
            corners = np.concatenate([np.array(each) for each in rings])
            heights = (pose.world_of("a")[1, :2] @ corners.T) + pose.world_of("a")[1, 3]
            # The outline is told by corners, which stand off its round parts by a part of a pixel.
            self.assertAlmostEqual(heights.max(), -400.0, delta=1.0, msg=f"frame {frame}")


class RetimedStepsTests(ExactnessCase):
    """What takes hold of a part from a frame on goes along with its keys."""

    def rolled(self):
        ring = ((0.0, 0.0), (40.0, 0.0), (40.0, 40.0), (0.0, 40.0))
        box = (0.0, 0.0, 40.0, 40.0)
        part = Part("a", "A", drawings=(Drawing("d", "D", "", box, box, outline=(ring,)),), pivot=(20.0, 20.0, 0.0))
        part = part.with_rest({"move.x": 100.0, "move.y": 180.0})
        scene = Scene("s", "S", length=120, parts=(part,))
        return applied(scene, [Roll("a", 10.0, 50.0, 5, "right")])

    def keys(self, scene, frames=None):
        part = scene.part("a")
        return tuple(
            KeyAt("a", name, at)
            for name in part.channels
            for at in part.channels[name].frames
            if not frames or at in frames
        )

    def floor(self, scene):
        """How far the lowest corner lies above the floor at many frames."""
        world = evaluate(scene, np.linspace(0.0, 119.0, 239)).world[0]
        corners = np.array([[0, 0, 0, 1], [40, 0, 0, 1], [40, 40, 0, 1], [0, 40, 0, 1]], dtype=float)
        return 200.0 - (world @ corners.T)[:, 1].max(axis=1)

    def test_a_rolled_crate_keeps_to_its_floor_however_its_keys_are_retimed(self):
        scene = self.rolled()
        keys = self.keys(scene)
        np.testing.assert_allclose(self.floor(scene), 0, atol=1e-9)
        middle = self.keys(scene, scene.part("a").channels["turn.z"].frames[1:-1])
        copied = (CopiedKeys("A", "turn.z", scene.part("a").channels["turn.z"].keys),)
        for edit in (
            MoveKeys(keys, 7.5),
            MoveKeys(middle, 3.0),
            MoveKeys((*keys, KeyAt("a", "footholds", 10.0)), 4.0),
            StretchKeys(keys, 10.0, 1.7),
            ReverseKeys(keys),
            Stagger(("b", "a"), 13.0),
            SetLength(200, stretches=True),
        ):
            with self.subTest(edit.kind):
                known = applied(scene, [AddParts((Part("b", "B"),))]) if edit.kind == "stagger" else scene
                self.assertNotEqual(applied(known, [edit]), known)
                np.testing.assert_allclose(self.floor(applied(known, [edit])), 0, atol=1e-9)
        # Pasted, it rolls on as often as it did from wherever it lies: the same turns on the same corners.
        pasted = applied(scene, [PasteKeys(copied, 60.0, ("a",))]).part("a")
        self.assertEqual(
            [hold.frame for hold in pasted.footholds], [10.0, 18.0, 26.0, 34.0, 42.0, 60.0, 68.0, 76.0, 84.0, 92.0]
        )
        self.assertEqual([hold.point for hold in pasted.footholds[:5]], [hold.point for hold in pasted.footholds[5:]])

    def test_backwards_it_rolls_back_over_the_same_corners(self):
        scene = self.rolled()
        back = applied(scene, [ReverseKeys(self.keys(scene))])
        frames = np.linspace(10.0, 50.0, 41)
        was, now = evaluate(scene, frames).world[0], evaluate(back, frames).world[0][::-1]
        # It begins where it lies, so that all is seen shifted along the floor by one and the same way.
        shift = was[0, :3, 3] - now[0, :3, 3]
        np.testing.assert_allclose(now[:, :2, :2], was[:, :2, :2], atol=1e-9)
        np.testing.assert_allclose(was[:, :3, 3] - now[:, :3, 3], np.broadcast_to(shift, (41, 3)), atol=1e-9)

    def test_carriers_and_changes_go_along_with_all_that_places_a_part_and_alone(self):
        carry = Carry(id="c", name="Carry", holds=(Hold(12.0, "b"), Hold(30.0, None)))
        part = Part("a", "A", constraints=(carry,))
        part = part.with_channel("move.x", Channel((Key(10.0, 0.0), Key(12.0, 5.0), Key(30.0, 9.0))))
        part = part.with_channel("turn.z", Channel((Key(12.0, 0.0),)))
        scene = Scene("s", "S", parts=(part, Part("b", "B")))
        every = tuple(KeyAt("a", name, at) for name in part.channels for at in part.channels[name].frames)

        def frames(*edits):
            return [hold.frame for one in applied(scene, edits).part("a").constraints for hold in one.holds]

        self.assertEqual(frames(MoveKeys(every, 5.0)), [17.0, 35.0])
        self.assertEqual(frames(MoveKeys((KeyAt("a", "turn.z", 12.0),), 5.0)), [12.0, 30.0])  # its move stays there
        self.assertEqual(frames(MoveKeys((KeyAt("a", "changes.c", 30.0),), 5.0)), [12.0, 35.0])
        self.assertEqual(frames(DeleteKeys((KeyAt("a", "changes.c", 30.0),))), [12.0])
        # Nobody carries it any more, so nothing is left to be put down.
        self.assertEqual(frames(DeleteKeys((KeyAt("a", "changes.c", 12.0),))), [])
        with self.assertRaisesRegex(RuleError, "nothing that takes hold of it at frame 13"):
            frames(MoveKeys((KeyAt("a", "changes.c", 13.0),), 5.0))

    def test_a_length_by_share_keeps_the_last_key_on_the_last_frame(self):
        part = Part("a", "A", channels={"turn.z": Channel((Key(0.0, 0.0), Key(60.0, 9.0), Key(95.0, 1.0)))})
        scene = Scene("s", "S", length=96, parts=(part,))
        after = applied(scene, [SetLength(192, stretches=True, is_whole=True)])
        self.assertEqual(after.part("a").channels["turn.z"].frames, (0.0, 120.0, 191.0))


class FirstKeyTests(unittest.TestCase):
    def kept(self, scene, *edits):
        return with_what_came_before(scene, applied(scene, edits))

    def test_the_first_key_of_a_channel_keeps_what_came_before(self):
        keys = Channel((Key(5.0, 0.0), Key(30.0, 9.0)))
        share = number_channel("c", "share")
        between = Between(id="c", name="B", goals=(Goal(part="b"), Goal(at="mark", named="m")))
        part = Part("a", "A", channels={"move.x": keys}, rest={share: 0.3}, constraints=(between,))
        scene = Scene("s", "S", parts=(part, Part("b", "B")), marks=(Mark("m", "M", (50.0, 0.0)),))
        for frame, channel, found in (
            (20.0, "turn.z", [(5.0, 0.0), (20.0, 40.0)]),  # where the keys of its part begin
            (3.0, "turn.z", [(0.0, 0.0), (3.0, 40.0)]),  # before those, at frame 0
            (0.0, "turn.z", [(0.0, 40.0)]),
            (20.0, "scale.x", [(5.0, 1.0), (20.0, 40.0)]),
            (20.0, share, [(5.0, 0.3), (20.0, 40.0)]),
            (40.0, "move.x", [(5.0, 0.0), (30.0, 9.0), (40.0, 40.0)]),  # it has had keys
        ):
            with self.subTest(channel, frame=frame):
                after, said = self.kept(scene, SetValues(("a",), {channel: 40.0}, frame))
                self.assertEqual([(key.frame, key.value) for key in after.part("a").channels[channel].keys], found)
                self.assertEqual(bool(said), found[0][0] < frame and channel != "move.x")
        after, said = self.kept(scene, SetValues(("a",), {"turn.z": 0.0}, 20.0))
        self.assertEqual((len(after.part("a").channels["turn.z"].keys), said), (1, []), "nothing before it changes")
        after, said = self.kept(scene, SetValues(("a",), {"turn.z": 40.0}))
        self.assertEqual((after.part("a").channels, said), (part.channels, []))

    def test_a_node_that_is_moved_at_a_later_frame_is_where_it_was_before(self):
        path = PenPath((tuple(Node((10.0 * x, 5.0 * x * x)) for x in range(3)),))
        scene = applied(Scene("s", "S"), [AddShape("a", path, "Reed")])
        drawing = scene.part("a").drawings[0]
        edit = MoveNode("a", drawing.id, 0, 1, (20.0, 30.0), unit="art", frame=12.0)
        self.assertTrue(edit.KEYS_VALUES)
        after, said = self.kept(scene, edit)
        self.assertEqual(len(said), 2)
        for channel in after.part("a").channels.values():
            self.assertEqual([(key.frame, key.value != 0) for key in channel.keys], [(0.0, False), (12.0, True)])
