"""Drives a page of the guide in the browser as it says itself: each line of `do` is a verb and what it is about."""

from __future__ import annotations

import io
import os
import re
import shlex
from pathlib import Path

import numpy as np
from PIL import Image

from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.evaluate.pose_at_frame import pivot_at
from jointed_crane.web.guide.lessons import Lesson, LessonStep
from jointed_crane.web.guide.starts import DRAWING
from tests.browser.test_whole_way import BenchTestCase

PICTURES = Path(__file__).parents[2] / "jointed_crane" / "web" / "guide" / "static" / "pictures"
#: Set to have the pictures of the pages taken anew.
TAKES_PICTURES = bool(os.environ.get("JOINTED_CRANE_PICTURES"))


#: Finds what is seen and can be pressed, by the words that it shows or is read out by.
NAMED = """
(name) => {
  const above = document.querySelector("dialog[open], :popover-open") ?? document;
  const words = (one) => one.getAttribute("aria-label") ?? one.textContent.trim().replace(/\\s+/g, " ");
  const isSeen = (one) => one.checkVisibility() && one.getClientRects().length > 0;
  const within = (root) =>
    [...root.querySelectorAll("button, a, summary, [role=menuitem], [role=tab], [role=button]")].filter(
      (one) => isSeen(one) && words(one).startsWith(name) && !/\\w/.test(words(one)[name.length] ?? " "),
    );
  return within(above).at(-1) ?? within(document).at(-1) ?? null;
}
"""


#: Finds a field that is seen, by the words that stand at it or that it is read out by.
FIELD = """
(name) => {
  const above = document.querySelector("dialog[open]") ?? document;
  const words = (one) => one.getAttribute("aria-label") ?? one.labels?.[0]?.textContent.trim() ?? "";
  const isWanted = (one) => one.checkVisibility() && words(one).startsWith(name);
  return [...above.querySelectorAll("input, textarea")].find(isWanted) ?? null;
}
"""


class GuideCase(BenchTestCase):
    def drive(self, lesson: Lesson):
        self.page.set_default_timeout(8_000)
        self.addCleanup(self.page.set_default_timeout, 30_000)
        self.page.goto(f"{self.served.address}/guide/{lesson.slug}")
        self.page.click("text=Try it here")
        self.page.wait_for_selector("[data-ready=true]")
        self.settled()
        self.begun = self.scene()
        for step in lesson.steps:
            self.assert_said(step)
            for line in step.do:
                verb, *about = shlex.split(line)
                with self.subTest(f"{lesson.slug}: {line}"):
                    getattr(self, f"do_{verb.replace('-', '_')}")(*about)
                    self.settled()
            for what, wanted in step.sees.items():
                with self.subTest(f"{lesson.slug}: {step.words}"):
                    getattr(self, f"see_{what}")(wanted)
        if TAKES_PICTURES:
            self.take(lesson)

    def assert_said(self, step: LessonStep):
        """What a step has done is what its words say: each label and each key."""
        done = " ".join(step.do)
        for label in re.findall(r"\[([^]]+)\]", step.words):
            said = label in done or label.split()[0] in done or self.page.get_by_text(label).first.is_visible()
            self.assertTrue(said, f"[{label}] is in no line of {step.do}, and not seen")
        for key in re.findall(r"\{([^}]+)\}", step.words):
            names = {"Space": "play", "Ctrl": "also", "/": "command", "Enter": "command", ".": "frame"}
            name = names.get(key, key.replace("Ctrl+", "Control+"))
            name = f"key {name}" if key not in names else name
            self.assertIn(name.lower(), done.lower())

    def take(self, lesson: Lesson):
        PICTURES.mkdir(exist_ok=True)
        self.page.mouse.move(2, 2)
        with Image.open(io.BytesIO(self.page.screenshot())) as picture:
            small = picture.convert("RGB").resize((880, 550), Image.Resampling.LANCZOS)
            small.save(PICTURES / f"{lesson.slug}.webp", quality=72, method=6)

    # What is done

    def named(self, name: str):
        """What is seen and pressed under a name: of several the one in what lies above, else the last."""
        found = self.page.evaluate_handle(NAMED, name).as_element()
        self.assertIsNotNone(found, f"nothing is called {name!r}")
        return found

    def do_press(self, name):
        self.named(name).click()

    def do_choose(self, name, file):
        with self.page.expect_file_chooser() as chooser:
            self.named(name).click()
        chooser.value.set_files(DRAWING.with_name(file))
        self.page.wait_for_selector("dialog[open]")

    def do_download(self, name):
        with self.page.expect_download() as download:
            self.named(name).click()
        self.assertIn(b"<svg", download.value.path().read_bytes())

    def do_key(self, key):
        self.page.keyboard.press(key)

    def do_command(self, words):
        self.command(words)

    def do_play(self):
        self.page.focus("[data-bench=stage]")
        self.page.keyboard.press(" ")
        self.page.wait_for_timeout(250)
        self.page.keyboard.press(" ")

    def do_frame(self, frame):
        self.go_to(int(frame))

    def do_pick(self, name):
        self.pick(name)

    def do_also(self, name):
        self.row(name).click(modifiers=["Control"])

    def do_type(self, label, text):
        found = self.page.evaluate_handle(FIELD, label).as_element()
        self.assertIsNotNone(found, f"no field is called {label!r}")
        found.fill(text)
        found.press("Tab")
        self.page.evaluate("document.activeElement?.matches('dialog *') || document.activeElement?.blur()")

    def do_choose_from(self, label, option):
        self.page.get_by_label(label).locator("visible=true").last.select_option(label=option)

    def do_untick(self, label):
        self.page.get_by_label(label, exact=True).uncheck()

    def do_pin(self, name, place):
        end = self.on_screen(*map(float, place.split(",")))
        self.drag(self.at(f"[data-pin='{self.part(name).id}']"), end)

    def do_drag(self, start, end):
        places = [self.on_screen(*map(float, place.split(","))) for place in (start, end)]
        self.drag(*places)

    def do_ring(self, by):
        x, y = self.at("circle[data-ring]")
        self.drag((x, y), (x + float(by), y + float(by)))

    def do_key_at(self, channel, frame):
        self.page.locator(f'[data-key="{channel}@{frame}"]').click()

    def do_curve_key(self, channel, frame):
        self.page.locator(f'[data-curve-key="{channel}@{frame}"]').click()

    def do_drag_key(self, channel, start, end):
        (x, y), (first, _) = (self.at(f'[data-key="{channel}@{frame}"]') for frame in (start, 0))
        self.drag((x, y), (x + (x - first) / int(start) * (int(end) - int(start)), y))

    # What is there then

    def see_words(self, words):
        self.assertIn(words, self.page.inner_text("body") + (self.page.text_content("[data-time=picture]") or ""))

    def see_parts(self, count):
        self.assertEqual(len(self.scene().parts), count)

    def see_part(self, name):
        self.assertIn(name, [part.name for part in self.scene().parts])

    def see_parent(self, wanted):
        scene = self.scene()
        for child, parent in wanted.items():
            self.assertEqual(scene.part(self.part(child).parent).name, parent)

    def see_depth(self, wanted):
        self.assertEqual(self.scene().depth, wanted)

    def see_camera_moved(self, _wanted):
        (camera,) = (part for part in self.scene().parts if part.camera)
        self.assertTrue({"turn.y", "move.x"} <= set(camera.channels), camera.channels)

    def see_seated(self, names):
        for name in names:
            self.assertIsNotNone(self.part(name).seat, name)

    def see_pivot(self, wanted):
        at = pivot_at(self.scene(), self.part(wanted["part"]).id, wanted.get("frame"))
        self.assertLessEqual(float(np.hypot(*(at[:2] - wanted["near"]))), wanted["within"], at)

    def see_moved(self, name):
        part_id = self.part(name).id
        film = evaluate(self.scene(), np.arange(0.0, self.scene().length)).world
        after = film[self.scene().index[part_id]]
        before = evaluate(self.begun, [0.0]).world_of(part_id) if part_id in self.begun.index else after[0]
        self.assertGreater(float(np.abs(after - before).max()), 0.01)

    def see_still(self, wanted):
        film = evaluate(self.scene(), np.arange(float(wanted["first"]), wanted["last"] + 1.0)).world
        places = film[self.scene().index[self.part(wanted["part"]).id]]
        self.assertLess(float(np.abs(places - places[0]).max()), 1e-9)

    def see_keys(self, wanted):
        keys = self.part(wanted["part"]).channels[wanted["channel"]].keys
        np.testing.assert_allclose([key.frame for key in keys], wanted["frames"], atol=1)

    def see_kind(self, wanted):
        self.assertEqual(
            self.part(wanted["part"]).channels[wanted["channel"]].key_at(wanted["frame"]).kind, wanted["kind"]
        )

    def see_footholds(self, wanted):
        self.assertEqual(len(self.part(wanted["part"]).footholds), wanted["count"])

    def see_turn(self, wanted):
        scene = self.scene().at_rest
        for name, degrees in wanted.items():
            a, b = evaluate(scene, [0.0]).world_of(self.part(name).id)[:2, 0]
            self.assertAlmostEqual(float(np.rad2deg(np.arctan2(b, a))), degrees, places=6)
