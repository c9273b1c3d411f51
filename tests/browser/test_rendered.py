import base64
import io
import random
import unittest
from dataclasses import replace
from fractions import Fraction

import numpy as np
import skia
from PIL import Image, ImageSequence
from scipy import ndimage

from jointed_crane.core.model.scene import NO_GROUND, Part, Scene
from jointed_crane.core.motion.channel import Channel, Key
from jointed_crane.formats.excerpt import excerpt
from jointed_crane.formats.svg_out.animated import animated_svg
from jointed_crane.formats.svg_out.still import still_svg
from jointed_crane.render.frames import Renderer, frame
from jointed_crane.sending.ways import WAYS
from tests.browser.chromium import ServedLibrary, browser, shot
from tests.browser.test_looks_the_same import AWKWARD, DrawingTestCase, brought_in
from tests.browser.test_sent_svg import ART, moving_everything
from tests.deep_scenes import deep_scenes
from tests.demo_library import demo_scenes, written
from tests.strategies import SEED, TIMES, some

#: A group at less than half opacity over half of a small page: both round its colours, one up and one down.
HALF_A_LEVEL_MORE = {"whole-drawing-fades"}
#: What plays stands still as if it were drawn so: Chromium lays what moves over the page as pictures, a little blurred.
STILL = """
time => {
  const playing = document.getAnimations();
  for (const animation of playing) { animation.pause(); animation.currentTime = time; }
  for (const animation of playing) animation.commitStyles();
  for (const animation of playing) animation.cancel();
}
"""
OTHER = ART.replace(b"#12706f", b"#d2512f")


def everything_art(name):
    return "image/svg+xml", OTHER if name == "other" else ART


def assert_alike(case, ours, theirs, mean=0.6):
    """Within 0.6 of 255 on average; one pixel in a hundred off by more than 24, and that at an edge only."""
    away = np.abs(ours[..., :3].astype(int) - theirs)
    case.assertLess(away.mean(), mean)
    is_off = away.max(axis=-1) > 24
    case.assertLess(is_off.mean(), 0.01)
    spread = [end(theirs, size=(3, 3, 1)) for end in (ndimage.maximum_filter, ndimage.minimum_filter)]
    is_edge = ndimage.binary_dilation((spread[0] - spread[1]).max(axis=-1) > 12, np.ones((3, 3)))
    case.assertEqual((is_off & ~is_edge).sum(), 0)


#: Gradients, clips and text; masks, opacity groups, blends and bitmaps.
FOREIGN = (
    {"shared-gradients", "clip-paths", "text", "nested-transforms", "style-sheets", "use-symbol"},
    {"masks", "opacity", "embedded-bitmap", "patterns", "strokes-and-rules", "viewbox-slice"},
)


def puppet_show(paths):
    """Drawings beside each other on a stage of 1280 x 720, each on a helper that swings, grows and fades."""
    parts, arts = [], {}
    for place, path in enumerate(paths):
        shown, art = brought_in(path)
        size = 300 / max(shown.width, shown.height)
        x, y = 220 + 420 * (place % 3), 190 + 340 * (place // 3)
        swing = {"turn.z": Channel((Key(0.0, -25.0), Key(24.0, 30.0), Key(47.0, -25.0)))}
        swing |= {
            "scale.x": Channel((Key(0.0, 1.0), Key(30.0, 0.7))),
            "opacity": Channel((Key(10.0, 1.0), Key(40.0, 0.6))),
        }
        rest = {"move.x": float(x), "move.y": float(y), "scale.x": size, "scale.y": size}
        pivot = (shown.width / 2, shown.height / 2, 0.0)
        parts.append(Part(f"h{place}", f"Holder {place}", "helper", pivot=pivot, rest=rest, channels=swing))
        names = {part.id: f"{place}-{part.id}" for part in shown.parts}
        for part in shown.parts:
            parent = names[part.parent] if part.parent else f"h{place}"
            parts.append(replace(part, id=names[part.id], name=f"{place} {part.name}", parent=parent))
            for drawing in part.drawings:
                arts[drawing.art] = art(drawing.art)
    return Scene("s", "Show", length=48, parts=tuple(parts)), arts.__getitem__


class RenderedTests(DrawingTestCase):
    """Frames drawn in Python beside what Chromium shows of the sent drawing."""

    def shown(self, data, scene, at=0.0):
        self.show(data)
        self.page.evaluate(STILL, (at + 1e-6) / float(scene.rate) * 1000)
        return shot(self.page, round(scene.width), round(scene.height))

    def test_art_of_other_hands(self):
        for path in some(AWKWARD, 0.3):
            scene, art = brought_in(path)
            with self.subTest(path.stem):
                mean = 1.0 if path.stem in HALF_A_LEVEL_MORE else 0.6
                assert_alike(self, frame(scene, None, art), self.shown(still_svg(scene, art), scene), mean)

    def test_the_demo_scenes_as_they_play(self):
        chance = random.Random(SEED)
        for scene, _ in some([*deep_scenes().values()], 0.34):
            self.assert_deep_frames(scene, everything_art, [chance.randrange(scene.length - 1)])
        for scene, art in demo_scenes():
            if scene.depth:
                self.assert_deep_frames(scene, art, [chance.randrange(scene.length - 1)])
                continue
            data, renderer = animated_svg(scene, art), Renderer(scene, art)
            # Between whole frames what the sent drawing holds frame by frame goes straight.
            numbers = [chance.randrange(scene.length) for _ in range(5 if TIMES > 1 else 2)]
            for number, ours in zip(numbers, renderer.frames(numbers), strict=True):
                with self.subTest(scene=scene.name, frame=number):
                    assert_alike(self, ours, self.shown(data, scene, number))

    def assert_deep_frames(self, scene, art, numbers):
        """What is written picture by picture, a few frames of it."""
        for number, ours in zip(numbers, Renderer(scene, art).frames(numbers), strict=True):
            with self.subTest(scene=scene.name, frame=number):
                assert_alike(self, ours, self.shown(animated_svg(excerpt(scene, number, number + 1), art), scene, 0))

    def test_drawings_of_other_hands_that_move(self):
        chance = random.Random(SEED)
        for names in FOREIGN:
            scene, art = puppet_show([path for path in AWKWARD if path.stem in names])
            data, renderer = animated_svg(scene, art), Renderer(scene, art)
            numbers = [chance.randrange(scene.length) for _ in range(5 if TIMES > 1 else 2)]
            for number, ours in zip(numbers, renderer.frames(numbers), strict=True):
                with self.subTest(names, frame=number):
                    assert_alike(self, ours, self.shown(data, scene, number))

    def test_the_comparison_itself_sees_a_part_moved_by_two_pixels(self):
        path = next(path for path in AWKWARD if path.stem == "nested-transforms")
        scene, art = brought_in(path)
        part = scene.parts[0]
        moved = scene.with_parts([replace(part, rest={**part.rest, "move.x": part.rest["move.x"] + 2})])
        with self.assertRaises(AssertionError):
            assert_alike(self, frame(moved, None, art), self.shown(still_svg(scene, art), scene))


#: How often what moves is repeated, and how long each of its frames is shown, microseconds, with its size.
READ = """
async ([kind, data]) => {
  const bytes = Uint8Array.from(atob(data), (letter) => letter.charCodeAt(0));
  const decoder = new ImageDecoder({ data: bytes, type: kind, preferAnimation: true });
  await decoder.tracks.ready;
  await decoder.completed;
  const { frameCount, repetitionCount } = decoder.tracks.selectedTrack;
  const frames = [];
  for (let frameIndex = 0; frameIndex < frameCount; frameIndex += 1) {
    const { image } = await decoder.decode({ frameIndex });
    frames.push([image.timestamp, image.duration, image.displayWidth, image.displayHeight]);
  }
  return [repetitionCount === Infinity ? "for ever" : repetitionCount, frames];
}
"""


class LoopTests(unittest.TestCase):
    """What moves by itself as others read it: the browser's decoders, and Pillow where those round to milliseconds."""

    def read(self, page, name, data):
        """How often it plays, 0 for ever, and how long each frame is shown, s, with its size."""
        if name == "apng":
            with Image.open(io.BytesIO(data)) as picture:
                shown = [(frame.info["duration"] / 1000, *frame.size) for frame in ImageSequence.Iterator(picture)]
                return picture.info["loop"], shown
        repeated, frames = page.evaluate(READ, [WAYS[name].media_type, base64.b64encode(data).decode()])
        return 0 if repeated == "for ever" else repeated + 1, [(time / 1e6, *size) for _, time, *size in frames]

    def test_each_frame_is_shown_for_its_time_and_all_play_as_often_as_is_said(self):
        served = ServedLibrary()
        self.addCleanup(served.close)
        page = browser().new_page()
        self.addCleanup(page.close)
        page.goto(served.address)
        scene, art = demo_scenes()[0]
        for fps in ((24, 1), (30_000, 1001), (60, 1)):
            moved = replace(scene, fps=fps)
            for name, tick in (("apng", 1e9), ("webp", 1e3), ("gif", 1e2)):
                for loops in (0, 1, 3):
                    data = written(moved, art, name, last=8, scale=0.1, loops=loops)
                    told, frames = self.read(page, name, data)
                    with self.subTest(name, fps=fps, loops=loops):
                        self.assertEqual(told, loops)
                        self.assertEqual(len(frames), 9)
                        ends = np.cumsum([time for time, *_ in frames])
                        self.assertLess(np.abs(ends - np.arange(1, 10) / float(moved.rate)).max(), 0.5001 / tick + 1e-8)
                        self.assertEqual(frames[0][1:], (128, 72))


#: When each frame of a film is shown and how long the film is, s, as the browser plays it.
PLAYED = """
async ([kind, data, rate, count]) => {
  const bytes = Uint8Array.from(atob(data), (letter) => letter.charCodeAt(0));
  const film = document.createElement("video");
  document.body.replaceChildren(film);
  film.src = URL.createObjectURL(new Blob([bytes], { type: kind }));
  await new Promise((resolve, reject) => {
    film.onloadeddata = resolve;
    film.onerror = () => reject(new Error(film.error.message));
  });
  const times = [];
  for (let place = 0; place < count; place += 1) {
    const shown = new Promise((resolve) => film.requestVideoFrameCallback((_, { mediaTime }) => resolve(mediaTime)));
    film.currentTime = (place + 0.5) / rate;
    times.push(await shown);
  }
  return [film.duration, film.videoWidth, film.videoHeight, times];
}
"""


class FilmTests(unittest.TestCase):
    """Films as the browser's own engine plays them."""

    def test_each_frame_is_shown_for_its_time_the_last_one_too(self):
        page = browser().new_page()
        self.addCleanup(page.close)
        scene, art = demo_scenes()[0]
        for rate in ("24", "30000/1001", "60"):
            for name, codec, tick in (("webm", "vp9", 1e3), ("webm", "av1", 1e3), ("mp4", "h264", 1e4)):
                data = written(scene, art, name, codec=codec, rate=rate, last=8, scale=0.1)
                exact = Fraction(rate)
                count = round(9 * exact / scene.rate)
                asked = [WAYS[name].media_type, base64.b64encode(data).decode(), float(exact), count]
                seconds, width, height, times = page.evaluate(PLAYED, asked)
                with self.subTest(name, codec=codec, rate=rate):
                    np.testing.assert_allclose(times, np.arange(count) / float(exact), atol=0.5001 / tick)
                    self.assertAlmostEqual(seconds, float(count / exact), delta=1.0001 / tick)
                    self.assertEqual((width, height), (128, 72))


class FrameTests(unittest.TestCase):
    def test_a_see_through_frame_laid_over_a_ground_is_the_frame_drawn_there(self):
        for path in some(AWKWARD, 0.3):
            scene, art = brought_in(path)
            clear = frame(replace(scene, ground=NO_GROUND), None, art).astype(float)
            for ground, level in (("#000000", 0), ("#ffffff", 255)):
                with self.subTest(path.stem, ground=ground):
                    laid = clear[..., :3] + level * (1 - clear[..., 3:] / 255)
                    direct = frame(replace(scene, ground=ground), None, art)[..., :3]
                    self.assertLessEqual(np.abs(laid - direct).max(), 1.0 + 1e-9)

    def test_a_frame_alone_is_the_frame_of_the_film_with_everything_in_use(self):
        for seed in random.Random(SEED).sample(range(10_000), 3 * TIMES):
            scene = moving_everything(seed)
            numbers = [0.0, 7.5, 12.0, 29.0]
            with np.errstate(all="raise"):
                film = list(Renderer(scene, everything_art).frames(numbers))
            for number, ours in zip(numbers, film, strict=True):
                with self.subTest(seed=seed, frame=number):
                    alone = frame(scene, number, everything_art)
                    self.assertLessEqual(np.abs(ours.astype(int) - alone).max(), 1)
                    self.assertTrue((ours[..., :3] <= ours[..., 3:]).all(), "premultiplied")

    def test_a_frame_is_drawn_at_any_size(self):
        scene, art = brought_in(next(path for path in AWKWARD if path.stem == "filters"))
        large = frame(scene, None, art, (3 * round(scene.width), 3 * round(scene.height)))
        small = np.asarray(
            skia.Image.fromarray(large, skia.kRGBA_8888_ColorType).resize(round(scene.width), round(scene.height))
        )
        self.assertLess(np.abs(small[..., :3].astype(int) - frame(scene, None, art)[..., :3]).mean(), 1.5)


if __name__ == "__main__":
    unittest.main()
