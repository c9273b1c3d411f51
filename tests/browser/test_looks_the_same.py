import unittest
from dataclasses import replace
from itertools import count
from pathlib import Path

from jointed_crane.core.edits import applied
from jointed_crane.core.edits.pictures.fusing import Fuse, Split, layers
from jointed_crane.core.model.scene import Scene
from jointed_crane.formats.artwork import AS_ONE, drawing_of
from jointed_crane.formats.bring_in import read_artwork
from jointed_crane.formats.coming_in import parts_of
from jointed_crane.formats.svg.pieces import pieces_of
from jointed_crane.formats.svg_out.animated import animated_svg
from jointed_crane.formats.svg_out.fusion import fused_svg
from jointed_crane.formats.svg_out.still import still_svg
from tests.browser.chromium import browser, share_of_different_pixels, shot
from tests.strategies import TIMES, some

AWKWARD = sorted((Path(__file__).parents[1] / "art").glob("*.svg"))
DEMO = sorted((Path(__file__).parents[2] / "heron_lock" / "art").glob("*.svg"))


def brought_in(path: Path):
    """The file as a scene of its size on white, and its art."""
    artwork = read_artwork(path.read_bytes(), path.name)
    parts = parts_of(artwork, map("p{}".format, count()).__next__)
    art = {piece.content_hash: (piece.media_type, piece.data) for piece in artwork.pieces}
    return Scene("s", "S", artwork.width, artwork.height, ground="#ffffff", parts=parts), art.__getitem__


def fused(scene, picked, art):
    """The scene with parts made one, and its art."""
    data, (left, top, _, _) = fused_svg(layers(scene, picked, None), art)
    artwork = read_artwork(data, "Fused", AS_ONE)
    (piece,) = artwork.pieces
    drawing = drawing_of(piece, artwork, "fused").with_zero_moved((-left, -top))
    own = {piece.content_hash: (piece.media_type, piece.data)}
    return applied(scene, [Fuse(tuple(picked), drawing)]), lambda name: own.get(name) or art(name)


class DrawingTestCase(unittest.TestCase):
    """A page of the browser that shows one drawing after the other."""

    @classmethod
    def setUpClass(cls):
        cls.page = browser().new_page(viewport={"width": 1280, "height": 720})
        cls.addClassCleanup(cls.page.close)
        cls.page.route("**/drawing.svg", cls.answer)

    @classmethod
    def answer(cls, route):
        route.fulfill(body=cls.data, content_type="image/svg+xml")

    def show(self, data):
        type(self).data = data
        self.page.goto("http://drawing.invalid/drawing.svg")
        # Until then a busy browser gives the picture before as a screenshot.
        self.page.wait_for_function("performance.getEntriesByType('paint').length")


class LooksTheSameTests(DrawingTestCase):
    """Drawings look the same in Chromium before coming in and after being sent out at frame 0."""

    def rendered(self, data: bytes, scene: Scene):
        self.show(data)
        self.page.evaluate("document.getAnimations().forEach(a => { a.pause(); a.currentTime = 0; })")
        return shot(self.page, int(scene.width), int(scene.height))

    def test_awkward_and_demo_drawings_sent_out_and_as_a_still(self):
        for path in some(AWKWARD + DEMO, 0.3):
            scene, art = brought_in(path)
            before = self.rendered(path.read_bytes(), scene)
            self.assertGreater(before.std(), 1, f"{path.name} paints something")
            # A still is the same picture: it is looked at where there is more to it than parts.
            ways = [("sent", animated_svg(scene, art))] + [("still", still_svg(scene, art))] * (path in AWKWARD)
            for name, data in ways:
                with self.subTest(f"{path.stem}, {name}"):
                    self.assertLessEqual(share_of_different_pixels(before, self.rendered(data, scene)), 0.001)

    def test_parts_fused_and_split_again_look_the_same(self):
        fused_count = split_count = 0
        for path in some(AWKWARD, 0.3):
            scene, art = brought_in(path)
            scene = replace(scene, parts=tuple(part for part in scene.parts if part.rest_value("shown")))
            picked = [part.id for part in scene.parts]
            if len(picked) < 2:
                continue
            before = self.rendered(still_svg(scene, art), scene)
            after, art = fused(scene, picked, art)
            fused_count += 1
            with self.subTest(f"{path.stem}, fused"):
                self.assertLessEqual(
                    share_of_different_pixels(before, self.rendered(still_svg(after, art), scene)), 0.001
                )
            part = after.part(picked[-1])
            cuts = pieces_of(art(part.drawings[0].art)[1], part.drawings[0], "n")
            if not cuts:
                continue
            split_count += 1
            known = {cut.drawing.art: ("image/svg+xml", cut.data) for cut in cuts}
            pieces = applied(after, [Split(part.id, tuple(cut.drawing for cut in cuts), "n")])
            self.assertEqual(len(pieces.parts), len(after.parts) + len(cuts) - 1)
            with self.subTest(f"{path.stem}, split"):
                data = still_svg(pieces, lambda name, known=known, art=art: known.get(name) or art(name))
                self.assertLessEqual(share_of_different_pixels(before, self.rendered(data, scene)), 0.001)
        self.assertGreater(min(fused_count, split_count), 5 if TIMES > 1 else 1)

    def test_the_comparison_itself_sees_a_part_moved_by_three_pixels(self):
        path = next(path for path in AWKWARD if path.stem == "nested-transforms")
        scene, art = brought_in(path)
        part = scene.parts[0]
        moved = scene.with_parts([replace(part, rest={**part.rest, "move.x": part.rest["move.x"] + 3})])
        before = self.rendered(path.read_bytes(), scene)
        after = self.rendered(still_svg(moved, art), scene)
        self.assertGreater(share_of_different_pixels(before, after), 0.001)
