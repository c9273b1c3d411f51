import json
import sqlite3
import tempfile
import unittest
from contextlib import closing
from pathlib import Path

from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext

from jointed_crane.core.edits.pictures.painting import Reorder
from jointed_crane.core.edits.placing.poses import TurnBy
from jointed_crane.core.edits.scene.parts import AddParts, DeleteParts
from jointed_crane.core.edits.scene.stage import RenameScene
from jointed_crane.core.model.scene import Drawing, Part, Scene, Source
from jointed_crane.core.motion.channel import Channel, Key
from jointed_crane.core.soundness.whole_scene import ensure_sound
from jointed_crane.store.database import FILE_NAME, opened
from jointed_crane.store.library import Library
from jointed_crane.store.rows import part_rows
from jointed_crane.store.tables import METADATA

#: The rest of the row of a part of which nothing is said.
_BARE_ROW = {name: value for name, value in part_rows(Part("a", "A"))["parts", "a"].items() if name != "name"}


class MigrationTests(unittest.TestCase):
    """A library as an older version left it opens, and is brought up to date with its undo."""

    def setUp(self):
        self.temporary = tempfile.TemporaryDirectory()
        self.addCleanup(self.temporary.cleanup)
        self.folder = Path(self.temporary.name)

    def older(self):
        """A library in which two parts' drawings have one id and a channel says what version 1 said."""
        library = Library(self.folder)
        (art,) = library.assets.put([("image/png", b"picture")])
        box = (0.0, 0.0, 9.0, 9.0)
        source = Source("f.svg", "wing", "eye")
        parts = [
            Part(name, name, drawings=(Drawing(f"{name}-1", "D", art, box, box, source=source),), fixed=("move.x",))
            for name in "ab"
        ]
        keys = (Key(0.0, 1.0), Key(9.0, 5.0))
        parts[0] = parts[0].with_channel("turn.z", Channel(keys, after="repeat onwards"))
        kept = library.scenes.create(Scene("s", "S", parts=tuple(parts)))
        kept = library.scenes.keep("s", kept.version, [RenameScene("Renamed")])
        with closing(sqlite3.connect(self.folder / FILE_NAME)) as connection, connection:
            connection.execute("PRAGMA foreign_keys = OFF")
            connection.execute("UPDATE drawings SET id = '1'")
            connection.execute("UPDATE channels SET outside = replace(outside, 'repeat onwards', 'repeat with offset')")
            connection.execute("UPDATE parts SET placement = replace(placement, '\"fixed\":', '\"held\":')")
            connection.execute("UPDATE drawings SET geometry = replace(geometry, '\"cross\":', '\"mark\":')")
            row = [[["drawings", "a", "1"], None], [["channels", "a", "turn.z"], {"after": "repeat with offset"}]]
            connection.execute("UPDATE journal SET before = ?", (json.dumps(row),))
            connection.execute("ALTER TABLE scenes DROP COLUMN painting")
            connection.execute("ALTER TABLE parts ADD COLUMN position INTEGER NOT NULL DEFAULT 0")
            connection.execute("UPDATE parts SET position = id = 'b'")
            for table in ("markers", "poses", "constraints", "links"):  # which later versions added
                connection.execute(f"DROP TABLE {table}")
            connection.execute("UPDATE alembic_version SET version_num = '0003'")
        return kept

    def test_ids_become_unique_and_words_new_in_rows_and_journal(self):
        before = self.older().scene
        library = Library(self.folder)
        scene = library.scenes.load("s").scene
        self.assertEqual([part.drawings[0].id for part in scene.parts], ["a-1", "b-1"])
        self.assertEqual(scene.part("a").channels, before.part("a").channels)
        self.assertEqual(scene.part("a").fixed, ("move.x",))
        self.assertEqual(scene.part("a").drawings[0].source, before.part("a").drawings[0].source)
        ensure_sound(scene)
        with closing(sqlite3.connect(self.folder / FILE_NAME)) as connection:
            ((journal,),) = connection.execute("SELECT before FROM journal").fetchall()
        row = [[["drawings", "a", "a-1"], None], [["channels", "a", "turn.z"], {"after": "repeat onwards"}]]
        self.assertEqual(json.loads(journal), row)

    def test_ids_of_drawings_that_only_undo_brings_back_become_unique_too(self):
        library = Library(self.folder)
        (art,) = library.assets.put([("image/png", b"picture")])
        box = (0.0, 0.0, 9.0, 9.0)
        parts = tuple(Part(name, name, drawings=(Drawing(f"{name}-1", "D", art, box, box),)) for name in "ab")
        kept = library.scenes.create(Scene("s", "S", parts=parts))
        library.scenes.keep("s", kept.version, [DeleteParts(("a",))])
        with closing(sqlite3.connect(self.folder / FILE_NAME)) as connection, connection:
            connection.execute("PRAGMA foreign_keys = OFF")
            connection.execute("UPDATE drawings SET id = '1'")
            connection.execute("UPDATE journal SET before = replace(before, 'a-1', '1')")
            connection.execute("UPDATE journal SET after = replace(after, 'a-1', '1')")
            connection.execute("UPDATE alembic_version SET version_num = '0008'")
        again = Library(self.folder).scenes
        undone = again.undo("s", again.load("s").version).scene
        self.assertEqual([part.drawings[0].id for part in undone.parts], ["a-1", "b-1"])
        ensure_sound(undone)

    def test_the_painting_order_comes_out_of_the_places_of_parts_with_its_undo(self):
        """As version 7 had it: a place in each part's row, in the journal too."""
        library = Library(self.folder)
        kept = library.scenes.create(Scene("s", "S", parts=tuple(Part(name, name.upper()) for name in "abcd")))
        orders = [[*kept.scene.index]]
        for edit in (Reorder(("a",), "front"), DeleteParts(("c",)), TurnBy(("d",), 5.0), AddParts((Part("e", "E"),))):
            kept = library.scenes.keep("s", kept.version, [edit])
            orders.append([*kept.scene.index])
        kept = library.scenes.undo("s", kept.version)
        with closing(sqlite3.connect(self.folder / FILE_NAME)) as connection, connection:
            connection.execute("ALTER TABLE parts ADD COLUMN position INTEGER NOT NULL DEFAULT 0")
            for place, name in enumerate(kept.scene.index):
                connection.execute("UPDATE parts SET position = ? WHERE id = ?", (place, name))
            for number, (before, after) in enumerate(zip(orders, orders[1:], strict=False), start=1):
                row = connection.execute("SELECT before, after FROM journal WHERE number = ?", (number,)).fetchone()
                told = [self._with_places(json.loads(side), order, other) for side, order, other in
                        zip(row, (before, after), (after, before), strict=True)]  # fmt: skip
                connection.execute("UPDATE journal SET before = ?, after = ? WHERE number = ?",
                                   (*map(json.dumps, told), number))  # fmt: skip
            connection.execute("ALTER TABLE scenes DROP COLUMN painting")
            connection.execute("UPDATE alembic_version SET version_num = '0007'")
        again = Library(self.folder).scenes
        kept = again.load("s")
        self.assertEqual([*kept.scene.index], orders[3])
        kept = again.redo("s", kept.version)
        self.assertEqual([*kept.scene.index], orders[4])
        for order in reversed(orders[:-1]):
            kept = again.undo("s", kept.version)
            self.assertEqual([*kept.scene.index], order)
            self.assertEqual([*Library(self.folder).scenes.load("s").scene.index], order)

    @staticmethod
    def _with_places(changes, order, other):
        """Rows of a journal with a place in each part's, and a row for each part that lies at another one."""
        found = {tuple(key): values for key, values in changes if key != ["painting"]}
        moved = [name for name in order if name in other and order.index(name) != other.index(name)]
        for name in moved:
            found.setdefault(("parts", name), {"name": name.upper(), **_BARE_ROW})
        for key, values in found.items():
            if key[0] == "parts" and values is not None:
                values["position"] = order.index(key[1])
        return [[list(key), values] for key, values in found.items()]

    def test_the_tables_are_what_the_migrations_make(self):
        with opened(self.folder).connect() as connection:
            context = MigrationContext.configure(connection, opts={"compare_type": True})
            self.assertEqual(compare_metadata(context, METADATA), [])
