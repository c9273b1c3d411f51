"""How parts stand on their grounds: what slips, what floats or sinks, and footholds put where turns were changed."""

import unittest
from dataclasses import replace

import numpy as np

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.checks import findings
from jointed_crane.core.edits import applied
from jointed_crane.core.edits.constraints.changing_hands import CarryFrom
from jointed_crane.core.edits.placing.rolling import Roll
from jointed_crane.core.edits.placing.standing_on_keys import SetLevel, StandOnKeys
from jointed_crane.core.edits.placing.turning import DeleteMark
from jointed_crane.core.measures.standing import standing
from jointed_crane.core.model.scene import Drawing, Mark, Part, Scene
from jointed_crane.core.motion.channel import Channel, Key
from tests.constrained_rigs import helper, moving
from tests.strategies import STUB_NAME

BOX = (0.0, 0.0, 40.0, 40.0)
CRATE = Drawing("d", "D", STUB_NAME, BOX, BOX, outline=(((0.0, 0.0), (40.0, 0.0), (40.0, 40.0), (0.0, 40.0)),))
FRAMES = np.arange(61.0)


class StandingTests(unittest.TestCase):
    def rolled(self, parent=None, **ground):
        """A crate that rolls over four corners from frame 10 to 50, 10 frames a corner."""
        parts = [Part("ground", "Ground", **ground)] if parent else []
        crate = Part("crate", "Crate", parent=parent, drawings=(CRATE,), rest={"move.x": 100.0, "move.y": 60.0})
        scene = Scene("s", "S", parts=(*parts, crate), length=61, marks=(Mark("m", "Quay", (0.0, 100.0)),))
        return applied(scene, [Roll("crate", 10.0, 50.0, 4)])

    def off(self, scene):
        return standing(scene, "crate", FRAMES).off_level()

    def shifted(self, scene, by):
        """The scene with every turn of the crate but the first later by frames: the footholds stay behind."""
        crate = scene.part("crate")
        keys = [
            replace(key, frame=key.frame + by if key.frame > 10 else key.frame) for key in crate.channels["turn.z"].keys
        ]
        return scene.with_parts([crate.with_channel("turn.z", Channel(tuple(keys)))])

    def test_what_rolls_keeps_to_its_level_and_slips_nowhere_also_on_a_ground_that_travels(self):
        for scene in (
            self.rolled(),
            self.rolled("ground", channels=moving(helper("x"), x=(0, 50, -20), y=(0, 9, 0)).channels),
        ):
            found = standing(scene, "crate", FRAMES)
            self.assertLess(float(found.slips.max()), 1e-9)
            self.assertLess(float(np.nanmax(np.abs(np.minimum(found.heights, 0.0)))), 1e-9)
            self.assertIsNone(found.off_level())
            self.assertTrue(np.isnan(found.heights[:10]).all())

    def test_a_part_without_footholds_and_picture_stands_nowhere(self):
        found = standing(Scene("s", "S", parts=(helper("crate"),)), "crate", FRAMES)
        self.assertEqual((float(found.slips.max()), found.off_level()), (0.0, None))

    def test_a_crate_whose_turns_were_moved_sinks_and_stands_again_on_its_turns(self):
        scene = self.shifted(self.rolled(), 4.0)
        frame, height = self.off(scene)
        self.assertIn(frame, (20.0, 21.0))  # the foothold of frame 20 takes over before that corner has come down
        self.assertGreater(abs(height), 3.0)
        (found,) = [one for one in findings(scene, frozenset()) if one.check == "Off its level"]
        self.assertIn(f"From frame {frame:g} on Crate stands up to", found.sentence)
        self.assertIsNone(self.off(applied(scene, found.mend)))
        again = applied(scene, [StandOnKeys("crate")]).part("crate").footholds
        corners = [hold.point for hold in self.rolled().part("crate").footholds]
        self.assertEqual([hold.point for hold in again], corners)
        self.assertEqual([hold.frame for hold in again], [10.0, 24.0, 34.0, 44.0])

    def test_a_mark_is_the_level_where_it_is_said_and_goes_with_it(self):
        scene = self.rolled()
        by_mark = applied(scene, [SetLevel("crate", "m")])
        self.assertIsNone(self.off(by_mark))
        lower = replace(by_mark, marks=(Mark("m", "Quay", (0.0, 121.0)),))
        frame, height = self.off(lower)
        self.assertEqual((frame, round(height, 9)), (10.0, 21.0))
        self.assertIsNone(applied(lower, [DeleteMark("m")]).part("crate").level)
        with self.assertRaisesRegex(RuleError, "mark on the stage"):
            applied(scene, [SetLevel("crate", "gone")])

    def test_honest_travel_of_what_is_carried_is_no_slip(self):
        hook = moving(helper("hook", 100, 20), x=(100, 150, 90), y=(20, -30, 60))
        scene = self.rolled()
        scene = replace(scene, parts=(hook, *scene.parts))
        carried = applied(scene, [CarryFrom("crate", "hook", 51.0, "c")])
        self.assertLess(float(standing(carried, "crate", FRAMES).slips.max()), 1e-9)
        sliding = carried.part("crate").with_channel("move.x", Channel((Key(0.0, 0.0), Key(60.0, 30.0))))
        found = standing(carried.with_parts([sliding]), "crate", FRAMES)
        self.assertGreater(float(found.slips[52:].max()), 0.05)

    def test_a_tilted_ground_has_its_level_where_it_is_level_as_the_part_begins_to_stand(self):
        ground = {"rest": {"turn.z": 12.0, "scale.x": -1.0}}
        scene = self.rolled("ground", **ground)
        crate = replace(scene.part("crate"), channels={}, footholds=scene.part("crate").footholds[:1])
        still = scene.with_parts([crate])
        self.assertIsNone(self.off(still))
        rocked = moving(still.part("ground"), turn=(0, 10, -10, 0))
        found = standing(still.with_parts([rocked]), "crate", FRAMES)
        self.assertLess(float(found.slips.max()), 1e-9)
        self.assertIsNone(found.off_level())
