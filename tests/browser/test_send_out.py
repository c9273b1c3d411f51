"""The page on which a scene is sent out, as a new user would use it."""

import base64
import io
import time
import zipfile
from unittest import mock

import av
import numpy as np
from PIL import Image, ImageSequence

from heron_lock.heron import NAME as HERON
from heron_lock.quay_crate import NAME as CRATE
from jointed_crane.core.edits.pictures.making_shapes import AddShape
from jointed_crane.core.edits.time.time_markers import AddMarker
from jointed_crane.core.model.forms import Paint, Rectangle, Text
from jointed_crane.core.model.scene import Scene
from jointed_crane.formats.lettering import lettered
from jointed_crane.render.frames import frame
from jointed_crane.sending import sender as sender_room
from tests.browser.test_whole_way import BenchTestCase

#: The picture on the clipboard, as base64.
COPIED = """
async () => {
  const [item] = await navigator.clipboard.read();
  const bytes = new Uint8Array(await (await item.getType("image/png")).arrayBuffer());
  return btoa(Array.from(bytes, (byte) => String.fromCharCode(byte)).join(""));
}
"""


class SendOutTests(BenchTestCase):
    has_demo = True

    def open_page(self, name):
        self.scene_id = self.served.library.shelf.find(name).id
        self.page.goto(f"{self.served.address}/scenes/{self.scene_id}/send")
        self.page.wait_for_selector("[data-send=preview]:not([hidden])")

    def tie(self, name):
        self.page.click(f'.send-tag:has(b:text-is("{name}"))')

    def put(self, name, value):
        self.page.fill(f"[data-send=choices] [name={name}]", str(value))
        self.page.keyboard.press("Tab")

    def until(self, words):
        deadline = time.monotonic() + 30
        while not self.page.evaluate(words):
            self.assertLess(time.monotonic(), deadline, words)
            time.sleep(0.05)

    def sent(self, state="done", count=1):
        """The newest that was sent of so many, once it is done, and its bytes."""
        self.page.wait_for_selector(f"[data-sending]:nth-last-child({count})", timeout=60_000)
        self.page.wait_for_selector(f'[data-sending]:first-child[data-state="{state}"]', timeout=60_000)
        sending = self.served.library.sendings.of_scene(self.scene_id)[0]
        return sending, self.served.sender.file(sending).read_bytes() if state == "done" else b""

    def test_the_heron_alone_as_a_loop_that_is_seen_through(self):
        self.open_bench(self.served.library.shelf.find(HERON).id)
        self.page.click("text=Send out")
        self.page.click("text=All ways and choices")
        self.page.wait_for_selector("[data-send=preview]:not([hidden])")
        self.scene_id = self.served.library.shelf.find(HERON).id
        self.tie("Sticker, see-through")
        self.page.select_option("[name=part]", "Body")
        self.put("last", 5)
        self.put("height", 90)
        self.page.wait_for_selector("[data-send=forecast] dt:text-is('160 × 90')")
        self.page.click("[data-send=go]")
        sending, data = self.sent()
        self.assertEqual((sending.way, sending.of), ("webp", 6))
        with Image.open(io.BytesIO(data)) as picture:
            frames = [np.asarray(frame.convert("RGBA")) for frame in ImageSequence.Iterator(picture)]
            self.assertEqual((len(frames), frames[0].shape, picture.info["loop"]), (6, (90, 160, 4), 0))
        self.assertEqual(frames[0][0, 0, 3], 0)
        self.assertGreater((frames[0][..., 3] == 255).sum(), 100)
        foretold = self.page.inner_text("[data-send=forecast]")
        self.assertRegex(foretold, r"6 frames\s+0.25 s\s+160 × 90\s+px\s+about \d+ kB")
        self.page.click(".send-item >> text=Show")
        self.until("document.querySelector('[data-send=preview]').naturalHeight === 90")

    def test_the_crate_as_a_film_of_one_span_that_plays_here(self):
        entry = self.served.library.scenes.load(self.served.library.shelf.find(CRATE).id)
        self.served.library.scenes.keep(entry.scene.id, entry.version, [AddMarker("m", 24.0, 47.0, "Tumble")])
        self.open_page(CRATE)
        self.tie("WebM film")
        self.put("scale", 0.2)
        self.page.select_option("[name=span]", "Tumble")
        self.assertEqual([self.page.input_value(f"[name={name}]") for name in ("first", "last")], ["24", "47"])
        self.page.click("[data-send=go]")
        sending, data = self.sent()
        self.assertEqual(sending.file_name, f"{CRATE} Tumble.webm")
        with av.open(io.BytesIO(data)) as film:
            self.assertEqual(sum(1 for _ in film.decode(video=0)), 24)
        self.page.click(".send-item >> text=Show")
        self.until("document.querySelector('.send-stage video')?.currentTime > 0.2")
        with self.page.expect_download() as download:
            self.page.click(".send-item >> text=Save")
        self.assertEqual(download.value.suggested_filename, "quay-a-crate-goes-over-tumble.webm")

    def test_it_is_stopped_goes_on_is_sent_again_and_deleted_and_back(self):
        self.open_page(HERON)
        self.tie("Animated PNG")
        self.put("scale", 0.4)
        self.page.click("[data-send=go]")
        self.page.wait_for_selector("text=/frame [1-9][0-9]* of 96/", timeout=30_000)
        self.page.click("text=Stop")
        self.page.wait_for_selector("text=/stopped at frame [1-9]/")
        self.page.reload()
        self.tie("Still picture")
        self.page.click("text=Go on")
        self.sent()
        self.assertEqual(self.page.locator(".send-item img").count(), 1)
        self.page.click("[aria-label^='Delete']")
        self.page.wait_for_selector("text=Nothing was sent yet")
        self.page.click("text=Undo")
        self.sent()
        self.tie("Animated SVG")
        self.page.click("[data-send=go]")
        self.assertEqual(self.sent(count=2)[0].way, "svg")
        self.page.locator(".send-item").first.get_by_text("From now").click()
        self.assertEqual(self.sent(count=3)[0].way, "svg")

    def test_five_name_plates_from_a_table_one_of_them_typed(self):
        scene = self.served.library.scenes.create(Scene("plates", "Plates", width=320.0, height=100.0, length=2))
        board = Rectangle((0.0, 0.0, 200.0, 60.0), paint=Paint("#20303c"))
        text = lettered(Text("Name", size=40.0, paint=Paint("#f4efe4")), None)
        self.served.library.scenes.keep("plates", scene.version, [
            AddShape("board", board, "Board", (10.0, 20.0)), AddShape("name", text, "Plate", (20.0, 62.0)),
        ])  # fmt: skip
        self.open_bench("plates")
        for part, what, slot in (("Plate", "words", "Name"), ("Board", "fill", "Ground")):
            self.pick(part)
            self.page.click("#tab-art")
            self.page.fill(f"[aria-label='Slot for the {what}']", slot)
            self.page.keyboard.press("Enter")
            self.settled()
        self.page.goto(f"{self.served.address}/scenes/plates/send")
        self.scene_id = "plates"
        self.tie("Still picture")
        self.page.click("text=Fill slots from a table")
        table = "Name;Ground;Owner\nAda;#d2512f;x\nBo;;\nÇelik;#12706f;\nDee;#b07d2b;\n"
        with self.page.expect_file_chooser() as chooser:
            self.page.click("[data-send=table-file]")
        chooser.value.set_files({"name": "names.csv", "mimeType": "text/csv", "buffer": table.encode()})
        self.page.wait_for_selector("text=Owner: no slot and no part is called so.")
        self.page.fill("[aria-label='Name, row 5']", "Eve")
        self.page.keyboard.press("Enter")
        self.page.wait_for_selector("[data-send=preview][src]:not([hidden])")
        before = self.page.get_attribute("[data-send=preview]", "src")
        self.page.focus("[aria-label='Name, row 1']")
        self.page.keyboard.press("ArrowDown")
        self.until(f"document.querySelector('[data-send=preview]').src !== {before!r}")
        self.page.fill("[data-send=table-names]", "{row} {Name}")
        self.page.keyboard.press("Tab")
        self.page.click("text=Send out 5 files")
        sending, data = self.sent()
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            self.assertEqual(
                archive.namelist(), [f"{row}.png" for row in ("1 Ada", "2 Bo", "3 Çelik", "4 Dee", "5 Eve")]
            )
            shown = [np.asarray(Image.open(archive.open(name)).convert("RGB")) for name in archive.namelist()]
        colours = [picture[25, 205].tolist() for picture in shown]
        ink = [32, 48, 60]
        self.assertEqual(colours, [[210, 81, 47], ink, [18, 112, 111], [176, 125, 43], ink])
        self.assertEqual((sending.file_name, sending.of), ("Plates 0 by table.zip", 5))
        self.assertGreater(np.abs(shown[1].astype(int) - shown[4]).max(), 100, "each has a name of its own")
        self.page.reload()
        self.page.click("text=Fill slots from a table")
        self.assertEqual(self.page.input_value("[aria-label='Name, row 5']"), "Eve")
        self.page.click("[aria-label='Take row 2 out']")
        self.page.wait_for_selector("text=Send out 4 files")
        self.page.click("text=Undo")
        self.page.wait_for_selector("text=Send out 5 files")

    def test_a_full_disk_is_said_and_it_goes_on_once_there_is_room(self):
        self.open_page(HERON)
        self.tie("Animated PNG")
        self.put("last", 3)
        with mock.patch.object(sender_room, "_ROOM", 10**18):
            self.page.click("[data-send=go]")
            self.page.wait_for_selector("text=The disk has no room for it. What is drawn is kept", timeout=60_000)
        self.page.click("button:text-is('Go on')")
        self.assertEqual(self.sent()[0].of, 4)

    def test_a_picture_of_the_frame_is_copied(self):
        self.page.context.grant_permissions(["clipboard-read", "clipboard-write"])
        self.addCleanup(self.page.context.clear_permissions)
        self.open_bench(self.served.library.shelf.find(HERON).id)
        self.page.keyboard.press("m")
        self.go_to(12)
        self.page.keyboard.press("/")
        self.page.keyboard.type("Copy a picture of this frame")
        self.page.keyboard.press("Enter")
        self.page.wait_for_selector("text=is on the clipboard")
        copied = base64.b64decode(self.page.evaluate(COPIED))
        entry = self.served.library.scenes.load(self.served.library.shelf.find(HERON).id)
        with Image.open(io.BytesIO(copied)) as picture:
            wanted = frame(entry.scene, 12.0, self.served.library.assets.get)
            np.testing.assert_array_equal(np.asarray(picture.convert("RGBA")), wanted)

    def test_choices_are_kept_as_a_tag_and_what_cannot_be_is_said(self):
        self.open_page(HERON)
        self.page.locator('.send-tag[aria-checked="true"]').focus()
        self.page.keyboard.press("ArrowDown")
        self.page.keyboard.press("ArrowDown")
        self.assertEqual(self.page.inner_text('.send-tag[aria-checked="true"] b'), "Sticker, see-through")
        self.put("height", 64)
        self.page.click("[data-send=keep]")
        self.page.fill("dialog[open] [name=name]", "Small heron")
        self.page.keyboard.press("Enter")
        self.page.wait_for_selector('.send-tag[aria-checked="true"]:has-text("Small heron")')
        self.page.reload()
        self.tie("Small heron")
        self.assertEqual(self.page.input_value("[name=height]"), "64")
        self.page.click("[aria-label='Take Small heron away']")
        self.page.click("text=Undo")
        self.page.wait_for_selector('.send-tag:has-text("Small heron")')
        self.put("height", 31_000)
        self.page.wait_for_selector(".send-note:has-text('is too large')")
        self.page.click("[data-send=go]")
        self.assertIn("too large", self.sent("failed")[0].fault)
        self.tie("MP4 film")
        self.page.check("[name=see_through]")
        self.page.wait_for_selector(".send-note:has-text('cannot be seen through')")
        self.page.keyboard.press("Escape")
        self.page.wait_for_url(f"**/scenes/{self.scene_id}")
