import unittest
from dataclasses import replace

import numpy as np
from hypothesis import assume, given
from hypothesis import strategies as st

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.edits import applied
from jointed_crane.core.edits.joints.eyelets import AddEyelet, MakeJoints
from jointed_crane.core.edits.joints.helpers import UnscaleHelper
from jointed_crane.core.edits.joints.joining import Join
from jointed_crane.core.edits.joints.limiting import FixChannels, KeepWithinLimits, SetLimits
from jointed_crane.core.edits.pictures.drawings import (
    AddDrawing,
    CopyDrawing,
    DeleteDrawing,
    OrderDrawing,
    RenameDrawing,
    ReplaceDrawing,
)
from jointed_crane.core.edits.pictures.registering import AlignAxes, MoveRegistration, PlacePivots
from jointed_crane.core.edits.placing.pasting import PastePose
from jointed_crane.core.edits.placing.poses import MoveBy, ScaleBy, SetValues, TurnBy
from jointed_crane.core.edits.placing.settling import Settle
from jointed_crane.core.edits.placing.turning import AddMark, SetMark, TurnAbout
from jointed_crane.core.edits.scene.bench_state import Isolate, SetTag, SilenceFinding
from jointed_crane.core.edits.scene.copies import Duplicate, Paste
from jointed_crane.core.edits.scene.mirrored_copies import MirroredCopy
from jointed_crane.core.edits.scene.naming import NameByPattern
from jointed_crane.core.edits.scene.parts import DeleteParts
from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.evaluate.pose_at_frame import pivot_at
from jointed_crane.core.hierarchy.sides import other_side, side_of
from jointed_crane.core.measures.gaps import gaps
from jointed_crane.core.measures.snapping import Snapping
from jointed_crane.core.model.scene import Drawing, Inherits, Scene
from jointed_crane.core.motion.channel import Channel, Key
from tests.constrained_rigs import MIRRORS
from tests.core.test_joints import arm, part
from tests.strategies import examples, random_scene, seeds

FRAMES = np.linspace(-5, 60, 14)


def worlds(scene, ids, frames=FRAMES):
    pose = evaluate(scene, frames)
    return np.array([pose.world_of(part_id, at) for part_id in ids for at in range(len(frames))])


class LimitTests(unittest.TestCase):
    def test_a_range_is_kept_in_motion_and_can_be_left_on_purpose(self):
        scene = applied(arm(), [SetLimits(("Arm",), "turn.z", -70, 45)])
        by_hand = applied(scene, [TurnBy(("Arm",), 80.0, 4.0)])
        self.assertEqual(by_hand.part("Arm").channels["turn.z"].keys[0].value, 45)
        typed = applied(scene, [SetValues(("Arm",), {"turn.z": -90.0}, 4.0)])
        self.assertEqual(typed.part("Arm").channels["turn.z"].keys[0].value, -70)
        past = applied(scene, [SetValues(("Arm",), {"turn.z": -90.0}, 4.0, past_limits=True)])
        self.assertEqual(past.part("Arm").channels["turn.z"].keys[0].value, -90)
        back = applied(past, [KeepWithinLimits(("Arm",), "turn.z")])
        self.assertEqual(back.part("Arm").channels["turn.z"].keys[0].value, -70)
        at_rest = applied(scene, [TurnBy(("Arm",), 80.0)])
        self.assertEqual(at_rest.part("Arm").rest["turn.z"], 80)

    def test_settling_keeps_the_range_where_it_is_on_the_stage(self):
        scene = applied(arm(), [SetLimits(("Arm",), "turn.z", -70, 45), SetLimits(("Arm",), "scale.x", 0.5, 3)])
        scene = applied(scene, [SetValues(("Arm",), {"turn.z": 20.0, "scale.x": 2.0}, 0.0), Settle(0.0)])
        self.assertEqual(scene.part("Arm").limits, {"turn.z": (-90, 25), "scale.x": (0.25, 1.5)})

    def test_a_range_upside_down_or_on_whole_steps_is_refused(self):
        for edit in (SetLimits(("Arm",), "turn.z", 5, -5), SetLimits(("Arm",), "shown", 0, 1)):
            with self.assertRaises(RuleError):
                applied(arm(), [edit])
        scene = applied(arm(), [SetLimits(("Arm",), "turn.z", -5, 5), SetLimits(("Arm",), "turn.z")])
        self.assertEqual(scene.part("Arm").limits, {})

    def test_a_fixed_channel_ignores_hands_and_refuses_typing(self):
        scene = applied(arm(), [FixChannels(("Arm",), ("turn.z", "move.y", "scale.x"))])
        before = scene.part("Arm")
        after = applied(scene, [TurnBy(("Arm",), 30.0), ScaleBy(("Arm",), (2.0, 2.0)), MoveBy(("Arm",), (9.0, 5.0))])
        changed = {name for name, value in after.part("Arm").rest.items() if value != before.rest_value(name)}
        self.assertEqual(changed, {"scale.y", "move.x"})
        with self.assertRaisesRegex(RuleError, "Turn of Arm is fixed"):
            applied(scene, [SetValues(("Arm",), {"turn.z": 1.0})])
        freed = applied(scene, [FixChannels(("Arm",), ("turn.z",), fixed=False), SetValues(("Arm",), {"turn.z": 1.0})])
        self.assertEqual(freed.part("Arm").rest["turn.z"], 1)


class CopyTests(unittest.TestCase):
    def test_a_copy_of_a_limb_hangs_together_and_keeps_its_seats(self):
        scene = applied(arm(), [MakeJoints(("Arm", "Hand"), "j")])
        after = applied(scene, [Duplicate(("Arm",), "c", by=(10.0, 0.0))])
        copies = [part for part in after.parts if part.id.startswith("c")]
        self.assertEqual([part.name for part in copies], ["Arm 2", "Hand 2"])
        self.assertEqual([part.parent for part in copies], ["Body", copies[0].id])
        np.testing.assert_allclose(worlds(after, [copies[1].id])[:, 0, 3], worlds(scene, ["Hand"])[:, 0, 3] + 10)
        self.assertIsNone(copies[0].seat)
        self.assertEqual(copies[1].seat, scene.part("Hand").seat)
        alone = applied(scene, [Duplicate(("Arm",), "c", with_children=False)])
        self.assertEqual(len(alone.parts), len(scene.parts) + 1)

    def test_copies_that_share_drawings_change_together(self):
        others = [replace(arm().part(n), drawings=(replace(arm().part(n).drawings[0], id=n),)) for n in ("Body", "Arm")]
        scene = arm().with_parts(others)
        scene = applied(scene, [Duplicate(("Hand",), "c", shares=True), Duplicate(("Hand",), "free")])
        other = replace(scene.part("Hand").drawings[0], art="other", bounds=(0.0, 0.0, 10.0, 10.0))
        after = applied(scene, [ReplaceDrawing("c0", "d", other)])
        self.assertEqual([after.part(p).drawings[0].art for p in ("Hand", "c0", "free0")], ["other", "other", "art"])

    def test_pasting_into_another_scene_hangs_roots_on_the_stage(self):
        source = applied(arm(), [MakeJoints(("Arm", "Hand"), "j")])
        target = Scene("t", "T")
        after = applied(target, [Paste((source.part("Arm"), source.part("Hand")), "p")])
        self.assertEqual([(part.parent, part.seat) for part in after.parts], [(None, None), ("p0", "e2")])
        with self.assertRaises(RuleError):
            applied(target, [Paste((), "p")])

    @given(seeds, st.sampled_from(["upright", "level", "facing"]), st.booleans())
    @examples(60)
    def test_a_mirrored_limb_is_the_reflection_at_all_frames(self, seed, axis, is_deep):
        # Reflection in the parent's own space, carried by the parent: W' = P M inverse(P) W.
        scene = random_scene(seed, is_deep=is_deep)
        roots = [part for part in scene.parts if part.parent is not None]
        assume(roots)
        root = roots[seed % len(roots)]
        ids = [part.id for part in scene.parts if _is_within(scene, part.id, root.id)]
        after = applied(scene, [MirroredCopy((root.id,), "m", axis)])
        np.testing.assert_array_equal(worlds(after, [part.id for part in scene.parts]), _all_worlds(scene))
        flip = MIRRORS[axis]
        centre = np.array([*scene.part(root.parent).centre, 1.0])
        mirror = flip.copy()
        mirror[:3, 3] = (centre - flip @ centre)[:3]
        parent = worlds(scene, [root.parent])
        reflection = parent @ mirror @ np.linalg.inv(parent)
        for number, part_id in enumerate(ids):
            wanted = reflection @ worlds(scene, [part_id])
            found = worlds(after, [f"m{number}"])
            np.testing.assert_allclose(found, wanted, rtol=0, atol=1e-9 * max(1, np.abs(wanted).max()))

    @given(seeds)
    @examples(30)
    def test_parts_that_inherit_no_scale_are_mirrored_too(self, seed):
        # Under a parent without skew, which turns: there the reflection carried along is one on the stage too.
        body, arm_, hand, thumb = (replace(p, footholds=()) for p in random_scene(seed, 4).parts)
        keyed = Channel((Key(0.0, 0.0), Key(30.0, 50.0)))
        body = replace(body, parent=None, rest={"move.x": 40.0, "turn.z": 33.0}, channels={"turn.z": keyed})
        arm_ = replace(arm_, parent=body.id)
        hand = replace(hand, parent=arm_.id, inherits=Inherits(scale=False))
        scene = Scene("s", "S", parts=(body, arm_, hand, replace(thumb, parent=hand.id)))
        if any(name.startswith("spin.") for name in arm_.channels):
            # A spin in time lies between the mirror and the hand, which takes the plain rotation: no copy follows it.
            with self.assertRaisesRegex(RuleError, "spins in time below the mirror"):
                applied(scene, [MirroredCopy((arm_.id,), "m")])
            return
        after = applied(scene, [MirroredCopy((arm_.id,), "m")])
        centre = body.centre[0]
        mirror = np.diag([-1.0, 1, 1, 1])
        mirror[0, 3] = 2 * centre
        parent = worlds(scene, [body.id])
        for number, part_id in enumerate((arm_.id, hand.id, thumb.id)):
            wanted = parent @ mirror @ np.linalg.inv(parent) @ worlds(scene, [part_id])
            np.testing.assert_allclose(worlds(after, [f"m{number}"]), wanted, rtol=0, atol=1e-8)

    @given(seeds)
    @examples(30)
    def test_a_mirror_along_the_stage_reflects_what_is_shown_there(self, seed):
        random = np.random.default_rng(seed)
        scene = random_scene(seed)
        root = scene.parts[0]
        scene = scene.with_parts(
            [replace(root, parent=None, channels={n: c for n, c in root.channels.items() if not n.startswith("move")})]
        )
        x = float(random.normal() * 100)
        ids = [part.id for part in scene.parts if _is_within(scene, part.id, root.id)]
        after = applied(scene, [MirroredCopy((root.id,), "m", "upright", "stage", (x, 3.0))])
        mirror = np.diag([-1.0, 1, 1, 1])
        mirror[0, 3] = 2 * x
        for number, part_id in enumerate(ids):
            wanted = mirror @ worlds(scene, [part_id])
            np.testing.assert_allclose(worlds(after, [f"m{number}"]), wanted, rtol=1e-9, atol=1e-8)

    def test_names_seats_limits_and_turning_sense_are_mirrored(self):
        scene = Scene(
            "s",
            "S",
            parts=(
                part("Body"),
                part("Near arm", parent="Body", rest={"move.x": 30.0, "move.y": 5.0}),
                part("Near hand", parent="Near arm", rest={"move.x": 40.0}),
            ),
        )
        scene = applied(
            scene, [MakeJoints(("Near arm", "Near hand"), "j"), SetLimits(("Near arm",), "turn.z", -10, 80)]
        )
        scene = applied(scene, [SetValues(("Near arm",), {"turn.z": 30.0}, 5.0)])
        after = applied(scene, [MirroredCopy(("Near arm",), "m")])
        copy = after.part("m0")
        self.assertEqual([after.part(p).name for p in ("m0", "m1")], ["Far arm", "Far hand"])
        self.assertEqual(copy.limits["turn.z"], (-80, 10))
        self.assertEqual(copy.channels["turn.z"].keys[0].value, -30)
        self.assertEqual([eyelet.name for eyelet in after.part("Body").eyelets], ["Near arm", "Far arm"])
        self.assertEqual([eyelet.name for eyelet in copy.eyelets], ["Far hand"])
        self.assertLess(max(gap.distance for gap in gaps(after, 5.0)), 1e-9)
        self.assertEqual(len(gaps(after, None)), 4)

    def test_what_cannot_be_mirrored_says_so(self):
        slanted = applied(arm(), [SetValues(("Arm",), {"move.x": 3.0}, 2.0)])
        with self.assertRaisesRegex(RuleError, "slanted"):
            applied(slanted, [MirroredCopy(("Arm",), "m", along="stage", about=(0.0, 0.0))])
        partly = arm().with_parts([replace(arm().part("Arm"), inherits=Inherits(turn=False))])
        with self.assertRaisesRegex(RuleError, "inherits only some"):
            applied(partly, [MirroredCopy(("Arm",), "m")])

    def test_sides_are_exchanged_in_names(self):
        pairs = {
            "Near arm": "Far arm",
            "LEFT hand": "RIGHT hand",
            "leg_L": "leg_R",
            "Tail": "Tail",
            "Leftover": "Leftover",
        }
        self.assertEqual({name: other_side(name) for name in pairs}, pairs)
        self.assertEqual([side_of(name) for name in pairs], ["near", "left", "l", "", ""])


def _is_within(scene, part_id, root):
    while part_id is not None:
        if part_id == root:
            return True
        part_id = scene.part(part_id).parent
    return False


def _all_worlds(scene):
    return worlds(scene, [part.id for part in scene.parts])


class RegistrationTests(unittest.TestCase):
    @given(seeds, st.sampled_from([None, 9.0]))
    @examples(40)
    def test_with_the_art_staying_nothing_moves_at_any_frame(self, seed, frame):
        scene = random_scene(seed)
        part_id = scene.parts[seed % len(scene.parts)].id
        scene = applied(scene, [AddEyelet(part_id, "e", (4.0, 5.0))])
        after = applied(scene, [MoveRegistration(part_id, (7.0, -3.0), "art", "art", frame=frame)])
        self.assertNotEqual(after.part(part_id).pivot, scene.part(part_id).pivot)
        for found in scene.index:
            moved = np.array([7.0, -3.0, 0, 0]) if found == part_id else np.zeros(4)
            point = np.array([11.0, 13.0, 0.0, 1.0])
            np.testing.assert_allclose(
                worlds(after, [found]) @ (point - moved), worlds(scene, [found]) @ point, rtol=0, atol=1e-8
            )
        eyelet = after.part(part_id).eyelets[-1].point
        self.assertEqual(eyelet, (-3.0, 8.0, 0.0))

    def test_with_the_registration_staying_the_art_slides_under_it(self):
        scene = arm()
        after = applied(scene, [MoveRegistration("Arm", (0.5, 1.0), "fraction", "registration")])
        drawing = after.part("Arm").drawings[0]
        self.assertEqual((drawing.registration, drawing.bounds), ((20, 20), (-20, -20, 20, 0)))
        self.assertEqual(after.part("Arm").pivot, scene.part("Arm").pivot)
        np.testing.assert_array_equal(_all_worlds(after), _all_worlds(scene))

    def test_axes_line_up_with_stage_line_and_edge_while_the_art_stays(self):
        scene = applied(arm(), [SetValues(("Arm",), {"slide.x": 6.0, "turn.z": 33.0})])
        for edit in (
            AlignAxes("Arm", "stage"),
            AlignAxes("Arm", "line", (0.0, 0.0), (10.0, 10.0)),
            AlignAxes("Arm", "edge", (39.0, 11.0)),
        ):
            after = applied(scene, [edit])
            np.testing.assert_allclose(_all_worlds(after), _all_worlds(scene), rtol=0, atol=1e-9)
            step = applied(after, [SetValues(("Arm",), {"slide.x": after.part("Arm").rest_value("slide.x") + 5})])
            way = pivot_at(step, "Arm", None) - pivot_at(after, "Arm", None)
            world = worlds(scene, ["Arm"], [0.0])[0]
            wanted = {"stage": [1, 0], "line": world[:2, :2] @ [1, 1], "edge": world[:2, :2] @ [0, 1]}[edit.to]
            np.testing.assert_allclose(way[:2], 5 * np.array(wanted) / np.linalg.norm(wanted), atol=1e-9)

    def test_pivots_of_many_parts_go_to_one_fraction(self):
        scene = arm()
        after = applied(scene, [PlacePivots(("Body", "Arm", "Hand"), (0.5, 1.0))])
        self.assertEqual({part.pivot for part in after.parts}, {(20.0, 20.0, 0.0)})
        np.testing.assert_allclose(_all_worlds(after)[:, :2, 3], _all_worlds(scene)[:, :2, 3], atol=1e-9)


class DrawingTests(unittest.TestCase):
    def setUp(self):
        scene = applied(arm(), [CopyDrawing("Hand", "d", "fist"), RenameDrawing("Hand", "fist", "Fist")])
        keys = (Key(0.0, 0.0, "hold"), Key(8.0, 1.0, "hold"))
        hand = replace(scene.part("Hand").with_rest({"drawing": 1.0}), channels={"drawing": Channel(keys)})
        self.scene = scene.with_parts([hand])

    def shown_names(self, scene, part_id="Hand"):
        pose = evaluate(scene, [0.0, 9.0])
        return [scene.part(part_id).drawings[i].name for i in pose.drawing[pose.index[part_id]]]

    def test_a_copy_is_shown_and_shares_pivot_and_registration(self):
        scene = applied(arm(), [CopyDrawing("Hand", "d", "fist")])
        self.assertEqual([d.name for d in scene.part("Hand").drawings], ["first", "first 2"])
        self.assertEqual(scene.part("Hand").rest["drawing"], 1)
        keyed = applied(arm(), [CopyDrawing("Hand", "d", "x", "Arm", 6.0)])
        # From the frame on, and not before it.
        self.assertEqual(
            [(k.frame, k.value, k.kind) for k in keyed.part("Hand").channels["drawing"].keys],
            [(0, 0, "hold"), (6, 1, "hold")],
        )

    def test_ordering_and_deleting_keep_what_is_shown(self):
        self.assertEqual(self.shown_names(self.scene), ["first", "Fist"])
        ordered = applied(self.scene, [OrderDrawing("Hand", "fist", 0)])
        self.assertEqual([d.name for d in ordered.part("Hand").drawings], ["Fist", "first"])
        self.assertEqual(self.shown_names(ordered), ["first", "Fist"])
        self.assertEqual(ordered.part("Hand").rest["drawing"], 0)
        gone = applied(self.scene, [DeleteDrawing("Hand", "fist")])
        self.assertEqual(self.shown_names(gone), ["first", "first"])
        with self.assertRaises(RuleError):
            applied(gone, [DeleteDrawing("Hand", "d")])

    def test_replaced_art_keeps_pivot_eyelets_children_and_keys(self):
        scene = applied(self.scene, [MakeJoints(("Hand",), "j")])
        art = Drawing(
            "new",
            "New",
            "other",
            (0, 0, 100, 100),
            (10.0, 10.0, 90.0, 50.0),
            (10.0, 0.0),
            (((10, 10), (90, 50), (10, 50)),),
        )
        for fit, bounds in (("registration", (10.0, 10.0, 90.0, 50.0)), ("box", (0.0, 0.0, 40.0, 20.0))):
            after = applied(scene, [ReplaceDrawing("Arm", "d", art, fit)])
            drawing = after.part("Arm").drawings[0]
            self.assertEqual((drawing.id, drawing.name, drawing.art, drawing.bounds), ("d", "first", "other", bounds))
            self.assertEqual(replace(after.part("Arm"), drawings=()), replace(scene.part("Arm"), drawings=()))
            np.testing.assert_array_equal(_all_worlds(after), _all_worlds(scene))
        # The stretched outline fills the old box, and the picture's box is stretched alike.
        self.assertEqual(drawing.outline[0], ((0.0, 0.0), (40.0, 20.0), (0.0, 20.0)))
        self.assertEqual(drawing.box, (-10.0, -5.0, 40.0, 45.0))

    def test_a_helper_takes_no_drawing(self):
        scene = applied(arm(), [Join(("Hand",), None)])
        helper = scene.with_parts([replace(scene.part("Hand"), kind="helper", drawings=())])
        with self.assertRaises(RuleError):
            applied(helper, [AddDrawing("Hand", scene.part("Arm").drawings[0])])


class HierarchyTests(unittest.TestCase):
    def test_joining_snapped_seats_in_the_eyelet_of_the_name_or_the_nearest(self):
        scene = applied(arm(), [Join(("Hand",), None), AddEyelet("Body", "e9", (3.0, 3.0), name="other")])
        by_name = applied(scene, [Join(("Hand",), "Arm", place="snapped")])
        self.assertEqual(by_name.part("Hand").seat, "e2")
        nearest = applied(scene, [Join(("Hand",), "Body", place="snapped")])
        self.assertIn(nearest.part("Hand").seat, ("e1", "e9"))
        self.assertLess(gaps(nearest, None)[0].distance, 100)
        bare = applied(scene, [Join(("Body",), "Hand", place="snapped")])
        np.testing.assert_allclose(pivot_at(bare, "Body", None), pivot_at(bare, "Hand", None), atol=1e-9)

    def test_names_by_pattern_and_their_clashes(self):
        scene = arm()
        after = applied(scene, [NameByPattern(("Arm", "Hand"), "{parent} {name} {number}", 3)])
        self.assertEqual([part.name for part in after.parts], ["Body", "Body Arm 3", "Arm Hand 4"])
        with self.assertRaisesRegex(RuleError, "Two parts would be called Body"):
            applied(scene, [NameByPattern(("Arm", "Hand"), "Body")])
        for pattern in ("{wrong}", "{name", "{name.x}", "{0}"):
            with self.assertRaises(RuleError):
                applied(scene, [NameByPattern(("Arm",), pattern)])

    def test_isolating_forgets_parts_that_are_deleted(self):
        scene = applied(arm(), [Isolate(("Arm", "Hand")), DeleteParts(("Hand",))])
        self.assertEqual(scene.isolated, ("Arm",))
        self.assertEqual(applied(scene, [Isolate()]).isolated, ())

    def test_tags_and_silence(self):
        scene = applied(arm(), [SetTag(("Arm",), "reed"), SilenceFinding(("Arm",), "Joint open")])
        self.assertEqual((scene.part("Arm").tag, scene.part("Arm").silenced), ("reed", ("Joint open",)))
        self.assertEqual(applied(scene, [SilenceFinding(("Arm",), "Joint open", False)]).part("Arm").silenced, ())

    def test_unscaling_a_helper_leaves_its_children_where_they_lie(self):
        scene = arm()
        helper = replace(scene.part("Body"), kind="helper", drawings=(), rest={"scale.x": 2.0, "scale.y": 0.5})
        scene = scene.with_parts([helper])
        after = applied(scene, [UnscaleHelper("Body")])
        self.assertEqual(after.part("Body").rest_value("scale.x"), 1)
        np.testing.assert_allclose(worlds(after, ["Arm", "Hand"]), worlds(scene, ["Arm", "Hand"]), atol=1e-9)


class PoseTests(unittest.TestCase):
    def test_a_pose_is_pasted_by_name_and_mirrored_to_the_other_side(self):
        parts = (part("Near arm"), part("Far arm"), part("Tail"))
        scene = Scene("s", "S", parts=parts)
        pose = {"Near arm": {"turn.z": 30.0, "scale.x": 1.0}, "Tail": {"turn.z": 5.0}}
        pasted = applied(scene, [PastePose(pose, frame=4.0)])
        self.assertEqual(
            {p.name: list(p.channels) for p in pasted.parts},
            {"Near arm": ["turn.z"], "Far arm": [], "Tail": ["turn.z"]},
        )
        mirrored = applied(scene, [PastePose(pose, mirrored=True, frame=4.0)])
        values = {p.name: p.channels["turn.z"].keys[0].value for p in mirrored.parts if p.channels}
        self.assertEqual(values, {"Far arm": -30, "Tail": -5})
        alone = applied(scene, [PastePose({"Near arm": {"turn.z": 8.0}}, ("Tail",))])
        self.assertEqual(alone.part("Tail").rest["turn.z"], 8)
        with self.assertRaises(RuleError):
            applied(scene, [PastePose({"Nobody": {}, "None": {}})])

    def test_turning_about_named_centres(self):
        scene = applied(arm(), [AddMark("m", (50.0, 60.0))])
        parts = ("Arm", "Hand")
        middle = np.mean([pivot_at(scene, name, None)[:2] for name in parts], axis=0)
        for about, centre in (
            ("shared centre", middle),
            ("last picked", pivot_at(scene, "Hand", None)[:2]),
            ("m", (50, 60)),
        ):
            by_name = applied(scene, [TurnAbout(parts, 40.0, about)])
            by_place = applied(scene, [TurnAbout(parts, 40.0, (float(centre[0]), float(centre[1])))])
            np.testing.assert_allclose(_all_worlds(by_name), _all_worlds(by_place), atol=1e-12)
        with self.assertRaises(RuleError):
            applied(scene, [TurnAbout(parts, 40.0, "nothing")])


class MarkTests(unittest.TestCase):
    def test_a_mark_is_drawn_to_pivots_eyelets_and_the_grid(self):
        scene = applied(arm(), [AddMark("m", (0.0, 0.0)), AddMark("n", (300.0, 300.0))])
        pivot = pivot_at(scene, "Body", None)[:2]
        kinds = ("pivots", "eyelets", "marks", "grid")
        cases = [
            (np.add(pivot, (3.0, -2.0)), pivot, "pivot of Body"),
            (np.array([302.0, 297.0]), (300, 300), "mark Mark 2"),
            (np.array([397.0, 204.0]), (400, 200), "grid"),
        ]
        for place, wanted, name in cases:
            edit = SetMark("m", (float(place[0]), float(place[1])), None, Snapping(6.0, kinds))
            self.assertEqual(edit.snap(scene).name, name)
            np.testing.assert_allclose(applied(scene, [edit]).marks[0].place, wanted, atol=1e-9)
        free = applied(scene, [SetMark("m", (397.0, 204.0))])
        self.assertEqual(free.marks[0].place, (397, 204))
