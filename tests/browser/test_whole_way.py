import re
import unittest
from pathlib import Path

import numpy as np
from playwright.sync_api import Error, expect

from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.model.scene import Scene
from tests.browser.chromium import SETTLED, ServedLibrary, browser, fresh_page, leave
from tests.browser.test_sent_svg import differences

HERON = Path(__file__).parents[2] / "heron_lock" / "art" / "heron.svg"
HOSTILE = b"""<svg xmlns="http://www.w3.org/2000/svg" width="80" height="80" onload="window.ran = 1">
<script>window.ran = 1</script><image href="http://outside.invalid/a.png" width="9" height="9"/>
<style>@import url(http://outside.invalid/a.css); rect { fill: url(http://outside.invalid/b.svg#c) }</style>
<g id="harmless" onclick="window.ran = 1"><rect width="80" height="80" style="fill:#d2512f"/></g></svg>"""


class BenchTestCase(unittest.TestCase):
    """Drives the real pages; every request must stay on this machine's server, and no script error may happen."""

    has_demo = False

    def setUp(self):
        self.served = ServedLibrary(self.has_demo)
        self.addCleanup(self.served.close)
        self.page = fresh_page()
        self.addCleanup(leave, self.page)
        self.errors = []
        self.hear("pageerror", self.failed)
        self.hear("console", self.heard)
        self.addCleanup(self.assert_quiet)

    def hear(self, event, act):
        """Be told of what the page does, as long as the test runs."""
        self.page.on(event, act)
        self.addCleanup(self.page.remove_listener, event, act)

    def failed(self, error):
        self.errors.append(str(error))

    def heard(self, line):
        # The browser itself notes every refusal (422, 409) that the page has told the user about.
        if line.type == "error" and not any(status in line.text for status in ("422", "409")):
            self.errors.append(line.text)

    def assert_quiet(self):
        self.assertEqual(self.errors, [])
        asked = self.page.evaluate("[...(window.askedFor ?? [])]")
        self.assertEqual([url for url in asked if not url.startswith((self.served.address, "blob:", "data:"))], [])

    def open_bench(self, scene_id: str):
        self.page.goto(f"{self.served.address}/scenes/{scene_id}")
        self.page.wait_for_selector("[data-ready=true]")

    def scene(self):
        scene_id = self.page.url.rsplit("/", 1)[-1]
        return self.served.library.scenes.load(scene_id).scene

    def part(self, name: str):
        return next(part for part in self.scene().parts if part.name == name)

    def settled(self):
        """Wait until the bench has had an answer to everything and has been quiet for a while."""
        while True:
            try:
                return self.page.evaluate(SETTLED)
            except Error as error:  # it went on to another page meanwhile
                if "context" not in error.message:
                    raise
                self.page.wait_for_load_state()

    def press(self, *keys):
        for key in keys:
            self.page.keyboard.press(key)
        self.settled()

    def go_to(self, frame):
        self.page.click("[data-time=frame]")
        self.page.keyboard.type(str(frame))
        self.page.keyboard.press("Enter")
        self.page.locator("[data-bench=stage]").focus()
        self.settled()

    def command(self, words: str):
        """Run a command by typing a few of its letters."""
        self.page.focus("[data-bench=stage]")
        self.page.keyboard.press("/")
        self.page.keyboard.type(words)
        self.page.keyboard.press("Enter")
        self.settled()

    def drawn(self):
        """Wait until the page has drawn what has happened: it puts most drawing off to the next frame."""
        self.page.evaluate("() => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)))")

    def row(self, name: str):
        return self.page.locator("[data-row]", has=self.page.locator(f'[data-tree=name]:text-is("{name}")'))

    def pick(self, name: str):
        self.row(name).click()
        self.drawn()

    def at(self, selector: str):
        self.drawn()
        box = self.page.locator(selector).last.bounding_box()
        return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2

    def drag(self, start, end, steps: int = 8, release: bool = True):
        self.page.mouse.move(*start)
        self.page.mouse.down()
        self.page.mouse.move(*end, steps=steps)
        if release:
            self.page.mouse.up()
            self.settled()

    def on_screen(self, x: float, y: float):
        """Where a point of the stage is on the screen."""
        return self.page.evaluate(
            """([x, y]) => {
              const world = document.querySelector("[data-bench=figures] > g");
              const point = new DOMPoint(x, y).matrixTransform(world.getScreenCTM());
              return [point.x, point.y];
            }""",
            [x, y],
        )


class WholeWayTests(BenchTestCase):
    def test_from_a_drawing_to_a_moving_figure(self):
        page = self.page
        page.goto(self.served.address)
        self.assertIn("The shelf is empty", page.inner_text("main"))
        page.set_input_files("input[type=file]", HERON)
        page.wait_for_selector("[data-ready=true]")
        self.assertEqual(len(self.scene().parts), 28)
        self.assertEqual(page.get_attribute("text=Rest >> nth=0", "aria-pressed"), "true")

        # Three pivots: one dragged onto a corner of its box, one typed in px, one set as a fraction by its point.
        page.keyboard.press("4")
        self.pick("Lower neck")
        right, bottom = self.part("Lower neck").bounds[2:]
        before = evaluate(self.scene().at_rest, [0]).world_of(self.part("Lower neck").id)
        x, y = self.on_screen(right, bottom)
        self.drag(self.at("[data-pin]"), (x - 3, y - 2))
        self.assertEqual(self.part("Lower neck").pivot[:2], (right, bottom))
        np.testing.assert_allclose(
            evaluate(self.scene().at_rest, [0]).world_of(self.part("Lower neck").id), before, atol=1e-9
        )
        self.type_number('[data-card="pivot-px-x"]', "500 + 80")
        self.type_number('[data-card="pivot-px-y"]', "352")
        self.assertEqual(self.part("Lower neck").pivot[:2], (580.0, 352.0))
        self.pick("Upper neck")
        self.type_number('[data-card="pivot-px-x"]', "524")
        self.type_number('[data-card="pivot-px-y"]', "254")
        self.pick("Head")
        page.click('[aria-label="Pivot to the lower middle"]')
        self.settled()
        left, _, right, bottom = self.part("Head").bounds
        self.assertEqual(self.part("Head").pivot[:2], ((left + right) / 2, bottom))

        # A neck chain: by dragging in the tree, by the card, by the keyboard.
        worlds = evaluate(self.scene().at_rest, [0]).world
        page.set_viewport_size({"width": 1280, "height": 1000})  # both rows are seen, as a hand needs them
        self.row("Body").scroll_into_view_if_needed()
        self.row("Lower neck").drag_to(self.row("Body"))
        self.settled()
        self.pick("Upper neck")
        page.focus("[data-card=parent]")
        page.select_option("[data-card=parent]", label="Lower neck")
        self.settled()
        self.pick("Head")
        self.row("Upper neck").click(modifiers=["Control"])
        page.keyboard.press("j")
        self.settled()
        parents = {name: self.part(name).parent for name in ("Lower neck", "Upper neck", "Head")}
        ids = {name: self.part(name).id for name in ("Body", "Lower neck", "Upper neck")}
        self.assertEqual(list(parents.values()), list(ids.values()))
        np.testing.assert_allclose(evaluate(self.scene().at_rest, [0]).world, worlds, atol=1e-9)
        # A loop is refused with its names.
        self.row("Body").drag_to(self.row("Head"))
        page.wait_for_selector(".notice-refusal")
        self.assertIn("loop", page.inner_text(".notice-refusal"))
        page.click(".notice-refusal button")

        # Two turns keyed in Motion: one by the ring, one by typing.
        page.keyboard.press("m")
        self.pick("Lower neck")
        page.keyboard.press("1")
        page.keyboard.press("Shift+I")
        self.settled()
        for _ in range(24):
            page.keyboard.press(".")
        self.settled()
        x, y = self.at("circle[data-ring]")
        self.drag((x, y), (x - 60, y + 40), release=False)
        self.assertRegex(page.text_content("[data-bench=stage]"), r"−\d+\.\d°")
        page.mouse.up()
        self.settled()
        self.pick("Upper neck")
        self.type_number('[data-channel="turn.z"]', "360 + 45/2")
        self.assertEqual(page.inner_text("[data-card=turns]"), "1.06 turns")
        lower, upper = self.part("Lower neck").channels, self.part("Upper neck").channels
        self.assertEqual((list(lower), list(upper)), (["turn.z"], ["turn.z"]))
        self.assertEqual([key.frame for key in lower["turn.z"].keys], [0.0, 24.0])
        self.assertLess(lower["turn.z"].keys[1].value, -20)
        # The first key of a channel at a later frame keeps what came before by one more.
        self.assertEqual([(key.frame, key.value) for key in upper["turn.z"].keys], [(0.0, 0.0), (24.0, 382.5)])

        # Retiming by dragging a key, and its undo.
        self.pick("Lower neck")
        x, y = self.at('[data-key="turn.z@24"]')
        frames = page.evaluate("document.querySelector('[data-time=picture]').clientWidth")
        self.drag((x, y), (x + (frames - 196) / 95 * 12, y))
        self.assertEqual([key.frame for key in self.part("Lower neck").channels["turn.z"].keys], [0.0, 36.0])
        page.keyboard.press("Control+z")
        self.settled()
        self.assertEqual([key.frame for key in self.part("Lower neck").channels["turn.z"].keys], [0.0, 24.0])
        page.keyboard.press("Control+Shift+z")
        self.settled()
        self.assertEqual([key.frame for key in self.part("Lower neck").channels["turn.z"].keys], [0.0, 36.0])

        # Play: frames go by, and the stage shows what evaluate computes.
        page.keyboard.press("Home")
        self.settled()
        page.keyboard.press(" ")
        expect(page.locator("[data-time=frame]")).to_have_text(re.compile(r"f\s*([6-9]|\d\d)"))
        page.keyboard.press(" ")
        self.settled()
        frame = int(page.inner_text("[data-time=frame]").split()[1])
        self.assertGreater(frame, 5)
        head = self.part("Head").id
        shown = page.get_attribute(f'[data-part="{head}"]', "transform")
        numbers = [float(text) for text in shown[7:-1].split()]
        world = evaluate(self.scene(), [frame]).world_of(head)
        np.testing.assert_allclose(numbers, world[:2][:, [0, 1, 3]].T.ravel(), atol=1e-9)

        # Send out, and open what was sent in the browser.
        page.click("text=Send out")
        with page.expect_download() as download:
            page.click("text=Animated SVG")
        sent = Path(download.value.path()).read_bytes()
        self.assertEqual(download.value.suggested_filename, "heron.svg")
        scene = self.scene()
        viewer = browser().new_page()
        self.addCleanup(viewer.close)
        frames = np.array([0, 7, 12, 24, 30, 36, 48, 60, 77, 95])
        px, degrees, seen = differences(viewer, sent, scene, frames)
        self.assertEqual(len(seen), 28)
        self.assertLess(px, 0.01)
        self.assertLess(degrees, 0.01)

    def type_number(self, field: str, text: str):
        self.page.fill(f"{field} input", text)
        self.page.press(f"{field} input", "Enter")
        self.settled()
        self.page.locator(f"{field} input").blur()

    def test_files_dropped_on_the_stage_come_in_where_they_were_drawn(self):
        self.served.library.scenes.create(Scene("s", "Lock"))
        self.open_bench("s")
        drawing = HERON.parents[2] / "tests" / "art" / "loose-elements.svg"
        self.page.evaluate(
            """text => {
              const files = new DataTransfer();
              files.items.add(new File([text], "lock.svg", { type: "image/svg+xml" }));
              document.querySelector("[data-bench=stage]").dispatchEvent(
                new DragEvent("drop", { dataTransfer: files, bubbles: true, cancelable: true }));
            }""",
            drawing.read_text(),
        )
        # The panel shows every layer before anything comes in; its main button has the focus.
        self.page.wait_for_selector("dialog[open] [data-import=layers] li >> nth=4")
        self.assertEqual(len(self.scene().parts), 0)
        self.page.keyboard.press("Enter")
        self.page.wait_for_selector("[data-row]")
        self.settled()
        names = [part.name for part in self.scene().parts]
        self.assertEqual(names, ["sky", "hills", "Beige circle, upper right", "hill-in-front", "Black shape, bottom"])
        np.testing.assert_allclose(
            evaluate(self.scene(), [0]).world, np.eye(4)[None, None].repeat(5, axis=0), atol=1e-12
        )

    def test_hostile_art_comes_in_harmless(self):
        self.page.goto(self.served.address)
        self.page.set_input_files(
            "input[type=file]", {"name": "hostile.svg", "mimeType": "image/svg+xml", "buffer": HOSTILE}
        )
        self.page.wait_for_selector("[data-ready=true]")
        self.assertIn("left out", self.page.inner_text("#notices"))
        self.settled()
        self.assertIsNone(self.page.evaluate("window.ran ?? null"))
        art = self.scene().parts[0].drawings[0].art
        self.page.goto(f"{self.served.address}/art/{art}")
        self.assertIsNone(self.page.evaluate("window.ran ?? null"))
