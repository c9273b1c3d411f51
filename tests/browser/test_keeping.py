"""What is kept by name in time, how it is played, and changes that wait for their keys, as a user does it."""

import io
from dataclasses import replace

from PIL import Image
from playwright.sync_api import expect

from jointed_crane.core.edits.scene.parts import AddParts
from jointed_crane.core.edits.time.timing import SetLength
from jointed_crane.core.evaluate.pose_at_frame import pivot_at
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.motion.channel import Channel, Key
from tests.browser.test_time import TimeTestCase
from tests.browser.test_whole_way import BenchTestCase


class MarkerTests(TimeTestCase):
    def name_span(self, name, first, last):
        self.page.keyboard.press("Shift+L")
        self.page.locator("dialog[open] [name=name]").fill(name)
        self.page.locator("dialog[open] [name=frame]").fill(str(first))
        self.page.locator("dialog[open] [name=until]").fill(str(last))
        self.page.keyboard.press("Enter")
        self.settled()

    def marker(self, name):
        return next(marker for marker in self.scene().markers if marker.name == name)

    def test_frames_and_spans_are_named_dragged_renamed_and_deleted_by_keyboard_too(self):
        self.go_to(12)
        self.page.keyboard.press("Shift+M")
        self.page.locator("dialog[open] [name=name]").fill("Look")
        self.page.keyboard.press("Enter")
        self.settled()
        self.assertEqual((self.marker("Look").frame, self.marker("Look").until), (12, None))
        self.name_span("Walk", 24, 48)
        left, top = self.at('[data-marker] [data-end="to"]')
        per_frame = (left - self.at('[data-marker] [data-end="from"]')[0]) / 24
        self.drag((left, top), (left + 12 * per_frame, top))
        self.assertAlmostEqual(self.marker("Walk").until, 60, delta=1)
        self.assertEqual(self.marker("Walk").frame, 24)
        self.press("Control+z")
        self.assertEqual(self.marker("Walk").until, 48)
        self.press("Escape", "Home", "Control+End")
        self.assertEqual(self.page.inner_text("[data-time=frame]"), "f 12")
        self.press("Delete")
        self.assertEqual([marker.name for marker in self.scene().markers], ["Walk"])
        flag = self.page.get_by_role("button", name="Walk from frame 24 to 48")
        flag.focus()
        self.press("Enter", "Enter")
        self.page.locator("dialog[open] [name=name]").fill("Wade")
        self.press("Enter")
        self.assertEqual(self.scene().markers[0].name, "Wade")

    def test_playing_stays_in_the_span_that_is_picked_and_turns_back_where_it_should(self):
        self.name_span("Look", 20, 28)
        self.page.evaluate(
            """() => {
              const words = document.querySelector("[data-time=frame]");
              const seen = () => window.seen.push(words.textContent);
              new MutationObserver(seen).observe(words, { childList: true, characterData: true, subtree: true });
            }"""
        )
        self.page.click("[data-time=how]")
        self.page.select_option("[data-pace=ending]", "to and fro")
        self.page.select_option("[data-pace=isEveryFrame]", "true")
        self.page.keyboard.press("Escape")
        self.page.evaluate("window.seen = []")
        self.page.click("[data-time=play]")
        self.page.wait_for_timeout(1500)
        self.page.click("[data-time=play]")
        self.settled()
        frames = [int(words.removeprefix("f ")) for words in self.page.evaluate("window.seen")]
        self.assertEqual((min(frames), max(frames)), (20, 28))
        steps = {abs(after - before) for before, after in zip(frames, frames[1:], strict=False)}
        self.assertEqual(steps - {0}, {1}, "every frame is shown, there and back")
        self.assertEqual(self.page.inner_text("[data-time=dropped]"), "")

    def test_a_span_is_sent_out_alone(self):
        self.name_span("Look", 6, 12)
        self.page.get_by_role("button", name="Look from frame 6 to 12").dblclick()
        with self.page.expect_download() as download:
            self.page.locator("[data-marker=send]").click()
        data = download.value.path().read_text()
        self.assertEqual(download.value.suggested_filename, "posts-look.svg")
        self.assertIn(f"animation-duration:{7 / 24:.6f}"[:26], data)


class PoseTests(TimeTestCase):
    def test_a_pose_is_kept_seen_put_by_a_share_renamed_and_thrown_away(self):
        self.go_to(6)
        self.page.keyboard.press("Shift+P")
        self.page.locator("dialog[open] input[name=name]").fill("Raised")
        self.page.get_by_role("button", name="Keep this pose").click()
        self.settled()
        self.page.keyboard.press("Escape")
        self.assertEqual(self.scene().poses[0].values["A"]["turn.z"], 40)
        self.go_to(24)
        self.page.keyboard.press("Shift+P")
        picture = self.page.locator("dialog[open] .pose-card img")
        expect(picture).to_have_js_property("complete", True)
        self.page.locator("dialog[open] [name=share]").fill("50")
        self.settled()
        self.page.get_by_role("button", name="Put the pose on").click()
        self.settled()
        channel = self.part("A").channels["turn.z"]
        self.assertEqual(channel.key_at(24).value, 20)
        self.page.keyboard.press("Shift+P")
        self.page.locator("dialog[open] input[name=name]").fill("Up")
        self.page.get_by_role("button", name="Rename", exact=True).click()
        self.settled()
        self.assertEqual(self.scene().poses[0].name, "Up")
        self.page.locator("[data-poses=delete]").click()
        self.settled()
        self.assertEqual(self.scene().poses, ())
        self.page.keyboard.press("Escape")
        self.press("Control+z", "Control+z", "Control+z")
        self.assertIsNone(self.part("A").channels["turn.z"].key_at(24))


class WaitingTests(TimeTestCase):
    def turned(self):
        self.page.locator("[data-bench=stage]").focus()
        self.press("2", "ArrowRight", "ArrowRight")

    def test_with_the_switch_off_changes_are_shown_and_wait_for_their_keys(self):
        self.press("Shift+H")
        self.go_to(24)
        self.turned()
        bar = self.page.locator("[data-bench=pending]")
        expect(bar).to_contain_text("2 changes have no keys yet")
        self.assertEqual(self.frames(), [0, 6, 12])
        self.assertEqual(self.page.input_value("[data-channel='turn.z'] input >> nth=0"), "2")
        self.press(".", ",")
        self.assertEqual(self.page.input_value("[data-channel='turn.z'] input >> nth=0"), "2", "it is still shown")
        self.press("Control+z")
        expect(bar).to_contain_text("1 change has no key yet")
        self.press("Shift+A")
        expect(bar).to_be_hidden()
        self.assertEqual((self.frames()[-1], self.part("A").channels["turn.z"].key_at(24).value), (24, 1))

    def test_dropped_they_leave_no_trace(self):
        self.press("Shift+H")
        self.go_to(24)
        undo = self.page.get_by_role("button", name="Undo", exact=True)
        self.turned()
        expect(undo).to_be_enabled()
        expect(undo).to_have_attribute("title", "Undo: the change that has no key yet")
        undo.click()
        expect(self.page.locator("[data-bench=pending]")).to_contain_text("1 change has no key yet")
        self.page.click("[data-pending=drop]")
        self.settled()
        expect(self.page.locator("[data-bench=pending]")).to_be_hidden()
        self.assertEqual(self.page.input_value("[data-channel='turn.z'] input >> nth=0"), "0")
        self.press("Shift+H")
        self.turned()
        self.assertEqual(self.frames(), [0, 6, 12, 24])


class NumbersOfKeysTests(TimeTestCase):
    def test_a_key_and_its_handles_are_typed(self):
        self.pick_keys(6)
        self.page.click("[data-time=shape]")
        for name, value in (("frame", "7.5"), ("value", "45/2"), ("out-frames", "2"), ("out-value", "-3")):
            self.page.fill(f"[data-key-number={name}]", value)
            self.page.keyboard.press("Tab")
            self.settled()
        key = self.part("A").channels["turn.z"].key_at(7.5)
        self.assertEqual((key.value, key.handle_out), (22.5, (2, -3)))
        self.page.keyboard.press("Escape")
        self.press(*["Control+z"] * 4)
        self.assertEqual(self.frames(), [0, 6, 12])

    def test_keys_are_pasted_in_steps_and_mirrored(self):
        self.pick_keys(0, 6, 12)
        self.press("Control+c")
        self.row("B").click()
        self.go_to(24)
        self.command("Paste keys in steps")
        self.assertEqual({key.kind for key in self.part("B").channels["turn.z"].keys}, {"hold"})
        self.row("C").click()
        self.command("Paste keys mirrored")
        self.assertEqual([key.value for key in self.part("C").channels["turn.z"].keys], [0, -40, 0])


class RowTests(TimeTestCase):
    def labels(self):
        """The names of the rows."""
        self.drawn()
        rows = self.page.locator("[data-time=picture] > text")
        return rows.evaluate_all("(rows) => rows.map((row) => row.firstChild.textContent)")

    def test_rows_fold_sum_up_and_are_filtered(self):
        self.page.locator("[data-bench=stage]").focus()
        self.press("1", "ArrowRight")
        self.assertEqual(self.labels(), ["A", "Turn", "Move x"])
        self.page.get_by_role("button", name="Fold the rows of A").press("Enter")
        self.assertEqual(self.labels(), ["A"])
        self.page.get_by_role("button", name="Unfold the rows of A").click()
        self.page.select_option("[data-time=filter]", "move")
        self.assertEqual(self.labels(), ["A", "Move x"])
        self.page.select_option("[data-time=filter]", "")
        self.page.click("[data-rows=whole]")
        self.assertEqual(self.labels(), ["A", "Turn", "Move x"], "what was unfolded by hand stays unfolded")
        self.page.get_by_role("button", name="Fold the rows of A").click()
        self.row("B").click()
        self.page.locator("[data-bench=stage]").focus()
        self.press("ArrowRight")
        self.assertEqual(self.labels(), ["All parts", "B", "A"])

    def test_the_stage_alone_and_back(self):
        self.press("Shift+F")
        expect(self.page.locator(".bench-column")).to_be_hidden()
        self.assertEqual(self.page.locator("[data-bench=stage]").bounding_box()["width"], 1280)
        self.press("Escape")
        expect(self.page.locator(".bench-column")).to_be_visible()


class MovingReferenceTests(TimeTestCase):
    def test_a_moving_picture_goes_on_with_the_frames_and_drawings_are_turned_by_key(self):
        shades = [Image.new("RGB", (40, 30), (shade, 60, 60)) for shade in (20, 120, 220)]
        stream = io.BytesIO()
        shades[0].save(stream, "GIF", save_all=True, append_images=shades[1:], duration=250, loop=0)
        with self.page.expect_file_chooser() as chooser:
            self.page.focus("[data-bench=stage]")
            self.page.keyboard.press("/")
            self.page.keyboard.type("reference")
            self.page.keyboard.press("Enter")
        chooser.value.set_files({"name": "hop.gif", "mimeType": "image/gif", "buffer": stream.getvalue()})
        self.settled()
        part = self.part("hop")
        self.assertEqual((part.kind, len(part.drawings), part.locked), ("reference", 3, True))
        channel = part.channels["drawing"]
        self.assertEqual([(key.frame, key.value) for key in channel.keys], [(0, 0), (6, 1), (12, 2), (18, 0)])
        self.assertEqual(channel.after, "repeat")
        self.go_to(31)  # 31 - 18 is 13
        picture = self.page.locator(f'[data-bench=figures] image[href="/art/{part.drawings[2].art}"]')
        expect(picture).to_be_visible()
        self.press("o", "Shift+E")
        self.assertEqual(self.part("hop").channels["drawing"].key_at(31).value, 0)
        self.press("Control+z")
        self.command("Show the drawing before")
        self.assertEqual(self.part("hop").channels["drawing"].key_at(31).value, 1)


class CloseKeysTests(TimeTestCase):
    def test_keys_too_close_to_be_told_apart_are_picked_by_the_nearest_and_by_a_box(self):
        channel = Channel(tuple(Key(float(frame), float(frame % 7)) for frame in range(2000)))
        kept = self.served.library.scenes.load("s")
        part = replace(kept.scene.part("B"), id="many", name="Many", channels={"turn.z": channel})
        self.served.library.scenes.keep("s", kept.version, [AddParts((part,)), SetLength(2000)])
        self.open_bench("s")
        self.page.keyboard.press("m")
        self.page.click("[data-rows=whole]")
        self.drawn()
        close = self.page.locator("[data-time=picture] path", has_text="Keys on 2000 frames")
        box = close.last.bounding_box()
        self.drag((box["x"] - 8, box["y"] - 3), (box["x"] + box["width"] / 2, box["y"] + 8))
        picked = self.page.locator("[data-time=delete]")
        expect(picked).to_be_enabled()
        self.press("Delete")
        left = len(self.part("Many").channels["turn.z"].keys)
        self.assertAlmostEqual(left, 1000, delta=15)
        self.press("Control+z")
        self.assertEqual(len(self.part("Many").channels["turn.z"].keys), 2000)


class OddIdTests(BenchTestCase):
    def test_parts_may_be_called_like_what_every_map_has(self):
        ids = ("constructor", "__proto__", "toString")
        parts = tuple(
            Part(name, f"Part {name}", "helper", rest={"move.x": 80.0 * place, "move.y": 90.0})
            for place, name in enumerate(ids, start=1)
        )
        self.served.library.shelf.create(Scene("odd", "Odd", parts=parts, length=24))
        self.open_bench("odd")
        self.press("m")
        for place, name in enumerate(ids):
            self.page.locator("[data-row]", has_text=f"Part {name}").click()
            self.page.locator('[data-channel="turn.z"] input').first.fill(f"{10 + place}")
            self.press("Enter")
            self.assertEqual(self.page.locator('[data-channel="turn.z"] input').first.input_value(), f"{10 + place}")
        # What a drag shows tells of what moves alone; the others lie where they are.
        self.page.locator("[data-row]", has_text="Part toString").click()
        self.press("1")
        self.drag(self.on_screen(240, 90), self.on_screen(280, 110), release=False)
        self.drawn()
        self.page.mouse.up()
        self.settled()
        self.assertAlmostEqual(pivot_at(self.scene(), "toString", 0.0)[0], 280, delta=1)
        found = [self.scene().part(name).channels["turn.z"].keys[0].value for name in ids]
        self.assertEqual(found, [10.0, 11.0, 12.0])
