"""Limbs that reach where rules meet: made, copied, pasted, split and mirrored, below what is uneven, within ranges."""

import unittest
from dataclasses import replace

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.constraints.along_path import AlongPath
from jointed_crane.core.constraints.between import Between
from jointed_crane.core.constraints.carry import Carry, Hold
from jointed_crane.core.constraints.constraint import Goal, number_channel
from jointed_crane.core.constraints.follow import Follow
from jointed_crane.core.constraints.point_at import PointAt
from jointed_crane.core.constraints.reach import Reach, ReachChange
from jointed_crane.core.constraints.span import Span
from jointed_crane.core.constraints.stay_above import StayAbove
from jointed_crane.core.edits import applied
from jointed_crane.core.edits.constraints.changing_hands import MatchReach
from jointed_crane.core.edits.constraints.constraining import Constrain, MakeReach
from jointed_crane.core.edits.pictures.fusing import Split, layers
from jointed_crane.core.edits.placing.poses import SetValues
from jointed_crane.core.edits.placing.settling import Settle
from jointed_crane.core.edits.scene.copies import Duplicate, Paste
from jointed_crane.core.edits.scene.mirrored_copies import MirroredCopy
from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.hierarchy.tree import descendants
from jointed_crane.core.model.forms import Ellipse
from jointed_crane.core.model.scene import Drawing, Inherits, Mark, Part, Scene
from jointed_crane.core.motion.channel import Channel, Key
from jointed_crane.core.shapes.picture import shape_drawing
from jointed_crane.core.soundness.whole_scene import ensure_sound
from tests.constrained_rigs import MIRRORS, arm, helper, moving
from tests.strategies import STUB_NAME, examples, seeds

FRAMES = np.arange(0.0, 32.0, 2.5)


def drawn_as(name):
    return Drawing(name, name, STUB_NAME, (0.0, 0.0, 40.0, 40.0), (0.0, 0.0, 40.0, 40.0))


def tail(random, count, is_uneven=False):
    """A chain of parts that turn, the first on a body, and its tip."""
    scales = random.uniform(0.6, 1.5, (count + 1, 2)) if is_uneven else np.ones((count + 1, 2))
    parts = [Part("p0", "Body", rest={"move.x": 50.0, "scale.y": 1.3 if is_uneven else 1.0, "turn.z": 20.0})]
    for place in range(count):
        rest = {"move.x": float(random.uniform(30, 60)) if place else 10.0, "turn.z": float(random.uniform(-50, 50))}
        rest |= {"scale.x": float(scales[place, 0]), "scale.y": float(scales[place, 1])}
        joint = Part(f"p{place + 1}", f"Joint {place}", parent=f"p{place}", rest=rest)
        parts.append(moving(joint, turn=random.uniform(-40, 40, 4)))
    return [*parts, Part("tip", "Tip", parent=f"p{count}", rest={"move.x": 40.0})]


class MadeChainTests(unittest.TestCase):
    @given(seeds, st.integers(1, 6), st.booleans(), st.sampled_from([None, 0.0, 13.0]))
    @examples(20)
    def test_nothing_moves_when_a_chain_begins_to_reach_and_settling_changes_no_frame(self, seed, count, uneven, frame):
        random = np.random.default_rng(seed)
        parts = tail(random, count, uneven)
        if seed % 3 == 0:
            parts[1] = replace(parts[1], inherits=Inherits(scale=False))  # no chain goes on above it
        scene = Scene("s", "S", parts=tuple(parts))
        edit = MakeReach("tip", "r", joints=int(random.integers(1, 8)), frame=frame)
        if seed % 3 == 0 and count == 1:
            self.assertRaises(RuleError, applied, scene, [edit])
            return
        after = applied(scene, [edit])
        now = [0.0] if frame is None else [frame]
        was, shown = (evaluate(known.at_rest if frame is None else known, now) for known in (scene, after))
        np.testing.assert_allclose(shown.world[: len(parts)], was.world, rtol=0, atol=1e-7)
        settled = applied(after, [Settle(13.0, ("p1", f"p{count}"))])
        before, later = (evaluate(known, FRAMES).pivot for known in (after, settled))
        np.testing.assert_allclose(later, before, rtol=0, atol=1e-6)

    def test_a_chain_that_was_given_no_pose_goes_by_the_one_that_it_has(self):
        parts = [replace(part, channels={}) for part in tail(np.random.default_rng(6), 4)]
        free = evaluate(Scene("s", "S", parts=tuple(parts)), [0.0])
        x, y, _ = free.pivot_of("tip")
        off = []
        for side in (1, -1):
            reach = Reach(id="r", name="R", goal=Goal(part="g"), joints=4, bends=side)
            tip = replace(parts[-1], constraints=(reach,))
            scene = ensure_sound(Scene("s", "S", parts=(*parts[:-1], tip, helper("g", x, y))))
            pose = evaluate(scene, [0.0])
            np.testing.assert_allclose(pose.pivot_of("tip"), (x, y, 0), rtol=0, atol=1e-8)
            off.append(float(np.abs(pose.world[: len(parts)] - free.world).max()))
        self.assertLess(min(off), 1e-7)
        self.assertGreater(max(off), 1.0)  # it bends to the other side where that is asked for

    def test_a_joint_is_turned_by_the_first_in_the_tree_and_the_others_have_what_is_left(self):
        parts = tail(np.random.default_rng(1), 4)
        scene = Scene("s", "S", parts=(*parts, helper("g", 90, 70), helper("o", 60, -80)))
        scene = applied(scene, [Constrain("p3", Reach(id="a", name="A", goal=Goal(part="g"), joints=2))])
        alone = evaluate(scene, FRAMES)
        both = applied(scene, [Constrain("tip", Reach(id="b", name="B", goal=Goal(part="o"), joints=4))])
        pose = evaluate(both, FRAMES)
        for part in ("p1", "p2", "p3"):
            np.testing.assert_allclose(pose.pivot[pose.index[part]], alone.pivot[alone.index[part]], rtol=0, atol=1e-9)
        with self.assertRaisesRegex(RuleError, "turns for another part that reaches already"):
            applied(both, [MakeReach("p3", "c", 2)])

    def test_hands_take_over_with_keys_that_change_nothing_and_what_is_turned_later_moves_nothing_before(self):
        parts = arm(0, (60.0, 50.0), (70.0, 30.0), turns=(10.0, 40.0))
        parts[4] = moving(parts[4], x=(70.0, 20.0, 60.0, 0.0))
        parts[1] = moving(parts[1], turn=(0, 30, -20, 10))
        parts[3] = replace(parts[3], constraints=(replace(parts[3].constraints[0], keeps_turn=True),))
        scene = ensure_sound(Scene("s", "S", parts=tuple(parts)))
        edit = MatchReach("h0", "r", "turn", 13.0)
        after = applied(scene, [edit])
        self.assertEqual(
            edit.remark(scene), "Turn of U0 and F0: a key at frame 13 from which hands go on; nothing moves by it."
        )
        turned = applied(after, [SetValues(("f0",), {"turn.z": 25.0}, 25.0)])
        frames = np.array([0.0, 6.0, 12.0, 13.0])
        was = evaluate(scene, frames).world
        for known in (after, turned):
            np.testing.assert_allclose(evaluate(known, frames).world, was, rtol=0, atol=1e-9)
        before, now = (evaluate(known, [19.0, 25.0]).pivot_of("h0", 1) for known in (after, turned))
        self.assertGreater(float(np.hypot(*(now - before)[:2])), 5.0)

    def test_children_of_a_hand_that_keeps_its_turn_lie_as_they_would_without_reaching(self):
        for changes in ((), (ReachChange(6.0, "turn"), ReachChange(17.0, "reach"))):
            parts = arm(0, (60.0, 50.0), (70.0, 30.0), turns=(10.0, 40.0))
            parts[1] = moving(parts[1], turn=(0, 30, -20))
            (reach,) = parts[3].constraints
            parts[3] = replace(parts[3], constraints=(replace(reach, keeps_turn=True, changes=changes),))
            kids = [Part(f"k{n}", f"Kid {n}", parent="h0", inherits=Inherits(scale=n > 0)) for n in range(2)]
            pose = evaluate(ensure_sound(Scene("s", "S", parts=(*parts, *kids))), FRAMES)
            bare, full = (pose.world[pose.index[kid], :, :3, :3] for kid in ("k0", "k1"))
            np.testing.assert_allclose(bare, full, rtol=0, atol=1e-9)


class UnevenStageTests(unittest.TestCase):
    """Arms below what is scaled unequally: what is nearest and how far they stretch is said by the stage."""

    def drawn(self, random, goal, **numbers):
        parts = arm(0, (60.0, 50.0), goal, int(random.choice([-1, 1])), random.uniform(-90, 90, 2), scale=(1.0, 2.2))
        parts[0] = parts[0].with_rest({"shear.xy": float(random.uniform(-0.6, 0.6))})
        rest = {number_channel("r", name): value for name, value in numbers.items()}
        parts[3] = parts[3].with_rest(rest)
        return parts

    def test_an_end_out_of_reach_is_as_near_as_any_turns_bring_it_also_within_ranges(self):
        random = np.random.default_rng(8)
        turns = np.deg2rad(np.linspace(-180, 180, 241))
        for case in range(40):
            parts = self.drawn(random, random.uniform(-400, 400, 2))
            if case % 2:
                limits = [{"turn.z": (-float(a), float(b))} for a, b in random.uniform(20, 120, (2, 2))]
                parts[1:3] = [replace(part, limits=own) for part, own in zip(parts[1:3], limits, strict=True)]
            pose = evaluate(ensure_sound(Scene("s", "S", parts=tuple(parts))), [0.0])
            miss = float(np.hypot(*(pose.pivot_of("h0") - pose.pivot_of("g0"))[:2]))
            above = pose.world_of("s0")[:2, :2]
            first, second = np.meshgrid(turns, turns)
            ranges = [part.limits.get("turn.z", (-180.0, 180.0)) for part in parts[1:3]]
            rest = [np.deg2rad(part.rest_value("turn.z")) for part in parts[1:3]]
            is_there = np.ones(first.shape, dtype=bool)
            for turn, (low, high) in zip((first, second), ranges, strict=True):
                is_there &= (turn >= np.deg2rad(low)) & (turn <= np.deg2rad(high))
            a = rest[0] + first
            b = a + rest[1] + second
            ends = above @ np.array([60 * np.cos(a) + 50 * np.cos(b), 60 * np.sin(a) + 50 * np.sin(b)]).reshape(2, -1)
            bend = (b - a + np.pi) % (2 * np.pi) - np.pi
            is_asked = is_there & (bend * parts[3].constraints[0].bends <= 0)
            is_there = is_asked if is_asked.any() else is_there
            off = np.hypot(*(ends - pose.pivot_of("g0")[:2, None])).reshape(first.shape)
            self.assertLess(miss, float(off[is_there].min()) + (1.0 if case % 2 and miss < 5 else 0.02), case)

    def test_what_may_stretch_comes_to_its_goal_at_any_side(self):
        random = np.random.default_rng(9)
        for _ in range(20):
            goal = random.uniform(-500, 500, 2)
            pose = evaluate(Scene("s", "S", parts=tuple(self.drawn(random, goal, stretch=20.0))), [0.0])
            np.testing.assert_allclose(pose.pivot_of("h0")[:2], goal, rtol=0, atol=1e-8)

    def test_ranges_hold_after_hands_have_turned_and_the_chain_reaches_again(self):
        random = np.random.default_rng(10)
        for count in (2, 2, 3, 4):
            parts = tail(random, count)
            parts[2] = replace(parts[2], channels={}, limits={"turn.z": (-60.0, 60.0)})
            goal = moving(helper("g", 80, 40), x=random.uniform(-200, 200, 4), y=random.uniform(-200, 200, 4))
            changes = (ReachChange(5.0, "turn"), ReachChange(9.0, "reach"))
            reach = Reach(id="r", name="R", goal=Goal(part="g"), joints=count, changes=changes)
            scene = applied(Scene("s", "S", parts=(*parts, goal)), [Constrain("tip", reach)])
            pose = evaluate(scene, np.arange(0.0, 30.0, 0.5))
            above, own = (pose.world[pose.index[part]] for part in ("p1", "p2"))
            own, above = (np.rad2deg(np.arctan2(world[:, 1, 0], world[:, 0, 0])) for world in (own, above))
            turn = (own - above - parts[2].rest_value("turn.z") + 180) % 360 - 180
            self.assertLess(float(np.abs(turn).max()), 60.0 + 1e-6)


class CopiedChainTests(unittest.TestCase):
    def limb(self):
        parts = arm(0, (60.0, 50.0), (70.0, 30.0), turns=(10.0, -40.0))
        parts[3] = replace(parts[3], drawings=(drawn_as("d"),), kind="drawing")
        return Scene("s", "S", parts=tuple(parts))

    def test_ends_without_their_joints_take_no_reach_along_and_say_so(self):
        scene = self.limb()
        before = evaluate(scene, [0.0])
        piece = replace(scene.part("h0").drawings[0], id="e", name="E")
        for edit in (
            Duplicate(("h0",), "c"),
            Paste((scene.part("h0"),), "c"),
            Split("h0", (scene.part("h0").drawings[0], piece), "c"),
            MirroredCopy(("h0",), "c", "level", about=tuple(before.pivot_of("h0")[:2])),
        ):
            after = applied(scene, [edit])
            pose = evaluate(after, [0.0])
            np.testing.assert_allclose(pose.pivot_of("h0"), before.pivot_of("h0"), rtol=0, atol=1e-9)
            (copy,) = (part for part in after.parts if part.id not in scene.index)
            self.assertEqual(copy.constraints, ())
            np.testing.assert_allclose(pose.pivot_of(copy.id), before.pivot_of("h0"), rtol=0, atol=1e-9)
            if not isinstance(edit, Split):
                self.assertEqual(
                    edit.remark(scene), "The copy of H0 takes no reach along: its joints were not copied with it."
                )

    def test_a_limb_is_pasted_where_its_goal_is_not_and_rests_as_it_does_by_itself(self):
        scene = self.limb()
        other = Scene("o", "Other")
        edit = Paste(scene.parts[:4], "c")
        after = applied(other, [edit])
        free = evaluate(scene.with_parts([replace(scene.part("h0"), constraints=())]), [0.0])
        pose = evaluate(after, [0.0])
        for place in range(4):
            np.testing.assert_allclose(pose.world_of(f"c{place}"), free.world[place, 0], rtol=0, atol=1e-9)
        (reach,) = after.part("c3").constraints
        self.assertEqual(after.part(reach.goal.part).kind, "helper")
        self.assertEqual(edit.remark(other), "H0 reaches for a helper of its own: the goal is not in this scene.")

    def test_what_a_constraint_or_a_link_moves_is_not_fused_away(self):
        scene = self.limb()
        scene = scene.with_parts([replace(scene.part("f0"), drawings=(drawn_as("f"),), kind="drawing")])
        with self.assertRaisesRegex(RuleError, "Reach moves H0; fused, it could no longer move by itself"):
            layers(scene, ("h0", "f0"), 0.0)


class MirroredLimbTests(unittest.TestCase):
    RULES = {
        "between": Between(id="c", name="C", goals=(Goal(part="a"), Goal(part="b")), turns=True, is_shortest=False),
        "above": StayAbove(id="c", name="C", line=Goal(part="a"), point=(0.0, 0.0, 0.0)),
        "above what lies outside": StayAbove(id="c", name="C", line=Goal(part="o"), point=(0.0, 0.0, 0.0)),
        "above a line to outside": StayAbove(id="c", name="C", line=Goal(part="a"), towards=Goal(part="o")),
        "span": Span(id="c", name="C", first=Goal(part="b"), second=Goal(part="o"), points=((0, 0, 0), (9.0, 2.0, 0))),
        "reach": Reach(id="c", name="C", goal=Goal(part="o")),
        "reach for a mark": Reach(id="c", name="C", goal=Goal(at="mark", named="m")),
        "above a plane": StayAbove(id="c", name="C", line=Goal(part="a"), point=(0.0, 0.0, 0.0), plane=True),
        "point": PointAt(id="c", name="C", goal=Goal(part="a"), along="y"),
        "front": PointAt(id="c", name="C", goal=Goal(part="b"), along="front"),
        "follow": Follow(id="c", name="C", goal=Goal(part="a")),
        "carry": Carry(id="c", name="C", holds=(Hold(5.0, "a"), Hold(19.0, "b"))),
        "path": AlongPath(id="c", name="C", goal=Goal(part="t")),
    }
    #: How the parent of the limb and what is in it lie: in the plane of the stage, or out of it.
    DEPTHS = ("flat", "deep in a level parent", "deep in a tilted parent")

    @given(
        seeds, st.sampled_from(sorted(RULES)), st.sampled_from(sorted(MIRRORS)), st.sampled_from(DEPTHS), st.booleans()
    )
    @examples(90)
    def test_copies_are_the_reflections_whatever_says_where_they_lie(self, seed, kind, axis, depth, alone):
        random = np.random.default_rng(seed)
        scene, rule = self.drawn(random, depth), self.RULES[kind]
        spread = {"deg": 50.0, "px": 9.0}
        numbers = {one.name: random.uniform(-1, 1) * spread[one.unit] for one in rule.NUMBERS if one.unit in spread}
        numbers["weight"] = float(random.choice([1.0, 0.6])) if kind in ("point", "follow", "carry") else 1.0
        end = scene.part("end").with_rest({number_channel("c", name): float(value) for name, value in numbers.items()})
        scene = ensure_sound(scene.with_parts([replace(end, constraints=(rule,))]))
        roots = ("a", "b", "end") if alone and kind == "between" else ("root",)
        about = None if len(roots) > 1 or "tilted" in depth else (300.0, 200.0)
        edit = MirroredCopy(roots, "m", axis, about=about, frame=0.0)
        if rule.heading is not None and "tilted" in depth:
            with self.assertRaisesRegex(RuleError, r"^C of End goes by the [yz] of the stage, .* leans at frame 0:"):
                applied(scene, [edit])
            return
        after = applied(scene, [edit])
        flip = MIRRORS[axis].copy()
        # Keys of a goal outside are mirrored too where the axis lies along what it moves in.
        moves = any(goal.part == "o" for goal in rule.every_goal()) and "tilted" in depth
        pose = evaluate(after, FRAMES[:1] if moves else FRAMES)
        if about is None:
            parent = pose.world[pose.index[scene.part(roots[0]).parent]]
            flip = parent @ flip @ np.linalg.inv(parent)
        else:
            centre = np.array([*about, 0.0, 0.0])
            flip[:3, 3] = (centre - flip @ centre)[:3]
        originals = {*roots, *(below for root in roots for below in descendants(scene, root))}
        for number, part_id in enumerate(sorted(originals, key=lambda found: scene.index[found])):
            copy, wanted = pose.world[pose.index[f"m{number}"]], flip @ pose.world[pose.index[part_id]]
            np.testing.assert_allclose(copy, wanted, rtol=0, atol=1e-8, err_msg=part_id)
        outside = [{"o": "O", None: "Pole"}[goal.part] for goal in rule.every_goal() if goal.part in ("o", None)]
        said = [
            f"{name} lies outside: a mirrored goal is made for the copy, as it lies at frame 0." for name in outside
        ]
        self.assertEqual(edit.remark(scene), *(said or [None]))

    def test_a_limb_on_a_body_that_pops_up_from_nothing_is_mirrored_with_what_points(self):
        scene = self.drawn(np.random.default_rng(3), "flat")
        grown = Channel((Key(0.0, 0.0), Key(20.0, 1.0)))
        body = replace(scene.part("body"), channels={"scale.x": grown, "scale.y": grown})
        scene = scene.with_parts([body, replace(scene.part("end"), constraints=(self.RULES["point"],))])
        after = applied(scene, [MirroredCopy(("root",), "m", frame=20.0)])
        for frame in (8.0, 30.0):
            pose = evaluate(after, [frame])
            seen, copy = (pose.pivot_of(part_id)[0] - 300.0 for part_id in ("kid", f"m{scene.index['kid'] - 1}"))
            self.assertAlmostEqual(copy, -seen, places=9)

    @staticmethod
    def drawn(random, depth):
        """A limb that turns, with two helpers, a track and an end in it, and a helper and a mark outside."""

        def lying(most, tilt=0.0 if depth == "flat" else 70.0):
            turns = random.uniform(-1, 1, 3) * (tilt, tilt, most)
            return tuple(Rotation.from_euler("XYZ", turns, degrees=True).as_quat().tolist())

        body = Part("body", "Body", rest={"move.x": 300.0, "move.y": 200.0})
        if "tilted" in depth:
            body = replace(body, orientation=lying(0.0))
        root = moving(Part("root", "Root", parent="body", orientation=lying(0.0)), turn=random.uniform(-60, 60, 4))
        inside = [
            replace(moving(helper(name, *at), turn=random.uniform(-500, 500, 3)), parent="root",
                    orientation=lying(180.0))
            for name, at in (("a", (40, 10)), ("b", (-30, 50)))
        ]  # fmt: skip
        drawing = shape_drawing("d", "D", Ellipse((20.0, 0.0), (60.0, 25.0)))
        inside.append(Part("t", "Track", "shape", "root", (drawing,), orientation=lying(0.0)))
        if random.random() < 0.5:
            inside[1] = inside[1].with_rest({"scale.x": -1.0})
        joint = replace(moving(helper("j", 30, 10), turn=random.uniform(-60, 60, 3)), parent="root")
        end = replace(helper("end", 60, 5), parent="j")
        below = Part("kid", "Kid", parent="end", rest={"move.x": 30.0})
        other = moving(helper("o", *random.uniform(100, 300, 2)), x=random.normal(size=3) * 20)
        marks = (Mark("m", "Pole", (120.0, 90.0)),)
        parts = (body, root, *inside, joint, end, below, other)
        return Scene("s", "S", parts=parts, marks=marks, depth=depth != "flat")
