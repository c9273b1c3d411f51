"""Bridge and market: stalls pop up from the square one after the other, then the bascule bridge opens and closes."""

from __future__ import annotations

from heron_lock.rigging import started
from jointed_crane.store.library import Library

NAME = "Bridge and market"

PIVOTS = {"Left leaf": (356, 486), "Right leaf": (924, 486), "Sun": (640, 170)}
POPPING = (
    "Herb stall", "Left lamp", "Fruit stall", "Sign", "Basket", "Right lamp", "Bread stall", "Fish stall",
)  # fmt: skip


def build(library: Library) -> None:
    """Make the scene in a library."""
    rig = started("bridge-market.svg", NAME, 192)
    rig.pivots(PIVOTS)
    rig.joints({"Left leaf": "Left bridge house", "Right leaf": "Right bridge house"})
    for name in ("Left leaf", "Right leaf"):
        rig.silence(name, "Round ends differ")
    rig.limits({"Left leaf": (-70, 0), "Right leaf": (0, 70)})

    # One stall is keyed, the others take its keys over and follow it.
    rig.pivots_to(POPPING, (0.5, 1.0))
    first, *others = POPPING
    for channel in ("scale.x", "scale.y"):
        rig.keys(first, channel, {6: 0, 20: 1})
        rig.shape(first, channel, 6, "overshoot")
    rig.paste_onto(first, others, 6)
    rig.follow(POPPING, 5)

    rig.keys("Left leaf", "turn.z", {66: 0, 108: -58, 132: -58, 176: 0})
    rig.keys("Right leaf", "turn.z", {70: 0, 112: 58, 136: 58, 180: 0})
    rig.lock(("Sky", "Sun", "Far hills", "Water", "Banks", "Market square"))
    rig.put_on_shelf(library)
