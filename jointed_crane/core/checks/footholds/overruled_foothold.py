"""Footholds that constraints leave no say: the part lies where those put it."""

from __future__ import annotations

from collections.abc import Iterator

from jointed_crane.core.checks.finding import Finding, Rig
from jointed_crane.core.hierarchy.dependencies import dependencies_of

NAME = "Foothold overruled"


def find(rig: Rig) -> Iterator[Finding]:
    """Parts that stand on points while constraints place them, or while a reach turns them about their pivots."""
    companions = dependencies_of(rig.scene).companions
    for part in rig.scene.parts:
        if not part.footholds:
            continue
        placing = [one.name for one in part.constraints if one.is_on and one.says_place() and not one.turns_joints]
        if placing:
            yield Finding(NAME, part.id, f"{placing[-1]} says where {part.name} lies, so its footholds do not hold it.")
        elif part.id in companions:
            yield Finding(
                NAME, part.id, f"A reach turns {part.name} about its pivot, so that its footholds do not hold it."
            )
