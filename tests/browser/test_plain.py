"""What a newcomer meets: files of other hands, names, keys of one's own, the first steps."""

import numpy as np
from playwright.sync_api import expect

from jointed_crane.core.edits import applied
from jointed_crane.core.edits.pictures.making_shapes import AddShape
from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.model.forms import Rectangle
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.motion.channel import Channel, Key
from tests.browser.test_whole_way import BenchTestCase

#: Seven drawings as other programs write them: layers without names, or one group about all.
FILES = {
    "old_lamp": '<path d="M120 290h60V90h-60z" fill="#333"/><circle cx="150" cy="60" r="40" fill="#ffd54a"/>',
    "bollard": '<g><rect x="90" y="120" width="120" height="170" fill="#7d5529"/><rect width="9" height="9"/></g>',
    "crab": '<ellipse cx="150" cy="190" rx="90" ry="60" fill="#d2512f"/><circle cx="120" cy="130" r="12"/>',
    "buoy": '<circle cx="150" cy="150" r="120" fill="none" stroke="#d2512f" stroke-width="50"/>',
    "duck": '<path d="M40 190q20 80 130 80q90 0 110-90z" fill="#f0d246"/><circle cx="80" cy="105" r="6"/>',
    "keeper": '<g id="Body"><rect width="80" height="130"/></g><g id="Head"><circle cx="40" cy="-40" r="40"/></g>',
    "flag": '<rect x="40" width="12" height="280"/><path d="M52 20h200l-50 50z" fill="#3264be"/>',
}


def drawing(body: str) -> dict:
    data = f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 300 300" width="300" height="300">{body}</svg>'
    return {"mimeType": "image/svg+xml", "buffer": data.encode()}


class ComingInTests(BenchTestCase):
    def test_seven_files_come_in_as_seven_named_parts_and_pop_up_one_after_the_other_in_fourteen_actions(self):
        self.served.library.scenes.create(Scene("s", "Quay", 1280, 720))
        self.open_bench("s")
        files = [{"name": f"{name}.svg", **drawing(body)} for name, body in FILES.items()]
        with self.page.expect_file_chooser() as chooser:
            self.page.click("text=Bring in")
        chooser.value.set_files(files)  # 1: dropping them is one act, too
        self.page.wait_for_selector("dialog[open]")
        self.settled()
        self.assertEqual(self.page.locator("[data-import=shown] image").count(), 7)
        self.page.click("[data-import=keep]")  # 2
        self.settled()
        names = [name.replace("_", " ") for name in FILES]
        self.assertEqual([part.name for part in self.scene().parts], names)
        self.press("Control+a")  # 3
        self.command("Pivots to the lower middle")  # 4
        self.press("m")  # 5
        self.row("crab").click()  # 6
        for frame, height in ((0, "0"), (8, "1")):  # 7 to 9: the first frame is there already
            if frame:
                self.go_to(frame)
            field = self.page.locator("[data-channel='scale.y'] input")
            field.fill(height)
            field.press("Enter")
            self.settled()
        self.page.locator("[data-time=picture] text", has_text="Scale y").click()  # 10
        self.press("Control+c")  # 11
        self.press("Control+a", "Home", "Control+v")  # 12 and 13
        self.command("Stagger in time")  # 14, which its own button then keeps
        self.page.get_by_role("button", name="Stagger", exact=True).click()
        self.settled()
        firsts = sorted(part.channels["scale.y"].keys[0].frame for part in self.scene().parts)
        self.assertEqual(firsts, [4.0 * number for number in range(7)])
        # Their lower edges stay where they are, all the way up.
        pose = evaluate(self.scene(), np.arange(0.0, 40.0, 0.5))
        for part in self.scene().parts:
            (foot,) = pose.world[[pose.index[part.id]], :, :2] @ np.array([*part.pivot[:2], 0.0, 1.0])
            np.testing.assert_allclose(foot, np.broadcast_to(foot[0], foot.shape), atol=1e-9)

    def test_layers_are_named_fused_and_left_out_in_the_panel_and_a_file_is_picked_as_one(self):
        self.served.library.scenes.create(Scene("s", "Quay", 1280, 720, parts=(Part("old", "Old"),)))
        self.open_bench("s")
        more = '<g id="Hat"><rect y="-90" width="50" height="9"/></g><g id="Note"><rect width="5" height="5"/></g>'
        with self.page.expect_file_chooser() as chooser:
            self.page.click("text=Bring in")
        chooser.value.set_files([{"name": "keeper.svg", **drawing(FILES["keeper"] + more)}])
        self.page.wait_for_selector("dialog[open]")
        self.page.get_by_label("Pick Head, to fuse it with others").click()
        self.page.get_by_label("Pick Hat, to fuse it with others").click()
        self.page.click("[data-import=fuse]")
        self.settled()
        self.page.get_by_label("Take Note").uncheck()
        self.page.get_by_label("Name of Hat").fill("Head with hat")
        self.page.click("[data-import=keep]")
        self.settled()
        self.assertEqual([part.name for part in self.scene().parts], ["Old", "Body", "Head with hat"])
        self.pick("Body")
        self.command("Pick all of its file")
        self.assertEqual(self.page.locator("[data-row][aria-selected=true]").count(), 2)


class NamingTests(BenchTestCase):
    def setUp(self):
        super().setUp()
        turn = Channel((Key(6.0, 0.0), Key(18.0, 40.0)))
        parts = tuple(Part(name, name, rest={"move.x": 90.0}) for name in ("A", "B", "C"))
        parts = (parts[0].with_channel("turn.z", turn), *parts[1:])
        self.served.library.scenes.create(Scene("s", "Posts", parts=parts))
        self.open_bench("s")

    def test_parts_are_named_one_after_the_other_by_pencil_enter_and_tab(self):
        self.page.click("[data-tree=pencil]")
        self.settled()
        for name in ("Third", "Second", "First"):
            self.page.keyboard.type(name)
            self.page.keyboard.press("Enter")
            self.settled()
        self.assertEqual([part.name for part in self.scene().parts], ["First", "Second", "Third"])
        self.page.click("[data-tree=pencil]")
        self.row("Third").dblclick()
        self.page.keyboard.type("Top")
        self.page.keyboard.press("Tab")
        self.settled()
        self.page.keyboard.press("Escape")
        self.settled()
        self.assertEqual([part.name for part in self.scene().parts], ["First", "Second", "Top"])

    def test_keys_markers_and_parts_are_gone_to_by_keys_that_can_be_changed_and_are_kept_with_the_library(self):
        self.press("m")
        self.pick("A")
        for _ in range(2):
            self.press("Control+ArrowRight")
        self.assertEqual(self.page.inner_text("[data-time=frame]"), "f 18")
        self.press("Control+ArrowUp")
        self.assertEqual(self.page.input_value("[data-card=name]"), "B")
        self.press("?")
        self.page.get_by_placeholder("Find a command or a key").fill("next key")
        self.page.locator("[data-key=next-key]").click()
        self.press("4")
        said = self.page.locator("[data-keys=words]")
        expect(said).to_contain_text("a meaning of its own")
        self.press("h")
        expect(said).to_have_text("“Hide or show” was on that key and has none now.")
        self.page.reload()
        self.page.wait_for_selector("[data-ready=true]")
        self.pick("A")
        self.press("Home", "h")
        self.assertEqual(self.page.inner_text("[data-time=frame]"), "f 6")
        self.assertFalse(self.part("A").hidden)
        self.press("?")
        self.page.click("[data-keys=reset]")
        expect(self.page.locator("[data-key=hide]")).to_have_text("H")

    def test_first_steps_tick_themselves_off_and_go_for_good(self):
        self.served.library.scenes.create(Scene("empty", "Empty"))
        self.page.goto(f"{self.served.address}/scenes/empty")
        self.page.wait_for_selector("[data-ready=true]")
        steps = self.page.locator("[data-bench=first-steps]")
        expect(steps).to_be_visible()
        self.command("Add a rectangle")
        expect(self.page.locator("[data-first=bring]")).to_have_class("flex items-center gap-1.5 is-done")
        self.page.click("[data-first=gone]")
        expect(steps).to_be_hidden()
        self.page.reload()
        self.page.wait_for_selector("[data-ready=true]")
        expect(steps).to_be_hidden()


class PickingTests(BenchTestCase):
    def setUp(self):
        super().setUp()
        edits = [
            AddShape(name, Rectangle((0.0, 0.0, size, size)), name, place)
            for name, size, place in (
                ("Quay", 400.0, (300, 150)),
                ("Crate", 90.0, (400, 250)),
                ("Lamp", 60.0, (900, 250)),
            )
        ]
        self.served.library.scenes.create(applied(Scene("s", "Quay", 1280, 720), edits))
        self.open_bench("s")

    def picked(self):
        names = self.page.locator("[data-row][aria-selected=true] [data-tree=name]")
        return sorted(names.all_inner_texts())

    def test_a_box_on_the_empty_stage_picks_what_lies_in_it_whole(self):
        self.drag(self.on_screen(280, 130), self.on_screen(720, 570))
        self.assertEqual(self.picked(), ["Crate", "Quay"])
        self.page.keyboard.down("Shift")
        self.drag(self.on_screen(860, 200), self.on_screen(1100, 400))
        self.page.keyboard.up("Shift")
        self.assertEqual(self.picked(), ["Crate", "Lamp", "Quay"])
        self.page.mouse.click(*self.on_screen(1150, 600))
        self.drawn()
        self.assertEqual(self.picked(), [])
        self.assertEqual(self.served.library.scenes.load("s").undo_label, None, "nothing has moved")

    def test_a_press_on_the_same_place_again_picks_what_lies_beneath(self):
        place = self.on_screen(470, 320)
        for name in ("Crate", "Quay", "Crate"):
            self.page.mouse.click(*place)
            self.drawn()
            self.assertEqual(self.picked(), [name])

    def test_the_menu_names_what_lies_there_and_fields_set_the_pivots_of_all_picked(self):
        self.page.mouse.click(*self.on_screen(470, 320), button="right")
        here = self.page.locator("[data-here]")
        self.assertEqual(here.all_inner_texts(), ["Crate", "Quay"])
        here.last.click()
        self.drawn()
        self.assertEqual(self.picked(), ["Quay"])
        self.page.keyboard.down("Shift")
        self.page.mouse.click(*self.on_screen(930, 280))
        self.page.keyboard.up("Shift")
        self.drawn()
        self.assertEqual(self.picked(), ["Lamp", "Quay"])
        before = self.scene()
        self.page.fill("[data-card=pivot-part-y] input", "1")
        self.press("Enter")
        self.assertEqual(
            [self.part(name).pivot[:2] for name in ("Lamp", "Quay", "Crate")], [(30, 60), (200, 400), (45, 45)]
        )
        self.page.click("[data-card=ratio]")
        self.page.fill("[data-channel='scale.y'] input", "2")
        self.press("Enter")
        self.assertEqual([self.part(name).rest.get("scale.x") for name in ("Lamp", "Quay", "Crate")], [2, 2, None])
        self.page.locator("[data-bench=stage]").focus()
        self.press("Control+z", "Control+z")
        self.assertEqual(self.scene(), before)

    def test_back_from_another_page_of_the_scene_all_is_as_it_was_left(self):
        self.press("m")
        self.go_to(12)
        self.pick("Lamp")
        self.page.click("[data-bench=check]")
        self.page.wait_for_url("**/check")
        self.page.get_by_role("link", name="Quay").first.click()
        self.page.wait_for_selector("[data-ready=true]")
        self.assertEqual((self.picked(), self.page.inner_text("[data-time=frame]")), (["Lamp"], "f 12"))

    def test_the_counter_takes_a_frame_and_a_share_is_typed_in_percent(self):
        self.press("m")
        self.page.click("[data-time=frame]")
        self.page.fill("[data-time=typed-frame]", "24")
        self.press("Enter")
        self.assertEqual(self.page.inner_text("[data-time=frame]"), "f 24")
        self.pick("Lamp")
        field = self.page.locator("[data-channel='scale.x'] input")
        field.fill("50%")
        field.press("Enter")
        self.settled()
        self.assertEqual(self.part("Lamp").channels["scale.x"].key_at(24).value, 0.5)
