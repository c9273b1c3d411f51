"""A parent with unequal scale above a turned child, which skews the child and all that hangs on it."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from jointed_crane.core.checks.finding import Finding, Floats, Rig
from jointed_crane.core.hierarchy.tree import descendants
from jointed_crane.core.model.scene import Part
from jointed_crane.core.viewing.projection import linear_of

NAME = "Skewed by its parent"
#: Skews below this are not seen, degrees.
SMALLEST = 0.5


def find(rig: Rig) -> Iterator[Finding]:
    """Where a skew begins: the uppermost skewed part of each limb, with the worst skew below it and its frame.

    A shear of a part's own is meant, and so is what it does to the parts below.
    """
    every = _skews(rig.film.world)
    skews = {part_id: every[row] for part_id, row in rig.film.index.items()}
    for part in rig.scene.parts:
        if part.parent is None or skews[part.id].max() < SMALLEST or skews[part.parent].max() >= SMALLEST:
            continue
        if _is_sheared(part):
            continue
        limb = [part.id, *(below for below in descendants(rig.scene, part.id) if skews[below].max() >= SMALLEST)]
        worst = max(limb, key=lambda part_id: float(skews[part_id].max()))
        at = int(np.argmax(skews[worst]))
        skew, frame = float(skews[worst][at]), float(rig.film.frames[at])
        who = part.name if len(limb) == 1 else f"{part.name} and {len(limb) - 1} on it"
        most = f"by {skew:.1f}° at frame {frame:.0f}"
        if worst != part.id:
            most = f"{rig.scene.part(worst).name} most, {most}"
        above = rig.scene.part(part.parent).name
        sentence = (
            f"{who} {'is' if len(limb) == 1 else 'are'} skewed, {most}: {above} or a part above it is scaled unequally."
        )
        yield Finding(NAME, part.id, sentence, skew, "deg")


def _skews(world: Floats) -> Floats:
    """How far the axes of parts are from a right angle in space at every frame, degrees, shape (parts, frames)."""
    linear = linear_of(world)
    x, y = linear[..., 0], linear[..., 1]
    sizes = np.linalg.norm(x, axis=-1) * np.linalg.norm(y, axis=-1)
    cosine = np.abs((x * y).sum(axis=-1)) / np.maximum(sizes, 1e-12)
    return np.asarray(np.degrees(np.arcsin(np.clip(cosine, 0, 1))), dtype=np.float64)


def _is_sheared(part: Part) -> bool:
    return bool(part.rest_value("shear.xy")) or "shear.xy" in part.channels
