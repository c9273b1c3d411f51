"""What a rigger does at a place that is there: marks, ranges, names, shapes, drawings, the tree and the map."""

import io

import numpy as np
from PIL import Image
from playwright.sync_api import expect

from jointed_crane.core.edits.joints.eyelets import AddEyelet
from jointed_crane.core.edits.pictures.making_shapes import AddShape
from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.evaluate.pose_at_frame import pivot_at
from jointed_crane.core.model.forms import Rectangle
from tests.browser.chromium import share_of_different_pixels
from tests.browser.test_bench import CUT_OFF, DemoTestCase
from tests.browser.test_rigger import RiggerTestCase
from tests.browser.test_whole_way import HERON


class PlaceTests(DemoTestCase, RiggerTestCase):
    def setUp(self):
        super().setUp()
        self.open_bench(self.heron)
        self.page.keyboard.press("r")
        self.settled()

    def test_nothing_is_cut_off_on_any_tab_and_page(self):
        for width, height in ((1280, 800), (1024, 768)):
            self.page.set_viewport_size({"width": width, "height": height})
            for address in ("/map", "/check", ""):
                self.page.goto(f"{self.served.address}/scenes/{self.heron}{address}")
                self.settled()
                self.assertEqual(self.page.evaluate(CUT_OFF), [], f"{address} at {width}")
            for name, tabs in (
                ("Lower neck", {"constraints": "1", "art": "4", "joint": "1568"}),
                ("Heron", {"joint": "1"}),
            ):
                self.pick(name)
                for tab, tools in tabs.items():
                    self.choose(tab)
                    for tool in tools:
                        self.press(tool)
                        self.assertEqual(self.page.evaluate(CUT_OFF), [], f"{name}, {tab}, {tool} at {width}")
            self.choose("place")

    def test_parts_are_fused_and_split_by_keyboard_and_nothing_seen_changes(self):
        self.pick_all("Shallows", "Sill")
        self.press("o")
        before = self.scene()
        self.pick_all("Body", "Breast plumes")
        self.press("k")
        self.assertIn("Breast plumes has keys of its own", self.page.inner_text(".notice-refusal"))
        self.assertEqual(self.scene(), before)
        seen = self.stage_alone()
        self.pick_all("Shallows", "Sill")
        self.press("k")
        self.assertIn("2 parts are one: Sill.", self.page.inner_text("#notices"))
        fused = self.scene()
        self.assertNotIn("Shallows", [part.name for part in fused.parts])
        self.assert_looks_like(seen)
        self.pick("Sill")
        self.press("K")
        self.assertEqual([part.name for part in self.scene().parts], [part.name for part in before.parts])
        self.assert_looks_like(seen)
        self.press("Control+z")
        self.assertEqual(self.scene(), fused)
        self.press("Control+z")
        self.assertEqual(self.scene(), before)

    def pick_all(self, *names):
        self.pick(names[0])
        for name in names[1:]:
            self.row(name).click(modifiers=["Control"])
        self.drawn()

    def stage_alone(self):
        """A picture of the stage with nothing picked, hovered or said."""
        self.press("Escape")
        self.page.mouse.move(640, 10)
        for close in self.page.locator(".notice button").all():
            close.click()
        self.drawn()
        data = self.page.locator("[data-bench=stage]").screenshot()
        return np.asarray(Image.open(io.BytesIO(data)).convert("RGB")).astype(int)

    def assert_looks_like(self, seen):
        self.assertLess(share_of_different_pixels(seen, self.stage_alone()), 0.001)

    def test_names_of_eyelets_stand_clear_of_each_other(self):
        self.press("5")
        boxes = self.page.eval_on_selector_all(
            "[data-bench=labels] rect",
            "found => found.map((box) => [box.x, box.y, box.width, box.height].map((side) => side.baseVal.value))",
        )
        self.assertEqual(len(boxes), sum(len(part.eyelets) for part in self.scene().parts))
        for number, (x, y, width, height) in enumerate(boxes):
            for left, top, across, down in boxes[:number]:
                self.assertFalse(x < left + across and left < x + width and y < top + down and top < y + height)
        self.assertIn("Beak upper", self.page.text_content("[data-bench=labels]"))

    def test_several_parts_turn_about_a_mark_by_ring_number_and_keyboard(self):
        self.press("7")
        self.page.mouse.click(*self.on_screen(300, 200))
        self.settled()
        (mark,) = self.scene().marks
        np.testing.assert_allclose(mark.place, (300, 200), atol=1)
        self.press("1")
        self.pick("Body")
        self.row("Heron").click(modifiers=["Control"])
        self.drawn()
        self.page.select_option("[data-bench=about]", mark.id)
        before = self.scene()
        place = pivot_at(before, self.part("Heron").id, None)[:2]

        def turned_by(degrees):
            angle = np.deg2rad(degrees)
            turn = np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])
            return np.array(mark.place) + turn @ (place - mark.place)

        self.press("2")
        self.press("Shift+ArrowRight")
        np.testing.assert_allclose(pivot_at(self.scene(), self.part("Heron").id, None)[:2], turned_by(15), atol=1e-9)
        self.undo_leaves(before)
        self.press("Control+z")
        x, y = self.on_screen(*mark.place)
        knob = self.at("circle[data-ring]")
        reach = np.hypot(knob[0] - x, knob[1] - y)
        self.drag(knob, (x + reach, y))
        found = pivot_at(self.scene(), self.part("Heron").id, None)[:2]
        np.testing.assert_allclose(found, turned_by(90), atol=1.5)
        # Typed numbers too turn and scale several parts together, about the mark.
        self.press("Control+z")
        self.row("Ripples").scroll_into_view_if_needed()
        self.pick("Ripples")
        self.row("Heron").click(modifiers=["Control"])
        self.type_number('[data-channel="turn.z"]', "90")
        np.testing.assert_allclose(pivot_at(self.scene(), self.part("Heron").id, None)[:2], turned_by(90), atol=1e-9)
        self.press("Control+z")
        self.type_number('[data-channel="scale.x"]', "2")
        found = pivot_at(self.scene(), self.part("Heron").id, None)[:2]
        np.testing.assert_allclose(found, np.array(mark.place) + 2 * (place - mark.place), atol=1e-9)
        self.assertEqual(self.part("Ripples").rest_value("scale.y"), 2)

    def test_a_range_is_kept_under_the_hand_and_left_on_purpose(self):
        self.press("m")
        self.pick("Lower neck")
        self.assertEqual(self.part("Lower neck").limits["turn.z"], (-70, 45))
        x, y = self.at("circle[data-ring]")
        self.drag((x, y), (x + 120, y + 120))
        self.assertEqual(self.part("Lower neck").channels["turn.z"].keys[0].value, 45)
        self.type_number('[data-channel="turn.z"]', "-90")
        self.assertEqual(self.part("Lower neck").channels["turn.z"].keys[0].value, -70)
        self.type_number('[data-channel="turn.z"]', "-90!")
        self.assertEqual(self.part("Lower neck").channels["turn.z"].keys[0].value, -90)
        self.page.wait_for_selector("[data-bench=finding-count]:not([hidden])")
        self.page.click("[data-bench=check]")
        self.page.wait_for_selector("text=its range is -70 to 45")
        self.page.click("text=Mend")
        self.page.wait_for_selector("h2:text-is('Nothing found')")
        self.assertEqual(self.part_of_heron("Lower neck").channels["turn.z"].keys[0].value, -70)
        self.page.keyboard.press("Control+z")
        self.page.wait_for_selector("text=1 finding")
        self.page.click("text=Silence")
        self.page.wait_for_selector("text=Report again")

    def part_of_heron(self, name):
        scene = self.served.library.scenes.load(self.heron).scene
        return next(part for part in scene.parts if part.name == name)

    def test_commands_by_typing_their_letters(self):
        self.pick("Near thigh")
        before = self.scene()
        self.command("mirrored copy, left to right")
        self.assertEqual(len(self.scene().parts), len(before.parts) + 3)
        self.assertIn("Far thigh 2", [part.name for part in self.scene().parts])
        self.undo_leaves(before)
        self.press("Control+z")
        self.pick("Head")
        self.command("isolate")
        self.assertEqual(len(self.scene().isolated), 5)
        sky = self.part("Sky").id
        self.assertEqual(self.page.get_attribute(f'[data-part="{sky}"]', "visibility"), "hidden")
        self.command("show all again")
        self.assertEqual(self.page.get_attribute(f'[data-part="{sky}"]', "visibility"), "visible")

    def test_marks_and_shapes_without_a_pointer(self):
        self.pick("Wing")
        place = pivot_at(self.scene(), self.part("Wing").id, None)[:2]
        self.command("mark at the pivot")
        np.testing.assert_allclose(self.scene().marks[0].place, place)
        self.press("Escape")
        self.command("next mark")
        self.press("Shift+ArrowRight")
        np.testing.assert_allclose(self.scene().marks[0].place, np.add(place, (10, 0)))
        self.press("Delete")
        self.assertEqual(self.scene().marks, ())
        for form in ("Rectangle", "Ellipse", "Polygon"):
            self.command(f"add {form}")
            self.assertEqual(self.part(form).drawings[0].shape.form, form.lower())

    def test_many_parts_are_named_by_a_pattern_with_a_preview(self):
        self.pick("Wing")
        self.row("Wing tip").click(modifiers=["Control"])
        self.page.keyboard.press("Shift+N")
        self.page.fill("[name=pattern]", "Pinion")
        self.page.wait_for_selector("[data-bench=names] [data-sheet=problem]:not([hidden])")
        self.assertIn(
            "Two parts would be called Pinion", self.page.inner_text("[data-bench=names] [data-sheet=problem]")
        )
        self.page.fill("[name=pattern]", "Pinion {number}")
        self.page.wait_for_selector("[data-bench=names] [data-sheet=list] >> text=Pinion 2")
        self.page.keyboard.press("Enter")
        self.settled()
        names = [part.name for part in self.scene().parts]
        self.assertIn("Pinion 1", names)
        self.assertIn("Pinion 2", names)

    def test_a_round_patch_takes_the_colour_of_the_limb_and_closes_its_joint(self):
        self.pick("Head")
        self.page.get_by_role("tab", name="Joint").click()
        self.page.get_by_role("button", name="Add a round patch").click()
        self.settled()
        patch, head = self.part("Head patch"), self.part("Head")
        self.assertEqual(patch.parent, head.id)
        place = self.page.evaluate(
            """([art, box, x, y]) => new Promise((done) => {
                const image = new Image();
                image.onload = () => {
                    const context = new OffscreenCanvas(box[2] - box[0], box[3] - box[1]).getContext("2d");
                    context.drawImage(image, 0, 0, box[2] - box[0], box[3] - box[1]);
                    done([...context.getImageData(x, y, 1, 1).data]);
                };
                image.src = `/art/${art}`;
            })""",
            [
                head.drawing.art,
                head.drawing.box,
                *(np.array(head.pivot[:2]) - head.drawing.box[:2] + head.drawing.registration[:2]).tolist(),
            ],
        )
        fill = patch.drawing.shape.paint.fill
        np.testing.assert_allclose([int(fill[at : at + 2], 16) for at in (1, 3, 5)], place[:3], atol=2)
        expect(self.page.get_by_role("button", name="Add a round patch")).to_be_hidden()

    def test_parts_are_joined_by_a_line_on_the_stage(self):
        kept = self.served.library.scenes.load(self.heron)
        boxes = {"post": (80.0, 80.0, 140.0, 140.0), "sign": (200.0, 60.0, 360.0, 320.0)}
        edits = [AddShape(name, Rectangle(box), name) for name, box in boxes.items()]
        self.served.library.scenes.keep(self.heron, kept.version, [*edits, AddEyelet("post", "e", (130.0, 90.0))])
        self.open_bench(self.heron)
        self.press("r")
        before = pivot_at(self.scene(), "sign", None)
        self.page.keyboard.down("Control")
        self.drag(self.on_screen(230, 110), self.on_screen(110, 110))
        self.page.keyboard.up("Control")
        self.assertEqual(self.part("sign").parent, "post")
        np.testing.assert_allclose(pivot_at(self.scene(), "sign", None), before, atol=1e-9)
        # Back on the stage, and joined again with Shift, from under its ring: now it comes into the eyelet.
        self.press("d")
        knob = self.page.locator('circle[data-ring="sign"]').last.bounding_box()
        self.page.keyboard.down("Control")
        begin = (knob["x"] + knob["width"] / 2, knob["y"] + knob["height"] / 2)
        self.drag(begin, self.on_screen(110, 110), release=False)
        self.page.keyboard.down("Shift")
        self.page.mouse.up()
        self.page.keyboard.up("Shift")
        self.page.keyboard.up("Control")
        self.settled()
        self.assertEqual(self.part("sign").seat, "e")
        np.testing.assert_allclose(pivot_at(self.scene(), "sign", None)[:2], (130, 90), atol=1e-9)

    def test_shapes_paths_and_text_are_drawn_and_changed(self):
        self.page.mouse.move(*self.on_screen(100, 100))
        self.press("8")
        self.page.select_option("[data-bench=form]", "rectangle")
        self.drag(self.on_screen(100, 100), self.on_screen(200, 160))
        shape = self.part("Rectangle").drawings[0].shape
        np.testing.assert_allclose(shape.box, (100, 100, 200, 160), atol=1.2)
        self.choose("art")
        self.page.fill('[aria-label="Right"]', "300")
        self.page.keyboard.press("Enter")
        self.settled()
        self.assertEqual(self.part("Rectangle").drawings[0].shape.box[2], 300)
        self.press("8")
        self.page.select_option("[data-bench=form]", "path")
        for point in ((400, 100), (450, 100), (450, 150)):
            self.page.mouse.click(*self.on_screen(*point))
        self.page.mouse.click(*self.on_screen(400, 100))
        self.settled()
        path = self.part("Path").drawings[0].shape
        self.assertEqual((len(path.contours[0]), path.is_closed), (3, True))
        self.press("8")
        self.drag(self.at("[data-path-node=point]"), self.on_screen(440, 220))
        moved = self.part("Path").drawings[0].shape.contours[0][2].point
        np.testing.assert_allclose(moved, (440, 220), atol=1.5)
        for _ in range(3):  # nothing is picked, so that the card is empty
            self.page.keyboard.press("Escape")
        self.command("add text")
        self.page.wait_for_selector("[data-text=words]:focus")
        art = self.part("Text").drawings[0].art
        picked = "(field) => field.value.slice(field.selectionStart, field.selectionEnd)"
        self.assertEqual(self.page.eval_on_selector("[data-text=words]:focus", picked), "Text")
        self.page.fill("[data-text=words]", "Lock\nGate")
        self.page.dispatch_event("[data-text=words]", "change")
        self.settled()
        after = self.part("Text").drawings[0]
        self.assertEqual(after.shape.words, "Lock\nGate")
        self.assertNotEqual(after.art, art)

    def test_drawings_are_added_shown_compared_and_deleted(self):
        self.pick("Head")
        self.choose("art")
        self.page.click("[data-art=copy]")
        self.settled()
        self.assertEqual(len(self.part("Head").drawings), 2)
        self.page.click('[aria-label="Show Head"]')
        self.settled()
        self.assertEqual(self.part("Head").rest["drawing"], 0)
        self.page.click("[data-art=compare]")
        self.page.click("text=Overlaid")
        self.assertEqual(self.page.locator("[data-compare=view] image").count(), 2)
        self.page.keyboard.press("Escape")
        with self.page.expect_file_chooser() as chooser:
            self.page.click('[aria-label="Replace the art of Head from a file"]')
        chooser.value.set_files(HERON.parents[2] / "tests" / "art" / "loose-elements.svg")
        self.settled()
        self.assertEqual(self.part("Head").drawings[0].name, "Head")
        self.page.click('[aria-label="Delete drawing Head 2"]')
        self.settled()
        self.assertEqual(len(self.part("Head").drawings), 1)

    def test_scaling_a_helper_asks_once_what_is_meant(self):
        self.pick("Heron")
        self.press("3")
        size = self.part("Heron").size
        self.page.mouse.click(*self.at("[data-scale=both]"))
        self.page.click("text=Draw the helper larger or smaller")
        x, y = self.at("[data-scale=both]")
        self.drag((x, y), (x + 60, y + 60))
        after = self.part("Heron")
        self.assertGreater(after.size, size)
        self.assertEqual(after.rest_value("scale.x"), 1)

    def test_the_tree_finds_filters_and_orders(self):
        self.page.set_viewport_size({"width": 1280, "height": 1100})
        self.page.fill("[data-tree=search]", "thigh")
        self.assertEqual(self.page.locator("[data-row]").count(), 2)
        self.page.fill("[data-tree=search]", "")
        self.page.select_option("[data-tree=filter]", "kind:helper")
        self.assertEqual(self.page.locator("[data-row]").count(), 1)
        self.page.select_option("[data-tree=filter]", "")
        self.page.click("[data-tree=fold-all]")
        self.assertEqual(self.page.locator('[data-tree=name]:text-is("Body")').count(), 0)
        self.page.click("[data-tree=unfold-all]")
        wing, plumes = self.row("Wing"), self.row("Breast plumes")
        before = self.scene()
        plumes.drag_to(wing, target_position={"x": 90, "y": 1})
        self.settled()
        order = [part.name for part in self.scene().parts]
        self.assertEqual(order.index("Breast plumes"), order.index("Wing") + 1)
        self.undo_leaves(before)

    def test_settle_and_poses(self):
        self.press("m")
        for _ in range(30):
            self.page.keyboard.press(".")
        self.settled()
        before = self.scene()
        worlds = evaluate(before, np.arange(before.length)).world
        self.command("settle all here")
        after = self.scene()
        self.assertNotEqual(after, before)
        np.testing.assert_allclose(evaluate(after, np.arange(before.length)).world, worlds, atol=1e-9)
        self.pick("Near thigh")
        self.type_number('[data-channel="turn.z"]', "12")
        self.press("p")
        self.pick("Far thigh")
        self.press("v")
        key = next(key for key in self.part("Far thigh").channels["turn.z"].keys if key.frame == 30)
        self.assertEqual(key.value, 12)

    def test_the_joint_map_pans_searches_and_picks_on_the_bench(self):
        self.press("Shift+Q")
        self.page.wait_for_selector("[data-node]")
        self.page.fill("[data-map=search]", "upper neck")
        self.assertEqual(self.page.locator(".is-found").count(), 1)
        self.page.keyboard.press("Enter")
        self.page.wait_for_selector("[data-ready=true]")
        self.assertEqual(self.page.input_value("[data-card=name]"), "Upper neck")

    def test_a_reference_picture_is_locked_and_never_sent_out(self):
        with self.page.expect_file_chooser() as chooser:
            self.page.focus("[data-bench=stage]")
            self.page.keyboard.press("/")
            self.page.keyboard.type("reference")
            self.page.keyboard.press("Enter")
        chooser.value.set_files(HERON.parents[2] / "tests" / "art" / "loose-elements.svg")
        self.settled()
        part = next(part for part in self.scene().parts if part.kind == "reference")
        self.assertTrue(part.locked)
        self.assertEqual((self.scene().parts[0].id, part.rest["opacity"]), (part.id, 0.4))
