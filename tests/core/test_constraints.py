"""Constraints against the law of cosines, SciPy's optimiser, atan2, statistics, and their promises by property."""

import unittest
from dataclasses import replace

import numpy as np
from hypothesis import assume, given
from hypothesis import strategies as st

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.constraints.along_path import AlongPath
from jointed_crane.core.constraints.between import Between
from jointed_crane.core.constraints.carry import Carry, Hold
from jointed_crane.core.constraints.constraint import Goal, number_channel
from jointed_crane.core.constraints.follow import Follow
from jointed_crane.core.constraints.point_at import PointAt
from jointed_crane.core.constraints.reach import ReachChange
from jointed_crane.core.constraints.span import Span
from jointed_crane.core.constraints.stay_above import StayAbove
from jointed_crane.core.edits import applied
from jointed_crane.core.edits.constraints.changing_hands import MatchReach
from jointed_crane.core.edits.constraints.constraining import (
    ChangeConstraint,
    Constrain,
    MakeReach,
    OrderConstraint,
    RemoveConstraint,
)
from jointed_crane.core.edits.pictures.registering import MoveRegistration
from jointed_crane.core.edits.placing.leading import Lead
from jointed_crane.core.edits.placing.poses import SetValues
from jointed_crane.core.edits.scene.copies import Duplicate
from jointed_crane.core.edits.scene.mirrored_copies import MirroredCopy
from jointed_crane.core.edits.scene.parts import DeleteParts
from jointed_crane.core.edits.time.keys import SetSway
from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.hierarchy.tree import descendants
from jointed_crane.core.model.forms import Ellipse
from jointed_crane.core.model.scene import Drawing, Mark, Part, Scene
from jointed_crane.core.motion.channel import Channel, Key, Sway
from jointed_crane.core.shapes.picture import shape_drawing
from jointed_crane.core.soundness.whole_scene import ensure_sound
from jointed_crane.formats.document import part_document, part_from
from jointed_crane.store.rows import scene_from_rows, scene_rows
from tests.constrained_rigs import MIRRORS, arm, constrained, helper, moving
from tests.strategies import cornered_scene, edit_for, edits_for, examples, random_scene, seeds

FRAMES = np.arange(0.0, 48.0, 3.5)


class BetweenTests(unittest.TestCase):
    def placed(self, rule, goals, numbers=None, part=None):
        part = part or Part("p", "P")
        scene = applied(Scene("s", "S", parts=(*goals, part)), [Constrain("p", rule, numbers or {})])
        return scene, evaluate(scene, [0.0, 10.0])

    def test_shares_are_exact_also_beyond_and_moving(self):
        goals = (moving(helper("a", 10, 20), x=(0, 30)), helper("b", 110, 60))
        for share in (0.0, 0.25, 0.5, 1.0, 1.7, -0.4):
            rule = Between(id="c", name="Between", goals=(Goal(part="a"), Goal(part="b")))
            _, pose = self.placed(rule, goals, {"share": share})
            for column, x in ((0, 10.0), (1, 40.0)):
                wanted = (x + share * (110 - x), 20 + share * 40, 0)
                np.testing.assert_allclose(pose.pivot_of("p", column), wanted, rtol=0, atol=1e-9)

    def test_the_mean_of_two_noisy_tracks_has_its_error_divided_by_the_square_root_of_two(self):
        random = np.random.default_rng(5)
        count = 4000
        truth = np.cumsum(random.normal(size=count))
        tracks = [truth + random.normal(size=count) * 3.0 for _ in range(2)]
        goals = [
            helper(name).with_channel(
                "move.x", Channel(tuple(Key(float(frame), float(x)) for frame, x in enumerate(track)))
            )
            for name, track in zip("ab", tracks, strict=True)
        ]
        rule = Between(id="c", name="Mean", goals=(Goal(part="a"), Goal(part="b")))
        scene, _ = self.placed(rule, goals)
        pose = evaluate(scene, np.arange(count))
        error = pose.pivot[pose.index["p"], :, 0] - truth
        # The standard deviation of a mean of n independent errors is that of one over the root of n.
        self.assertAlmostEqual(float(error.std()), 3.0 / 2**0.5, delta=0.08)

    def test_turn_and_scale_go_the_shortest_way_or_as_they_stand(self):
        a, b = (helper(name).with_rest({"turn.z": turn}) for name, turn in (("a", 20.0), ("b", 380.0 + 60)))
        b = b.with_rest({"scale.x": 3.0})
        for is_shortest, wanted in ((True, 50.0), (False, 230.0)):
            rule = Between(
                id="c",
                name="B",
                goals=(Goal(part="a"), Goal(part="b")),
                turns=True,
                scales=True,
                is_shortest=is_shortest,
            )
            _, pose = self.placed(rule, (a, b))
            x = pose.world_of("p")[:2, 0]
            self.assertAlmostEqual(float(np.rad2deg(np.arctan2(x[1], x[0]))) % 360, wanted, places=9)
            self.assertAlmostEqual(float(np.hypot(*x)), 2.0, places=9)

    def test_many_goals_count_by_their_weights_and_none_leaves_the_part(self):
        goals = (helper("a", 0, 0), helper("b", 90, 0), helper("c", 0, 60))
        rule = Between(id="c", name="Mean", goals=tuple(Goal(part=name) for name in "abc"))
        scene, pose = self.placed(rule, goals, {"goal1": 1.0, "goal2": 2.0, "goal3": 0.0}, Part("p", "P"))
        np.testing.assert_allclose(pose.pivot_of("p"), (60, 0, 0), rtol=0, atol=1e-12)
        scene = applied(scene, [SetValues(("p",), {number_channel("c", f"goal{n}"): 0.0 for n in (1, 2, 3)}, None)])
        np.testing.assert_allclose(evaluate(scene, [0.0]).pivot_of("p"), (0, 0, 0), rtol=0, atol=1e-12)

    def test_a_number_is_keyed_and_sways_like_any_other(self):
        goals = (helper("a", 0, 0), helper("b", 100, 0))
        rule = Between(id="c", name="B", goals=(Goal(part="a"), Goal(part="b")))
        scene, _ = self.placed(rule, goals)
        share = number_channel("c", "share")
        swaying = applied(scene, [SetSway("p", share, Sway(0.25, 8.0))])
        x = evaluate(swaying, [0.0, 2.0, 4.0, 6.0]).pivot[2, :, 0]
        np.testing.assert_allclose(x, (50, 75, 50, 25), rtol=0, atol=1e-9)
        keyed = applied(scene, [SetValues(("p",), {share: 0.0}, 0.0), SetValues(("p",), {share: 1.0}, 10.0)])
        self.assertEqual([key.value for key in keyed.part("p").channels[share].keys], [0.0, 1.0])
        self.assertEqual(evaluate(keyed, [10.0]).motion_at()["p"], {share: 1.0})


class PlacingTests(unittest.TestCase):
    def test_point_at_agrees_with_atan2(self):
        random = np.random.default_rng(6)
        for _ in range(200):
            x, y, gx, gy, turn, offset = random.uniform(-200, 200, 6)
            mirror = float(random.choice([-1, 1]))
            base = Part("b", "Base", rest={"turn.z": turn, "scale.x": mirror, "scale.y": 1.7})
            part = Part("p", "P", parent="b", rest={"move.x": x, "move.y": y, "turn.z": 3 * turn})
            rule = PointAt(id="c", name="Point", goal=Goal(part="g"))
            scene = applied(
                Scene("s", "S", parts=(base, part, helper("g", gx, gy))), [Constrain("p", rule, {"offset": offset})]
            )
            pose = evaluate(scene, [0.0])
            way, own = np.array([gx, gy]) - pose.pivot_of("p")[:2], pose.world_of("p")[:2, 0]
            wanted = np.arctan2(way[1], way[0]) + np.deg2rad(offset)
            self.assertAlmostEqual(float(np.cos(np.arctan2(own[1], own[0]) - wanted)), 1.0, places=12)

    def test_a_point_of_the_art_points_and_a_goal_on_the_pivot_turns_nothing(self):
        part = Part("p", "P", pivot=(5.0, 5.0, 0.0), rest={"turn.z": 33.0})
        rule = PointAt(id="c", name="Point", goal=Goal(at="mark", named="m"), along=(5.0, 30.0, 0.0))
        scene = Scene("s", "S", parts=(part,), marks=(Mark("m", "M", (100.0, 0.0)), Mark("z", "Z", (0.0, 0.0))))
        pose = evaluate(applied(scene, [Constrain("p", rule)]), [0.0])
        x, y, *_ = pose.world_of("p") @ (5.0, 30.0, 0.0, 1.0)
        np.testing.assert_allclose((x, y), (25.0, 0.0), rtol=0, atol=1e-12)
        still = applied(scene, [Constrain("p", replace(rule, goal=Goal(at="mark", named="z")))])
        np.testing.assert_allclose(evaluate(still, [0.0]).world, evaluate(scene, [0.0]).world, rtol=0, atol=1e-12)

    @given(seeds, st.booleans())
    @examples(25)
    def test_following_begins_without_a_jump_in_any_scene(self, seed, is_motion):
        scene = random_scene(seed, 6)
        frame = 7.0 if is_motion else None
        goal, part = scene.parts[0].id, scene.parts[-1].id
        assume(part not in (goal, *descendants(scene, goal)) and goal not in descendants(scene, part))
        rule = Follow(id="c", name="Follow", goal=Goal(part=goal))
        after = applied(scene, [Constrain(part, rule, frame=frame)])
        before, now = (evaluate(found.shown_as(frame), [7.0]).world for found in (scene, after))
        np.testing.assert_allclose(now, before, rtol=0, atol=1e-9 * max(1.0, float(np.abs(before).max())))

    def test_a_follower_goes_with_its_goal(self):
        goal = moving(helper("g", 50, 0), x=(0, 40), turn=(0, 90))
        scene = Scene("s", "S", parts=(goal, Part("p", "P", rest={"move.x": 80.0})))
        scene = applied(scene, [Constrain("p", Follow(id="c", name="Follow", goal=Goal(part="g")))])
        pose = evaluate(scene, [10.0])
        np.testing.assert_allclose(pose.pivot_of("p"), (90, 30, 0), rtol=0, atol=1e-9)
        np.testing.assert_allclose(pose.world_of("p")[:2, 0], (0, 1), rtol=0, atol=1e-9)
        only_place = replace(scene.part("p").constraints[0], turns=False, scales=False)
        pose = evaluate(applied(scene, [ChangeConstraint("p", only_place)]), [10.0])
        np.testing.assert_allclose(pose.world_of("p")[:2, 0], (1, 0), rtol=0, atol=1e-9)

    def test_a_span_holds_both_points_and_keeps_the_area_within_its_ranges(self):
        random = np.random.default_rng(7)
        ends = ((0.0, 10.0, 0.0), (60.0, 12.0, 0.0))
        length = float(np.hypot(60, 2))
        for _ in range(100):
            first, angle, factor = random.uniform(-100, 100, 2), random.uniform(0, 6.3), random.uniform(0.85, 1.15)
            second = first + factor * length * np.array([np.cos(angle), np.sin(angle)])
            area = float(random.choice([0.0, 0.4, 1.0]))
            _, pose = self.spanned(ends, first, second, {"area": area, "thinnest": 0.1, "thickest": 9.0})
            for point, goal in zip(ends, (first, second), strict=True):
                np.testing.assert_allclose((pose.world_of("p") @ (*point, 1))[:2], goal, rtol=0, atol=1e-9)
            determinant = float(np.linalg.det(pose.world_of("p")[:2, :2]))
            self.assertAlmostEqual(determinant, factor ** (1 - area), places=9)

    def test_beyond_its_range_a_span_lets_the_end_go_that_yields(self):
        ends = ((0.0, 0.0, 0.0), (50.0, 0.0, 0.0))
        for yields, wanted in ((1.0, (0, 60)), (0.0, (40, 100)), (0.5, (20, 80))):
            _, pose = self.spanned(ends, (0.0, 0.0), (100.0, 0.0), {"yields": yields})
            found = [(pose.world_of("p") @ (*point, 1))[0] for point in ends]
            np.testing.assert_allclose(found, wanted, rtol=0, atol=1e-9)
            self.assertAlmostEqual(float(pose.world_of("p")[1, 1]), 0.85, places=9)

    def spanned(self, ends, first, second, numbers):
        rule = Span(id="c", name="Span", first=Goal(part="a"), second=Goal(part="b"), points=ends)
        part = Part("p", "Hair", pivot=(7.0, 3.0, 0.0), rest={"turn.z": 40.0})
        scene = Scene("s", "S", parts=(helper("a", *first), helper("b", *second), part))
        scene = applied(scene, [Constrain("p", rule, numbers)])
        return scene, evaluate(scene, [0.0])

    def test_nothing_goes_through_a_line(self):
        box = (0.0, 0.0, 40.0, 40.0)
        outline = (((0.0, 0.0), (40.0, 0.0), (40.0, 40.0), (0.0, 40.0)),)
        crate = Part(
            "p", "Crate", drawings=(Drawing("d", "D", "x", box, box, outline=outline),), pivot=(20.0, 20.0, 0.0)
        )
        crate = moving(crate.with_rest({"move.x": 50.0}), y=(0, 200), turn=(0, 300))
        floor = Mark("f", "Floor", (0.0, 120.0))
        rule = StayAbove(id="c", name="Floor", line=Goal(at="mark", named="f"))
        scene = applied(Scene("s", "S", parts=(crate,), marks=(floor,)), [Constrain("p", rule)])
        frames = np.arange(0.0, 11.0)
        pose, free = evaluate(scene, frames), evaluate(Scene("s", "S", parts=(crate,)), frames)
        corners = np.array([(x, y, 0, 1) for x, y in outline[0]])
        lowest, was = (np.einsum("fij,cj->fci", found.world[0], corners)[..., 1].max(axis=1) for found in (pose, free))
        np.testing.assert_allclose(lowest, np.minimum(was, 120.0), rtol=0, atol=1e-9)
        self.assertGreater(float(was.max()), 200)
        below = applied(scene, [ChangeConstraint("p", replace(rule, side=-1))])
        highest = np.einsum("fij,cj->fci", evaluate(below, frames).world[0], corners)[..., 1].min(axis=1)
        self.assertGreaterEqual(float(highest.min()), 120 - 1e-9)


class GraphTests(unittest.TestCase):
    def limb(self):
        parts = arm(0, (100.0, 80.0), (60.0, 90.0))
        names = {"s0": "Body", "u0": "Upper", "f0": "Fore", "h0": "Hand", "g0": "Goal"}
        return Scene("s", "S", parts=tuple(replace(part, name=names[part.id]) for part in parts))

    def test_a_loop_is_refused_with_the_names_round_it(self):
        scene = self.limb()
        for goal in ("f0", "h0"):
            rule = PointAt(id="c", name="Point", goal=Goal(part=goal))
            with self.assertRaisesRegex(RuleError, "close a loop: .*Goal on .*Nothing was changed"):
                applied(scene, [Constrain("g0", rule)])
        with self.assertRaisesRegex(RuleError, "Hand on Hand"):
            applied(scene, [Constrain("h0", PointAt(id="c", name="P", goal=Goal(part="h0")))])

    def test_what_loses_its_goal_goes_with_its_numbers(self):
        scene = self.limb()
        scene = applied(scene, [SetValues(("h0",), {number_channel("r", "weight"): 0.5}, 4.0)])
        after = applied(scene, [DeleteParts(("g0",))])
        self.assertEqual((after.part("h0").constraints, after.part("h0").channels), ((), {}))
        with self.assertRaisesRegex(RuleError, "lose its goal"):
            ensure_sound(replace(scene, parts=scene.parts[:-1]))

    def test_an_arm_reaches_in_one_edit_without_a_jump_and_is_changed_and_freed(self):
        scene = self.limb()
        scene = scene.with_parts([replace(scene.part("h0"), constraints=())])
        scene = scene.with_parts([scene.part("f0").with_rest({"turn.z": 40.0})])
        before = evaluate(scene, [0.0])
        after = applied(scene, [MakeReach("h0", "n")])
        goal = after.parts[-1]
        self.assertEqual((goal.kind, goal.name), ("helper", "Hand goal"))
        np.testing.assert_allclose(evaluate(after, [0.0]).world[:5], before.world, rtol=0, atol=1e-9)
        rule = after.part("h0").constraints[0]
        flipped = applied(after, [ChangeConstraint("h0", replace(rule, bends=-rule.bends))])
        pose = evaluate(flipped, [0.0])
        np.testing.assert_allclose(pose.pivot_of("h0"), before.pivot_of("h0"), rtol=0, atol=1e-9)
        self.assertGreater(float(np.hypot(*(pose.pivot_of("f0") - before.pivot_of("f0"))[:2])), 10)
        freed = applied(flipped, [RemoveConstraint("h0", "n")])
        np.testing.assert_allclose(evaluate(freed, [0.0]).world[:5], before.world, rtol=0, atol=1e-12)

    def test_constraints_act_in_their_order(self):
        scene = Scene("s", "S", parts=(helper("a", 10, 0), helper("b", 0, 30), Part("p", "P")))
        rules = [Follow(id=name, name=name, goal=Goal(part=name), turns=False, scales=False) for name in "ab"]
        scene = applied(scene, [Constrain("p", rule, {"x": 0.0, "y": 0.0}) for rule in rules])
        np.testing.assert_allclose(evaluate(scene, [0.0]).pivot_of("p"), (0, 30, 0), rtol=0, atol=1e-12)
        scene = applied(scene, [OrderConstraint("p", "b", 0)])
        np.testing.assert_allclose(evaluate(scene, [0.0]).pivot_of("p"), (10, 0, 0), rtol=0, atol=1e-12)
        off = applied(scene, [ChangeConstraint("p", replace(scene.part("p").constraints[1], is_on=False))])
        np.testing.assert_allclose(evaluate(off, [0.0]).pivot_of("p"), (0, 30, 0), rtol=0, atol=1e-12)

    def test_copies_refer_to_copies_and_what_is_outside_stays(self):
        scene = self.limb()
        scene = applied(scene, [Duplicate(("s0", "g0"), "c"), Duplicate(("s0",), "d")])
        copies = {part.name: part for part in scene.parts}
        self.assertEqual(copies["Hand 2"].constraints[0].goal.part, copies["Goal 2"].id)
        self.assertEqual(copies["Hand 3"].constraints[0].goal.part, "g0")

    def test_rows_and_documents_hold_them(self):
        scene = constrained(random_scene(11, 7), 11)
        self.assertTrue(any(part.constraints for part in scene.parts))
        self.assertEqual(scene_from_rows("s", scene_rows(scene)), scene)
        for part in scene.parts:
            self.assertEqual(part_from(part_document(part)), part)

    @given(seeds, st.sampled_from(sorted(MIRRORS)))
    @examples(25)
    def test_a_mirrored_copy_of_a_constrained_limb_is_its_reflection_at_all_frames(self, seed, axis):
        random = np.random.default_rng(seed)
        bones, turns = random.uniform(40, 90, 2), random.uniform(-90, 90, 2)
        parts = arm(0, bones, (0.0, 0.0), int(random.choice([-1, 1])), turns, random.normal(size=2) * 20, (1.0, 1.3))
        goal = moving(replace(helper("g0", *random.uniform(-80, 80, 2)), parent="s0"), x=random.normal(size=3) * 30)
        eye = Part("e", "Eye", parent="f0", rest={"move.x": 30.0, "turn.z": 12.0})
        eye = replace(eye, constraints=(PointAt(id="c", name="P", goal=Goal(part="g0")),))
        eye = eye.with_rest({number_channel("c", "offset"): float(random.uniform(-40, 40))})
        body = Part("body", "Body", rest={"move.x": 300.0, "move.y": 200.0})
        parts[0] = replace(parts[0], parent="body")
        parts[1] = moving(parts[1], turn=random.uniform(-60, 60, 4))
        (rule,) = parts[3].constraints
        changes = (ReachChange(7.0, "turn"), ReachChange(21.0, "reach")) if seed % 2 else ()
        rule = replace(rule, changes=changes, keeps_area=seed % 3 == 0, keeps_turn=seed % 5 == 0)
        parts[3] = replace(parts[3], constraints=(rule,)).with_rest({number_channel("r", "stretch"): 1.3})
        track = Part("t", "Track", "shape", "s0", (shape_drawing("d", "D", Ellipse((20.0, 0.0), (60.0, 25.0))),))
        leaf = replace(helper("l"), parent="s0", constraints=(AlongPath(id="c", name="A", goal=Goal(part="t")),))
        numbers = {"along": 0.2, "beside": 6.0, "turn": 35.0, "ahead": 8.0}
        leaf = leaf.with_rest({number_channel("c", name): value for name, value in numbers.items()})
        bead = replace(moving(helper("p", 12.0, 30.0), x=(0, 20, 5), turn=(0, 40, 0)), parent="s0")
        bead = replace(bead, constraints=(Carry(id="c", name="C", holds=(Hold(5.0, "f0"), Hold(19.0, "g0"))),))
        scene = ensure_sound(Scene("s", "S", parts=(body, *parts[:-1], goal, eye, track, leaf, bead)))
        scene = applied(scene, [MirroredCopy(("s0",), "m", axis, about=(300.0, 200.0))])
        pose = evaluate(scene, FRAMES)
        flip = MIRRORS[axis].copy()
        centre = np.array([300.0, 200.0, 0.0, 0.0])
        flip[:3, 3] = (centre - flip @ centre)[:3]
        originals = ["s0", *descendants(scene, "s0")]
        for number, part_id in enumerate(sorted(originals, key=lambda found: scene.index[found])):
            copy = pose.world[pose.index[f"m{number}"]]
            np.testing.assert_allclose(copy, flip @ pose.world[pose.index[part_id]], rtol=0, atol=1e-9, err_msg=part_id)

    @given(seeds)
    @examples(25)
    def test_another_registration_moves_no_goal_and_no_constrained_part(self, seed):
        scene = constrained(random_scene(seed, 6), seed)
        part = scene.parts[seed % 6].id
        after = applied(scene, [MoveRegistration(part, (13.0, -8.0), "art", "art")])
        before, now = (evaluate(found, FRAMES) for found in (scene, after))
        size = max(1.0, float(np.abs(before.pivot).max()))
        np.testing.assert_allclose(now.pivot, before.pivot, rtol=0, atol=1e-8 * size)

    @given(seeds, st.data())
    @examples(30)
    def test_random_graphs_and_edits_give_numbers_and_no_loop(self, seed, data):
        scene = constrained(random_scene(seed, 7, is_deep=seed % 4 == 0), seed)
        for _ in range(4):
            try:
                scene = applied(scene, [data.draw(edit_for(scene))])
            except RuleError:
                continue
            self.assert_numbers(scene)

    @given(seeds, st.data())
    @examples(8)
    def test_every_kind_of_edit_on_a_random_graph_gives_numbers_or_a_refusal(self, seed, data):
        scene = constrained(cornered_scene(seed) if seed % 2 else random_scene(seed, is_deep=seed % 4 == 0), seed)
        for edit in data.draw(edits_for(scene)):
            try:
                after = applied(scene, [edit])
                edit.remark(scene)
            except RuleError:
                continue
            self.assert_numbers(after)

    def assert_numbers(self, scene):
        pose = evaluate(scene, FRAMES)
        self.assertTrue(np.isfinite(pose.world).all() and np.isfinite(pose.pivot).all())


class LeadTests(unittest.TestCase):
    def test_moving_a_hand_that_reaches_moves_its_goal_and_no_bone_changes_its_length(self):
        scene = Scene("s", "S", parts=tuple(arm(0, (60.0, 50.0), (70.0, 30.0))))
        after = applied(scene, [Lead(("h0",), (12.0, -9.0))])
        np.testing.assert_allclose(evaluate(after, [0.0]).pivot_of("h0")[:2], (82.0, 21.0), rtol=0, atol=1e-9)
        self.assertEqual(after.part("h0").rest, scene.part("h0").rest)
        turned = applied(scene, [MatchReach("h0", "r", "turn", 5.0), Lead(("h0",), (3.0, 4.0), frame=8.0)])
        self.assertEqual(set(turned.part("h0").channels), {"move.x", "move.y"})

    def test_a_spanned_piece_is_moved_by_the_end_that_is_nearer_to_the_hand(self):
        rule = Span(id="s", name="Span", first=Goal(part="a"), second=Goal(part="b"), points=((0, 0, 0), (90, 0, 0)))
        hair = replace(helper("hair"), constraints=(rule,))
        scene = Scene("s", "S", parts=(helper("a", 0.0, 0.0), helper("b", 90.0, 0.0), hair))
        for at, moved in (((70.0, 3.0), {"b"}), ((10.0, 3.0), {"a"}), (None, {"a", "b"})):
            after = applied(scene, [Lead(("hair",), (0.0, 5.0), at)])
            self.assertEqual({part.id for part in after.parts if part is not scene.part(part.id)}, moved)
        marks = (Mark("m", "Mark", (0.0, 0.0)),)
        held = replace(rule, first=Goal(at="mark", named="m"))
        scene = replace(scene, marks=marks).with_parts([replace(hair, constraints=(held,))])
        with self.assertRaisesRegex(RuleError, "held by a mark"):
            applied(scene, [Lead(("hair",), (0.0, 5.0), (1.0, 1.0))])
