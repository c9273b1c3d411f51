"""What a preview answers is what the whole film shows, however much of it was known before."""

import re
import unittest
from dataclasses import replace

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.edits import applied
from jointed_crane.core.edits.placing.poses import SetValues
from jointed_crane.core.edits.shared.dragged_numbers import numbers_of
from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.evaluate.packing.plan import hand_plan_on
from jointed_crane.core.evaluate.pose_at_frame import moved_pose, pose_at, pose_with
from jointed_crane.core.model.scene_change import SceneChange
from jointed_crane.formats.document import put_documents
from jointed_crane.web.api.answers import change_document
from tests.constrained_rigs import constrained, linked
from tests.strategies import cornered_scene, edit_for, examples, seeds, value_edit_for


def forgetting(scene):
    """The same scene made anew, so that nothing that was computed before comes along."""
    return replace(
        scene,
        parts=tuple(
            replace(part, channels={name: replace(channel) for name, channel in part.channels.items()})
            for part in scene.parts
        ),
    )


class PreviewTests(unittest.TestCase):
    @examples(28)
    @given(seeds, st.sampled_from([None, 0.0, 7.0, 12.5, 30.0]), st.data())
    def test_a_drag_shows_what_the_film_of_its_end_shows(self, seed, frame, data):
        before = applied(cornered_scene(seed), [])
        held = pose_at(before, frame)
        for edit in data.draw(st.lists(edit_for(before), min_size=1, max_size=4)):
            try:
                after = applied(before, [edit])
            except RuleError:
                continue
            moved = moved_pose(SceneChange(before, after), frame)
            self._assert_shows(after, frame, held, moved, edit)

    @examples(28)
    @given(seeds, st.sampled_from([None, 0.0, 7.0, 12.5, 30.0]), st.data())
    def test_numbers_alone_show_and_say_what_the_edit_does(self, seed, frame, data):
        before = applied(cornered_scene(seed), [])
        held = pose_at(before, frame)
        for edit in data.draw(st.lists(value_edit_for(before, frame), min_size=1, max_size=4)):
            try:
                after = applied(before, [edit])
            except RuleError as refused:
                with self.assertRaisesRegex(RuleError, re.escape(str(refused))):
                    self.assertIsNone(numbers_of(before, [edit], frame))
                    raise
                continue
            numbers = numbers_of(before, [edit], frame)
            if numbers is None:
                continue
            # Where what moves stands on footholds other frames have a say, and a scene is made.
            moved = pose_with(before, frame, numbers.values) or moved_pose(SceneChange(before, after), frame)
            self._assert_shows(after, frame, held, moved, edit)
            change = change_document(SceneChange(before, after), is_preview=True)
            said = {document["id"]: document for document in change["changed"]}
            self.assertEqual({document["id"]: document for document in put_documents(before, numbers)}, said, edit)

    @examples(28)
    @given(seeds, st.sampled_from([None, 0.0, 7.0, 12.5]), st.data())
    def test_numbers_of_levers_and_constraints_show_what_the_edit_does(self, seed, frame, data):
        before = applied(linked(constrained(cornered_scene(seed), seed), seed), [])
        held = pose_at(before, frame)
        names = [(part.id, name) for part in before.parts for name in part.numbers]
        names += [(part.id, "turn.z") for part in before.parts[:2]]
        for part, channel in data.draw(st.lists(st.sampled_from(names), min_size=1, max_size=5)):
            edit = SetValues((part,), {channel: data.draw(st.floats(0, 1))}, frame)
            after = applied(before, [edit])
            numbers = numbers_of(before, [edit], frame)
            moved = None if numbers is None else pose_with(before, frame, numbers.values)
            if moved is None:
                continue
            self._assert_shows(after, frame, held, moved, edit)
            change = change_document(SceneChange(before, after), is_preview=True)
            self.assertEqual(put_documents(before, numbers), change["changed"], edit)

    @examples(25)
    @given(seeds, st.data())
    def test_a_film_after_edits_is_that_of_the_scene_made_anew(self, seed, data):
        frames = np.arange(40.0)
        scene = applied(cornered_scene(seed), [])
        evaluate(scene, frames)
        for edit in data.draw(st.lists(edit_for(scene), min_size=1, max_size=4)):
            try:
                after = applied(scene, [edit])
            except RuleError:
                continue
            hand_plan_on(SceneChange(scene, after))
            film, anew = evaluate(after, frames), evaluate(forgetting(after), frames)
            for name in ("world", "pivot", "opacity", "drawing", "shown", "order", "motion"):
                found, wanted = getattr(film, name), getattr(anew, name)
                np.testing.assert_allclose(found, wanted, rtol=1e-9, atol=1e-9, err_msg=f"{name}: {edit}")

    def _assert_shows(self, after, frame, held, moved, edit):
        """That a pose of some parts, with the one before for all others, is what the film of a scene shows."""
        film = evaluate(forgetting(after).shown_as(frame), [frame or 0.0, 31.7])
        for row, part_id in enumerate(film.part_ids):
            found, at = (moved, moved.index[part_id]) if part_id in moved.index else (held, held.index[part_id])
            for name in ("world", "pivot", "opacity", "drawing", "shown", "order"):
                shown, wanted = (getattr(pose, name)[place, 0] for pose, place in ((found, at), (film, row)))
                size = max(1.0, float(np.abs(wanted).max()))
                np.testing.assert_allclose(shown, wanted, atol=1e-9 * size, err_msg=f"{name} of {part_id}: {edit}")
        for part_id, values in moved.motion_at().items():
            for name, value in values.items():
                self.assertAlmostEqual(value, film.motion_at()[part_id][name], delta=1e-9 * max(1.0, abs(value)))
