"""Sending beside everything else: the queue, what is kept when work ends under it, and going on."""

import os
import random
import shutil
import subprocess
import sys
import tempfile
import time
import unittest
import zipfile
from pathlib import Path
from unittest import mock

from jointed_crane.core.edits.scene.stage import RenameScene
from jointed_crane.sending import sender as sender_room
from jointed_crane.sending.frame_files import FrameFiles
from jointed_crane.sending.sender import Sender
from jointed_crane.store import sendings as sendings_room
from jointed_crane.store.library import Library, new_id
from jointed_crane.store.sendings import SendingMissing
from tests.demo_library import WORKERS, copy_demo, written
from tests.strategies import SEED, TIMES

#: A program that sends what waits in a library until it is killed.
PROGRAM = """
import sys, time
from pathlib import Path
from jointed_crane.sending.sender import Sender
from jointed_crane.store.library import Library
from jointed_crane.work.workers import Workers
sender = Sender(Library(Path(sys.argv[1])), Workers(modules=["jointed_crane.sending.jobs"]))
sender.wake()
print("awake", flush=True)
time.sleep(600)
"""
SMALL = {"scale": 0.2, "first": 0, "last": 35}


class QueueTestCase(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        copy_demo(self.folder)
        self.library = Library(self.folder)
        self.entry = self.library.scenes.load(self.library.shelf.cards()[0].id)
        self.sender = Sender(self.library, WORKERS)
        self.addCleanup(self.sender.close)

    def added(self, way, **choices):
        return self.library.sendings.add(new_id(), self.entry.scene, self.entry.version, way, choices, f"x.{way}")

    def until(self, sending, *states, seconds=60):
        end = time.monotonic() + seconds
        while (known := self.library.sendings.get(sending.id)).state not in states:
            self.assertLess(time.monotonic(), end, f"{known.state} still, at {known.done} of {known.of}: {known.fault}")
            time.sleep(0.02)
        return known

    def art(self, name):
        return self.library.assets.get(name)


class SenderTests(QueueTestCase):
    def test_what_is_sent_is_what_is_made_here_of_the_scene_as_it_was(self):
        waiting = [self.added("webp", **SMALL), self.added("svg"), self.added("still", frame=3.5)]
        self.library.scenes.keep(self.entry.scene.id, self.entry.version, [RenameScene("Another")])
        self.sender.wake()
        for sending in waiting:
            done = self.until(sending, "done", "failed")
            self.assertEqual((done.state, done.fault, done.scene_version), ("done", "", self.entry.version))
            data = self.sender.file(done).read_bytes()
            self.assertEqual(data, written(self.entry.scene, self.art, done.way, **done.choices))
            self.assertEqual(done.size, len(data))
        self.assertEqual((done.done, self.library.sendings.get(waiting[0].id).of), (0, 36))
        self.assertIsNotNone(self.sender.newest_frame(waiting[0]))

    def test_a_table_is_one_job_that_goes_on_with_the_rows_that_are_left(self):
        part = self.entry.scene.parts[0]
        names = [drawing.name for drawing in part.drawings]
        rows = [{f"{part.name}: picture": "x"}, *({} for _ in names)]
        filling = {"rows": rows, "names": "row {row}", "fit": "registration", "pictures": {}}
        given = (self.entry.scene, self.entry.version, "still", {"scale": 0.1}, "x.zip", filling)
        sending = self.library.sendings.add(new_id(), *given)
        self.sender.wake()
        failed = self.until(sending, "done", "failed")
        self.assertEqual(
            failed.fault, "Row 1: There is no picture 'x' beside the table; it has none yet. Nothing was sent."
        )
        self.assertEqual(failed.of, 2)
        self.library.sendings.go_on(sending.id)
        rows[0].clear()
        again = self.library.sendings.add(new_id(), *given)
        self.sender.wake()
        self.assertEqual(self.until(again, "done", "failed").fault, "")
        with zipfile.ZipFile(self.sender.file(again)) as archive:
            self.assertEqual(archive.namelist(), ["row 1.png", "row 2.png"])
            still = written(self.entry.scene, self.art, "still", scale=0.1)
            self.assertEqual({archive.read(name) for name in archive.namelist()}, {still})
        self.assertEqual([path.name for path in self.sender.file(again).parent.iterdir()], ["file.zip"])

    def test_it_stops_keeps_what_is_drawn_and_goes_on(self):
        sending = self.added("webp", scale=0.3, last=60)
        files = FrameFiles(self.sender.file(sending).parent)
        with mock.patch.object(sender_room, "_TELL", 0.02):
            self.sender.wake()
            while not files.has(0):
                time.sleep(0.002)
            stopped = self.library.sendings.stop(sending.id)
            self.assertEqual(stopped.state, "stopped")
            time.sleep(1.0)  # long enough for workers to see it
        left = sum(last - first + 1 for first, last in files.missing(61))
        self.assertTrue(0 < left < 61, left)
        time.sleep(0.3)
        self.assertEqual(sum(last - first + 1 for first, last in files.missing(61)), left)
        self.library.sendings.go_on(sending.id)
        self.sender.wake()
        self.until(sending, "done")
        wanted = written(self.entry.scene, self.art, "webp", scale=0.3, last=60)
        self.assertEqual(self.sender.file(sending).read_bytes(), wanted)

    def test_what_cannot_be_sent_says_why_and_the_next_is_sent(self):
        refused = self.added("webp", part="Nobody")
        sent = self.added("zip")
        self.sender.wake()
        self.assertIn("no part called 'Nobody'", self.until(refused, "failed").fault)
        self.until(sent, "done")

    def test_a_defect_of_ours_is_said_too_and_the_next_is_sent(self):
        broken, sent = self.added("svg"), self.added("zip")
        with (
            mock.patch.object(Sender, "_folder", side_effect=[ValueError("odd"), self.folder, self.folder]),
            self.assertLogs(sender_room.__name__),
        ):
            self.sender.wake()
            self.assertIn("the log says more", self.until(broken, "failed").fault)
            self.until(sent, "done")

    def test_a_full_disk_ends_in_a_sentence_and_it_can_go_on(self):
        sending = self.added("webp", **SMALL)
        for where, what in (
            (sender_room.os, {"replace": mock.Mock(side_effect=OSError(28, os.strerror(28)))}),
            (sender_room.shutil, {"disk_usage": mock.Mock(return_value=mock.Mock(free=sender_room._ROOM - 1))}),
        ):
            with mock.patch.multiple(where, **what):
                self.library.sendings.go_on(sending.id)
                self.sender.wake()
                self.assertIn("The disk has no room for it. What is drawn is kept", self.until(sending, "failed").fault)
            self.assertEqual(list(self.sender.file(sending).parent.glob("*.part")), [])
        self.library.sendings.go_on(sending.id)
        self.sender.wake()
        self.until(sending, "done")

    def test_killed_at_any_moment_it_goes_on_and_the_result_is_the_same(self):
        chance = random.Random(SEED)
        sending = self.added("apng", **SMALL)
        wanted = written(self.entry.scene, self.art, "apng", **SMALL)
        environment = {**os.environ, "PYTHONPATH": os.pathsep.join(filter(None, sys.path))}
        for _ in range(TIMES):
            program = subprocess.Popen(
                [sys.executable, "-c", PROGRAM, str(self.folder)], env=environment, stdout=subprocess.PIPE
            )
            program.stdout.readline()
            time.sleep(chance.uniform(0.0, 1.5))
            program.kill()
            program.wait()
            program.stdout.close()
            if self.library.sendings.get(sending.id).state == "done":
                self.assertEqual(self.sender.file(sending).read_bytes(), wanted)
                sending = self.added("apng", **SMALL)
        self.sender.wake()
        done = self.until(sending, "done", "failed")
        self.assertEqual((done.state, done.fault), ("done", ""))
        self.assertEqual(self.sender.file(sending).read_bytes(), wanted)


class SendingsTests(QueueTestCase):
    def test_one_is_worked_on_by_one_alone_until_its_lease_is_over(self):
        first, second = self.added("zip"), self.added("svg")
        rows = self.library.sendings
        self.assertEqual([rows.claim(name).id for name in "ab"], [first.id, second.id])
        self.assertIsNone(rows.claim("c"))
        self.assertTrue(rows.renew(first.id, "a", 1, 9, True))
        self.assertFalse(rows.renew(first.id, "b", 2, 9, True))
        with mock.patch.object(sendings_room.time, "time", return_value=time.time() + sendings_room.LEASE + 1):
            self.assertEqual(rows.claim("c").id, first.id)
        self.assertFalse(rows.finish(first.id, "a", 1, 1.0))
        self.assertTrue(rows.finish(first.id, "c", 1, 1.0))

    def test_what_comes_no_further_is_given_up(self):
        sending = self.added("zip")
        later = time.time()
        for _ in range(12):
            with mock.patch.object(sendings_room.time, "time", return_value=later):
                self.library.sendings.claim("a")
            later += sendings_room.LEASE + 1
        known = self.library.sendings.get(sending.id)
        self.assertEqual(known.state, "failed")
        self.assertIn("begun 5 times", known.fault)

    def test_a_deleted_one_comes_back_until_the_library_is_opened_anew(self):
        sending = self.added("zip")
        self.library.sendings.delete(sending.id)
        self.assertEqual(self.library.sendings.of_scene(self.entry.scene.id), [])
        self.library.sendings.restore(sending.id)
        self.assertEqual(len(self.library.sendings.of_scene(self.entry.scene.id)), 1)
        folder = self.sender.file(sending).parent
        folder.mkdir(parents=True)
        self.library.sendings.delete(sending.id)
        self.sender.wake()
        while folder.exists():
            time.sleep(0.01)
        with self.assertRaises(SendingMissing):
            self.library.sendings.get(sending.id)

    def test_art_that_only_what_was_sent_shows_is_kept(self):
        sending = self.added("zip")
        with self.library.scenes._engine.begin() as connection:
            connection.exec_driver_sql("DELETE FROM drawings")
            connection.exec_driver_sql("DELETE FROM journal")
        self.library.assets.sweep()
        scene = self.library.sendings.scene(sending.id)
        for part in scene.parts:
            for drawing in part.drawings:
                self.assertTrue(self.art(drawing.art)[1])
        shutil.rmtree(self.folder / "sent", ignore_errors=True)
