"""Edges of panels that nearly meet in space: a box that is not quite closed."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import shapely

from jointed_crane.core.checks.finding import Finding, Floats, Rig
from jointed_crane.core.measures.snapping import panel_corners
from jointed_crane.core.model.scene import Part
from jointed_crane.core.viewing.projection import in_space

NAME = "Edge open"
#: Gaps below this are not seen, and those above are no gaps of one edge, px.
SMALLEST, LARGEST_GAP = 0.05, 8.0
#: Edges whose lengths differ by more than this share were never meant to meet.
_ALIKE = 0.02
#: Panels that are looked at; of more of them all pairs would take too long.
MOST_PANELS = 300


def find(rig: Rig) -> Iterator[Finding]:
    """Panels that hang on each other, or on the same part, with edges of one length that nearly lie together at
    rest; what lies on the face or the back of what it hangs on has no edges of its own.
    """
    if not rig.scene.depth:
        return
    panels = [part for part in rig.pictured() if panel_corners(part) is not None][:MOST_PANELS]
    edges = {part.id: _edges(rig, part) for part in panels}
    panels = [part for part in panels if part.parent not in edges or not _lies_on(edges[part.id], edges[part.parent])]
    for place, part in enumerate(panels):
        gaps = [
            (gap, other)
            for other in panels[:place]
            if _belong_together(part, other) and (gap := _gap(edges[part.id], edges[other.id])) is not None
        ]
        for gap, other in sorted(gaps, key=lambda found: -found[0])[:1]:
            sentence = f"An edge of {part.name} lies {gap:.2f} px off one of {other.name} that is as long."
            yield Finding(NAME, part.id, sentence, gap, "px")


def _belong_together(part: Part, other: Part) -> bool:
    hang_together = part.parent is not None and part.parent == other.parent
    return hang_together or part.parent == other.id or other.parent == part.id


def _edges(rig: Rig, part: Part) -> Floats:
    """The edges of a panel in space at rest, shape (edges, 2, 3)."""
    ring = panel_corners(part)
    assert ring is not None
    corners = in_space(rig.rest.world_of(part.id), ring)
    return np.stack([corners, np.roll(corners, -1, axis=0)], axis=1)


def _lies_on(own: Floats, other: Floats) -> bool:
    """Whether a panel lies on another one like a label: in a plane beside that of the other, no farther off than gaps
    are, and its middle within.
    """
    corners, middle = other[:, 0], own[:, 0].mean(axis=0)
    _, _, (along, across, normal) = np.linalg.svd(corners - corners.mean(axis=0))
    if np.abs((own[:, 0] - corners[0]) @ normal).max() > LARGEST_GAP:
        return False
    plane = np.stack([along, across], axis=1)
    return bool(shapely.Polygon(corners @ plane).contains(shapely.Point(middle @ plane)))


def _gap(own: Floats, others: Floats) -> float | None:
    """How far apart the nearest two edges of one length lie, px; None where they meet or were never meant to."""
    lengths, its_lengths = (np.linalg.norm(each[:, 1] - each[:, 0], axis=-1) for each in (own, others))
    longest = np.maximum(lengths[:, None], its_lengths)
    alike = np.abs(lengths[:, None] - its_lengths) <= _ALIKE * longest
    alike &= longest > 2 * LARGEST_GAP
    away = np.minimum(*(
        np.linalg.norm(own[:, None] - ends, axis=-1).max(axis=-1) for ends in (others[None], others[None, :, ::-1])
    ))  # fmt: skip
    away = np.where(alike, away, np.inf)
    nearest = float(away.min(initial=np.inf))
    return nearest if SMALLEST < nearest <= LARGEST_GAP else None
