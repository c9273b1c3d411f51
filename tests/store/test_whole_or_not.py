"""What comes in from a file is there whole or not at all, and nothing is out of reach or left behind."""

import threading
from dataclasses import replace
from unittest.mock import patch

from heron_lock import heron
from heron_lock.build import DEMO_SCENES, build_demo
from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.edits.pictures.drawings import AddDrawing
from jointed_crane.core.edits.pictures.making_shapes import AddShape
from jointed_crane.core.edits.scene.parts import AddParts, DeleteParts
from jointed_crane.core.model.forms import Rectangle
from jointed_crane.core.model.scene import Drawing, Part, Scene
from jointed_crane.formats.bring_in import read_artwork
from jointed_crane.store import art_at_hand
from jointed_crane.store import scenes as scene_store
from jointed_crane.store.assets import content_hash
from jointed_crane.store.library import Library
from jointed_crane.store.scenes import StaleVersion
from tests.store.test_scenes import StoreTestCase
from tests.strategies import STUB, STUB_NAME, random_scene

DRAWING = (
    b'<svg xmlns="http://www.w3.org/2000/svg" width="60" height="30"><rect id="mast" width="9" height="9"/>'
    b'<circle id="hook" r="5"/></svg>'
)


def stored(library):
    with library.scenes._engine.connect() as connection:
        return {
            table: connection.exec_driver_sql(f"SELECT count(*) FROM {table}").scalar_one()
            for table in ("scenes", "parts", "drawings", "assets", "shelf_journal")
        }


class WholeTests(StoreTestCase):
    def test_a_scene_from_a_file_that_breaks_off_leaves_nothing(self):
        before = stored(self.library)
        artwork = read_artwork(DRAWING, "crane.svg")
        for broken in ("_put",):
            with patch.object(scene_store.SceneStore, broken, side_effect=OSError), self.assertRaises(OSError):
                self.library.new_from(artwork, "Crane")
            self.assertEqual(stored(self.library), before)
        kept = self.library.new_from(artwork, "Crane")
        self.assertEqual([part.name for part in kept.scene.parts], ["mast", "hook"])
        self.assertEqual(self.restarted().scenes.load(kept.scene.id).scene, kept.scene)

    def test_a_demo_scene_that_broke_off_comes_at_the_next_start(self):
        with patch.object(heron, "build", side_effect=OSError), self.assertRaises(OSError):
            build_demo(self.library)
        names = [card.name for card in self.library.shelf.cards()]
        self.assertEqual(names, [scene.NAME for scene in reversed(DEMO_SCENES) if scene is not heron])
        self.assertEqual(build_demo(self.restarted()), ["Heron on the sill"])

    def test_edits_are_computed_before_the_lock_and_compared_behind_it(self):
        kept = self.library.scenes.create(random_scene(1))
        edit = DeleteParts((kept.scene.parts[0].id,))
        change = self.library.scenes.changed("s", kept.version, [edit])
        other = self.restarted()
        other.scenes.keep("s", kept.version, [edit])
        with self.assertRaises(StaleVersion), scene_store.writing(self.library.scenes._engine).begin() as connection:
            self.library.scenes.write(connection, change)


class ArtTests(StoreTestCase):
    def test_art_is_named_by_what_is_stored_whoever_asks(self):
        (name,) = self.library.assets.put([("image/png", b"picture")])
        self.assertEqual(name, content_hash(b"picture"))
        kept = self.library.scenes.create(Scene("s", "S"))
        made = AddShape("r", Rectangle((0.0, 0.0, 9.0, 9.0))).apply(Scene("x", "X")).parts[0].drawings[0]
        wrong = Part("r", "R", drawings=(replace(made, art=name),))
        with self.assertRaisesRegex(RuleError, "not what the shape is drawn as"):
            self.library.scenes.keep("s", kept.version, [AddParts((wrong,))])

    def test_art_that_is_looked_at_is_stored_with_the_edit_that_shows_it(self):
        kept = self.library.scenes.create(Scene("s", "S", parts=(Part("a", "A"),)))
        before = stored(self.library)["assets"]
        (name,) = self.library.assets.hold([("image/png", b"looked at")])
        self.assertEqual(self.library.assets.get(name), ("image/png", b"looked at"))
        self.assertEqual(stored(self.library)["assets"], before)
        box = (0.0, 0.0, 9.0, 9.0)
        self.library.scenes.keep("s", kept.version, [AddDrawing("a", Drawing("a-1", "A", name, box, box))])
        self.assertEqual(self.restarted().assets.get(name), ("image/png", b"looked at"))

    def test_what_one_server_has_read_another_one_over_the_same_folder_adds(self):
        kept = self.library.scenes.create(Scene("s", "S", parts=(Part("a", "A"),)))
        other = Library(self.folder)
        (name,) = other.assets.hold([("image/png", b"looked at")])
        self.assertEqual(self.library.assets.get(name), ("image/png", b"looked at"))
        box = (0.0, 0.0, 9.0, 9.0)
        self.library.scenes.keep("s", kept.version, [AddDrawing("a", Drawing("a-1", "A", name, box, box))])
        (self.folder / art_at_hand.FILE_NAME).unlink()
        self.assertEqual(self.restarted().assets.get(name), ("image/png", b"looked at"))

    def test_art_at_hand_gives_way_to_newer_and_does_without_its_file(self):
        with patch.object(art_at_hand, "_MOST_HELD", 100):
            names = self.library.assets.hold(("image/png", b"%d" % number * 40) for number in range(4))
            names += self.library.assets.hold([("image/png", b"a" * 500)])
            other = Library(self.folder)
            for name in names[:-1]:
                self.assertRaisesRegex(RuleError, "not stored here", other.assets.get, name)
            self.assertEqual(other.assets.get(names[-1]), ("image/png", b"a" * 500))
        (self.folder / art_at_hand.FILE_NAME).write_bytes(b"no database at all" * 100)
        (name,) = self.library.assets.hold([("image/png", b"looked at")])
        self.assertEqual(self.library.assets.get(name), ("image/png", b"looked at"))
        self.assertRaisesRegex(RuleError, "not stored here", other.assets.get, name)

    def test_art_that_nothing_uses_is_swept_and_what_undo_needs_stays(self):
        kept = self.library.scenes.create(random_scene(1))
        (gone,) = self.library.assets.put([("image/png", b"left behind")])
        (font,) = self.library.assets.put([("font/sfnt", b"font")])
        kept = self.library.scenes.keep("s", kept.version, [DeleteParts(tuple(kept.scene.index))])
        self.assertEqual(self.library.assets.sweep(), 1)
        with self.assertRaises(RuleError):
            self.library.assets.get(gone)
        self.assertEqual(self.library.assets.get(font)[0], "font/sfnt")
        self.assertEqual(self.library.assets.get(STUB_NAME), STUB)
        self.assertEqual(len(self.library.scenes.undo("s", kept.version).scene.parts), 7)


class ShelfReachTests(StoreTestCase):
    def names(self):
        return sorted(card.name for card in self.library.shelf.cards())

    def test_undoing_the_making_of_a_scene_never_puts_it_out_of_reach(self):
        shelf = self.library.shelf
        shelf.create(Scene("s", "Worked on for hours"))
        shelf.undo()
        shelf.create(Scene("t", "Another"))
        self.assertEqual(self.names(), ["Another"])
        self.assertEqual(shelf.undo(), "New scene Another")
        self.assertEqual(shelf.undo(), "Delete Worked on for hours")
        self.assertEqual(self.names(), ["Worked on for hours"])

    def test_many_that_undo_at_once_each_take_a_step(self):

        shelf = self.library.shelf
        for number in range(6):
            shelf.create(Scene(f"s{number}", f"Scene {number}"))
        answers = []
        threads = [threading.Thread(target=lambda: answers.append(shelf.undo())) for _ in range(4)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(sorted(answers), [f"New scene Scene {number}" for number in (2, 3, 4, 5)])
        self.assertEqual(self.names(), ["Scene 0", "Scene 1"])
