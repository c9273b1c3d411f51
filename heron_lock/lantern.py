"""Lantern, handed over: the lock keeper reaches across to a barge that rocks, and the skipper takes the lantern."""

from __future__ import annotations

from heron_lock.rigging import started
from jointed_crane.store.library import Library

NAME = "Lantern, handed over"

PIVOTS = {
    "Keeper body": (430, 456),
    "Keeper head": (430, 284),
    "Keeper upper arm": (446, 318),
    "Keeper forearm": (488, 392),
    "Keeper hand": (560, 356),
    "Skipper body": (860, 486),
    "Skipper head": (860, 310),
    "Skipper upper arm": (844, 344),
    "Skipper forearm": (800, 420),
    "Skipper hand": (738, 366),
    "Skipper legs": (860, 578),
    "Cabin": (1056, 580),
    "Hull": (920, 640),
    "Lantern": (582, 362),
    "Rope": (583, 538),
    "Sun": (1080, 176),
}
PARENTS = {
    "Keeper head": "Keeper body",
    "Keeper upper arm": "Keeper body",
    "Keeper forearm": "Keeper upper arm",
    "Keeper hand": "Keeper forearm",
    "Skipper legs": "Hull",
    "Cabin": "Hull",
    "Skipper body": "Skipper legs",
    "Skipper head": "Skipper body",
    "Skipper upper arm": "Skipper body",
    "Skipper forearm": "Skipper upper arm",
    "Skipper hand": "Skipper forearm",
}


def build(library: Library) -> None:
    """Make the scene in a library."""
    rig = started("lantern.svg", NAME, 144)
    rig.pivots(PIVOTS)
    rig.joints(PARENTS)
    for name in ("Keeper", "Skipper"):
        rig.silence(f"{name} upper arm", "Round ends differ")  # a shoulder in a wide coat
        rig.silence(f"{name} hand", "Round ends differ")
    # The barge rocks on the water, and what stands on it goes along.
    rig.sway("Hull", "turn.z", 1.4, 72)
    rig.sway("Hull", "move.y", 4, 48, 0.2)
    # Both arms reach for a goal of their own, which leans with the body.
    keeper = rig.reach("Keeper hand")
    skipper = rig.reach("Skipper hand")
    rig.keys(keeper, "move.x", {0: 0, 12: 0, 44: 34, 64: 34, 92: -16, 116: -44, 143: 0})
    rig.keys(keeper, "move.y", {0: 0, 12: 0, 44: -37, 64: -37, 92: 40, 116: 74, 143: 0})
    rig.keys(skipper, "move.x", {0: 0, 20: 0, 50: -50, 64: -50, 104: 26, 143: 0})
    rig.keys(skipper, "move.y", {0: 0, 20: 0, 50: -33, 64: -33, 104: -30, 143: 0})
    rig.keys("Keeper body", "turn.z", {0: 0, 12: 0, 44: 13, 64: 13, 100: -2, 143: 0})
    rig.keys("Keeper head", "turn.z", {0: 0, 30: -5, 64: -8, 110: 4, 143: 0})
    rig.keys("Skipper body", "turn.z", {0: 0, 20: 0, 50: -9, 64: -9, 104: 3, 143: 0})
    rig.keys("Skipper head", "turn.z", {0: 0, 40: 4, 70: 8, 110: -2, 143: 0})
    # The lantern goes with the keeper's hand, then with the skipper's, and jumps at neither frame.
    rig.grip("Keeper hand", (582, 362))
    rig.grip("Skipper hand", (720, 372))
    rig.carry("Lantern", {0: "Keeper grip", 58: "Skipper grip"})
    rig.sway("Lantern", "turn.z", 4, 36)
    # The rope is held between bollard and hull, stretches a little, and gives way at the hull.
    rig.span("Rope", ("Bollard", (583, 538)), ("Hull", (691, 578)))
    rig.lock(("Sky", "Sun", "Far hills", "Near hills", "Water", "Quay", "Keeper legs"))
    rig.put_on_shelf(library)
