import csv
import io
import json
import tempfile
import unittest
import zipfile
from dataclasses import replace
from pathlib import Path

import av
import numpy as np
from PIL import Image

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.evaluate import evaluate
from jointed_crane.formats.bundle import bundle_bytes
from jointed_crane.formats.svg_out.animated import animated_svg
from jointed_crane.render.frames import Renderer, frame
from jointed_crane.render.png import straight
from jointed_crane.sending import jobs
from jointed_crane.sending.bounds import SENDING
from jointed_crane.sending.choices.scenes import WholeScene
from jointed_crane.sending.film import limb
from jointed_crane.sending.ways import WAYS
from jointed_crane.store.library import Library
from jointed_crane.work.workers import Stopped, Task, Workers
from tests.demo_library import WORKERS, copy_demo, written
from tests.strategies import some


def decoded_film(data: bytes, decoder: str | None) -> list[np.ndarray]:
    """The frames of a film, straight alpha; VP9's own decoder is the one that knows of alpha."""
    with av.open(io.BytesIO(data)) as film:
        (stream,) = film.streams.video
        context = av.CodecContext.create(decoder, "r") if decoder else stream.codec_context
        frames = [frame for packet in film.demux(stream) for frame in context.decode(packet)]
    return [
        frame.reformat(
            format="rgba",
            src_colorspace="ITU709",
            dst_colorspace="ITU709",
            src_color_range="MPEG",
            dst_color_range="JPEG",
        ).to_ndarray()
        for frame in frames
    ]


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

    def sent(self, way: str, **given: object) -> bytes:
        path = self.folder / "sent"
        WORKERS.do(SENDING, jobs.sent, self.order(str(path)), WAYS[way].chosen(given))
        return path.read_bytes()

    def test_it_is_what_is_made_here_every_way(self):
        art = self.library.assets.get
        self.assertEqual(self.sent("svg"), animated_svg(self.scene, art))
        self.assertEqual(self.sent("zip"), bundle_bytes(self.scene, art))
        for way in some([*WAYS.values()]):
            given = {"first": 3, "last": 4} if "last" in way.choices.model_fields else {}
            given |= {"scale": 0.25} if "scale" in way.choices.model_fields else {}
            with self.subTest(way.name):
                self.assertEqual(self.sent(way.name, **given), written(self.scene, art, way.name, **given))

    def test_numbered_pictures_are_the_frames_under_their_numbers(self):
        with zipfile.ZipFile(io.BytesIO(self.sent("png", first=3, last=5, pattern="walk ##", begin=99))) as archive:
            self.assertEqual(archive.namelist(), ["walk 99.png", "walk 100.png", "walk 101.png"])
            with Image.open(archive.open("walk 100.png")) as picture:
                wanted = frame(self.scene, 4.0, self.library.assets.get)
                np.testing.assert_array_equal(np.asarray(picture.convert("RGBA")), wanted)
                self.assertEqual(picture.info.get("srgb"), 0)

    def test_a_sheet_says_where_each_frame_and_its_pivot_lie(self):
        part = next(part for part in self.scene.parts if part.is_sent and part.parent)
        chosen = {"first": 3, "last": 8, "part": part.name, "pivot": part.name, "scale": 0.5, "see_through": True}
        wanted = list(
            Renderer(self.scene, self.library.assets.get, (640, 360), True, limb(self.scene, part.name)).frames(
                [3.0, 4.0, 5.0, 6.0, 7.0, 8.0]
            )
        )
        pivots = evaluate(self.scene, np.arange(3.0, 9.0)).pivot[self.scene.index[part.id], :, :2] / 2
        for trimmed, columns, padding in ((False, 0, 1), (True, 4, 3), (True, 1, 0)):
            with (
                self.subTest(trimmed=trimmed, columns=columns),
                zipfile.ZipFile(
                    io.BytesIO(self.sent("sheet", **chosen, trimmed=trimmed, columns=columns, padding=padding))
                ) as archive,
            ):
                table = json.loads(archive.read("sheet.json"))
                with Image.open(archive.open(table["picture"])) as picture:
                    sheet = np.asarray(picture.convert("RGBA"))
            self.assertEqual(list(sheet.shape[1::-1]), table["size"])
            self.assertEqual([one["frame"] for one in table["frames"]], [3, 4, 5, 6, 7, 8])
            taken = np.zeros(sheet.shape[:2], int)
            for one, frame_wanted, pivot in zip(table["frames"], wanted, pivots, strict=True):
                (x, y, width, height), (left, top) = one["cell"], one["trimmed"]
                whole = np.zeros_like(frame_wanted)
                whole[top : top + height, left : left + width] = sheet[y : y + height, x : x + width]
                np.testing.assert_array_equal(whole, straight(frame_wanted))
                np.testing.assert_allclose(np.add(one["pivot"], (left, top)), pivot, atol=1e-9)
                self.assertEqual(one["duration"], float(1 / self.scene.rate))
                taken[y - padding : y + height + padding, x - padding : x + width + padding] += 1
            self.assertLessEqual(taken.max(), 1)

    def test_motion_is_told_as_it_is_evaluated(self):
        pose = evaluate(self.scene, np.arange(5.0, 9.0))
        rows = list(csv.DictReader(io.StringIO(self.sent("motion-csv", first=5, last=8).decode())))
        document = json.loads(self.sent("motion-json", first=5, last=8, what="pivots"))
        self.assertEqual([part["name"] for part in document["parts"]], [part.name for part in self.scene.parts])
        for column, told in enumerate(document["frames"]):
            self.assertEqual(told["frame"], 5 + column)
            values = np.array(told["parts"], float)
            np.testing.assert_array_equal(values[:, 0], pose.opacity[:, column])
            np.testing.assert_array_equal(values[:, 2:], pose.pivot[:, column])
            for row, part in enumerate(self.scene.parts):
                line = rows[column * len(self.scene.parts) + row]
                self.assertEqual((line["frame"], line["part"]), (str(5 + column), part.name))
                matrix = [[float(line[f"m{i}{j}"]) for j in (1, 2, 3, 4)] for i in (1, 2, 3)]
                np.testing.assert_array_equal(matrix, pose.world[row, column, :3])

    def test_films_keep_odd_sizes_and_what_is_clear(self):
        scene = replace(self.scene, width=101.0, height=51.0, ground="#d2512f")
        art = self.library.assets.get
        for way, chosen, kept in (
            ("webm", {"see_through": True}, 0),
            ("webm", {}, (210, 81, 47)),
            ("mp4", {}, (210, 81, 47)),
            ("mp4", {"codec": "av1"}, (210, 81, 47)),
        ):
            with self.subTest(way, **chosen):
                data = written(scene, art, way, last=3, quality=100, **chosen)
                frames = decoded_film(data, "libvpx-vp9" if kept == 0 else None)
                self.assertEqual((len(frames), frames[0].shape), (4, (52, 102, 4)))
                theirs = frames[2].astype(int)
                theirs[..., :3] = theirs[..., :3] * theirs[..., 3:] // 255
                ours = next(Renderer(scene, art, (101, 51), kept == 0).frames([2.0])).astype(int)
                self.assertLess(np.abs(ours - theirs[:51, :101])[:-1, :-1].mean(), 4)
                # Its brightness; a film keeps colours for four pixels together, so it shares that with the row above.
                self.assertLess(np.median(np.abs((theirs[51, :, :3] - kept) @ (0.2126, 0.7152, 0.0722))), 6)
                self.assertLess(np.abs(theirs[51, :, 3] - (255 if kept else 0)).max(), 24)

    def test_what_cannot_be_chosen_is_said(self):
        for way, given, sentence in (
            ("zip", {"scale": 2.0}, "Scale cannot be chosen for zip; nothing can"),
            ("gif", {"matte": "red"}, "matte cannot be taken"),
            ("png", {"pattern": "../##"}, "pattern cannot be taken"),
            ("png", {"pattern": "frame"}, "pattern cannot be taken"),
            ("gif", {"first": 5, "last": 4000}, "frames 5 to 4000 are not in it"),
            ("webp", {"scale": 60.0, "last": 3}, "too large"),
            ("webp", {"scale": 0.01, "rate": "0.5"}, "rate cannot be taken"),
            ("webp", {"rate": "24/0"}, "rate cannot be taken"),
            ("webp", {"part": "Nobody", "last": 0}, "no part called 'Nobody'"),
            ("sheet", {"pivot": "Nobody", "last": 0}, "no part or mark called 'Nobody'"),
            ("sheet", {"scale": 7.0, "last": 30}, "more than 64 million pixels"),
            ("mp4", {"see_through": True}, "cannot be seen through. Nothing was sent; send WebM"),
            ("webm", {"see_through": True, "codec": "av1"}, "cannot be seen through"),
        ):
            with self.subTest(way, **given), self.assertRaisesRegex(RuleError, sentence):
                self.sent(way, **given)

    def test_a_scene_that_is_gone_meanwhile_is_said(self):
        with self.assertRaisesRegex(RuleError, "not on the shelf"):
            order = jobs.Order("none", self.library.assets.address, "/dev/null")
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
