"""Puts the demo scenes on a shelf that does not hold them yet."""

from __future__ import annotations

from heron_lock import bridge_market, dock_crane, heron, lantern, lighthouse, lock_gates, parcel, quay_crate
from jointed_crane.store.library import Library

#: Made in this order, so that the last one stands first on the shelf.
DEMO_SCENES = (parcel, lighthouse, bridge_market, quay_crate, lock_gates, lantern, dock_crane, heron)


def build_demo(library: Library) -> list[str]:
    """Make each demo scene that is not on the shelf; returns the names of those made."""
    made = []
    for scene in DEMO_SCENES:
        if library.shelf.find(scene.NAME) is None:
            scene.build(library)
            made.append(scene.NAME)
    return made
