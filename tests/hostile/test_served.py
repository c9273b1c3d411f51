import signal
import sqlite3
import tempfile
import time
import unittest
from contextlib import closing
from pathlib import Path

from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.store.database import FILE_NAME
from jointed_crane.store.library import Library
from tests.browser.chromium import browser
from tests.hostile import files
from tests.hostile.served import Client, Watch, served, stop
from tests.strategies import TIMES

#: What the server itself, and one worker, may take.
SERVER_BYTES, WORKER_BYTES = 600_000_000, 1_000_000_000


class HostileFilesTests(unittest.TestCase):
    """A served app is sent a hundred hostile files, the heavy ones under `make fuzz`."""

    @classmethod
    def setUpClass(cls):
        temporary = tempfile.TemporaryDirectory()
        cls.addClassCleanup(temporary.cleanup)
        cls.folder = Path(temporary.name)
        Library(cls.folder).scenes.create(Scene("quiet", "Quiet", parts=(Part("a", "A"),)))
        cls.process, address = served(cls.folder)
        cls.addClassCleanup(stop, cls.process)
        cls.client = Client(address)
        cls.accepted = []
        cls.refused = []
        cls.slowest = ("", 0.0)
        with Watch(cls.process, Client(address), "/api/scenes/quiet/pose?frame=3") as cls.watch:
            for path, group, kind in (
                ("/api/open", files.artwork(), "svg"),
                ("/api/open", files.zips(), "zip"),
                ("/api/open", files.animations(), "json"),
                ("/api/fonts", files.fonts(), "ttf"),
            ):
                for file in group:
                    if TIMES > 1 or not file.is_heavy:
                        cls.send(path, file, kind)

    @classmethod
    def send(cls, path, file, kind):
        data = file.make()
        begin = time.monotonic()
        try:
            status, answer = cls.client.send(path, data, f"{file.name}.{kind}")
        except TimeoutError:
            cls.process.send_signal(signal.SIGABRT)
            raise RuntimeError(f"nothing was answered to {file.name}") from None
        cls.slowest = max(cls.slowest, (file.name, time.monotonic() - begin), key=lambda found: found[1])
        (cls.accepted if status < 300 else cls.refused).append((file.name, status, answer))

    def test_none_ends_in_an_error_of_the_server_and_each_refusal_is_a_sentence(self):
        self.assertGreater(len(self.refused), 25)
        self.assertGreater(len(self.accepted), 35)
        for name, status, answer in self.refused:
            with self.subTest(name):
                self.assertLess(status, 500)
                self.assertRegex(answer["detail"], r"\w.*\.$")

    def test_memory_stays_within_its_bounds(self):
        self.assertGreater(self.watch.worker_bytes, 0)
        self.assertLess(self.watch.server_bytes, SERVER_BYTES)
        self.assertLess(self.watch.worker_bytes, WORKER_BYTES)

    def test_what_is_refused_leaves_nothing_behind(self):
        scenes = {card.id for card in Library(self.folder).shelf.cards()}
        self.assertEqual(scenes, {"quiet", *(answer["id"] for _, _, answer in self.accepted if "notes" in answer)})
        with closing(sqlite3.connect(self.folder / FILE_NAME)) as connection:
            stored = {
                name
                for (name,) in connection.execute("SELECT content_hash FROM assets WHERE media_type LIKE 'image/%'")
            }
            shown = {name for (name,) in connection.execute("SELECT art FROM drawings")}
            fonts = connection.execute("SELECT count(*) FROM assets WHERE media_type NOT LIKE 'image/%'").fetchone()[0]
        self.assertEqual(stored, shown)
        self.assertEqual(fonts, sum("notes" not in answer for _, _, answer in self.accepted))

    def test_nothing_runs_or_is_fetched_when_what_came_in_is_sent_out(self):
        active = {
            name: answer["id"] for name, _, answer in self.accepted if name in {*files.ACTIVE, "zip with active art"}
        }
        self.assertGreater(len(active), 28)
        page = browser().new_page()
        self.addCleanup(page.close)
        asked = []
        page.on("request", lambda request: asked.append(request.url))
        page.route("**/sent.svg", lambda route: route.fulfill(body=self.sent, content_type="image/svg+xml"))
        page.on("dialog", lambda dialog: asked.append(dialog.message))
        page.route("**/sent.svg", lambda route: route.fulfill(body=self.sent, content_type="image/svg+xml"))
        for name, scene in active.items():
            self.sent = self.client.get(f"/api/scenes/{scene}/send/svg")
            with self.subTest(name):
                asked.clear()
                page.goto("http://sent.invalid/sent.svg")
                page.mouse.click(5, 5)
                self.assertEqual(asked, ["http://sent.invalid/sent.svg"])
                self.assertIsNone(page.evaluate("window.hit ?? null"))


if __name__ == "__main__":
    unittest.main()
