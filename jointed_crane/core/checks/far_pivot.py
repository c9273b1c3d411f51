"""A pivot far from its art: further from the box than the box is wide and high."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from jointed_crane.core.checks.finding import Finding, Rig

NAME = "Pivot far from its art"


def find(rig: Rig) -> Iterator[Finding]:
    """Parts whose pivot lies further from the box of their art than its diagonal."""
    for part in rig.pictured():
        assert part.bounds is not None
        left, top, right, bottom = part.bounds
        x, y = part.pivot[:2]
        away = float(np.hypot(max(left - x, 0.0, x - right), max(top - y, 0.0, y - bottom)))
        if away > np.hypot(right - left, bottom - top):
            yield Finding(NAME, part.id, f"The pivot of {part.name} lies {away:.0f} px away from its art.", away, "px")
