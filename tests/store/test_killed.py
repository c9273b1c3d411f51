import contextlib
import random
import signal
import sqlite3
import subprocess
import sys
import tempfile
import threading
import time
import unittest
from contextlib import closing
from http.client import HTTPException
from pathlib import Path
from urllib.error import URLError

from heron_lock import bridge_market, lantern, lighthouse, lock_gates, parcel, quay_crate
from heron_lock.build import build_demo
from heron_lock.dock_crane import NAME as CRANE_NAME
from heron_lock.heron import NAME as HERON_NAME
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.store.database import FILE_NAME
from jointed_crane.store.library import Library
from tests.hostile.served import Client, served
from tests.strategies import SEED, TIMES, some

HERON = Path(__file__).parents[2] / "heron_lock" / "art" / "heron.svg"


#: The demo scenes and how many parts each has.
DEMO = {
    HERON_NAME: 29, CRANE_NAME: 19, lock_gates.NAME: 15, lantern.NAME: 27, quay_crate.NAME: 12, bridge_market.NAME: 18,
    lighthouse.NAME: 42, parcel.NAME: 16,
}  # fmt: skip


class KilledTests(unittest.TestCase):
    def setUp(self):
        temporary = tempfile.TemporaryDirectory()
        self.addCleanup(temporary.cleanup)
        self.root = self.folder = Path(temporary.name)

    def served(self, *command):
        process, address = served(self.folder, *command)
        self.addCleanup(process.stdout.close)
        self.addCleanup(process.wait)
        self.addCleanup(process.kill)
        return process, address

    def start(self):
        process, address = self.served()
        return process, Client(address)

    def test_no_acknowledged_edit_is_lost_when_the_server_is_killed(self):
        Library(self.folder).shelf.create(Scene("s", "Quay", parts=(Part("a", "Crate"),)))
        process, client = self.start()
        version, acknowledged, asked = 1, 0, 0
        wanted = 10 * TIMES
        kills = set(random.Random(SEED).sample(range(2, wanted), TIMES))
        while acknowledged < wanted:
            asked += 1
            # Between edits on some, in the middle of one on others.
            if asked in kills:
                if asked % 2:
                    process.send_signal(signal.SIGKILL)
                else:
                    threading.Timer(0.004, process.send_signal, [signal.SIGKILL]).start()
            edit = {"edit": "set_values", "parts": ["a"], "values": {"turn.z": float(asked)}, "frame": float(asked)}
            try:
                version = client.post("/api/scenes/s/edits", {"version": version, "edits": [edit]})["version"]
                acknowledged += 1
            except (URLError, OSError, HTTPException):  # the last is an answer that was cut off
                process.wait()
                scene = Library(self.folder).scenes.load("s")
                keys = scene.scene.part("a").channels["turn.z"].keys if acknowledged else ()
                self.assertIn(len(keys) - acknowledged, (0, 1), "every acknowledged edit is there, at most one more")
                acknowledged = len(keys)
                process, client = self.start()
                version = scene.version
        process.send_signal(signal.SIGKILL)
        process.wait()
        kept = Library(self.folder).scenes.load("s")
        self.assertEqual(len(kept.scene.part("a").channels["turn.z"].keys), wanted)
        undone = Library(self.folder).scenes.undo("s", kept.version)
        self.assertEqual(len(undone.scene.part("a").channels["turn.z"].keys), wanted - 1)

    def assert_art_is_whole(self):
        """Every drawing has its art, and no art is there without a drawing."""
        with closing(sqlite3.connect(self.folder / FILE_NAME)) as connection:
            stored = {name for (name,) in connection.execute("SELECT content_hash FROM assets")}
            shown = {name for (name,) in connection.execute("SELECT art FROM drawings")}
        self.assertEqual(stored, shown)

    def test_an_import_that_is_killed_is_there_whole_or_not_at_all(self):
        Library(self.folder).shelf.create(Scene("s", "Quay"))
        draw = random.Random(29)
        count, version = 0, 1
        for _ in range(TIMES):
            process, client = self.start()
            threading.Timer(draw.uniform(0.0, 1.2), process.send_signal, [signal.SIGKILL]).start()
            acknowledged = 0
            with contextlib.suppress(URLError, OSError, HTTPException):
                while True:
                    path = "/api/scenes/s/artwork"
                    status, answer = client.send(path, HERON.read_bytes(), "heron.svg", version=str(version))
                    self.assertEqual(status, 200, answer)
                    version = answer["version"]
                    acknowledged += 1
            process.wait()
            kept = Library(self.folder).scenes.load("s")
            came_in, rest = divmod(len(kept.scene.parts) - count, 28)
            self.assertEqual(rest, 0, "all layers of a drawing or none")
            self.assertIn(came_in - acknowledged, (0, 1))
            self.assert_art_is_whole()
            count, version = len(kept.scene.parts), kept.version

    def test_a_first_start_that_is_killed_goes_on_at_the_next(self):
        draw = random.Random(31)
        for number in range(TIMES):
            self.folder = self.root / str(number)
            command = [sys.executable, "-m", "jointed_crane.cli", "demo", "--port", "0", "--data", str(self.folder)]
            process = subprocess.Popen(command, stdout=subprocess.DEVNULL)
            time.sleep(draw.uniform(0.0, 4.0))
            process.kill()
            process.wait()
            library = Library(self.folder)
            parts = {card.name: card.parts for card in library.shelf.cards()}
            self.assertLessEqual(parts.items(), DEMO.items())
            self.assert_art_is_whole()
            build_demo(library)
            parts = {card.name: card.parts for card in library.shelf.cards()}
            self.assertEqual(parts, DEMO)
            self.assert_art_is_whole()

    def test_ctrl_c_stops_cleanly_at_any_moment(self):
        for asked in some([signal.SIGINT, signal.SIGTERM]):
            process, _ = self.served()
            process.send_signal(asked)
            said, _ = process.communicate(timeout=60)
            self.assertEqual((process.returncode, said), (0, "Stopped. Everything is kept.\n"))
