"""Constraints as a user makes them: on the card, on the stage, by keyboard."""

import numpy as np
from playwright.sync_api import expect

from jointed_crane.core.edits import applied
from jointed_crane.core.edits.joints.joining import Join
from jointed_crane.core.edits.pictures.making_shapes import AddShape
from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.model.forms import Rectangle
from jointed_crane.core.model.scene import Part, Scene
from tests.browser.test_whole_way import BenchTestCase
from tests.core.test_shape_motion import SHAPES


class ConstraintTests(BenchTestCase):
    def setUp(self):
        super().setUp()
        places = {"Upper arm": (300, 200), "Fore arm": (420, 260), "Hand": (520, 200), "Lamp": (900, 300)}
        edits = [AddShape(name, SHAPES["ellipse"], name, place) for name, place in places.items()]
        edits += [Join(("Fore arm",), "Upper arm"), Join(("Hand",), "Fore arm")]
        post = Part("post", "Post", "helper", rest={"move.x": 800.0})
        places = {"Root": (600.0, 500.0), "End": (680.0, 500.0)}
        ends = (Part(name, name, "helper", rest={"move.x": x, "move.y": y}) for name, (x, y) in places.items())
        edits.append(AddShape("Hair", Rectangle((0.0, 0.0, 80.0, 24.0)), "Hair", (600, 488)))
        scene = Scene("s", "Arm", length=49, parts=(post, *ends))
        self.served.library.scenes.create(applied(scene, edits))
        self.open_bench("s")

    def pivot(self, name, frame=0.0):
        scene = self.scene()
        return evaluate(scene, [frame]).pivot_of(self.part(name).id)[:2]

    def test_an_arm_reaches_is_dragged_by_its_goal_bent_keyed_and_undone(self):
        before = self.pivot("Hand")
        self.pick("Hand")
        self.page.get_by_role("tab", name="Constraints").click()
        self.page.get_by_role("button", name="Add", exact=True).locator("visible=true").click()
        self.settled()
        np.testing.assert_allclose(self.pivot("Hand"), before, atol=1e-9)
        self.assertEqual(self.page.input_value("[data-card=name]"), "Hand goal")
        elbow = self.pivot("Fore arm")
        start = self.on_screen(*before)
        end = self.on_screen(before[0] - 60, before[1] + 90)
        self.drag(start, end)
        goal = self.pivot("Hand goal")
        self.assertLess(float(np.hypot(*(goal - before - (-60, 90)))), 4)
        np.testing.assert_allclose(self.pivot("Hand"), goal, atol=1e-9)
        self.assertGreater(float(np.hypot(*(self.pivot("Fore arm") - elbow))), 5)
        bent = self.pivot("Fore arm")
        self.command("Bend the other way")
        self.assertGreater(float(np.hypot(*(self.pivot("Fore arm") - bent))), 20)
        np.testing.assert_allclose(self.pivot("Hand"), goal, atol=1e-9)
        self.pick("Hand goal")
        self.page.get_by_role("tab", name="Constraints").click()
        expect(self.page.locator("[data-rule=goal-of]")).to_have_text("Goal of Hand (reach).")
        self.press("Delete")
        expect(self.page.locator("body")).to_contain_text("Then Hand no longer reaches. Delete once more")
        self.assertEqual(len(self.part("Hand").constraints), 1)
        self.press("Delete")
        self.assertEqual(self.part("Hand").constraints, ())
        self.press("Control+z")
        self.assertEqual(len(self.part("Hand").constraints), 1)
        self.press("Control+z", "Control+z", "Control+z")
        self.assertEqual(self.part("Hand").constraints, ())
        self.assertEqual([part.name for part in self.scene().parts if "goal" in part.name], [])

    def test_by_keyboard_and_by_numbers_with_a_key_on_the_weight(self):
        self.pick("Hand")
        self.press("Shift+O")
        self.pick("Hand")
        self.page.get_by_role("tab", name="Constraints").click()
        expect(self.page.locator("[data-goal-line]")).to_have_count(1)
        self.page.get_by_role("button", name="More of Reach").click()
        self.press("m")
        self.go_to(12)
        weight = self.page.get_by_role("textbox", name="Weight of Reach")
        weight.fill("0.25")
        weight.press("Enter")
        self.settled()
        channel = next(name for name in self.part("Hand").channels if name.endswith(".weight"))
        self.assertEqual(self.part("Hand").channels[channel].key_at(12).value, 0.25)
        self.assertEqual(weight.input_value(), "0.25")
        expect(self.page.locator("[data-time=picture]")).to_contain_text("Weight")
        self.page.get_by_role("checkbox", name="Reach acts").uncheck()
        self.settled()
        self.assertFalse(self.part("Hand").constraints[0].is_on)
        self.page.get_by_role("button", name="Delete Reach").click()
        self.settled()
        self.assertEqual((self.part("Hand").constraints, self.part("Hand").channels), ((), {}))

    def test_a_straight_limb_is_asked_on_the_stage_which_way_it_bends(self):
        places = {"Upper arm": (300, 200), "Fore arm": (410, 200), "Hand": (520, 200)}
        edits = [AddShape(name, SHAPES["ellipse"], name, place) for name, place in places.items()]
        edits += [Join(("Fore arm",), "Upper arm"), Join(("Hand",), "Fore arm")]
        self.served.library.scenes.create(applied(Scene("t", "Straight"), edits))
        self.open_bench("t")
        self.pick("Hand")
        self.press("Shift+O")
        expect(self.page.locator("[data-knee]")).to_have_count(2)
        bends = self.part("Hand").constraints[0].bends
        knee = self.at(f"[data-knee='{-bends}'] circle")
        self.page.mouse.click(*knee)
        self.settled()
        self.assertEqual(self.part("Hand").constraints[0].bends, -bends)
        hip, goal = (self.on_screen(*self.pivot(name)) for name in ("Upper arm", "Hand"))
        self.drag(goal, [(a + 3 * b) / 4 for a, b in zip(hip, goal, strict=True)])
        # The joint lies on the side of the line from end to end on which its knee stood.
        elbow = self.on_screen(*self.pivot("Fore arm"))
        self.assertGreater((elbow[1] - hip[1]) * (knee[1] - hip[1]), 0)

    def test_goals_are_picked_first_or_made_on_the_spot_where_nothing_moves(self):
        self.pick("Lamp")
        self.page.get_by_role("tab", name="Constraints").click()
        self.page.select_option("[data-rule=kind]", "point at")
        self.page.locator("[data-rule=add]").click()
        self.settled()
        world = evaluate(self.scene(), [0.0]).world_of(self.part("Lamp").id)
        np.testing.assert_allclose(world[:2, :2], np.eye(2), atol=1e-9)
        self.assertEqual(self.part("Lamp").constraints[0].goal.part, self.part("Lamp goal").id)
        self.page.select_option("[data-rule=kind]", "along a path")
        self.page.locator("[data-rule=add]").click()
        expect(self.page.locator("body")).to_contain_text("Along a path needs a path: pick a part with a shape first")
        self.page.select_option("[data-rule=kind]", "point at")
        self.press("Control+z")
        self.assertNotIn("Lamp goal", [part.name for part in self.scene().parts])
        self.pick("Post")
        self.row("Lamp").click(modifiers=["Control"])
        self.page.locator("[data-rule=add]").click()
        self.settled()
        x = evaluate(self.scene(), [0.0]).world_of(self.part("Lamp").id)[:2, 0]
        way = self.pivot("Post") - self.pivot("Lamp")
        self.assertAlmostEqual(float(np.arctan2(x[1], x[0])), float(np.arctan2(way[1], way[0])), places=9)
        self.page.get_by_role("combobox", name="goal of Point at").focus()
        self.page.get_by_role("combobox", name="goal of Point at").select_option(label="Hand")
        self.settled()
        self.assertEqual(self.part("Lamp").constraints[0].goal.part, self.part("Hand").id)
        self.page.get_by_role("button", name="More of Point at").click()
        self.page.get_by_role("combobox", name="What of it points for Point at").select_option(label="its y axis")
        self.settled()
        self.assertEqual(self.part("Lamp").constraints[0].along, "y")
        self.press("Control+z", "Control+z", "Control+z")
        self.assertEqual(self.part("Lamp").constraints, ())

    def test_hair_is_held_by_a_span_within_its_ranges_and_pulled_by_its_ends(self):
        left, top, right, bottom = self.part("Hair").bounds
        middle = (top + bottom) / 2
        self.pick("Root")
        for name in ("End", "Hair"):
            self.row(name).click(modifiers=["Control"])
        self.page.get_by_role("tab", name="Constraints").click()
        self.page.select_option("[data-rule=kind]", "span")
        self.page.locator("[data-rule=add]").click()
        self.settled()

        def ends(frame=0.0):
            world = evaluate(self.scene(), [frame]).world_of(self.part("Hair").id)
            return [(world @ [x, middle, 0.0, 1.0])[:2] for x in (left, right)]

        for end, name in zip(ends(), ("Root", "End"), strict=True):
            np.testing.assert_allclose(end, self.pivot(name), atol=1e-9)
        # Taken near its right end the piece is pulled by that; the other end stays.
        x, y = self.pivot("End")
        self.drag(self.on_screen(x - 8, y), self.on_screen(x + 2, y))
        self.assertAlmostEqual(float(self.pivot("End")[0] - x), 10, delta=2)
        np.testing.assert_allclose(ends()[0], self.pivot("Root"), atol=1e-9)
        np.testing.assert_allclose(ends()[1], self.pivot("End"), atol=1e-9)
        # Beyond its longest the end lets go, and a range that is loosened at one frame brings it back.
        self.page.get_by_role("button", name="More of Span").click()
        longest = self.page.get_by_role("textbox", name="Longest of Span")
        longest.fill("1.05")
        longest.press("Enter")
        self.settled()
        self.assertGreater(float(np.hypot(*(ends()[1] - self.pivot("End")))), 2)
        self.press("m")
        self.go_to(10)
        longest.fill("2")
        longest.press("Enter")
        self.settled()
        np.testing.assert_allclose(ends(10.0)[1], self.pivot("End"), atol=1e-9)
        self.assertGreater(float(np.hypot(*(ends()[1] - self.pivot("End")))), 2)  # what came before stays
        expect(self.page.locator("[data-time=picture]")).to_contain_text("Longest")
        self.press("Control+z", "Control+z", "Control+z", "Control+z")
        self.assertEqual(self.part("Hair").constraints, ())
