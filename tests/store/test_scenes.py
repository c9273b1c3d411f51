import contextlib
import tempfile
import unittest
import uuid
from dataclasses import replace
from pathlib import Path

import numpy as np
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from pydantic_core import from_json, to_json
from sqlalchemy import event

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.edits.pictures.painting import Reorder
from jointed_crane.core.edits.placing.poses import TurnBy
from jointed_crane.core.edits.scene.parts import AddParts
from jointed_crane.core.edits.scene.stage import RenameScene
from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.model.channels import CHANNELS
from jointed_crane.core.model.scene import Scene
from jointed_crane.core.model.scene_change import SceneChange
from jointed_crane.core.motion.channel import Channel, Key
from jointed_crane.core.soundness.whole_scene import ensure_sound, ensure_sound_after
from jointed_crane.formats.document import scene_document
from jointed_crane.store.library import Library
from jointed_crane.store.rows import changed_rows, scene_from_rows, scene_rows, with_rows
from jointed_crane.store.scenes import SceneMissing, StaleVersion
from tests.strategies import STUB, cornered_scene, edit_for, examples, random_part, random_scene, seeds


class StoreTestCase(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.library = Library(self.folder)
        self.library.assets.put([STUB])

    def restarted(self) -> Library:
        return Library(self.folder)


class RowTests(unittest.TestCase):
    @given(seeds)
    @examples(40)
    def test_channels_that_were_read_are_evaluated_and_said_without_their_keys(self, seed):
        scene = random_scene(seed, is_deep=True)
        text = from_json(to_json(list(scene_rows(scene).values())))
        read = scene_from_rows(scene.id, dict(zip(scene_rows(scene), text, strict=True)))
        frames = np.arange(0, 48, 0.5)
        np.testing.assert_array_equal(evaluate(read, frames).world, evaluate(scene, frames).world)
        self.assertEqual(to_json(scene_document(read)), to_json(scene_document(scene)))
        channels = [(name, channel) for part in read.parts for name, channel in part.channels.items()]
        self.assertEqual(
            [name for name, channel in channels if "keys" in vars(channel) and not CHANNELS[name].stepped], []
        )
        self.assertEqual(read, scene)

    @given(seeds)
    @examples(40)
    def test_rows_and_back_is_the_identity(self, seed):
        scene = random_scene(seed, is_deep=True)
        self.assertEqual(scene_from_rows(scene.id, scene_rows(scene)), scene)

    def test_the_difference_of_a_turn_is_one_row(self):
        scene = random_scene(2)
        before, after = changed_rows(SceneChange(scene, TurnBy(("p1",), 5.0).apply(scene)))
        self.assertEqual([key for key, _ in after], [("parts", "p1")])
        self.assertEqual([key for key, _ in before], [("parts", "p1")])

    def test_the_difference_of_a_new_key_is_its_channel(self):
        scene = random_scene(2)
        _, after = changed_rows(SceneChange(scene, TurnBy(("p1",), 5.0, 3.25).apply(scene)))
        self.assertEqual([key for key, _ in after], [("channels", "p1", "turn.z")])


class KeepTests(StoreTestCase):
    @given(seeds, st.data())
    @settings(examples(25), suppress_health_check=[HealthCheck.too_slow, HealthCheck.data_too_large])
    def test_any_edits_and_as_many_undos_restore_the_scene(self, seed, data):
        scene = replace(random_scene(seed, count=5), id=uuid.uuid4().hex)
        scenes = self.library.scenes
        kept = scenes.create(scene)
        states = [scene]
        for _ in range(data.draw(st.integers(1, 6))):
            if not kept.scene.parts:
                break
            edit = data.draw(edit_for(kept.scene))
            try:
                after = scenes.keep(scene.id, kept.version, [edit])
            except RuleError:
                continue
            if after.version != kept.version:
                states.append(after.scene)
            kept = after
        self.assertEqual(self.restarted().scenes.load(scene.id).scene, states[-1])
        for state in reversed(states[:-1]):
            kept = scenes.undo(scene.id, kept.version)
            self.assertEqual(kept.scene, state)
        self.assertEqual(self.restarted().scenes.load(scene.id).scene, scene)
        for state in states[1:]:
            kept = scenes.redo(scene.id, kept.version)
            self.assertEqual(kept.scene, state)
        with self.assertRaisesRegex(RuleError, "nothing to redo"):
            scenes.redo(scene.id, kept.version)

    def test_undo_survives_a_restart_with_its_label(self):
        kept = self.library.scenes.create(random_scene(1))
        self.library.scenes.keep("s", kept.version, [RenameScene("Weathervane")])
        again = self.restarted().scenes
        known = again.load("s")
        self.assertEqual((known.scene.name, known.undo_label), ("Weathervane", "Rename scene to Weathervane"))
        back = again.undo("s", known.version)
        self.assertEqual((back.scene.name, back.redo_label), ("Random", "Rename scene to Weathervane"))

    def test_a_new_edit_after_undo_drops_what_could_be_redone(self):
        scenes = self.library.scenes
        kept = scenes.create(random_scene(1))
        kept = scenes.keep("s", kept.version, [RenameScene("One")])
        kept = scenes.undo("s", kept.version)
        kept = scenes.keep("s", kept.version, [RenameScene("Two")])
        with self.assertRaises(RuleError):
            scenes.redo("s", kept.version)
        self.assertEqual(scenes.undo("s", kept.version).scene.name, "Random")

    def test_a_stale_edit_changes_nothing_and_tells_the_version(self):
        kept = self.library.scenes.create(random_scene(1))
        self.library.scenes.keep("s", kept.version, [RenameScene("One")])
        with self.assertRaises(StaleVersion) as refused:
            self.library.scenes.keep("s", kept.version, [RenameScene("Two")])
        self.assertEqual(refused.exception.version, kept.version + 1)
        self.assertEqual(self.library.scenes.load("s").scene.name, "One")

    def test_another_process_is_noticed_by_the_version(self):
        kept = self.library.scenes.create(random_scene(1))
        other = self.restarted()
        other.scenes.keep("s", kept.version, [RenameScene("From elsewhere")])
        self.assertEqual(self.library.scenes.load("s").scene.name, "From elsewhere")

    def test_an_edit_that_changes_nothing_leaves_no_trace(self):
        kept = self.library.scenes.create(random_scene(1))
        same = self.library.scenes.keep("s", kept.version, [RenameScene("Random")])
        self.assertEqual((same.version, same.undo_label), (kept.version, None))

    def test_art_that_is_not_stored_is_refused_whole(self):
        kept = self.library.scenes.create(random_scene(1))
        part = kept.scene.parts[0]
        stranger = replace(part, id="x", name="X", drawings=(replace(part.drawings[0], id="x-1", art="unknown"),))
        with self.assertRaisesRegex(RuleError, "not stored"):
            self.library.scenes.keep("s", kept.version, [AddParts((stranger,))])
        self.assertEqual(self.restarted().scenes.load("s").version, kept.version)

    def test_200_parts_with_1000_channels_take_no_query_a_part(self):
        random = np.random.default_rng(0)
        names = ("turn.z", "scale.x", "scale.y", "move.x", "move.y")
        channel = Channel((Key(0.0, 1.0), Key(10.0, 2.0)))
        parts = tuple(
            replace(random_part(random, number, None, False), channels=dict.fromkeys(names, channel))
            for number in range(200)
        )
        self.library.scenes.create(Scene("s", "Crowd", parts=parts))
        again = self.restarted()
        statements = []
        event.listen(again.scenes._engine, "before_cursor_execute", lambda *call: statements.append(call[2]))
        self.assertEqual(len(again.scenes.load("s").scene.parts), 200)
        self.assertLessEqual(len([text for text in statements if text.startswith("SELECT")]), 13)


class WrittenRowsTests(StoreTestCase):
    """An edit writes the rows that differ, and an undo reads nothing but what it writes."""

    def setUp(self):
        super().setUp()
        random = np.random.default_rng(0)
        parts = tuple(random_part(random, number, None, False) for number in range(300))
        self.library.scenes.create(Scene("s", "Crowd", parts=parts))
        self.kept = self.library.scenes.load("s")
        self.statements = []
        event.listen(self.library.scenes._engine, "before_cursor_execute", self._note)

    def _note(self, connection, cursor, text, parameters, context, is_many):
        self.statements.append((text, parameters if is_many else [parameters]))

    def _written(self):
        """How many rows below the scene's own were written and taken away, and the tables read, since last asked."""
        found, self.statements = self.statements, []
        rows = sum(len(rows) for text, rows in found if text.startswith(("INSERT", "DELETE")) and "journal" not in text)
        tables = ("parts", "drawings", "channels", "eyelets", "links", "marks", "poses")
        read = {name for text, _ in found for name in tables if text.startswith("SELECT") and f"FROM {name}" in text}
        return rows, read

    def test_one_part_to_the_front_writes_the_order_alone(self):
        before = [part.id for part in self.kept.scene.parts]
        kept = self.library.scenes.keep("s", self.kept.version, [Reorder(("p7",), "front")])
        self.assertEqual(self._written(), (0, set()))
        change = SceneChange(self.kept.scene, kept.scene)
        self.assertEqual([key for key, _ in changed_rows(change)[1]], [("painting",)])
        self.assertEqual([part.id for part in self.restarted().scenes.load("s").scene.parts][-1], "p7")
        back = self.library.scenes.undo("s", kept.version)
        self.assertEqual([part.id for part in back.scene.parts], before)
        self.assertEqual([part.id for part in self.restarted().scenes.load("s").scene.parts], before)

    def test_an_undo_reads_what_it_writes(self):
        kept = self.library.scenes.keep("s", self.kept.version, [TurnBy(("p7",), 5.0, 3.25)])
        self.assertEqual(self._written(), (2, set()))  # the channel as it was, and as it is
        kept = self.library.scenes.undo("s", kept.version)
        self.assertEqual(self._written(), (2, set()))
        self.assertTrue(all(part is old for part, old in zip(kept.scene.parts, self.kept.scene.parts, strict=True)
                            if part.id != "p7"))  # fmt: skip
        self.assertEqual(kept.scene, self.kept.scene)


class ChangeTests(unittest.TestCase):
    @examples(40)
    @given(seeds, st.data())
    def test_what_differs_is_what_a_look_at_everything_finds(self, seed, data):
        scene = cornered_scene(seed)
        own_id = lambda edit: getattr(edit, "id", None) or id(edit)  # noqa: E731  what is made has an id of its own
        edits = data.draw(st.lists(edit_for(scene), min_size=1, max_size=3, unique_by=own_id))
        after = scene
        for edit in edits:
            with contextlib.suppress(RuleError):
                after = edit.apply(after)
        change = SceneChange(scene, after)
        old, new = ({part.id: part for part in each.parts} for each in (scene, after))
        self.assertEqual({part.id for part, known in change.parts if part != known},
                         {name for name, part in new.items() if old.get(name) != part})  # fmt: skip
        self.assertTrue(all(known is old.get(part.id) for part, known in change.parts))
        self.assertEqual(set(change.removed), old.keys() - new.keys())
        self.assertEqual(change.is_ordered_anew, list(old) != list(new))
        beside = {name for name in scene_document(scene) if name not in ("id", "parts")}
        self.assertEqual(set(change.beside), {name for name in beside if getattr(scene, name) != getattr(after, name)})
        shown = {id(drawing) for part in scene.parts for drawing in part.drawings}
        fresh = {id(drawing) for part in after.parts for drawing in part.drawings} - shown
        self.assertEqual({id(drawing) for drawing in change.drawings}, fresh)
        before_rows, after_rows = scene_rows(scene), scene_rows(after)
        differ = {key for key in {**before_rows, **after_rows} if before_rows.get(key) != after_rows.get(key)}
        self.assertEqual({key for key, _ in changed_rows(change)[1]}, differ)
        self.assertEqual(with_rows(scene, changed_rows(change)[1]), after)
        # Soundness of what differs is soundness of the whole.
        if self._is_sound(lambda: ensure_sound(scene)):
            self.assertEqual(self._is_sound(lambda: ensure_sound_after(change)), self._is_sound(lambda: ensure_sound(
                scene_from_rows(after.id, after_rows))))  # fmt: skip

    def _is_sound(self, look):
        try:
            look()
        except RuleError:
            return False
        return True


class ShelfTests(StoreTestCase):
    def names(self):
        return [card.name for card in self.library.shelf.cards()]

    def test_delete_and_its_undo(self):
        self.library.shelf.create(random_scene(1))
        self.library.shelf.delete("s")
        self.assertEqual(self.names(), [])
        with self.assertRaises(SceneMissing):
            self.library.scenes.load("s")
        shelf = self.restarted().shelf
        self.assertEqual(shelf.undo_label(), "Delete Random")
        shelf.undo()
        self.assertEqual(self.names(), ["Random"])
        shelf.redo()
        self.assertEqual(self.names(), [])

    def test_a_duplicate_holds_everything_and_stands_alone(self):
        kept = self.library.shelf.create(random_scene(1))
        copy = self.library.shelf.duplicate("s")
        self.assertEqual(copy.scene.parts, kept.scene.parts)
        self.assertEqual(copy.scene.name, "Random copy")
        self.library.scenes.keep(copy.scene.id, copy.version, [TurnBy(("p1",), 5.0)])
        self.assertEqual(self.library.scenes.load("s").scene.parts, kept.scene.parts)

    def test_rename_and_its_undo(self):
        self.library.shelf.create(random_scene(1))
        self.library.shelf.rename("s", "Weathervane")
        self.assertEqual(self.names(), ["Weathervane"])
        self.library.shelf.undo()
        self.assertEqual(self.names(), ["Random"])
