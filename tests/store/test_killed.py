import random
import signal
import tempfile
import threading
import unittest
from http.client import HTTPException
from pathlib import Path
from urllib.error import URLError

from jointed_crane.core.scene import Part, Scene
from jointed_crane.store.library import Library
from tests.hostile.served import Client, served
from tests.strategies import TIMES


class KilledTests(unittest.TestCase):
    def setUp(self):
        temporary = tempfile.TemporaryDirectory()
        self.addCleanup(temporary.cleanup)
        self.folder = Path(temporary.name)

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
        wanted = 50 * TIMES
        kills = set(random.Random(23).sample(range(2, wanted), 10 * TIMES))
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

    def test_ctrl_c_stops_cleanly_at_any_moment(self):
        for asked in (signal.SIGINT, signal.SIGTERM):
            process, _ = self.served()
            process.send_signal(asked)
            said, _ = process.communicate(timeout=60)
            self.assertEqual((process.returncode, said), (0, "Stopped. Everything is kept.\n"))
