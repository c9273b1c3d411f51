"""Levers as a user makes them: on the board, on the stage, by keyboard, by teaching and by amounts."""

import numpy as np
from playwright.sync_api import expect

from jointed_crane.core.edits import applied
from jointed_crane.core.edits.pictures.making_shapes import AddShape
from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.model.scene import Scene
from tests.browser.test_whole_way import BenchTestCase
from tests.core.test_shape_motion import SHAPES


class LeverTests(BenchTestCase):
    def setUp(self):
        super().setUp()
        places = {"Left flap": (400, 300), "Right flap": (800, 300)}
        edits = [AddShape(name, SHAPES["rectangle"], name, place) for name, place in places.items()]
        self.served.library.scenes.create(applied(Scene("s", "Lock", length=49), edits))
        self.open_bench("s")

    def turn(self, name, frame=None):
        scene = self.scene()
        pose = evaluate(scene.shown_as(frame), [frame or 0.0])
        a, b = pose.world_of(self.part(name).id)[:2, 0]
        return float(np.rad2deg(np.arctan2(b, a)))

    def set_turn(self, name, degrees):
        self.pick(name)
        field = self.page.locator("[data-channel='turn.z'] input").first
        field.fill(str(degrees))
        field.press("Enter")
        self.settled()
        self.drawn()

    def set_lever(self, value):
        field = self.page.get_by_role("textbox", name="Value of Lever", exact=True)
        field.fill(str(value))
        field.press("Enter")
        self.settled()

    def test_one_lever_is_taught_two_flaps_opposite_ways_and_is_keyed(self):
        self.command("Add a lever")
        self.page.get_by_role("button", name="Teach Lever").click()
        self.set_lever(1)
        self.set_turn("Left flap", -50)
        self.set_turn("Right flap", 70)
        expect(self.page.locator("[data-pending=words]")).to_have_text("Lever at 1 is taught 2 changes")
        self.assertEqual(self.part("Left flap").links, ())
        self.page.get_by_role("button", name="Keep that").click()
        self.settled()
        self.assertEqual([round(self.turn(name), 6) for name in ("Left flap", "Right flap")], [-50, 70])
        self.assertEqual(self.part("Left flap").rest.get("turn.z", 0.0), 0.0)
        self.page.get_by_role("button", name="Stop teaching Lever").click()
        self.set_lever(0.5)
        self.assertEqual([round(self.turn(name), 6) for name in ("Left flap", "Right flap")], [-25, 35])
        # Keyed like anything else: from neutral to the end.
        self.press("m")
        for frame, value in ((0, 0), (40, 1)):
            self.go_to(frame)
            self.set_lever(value)
        self.pick("Lever")
        expect(self.page.locator("[data-key^='lever.x@']")).to_have_count(2)
        self.assertAlmostEqual(self.turn("Right flap", 40.0), 70, places=6)
        self.assertAlmostEqual(self.turn("Left flap", 0.0), 0, places=6)
        self.press("Control+z", "Control+z", "Control+z", "Control+z", "Control+z", "Control+z")
        self.assertEqual([part.name for part in self.scene().parts], ["Left flap", "Right flap"])

    def test_it_is_dragged_on_board_and_stage_stepped_by_keys_and_neutral_by_double_click(self):
        self.pick("Left flap")
        self.command("Add a lever")
        lever = self.part("Lever")
        self.assertEqual(lever.parent, self.part("Left flap").id)
        self.page.select_option("[aria-label='What Lever is to drive']", label="Turn of Left flap")
        self.page.get_by_role("button", name="Lever drives that channel of it").click()
        self.settled()
        x, y = self.at("[data-board=list] [data-lever] rect")
        self.drag((x, y), (x + 140, y))
        self.assertEqual(self.part("Lever").rest["lever.x"], 1.0)
        self.assertAlmostEqual(self.turn("Left flap"), 45, places=6)  # half of 90 for half of its range
        x, y = self.at("[data-board=list] [data-lever] rect")
        self.drag((x + 50, y), (x + 3, y))
        self.assertEqual(self.part("Lever").rest.get("lever.x", 0.0), 0.0)
        self.page.get_by_role("checkbox", name="on the stage").check()
        self.settled()
        self.drawn()
        x, y = self.at("[data-stage-lever] [data-lever] rect")
        self.drag((x, y), (x - 90, y))
        self.assertEqual(self.part("Lever").rest["lever.x"], -1.0)
        handle = self.page.locator("[data-board=list] [data-lever]")
        handle.focus()
        self.press("ArrowRight", "Shift+ArrowRight")
        self.assertAlmostEqual(self.part("Lever").rest["lever.x"], -0.4, places=9)
        handle.dblclick()
        self.settled()
        self.assertEqual(self.part("Lever").rest["lever.x"], 0.0)

    def test_a_channel_of_another_part_drives_one_from_the_card(self):
        self.pick("Right flap")
        self.row("Left flap").click(modifiers=["Control"])
        self.page.get_by_role("tab", name="Constraints").click()
        self.page.select_option("[aria-label='What drives Left flap']", label="Turn of Right flap")
        self.page.select_option("[aria-label='What of Left flap is driven']", label="Turn of Left flap")
        self.page.get_by_role("button", name="That channel drives Left flap").click()
        self.settled()
        self.assertEqual([(link.channel, link.onto) for link in self.part("Left flap").links], [("turn.z", "turn.z")])
        amount = self.page.get_by_role("textbox", name="Amount of Turn of Right flap")
        amount.fill("-2")
        amount.press("Enter")
        self.settled()
        self.press("m")
        self.page.get_by_role("tab", name="Place", exact=True).click()
        self.set_turn("Right flap", 15)
        self.assertAlmostEqual(self.turn("Left flap", 0.0), -30, places=6)
        self.pick("Left flap")
        self.page.get_by_role("tab", name="Constraints").click()
        expect(amount).to_have_count(1)
        self.press("Control+z", "Control+z", "Control+z", "m")
        self.assertEqual(self.part("Left flap").links, ())
        expect(amount).to_have_count(0)
        self.pick("Left flap")
        expect(self.page.locator("[data-rule=driving]")).to_contain_text("pick that part too")

    def test_from_here_to_here_is_taken_by_pressing_twice(self):
        self.pick("Left flap")
        self.command("Add a lever")
        self.page.select_option("[aria-label='What Lever is to drive']", label="Turn of Left flap")
        here = self.page.locator("[data-board=list]").get_by_role("button", name="From here")
        here.click()
        expect(self.page.locator("[data-board=list]")).to_contain_text("From Lever at 0 and Turn of Left flap at 0°")
        self.set_lever(0.5)
        self.set_turn("Left flap", -40)
        self.page.locator("[data-board=list]").get_by_role("button", name="To here").click()
        self.settled()
        self.assertEqual(self.part("Left flap").links[0].points, ((0.0, 0.0), (0.5, -40.0)))
        self.assertEqual(self.part("Left flap").rest.get("turn.z", 0.0), 0.0)
        self.assertAlmostEqual(self.turn("Left flap"), -40, places=6)
        self.set_lever(0.25)
        self.assertAlmostEqual(self.turn("Left flap"), -20, places=6)

    def test_links_are_seen_from_both_ends_shaped_as_curves_and_taken_away(self):
        self.pick("Right flap")
        self.command("Add a lever")
        self.page.select_option("[aria-label='What Lever is to drive']", label="Opacity of Right flap")
        self.page.get_by_role("button", name="Lever drives that channel of it").click()
        self.settled()
        amount = self.page.get_by_role("textbox", name="Amount of Opacity of Right flap")
        amount.fill("-0.25")
        amount.press("Enter")
        self.settled()
        self.page.get_by_role("button", name="Opacity of Right flap: a curve through points").click()
        self.settled()
        self.assertEqual(self.part("Right flap").links[0].points, ((-1.0, 0.25), (0.0, 0.0), (1.0, -0.25)))
        self.pick("Right flap")
        self.page.get_by_role("tab", name="Constraints").click()
        driven = self.page.locator("[data-rule=links]")
        expect(driven).to_contain_text("Opacity by Lever")
        self.page.locator("[data-tree=search]").fill("lev")
        expect(self.page.locator("[data-row]")).to_have_count(2)
        self.page.locator("[data-tree=search]").fill("")
        self.pick("Lever")
        self.press("Delete")
        expect(self.page.locator("body")).to_contain_text("Then Right flap is no longer driven. Delete once more")
        self.press("Delete")
        self.assertEqual(self.part("Right flap").links, ())
        self.press("Control+z")
        self.assertEqual(len(self.part("Right flap").links), 1)
        self.pick("Right flap")
        driven.get_by_role("button", name="Delete the link: Lever").click()
        self.settled()
        self.assertEqual(self.part("Right flap").links, ())

    def test_a_lever_drives_the_colour_of_a_shape_seen_at_once(self):
        self.pick("Left flap")
        self.command("Add a lever")
        self.page.select_option("[aria-label='What Lever is to drive']", label="Fill red of Left flap")
        self.page.get_by_role("button", name="Lever drives that channel of it").click()
        self.settled()
        amount = self.page.get_by_role("textbox", name="Amount of Fill red of Left flap")
        amount.fill("200")
        amount.press("Enter")
        self.settled()
        before = self.part("Left flap").drawings[0].shape.paint.fill
        self.set_lever(1)
        self.drawn()
        fill = f"#{min(int(before[1:3], 16) + 200, 255):02x}{before[3:]}"
        expect(self.page.locator(f"[data-bench=figures] path[fill='{fill}']")).to_have_count(1)

    def test_a_pad_has_two_values_and_changes_that_wait_are_not_lost_when_teaching_ends(self):
        self.page.locator("[data-bench=levers]").click()
        self.page.locator("[data-board=add-pad]").click()
        self.settled()
        self.drawn()
        x, y = self.at("[data-board=list] [data-lever] rect")
        self.drag((x, y), (x + 60, y - 140))
        values = self.part("Pad").rest
        self.assertGreater(values["lever.x"], 0.4)
        self.assertEqual(values["lever.y"], 1.0)
        self.page.get_by_role("button", name="Teach Pad up").click()
        self.set_turn("Left flap", 20)
        self.page.get_by_role("button", name="Stop teaching Pad").click()
        expect(self.page.locator("body")).to_contain_text("Changes wait. Keep or discard them first.")
        discard, said = self.page.get_by_role("button", name="Discard"), self.page.locator("#notices .notice").last
        self.assertLessEqual(said.bounding_box()["y"] + said.bounding_box()["height"], discard.bounding_box()["y"])
        discard.click()
        self.page.get_by_role("button", name="Stop teaching Pad").click()
        self.assertEqual(self.part("Left flap").links, ())

    def test_a_track_comes_in_as_a_helper_with_keys(self):
        with self.page.expect_file_chooser() as chooser:
            self.press("/")
            self.page.get_by_placeholder("Find a command", exact=True).fill("track")
            self.page.get_by_placeholder("Find a command", exact=True).press("Enter")
        chooser.value.set_files(
            [{"name": "gull.csv", "mimeType": "text/csv", "buffer": b"frame,x,y\n0,100,50\n4,140,90\n"}]
        )
        self.row("gull").wait_for()
        self.settled()
        self.assertEqual(tuple(evaluate(self.scene(), [2.0]).pivot_of(self.part("gull").id)[:2]), (120.0, 70.0))
