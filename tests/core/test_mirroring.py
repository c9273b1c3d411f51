"""Mirrored limbs where rules meet, and poses laid on them: reflections of their originals, or refused."""

from dataclasses import replace

import numpy as np
from hypothesis import assume, example, given
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.constraints.constraint import number_channel
from jointed_crane.core.edits import applied
from jointed_crane.core.edits.placing.pasting import PastePose
from jointed_crane.core.edits.scene.mirrored_copies import MirroredCopy
from jointed_crane.core.edits.shared.mirroring import reflection_between, sign
from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.hierarchy.tree import descendants
from jointed_crane.core.model.channels import CHANNELS
from jointed_crane.core.model.scene import Inherits, Part, Scene
from jointed_crane.core.soundness.whole_scene import ensure_sound
from tests.constrained_rigs import MIRRORS
from tests.core.test_exactness import ExactnessCase, world_of
from tests.meeting import meeting_scene
from tests.strategies import examples, random_part, random_scene, seeds


class MirroredPoseTests(ExactnessCase):
    @given(seeds, st.sampled_from(sorted(MIRRORS)))
    @examples(26)
    def test_a_mirrored_pose_on_a_mirrored_limb_is_the_reflection(self, seed, axis):
        random = np.random.default_rng(seed)
        scene = random_scene(seed, 5)
        root = next((part for part in scene.parts if part.parent is not None), None)
        assume(root is not None)
        limb = [root.id, *descendants(scene, root.id)]
        scene = scene.with_parts(
            replace(scene.part(part_id), name=f"Near {number}", channels={}, footholds=())
            for number, part_id in enumerate(limb)
        )
        scene = applied(scene, [MirroredCopy((root.id,), "m", axis)])
        far = {part.name: part.id for part in scene.parts if part.name.startswith("Far")}
        families = ("turn.z", "move.x", "move.y", "slide.x", "slide.y", "spin.z", "shear.xy", "scale.x", "opacity")
        spread = {"deg": 40.0, "px": 30.0, "": 0.2}
        pose = {
            scene.part(part_id).name: {
                name: float(CHANNELS[name].neutral + random.normal() * spread[CHANNELS[name].unit]) for name in families
            }
            for part_id in limb
        }
        centre = np.array([*scene.part(root.parent).centre, 1.0])
        flip = MIRRORS[axis]
        mirror = flip.copy()
        mirror[:3, 3] = (centre - flip @ centre)[:3]
        for frame in (8.0, None):
            if frame is None:  # a pose at rest that turns nobody's art over
                for part_id in limb:
                    pose[scene.part(part_id).name]["scale.x"] *= np.sign(scene.part(part_id).rest_value("scale.x"))
            posed = applied(scene, [PastePose(pose, frame=frame), PastePose(pose, mirrored=True, frame=frame)])
            parent = world_of(posed, root.parent, frame)
            for part_id in limb:
                copy = far[scene.part(part_id).name.replace("Near", "Far")]
                wanted = parent @ mirror @ np.linalg.inv(parent) @ world_of(posed, part_id, frame)
                self.assert_same(world_of(posed, copy, frame), wanted)

    @given(seeds, st.sampled_from(sorted(MIRRORS)))
    @examples(10)
    def test_what_takes_no_scale_of_a_mirrored_limb_takes_the_pose_as_its_reflection_too(self, seed, axis):
        random = np.random.default_rng(seed)
        body, arm, hand = (
            replace(random_part(random, number, above, is_deep=True), name=f"Near {number}", channels={}, footholds=())
            for number, above in enumerate((None, "p0", "p1"))
        )
        # Under a parent without skew: there the reflection carried along is one on the stage too.
        body = replace(body, name="Body", rest={"move.x": 40.0, "turn.x": 20.0, "turn.z": 33.0})
        hand = replace(hand, inherits=Inherits(scale=False))
        scene = Scene("s", "S", length=48, parts=(body, arm, hand), depth=True)
        scene = applied(scene, [MirroredCopy(("p1",), "m", axis)])
        spread = {"turn.x": 40.0, "turn.y": 40.0, "turn.z": 90.0, "move.x": 30.0, "move.y": 30.0, "scale.x": 0.2}
        pose = {
            part.name: {name: float(CHANNELS[name].neutral + random.normal() * by) for name, by in spread.items()}
            for part in (arm, hand)
        }
        posed = applied(scene, [PastePose(pose, frame=8.0), PastePose(pose, mirrored=True, frame=8.0)])
        above, centre = world_of(posed, "p0", 8.0), np.array([*body.centre, 0.0])
        mirror = MIRRORS[axis].copy()
        mirror[:3, 3] = (centre - mirror @ centre)[:3]
        for number, part in enumerate((arm, hand)):
            wanted = above @ mirror @ np.linalg.inv(above) @ world_of(posed, part.id, 8.0)
            self.assert_same(world_of(posed, f"m{number}", 8.0), wanted)

    def test_what_is_drawn_for_a_mirrored_limb_and_takes_no_scale_is_moved_as_its_other_side_is(self):
        arms = Part("a", "Near arm"), Part("b", "Far arm", rest={"scale.x": -1.0})
        hands = (
            Part(name, name, parent=arm.id, inherits=Inherits(scale=False))
            for name, arm in zip(("Near hand", "Far hand"), arms, strict=True)
        )
        scene = Scene("s", "S", parts=(*arms, *hands))
        reflection = reflection_between(scene, scene.part("Near hand"), scene.part("Far hand"))
        self.assertEqual(
            reflection.reflected({"move.x": 5.0, "turn.z": 30.0}, is_rest=False), {"move.x": 5.0, "turn.z": -30.0}
        )

    def test_limbs_drawn_for_two_sides_take_every_sign_from_the_one_table(self):
        scene = Scene("s", "S", parts=(Part("a", "Near arm"), Part("b", "Far arm")))
        pose = {"Near arm": {name: 0.5 for name in CHANNELS if name not in ("drawing", "shown", "order")}}
        after = applied(scene, [PastePose(pose, mirrored=True, frame=3.0)])
        values = evaluate(after, [3.0]).motion_at()["b"]
        self.assertEqual(values, {name: 0.5 * sign(name) for name in pose["Near arm"]})
        self.assertEqual(
            sorted(name for name in CHANNELS if sign(name) < 0),
            ["move.x", "shear.xy", "shear.xz", "slide.x", "spin.y", "spin.z", "turn.y", "turn.z"],
        )


class MirroredWhereRulesMeetTests(ExactnessCase):
    @given(seeds, st.sampled_from(sorted(MIRRORS)))
    @example(50, "facing")  # an end that keeps its turn between goals that count theirs
    @example(164, "upright")  # what is mirrored, sheared, and counts its turns
    @example(221, "upright")  # a chain that is straight where it reaches again
    @example(411, "level")  # carried out of the plane, with a child that takes no scale
    @examples(30)
    def test_copies_are_the_reflections_at_all_frames_or_refused(self, seed, axis):
        try:
            scene = self.limb(seed)
            after = applied(scene, [MirroredCopy(("root",), "m", axis, frame=0.0)])
        except RuleError:
            return
        frames = np.linspace(0.0, 40.0, 17)  # later much has vanished, and lies by the last digit
        pose = evaluate(after, frames)
        above = pose.world_of("body")
        centre = np.array([*scene.part("body").centre, 0.0])
        mirror = MIRRORS[axis].copy()
        mirror[:3, 3] = (centre - mirror @ centre)[:3]
        reflection = above @ mirror @ np.linalg.inv(above)
        limb = sorted(["root", *descendants(scene, "root")], key=lambda found: scene.index[found])
        found = pose.world[[pose.index[f"m{number}"] for number in range(len(limb))]]
        wanted = reflection @ pose.world[[pose.index[part_id] for part_id in limb]]
        # Half of half a turn goes to one side or the other by the last digit: there a nudge says as much as a mirror.
        is_chance = np.zeros(found.shape[:2], dtype=bool)
        for by in (1e-10, -1e-10):
            nudged = (p.with_rest({"turn.z": p.rest_value("turn.z") + by * n}) for n, p in enumerate(after.parts))
            is_chance |= (
                np.abs(evaluate(after.with_parts(nudged), frames).world - pose.world).max(axis=(2, 3))[
                    [pose.index[f"m{number}"] for number in range(len(limb))]
                ]
                > 1e-5
            )
        self.assertLess(is_chance.mean(), 0.3)
        self.assert_same(found[~is_chance], wanted[~is_chance])

    @staticmethod
    def limb(seed):
        """A scene where rules meet, all of it on one root that hangs on a body, perhaps a tilted one. Goals lie
        in it, and nothing is carried by half: what shears is taken apart along the stage's x then.
        """
        random = np.random.default_rng(seed)
        scene = meeting_scene(seed, may_be_deep=True)
        tilt = random.uniform(-60, 60, 3) if scene.depth and random.random() < 0.5 else np.zeros(3)
        lying = tuple(Rotation.from_euler("XYZ", tilt, degrees=True).as_quat().tolist())
        body = Part("body", "Body", rest={"move.x": 100.0, "move.y": 50.0}, orientation=lying)
        root = Part("root", "Root", parent="body", rest={"move.x": 10.0, "turn.z": 20.0})
        hung = []
        for part in scene.parts:
            kept = [
                one
                for one in part.constraints
                if len({goal.part for goal in one.every_goal()} - {None}) == len(one.every_goal())
            ]
            whole = {number_channel(one.id, "weight"): 1.0 for one in kept if one.kind == "carry"}
            gone = {number_channel(one.id, n) for one in part.constraints if one not in kept for n in one.numbers()}
            channels = {name: part.channels[name] for name in part.channels if name not in whole.keys() | gone}
            rest = {name: part.rest[name] for name in part.rest if name not in gone}
            inherits = Inherits(scale=part.inherits.scale or bool(seed % 3))
            part = replace(part, constraints=tuple(kept), channels=channels, rest=rest, inherits=inherits)
            hung.append(replace(part, parent=part.parent or "root").with_rest(whole))
        return ensure_sound(replace(scene, parts=(body, root, *hung)))
