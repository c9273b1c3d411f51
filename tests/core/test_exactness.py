"""What the edits promise, over random scenes in every corner: mirrored, skewed, vanished, deep and partly inherited."""

import unittest
from dataclasses import replace

import numpy as np
from hypothesis import assume, example, given
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.edits import applied
from jointed_crane.core.edits.joints.eyelets import AddEyelet, MakeJoints, MoveEyelet, Seat
from jointed_crane.core.edits.joints.helpers import AddHelper, UnscaleHelper
from jointed_crane.core.edits.joints.joining import Join
from jointed_crane.core.edits.pictures.drawings import AddDrawing, CopyDrawing, OrderDrawing
from jointed_crane.core.edits.pictures.registering import AlignAxes, MoveRegistration
from jointed_crane.core.edits.placing.pivots import MovePivot, SetFoothold
from jointed_crane.core.edits.placing.poses import SetValues
from jointed_crane.core.edits.placing.settling import Settle
from jointed_crane.core.edits.scene.parts import DeleteParts
from jointed_crane.core.edits.shared.places import art_point, parent_linear
from jointed_crane.core.edits.time.keys import SetKeys, SetSway
from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.evaluate.pose_at_frame import pivot_at, world_at
from jointed_crane.core.geometry.decomposition import rotation_matrices
from jointed_crane.core.hierarchy.tree import descendants
from jointed_crane.core.measures.gaps import gaps
from jointed_crane.core.model.channels import CHANNELS
from jointed_crane.core.model.scene import Drawing, Foothold, Inherits, Part, Scene
from jointed_crane.core.motion.channel import Channel, Key, Sway
from jointed_crane.core.viewing.projection import on_stage
from tests.strategies import cornered_scene, examples, random_channel, random_scene, seeds

FRAMES = np.linspace(-3.0, 55.0, 59)
moments = st.sampled_from([None, 0.0, 7.0, 12.5, 30.0])


def world_of(scene, part_id, frame=None):
    return evaluate(scene.shown_as(frame), [frame or 0.0]).world_of(part_id)


def pictures(scene, frames=FRAMES):
    """What is seen of every part at every frame: place, drawing, whether it shows, how clear."""
    pose = evaluate(scene, frames)
    return {
        part.id: (
            pose.world[row],
            [part.drawings[number].id if number >= 0 else "" for number in pose.drawing[row]],
            pose.shown[row].tolist(),
            pose.opacity[row],
        )
        for row, part in enumerate(scene.parts)
    }


class ExactnessCase(unittest.TestCase):
    def assert_same(self, found, wanted):
        """Equal within 1e-9 of the size of what is compared."""
        found, wanted = np.asarray(found), np.asarray(wanted)
        np.testing.assert_allclose(found, wanted, rtol=0, atol=1e-9 * max(1.0, float(np.abs(wanted).max(initial=0))))

    def assert_same_film(self, after, before):
        was = pictures(before)
        for part_id, (world, drawings, shown, opacity) in pictures(after).items():
            if part_id in was:
                self.assert_same(world, was[part_id][0])
                self.assertEqual((drawings, shown), was[part_id][1:3])
                self.assert_same(opacity, was[part_id][3])

    def edited(self, scene, *edits):
        """The scene after edits; a draw in which the rules refuse them is put aside."""
        try:
            return applied(scene, edits)
        except RuleError:
            assume(False)


class NothingMovesTests(ExactnessCase):
    """Edits that promise that nothing moves, at any frame."""

    @given(seeds, st.floats(-10, 60), st.sampled_from(sorted(CHANNELS)))
    @example(466341, 37.5, "turn.z")  # on a frame at which a cycle brings back a place where the curve goes straight up
    @example(1681, 0.0, "move.y")  # before the first key, whose handle reaches back
    @example(1612020080, 19.59205951690003, "scale.x")  # beside a place where the curve goes straight up
    @examples(25)
    def test_setting_keys_changes_no_frame(self, seed, frame, channel):
        scene = cornered_scene(seed)
        part = scene.parts[seed % len(scene.parts)]
        curve = part.channels.get(channel)
        # Outside the keys of a channel that carries on there, a key changes what is carried on.
        if curve is not None and curve.keys:
            first, last = curve.keys[0].frame, curve.keys[-1].frame
            assume(first <= frame <= last or (curve.before, curve.after) == ("hold", "hold"))
        self.assert_same_film(self.edited(scene, SetKeys((part.id,), (channel,), frame)), scene)

    @given(seeds, st.floats(-5, 60))
    @examples(25)
    def test_settling_changes_no_frame_and_makes_the_frame_the_rest(self, seed, frame):
        scene = cornered_scene(seed)
        after = self.edited(scene, Settle(frame))
        self.assert_same_film(after, scene)
        pose, rest = evaluate(scene, [frame]), evaluate(after.at_rest, [0.0])
        np.testing.assert_array_equal(rest.drawing, pose.drawing)
        np.testing.assert_array_equal(rest.shown, pose.shown)
        standing = {part.id for part in scene.parts if part.footholds}
        if not standing:
            for part in scene.parts:
                self.assert_same(rest.world_of(part.id), pose.world_of(part.id))

    @given(seeds, moments)
    @examples(25)
    def test_moving_the_registration_under_the_art_changes_no_frame(self, seed, frame):
        scene = cornered_scene(seed)
        part = scene.parts[seed % len(scene.parts)]
        after = self.edited(scene, MoveRegistration(part.id, (7.0, -3.0), frame=frame))
        was, now = pictures(scene), pictures(after)
        corner, moved = np.array([11.0, 13.0, 0.0, 1.0]), np.array([7.0, -3.0, 0.0, 0.0])
        for part_id in was:
            point = corner - moved if part_id == part.id else corner
            self.assert_same(now[part_id][0] @ point, was[part_id][0] @ corner)

    @given(seeds, moments, st.sampled_from(["stage", "line"]))
    @examples(25)
    def test_lining_up_axes_changes_no_frame(self, seed, frame, to):
        random = np.random.default_rng(seed)
        scene = cornered_scene(seed)
        part = scene.parts[seed % len(scene.parts)]
        slide = random_channel(random, 0.0, 20.0)
        channels = {**part.channels, "slide.x": slide}
        if random.random() < 0.5:
            other = [replace(key, value=float(random.normal() * 20)) for key in slide.keys]
            channels["slide.y"] = replace(slide, keys=tuple(other))
        scene = scene.with_parts([replace(part, channels=channels)])
        self.assert_same_film(self.edited(scene, AlignAxes(part.id, to, (0, 0), (3, 4), frame)), scene)

    def test_slides_that_go_different_ways_in_time_are_not_turned(self):
        keys = {"slide.x": Channel((Key(0, 0), Key(10, 5))), "slide.y": Channel((Key(3, 0), Key(10, 5)))}
        scene = Scene("s", "S", parts=(Part("a", "A", channels=keys),))
        with self.assertRaisesRegex(RuleError, "keys at different frames"):
            applied(scene, [AlignAxes("a", "line", (0, 0), (3, 4))])

    def test_a_line_is_lined_up_with_on_a_part_that_does_not_take_turns(self):
        parent = Part("a", "A", rest={"turn.z": 40.0, "scale.x": 2.0})
        child = Part("b", "B", parent="a", rest={"turn.z": 10.0}, inherits=Inherits(turn=False))
        scene = Scene("s", "S", parts=(parent, child))
        after = applied(scene, [AlignAxes("b", "line", (0, 0), (3, 4))])
        own = rotation_matrices(np.array(after.part("b").orientation))[:2, 0]
        way = parent_linear(after, after.part("b"), None)[:2, :2] @ own
        wanted = world_of(scene, "b")[:2, :2] @ [3, 4]
        self.assert_same(way / np.linalg.norm(way), wanted / np.linalg.norm(wanted))

    @given(seeds)
    @examples(20)
    def test_ordering_drawings_changes_no_picture(self, seed):
        random = np.random.default_rng(seed)
        part = random_scene(seed, 1).parts[0]
        drawings = tuple(replace(part.drawings[0], id=f"d{n}", name=f"D{n}") for n in range(4))
        channels = {name: channel for name, channel in part.channels.items() if name != "drawing"}
        if random.random() < 0.7:
            channels["drawing"] = random_channel(random, 1.5, 1.5)
        rest = {} if random.random() < 0.5 else {"drawing": float(random.integers(0, 4))}
        scene = Scene("s", "S", parts=(replace(part, drawings=drawings, channels=channels, rest=rest),))
        moved = f"d{random.integers(0, 4)}"
        after = applied(scene, [OrderDrawing(part.id, moved, int(random.integers(0, 4)))])
        self.assert_same_film(after, scene)
        self.assert_same_film(after.at_rest, scene.at_rest)

    @given(seeds, st.floats(0.5, 40))
    @examples(20)
    def test_a_drawing_added_at_a_frame_shows_from_there_only(self, seed, frame):
        scene = cornered_scene(seed)
        part = next(part for part in scene.parts if part.drawings)
        made = replace(part.drawings[0], id="made", name="Made")
        after = self.edited(scene, AddDrawing(part.id, made, frame))
        was, now = pictures(scene)[part.id][1], pictures(after)[part.id][1]
        curve = part.channels.get("drawing")
        if curve is None or curve.before == "hold":
            early = int((frame > FRAMES).sum())
            self.assertEqual(now[:early], was[:early])
        self.assertEqual(pictures(after, [frame])[part.id][1], ["made"])


class NothingMovesNowTests(ExactnessCase):
    """Edits that promise that nothing moves as it is shown."""

    def assert_shown_alike(self, after, before, frame):
        for part in before.parts:
            if part.id in after.index:
                self.assert_same(world_of(after, part.id, frame), world_of(before, part.id, frame))

    @given(seeds, moments)
    @examples(25)
    def test_joining(self, seed, frame):
        scene = cornered_scene(seed)
        child, parent = np.random.default_rng(seed).choice([part.id for part in scene.parts], 2, replace=False)
        self.assert_shown_alike(self.edited(scene, Join((child,), parent, frame)), scene, frame)

    @given(seeds, moments)
    @examples(26)
    def test_a_helper_above_parts_and_deleting_parts(self, seed, frame):
        scene = cornered_scene(seed)
        picked = [part.id for part in scene.parts if part.id in ("p1", "p3", "p4")]
        after = self.edited(scene, AddHelper("h", tuple(picked), frame=frame))
        self.assert_shown_alike(after, scene, frame)
        self.assert_shown_alike(self.edited(scene, DeleteParts(("p0",), frame)), scene, frame)

    @given(seeds, moments, st.sampled_from(["art", "pivot"]))
    @examples(25)
    def test_moving_a_pivot_keeps_the_art_or_the_pivot(self, seed, frame, keep):
        scene = cornered_scene(seed)
        part = scene.parts[seed % len(scene.parts)]
        scene = scene.with_parts([replace(part, footholds=())])
        after = self.edited(scene, MovePivot(part.id, (12.0, -33.0), "art", keep, frame=frame))
        if keep == "art":
            self.assert_shown_alike(after, scene, frame)
            return
        self.assert_same(pivot_at(after, part.id, frame), pivot_at(scene, part.id, frame))
        under = world_at(after, part.id, frame) @ [12.0, -33.0, part.pivot[2], 1.0]
        spin = any(name.startswith("spin.") for name in (*part.rest, *part.channels))
        if not spin:
            self.assert_same(under[:3], pivot_at(scene, part.id, frame))

    def test_in_motion_the_pin_moves_the_foothold_that_holds(self):
        part = Part("a", "A", channels={"turn.z": Channel((Key(0, 0), Key(40, 90)))})
        scene = applied(Scene("s", "S", parts=(part,)), [SetFoothold("a", 10.0, (5.0, 5.0))])
        after = applied(scene, [MovePivot("a", (9.0, 1.0), frame=20.0)])
        self.assertEqual(after.part("a").footholds, (Foothold(10.0, (9.0, 1.0, 0.0)),))
        self.assertEqual(after.part("a").pivot, scene.part("a").pivot)
        # What came before stays, and so does where it takes its foothold.
        for frame in (0.0, 4.0, 10.0):
            self.assert_shown_alike(after, scene, frame)
        self.assertGreater(np.abs(world_at(after, "a", 20.0) - world_at(scene, "a", 20.0)).max(), 1)
        early = applied(scene, [MovePivot("a", (9.0, 1.0), frame=5.0)])
        self.assertEqual(
            (early.part("a").pivot, early.part("a").footholds), ((9.0, 1.0, 0.0), scene.part("a").footholds)
        )

    @given(seeds)
    @examples(20)
    def test_unscaling_a_helper(self, seed):
        scene = cornered_scene(seed)
        parent = next((part for part in scene.parts if part.parent and scene.children.get(part.id)), None)
        assume(parent is not None)
        scene = scene.with_parts([replace(parent, kind="helper", drawings=())])
        after = self.edited(scene, UnscaleHelper(parent.id))
        for below in descendants(scene, parent.id):
            self.assert_same(world_of(after, below), world_of(scene, below))

    def test_a_helper_above_a_limb_goes_above_its_uppermost_part_alone(self):
        parts = (Part("a", "A"), Part("b", "B", parent="a"), Part("c", "C", parent="b"))
        after = applied(Scene("s", "S", parts=parts), [AddHelper("h", ("c", "b"))])
        self.assertEqual({part.id: part.parent for part in after.parts}, {"a": None, "b": "h", "c": "b", "h": "a"})


class PartialInheritanceTests(ExactnessCase):
    @given(seeds)
    @examples(26)
    def test_inheritance_is_as_the_design_writes_it(self, seed):
        # Design section 3 written out one part and one frame at a time, rotations by SciPy.
        scene = cornered_scene(seed)
        # How they step on footholds is told by how they are shown, which has a test of its own (test_meeting).
        scene = scene.with_parts(replace(part, footholds=()) for part in scene.parts if part.inherits != Inherits())
        frames = [0.0, 7.5, 31.0]
        pose = evaluate(scene, frames)
        alone = {
            part.id: evaluate(Scene("s", "S", parts=(replace(part, parent=None),)), frames) for part in scene.parts
        }
        for column, frame in enumerate(frames):
            worlds, plains = {None: np.eye(4)}, {None: np.eye(3)}

            def placed(part_id, frame=frame, column=column, worlds=worlds, plains=plains):
                if part_id in worlds:
                    return
                part = scene.part(part_id)
                placed(part.parent)
                above, plain = worlds[part.parent], plains[part.parent]
                values = {name: part.rest_value(name) for name in CHANNELS}
                for name, value in alone[part_id].motion_at(column).get(part_id, {}).items():
                    if CHANNELS[name].joins == "add":
                        values[name] += value
                turn, spin = (
                    Rotation.from_euler(
                        part.turn_order, [values[f"{kind}.{axis.lower()}"] for axis in part.turn_order], degrees=True
                    ).as_matrix()
                    for kind in ("turn", "spin")
                )
                own = Rotation.from_quat(part.orientation).as_matrix() @ turn @ spin
                kept = part.inherits
                plains[part_id] = (plain if kept.turn else np.eye(3)) @ own
                linear = {
                    (True, True): above[:3, :3],
                    (True, False): plain,
                    (False, True): np.linalg.inv(plain) @ above[:3, :3],
                    (False, False): np.eye(3),
                }[kept.turn, kept.scale]
                local = alone[part_id].world_of(part_id, column)
                pivot = np.append(alone[part_id].pivot_of(part_id, column), 1.0)
                found = np.eye(4)
                found[:3, :3] = linear @ local[:3, :3]
                place = (above @ pivot if kept.position else pivot)[:3]
                found[:3, 3] = place + linear @ (local[:3, 3] - pivot[:3])
                worlds[part_id] = found

            for part in scene.parts:
                placed(part.id)
                self.assert_same(pose.world_of(part.id, column), worlds[part.id])

    def test_mirrored_and_vanished_parents_neither_turn_nor_mirror(self):
        for scale in (-1.0, 0.0):
            parent = Part("a", "A", rest={"turn.z": 30.0, "scale.x": scale})
            child = Part("b", "B", parent="a", inherits=Inherits(scale=False))
            found = evaluate(Scene("s", "S", parts=(parent, child)), [0]).world_of("b")[:3, :3]
            self.assert_same(found, Rotation.from_euler("z", 30, degrees=True).as_matrix())


class SeatTests(ExactnessCase):
    @given(seeds, moments)
    @examples(26)
    def test_a_seat_has_no_gap_where_it_is_shown_nor_after_its_eyelet_moves(self, seed, frame):
        scene = cornered_scene(seed)
        children = tuple(part.id for part in scene.parts if part.parent)
        assume(children)
        scene = self.edited(scene, MakeJoints(children, "j", frame))
        self.assertLess(max(gap.distance for gap in gaps(scene, frame)), 1e-6)
        part = scene.part(scene.part(children[0]).parent)
        moved = self.edited(scene, MoveEyelet(part.id, part.eyelets[0].id, (31.0, -7.0), frame=frame))
        seated = [child.id for child in moved.children[part.id] if child.seat == part.eyelets[0].id]
        self.assertLess(max(gap.distance for gap in gaps(moved, frame) if gap.part in seated), 1e-6)
        drifted = self.edited(scene, SetValues(children, {"move.x": 40.0, "move.y": -5.0}, frame))
        home = self.edited(drifted, Seat((), frame=frame))
        self.assertLess(max(gap.distance for gap in gaps(home, frame)), 1e-6)

    def test_seating_in_motion_keeps_the_seat_and_the_rest(self):
        scene = Scene("s", "S", parts=(Part("a", "A"), Part("b", "B", parent="a")))
        scene = applied(scene, [MakeJoints(("b",), "j"), AddEyelet("a", "e", (50.0, 0.0), name="other")])
        after = applied(scene, [Seat(("b",), "e", frame=8.0)])
        self.assertEqual((after.part("b").seat, after.part("b").rest), ("j0", scene.part("b").rest))
        np.testing.assert_allclose(pivot_at(after, "b", 8.0), (50.0, 0.0, 0.0), atol=1e-9)

    def test_a_joint_never_takes_the_eyelet_another_child_sits_in(self):
        parts = (Part("a", "A"), Part("b", "Arm", parent="a"), Part("c", "Fin", parent="a", rest={"move.x": 9.0}))
        scene = applied(Scene("s", "S", parts=parts), [AddEyelet("a", "e", (0.0, 0.0), name="Fin"), Seat(("b",), "e")])
        after = applied(scene, [MakeJoints(("c",), "j")])
        self.assertLess(max(gap.distance for gap in gaps(after, None)), 1e-9)
        self.assertEqual(after.part("b").rest, scene.part("b").rest)


class ViewRayTests(ExactnessCase):
    @given(seeds, st.tuples(st.floats(-60, 60), st.floats(-60, 60)))
    @examples(26)
    def test_a_stage_point_on_a_tilted_part_is_the_art_point_seen_there(self, seed, point):
        scene = random_scene(seed, is_deep=True)
        part = scene.parts[seed % len(scene.parts)]
        world = world_at(scene, part.id, 9.0)
        seen = on_stage(world, np.array(point))
        try:
            found = art_point(scene, part, (float(seen[0]), float(seen[1])), "stage", 9.0)
        except RuleError:
            assume(False)
        sizes = np.linalg.svd(world[:2, :2], compute_uv=False)
        assume(sizes[0] < 1e4 * sizes[1])
        np.testing.assert_allclose(found, point, atol=1e-7)

    def test_a_part_seen_edge_on_says_so(self):
        scene = Scene("s", "S", parts=(Part("a", "Panel", rest={"turn.y": 90.0}),))
        with self.assertRaisesRegex(RuleError, "Panel is seen edge-on"):
            applied(scene, [MovePivot("a", (1.0, 2.0), "stage")])


class FiniteTests(unittest.TestCase):
    def assert_finite(self, scene, frames=(-5.0, 0.0, 3.3, 1e4, 9.9e6)):
        pose = evaluate(scene, list(frames))
        for values in (pose.world, pose.pivot, pose.opacity, pose.order, pose.motion):
            self.assertTrue(np.isfinite(values).all())
        self.assertTrue(np.isfinite(pose.world.astype("<f4")).all())

    @given(seeds)
    @examples(40)
    def test_collapsed_and_crossed_handles(self, seed):
        random = np.random.default_rng(seed)
        span = 10.0
        reach = [0.0, 1e-300, 1e-12, span / 2, span, 2 * span]
        left = Key(0.0, 0.0, "eased", None, (float(random.choice(reach)), float(random.choice([0.0, 50.0, -1e6]))))
        right = Key(span, 20.0, "eased", (-float(random.choice(reach)), float(random.choice([0.0, 5.0, 1e6]))), None)
        outside = ["hold", "straight on", "repeat", "back and forth"]
        channel = Channel((left, right), str(random.choice(outside)), str(random.choice(outside)))
        scene = Scene("s", "S", parts=(Part("a", "A", channels={"turn.z": channel}),))
        frames = np.concatenate([np.linspace(0, span, 301), [1e-9, span - 1e-9, 5.0 + 1e-9, -1e5, 1e5]])
        self.assert_finite(scene, frames)
        inside = evaluate(scene, np.linspace(0, span, 301)).motion[0]
        controls = [0.0, left.handle_out[1], 20.0 + right.handle_in[1], 20.0]
        self.assertTrue((inside >= min(controls) - 1e-6).all() and (inside <= max(controls) + 1e-6).all())

    def test_a_deep_chain_of_large_scales(self):
        parts = [
            Part(f"p{n}", f"P{n}", parent=f"p{n - 1}" if n else None, rest={"scale.x": 1e7, "move.x": 1e7})
            for n in range(50)
        ]
        self.assert_finite(Scene("s", "S", parts=tuple(parts)))

    def test_scales_that_multiply_beyond_all_sizes_are_refused(self):
        scene = Scene(
            "s", "S", parts=tuple(Part(f"p{n}", f"P{n}", parent=f"p{n - 1}" if n else None) for n in range(50))
        )
        with self.assertRaisesRegex(RuleError, "P[0-9]+ .* scale"):
            applied(scene, [SetValues(tuple(scene.index), {"scale.x": 1e7})])

    def test_a_sway_too_fast_to_be_told_is_refused(self):
        scene = Scene("s", "S", parts=(Part("a", "A"),))
        for period in (1e-310, 1e-5, -1.0, 0.0):
            with self.assertRaisesRegex(RuleError, "period"):
                applied(scene, [SetSway("a", "turn.z", Sway(3.0, period))])
        with self.assertRaisesRegex(RuleError, "cannot sway"):
            applied(scene, [SetSway("a", "shown", Sway(3.0, 10.0))])
        stored = Scene("s", "S", parts=(Part("a", "A", channels={"turn.z": Channel((), sway=Sway(3.0, 1e-310))}),))
        self.assert_finite(stored)


class DrawingIdTests(unittest.TestCase):
    def test_an_id_that_a_drawing_of_the_scene_has_is_refused(self):
        box = (0.0, 0.0, 9.0, 9.0)
        parts = tuple(Part(name, name, drawings=(Drawing(f"d{name}", "D", "art", box, box),)) for name in "ab")
        scene = Scene("s", "S", parts=parts)
        with self.assertRaisesRegex(RuleError, "same id"):
            applied(scene, [CopyDrawing("a", "da", "db")])
        with self.assertRaisesRegex(RuleError, "same id|already"):
            applied(scene, [AddDrawing("b", parts[0].drawings[0])])
