"""A scaled helper: everything on it takes over the scale."""

from __future__ import annotations

from collections.abc import Iterator

from jointed_crane.core.basics.wording import counted
from jointed_crane.core.checks.finding import Finding, Rig
from jointed_crane.core.edits.joints.helpers import UnscaleHelper
from jointed_crane.core.model.channels import MOVE, SCALE, SLIDE, family_of

NAME = "Helper scaled"


def find(rig: Rig) -> Iterator[Finding]:
    """Helpers with children whose scale at rest is not 1."""
    for part in rig.scene.parts:
        if part.kind != "helper" or part.id not in rig.scene.children:
            continue
        x, y = part.rest_value("scale.x"), part.rest_value("scale.y")
        if x == 1 and y == 1:
            continue
        count = counted(len(rig.scene.children[part.id]), "part")
        sentence = f"{part.name} is a helper scaled to {x:.3g} × {y:.3g}, which scales {count} on it too."
        # Moves of the children are measured in the helper, so only without keys does nothing move at any frame.
        moves = {name for child in rig.scene.children[part.id] for name in child.channels}
        is_safe = not any(family_of(name) in (MOVE, SLIDE) for name in moves) and not part.locked
        is_safe = is_safe and not any(family_of(name) is SCALE for name in part.channels)
        is_safe = is_safe and not any(child.locked for child in rig.scene.children[part.id])
        yield Finding(NAME, part.id, sentence, x / y if y else x, "", (UnscaleHelper(part.id),) if is_safe else ())
