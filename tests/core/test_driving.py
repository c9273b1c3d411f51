"""Levers and links: against NumPy's interp, and their promises by property."""

import unittest
from dataclasses import replace

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.constraints.along_path import AlongPath
from jointed_crane.core.constraints.between import Between
from jointed_crane.core.constraints.constraint import Goal, number_channel
from jointed_crane.core.edits import applied
from jointed_crane.core.edits.constraints.levers_and_links import AddLever, ChangeLever, SetLink, Teach, Unlink
from jointed_crane.core.edits.joints.joining import Join
from jointed_crane.core.edits.pictures.drawings import OrderDrawing
from jointed_crane.core.edits.pictures.making_shapes import AddShape, MoveNode, SetShape
from jointed_crane.core.edits.placing.poses import ScaleToward, SetValues
from jointed_crane.core.edits.placing.settling import Settle
from jointed_crane.core.edits.scene.copies import Duplicate
from jointed_crane.core.edits.scene.mirrored_copies import MirroredCopy
from jointed_crane.core.edits.scene.parts import DeleteParts
from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.evaluate.links_as_keys import links_as_keys
from jointed_crane.core.evaluate.pose_at_frame import moved_pose, pose_at, pose_with
from jointed_crane.core.model.forms import Node, Paint, PenPath, Rectangle
from jointed_crane.core.model.levers import Axis, Lever, Link
from jointed_crane.core.model.scene import Drawing, Foothold, Part, Scene
from jointed_crane.core.model.scene_change import SceneChange
from jointed_crane.core.motion.channel import Channel, Key
from jointed_crane.formats.document import part_document, part_from
from jointed_crane.store.rows import scene_from_rows, scene_rows
from tests.constrained_rigs import helper, linked, moving
from tests.strategies import edit_for, examples, random_scene, seeds

FRAMES = np.arange(0.0, 30.0, 1.5)


def sluice(*values, **axis):
    """A scene with a lever of some keyed values at frames 0, 10, 20, ... and two flaps."""
    scene = Scene("s", "S", parts=(helper("left", 10.0, 0.0), helper("right", 90.0, 0.0)), length=30)
    scene = applied(scene, [AddLever("lever", "Sluice", Lever(axes=(Axis(**axis),)))])
    keys = tuple(Key(10.0 * place, float(value), "straight") for place, value in enumerate(values))
    return scene.with_parts([scene.part("lever").with_channel("lever.x", Channel(keys))])


def values_of(pose, part, channel):
    """A channel's motion values with what links add."""
    own = pose.motion[pose.motion_index[part, channel]] if (part, channel) in pose.motion_index else 0.0
    return own + pose.driven[part, channel]


class LinkTests(unittest.TestCase):
    def test_one_lever_moves_two_flaps_opposite_ways_and_levers_onto_one_channel_add(self):
        scene = sluice(0, 1, -1)
        scene = applied(scene, [AddLever("other", "Other", Lever())])
        scene = applied(scene, [SetValues(("other",), {"lever.x": 0.25}, None)])
        for part, amount in (("left", 40.0), ("right", -30.0)):
            scene = applied(
                scene, [SetLink(part, Link(id="a", source="lever", channel="lever.x", onto="turn.z", amount=amount))]
            )
        scene = applied(
            scene, [SetLink("left", Link(id="b", source="other", channel="lever.x", onto="turn.z", amount=8.0))]
        )
        pose = evaluate(scene, [0.0, 5.0, 10.0, 20.0])
        lever = np.array([0.0, 0.5, 1.0, -1.0])
        np.testing.assert_allclose(values_of(pose, "left", "turn.z"), 40 * lever + 2.0, atol=1e-12)
        np.testing.assert_allclose(values_of(pose, "right", "turn.z"), -30 * lever, atol=1e-12)
        angles = np.rad2deg(np.arctan2(pose.world[0, :, 1, 0], pose.world[0, :, 0, 0]))
        np.testing.assert_allclose(angles, 40 * lever + 2.0, rtol=0, atol=1e-9)

    @given(
        st.lists(
            st.tuples(st.integers(-5000, 5000).map(lambda at: at / 100), st.floats(-9, 9)),
            min_size=1,
            max_size=8,
            unique_by=lambda at: at[0],
        )
    )
    @examples(25)
    def test_curves_are_numpys_interp(self, points):
        points = sorted(points)
        scene = sluice(-60, 60, low=-60.0, high=60.0)
        link = Link(id="a", source="lever", channel="lever.x", onto="move.y", points=tuple(points))
        pose = evaluate(applied(scene, [SetLink("left", link)]), np.linspace(0, 10, 41))
        lever = pose.motion[pose.motion_index["lever", "lever.x"]]
        wanted = np.interp(lever, *zip(*points, strict=True))
        np.testing.assert_allclose(pose.pivot[0, :, 1], wanted, rtol=0, atol=1e-9)

    def test_a_lever_counts_in_its_steps_and_within_its_range(self):
        scene = sluice(-5, 5, low=-1.0, high=2.0, neutral=0.5, step=0.5)
        link = Link(id="a", source="lever", channel="lever.x", onto="move.x", amount=1.0)
        pose = evaluate(applied(scene, [SetLink("left", link)]), np.linspace(0, 10, 201))
        found = np.unique(np.round(pose.driven["left", "move.x"], 9))
        np.testing.assert_allclose(found, np.arange(-1.5, 1.6, 0.5), rtol=0, atol=1e-9)
        kept = applied(
            scene, [SetValues(("lever",), {"lever.x": 9.0}, 4.0), SetValues(("lever",), {"lever.x": 0.7}, None)]
        )
        self.assertEqual(kept.part("lever").channels["lever.x"].key_at(4.0).value, 2.0)
        self.assertEqual(kept.part("lever").rest["lever.x"], 0.5)

    def test_scales_become_so_many_times_as_large_and_settling_moves_nothing(self):
        scene = sluice(0, 1)
        flap = scene.part("left").with_rest({"scale.x": 3.0}).with_channel("scale.x", Channel((Key(0.0, 2.0),)))
        scene = scene.with_parts([flap])
        scene = applied(
            scene, [SetLink("left", Link(id="a", source="lever", channel="lever.x", onto="scale.x", amount=0.5))]
        )
        found = evaluate(scene, [0.0, 10.0]).world[0, :, 0, 0]
        np.testing.assert_allclose(found, [6.0, 9.0], atol=1e-12)
        settled = applied(scene, [Settle(0.0, ("left",))])
        np.testing.assert_allclose(evaluate(settled, [0.0, 10.0]).world[0, :, 0, 0], found, atol=1e-12)

    def test_a_channel_that_is_driven_drives_others_and_numbers_of_constraints_are_driven(self):
        scene = sluice(0, 1)
        rule = Between(id="c", name="Between", goals=(Goal(part="left"), Goal(part="right")))
        middle = replace(helper("middle"), constraints=(rule,)).with_rest({number_channel("c", "share"): 0.0})
        scene, share = replace(scene, parts=(*scene.parts, middle)), number_channel("c", "share")
        scene = applied(scene, [
            SetLink("left", Link(id="a", source="lever", channel="lever.x", onto="turn.z", amount=20.0)),
            SetLink("right", Link(id="a", source="left", channel="turn.z", onto="spin.z", amount=2.0)),
            SetLink("middle", Link(id="a", source="right", channel="spin.z", onto=share, amount=0.01)),
        ])  # fmt: skip
        pose = evaluate(scene, [10.0])
        self.assertAlmostEqual(float(pose.driven["right", "spin.z"][0]), 40.0, places=9)
        self.assertAlmostEqual(float(pose.pivot_of("middle")[0]), 10 + 80 * 0.4, places=9)

    def test_a_loop_is_refused_with_the_names_round_it(self):
        scene = sluice(0, 1)
        first = Link(id="a", source="left", channel="turn.z", onto="scale.x")
        second = Link(id="a", source="right", channel="scale.x", onto="turn.z")
        scene = applied(scene, [SetLink("right", first)])
        with self.assertRaisesRegex(RuleError, "loop: .*Turn of Left by Scale x of Right by Turn of Left"):
            applied(scene, [SetLink("left", second)])
        with self.assertRaisesRegex(RuleError, "loop"):
            applied(scene, [SetLink("left", replace(second, source="left", channel="turn.z"))])

    def test_footholds_hold_on_a_part_that_a_lever_turns(self):
        scene = sluice(0, 90, 200, low=-400.0, high=400.0)
        stands = (Foothold(5.0, (30.0, 0.0, 0.0)), Foothold(12.0, (30.0, 40.0, 0.0)))
        scene = scene.with_parts([replace(scene.part("left"), footholds=stands)])
        scene = applied(scene, [SetLink("left", Link(id="a", source="lever", channel="lever.x", onto="turn.z"))])
        pose = evaluate(scene, np.linspace(5, 12, 29))
        corner = pose.world[0] @ np.array([30.0, 0.0, 0.0, 1.0])
        np.testing.assert_allclose(corner, np.broadcast_to(corner[0], corner.shape), rtol=0, atol=1e-9)
        for frame in (5.0, 12.0):
            before, at = (evaluate(scene, [frame - by]).world[0, 0] for by in (1e-9, 0.0))
            np.testing.assert_allclose(before, at, atol=1e-6)

    def test_taking_away_what_drives_takes_the_link_and_another_lever_loses_its_axis(self):
        scene = sluice(0, 1)
        scene = applied(scene, [ChangeLever("lever", Lever(axes=(Axis(), Axis())))])
        for axis, onto in (("lever.x", "turn.z"), ("lever.y", "move.x")):
            scene = applied(scene, [SetLink("left", Link(id=onto, source="lever", channel=axis, onto=onto))])
        slider = applied(scene, [ChangeLever("lever", Lever())])
        self.assertEqual([link.id for link in slider.part("left").links], ["turn.z"])
        self.assertEqual(applied(scene, [DeleteParts(("lever",))]).part("left").links, ())
        self.assertEqual(
            [link.id for link in applied(scene, [Unlink("left", "turn.z")]).part("left").links], ["move.x"]
        )

    def test_ranges_that_are_none_and_links_to_nothing_are_refused(self):
        scene = sluice(0, 1)
        for axis in (Axis(low=1.0, high=1.0, neutral=1.0), Axis(neutral=4.0), Axis(step=-1.0), Axis(high=float("inf"))):
            with self.assertRaises(RuleError):
                applied(scene, [ChangeLever("lever", Lever(axes=(axis,)))])
        for link in (
            Link(id="a", source="nobody", channel="turn.z", onto="turn.z"),
            Link(id="a", source="lever", channel="lever.y", onto="turn.z"),
            Link(id="a", source="lever", channel="lever.x", onto="lever.x"),
            Link(id="a", source="lever", channel="lever.x", onto="turn.z", amount=float("nan")),
            Link(id="a", source="lever", channel="lever.x", onto="turn.z", points=((1.0, 0.0), (0.0, 1.0))),
            Link(id="a", source="lever", channel="lever.x", onto="turn.z", points=((0.0, 0.0), (1e-10, 1.0))),
        ):
            with self.assertRaises(RuleError):
                applied(scene, [SetLink("left", link)])


class ShapeTests(unittest.TestCase):
    """Links onto the numbers of the app's own shapes."""

    def setUp(self):
        path = PenPath(((Node((0.0, 0.0)), Node((80.0, 0.0)), Node((40.0, 60.0))),), paint=Paint("#204060", "", 0.0))
        edits = [AddShape("sail", path, "Sail"), AddLever("lever", "Wind", Lever())]
        edits += [SetLink("sail", Link(id=name, source="lever", channel="lever.x", onto=name, amount=amount))
                  for name, amount in (("node.2.x", 30.0), ("fill.r", 100.0))]  # fmt: skip
        self.scene = applied(Scene("s", "S", length=20), edits)
        self.drawing = self.scene.part("sail").drawings[0].id

    def shape(self, scene, frame):
        (shape,) = pose_at(scene, frame).shapes()["sail"]
        return shape

    def test_a_lever_moves_nodes_and_colours_at_rest_and_in_motion(self):
        half = applied(self.scene, [SetValues(("lever",), {"lever.x": 0.5}, None)])
        for frame in (None, 4.0):
            self.assertEqual(self.shape(half, frame).contours[0][2].point[0], 55.0)
            self.assertEqual(self.shape(half, frame).paint.fill, "#524060")
        keyed = applied(self.scene, [SetValues(("lever",), {"lever.x": 1.0}, 10.0)])
        self.assertEqual(self.shape(links_as_keys(keyed), 10.0), self.shape(keyed, 10.0))

    def test_a_node_that_is_dragged_lies_where_the_hand_puts_it(self):
        half = applied(self.scene, [SetValues(("lever",), {"lever.x": 0.5}, None)])
        for frame in (None, 4.0):
            moved = applied(half, [MoveNode("sail", self.drawing, 0, 2, (70.0, 90.0), frame=frame)])
            np.testing.assert_allclose(self.shape(moved, frame).contours[0][2].point, (70.0, 90.0), rtol=0, atol=1e-9)
            self.assertEqual(self.shape(moved, frame).paint.fill, "#524060")

    def test_what_runs_along_a_driven_path_goes_along_and_other_numbers_are_refused(self):
        rule = AlongPath(id="a", name="Along", goal=Goal(part="sail"), turns=False)
        boat = replace(helper("boat"), constraints=(rule,)).with_rest({number_channel("a", "along"): 0.0})
        scene = replace(self.scene, parts=(*self.scene.parts, boat))
        link = Link(id="b", source="lever", channel="lever.x", onto="node.0.y", amount=12.0)
        scene = applied(scene, [SetLink("sail", link), SetValues(("lever",), {"lever.x": 1.0}, None)])
        np.testing.assert_allclose(pose_at(scene, None).pivot_of("boat")[:2], (0.0, 12.0), rtol=0, atol=1e-9)
        for onto in ("node.9.x", "form.left"):
            with self.assertRaisesRegex(RuleError, "Sail has no .* to drive"):
                applied(scene, [SetLink("sail", replace(link, onto=onto))])

    def test_a_node_that_moves_drives_what_is_linked_to_it_and_is_not_taken_away_from_it(self):
        flag = SetLink("flag", Link(id="f", source="sail", channel="node.2.x", onto="turn.z", amount=2.0))
        scene = applied(replace(self.scene, parts=(*self.scene.parts, helper("flag"))), [flag])
        keyed = scene.with_parts([moving(scene.part("sail"), turn=(0, 0)).with_channel(
            "node.2.x", Channel((Key(0.0, 0.0, "straight"), Key(10.0, 20.0)))
        )])  # fmt: skip
        pose = evaluate(keyed, [0.0, 2.5, 10.0, 2.5])
        np.testing.assert_allclose(pose.driven["flag", "turn.z"], (0.0, 10.0, 40.0, 10.0), rtol=0, atol=1e-9)
        pushed = applied(keyed, [SetValues(("lever",), {"lever.x": 1.0}, None)])  # the lever adds 30 px to the node
        self.assertAlmostEqual(float(evaluate(pushed, [2.5]).driven["flag", "turn.z"][0]), 70.0, places=9)
        standing = pushed.with_parts([replace(pushed.part("flag"), footholds=(Foothold(2.5, (9.0, 0.0, 0.0)),))])
        corner = evaluate(standing, [2.5, 8.0]).world[standing.index["flag"]] @ (9.0, 0.0, 0.0, 1.0)
        np.testing.assert_allclose(corner[0], corner[1], rtol=0, atol=1e-9)
        self.assertEqual(scene_from_rows("s", scene_rows(keyed)).part("flag"), keyed.part("flag"))
        freed = applied(keyed, [Unlink("sail", "node.2.x")])
        with self.assertRaisesRegex(RuleError, "A link of Flag needs Node 3 x of Sail"):
            applied(freed, [SetShape("sail", self.drawing, Rectangle((0.0, 0.0, 40.0, 30.0)))])

    def test_a_lever_is_taught_shapes_in_rest_and_in_motion(self):
        to = applied(self.scene, [SetValues(("lever",), {"lever.x": 1.0}, None)])
        for frame in (None, 4.0):
            posed = (MoveNode("sail", self.drawing, 0, 1, (120.0, -20.0), frame=frame),)
            taught = applied(to, [Teach("lever", "t", posed, frame=frame)])
            wanted = self.shape(applied(to, posed), frame)
            self.assertEqual(self.shape(taught, frame), wanted)
            self.assertEqual(taught.part("sail").drawings, self.scene.part("sail").drawings)
            half = applied(taught, [SetValues(("lever",), {"lever.x": 0.5}, frame)])
            np.testing.assert_allclose(self.shape(half, frame).contours[0][1].point, (100.0, -10.0), rtol=0, atol=1e-9)
        with self.assertRaisesRegex(RuleError, "More than values of Sail would change"):
            other = SetShape("sail", self.drawing, Rectangle((0.0, 0.0, 40.0, 30.0)))
            applied(applied(self.scene, [Unlink("sail", "node.2.x")]), [Teach("lever", "t", (other,))])


class TeachTests(unittest.TestCase):
    def test_a_link_from_nowhere_is_refused_before_the_next_edit_looks_at_it(self):
        link = SetLink("left", Link(id="n", source="none", channel="lever.x", onto="turn.z"))
        with self.assertRaises(RuleError):
            applied(sluice(0), [link, ScaleToward(("left",), (0.0, 0.0), (1.0, 1.0))])

    def test_numbers_of_constraints_and_of_other_levers_are_taught(self):
        share = number_channel("a", "share")
        between = Between(id="a", name="B", goals=(Goal(part="left"), Goal(part="right")))
        boat = replace(helper("boat"), constraints=(between,))
        other = Part("other", "Other", "lever", lever=Lever())
        scene = replace(sluice(0), parts=(*sluice(0).parts, boat, other))
        scene = applied(scene, [SetValues(("lever",), {"lever.x": 1.0}, None)])
        posed = (SetValues(("boat",), {share: 0.9}, None), SetValues(("other",), {"lever.x": 0.5}, None))
        taught = applied(scene, [Teach("lever", "t", posed)])
        was, now = (pose_at(applied(scene, posed), None), pose_at(taught, None))
        np.testing.assert_allclose(now.world_of("boat"), was.world_of("boat"), atol=1e-9)
        self.assertEqual([link.onto for link in taught.part("other").links], ["lever.x"])
        self.assertEqual(taught.part("boat").rest, scene.part("boat").rest)

    def test_drawings_that_a_lever_shows_are_not_ordered(self):
        box = (0.0, 0.0, 4.0, 4.0)
        mouth = Part("mouth", "Mouth", drawings=tuple(Drawing(f"m{n}", f"M{n}", "", box, box) for n in range(3)))
        scene = replace(sluice(0), parts=(*sluice(0).parts, mouth))
        scene = applied(scene, [SetLink("mouth", Link(id="m", source="lever", channel="lever.x", onto="drawing"))])
        with self.assertRaisesRegex(RuleError, "linked to the drawings of Mouth by their numbers"):
            applied(scene, [OrderDrawing("mouth", "m2", 0)])
        freed = applied(scene, [Unlink("mouth", "m"), OrderDrawing("mouth", "m2", 0)])
        self.assertEqual([drawing.id for drawing in freed.part("mouth").drawings], ["m2", "m0", "m1"])

    def test_posing_two_flaps_at_two_values_teaches_them_and_poses_between_follow(self):
        scene = sluice(0)
        for value, left, right in ((1.0, 30.0, -20.0), (-1.0, -10.0, 50.0)):
            scene = applied(scene, [SetValues(("lever",), {"lever.x": value}, None)])
            posed = (SetValues(("left",), {"turn.z": left}, None), SetValues(("right",), {"turn.z": right}, None))
            before = evaluate(applied(scene, posed).at_rest, [0.0]) if value > 0 else None
            scene = applied(scene, [Teach("lever", f"t{value:g}", posed)])
            if before is not None:
                np.testing.assert_allclose(evaluate(scene.at_rest, [0.0]).world, before.world, rtol=0, atol=1e-9)
        self.assertEqual([part.rest.get("turn.z") for part in scene.parts], [None, None, None])
        for value, left, right in ((1, 30, -20), (0.5, 15, -10), (0, 0, 0), (-0.5, -5, 25), (-1, -10, 50)):
            at = applied(scene, [SetValues(("lever",), {"lever.x": float(value)}, None)])
            pose = evaluate(at.at_rest, [0.0])
            self.assertAlmostEqual(float(pose.driven["left", "turn.z"][0]), left, places=9)
            self.assertAlmostEqual(float(pose.driven["right", "turn.z"][0]), right, places=9)

    @given(seeds, st.data())
    @examples(15)
    def test_what_was_posed_is_what_is_seen_in_random_scenes(self, seed, data):
        # Footholds carry on from other frames, at which a lever stands elsewhere and a single key says the same.
        standing = linked(random_scene(seed, 5), seed)
        scene = standing.with_parts(replace(part, footholds=()) for part in standing.parts)
        frame = data.draw(st.sampled_from([None, 7.0]))
        part = data.draw(st.sampled_from([part for part in scene.parts if part.id != "lever"]))
        if frame is None and any(link.source == part.id for other in scene.parts for link in other.links):
            return  # what a part rests at drives nothing, what a lever adds to it does
        values = {"turn.z": data.draw(st.floats(-90, 90)), "scale.y": data.draw(st.floats(0.2, 3)), "move.x": 12.0}
        posed = (SetValues((part.id,), values, frame),)
        try:
            taught = applied(scene, [Teach("lever", "t", posed, "lever.y", frame)])
        except RuleError:
            return
        wanted, found = (pose_at(made, frame) for made in (applied(scene, posed), taught))
        size = max(1.0, float(np.abs(wanted.world).max()))
        np.testing.assert_allclose(found.world, wanted.world, atol=1e-8 * size)

    def test_teaching_parts_or_nothing_or_itself_is_refused(self):
        scene = sluice(0)
        for posed in (
            (),
            (DeleteParts(("left",)),),
            (SetValues(("lever",), {"lever.x": 1.0}, None),),
            (Join(("left",), "right"),),
        ):
            with self.assertRaises(RuleError):
                applied(scene, [Teach("lever", "t", posed)])


class GraphTests(unittest.TestCase):
    @given(seeds)
    @examples(20)
    def test_zip_and_rows_are_the_identity_and_sent_keys_are_the_film(self, seed):
        scene = linked(random_scene(seed, 6), seed)
        for part in scene.parts:
            self.assertEqual(part_from(part_document(part)), part)
        self.assertEqual(scene_from_rows(scene.id, scene_rows(scene)), scene)
        whole = np.arange(0.0, 20.0)
        film, keyed = (evaluate(found, whole) for found in (scene, links_as_keys(scene)))
        size = max(1.0, float(np.abs(film.world).max()))
        bare = [row for row, part in enumerate(scene.parts) if not part.footholds and not self._stands(scene, part)]
        np.testing.assert_allclose(keyed.world[bare], film.world[bare], rtol=0, atol=1e-9 * size)
        np.testing.assert_allclose(keyed.opacity, film.opacity, rtol=0, atol=1e-9)

    def _stands(self, scene, part):
        return any(other.footholds for other in scene.parts)

    @given(seeds, st.data())
    @examples(15)
    def test_random_edits_give_numbers_and_previews_that_are_the_film(self, seed, data):
        scene = linked(random_scene(seed, 6), seed)
        for _ in range(12):
            try:
                after = applied(scene, [data.draw(edit_for(scene))])
            except RuleError:
                continue
            film = evaluate(after, FRAMES)
            self.assertTrue(np.isfinite(film.world).all())
            alone = moved_pose(SceneChange(scene, after), 6.0)
            for part_id in alone.part_ids:
                np.testing.assert_allclose(alone.world_of(part_id), film.world_of(part_id, 4), rtol=1e-9, atol=1e-9)
            scene = after

    def test_a_drag_by_numbers_is_the_film_of_its_end(self):
        for seed in range(12):
            scene = linked(random_scene(seed, 6), seed)
            part = scene.parts[seed % 6]
            if part.footholds:
                continue
            for frame in (None, 6.0):
                pose = pose_with(scene, frame, {part.id: {"turn.z": 33.0}})
                wanted = pose_at(applied(scene, [SetValues((part.id,), {"turn.z": 33.0}, frame, True)]), frame)
                for part_id in pose.part_ids:
                    np.testing.assert_allclose(pose.world_of(part_id), wanted.world_of(part_id), rtol=1e-9, atol=1e-9)

    @given(seeds)
    @examples(15)
    def test_reparenting_keeps_a_driven_part_where_it_is_shown(self, seed):
        scene = linked(random_scene(seed, 6), seed)
        for frame in (None, 9.0):
            for part, parent in (("p3", None), ("p5", "p0")):
                try:
                    after = applied(scene, [Join((part,), parent, frame)])
                except RuleError:
                    continue
                before, now = (pose_at(found, frame).world for found in (scene, after))
                np.testing.assert_allclose(now, before, atol=1e-7 * max(1.0, float(np.abs(before).max())))

    @given(seeds)
    @examples(20)
    def test_copies_are_driven_by_copies_and_mirrored_ones_are_the_reflection(self, seed):
        base = moving(helper("base", 40.0, 30.0), turn=(0, 30, -20))
        flap = replace(moving(helper("flap", 20.0, 5.0), turn=(0, 15, 4)), parent="base")
        scene = Scene("s", "S", parts=(base, flap), length=30)
        scene = applied(scene, [AddLever("lever", "Lever", Lever(), parent="base")])
        scene = applied(scene, [SetValues(("lever",), {"lever.x": 0.7}, 12.0)])
        random = np.random.default_rng(seed)
        for number, (part, source, channel, onto) in enumerate(
            (
                ("flap", "lever", "lever.x", "turn.z"), ("flap", "base", "turn.z", "move.x"),
                ("base", "lever", "lever.x", "move.y"), ("base", "lever", "lever.x", "turn.z"),
                ("flap", "base", "move.x", "scale.y"), ("base", "lever", "lever.x", "move.x"),
            )
        ):  # fmt: skip
            points = (
                tuple(zip((-30.0, 0.1, 25.0), random.uniform(-9, 9, 3).tolist(), strict=True)) if number % 2 else ()
            )
            link = Link(
                id=f"l{number}",
                source=source,
                channel=channel,
                onto=onto,
                amount=float(random.uniform(-2, 2)),
                points=points,
            )
            scene = applied(scene, [SetLink(part, link)])
        axis = ("upright", "level")[seed % 2]
        after = applied(scene, [MirroredCopy(("base",), "m", axis, about=(100.0, 60.0))])
        film = evaluate(after, FRAMES)
        mirror = np.diag([-1.0, 1.0, 1.0, 1.0]) if axis == "upright" else np.diag([1.0, -1.0, 1.0, 1.0])
        mirror[:2, 3] = [200.0, 0.0] if axis == "upright" else [0.0, 120.0]
        for place, part in enumerate(("base", "flap", "lever")):
            copy = film.pivot_of(f"m{place}", 0)
            wanted = mirror @ np.append(film.pivot[film.index[part]], np.ones((len(FRAMES), 1)), axis=1).T
            self.assertEqual(copy.shape, (3,))
            np.testing.assert_allclose(film.pivot[film.index[f"m{place}"]], wanted.T[:, :3], rtol=0, atol=1e-9)
        double = applied(scene, [Duplicate(("base",), "d")])
        self.assertEqual({link.source for part in ("d0", "d1") for link in double.part(part).links}, {"d0", "d2"})
