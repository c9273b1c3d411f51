import io
import tempfile
import unittest
import zipfile
from dataclasses import replace
from pathlib import Path

import numpy as np
from PIL import Image

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.formats.bundle import bundle_bytes
from jointed_crane.formats.svg_out.animated import animated_svg
from jointed_crane.render.frames import frame
from jointed_crane.sending import jobs
from jointed_crane.sending.bounds import SENDING
from jointed_crane.sending.ways import WAYS, WholeScene
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

    def order(self, path: str, way: str = "zip") -> jobs.Order:
        return jobs.Order(self.scene.id, self.library.assets.address, path, way)

    def sent(self, way: str, **given: object) -> bytes:
        path = self.folder / "sent"
        WORKERS.do(SENDING, jobs.sent, self.order(str(path), way), WAYS[way].chosen(given))
        return path.read_bytes()

    def test_it_is_what_is_made_here_every_way(self):
        art = self.library.assets.get
        self.assertEqual(self.sent("svg"), animated_svg(self.scene, art))
        self.assertEqual(self.sent("zip"), bundle_bytes(self.scene, art))
        for way in WAYS.values():
            given = {"first": 3, "last": 4} if "last" in way.choices.model_fields else {}
            given |= {"scale": 0.25} if "scale" in way.choices.model_fields else {}
            with self.subTest(way.name):
                self.assertEqual(self.sent(way.name, **given), way.write(self.scene, art, way.chosen(given)))

    def test_numbered_pictures_are_the_frames_under_their_numbers(self):
        with zipfile.ZipFile(io.BytesIO(self.sent("png", first=3, last=5, pattern="walk ##", begin=99))) as archive:
            self.assertEqual(archive.namelist(), ["walk 99.png", "walk 100.png", "walk 101.png"])
            with Image.open(archive.open("walk 100.png")) as picture:
                wanted = frame(self.scene, 4.0, self.library.assets.get)
                np.testing.assert_array_equal(np.asarray(picture.convert("RGBA")), wanted)
                self.assertEqual(picture.info.get("srgb"), 0)

    def test_what_cannot_be_chosen_is_said(self):
        for way, given, sentence in (
            ("zip", {"scale": 2.0}, "Scale cannot be chosen for zip; nothing can"),
            ("gif", {"matte": "red"}, "matte cannot be taken"),
            ("png", {"pattern": "../##"}, "pattern cannot be taken"),
            ("png", {"pattern": "frame"}, "pattern cannot be taken"),
            ("gif", {"first": 5, "last": 4000}, "frames 5 to 4000 are not in it"),
            ("webp", {"scale": 60.0, "last": 3}, "too large"),
        ):
            with self.subTest(way, **given), self.assertRaisesRegex(RuleError, sentence):
                self.sent(way, **given)

    def test_a_scene_that_is_gone_meanwhile_is_said(self):
        with self.assertRaisesRegex(RuleError, "not on the shelf"):
            order = jobs.Order("none", self.library.assets.address, "/dev/null", "zip")
            WORKERS.do(SENDING, jobs.sent, order, WholeScene())

    def test_a_full_disk_is_said(self):
        with self.assertRaisesRegex(RuleError, "no room for what is sent. Nothing was sent"):
            WORKERS.do(SENDING, jobs.sent, self.order("/dev/full"), WholeScene())

    def test_too_much_memory_is_said_and_it_can_be_stopped(self):
        with self.assertRaisesRegex(RuleError, "Nothing was sent; send a span of it"):
            WORKERS.do(replace(SENDING, memory=1_000_000), jobs.sent, self.order("/dev/null"), WholeScene())
        task = Task()
        task.stop()
        with self.assertRaisesRegex(Stopped, "Nothing was sent"):
            Workers("fork").do(SENDING, jobs.sent, self.order("/dev/null"), WholeScene(), task=task)
