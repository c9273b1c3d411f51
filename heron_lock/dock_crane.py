"""Dock crane, first lift: a crate is lifted off the barge, swings and is set down again."""

from __future__ import annotations

from heron_lock.rigging import started
from jointed_crane.core.model.scene import Inherits
from jointed_crane.store.library import Library

NAME = "Dock crane, first lift"

PIVOTS = {
    "Jib": (908, 230),
    "Counterweight": (1068, 238),
    "Sheave": (452, 214),
    "Hoist line": (452, 214),
    "Hook": (452, 404),
    "Sling": (452, 454),
    "Crate": (452, 500),
    "Mast": (908, 596),
    "Cab": (908, 300),
    "Barge": (261, 604),
    "Sun": (250, 150),
}
PARENTS = {
    "Jib": "Mast",
    "Cab": "Mast",
    "Counterweight": "Jib",
    "Sheave": "Jib",
    "Hoist line": "Jib",
    "Hook": "Hoist line",
    "Sling": "Hook",
    "Crate": "Hook",
}


def build(library: Library) -> None:
    """Make the scene in a library."""
    rig = started("dock-crane.svg", NAME, 144)
    rig.pivots(PIVOTS)
    rig.joints(PARENTS)
    rig.silence("Sheave", "Round ends differ")  # a wheel, larger than the end of the jib on purpose
    # The line hangs plumb whatever the jib does, and the hook never takes over how long the line is drawn.
    rig.inherits("Hoist line", Inherits(turn=False))
    rig.inherits("Hook", Inherits(scale=False))

    rig.keys("Jib", "turn.z", {0: 0, 24: 0, 72: 21, 96: 21, 140: 0, 144: 0})
    rig.keys("Counterweight", "turn.z", {24: 0, 48: -3, 72: 2, 96: 0})
    rig.keys("Sheave", "turn.z", {8: 0, 60: 540, 100: 540, 140: 0})
    rig.keys("Hoist line", "scale.y", {0: 1, 8: 1, 60: 0.62, 100: 0.62, 138: 1, 144: 1})
    rig.keys("Hoist line", "turn.z", {0: 0, 24: 0, 36: 7, 54: -6, 72: 5, 88: -3.5, 104: -5, 122: 4, 136: -1, 144: 0})
    rig.keys("Crate", "turn.z", {0: 0, 28: 0, 42: 5, 60: -5, 78: 4, 94: -3, 112: 3, 130: -1.5, 144: 0})
    rig.keys("Barge", "turn.z", {0: 0, 20: -1.1, 48: 0.8, 84: -0.6, 112: 0.4, 144: 0})
    rig.keys("Barge", "move.y", {0: 0, 24: -5, 60: -3, 120: -5, 144: 0})
    rig.keys("Swell", "move.x", {0: 0, 72: -14, 144: 0})
    rig.lock(("Sky", "Sun", "Far hills", "Near hills", "Water", "Quay", "Swell"))
    rig.put_on_shelf(library)
