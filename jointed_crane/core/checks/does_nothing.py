"""A constraint or a lever that does nothing."""

from __future__ import annotations

from collections.abc import Iterator

from jointed_crane.core.checks.finding import Finding, Rig
from jointed_crane.core.constraints.constraint import Constraint
from jointed_crane.core.edits.constraints.constraining import RemoveConstraint
from jointed_crane.core.hierarchy.dependencies import chain_of
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.shapes.paths import contour_count

NAME = "Does nothing"


def find(rig: Rig) -> Iterator[Finding]:
    """Chains without joints, paths without contours, and levers that drive nothing."""
    driving = {link.source for part in rig.scene.parts for link in part.links}
    by_id = {part.id: part for part in rig.scene.parts}
    for part in rig.scene.parts:
        for one in part.constraints:
            why = _why(rig.scene, by_id, part, one) if one.is_on else None
            if why:
                mend = () if part.locked else (RemoveConstraint(part.id, one.id),)
                yield Finding(NAME, part.id, f"{one.name} of {part.name} does nothing: {why}.", mend=mend)
        if part.lever is not None and part.id not in driving:
            yield Finding(
                NAME, part.id, f"The lever {part.name} drives nothing yet; teach it, or link a channel to it."
            )


def _why(scene: Scene, by_id: dict[str, Part], part: Part, one: Constraint) -> str | None:
    if one.turns_joints and not chain_of(by_id, part, one):
        return "no part above it can turn for it"
    for path_id, number in one.contours():
        path = scene.part(path_id)
        if number >= contour_count(path):
            return f"{path.name} has {contour_count(path)} contours"
    return None
