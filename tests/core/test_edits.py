import unittest
from dataclasses import replace

import numpy as np
from hypothesis import assume, given
from hypothesis import strategies as st

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.edits import applied
from jointed_crane.core.edits.every import EDITS
from jointed_crane.core.edits.joints.helpers import AddHelper
from jointed_crane.core.edits.joints.joining import Join
from jointed_crane.core.edits.pictures.painting import PlaceInOrder, Reorder
from jointed_crane.core.edits.placing.pivots import MovePivot, SetFoothold
from jointed_crane.core.edits.placing.poses import MoveBy, ScaleToward, SetValues, TurnBy
from jointed_crane.core.edits.scene.bench_state import SetBenchState
from jointed_crane.core.edits.scene.parts import DeleteParts, RenamePart
from jointed_crane.core.edits.shared.values_on_screen import motion_value
from jointed_crane.core.edits.time.keys import DeleteKeys, KeyAt, SetKeys, SetSway
from jointed_crane.core.edits.time.retiming import MoveKeys
from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.evaluate.pose_at_frame import pivot_at
from jointed_crane.core.measures.snapping import Snapping
from jointed_crane.core.model.scene import Drawing, Inherits, Part, Scene
from jointed_crane.core.motion.channel import Sway
from tests.strategies import edits_for, examples, random_scene, seeds


def part(name, **fields):
    box = (0.0, 0.0, 40.0, 20.0)
    return Part(name, name, drawings=(Drawing("d", "first", "art", box, box),), **fields)


def scene(*parts):
    return Scene("s", "S", parts=parts)


def shown(found, part_id, frame=None):
    return evaluate(found.shown_as(frame), [frame or 0.0]).world_of(part_id)


class EveryEditTests(unittest.TestCase):
    @given(seeds, st.data())
    @examples(3)
    def test_properties_over_edits_draw_every_kind(self, seed, data):
        drawn = {edit.kind for edit in data.draw(edits_for(random_scene(seed)))}
        self.assertEqual(drawn, set(EDITS))


class JoinTests(unittest.TestCase):
    @given(seeds, st.sampled_from([None, 0.0, 13.5]))
    @examples(60)
    def test_reparenting_keeps_every_displayed_matrix(self, seed, frame):
        random = np.random.default_rng(seed)
        found = random_scene(seed, is_deep=seed % 2 == 0)
        inherits = Inherits(*(bool(flag) for flag in random.integers(0, 2, 3)))
        found = found.with_parts([replace(found.part("p3"), inherits=inherits if seed % 3 == 0 else Inherits())])
        child, parent = (f"p{number}" for number in random.choice(7, 2, replace=False))
        before = evaluate(found.shown_as(frame), [frame or 0.0]).world
        try:
            after = applied(found, [Join((child,), parent, frame)])
        except RuleError:
            assume(False)
        size = max(1.0, np.abs(before).max())
        np.testing.assert_allclose(
            evaluate(after.shown_as(frame), [frame or 0.0]).world / size, before / size, atol=1e-9
        )

    def test_a_loop_is_refused_with_its_names(self):
        found = scene(part("Body"), part("Neck", parent="Body"), part("Head", parent="Neck"))
        with self.assertRaisesRegex(RuleError, "Body on Neck on Head on Body|Body on Head on Neck on Body"):
            applied(found, [Join(("Body",), "Head")])
        with self.assertRaisesRegex(RuleError, "own parent"):
            applied(found, [Join(("Body",), "Body")])

    def test_a_mirrored_part_keeps_its_sign_in_the_scale(self):
        found = scene(part("Body", rest={"turn.z": 30.0}), part("Wing", rest={"scale.x": -1.0}))
        after = applied(found, [Join(("Wing",), "Body")])
        self.assertAlmostEqual(after.part("Wing").rest_value("scale.x"), -1.0)
        self.assertAlmostEqual(after.part("Wing").rest_value("scale.y"), 1.0)

    def test_joining_many_keeps_limbs_together(self):
        found = scene(part("Body"), part("Arm"), part("Hand", parent="Arm"))
        after = applied(found, [Join(("Arm", "Hand"), "Body")])
        self.assertEqual((after.part("Arm").parent, after.part("Hand").parent), ("Body", "Arm"))

    def test_deleting_a_parent_leaves_children_in_place(self):
        found = random_scene(7)
        before = {p.id: shown(found, p.id) for p in found.parts}
        parent = next(p.parent for p in found.parts if p.parent)
        after = applied(found, [DeleteParts((parent,))])
        for left in after.parts:
            np.testing.assert_allclose(shown(after, left.id), before[left.id], atol=1e-8)

    def test_a_helper_becomes_parent_and_nothing_moves(self):
        found = random_scene(9)
        picked = tuple(p.id for p in found.parts if p.parent == found.parts[0].parent)[:2]
        before = {p.id: shown(found, p.id, 6.0) for p in found.parts}
        after = applied(found, [AddHelper("h", picked, frame=6.0)])
        self.assertEqual({after.part(part_id).parent for part_id in picked}, {"h"})
        for part_id, matrix in before.items():
            np.testing.assert_allclose(shown(after, part_id, 6.0), matrix, atol=1e-8)


class PivotTests(unittest.TestCase):
    @given(seeds, st.sampled_from([None, 9.0]))
    @examples(40)
    def test_art_stays_where_it_is_shown(self, seed, frame):
        found = random_scene(seed)
        found = found.with_parts([replace(found.part("p2"), footholds=())])
        before = shown(found, "p2", frame)
        after = applied(found, [MovePivot("p2", (12.0, -33.0), "art", "art", frame=frame)])
        self.assertEqual(after.part("p2").pivot[:2], (12.0, -33.0))
        np.testing.assert_allclose(shown(after, "p2", frame), before, atol=1e-8)

    @given(seeds, st.sampled_from([None, 9.0]), st.sampled_from(["art", "fraction", "stage"]))
    @examples(20)
    def test_a_coordinate_that_is_not_given_stays_so_one_after_the_other_is_both_at_once(self, seed, frame, unit):
        found = random_scene(seed)
        found = found.with_parts([replace(found.part("p2"), footholds=())])
        x, y = (0.3, 0.8) if unit == "fraction" else (12.0, -33.0)
        both = applied(found, [MovePivot("p2", (x, y), unit, frame=frame)])
        after = applied(found, [MovePivot("p2", point, unit, frame=frame) for point in ((x, None), (None, y))])
        np.testing.assert_allclose(pivot_at(after, "p2", frame), pivot_at(both, "p2", frame), atol=1e-8)
        np.testing.assert_allclose(after.part("p2").pivot, both.part("p2").pivot, atol=1e-8)
        self.assertEqual(
            applied(found, [MovePivot("p2", (None, None), frame=frame)]).part("p2").pivot, found.part("p2").pivot
        )

    def test_pivot_stays_and_the_art_slides(self):
        found = scene(part("Gate", pivot=(10.0, 10.0, 0.0), rest={"move.x": 50.0, "move.y": 60.0, "turn.z": 20.0}))
        after = applied(found, [MovePivot("Gate", (0.0, 0.5), "fraction", "pivot")])
        np.testing.assert_allclose(shown(after, "Gate") @ [0, 10, 0, 1], [50, 60, 0, 1], atol=1e-12)
        self.assertEqual(after.part("Gate").rest, found.part("Gate").rest)

    def test_a_pivot_snaps_to_the_nine_points_within_reach_only(self):
        found = scene(part("Gate", rest={"scale.x": 2.0}))
        near = MovePivot("Gate", (77.0, 18.0), "stage", "art", snapping=Snapping(6.0))
        self.assertEqual(near.snap(found).name, "lower right corner of Gate")
        self.assertEqual(applied(found, [near]).part("Gate").pivot, (40.0, 20.0, 0.0))
        far = replace(near, snapping=Snapping(2.0))
        self.assertIsNone(far.snap(found))
        np.testing.assert_allclose(applied(found, [far]).part("Gate").pivot, (38.5, 18.0, 0.0))

    def test_a_fraction_is_of_the_box_and_may_lie_outside(self):
        found = scene(part("Swing boat"))
        for fraction, point in (((0.5, 0.5), (20, 10)), ((1, 1), (40, 20)), ((0.5, -2), (20, -40))):
            after = applied(found, [MovePivot("Swing boat", fraction, "fraction")])
            self.assertEqual(after.part("Swing boat").pivot[:2], point)

    def test_a_foothold_never_makes_the_part_jump(self):
        found = random_scene(3)
        plain = found.with_parts([replace(found.part("p1"), footholds=())])
        after = applied(plain, [SetFoothold("p1", 14.0, (5.0, 6.0))])
        np.testing.assert_allclose(
            evaluate(after, [14.0]).world_of("p1"), evaluate(plain, [14.0]).world_of("p1"), atol=1e-9
        )


class PoseTests(unittest.TestCase):
    def test_rest_changes_rest_and_motion_sets_keys_on_touched_channels_only(self):
        found = scene(part("Neck", rest={"turn.z": 15.0}))
        at_rest = applied(found, [TurnBy(("Neck",), 10.0)])
        self.assertEqual(at_rest.part("Neck").rest_value("turn.z"), 25.0)
        self.assertEqual(at_rest.part("Neck").channels, {})
        moving = applied(found, [TurnBy(("Neck",), 10.0, 12.0)])
        self.assertEqual(moving.part("Neck").rest, found.part("Neck").rest)
        self.assertEqual(list(moving.part("Neck").channels), ["turn.z"])
        self.assertEqual(moving.part("Neck").channels["turn.z"].key_at(12.0).value, 10.0)

    def test_a_value_set_on_a_swaying_channel_is_the_value_seen(self):
        found = applied(
            scene(part("Reed")),
            [SetSway("Reed", "turn.z", Sway(5.0, 24.0)), SetValues(("Reed",), {"turn.z": 9.0}, 7.0)],
        )
        self.assertAlmostEqual(evaluate(found, [7.0]).motion_at()["Reed"]["turn.z"], 9.0)

    def test_moving_is_along_the_stage_whatever_the_parent_does(self):
        found = scene(part("Body", rest={"turn.z": 90.0, "scale.x": 2.0}), part("Arm", parent="Body"))
        before = shown(found, "Arm", 4.0)
        after = applied(found, [MoveBy(("Arm",), (30.0, 7.0), 4.0)])
        np.testing.assert_allclose(shown(after, "Arm", 4.0)[:2, 3] - before[:2, 3], [30, 7], atol=1e-9)

    def test_a_positive_turn_is_clockwise_on_screen_also_under_a_mirrored_parent(self):
        found = scene(part("Body", rest={"scale.x": -1.0}), part("Arm", parent="Body"))
        before = shown(found, "Arm")[:2, 0]
        after = shown(applied(found, [TurnBy(("Arm",), 10.0)]), "Arm")[:2, 0]
        self.assertGreater(before[0] * after[1] - before[1] * after[0], 0)

    def test_coarse_turns_end_on_the_step_also_under_a_mirrored_parent(self):
        for mirror in (1.0, -1.0):
            found = scene(
                part("Body", rest={"scale.x": mirror}),
                part("Arm", parent="Body", rest={"turn.z": 4.0}),
                part("Hand", parent="Arm"),
            )
            after = applied(found, [TurnBy(("Hand", "Arm"), 24.0, step=15.0)])
            arm = 30.0 if mirror > 0 else -15.0
            self.assertEqual(after.part("Arm").rest_value("turn.z"), arm)
            self.assertAlmostEqual(after.part("Hand").rest_value("turn.z"), arm - 4.0)
            moving = applied(found, [TurnBy(("Arm",), 24.0, 8.0, step=15.0)])
            self.assertAlmostEqual(evaluate(moving, [8.0]).motion_at()["Arm"]["turn.z"], 30.0 if mirror > 0 else -30.0)

    def test_scaling_follows_the_hand_along_the_parts_own_axis(self):
        found = scene(part("Door", rest={"turn.z": 90.0}))
        # The part's x axis points down the stage: pulling from 40 to 60 px below the pivot is 1.5.
        after = applied(found, [ScaleToward(("Door",), (0.0, 40.0), (9.0, 60.0), "x")])
        self.assertAlmostEqual(after.part("Door").rest_value("scale.x"), 1.5)
        self.assertEqual(after.part("Door").rest_value("scale.y"), 1.0)

    def test_a_pull_from_the_pivot_itself_is_refused(self):
        with self.assertRaisesRegex(RuleError, "starts on its pivot"):
            applied(scene(part("Door")), [ScaleToward(("Door",), (0.0, 0.0), (9.0, 9.0), "both")])

    def test_squash_from_the_floor_leaves_the_bottom_edge(self):
        # Common practice, no source: scaling from a pivot on the bottom edge leaves the bottom edge where it is.
        found = applied(scene(part("Ball")), [MovePivot("Ball", (0.5, 1.0), "fraction")])
        after = applied(found, [SetValues(("Ball",), {"scale.y": 0.4}, 3.0)])
        for x in (0.0, 40.0):
            y_before, y_after = (shown(s, "Ball", 3.0) @ [x, 20, 0, 1] for s in (found, after))
            self.assertAlmostEqual(y_before[1], y_after[1])

    def test_numbers_out_of_bounds_are_refused(self):
        for value in (float("nan"), float("inf"), 1e300):
            with self.assertRaisesRegex(RuleError, "Nothing was changed"):
                applied(scene(part("Door")), [SetValues(("Door",), {"turn.z": value})])

    def test_a_locked_part_is_not_turned(self):
        found = applied(scene(part("Door")), [SetBenchState(("Door",), locked=True)])
        with self.assertRaisesRegex(RuleError, "Door is locked"):
            applied(found, [TurnBy(("Door",), 3.0)])

    def test_nothing_is_more_than_opaque(self):
        faint = applied(scene(part("a")), [SetValues(("a",), {"opacity": 7.0})])
        self.assertEqual(faint.part("a").rest_value("opacity"), 1.0)
        faint = applied(faint, [SetValues(("a",), {"opacity": 0.25})])
        for typed, kept, counts in ((9.0, 4.0, 1.0), (-1.0, 0.0, 0.0), (2.0, 2.0, 0.5)):
            keyed = applied(faint, [SetValues(("a",), {"opacity": typed}, 4.0)])
            self.assertEqual(motion_value(keyed.part("a"), "opacity", 4.0), kept)
            self.assertEqual(evaluate(keyed, [4.0]).opacity[0, 0], counts)


class KeyTests(unittest.TestCase):
    def setUp(self):
        self.scene = applied(scene(part("Neck")), [TurnBy(("Neck",), 30.0, 0.0), TurnBy(("Neck",), 20.0, 10.0)])

    def keys(self, found):
        return [(key.frame, key.value) for key in found.part("Neck").channels["turn.z"].keys]

    def test_turning_adds_to_what_is_shown(self):
        self.assertEqual(self.keys(self.scene), [(0.0, 30.0), (10.0, 50.0)])

    def test_setting_a_key_moves_nothing_at_that_frame(self):
        after = applied(self.scene, [SetKeys(("Neck",), ("turn.z",), 4.0)])
        np.testing.assert_allclose(shown(after, "Neck", 4.0), shown(self.scene, "Neck", 4.0), atol=1e-12)

    def test_retiming_moves_a_key_and_lands_on_others(self):
        after = applied(self.scene, [MoveKeys((KeyAt("Neck", "turn.z", 10.0),), 14.0)])
        self.assertEqual(self.keys(after), [(0.0, 30.0), (24.0, 50.0)])
        onto = applied(self.scene, [MoveKeys((KeyAt("Neck", "turn.z", 10.0),), -10.0)])
        self.assertEqual(self.keys(onto), [(0.0, 50.0)])

    def test_the_last_key_takes_its_channel_along(self):
        both = (KeyAt("Neck", "turn.z", 0.0), KeyAt("Neck", "turn.z", 10.0))
        self.assertEqual(applied(self.scene, [DeleteKeys(both)]).part("Neck").channels, {})

    def test_a_key_that_is_not_there_is_named(self):
        with self.assertRaisesRegex(RuleError, "Neck has no key on Turn at frame 3"):
            applied(self.scene, [DeleteKeys((KeyAt("Neck", "turn.z", 3.0),))])


class OrderAndNameTests(unittest.TestCase):
    def setUp(self):
        self.scene = scene(*(part(name) for name in "ABCD"))

    def names(self, *edits):
        return "".join(p.name for p in applied(self.scene, edits).parts)

    def test_painting_order(self):
        self.assertEqual(self.names(Reorder(("A",), "front")), "BCDA")
        self.assertEqual(self.names(Reorder(("D", "B"), "back")), "BDAC")
        self.assertEqual(self.names(Reorder(("B",), "forward")), "ACBD")
        self.assertEqual(self.names(Reorder(("C",), "backward")), "ACBD")
        self.assertEqual(self.names(PlaceInOrder(("A",), "C")), "BCAD")
        self.assertEqual(self.names(PlaceInOrder(("D",), None)), "DABC")

    def test_two_parts_never_share_a_name(self):
        with self.assertRaisesRegex(RuleError, "a part called B already"):
            applied(self.scene, [RenamePart("A", "B")])
