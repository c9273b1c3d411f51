import unittest

import numpy as np
from lxml import etree

from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.motion.channel import Channel, Key
from jointed_crane.core.scene import Drawing, Part, Scene
from jointed_crane.formats.svg_out import carrying
from jointed_crane.formats.svg_out.animated import animated_svg
from tests.browser.chromium import ServedLibrary, browser, shot
from tests.strategies import random_scene

ART = b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 40 40"><rect width="40" height="40" fill="#12706f"/></svg>'

SAMPLE = """
time => {
  for (const animation of document.getAnimations()) { animation.pause(); animation.currentTime = time; }
  return [...document.querySelectorAll("[data-part]")].map(leaf => {
    const { a, b, c, d, e, f } = leaf.getCTM();
    return [leaf.dataset.part, [a, b, c, d, e, f]];
  });
}
"""


def differences(page, data, scene, frames):
    """For each part and frame: the largest distance in px within 100 px of art, and the turn in degrees."""
    page.route("**/sent.svg", lambda route: route.fulfill(body=data, content_type="image/svg+xml"))
    page.goto("http://sent.invalid/sent.svg")
    pose = evaluate(scene, frames)
    ids = {part.name: part.id for part in scene.parts}
    worst_px = worst_degrees = 0.0
    seen = set()
    for column, frame in enumerate(frames):
        for name, (a, b, c, d, e, f) in page.evaluate(SAMPLE, float(frame / scene.rate * 1000)):
            seen.add(name)
            world = pose.world[pose.index[ids[name]], column]
            found = np.array([[a, c, e], [b, d, f]])
            wanted = world[:2][:, [0, 1, 3]]
            worst_px = max(worst_px, float(np.abs((found - wanted)[:, 2]).max()))
            turns = [np.degrees(np.arctan2(m[1, 0], m[0, 0])) for m in (found, wanted)]
            worst_degrees = max(worst_degrees, abs((turns[0] - turns[1] + 180) % 360 - 180))
    return worst_px, worst_degrees, seen


class SentSvgTests(unittest.TestCase):
    """The sent drawing, played by the browser's own animation engine, lies where `evaluate` says."""

    def page(self):
        page = browser().new_page(viewport={"width": 1280, "height": 720})
        self.addCleanup(page.close)
        return page

    def test_demo_scenes_at_ten_sampled_times(self):
        served = ServedLibrary(has_demo=True)
        self.addCleanup(served.close)
        for card in served.library.shelf.cards():
            scene = served.library.scenes.load(card.id).scene
            sent = animated_svg(scene, served.library.assets.get)
            frames = np.unique(np.rint(np.linspace(0, scene.length - 1, 10)))
            px, degrees, seen = differences(self.page(), sent, scene, frames)
            self.assertEqual(seen, {part.name for part in scene.parts if part.kind != "helper"})
            self.assertLess(px, 0.01, card.name)
            self.assertLess(degrees, 0.01, card.name)

    def test_random_rigs_also_between_frames(self):
        # Native segments hold between frames too; what is baked is straight between them, so whole frames there.
        for seed in range(12):
            scene = random_scene(seed)
            parts = [part for part in scene.parts if not part.footholds]
            plain = scene.with_parts(parts)
            sent = animated_svg(plain, lambda _: ("image/svg+xml", ART))
            frames = np.unique(np.rint(np.linspace(0, scene.length - 1, 10)))
            if not carrying.notes(plain):
                frames = frames + 0.37
                frames[-1] = scene.length - 0.5
            px, _, _ = differences(self.page(), sent, plain, frames)
            self.assertLess(px, 0.01, f"seed {seed}")

    def test_a_flat_curve_that_swells_between_equal_values(self):
        key = Channel((Key(0, 0, "eased", None, (8, 30)), Key(24, 0, "eased", (-8, 30), None)))
        drawing = Drawing("d", "d", "art", (0, 0, 40, 40), (0, 0, 40, 40))
        part = Part("a", "Swell", drawings=(drawing,), channels={"turn.z": key, "move.x": key})
        scene = Scene("s", "S", length=24, parts=(part,))
        sent = animated_svg(scene, lambda _: ("image/svg+xml", ART))
        self.assertEqual(carrying.notes(scene), [])
        px, degrees, _ = differences(self.page(), sent, scene, np.linspace(0, 23.7, 10))
        self.assertLess(px, 0.01)
        self.assertLess(degrees, 0.01)

    def test_a_chain_of_3_000_parts_nests_no_deeper_than_readers_go(self):
        box = (0.0, 0.0, 40.0, 40.0)
        turns = {"turn.z": Channel((Key(0, 0), Key(24, 0.2)))}
        parts = tuple(
            Part(
                f"p{number}", f"P{number}", parent=f"p{number - 1}" if number else None, channels=turns,
                drawings=(Drawing(f"d{number}", "d", "art", box, box),) if number % 499 == 0 else (),
                rest={"move.x": 0.2, "scale.x": 1.0003},
            )
            for number in range(3_000)
        )  # fmt: skip
        scene = Scene("s", "S", length=24, parts=parts)
        sent = animated_svg(scene, lambda _: ("image/svg+xml", ART))
        etree.fromstring(sent)  # with the bounds that this reader has by itself
        px, degrees, seen = differences(self.page(), sent, scene, np.array([0.0, 12.0, 23.0]))
        self.assertEqual(len(seen), 7)
        self.assertLess(px, 0.01)
        self.assertLess(degrees, 0.01)

    def test_fading_showing_and_exchanging_drawings(self):
        box = (0.0, 0.0, 40.0, 40.0)
        drawings = (Drawing("d1", "open", "one", box, box), Drawing("d2", "shut", "two", box, box))
        arts = {
            "one": ("image/svg+xml", ART),
            "two": ("image/svg+xml", ART.replace(b"#12706f", b"#d2512f")),
        }
        hand = Part(
            "a", "Hand", drawings=drawings,
            channels={
                "drawing": Channel((Key(0, 0, "hold"), Key(8, 1, "hold"))),
                "shown": Channel((Key(0, 1, "hold"), Key(16, 0, "hold"))),
            },
        )  # fmt: skip
        scene = Scene("s", "S", 40, 40, ground="#ffffff", length=24, parts=(hand,))
        page = self.page()
        data = animated_svg(scene, arts.__getitem__)
        page.route("**/sent.svg", lambda route: route.fulfill(body=data, content_type="image/svg+xml"))
        page.goto("http://sent.invalid/sent.svg")
        colours = []
        for frame in (4, 7.9, 8.1, 15.9, 16.1):
            page.evaluate(SAMPLE, frame / 24 * 1000)
            colours.append(tuple(int(value) for value in shot(page, 40, 40)[20, 20]))
        lagoon, coral, white = (18, 112, 111), (210, 81, 47), (255, 255, 255)
        self.assertEqual(colours, [lagoon, lagoon, coral, coral, white])

    def test_it_holds_no_script_and_points_at_nothing_outside(self):
        scene = random_scene(1)
        text = animated_svg(scene, lambda _: ("image/svg+xml", ART)).decode()
        self.assertNotIn("<script", text)
        self.assertNotIn("http", text.replace("http://www.w3.org/", ""))
