"""Quay, a crate goes over: a crate tumbles along the quay and sends a barrel rolling."""

from __future__ import annotations

from heron_lock.rigging import started
from jointed_crane.store.library import Library

NAME = "Quay, a crate goes over"

PIVOTS = {"Crate": (245, 518), "Barrel": (930, 518), "Lantern": (520, 378), "Sun": (1010, 146)}


def build(library: Library) -> None:
    """Make the scene in a library."""
    rig = started("quay-crate.svg", NAME, 144)
    rig.pivots(PIVOTS)
    rig.joints({"Lantern": "Bracket"})
    rig.silence("Lantern", "Round ends differ")
    # Over five corners, each reached a little faster than the one before; the barrel takes the last push.
    rig.roll("Crate", 8, 68, 5)
    rig.roll("Barrel", 66, 126, 48)
    rig.sway("Lantern", "turn.z", 5, 48)
    rig.lock(("Sky", "Sun", "Far hills", "Water", "Warehouse", "Bracket", "Quay", "Bollard"))
    rig.put_on_shelf(library)
