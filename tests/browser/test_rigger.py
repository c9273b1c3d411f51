"""A rigger at work: a figure of twelve parts, and a long drag of a seated limb."""

import re
import time

import numpy as np

from heron_lock.heron import PARENTS, PIVOTS
from jointed_crane.core.edits import applied
from jointed_crane.core.edits.joints.eyelets import MakeJoints
from jointed_crane.core.edits.placing.poses import MoveBy, SetValues
from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.evaluate.pose_at_frame import pivot_at, world_at
from jointed_crane.core.measures.gaps import gaps
from jointed_crane.core.model.scene import Scene
from tests.browser.test_whole_way import HERON, BenchTestCase
from tests.crowds import crowd
from tests.strategies import STUB, STUB_NAME, long_story

TWELVE = (
    "Body", "Lower neck", "Upper neck", "Head", "Beak upper", "Beak lower", "Wing", "Wing tip", "Tail", "Near thigh",
    "Near shank", "Near foot",
)  # fmt: skip


class RiggerTestCase(BenchTestCase):
    def choose(self, name: str):
        """Open a tab of the joint card."""
        self.page.click(f"[data-tab={name}]")
        self.settled()

    def type_number(self, field: str, text: str):
        self.page.fill(f"{field} input", text)
        self.page.press(f"{field} input", "Enter")
        self.settled()

    def press(self, key: str):
        self.page.focus("[data-bench=stage]")
        self.page.keyboard.press(key)
        self.settled()

    def undo_leaves(self, before: Scene):
        """The last act is one row of undo."""
        self.press("Control+z")
        self.assertEqual(self.scene(), before)
        self.press("Control+Shift+z")


class FigureTests(RiggerTestCase):
    @long_story  # the guide's pages and the whole way tell the same acts, on fewer parts
    def test_a_figure_of_twelve_parts_is_built_thrown_about_and_seated(self):
        page = self.page
        page.set_viewport_size({"width": 1280, "height": 1000})
        self.served.library.scenes.create(Scene("s", "Heron", 1280, 720))
        self.open_bench("s")

        # Bring in: twelve of the layers, registered in their lower middle.
        with page.expect_file_chooser() as chooser:
            page.click("text=Bring in")
        chooser.value.set_files(HERON)
        page.wait_for_selector("dialog[open] [data-import=layers] li")
        page.click("text=Leave all")
        for name in TWELVE:
            page.check(f'[aria-label="Take {name}"]')
        page.select_option("dialog[open] select[name=registration]", "lower middle")
        self.assertIn("12 of 28", page.inner_text("[data-import=words]"))
        page.click("[data-import=keep]")
        page.wait_for_selector("[data-row] >> nth=11")
        self.settled()
        scene = self.scene()
        self.assertEqual({part.name for part in scene.parts}, set(TWELVE))
        for part in scene.parts:
            left, _, right, bottom = part.bounds
            np.testing.assert_allclose([left + right, bottom], [0, 0], atol=1e-9)
        worlds = evaluate(scene, [0]).world

        # Pivots, typed as px on the stage.
        for name in TWELVE:
            self.pick(name)
            for axis, place in zip("xy", PIVOTS[name], strict=True):
                field = f'[data-card="pivot-stage-{axis}"] input'
                self.page.fill(field, str(place))
                self.page.press(field, "Enter")
            self.settled()
            np.testing.assert_allclose(pivot_at(self.scene(), self.part(name).id, None)[:2], PIVOTS[name], atol=1e-9)
        np.testing.assert_allclose(evaluate(self.scene(), [0]).world[:, :2, :2], worlds[:, :2, :2], atol=1e-12)

        # Joined: the children are picked first and their parent last.
        for parent in ("Body", "Lower neck", "Upper neck", "Head", "Wing", "Near thigh", "Near shank"):
            children = [name for name in TWELVE if PARENTS.get(name) == parent]
            self.pick(children[0])
            for name in [*children[1:], parent]:
                self.row(name).click(modifiers=["Control"])
            page.keyboard.press("j")
            self.settled()
        self.assertEqual(
            {part.name: self.scene().part(part.parent).name for part in self.scene().parts if part.parent},
            {name: PARENTS[name] for name in TWELVE if name in PARENTS},
        )

        # One eyelet with the tool on the stage: drawn to the child's pivot and named after it.
        self.pick("Lower neck")
        page.keyboard.press("5")
        x, y = self.on_screen(*PIVOTS["Upper neck"])
        self.drag((x + 14, y + 22), (x + 3, y + 2), release=False)
        self.settled()
        self.assertIn("pivot of Upper neck", page.text_content("[data-bench=stage]"))
        page.mouse.up()
        self.settled()
        (eyelet,) = self.part("Lower neck").eyelets
        self.assertEqual(eyelet.name, "Upper neck")
        # All others under the pivots of the picked parts, by one key.
        self.press("Control+a")
        page.keyboard.press("e")
        self.settled()
        self.assertEqual(sum(part.seat is not None for part in self.scene().parts), 11)
        self.assertLess(gaps(self.scene(), None)[0].distance, 1e-9)

        # Thrown about at random, turned too, as hands and scripts do.
        random = np.random.default_rng(12)
        kept = self.served.library.scenes.load("s")
        thrown = [
            edit
            for part in kept.scene.parts
            for edit in (
                MoveBy((part.id,), tuple(random.normal(0, 60, 2))),
                SetValues((part.id,), {"turn.z": float(random.uniform(-180, 180)), "slide.x": float(random.normal())}),
            )
        ]
        self.served.library.scenes.keep("s", kept.version, thrown)
        page.reload()
        page.wait_for_selector("[data-ready=true]")
        page.keyboard.press("r")
        self.pick("Head")
        self.choose("joint")
        self.assertGreater(gaps(self.scene(), None)[0].distance, 20)
        page.click("[data-joint=gaps]")
        page.click("[data-joint=seat-all]")
        self.settled()
        self.assertEqual(len(gaps(self.scene(), None)), 11)
        self.assertLessEqual(gaps(self.scene(), None)[0].distance, 1e-6)
        listed = [float(text) for text in re.findall(r"([\d.]+) px", page.inner_text("[data-joint=gap-list]"))]
        self.assertEqual(len(listed), 11)
        self.assertLessEqual(max(listed), 1e-6)


class SeatedDragTests(RiggerTestCase):
    def test_a_drag_of_120_moves_is_answered_in_order_and_ends_exact(self):
        library = self.served.library
        library.assets.put([STUB])
        scene = crowd(200, STUB_NAME).at_rest
        seated = applied(scene, [MakeJoints(tuple(part.id for part in scene.parts if part.parent), "e")])
        library.scenes.create(seated)
        asked, answered = [], []
        self.open_bench("crowd")
        self.page.keyboard.press("r")
        self.row("Part 102").scroll_into_view_if_needed()
        self.pick("Part 102")
        self.settled()
        pivot = self.on_screen(*pivot_at(seated, "p102", None)[:2])
        x, y = self.at("circle[data-ring]")
        is_preview = lambda url: url.endswith("/preview")  # noqa: E731
        self.hear("request", lambda r: is_preview(r.url) and asked.append(r.post_data_json["edits"][0]["degrees"]))
        self.hear("response", lambda r: is_preview(r.url) and answered.append((r.status, r)))
        self.page.mouse.move(x, y)
        self.page.mouse.down()
        reach = np.hypot(x - pivot[0], y - pivot[1])
        begin = time.monotonic()
        for step in range(1, 121):
            angle = np.deg2rad(-90 + step)
            self.page.mouse.move(pivot[0] + reach * np.cos(angle), pivot[1] + reach * np.sin(angle))
            time.sleep(max(0.0, begin + step / 120 - time.monotonic()))
        self.settled()
        shown = self.page.get_attribute('[data-part="p103"]', "transform")
        # Every request was answered, one at a time, each with the turn that was asked; the last is the last pointer's.
        self.assertEqual([status for status, _ in answered], [200] * len(asked))
        turned = [r.json()["changed"][0]["rest"]["turn.z"] for _, r in answered]
        np.testing.assert_allclose(turned, asked, atol=1e-12)
        self.assertEqual(asked, sorted(asked))
        self.assertGreater(len(asked), 10)
        self.assertAlmostEqual(asked[-1], 120, delta=0.7)
        self.page.mouse.up()
        self.settled()
        kept = self.scene()
        self.assertEqual(kept.part("p102").rest["turn.z"], asked[-1])
        world = world_at(kept, "p103", None)
        on_page = [float(number) for number in re.findall(r"-?[\d.]+(?:e-?\d+)?", shown)]
        np.testing.assert_array_equal(on_page, world[:2][:, [0, 1, 3]].T.ravel())
        self.assertLess(gaps(kept, None)[0].distance, 1e-9)
