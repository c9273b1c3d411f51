import pkgutil
import unittest
from dataclasses import replace

from jointed_crane.core import checks
from jointed_crane.core.checks import CHECKS, findings
from jointed_crane.core.constraints.along_path import AlongPath
from jointed_crane.core.constraints.constraint import Goal
from jointed_crane.core.constraints.follow import Follow
from jointed_crane.core.constraints.point_at import PointAt
from jointed_crane.core.constraints.reach import Reach
from jointed_crane.core.edits import applied
from jointed_crane.core.edits.joints.eyelets import AddEyelet
from jointed_crane.core.edits.joints.limiting import SetLimits
from jointed_crane.core.edits.pictures.boxes import AddBox
from jointed_crane.core.edits.pictures.making_shapes import AddShape
from jointed_crane.core.edits.placing.poses import MoveAlong, SetValues
from jointed_crane.core.edits.scene.bench_state import SilenceFinding
from jointed_crane.core.edits.scene.cameras import AddCamera
from jointed_crane.core.model.forms import Rectangle, Text
from jointed_crane.core.model.levers import Lever
from jointed_crane.core.model.scene import Drawing, Foothold, Part, Scene
from jointed_crane.core.shapes.picture import shape_drawing
from jointed_crane.core.viewing.view import from_around
from tests.core.test_joints import part
from tests.demo_library import demo_scenes

FONTS = frozenset({"Hanken Grotesk"})


def scene(*parts):
    return Scene("s", "S", parts=parts, length=30)


def capsule(name, radius, **fields):
    """A limb of length 100 with round ends about 0, 0 and 100, 0."""
    shape = Rectangle((-radius, -radius, 100 + radius, radius), radius)
    return replace(part(name, **fields), drawings=(shape_drawing("d", "D", shape),))


class CheckTests(unittest.TestCase):
    def only(self, found, check):
        """The one finding of a check; no other check may find anything."""
        got = findings(found, FONTS)
        self.assertEqual([finding.check for finding in got], [check])
        return got[0]

    def mended(self, found, check):
        finding = self.only(found, check)
        self.assertTrue(finding.mend)
        after = applied(found, finding.mend)
        self.assertEqual(findings(after, FONTS), [])
        return finding

    def test_a_sound_rig_gives_no_finding(self):
        self.assertEqual(findings(scene(part("A"), part("B", parent="A")), FONTS), [])

    def test_a_pivot_far_from_its_art(self):
        finding = self.only(
            scene(part("A", pivot=(140.0, 20.0, 0.0), rest={"move.x": 140.0})), "Pivot far from its art"
        )
        self.assertEqual(finding.number, 100)

    def test_footholds_that_constraints_overrule(self):
        held = part("A", footholds=(Foothold(4.0, (10.0, 0.0, 0.0)),))
        self.assertEqual(findings(scene(held, part("B")), FONTS), [])
        follow = Follow(id="c", name="Follow B", goal=Goal(part="B"), position=True, turns=False, scales=False)
        finding = self.only(scene(replace(held, constraints=(follow,)), part("B")), "Foothold overruled")
        self.assertIn("Follow B says where A lies", finding.sentence)
        points = PointAt(id="c", name="Point", goal=Goal(part="B"))
        self.assertEqual(
            findings(scene(replace(held, constraints=(points,)), part("B", rest={"move.x": 30.0})), FONTS), []
        )

    def test_a_childs_pivot_off_its_eyelet(self):
        rig = scene(part("A"), part("B", parent="A", rest={"move.x": 3.0, "move.y": 4.0}))
        finding = self.mended(applied(rig, [AddEyelet("A", "e", (0.0, 0.0), name="B")]), "Joint open")
        self.assertAlmostEqual(finding.number, 5)

    def test_a_parent_with_unequal_scale_skews_a_turned_child(self):
        rig = scene(part("A", rest={"scale.x": 2.0}), part("B", parent="A", rest={"turn.z": 45.0}))
        # Columns (2, 1) and (-2, 1) meet at 126.87 degrees: 36.87 off the right angle.
        self.assertAlmostEqual(self.only(rig, "Skewed by its parent").number, 36.8699, places=3)
        straight = scene(part("A", rest={"scale.x": 2.0}), part("B", parent="A", rest={"turn.z": 90.0}))
        self.assertEqual(findings(straight, FONTS), [])

    def test_one_skew_is_one_finding_however_long_the_limb(self):
        limb = (
            part("A", rest={"scale.x": 2.0}),
            part("B", parent="A", rest={"turn.z": 20.0}),
            part("C", parent="B", rest={"turn.z": 20.0}),
            part("D", parent="C", rest={"turn.z": 50.0}),
        )
        finding = self.only(scene(*limb), "Skewed by its parent")
        self.assertEqual(finding.part, "B")
        self.assertIn("B and 1 on it are skewed, C most", finding.sentence)
        sheared = scene(part("A", rest={"shear.xy": 0.4}), part("B", parent="A"))
        self.assertEqual(findings(sheared, FONTS), [])

    def test_a_scaled_helper_is_mended_without_moving_its_children(self):
        helper = replace(part("A"), kind="helper", drawings=(), rest={"scale.x": 2.0, "scale.y": 2.0})
        self.mended(scene(helper, part("B", parent="A")), "Helper scaled")
        keyed = applied(scene(helper, part("B", parent="A")), [SetValues(("B",), {"move.x": 3.0}, 5.0)])
        self.assertEqual(self.only(keyed, "Helper scaled").mend, ())

    def test_the_same_name_twice(self):
        self.mended(scene(part("Arm"), replace(part("B"), name="arm")), "Same name twice")

    def test_a_part_without_a_picture(self):
        self.mended(scene(part("A"), replace(part("B"), drawings=())), "Part without a picture")

    def test_a_picture_outside_the_stage_at_every_frame(self):
        outside = part("A", rest={"move.x": 1300.0})
        self.assertEqual(self.only(scene(outside), "Outside the stage").number, 20)
        comes_in = applied(
            scene(outside), [SetValues(("A",), {"move.x": -200.0}, 25.0), SetValues(("A",), {"move.x": 0.0}, 0.0)]
        )
        self.assertEqual(findings(comes_in, FONTS), [])

    def test_round_ends_of_different_radius(self):
        arm, hand = capsule("A", 20.0, rest={"move.x": 300.0, "move.y": 300.0}), capsule("B", 14.0, parent="A")
        hand = hand.with_rest({"move.x": 100.0})
        self.assertAlmostEqual(self.only(scene(arm, hand), "Round ends differ").number, 6.0, delta=0.1)
        equal = capsule("B", 20.0, parent="A").with_rest({"move.x": 100.0})
        self.assertEqual(findings(scene(arm, equal), FONTS), [])
        in_the_middle = hand.with_rest({"move.x": 50.0})
        self.assertEqual(findings(scene(arm, in_the_middle), FONTS), [])

    def test_a_missing_font(self):
        contours = shape_drawing("x", "X", Rectangle((0.0, 0.0, 9.0, 9.0)))
        text = Text("Lock", "Hanken Grotesk")
        drawing = replace(contours, shape=text)
        known = replace(part("A"), kind="text", drawings=(drawing,))
        self.assertEqual(findings(scene(known), FONTS), [])
        lost = replace(known, drawings=(replace(drawing, shape=replace(text, font="0" * 64)),))
        self.only(scene(lost), "Font missing")

    def test_a_part_that_is_never_seen(self):
        self.only(scene(part("A", rest={"shown": 0.0})), "Never seen")
        self.only(scene(part("A", rest={"opacity": 0.0})), "Never seen")

    def test_a_value_outside_its_range(self):
        rig = applied(
            scene(part("A")), [SetValues(("A",), {"turn.z": 50.0}, 5.0), SetLimits(("A",), "turn.z", -10, 45)]
        )
        finding = self.mended(rig, "Outside its range")
        self.assertEqual((finding.number, finding.unit), (5, "deg"))
        self.assertIn("Turn of A is 50", finding.sentence)

    def test_each_finding_can_be_silenced_for_a_part(self):
        rig = scene(part("A", rest={"shown": 0.0}), replace(part("B"), drawings=()))
        after = applied(rig, [SilenceFinding(("A",), "Never seen")])
        self.assertEqual([finding.part for finding in findings(after, FONTS)], ["B"])

    def test_nothing_is_found_in_the_demo(self):
        for rig, _ in demo_scenes():
            self.assertEqual(findings(rig, frozenset()), [], rig.name)

    def test_helpers_and_references_are_not_looked_at_for_pictures(self):
        reference = replace(part("A", rest={"move.x": 5000.0}), kind="reference")
        self.assertEqual(findings(scene(reference), FONTS), [])

    def test_an_edge_of_a_box_that_does_not_meet_is_said_with_its_gap(self):
        box = applied(Scene("s", "Box"), [AddBox("b")])
        self.assertEqual(findings(box, FONTS), [])
        open_box = applied(box, [MoveAlong(("b-4",), "z", 3.0, "own")])
        (finding,) = findings(open_box, FONTS)
        self.assertEqual((finding.check, finding.part, finding.unit), ("Edge open", "b-4", "px"))
        self.assertAlmostEqual(finding.number, 3.0)

    def test_a_camera_sees_what_lies_beside_the_stage(self):
        beside = part("A", rest={"move.x": -900.0})
        self.assertEqual([one.check for one in findings(scene(beside), FONTS)], ["Outside the stage"])
        aside = from_around((-900.0, 0.0, 0.0), 0.0, 0.0, 900.0)
        self.assertEqual(findings(applied(scene(beside), [AddCamera("c", view=aside)]), FONTS), [])
        away = from_around((9000.0, 0.0, 0.0), 180.0, 0.0, 900.0)
        seen = findings(applied(scene(beside), [AddCamera("c", view=away)]), FONTS)
        self.assertEqual([one.check for one in seen], ["Outside the stage"])

    def test_every_check_has_a_name_of_its_own(self):
        names = [check.NAME for check in CHECKS]
        self.assertEqual(len(set(names)), len(names))
        found = pkgutil.walk_packages(checks.__path__, f"{checks.__name__}.")
        modules = {module.name for module in found if not module.ispkg} - {f"{checks.__name__}.finding"}
        self.assertEqual({check.__name__ for check in CHECKS}, modules, "every module is in the list")

    def test_a_shape_of_the_apps_own_is_sound(self):
        rig = applied(Scene("s", "S"), [AddShape("r", Rectangle((0.0, 0.0, 100.0, 40.0)), "Crate", (50.0, 60.0))])
        self.assertEqual(findings(rig, FONTS), [])
        self.assertIsInstance(rig.part("r").drawings[0], Drawing)

    def test_a_picture_in_space_whose_back_is_seen(self):
        def seen_from_behind(*parts, check="Seen from behind"):
            found = findings(Scene("s", "S", length=3, parts=parts, depth=True), frozenset())
            return [finding.sentence for finding in found if finding.check == check]

        middle = {"pivot": (20.0, 10.0, 0.0), "rest": {"move.x": 90.0, "move.y": 90.0, "turn.y": 150.0}}
        sign = part("Sign", **middle)
        (sentence,) = seen_from_behind(sign)
        self.assertRegex(sentence, "^Sign is seen from behind, at frame 0 first, and has one side only")
        for face in ({"turn.y": 50.0}, {"turn.y": 20.0, "scale.x": -1.0}):  # mirrored, it shows its face
            self.assertEqual(seen_from_behind(sign.with_rest(face)), [])
        # A picture on its back hides it from there, one that is shown to nobody does not.
        rest = {"turn.y": 180.0, "move.x": 20.0, "move.y": 10.0, "move.z": -0.1}
        back = part("Back", parent="Sign", pivot=sign.pivot, rest=rest)
        self.assertEqual(seen_from_behind(sign, back), [])
        thick = back.with_rest({"move.z": -0.6})  # two sides of one card are no open edge, and along it no back is seen
        self.assertEqual(seen_from_behind(sign, thick, check="Edge open"), [])
        for turn in range(80, 101, 2):
            self.assertEqual(seen_from_behind(sign.with_rest({"turn.y": float(turn)}), thick), [])
        self.assertEqual(len(seen_from_behind(sign, back.with_rest({"opacity": 0.0}))), 1)
        pair = [part(name, parent="Sign", pivot=sign.pivot, rest={"move.y": y}) for name, y in (("A", 90), ("B", 130))]
        self.assertRegex(seen_from_behind(sign, back, *pair)[0], "^B and 1 part beside it are seen from behind")

    def test_a_chain_that_does_not_come_to_its_goal_and_what_does_nothing(self):
        rule = Reach(id="r", name="Reach", goal=Goal(part="goal"))
        parts = [
            part("upper"),
            part("fore", parent="upper", rest={"move.x": 60.0}),
            part("hand", parent="fore", rest={"move.x": 50.0}),
        ]
        hand = replace(parts[2], constraints=(rule,))
        goal = Part("goal", "Goal", "helper", rest={"move.x": 200.0})
        lonely = replace(part("lonely"), constraints=(rule, AlongPath(id="p", name="Along", goal=Goal(part="goal"))))
        lever = Part("lever", "Sluice", "lever", lever=Lever())
        found = findings(Scene("s", "S", length=3, parts=(*parts[:2], hand, goal, lonely, lever)), frozenset())
        sentences = {finding.sentence for finding in found if finding.check in ("Does not reach", "Does nothing")}
        self.assertIn(
            "Reach of hand misses its goal by 90 px at frame 0; let it stretch, or bring the goal nearer.", sentences
        )
        self.assertIn("Reach of lonely does nothing: no part above it can turn for it.", sentences)
        self.assertIn("Along of lonely does nothing: Goal has 0 contours.", sentences)
        self.assertIn("The lever Sluice drives nothing yet; teach it, or link a channel to it.", sentences)
        near = goal.with_rest({"move.x": 80.0})
        found = findings(Scene("s", "S", length=3, parts=(*parts[:2], hand, near)), frozenset())
        self.assertNotIn("Does not reach", {finding.check for finding in found})
        aside = near.with_rest({"move.z": 40.0})
        found = findings(Scene("s", "S", length=3, parts=(*parts[:2], hand, aside), depth=True), frozenset())
        self.assertIn(
            "Reach of hand misses its goal by 40 px at frame 0; the goal lies 40 px off the plane in which the limb "
            "turns; tip what that hangs on, or bring the goal nearer.",
            {finding.sentence for finding in found},
        )
