import random
import re
from dataclasses import replace

from playwright.sync_api import expect

from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.motion.channel import Channel, Key
from tests.browser.test_whole_way import BenchTestCase


def long_drawing(layers: int) -> bytes:
    """Layers whose outlines take their time, but none of them long."""
    draw = random.Random(1)

    def scribble() -> str:
        return " ".join(f"{draw.uniform(0, 400):.1f},{draw.uniform(0, 400):.1f}" for _ in range(90))

    lines = "".join(
        f'<g id="stroke-{n}x"><polyline points="{scribble()}" fill="none" stroke="#000" stroke-width="3"/></g>'
        for n in range(layers)
    )
    return f'<svg xmlns="http://www.w3.org/2000/svg" width="400" height="400">{lines}</svg>'.encode()


class ReadingTests(BenchTestCase):
    """A file that takes long says how far it is, can be stopped, and leaves nothing behind."""

    def setUp(self):
        super().setUp()
        self.served.library.scenes.create(Scene("s", "S", parts=(Part("a", "Crate"),)))
        self.open_bench("s")

    def bring_in(self, data: bytes):
        with self.page.expect_file_chooser() as chooser:
            self.page.click("text=Bring in")
        chooser.value.set_files([{"name": "strokes.svg", "mimeType": "image/svg+xml", "buffer": data}])

    def test_progress_is_told_and_the_stop_button_ends_it(self):
        before = self.scene()
        self.bring_in(long_drawing(600))
        line = self.page.locator("[data-work=line]")
        expect(line).to_contain_text(re.compile(r"Reading strokes\.svg: \d+ of 600 layers"), timeout=15_000)
        bar = line.locator("progress")
        self.assertEqual(bar.get_attribute("max"), "600")
        # Others are answered meanwhile.
        answer = self.page.request.get(f"{self.served.address}/api/scenes/s/pose?frame=2")
        self.assertEqual(answer.status, 200)
        expect(line).to_be_visible()
        line.locator("[data-work=stop]").click()
        expect(line).to_have_count(0, timeout=10_000)
        self.assertIn("Reading was stopped. Nothing was brought in.", self.page.inner_text("#notices"))
        self.assertEqual(self.scene(), before)
        self.assertEqual(self.served.library.assets.of_type("image/svg+xml"), [])


class SendingTests(BenchTestCase):
    """A scene that takes long to send says how far it is, can be stopped, and is not sent then."""

    has_demo = True

    def test_progress_is_told_and_the_stop_button_ends_it(self):
        library = self.served.library
        scene = library.scenes.load(library.shelf.cards()[0].id).scene
        turns = {"turn.x": Channel((Key(0.0, 0.0), Key(9000.0, 90.0)))}  # in depth: written frame by frame
        parts = [replace(part, channels=turns) for part in scene.parts]
        library.scenes.create(replace(scene, id="s", name="Long", length=9001, parts=tuple(parts)))
        self.open_bench("s")
        saved = []
        self.page.on("download", lambda download: saved.append(download))
        self.page.click("text=Send out")
        self.page.get_by_role("menuitem", name="Animated SVG").click()
        line = self.page.locator("[data-work=line]")
        expect(line).to_contain_text(re.compile(r"Sending the scene out: \d+ of 9001 frames"), timeout=15_000)
        answer = self.page.request.get(f"{self.served.address}/api/scenes/s/pose?frame=2")
        self.assertEqual(answer.status, 200)
        line.locator("[data-work=stop]").click()
        expect(line).to_have_count(0, timeout=10_000)
        self.assertIn("Sending was stopped. Nothing was sent.", self.page.inner_text("#notices"))
        self.assertEqual(saved, [])
