"""A full disk, a read-only folder and a damaged file: three sentences, each true, and nothing is lost."""

import errno
import re
import sqlite3
import tempfile
import unittest
from contextlib import closing
from pathlib import Path
from unittest import mock

from sqlalchemy import event
from sqlalchemy.exc import DatabaseError

from jointed_crane.cli import main
from jointed_crane.core.model.scene import Scene
from jointed_crane.store import database
from jointed_crane.store.database import FILE_NAME
from jointed_crane.store.faults import fault_of
from jointed_crane.store.library import Library, new_id
from jointed_crane.web import create_app
from tests.demo_library import WORKERS
from tests.web.test_api import ApiTestCase


class FaultTests(ApiTestCase):
    def keep(self):
        card = self.library.shelf.cards()[0]
        kept = self.library.scenes.load(card.id)
        edit = {"edit": "rename_scene", "name": f"Name {kept.version} {'a' * 80}"}
        return kept, self.post(f"/api/scenes/{card.id}/edits", {"version": kept.version, "edits": [edit]})

    def folder(self):
        return Path(self.client.application.config["DATA_FOLDER"])

    def test_on_a_full_disk_nothing_changes_and_what_was_stored_is_kept(self):
        self.with_heron()
        engine = self.library.scenes._engine
        count = engine.connect().exec_driver_sql("PRAGMA page_count").scalar()

        def filled(connection, _record):
            connection.execute(f"PRAGMA max_page_count = {count}")

        engine.dispose()
        event.listen(engine, "connect", filled)
        for _ in range(60):
            kept, answer = self.keep()
            if answer.status_code != 200:
                break
        words = "disk is full .* Nothing was changed, and what was stored before is kept; make room"
        self.assert_problem(answer, 507, words)
        self.assertEqual(self.library.scenes.load(kept.scene.id), kept)
        event.remove(engine, "connect", filled)
        engine.dispose()
        self.assertEqual(self.keep()[1].status_code, 200)

    def test_a_read_only_library_is_listed_looked_at_and_sent(self):
        kept = self.with_heron()
        for is_written_back in (False, True):
            if is_written_back:  # what was last written lies in the file itself
                with closing(sqlite3.connect(self.folder() / FILE_NAME)) as connection:
                    connection.execute("PRAGMA wal_checkpoint(TRUNCATE)")
            with mock.patch.object(database, "is_writable", return_value=False):
                app = create_app(self.folder(), workers=WORKERS)
            client = app.test_client()
            page = client.get("/").get_data(as_text=True)
            self.assertIn("Heron", page)
            self.assertEqual(client.get(f"/api/scenes/{kept.scene.id}").get_json()["version"], kept.version)
            self.assertTrue(client.get(f"/api/scenes/{kept.scene.id}/send/svg").data.startswith(b"<?xml"))
            token = re.search(r'name="csrf-token" content="([^"]+)"', page)[1]
            edit = {"edit": "rename_scene", "name": "Other"}
            answer = client.post(
                f"/api/scenes/{kept.scene.id}/edits",
                json={"version": kept.version, "edits": [edit]},
                headers={"X-CSRFToken": token},
            )
            self.assert_problem(
                answer, 403, "is read-only here. Nothing was changed, and what was stored before is kept"
            )
            self.assertEqual(app.extensions["library"].scenes.load(kept.scene.id).scene.name, "Heron")

    def test_a_damaged_file_is_said_to_be_damaged_and_promises_nothing(self):
        self.with_heron()
        with closing(sqlite3.connect(self.folder() / FILE_NAME)) as connection:
            connection.execute("PRAGMA wal_checkpoint(TRUNCATE)")
        self.library.scenes._engine.dispose()
        file = self.folder() / FILE_NAME
        data = bytearray(file.read_bytes())
        data[4096:] = bytes(len(data) - 4096)
        file.write_bytes(data)
        answer = self.client.get("/api/scenes/none", headers={"X-CSRFToken": self.token})
        self.assert_problem(answer, 503, "is damaged, or its file is of another program. Nothing was written into it")
        self.assertNotIn("kept", answer.get_json()["detail"])

    def test_what_the_system_says_of_a_disk_is_told_apart(self):
        folder = Path("/somewhere")
        for number, kind in ((errno.ENOSPC, "full"), (errno.EROFS, "read-only"), (errno.EACCES, "read-only")):
            self.assertEqual(fault_of(OSError(number, "no"), folder).kind, kind)
        self.assertIsNone(fault_of(OSError(errno.ENOENT, "no"), folder))
        self.assertIsNone(fault_of(ValueError("no"), folder))
        with closing(sqlite3.connect(":memory:")) as connection:
            connection.execute("PRAGMA query_only = ON")
            try:
                connection.execute("CREATE TABLE t (a)")
            except sqlite3.Error as error:
                self.assertEqual(fault_of(DatabaseError("", {}, error), folder).kind, "read-only")


class SendingTests(unittest.TestCase):
    def test_what_was_there_stays_where_a_file_cannot_be_written(self):
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            library = Library(folder / "data")
            library.shelf.create(Scene(new_id(), "Quay"))
            target = folder / "quay.svg"
            target.write_text("what was there")
            words = ["send", "Quay", "--as", "svg", "--to", str(target), "--data", str(folder / "data")]
            fault = OSError(errno.ENOSPC, "No space left on device")
            with mock.patch("os.replace", side_effect=fault), self.assertRaises(SystemExit) as ended:
                main(words)
            self.assertEqual(ended.exception.code, 1)
            self.assertEqual(target.read_text(), "what was there")
            self.assertEqual({file.name for file in folder.iterdir()}, {"data", "quay.svg"})
            with self.assertRaises(SystemExit):
                main(words)
            self.assertTrue(target.read_bytes().startswith(b"<?xml"))

    def test_junk_in_the_session_key_is_replaced_and_logged(self):
        with tempfile.TemporaryDirectory() as name:
            key = Path(name) / "session.key"
            key.write_bytes(b"\xff" * 80)
            with self.assertLogs("jointed_crane.web", "WARNING") as logged:
                create_app(Path(name), workers=WORKERS)
            self.assertIn("session key", logged.output[0])
            self.assertRegex(key.read_text(), "^[0-9a-f]{64}$")
