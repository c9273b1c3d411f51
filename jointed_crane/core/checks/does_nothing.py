"""A constraint or a lever that does nothing."""

from __future__ import annotations

from collections.abc import Iterator

from jointed_crane.core.checks.finding import Finding, Rig
from jointed_crane.core.constraints.constraint import Constraint
from jointed_crane.core.edits.constraints.constraining import RemoveConstraint
from jointed_crane.core.hierarchy.chains import chains_of, whole_chain
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.shapes.paths import contour_count

NAME = "Does nothing"


def find(rig: Rig) -> Iterator[Finding]:
    """Chains without joints, paths without contours, and levers that drive nothing."""
    driving = {link.source for part in rig.scene.parts for link in part.links}
    idle = {of for of, joints in chains_of(rig.scene.parts).items() if not joints}
    for part in rig.scene.parts:
        for one in part.constraints:
            why = _why(rig.scene, part, one, (part.id, one.id) in idle) if one.is_on else None
            if why:
                mend = () if part.locked else (RemoveConstraint(part.id, one.id),)
                yield Finding(NAME, part.id, f"{one.name} of {part.name} does nothing: {why}.", mend=mend)
        if part.lever is not None and part.id not in driving:
            yield Finding(
                NAME, part.id, f"The lever {part.name} drives nothing yet; teach it, or link a channel to it."
            )


def _why(scene: Scene, part: Part, one: Constraint, is_idle: bool) -> str | None:
    if is_idle:
        joints = whole_chain({other.id: other for other in scene.parts}, part, one)
        return f"{scene.part(joints[-1]).name} turns for another" if joints else "no part above it can turn for it"
    for path_id, number in one.contours():
        path = scene.part(path_id)
        if number >= contour_count(path):
            return f"{path.name} has {contour_count(path)} contours"
    return None
