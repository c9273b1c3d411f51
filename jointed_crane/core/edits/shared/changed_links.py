"""What becomes of links when what they join is taken away, copied or mirrored, and when points are taught to them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

import numpy as np

from jointed_crane.core.model.levers import CLOSEST_POINTS, Axis, Link


def between_copies(link: Link, ids: Mapping[str, str]) -> Link:
    """The link of a copy: driven by the copy of what drove the original, where that was copied too."""
    return replace(link, source=ids.get(link.source, link.source))


def turned_round(link: Link, source: bool, target: bool) -> Link:
    """The link whose source, or whose target, has changed the sign of its values."""
    if source:
        link = replace(link, amount=-link.amount, points=tuple((-x, y) for x, y in reversed(link.points)))
    if target:
        link = replace(link, amount=-link.amount, points=tuple((x, -y) for x, y in link.points))
    return link


def with_point(link: Link, axis: Axis, at: float, step: float) -> Link:
    """The link as a curve through one more point, where so much more is added than now.

    An amount becomes a curve first, through the ends of the lever's range and its neutral, which all stay where they
    are.
    """
    points = dict(link.points)
    if not points:
        points = {x: link.amount * (x - axis.neutral) for x in (axis.low, axis.neutral, axis.high)}
    now = float(replace(link, points=tuple(sorted(points.items()))).adds(np.array(at), axis.neutral))
    kept = {x: y for x, y in points.items() if abs(x - at) >= CLOSEST_POINTS}
    return replace(link, points=tuple(sorted({**kept, at: now + step}.items())))
