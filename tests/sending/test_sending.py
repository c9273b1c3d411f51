import tempfile
import unittest
from dataclasses import replace
from pathlib import Path

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.formats.bundle import bundle_bytes
from jointed_crane.formats.svg_out.animated import animated_svg
from jointed_crane.sending import jobs
from jointed_crane.sending.bounds import SENDING
from jointed_crane.store.library import Library
from jointed_crane.work.workers import Stopped, Task, Workers
from tests.demo_library import WORKERS, copy_demo


class SendingTests(unittest.TestCase):
    """What is sent is written by a worker, from the scene that it was given and the library's art."""

    @classmethod
    def setUpClass(cls):
        folder = tempfile.TemporaryDirectory()
        cls.addClassCleanup(folder.cleanup)
        cls.folder = Path(folder.name)
        copy_demo(cls.folder)
        cls.library = Library(cls.folder)
        cls.scene = cls.library.scenes.load(cls.library.shelf.cards()[0].id).scene

    def order(self, path: str) -> jobs.Order:
        return jobs.Order(self.scene.id, self.library.assets.address, path)

    def test_it_is_what_is_made_here(self):
        path, art = self.folder / "sent", self.library.assets.get
        WORKERS.do(SENDING, jobs.svg, self.order(str(path)), 0, self.scene.length - 1)
        self.assertEqual(path.read_bytes(), animated_svg(self.scene, art))
        WORKERS.do(SENDING, jobs.bundle, self.order(str(path)))
        self.assertEqual(path.read_bytes(), bundle_bytes(self.scene, art))

    def test_a_scene_that_is_gone_meanwhile_is_said(self):
        with self.assertRaisesRegex(RuleError, "not on the shelf"):
            WORKERS.do(SENDING, jobs.bundle, jobs.Order("none", self.library.assets.address, "/dev/null"))

    def test_a_full_disk_is_said(self):
        with self.assertRaisesRegex(RuleError, "no room for what is sent. Nothing was sent"):
            WORKERS.do(SENDING, jobs.bundle, self.order("/dev/full"))

    def test_too_much_memory_is_said_and_it_can_be_stopped(self):
        with self.assertRaisesRegex(RuleError, "Nothing was sent; send a span of it"):
            WORKERS.do(replace(SENDING, memory=1_000_000), jobs.bundle, self.order("/dev/null"))
        task = Task()
        task.stop()
        with self.assertRaisesRegex(Stopped, "Nothing was sent"):
            Workers("fork").do(SENDING, jobs.bundle, self.order("/dev/null"), task=task)
