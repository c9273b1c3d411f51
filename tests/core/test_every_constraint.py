"""What holds for every kind of constraint, whatever it declares: one that is added is covered by this."""

import unittest
from dataclasses import replace

import numpy as np

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.constraints.constraint import Goal, number_channel
from jointed_crane.core.constraints.every import KINDS, NUMBERS
from jointed_crane.core.edits import applied
from jointed_crane.core.edits.constraints.constraining import ChangeConstraint, Constrain
from jointed_crane.core.edits.scene.copies import Duplicate
from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.evaluate.pose_at_frame import narrowed
from jointed_crane.core.model.channels import channel_kind
from jointed_crane.core.model.scene import Eyelet, Mark
from jointed_crane.formats.document import scene_document, scene_from
from jointed_crane.formats.edit_document import edit_document, edit_from
from jointed_crane.store.rows import scene_from_rows, scene_rows
from tests.constrained_rigs import any_constraint
from tests.strategies import random_part, random_scene


def rig(seed):
    """A scene with parts on which nothing hangs, to be goals: they have outlines, eyelets, and a mark beside them."""
    random = np.random.default_rng(seed)
    goals = []
    for number in (90, 91, 92):
        part = random_part(random, number, None, is_deep=False)
        left, top, right, bottom = part.bounds
        ring = ((left, top), (right, top), (right, bottom), (left, bottom))
        drawing = replace(part.drawings[0], outline=(ring,))
        goals.append(replace(part, drawings=(drawing,), eyelets=(Eyelet("e", "Eyelet", (4.0, 5.0, 0.0)),)))
    scene = random_scene(seed, 5)
    return replace(scene, parts=(*scene.parts, *goals), marks=(Mark("m", "Mark", (40.0, 60.0)),)), random


def any_of(kind, constraint_id, random):
    """A constraint of a kind that refers to all sorts of goals, or to pivots alone where it takes nothing else."""

    def pivot():
        return Goal(part=f"p{random.integers(90, 93)}")

    def goal():
        sorts = [{}, {"at": "centre"}, {"at": "point", "point": (3.0, -4.0, 0.0)}, {"at": "eyelet", "named": "e"}]
        sort = int(random.integers(len(sorts) + 1))
        return replace(pivot(), **sorts[sort]) if sort < len(sorts) else Goal(at="mark", named="m")

    one = any_constraint(kind, constraint_id, goal if kind.HAS_POINTS else pivot, random)
    return any_constraint(kind, constraint_id, pivot, random) if one.fault() else one


class EveryKindTests(unittest.TestCase):
    def each(self, seeds=range(4)):
        """For every kind a scene in which two parts have one of it, with other goals and other choices."""
        for name, kind in KINDS.items():
            for seed in seeds:
                scene, random = rig(seed)
                for part in ("p0", "p1"):
                    one = any_of(kind, f"c-{part}", random)
                    numbers = {n: float(random.uniform(0.2, 0.9)) for n in one.numbers()}
                    try:
                        scene = applied(scene, [Constrain(part, one, numbers)])
                    except RuleError as error:
                        self.fail(f"{name} {one}: {error}")
                with self.subTest(name, seed=seed):
                    yield scene, random

    def test_documents_and_rows_give_it_back(self):
        for scene, _ in self.each():
            self.assertEqual(scene_from(scene_document(scene)), scene)
            self.assertEqual(scene_from_rows(scene.id, scene_rows(scene)), scene)
            edit = ChangeConstraint("p0", scene.part("p0").constraints[0])
            self.assertEqual(edit_from(edit_document(edit)), edit)

    def test_what_is_wrong_is_told_where_it_is_wrong(self):
        for scene, _ in self.each(range(1)):
            (one,) = scene.part("p0").constraints
            document = edit_document(ChangeConstraint("p0", one))
            document["constraint"]["is_on"] = 3
            with self.assertRaisesRegex(RuleError, rf"constraint\.{one.kind}\.is_on: input should be a valid boolean"):
                edit_from(document)
            document["constraint"] |= {"is_on": True, "strange": 1}
            with self.assertRaisesRegex(RuleError, rf"constraint\.{one.kind}\.strange: unexpected"):
                edit_from(document)

    def test_copies_refer_to_copies(self):
        for scene, _ in self.each():
            after = applied(scene, [Duplicate(tuple(part.id for part in scene.parts), "copy")])
            copies = {part.id for part in after.parts if part.id.startswith("copy")}
            for original, copy in zip(scene.parts, (p for p in after.parts if p.id in copies), strict=True):
                for one, other in zip(original.constraints, copy.constraints, strict=True):
                    self.assertEqual(len(one.every_goal()), len(other.every_goal()))
                    for goal in other.every_goal():
                        self.assertTrue(goal.part is None or goal.part in copies, goal)

    def test_they_act_together_as_alone(self):
        frames = np.arange(0.0, 40.0, 3.0)
        for scene, _ in self.each(range(8)):
            together = evaluate(scene, frames)
            for part in ("p0", "p1"):
                other = scene.part({"p0": "p1", "p1": "p0"}[part])
                alone = scene.with_parts([replace(other, constraints=())])
                if other.id in narrowed(scene, [part]).index:
                    continue  # it hangs on the other one, which lies elsewhere without its constraint
                found = evaluate(narrowed(alone, [part]), frames).world_of(part, slice(None))
                size = max(1.0, float(np.abs(found).max()))
                np.testing.assert_allclose(
                    together.world_of(part, slice(None)), found, rtol=0, atol=1e-9 * size, err_msg=str(scene.part(part))
                )

    def test_points_times_and_sides_are_carried_along(self):
        for scene, _ in self.each(range(2)):
            (one,) = scene.part("p0").constraints
            moved = one.with_points(lambda point: (point[0] + 1.0, point[1], point[2]))
            self.assertEqual([x - 1.0 for x, _, _ in moved.own_points()], [x for x, _, _ in one.own_points()])
            self.assertEqual(one.retimed(lambda frame: frame + 2).moments(), tuple(at + 2 for at in one.moments()))
            self.assertEqual(one.resting().moments(), ())
            self.assertEqual(one.mirrored().mirrored(), one)

    def test_every_number_is_a_channel_with_the_words_it_declares(self):
        for scene, _ in self.each(range(1)):
            (one,) = scene.part("p0").constraints
            for name in one.numbers():
                kind, number = channel_kind(number_channel(one.id, name)), NUMBERS[name.rstrip("0123456789")]
                self.assertEqual((kind.neutral, kind.unit, kind.ends), (number.neutral, number.unit, number.ends))
                self.assertTrue(kind.label.startswith(number.label))

    def test_one_name_of_a_number_means_one_thing(self):
        for kind in KINDS.values():
            for number in kind.NUMBERS:
                self.assertEqual(number, NUMBERS[number.name])
