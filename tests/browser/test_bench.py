import re
import unittest
from dataclasses import replace

import numpy as np
from playwright.sync_api import expect

from heron_lock.heron import NAME
from jointed_crane.core.edits.pictures.drawings import ReplaceDrawing
from jointed_crane.core.edits.pictures.making_shapes import AddShape
from jointed_crane.core.edits.placing.poses import SetValues
from jointed_crane.core.edits.scene.bench_state import SetBenchState
from jointed_crane.core.edits.scene.copies import with_drawings_of_its_own
from jointed_crane.core.edits.scene.parts import AddParts
from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.model.forms import Ellipse, Node, Paint, PenPath, Rectangle, Text
from jointed_crane.core.model.scene import Drawing, Part, Scene
from jointed_crane.core.motion.channel import Channel, Key
from jointed_crane.formats.artwork import AS_ONE, drawing_of
from jointed_crane.formats.bring_in import read_artwork
from jointed_crane.formats.lettering import lettered
from jointed_crane.formats.svg_out.animated import animated_svg
from jointed_crane.formats.svg_out.still import still_svg
from tests.browser.chromium import browser, share_of_different_pixels, shot
from tests.browser.test_whole_way import HERON, BenchTestCase
from tests.strategies import STUB, STUB_NAME

CUT_OFF = """
() => {
  const found = [];
  const seen = (element) => element.checkVisibility({ visibilityProperty: true, opacityProperty: true });
  for (const element of document.querySelectorAll("button, input:not([type=file]), select, h1, h2, .field")) {
    if (!seen(element) || element.closest("dialog, [data-tree=list], .menu")) continue;
    const box = element.getBoundingClientRect();
    let [left, right] = [0, innerWidth];
    for (let up = element.parentElement; up; up = up.parentElement) {
      if (getComputedStyle(up).overflowX === "visible") continue;
      const around = up.getBoundingClientRect();
      [left, right] = [Math.max(left, around.left), Math.min(right, around.right)];
    }
    if (box.left < left - 1 || box.right > right + 1) found.push(element.textContent.trim() || element.ariaLabel);
    const isTooNarrow = element.scrollWidth > element.clientWidth + 1 && !element.matches(".truncate");
    if (element.matches("button") && isTooNarrow) found.push(`too narrow: ${element.textContent.trim()}`);
  }
  for (const element of document.querySelectorAll("header, aside, main, section, [data-time=area]"))
    if (seen(element) && element.scrollWidth > element.clientWidth + 1)
      found.push(`scrolls sideways: ${element.tagName} ${element.dataset.bench ?? ""}`);
  if (document.documentElement.scrollWidth > innerWidth) found.push("the page scrolls sideways");
  return found;
}
"""


class DemoTestCase(BenchTestCase):
    has_demo = True

    def setUp(self):
        super().setUp()
        self.heron = self.served.library.shelf.find(NAME).id


class LayoutTests(DemoTestCase):
    def test_nothing_is_cut_off_at_three_widths(self):
        for width, height in ((1280, 800), (1024, 768), (1920, 1080)):
            self.page.set_viewport_size({"width": width, "height": height})
            self.page.goto(self.served.address)
            self.settled()
            self.assertEqual(self.page.evaluate(CUT_OFF), [], f"shelf at {width}")
            self.open_bench(self.heron)
            for name in ("Lower neck", "Heron"):
                self.pick(name)
                self.settled()
                for state in ("m", "r"):
                    self.page.keyboard.press(state)
                    self.settled()
                    self.assertEqual(self.page.evaluate(CUT_OFF), [], f"bench at {width}, {name}, {state}")

    def test_the_stage_shows_what_is_sent_out(self):
        self.page.set_viewport_size({"width": 1700, "height": 1200})
        self.open_bench(self.heron)
        for _ in range(20):
            self.page.keyboard.press(".")
        self.settled()
        # The helper's dashed square is drawn on the bench only.
        self.assertLess(self.share_unlike_sent(20.0), 0.004)

    def test_shapes_text_and_fitted_drawings_are_sent_as_the_stage_shows_them(self):
        library = self.served.library
        kept = library.scenes.create(Scene("s", "Lock", 1280, 720))
        title = lettered(Text("Heron Lock", "Bricolage Grotesque Bold", 120.0, 20.0), library.assets.get)
        artwork = read_artwork(HERON.read_bytes(), "heron.svg", AS_ONE)
        library.assets.put((piece.media_type, piece.data) for piece in artwork.pieces)
        whole = drawing_of(artwork.pieces[0], artwork, "whole")
        pen = PenPath(((Node((60.0, 60.0), None, (60.0, -80.0)), Node((260.0, 120.0), (-40.0, 90.0), None)),), False)
        made = [
            AddShape("box", Rectangle((700.0, 60.0, 1200.0, 340.0), 40.0, Paint("#d2512f", "#20303c", 12.0)), "Box"),
            AddShape("round", Ellipse((300.0, 300.0), (160.0, 90.0), Paint("#c99a53")), "Round"),
            AddShape("pen", replace(pen, paint=Paint("", "#12706f", 18.0)), "Pen"),
            AddShape("title", title, "Title", (80.0, 640.0)),
            AddShape("back", Rectangle((0.0, 0.0, 400.0, 200.0)), "Back", (760.0, 420.0)),
            ReplaceDrawing("back", "back-1", whole, "box"),
            SetValues(("box",), {"turn.z": 12.0, "scale.y": 0.8}),
            SetValues(("back",), {"turn.z": -20.0}),
        ]
        kept = library.scenes.keep("s", kept.version, made)
        beside = with_drawings_of_its_own(
            replace(kept.scene.part("round"), id="beside", kind="reference", name="Beside")
        )
        kept = library.scenes.keep("s", kept.version, [AddParts((beside,)), SetBenchState(("beside",), hidden=True)])
        self.page.set_viewport_size({"width": 1700, "height": 1200})
        self.open_bench("s")
        self.settled()
        # At rest the mat's squares lie over the stage; Motion shows it plain.
        self.page.keyboard.press("m")
        self.settled()
        self.assertNotIn(b"Beside", animated_svg(kept.scene, library.assets.get))
        self.assertLess(self.share_unlike_sent(0.0), 0.001)

    def share_unlike_sent(self, frame):
        """The stage against the sent still, both drawn by the browser; handles and edges are out of sight."""
        scene = self.scene()
        self.page.mouse.move(5, 5)
        x, y = self.on_screen(0, 0)
        right, bottom = self.on_screen(1280, 720)
        k = (right - x) / 1280
        drawn = np.asarray(shot(self.page, 1700, 1200))[int(y) + 2 : int(bottom) - 2, int(x) + 2 : int(right) - 2]
        still = still_svg(scene, self.served.library.assets.get, frame)
        viewer = browser().new_page()
        self.addCleanup(viewer.close)
        viewer.set_viewport_size({"width": 1700, "height": 1200})
        viewer.route("**/still.svg", lambda route: route.fulfill(body=still, content_type="image/svg+xml"))
        viewer.route(
            "**/still.html",
            lambda route: route.fulfill(
                body=f"<style>body{{margin:0}}img{{position:absolute;left:{x}px;top:{y}px;width:{1280 * k}px}}</style>"
                "<img src=still.svg>",
                content_type="text/html",
            ),
        )
        viewer.goto("http://still.invalid/still.html")
        expected = np.asarray(shot(viewer, 1700, 1200))[int(y) + 2 : int(bottom) - 2, int(x) + 2 : int(right) - 2]
        return share_of_different_pixels(drawn, expected, by_more_than=24)


class DragTests(DemoTestCase):
    def test_escape_takes_a_drag_back(self):
        self.open_bench(self.heron)
        self.pick("Head")
        before = self.scene()
        head = self.part("Head").id
        shown = self.page.get_attribute(f'[data-part="{head}"]', "transform")
        x, y = self.at("circle[data-ring]")
        self.drag((x, y), (x + 50, y + 60), release=False)
        self.settled()
        self.assertNotEqual(self.page.get_attribute(f'[data-part="{head}"]', "transform"), shown)
        self.page.keyboard.press("Escape")
        self.page.mouse.up()
        self.settled()
        self.assertEqual(self.page.get_attribute(f'[data-part="{head}"]', "transform"), shown)
        self.assertEqual(self.scene(), before)

    def test_a_click_goes_through_what_is_locked_or_hidden(self):
        box = (0.0, 0.0, 200.0, 200.0)
        ring = ((0.0, 0.0), (200.0, 0.0), (200.0, 200.0), (0.0, 200.0))
        marks = {"lowest": {}, "hidden": {"hidden": True}, "locked": {"locked": True}, "gone": {}}
        parts = [
            Part(
                name, name, drawings=(Drawing(name, "Panel", STUB_NAME, box, box, outline=(ring,)),),
                rest={"move.x": 500.0, "move.y": 300.0, "shown": float(name != "gone")}, **how,
            )
            for name, how in marks.items()
        ]  # fmt: skip
        self.served.library.assets.put([STUB])
        for is_deep in (False, True):
            scene_id = f"through-{is_deep}"
            self.served.library.scenes.create(Scene(scene_id, "Through", parts=tuple(parts), depth=is_deep))
            self.open_bench(scene_id)
            self.settled()
            middle = self.at('[data-pick="lowest"]')
            hit = self.page.evaluate("(at) => document.elementFromPoint(...at)?.dataset.pick", middle)
            self.assertEqual(hit, "lowest")

    def test_one_drag_is_one_row_of_undo(self):
        self.open_bench(self.heron)
        self.page.keyboard.press("r")
        self.pick("Wing")
        before = self.scene()
        x, y = self.at("circle[data-ring]")
        self.drag((x, y), (x + 40, y + 30), steps=25)
        self.assertNotEqual(self.scene(), before)
        self.page.click("text=Undo")
        self.settled()
        self.assertEqual(self.scene(), before)

    def test_whole_turns_are_counted_and_shift_steps_by_15_degrees(self):
        self.open_bench(self.heron)
        self.page.keyboard.press("r")
        self.pick("Sun")
        self.page.keyboard.press("2")
        self.page.click('[aria-label="Unlock Sun"]')
        self.settled()
        self.pick("Sun")
        x, y = self.at("circle[data-ring]")
        ring = self.page.locator("circle[data-ring]").first.bounding_box()
        self.page.mouse.move(x, y)
        self.page.mouse.down()
        centre = (ring["x"] + ring["width"] / 2, ring["y"] + ring["height"] / 2)
        for degrees in range(0, 751, 10):
            angle = np.deg2rad(degrees - 90)
            self.page.mouse.move(centre[0] + 80 * np.cos(angle), centre[1] + 80 * np.sin(angle))
        self.page.keyboard.down("Shift")
        self.page.mouse.move(centre[0] + 80 * np.cos(np.deg2rad(-58)), centre[1] + 80 * np.sin(np.deg2rad(-58)))
        self.settled()
        self.assertIn("750.0° · 2.08 turns", self.page.text_content("[data-bench=stage]"))
        self.page.mouse.up()
        self.page.keyboard.up("Shift")
        self.settled()
        self.assertAlmostEqual(self.part("Sun").rest_value("turn.z"), 750.0, places=6)

    def test_shift_steps_read_and_keep_multiples_of_15_under_a_mirrored_parent(self):
        body = Part("b", "Body", "helper", rest={"move.x": 640.0, "move.y": 360.0, "scale.x": -1.0})
        arm = Part("a", "Arm", "helper", parent="b", rest={"turn.z": 4.0})
        self.served.library.scenes.create(Scene("s", "S", parts=(body, arm)))
        self.open_bench("s")
        self.pick("Arm")
        self.page.keyboard.press("2")
        x, y = self.at("circle[data-ring]")
        self.page.mouse.move(x, y)
        self.page.mouse.down()
        self.page.keyboard.down("Shift")
        self.page.mouse.move(x + 30, y + 4)
        self.page.mouse.move(x + 44, y + 18, steps=4)
        self.settled()
        said = self.page.text_content("[data-bench=stage]")
        self.page.mouse.up()
        self.page.keyboard.up("Shift")
        self.settled()
        turn = self.part("Arm").rest_value("turn.z")
        self.assertLess(turn, 0)
        self.assertAlmostEqual(turn % 15, 0)
        self.assertIn(f"{turn:.1f}°".replace("-", "−"), said.replace("-", "−"))

    def test_pivot_stays_slides_the_art_under_the_pin(self):
        self.open_bench(self.heron)
        self.page.keyboard.press("r")
        self.pick("Wing")
        self.page.keyboard.press("4")
        self.page.keyboard.press("a")
        pin = self.at("[data-pin]")
        part = self.part("Wing")
        self.drag(pin, (pin[0] + 40, pin[1] + 25))
        after = self.part("Wing")
        self.assertEqual(after.rest, part.rest)
        self.assertNotEqual(after.pivot, part.pivot)
        np.testing.assert_allclose(self.at("[data-pin]"), pin, atol=0.6)


class KeyboardTests(DemoTestCase):
    def test_arrow_keys_do_what_the_tool_does(self):
        self.open_bench(self.heron)
        self.page.keyboard.press("r")
        self.pick("Wing")
        self.page.focus("[data-bench=stage]")
        before = self.part("Wing")
        pivot = evaluate(self.scene().at_rest, [0]).world_of(before.id) @ [*before.pivot, 1]
        self.page.keyboard.press("ArrowRight")
        self.settled()
        moved = evaluate(self.scene().at_rest, [0]).world_of(before.id) @ [*before.pivot, 1]
        np.testing.assert_allclose(moved - pivot, [1, 0, 0, 0], atol=1e-9)
        self.page.keyboard.press("2")
        self.page.keyboard.press("Shift+ArrowRight")
        self.settled()
        self.assertAlmostEqual(self.part("Wing").rest_value("turn.z") - before.rest_value("turn.z"), 15)
        self.page.keyboard.press("3")
        self.page.keyboard.press("Shift+ArrowUp")
        self.settled()
        self.assertAlmostEqual(self.part("Wing").rest_value("scale.y") / before.rest_value("scale.y"), 1.1)

    def test_the_tree_by_keyboard(self):
        self.open_bench(self.heron)
        self.row("Heron").focus()
        self.page.keyboard.press("ArrowDown")
        self.page.keyboard.press("ArrowDown")
        self.page.keyboard.press("Enter")
        self.page.keyboard.type("Collar")
        self.page.keyboard.press("Enter")
        self.settled()
        self.assertEqual(self.part("Collar").parent, self.part("Body").id)
        self.page.keyboard.press("ContextMenu")
        while self.page.locator("[data-act=detach]:focus").count() == 0:
            self.page.keyboard.press("ArrowDown")
        self.page.keyboard.press("Enter")
        self.settled()
        self.assertIsNone(self.part("Collar").parent)

    def test_keys_are_deleted_and_segments_changed(self):
        self.open_bench(self.heron)
        self.pick("Lower neck")
        self.settled()
        self.page.click('[data-key="turn.z@30"]')
        self.page.click("text=Straight")
        self.settled()
        self.assertEqual(self.part("Lower neck").channels["turn.z"].key_at(30).kind, "straight")
        self.page.keyboard.press("Control+.")
        self.settled()
        self.assertIsNotNone(self.part("Lower neck").channels["turn.z"].key_at(31))
        self.page.keyboard.press("Delete")
        self.settled()
        self.assertIsNone(self.part("Lower neck").channels["turn.z"].key_at(31))


class RetimingTests(BenchTestCase):
    def test_keys_stay_picked_where_they_come_to_stand(self):
        keys = tuple(Key(float(frame), float(frame)) for frame in (0, 10, 20))
        part = Part("a", "Arm", "helper", channels={"turn.z": Channel(keys), "move.x": Channel(keys[:2])})
        self.served.library.scenes.create(Scene("s", "S", parts=(part,)))
        self.open_bench("s")
        self.page.keyboard.press("m")
        self.pick("Arm")
        self.page.locator('[data-key="turn.z@10"]').dispatch_event("pointerdown", {"button": 0, "pointerId": 1})
        self.page.locator("[data-time=picture]").dispatch_event("pointerup", {"pointerId": 1})
        for frame in (11, 12, 13):
            self.page.keyboard.press("Control+.")
            self.settled()
            self.assertEqual([key.frame for key in self.part("Arm").channels["turn.z"].keys], [0, frame, 20])
            picked = self.page.locator("[data-key].stroke-coral")
            self.assertEqual(picked.evaluate_all("found => found.map((key) => key.dataset.key)"), [f"turn.z@{frame}"])
        self.assertEqual([key.frame for key in self.part("Arm").channels["move.x"].keys], [0, 10])


class PlayingTests(DemoTestCase):
    def play(self, seconds=0.6):
        self.page.keyboard.press("Space")
        self.page.wait_for_timeout(seconds * 1000)

    def test_a_change_from_elsewhere_is_played(self):
        self.open_bench(self.heron)
        self.play()
        self.page.keyboard.press("Space")
        known = self.served.library.scenes.load(self.heron)
        head = next(part for part in known.scene.parts if part.name == "Head")
        shown = SetValues((head.id,), {"shown": 0.0}, 0.0)
        self.served.library.scenes.keep(self.heron, known.version, [shown])
        self.play()
        group = self.page.locator(f'[data-part="{head.id}"]')
        self.assertEqual(group.get_attribute("visibility"), "hidden")

    def test_a_film_of_many_blocks_plays_on_across_their_edges(self):
        helpers = tuple(Part(f"h{number}", f"Helper {number}", kind="helper") for number in range(500))
        self.served.library.scenes.create(Scene("long", "Long", length=120, parts=helpers))
        self.open_bench("long")
        asked = []
        self.hear("request", lambda request: asked.append(request.url) if "/motion" in request.url else None)
        with self.page.expect_response(lambda answer: "from=100" in answer.url, timeout=60_000):
            self.page.keyboard.press("Space")
        expect(self.page.locator("[data-time=frame]")).to_have_text(re.compile(r"f (5[1-9]|[6-9]\d|1\d\d)"))
        self.page.keyboard.press("Space")
        self.settled()
        self.assertEqual([url.partition("?")[2] for url in asked], ["from=0&to=49", "from=50&to=99", "from=100&to=119"])
        self.assertEqual(self.page.locator(".notice-refusal").count(), 0)


if __name__ == "__main__":
    unittest.main()
