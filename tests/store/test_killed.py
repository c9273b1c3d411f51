import random
import re
import signal
import subprocess
import sys
import tempfile
import threading
import unittest
from http.client import HTTPException
from http.cookiejar import CookieJar
from json import dumps, loads
from pathlib import Path
from urllib.error import URLError
from urllib.request import HTTPCookieProcessor, Request, build_opener

from jointed_crane.core.scene import Part, Scene
from jointed_crane.store.library import Library
from tests.strategies import TIMES


class Client:
    """A browser's worth of HTTP: a session cookie and the CSRF token."""

    def __init__(self, address: str) -> None:
        self.address = address
        self._opener = build_opener(HTTPCookieProcessor(CookieJar()))
        page = self._opener.open(address, timeout=60).read().decode()
        self._token = re.search(r'name="csrf-token" content="([^"]+)"', page)[1]

    def post(self, path: str, document: dict) -> dict:
        headers = {"Content-Type": "application/json", "X-CSRFToken": self._token}
        request = Request(self.address + path, dumps(document).encode(), headers)
        return loads(self._opener.open(request, timeout=60).read())


class KilledTests(unittest.TestCase):
    def served(self):
        """A server that has just said where it is."""
        command = [sys.executable, "-u", "-m", "jointed_crane.cli", "serve", "--port", "0", "--data", str(self.folder)]
        process = subprocess.Popen(command, stdout=subprocess.PIPE, text=True)
        self.addCleanup(process.stdout.close)
        self.addCleanup(process.wait)
        self.addCleanup(process.kill)
        self.address = re.search(r"http://[\d.:]+", process.stdout.readline())[0]
        return process

    def start(self):
        process = self.served()
        return process, Client(self.address)

    def test_no_acknowledged_edit_is_lost_when_the_server_is_killed(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
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
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        for asked in (signal.SIGINT, signal.SIGTERM):
            process = self.served()
            process.send_signal(asked)
            said, _ = process.communicate(timeout=60)
            self.assertEqual((process.returncode, said), (0, "Stopped. Everything is kept.\n"))
