"""A long sitting of work on time: hundreds of edits, taken back and done again."""

from dataclasses import replace

import numpy as np

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.edits.placing import kept_poses
from jointed_crane.core.edits.placing.whole_turns import TurnRound
from jointed_crane.core.edits.time import curving, inbetween, keys, repeating, retiming, timing
from jointed_crane.core.edits.time import time_markers as markers
from jointed_crane.core.edits.time.appearing import ShowFrom
from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.motion.channel import Sway
from jointed_crane.core.motion.segments import controls
from tests.store.test_scenes import StoreTestCase
from tests.strategies import TIMES, random_scene

EDITS = 150 if TIMES == 1 else 500
_SHAPES = ("soft start", "soft end", "soft both", "snap at the end", "overshoot", "bounce")


def _time_edit(random, scene, number):
    """Some edit of time; some of them are refused by the rules, as users' edits are."""
    part = scene.parts[random.integers(len(scene.parts))]
    name = str(random.choice(["turn.z", "scale.x", "move.y", "opacity"]))
    channel = part.channels.get(name)
    here = tuple(keys.KeyAt(part.id, name, frame) for frame in channel.frames) if channel else ()
    some = tuple(key for key in here if random.random() < 0.6) or here
    frame = float(random.integers(0, scene.length))
    amount = float(random.normal())
    handles = ((-abs(amount) * 5, amount), (abs(amount) * 5, -amount))
    copied = (repeating.CopiedKeys(part.name, name, channel.keys[:5]),) if here else ()
    return random.choice(
        [
            keys.SetKeys((part.id,), (name,), frame),
            keys.RaiseKeys(some, amount),
            keys.DeleteKeys(some[:1]),
            keys.SetSegmentKind(some, str(random.choice(["hold", "straight", "eased"]))),
            keys.SetHandles(some, *handles),
            keys.SetOutside(part.id, name, "repeat", "repeat onwards"),
            keys.SetSway(part.id, name, Sway(amount, 6 + abs(amount), 0.1, 0.4, number, 5.0, 40.0, 3.0, 4.0)),
            keys.SetSway(part.id, name, None),
            retiming.MoveKeys(some, round(amount * 4)),
            retiming.StretchKeys(some, frame, 0.5 + abs(amount)),
            retiming.ReverseKeys(some),
            retiming.Stagger(tuple(one.id for one in scene.parts), amount * 2, order="shuffled", seed=number),
            repeating.PasteKeys(copied, frame, (part.id,)),
            repeating.HoldUntil((part.id,), frame),
            inbetween.InBetween((part.id,), frame, 0.4),
            curving.ShapeSegments(some, str(random.choice(_SHAPES))),
            curving.LayHandles(some, str(random.choice(["flat", "joined", "smooth"]))),
            ShowFrom((part.id,), frame, amount > 0),
            TurnRound((part.id,), 2, frame, frame + 12),
            timing.SetRate((int(random.choice([12, 24, 30])), 1)),
            timing.SetLength(int(random.integers(24, 96)), stretches=amount > 0),
            markers.AddMarker(f"m{number}", frame, frame + 9),
            kept_poses.KeepPose(f"k{number}", frame, (part.id,)),
        ]
    )


class LongSittingTests(StoreTestCase):
    def test_hundreds_of_edits_of_time_with_undo_and_redo_lose_and_break_nothing(self):
        random = np.random.default_rng(77)
        scene = replace(random_scene(5, count=4), id="long")
        scenes = self.library.scenes
        kept = scenes.create(scene)
        states, at, made = [scene], 0, 0
        for number in range(EDITS):
            choice = random.random()
            if choice < 0.15 and at:
                kept, at = scenes.undo("long", kept.version), at - 1
            elif choice < 0.25 and at + 1 < len(states):
                kept, at = scenes.redo("long", kept.version), at + 1
            else:
                version = kept.version
                try:
                    kept = scenes.keep("long", version, [_time_edit(random, kept.scene, number)])
                except RuleError:
                    continue
                if kept.version != version:
                    states, at, made = [*states[: at + 1], kept.scene], at + 1, made + 1
            self.assertEqual(kept.scene, states[at])
            self._assert_runs_forward(kept.scene)
        self.assertGreater(made, EDITS / 3)
        self.assertEqual(self.restarted().scenes.load("long").scene, states[at])
        while at:
            kept, at = scenes.undo("long", kept.version), at - 1
            self.assertEqual(kept.scene, states[at])

    def _assert_runs_forward(self, scene):
        pose = evaluate(scene, np.arange(0.0, scene.length, 3.5))
        self.assertTrue(np.isfinite(pose.world).all())
        for part in scene.parts:
            for channel in part.channels.values():
                if channel.keys:
                    shares, values = controls(channel.columns)
                    self.assertTrue(((shares >= 0) & (shares <= 1)).all(), "no handle makes time run backwards")
                    self.assertTrue(np.isfinite(values).all())
