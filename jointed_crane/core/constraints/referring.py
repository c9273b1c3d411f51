"""What becomes of constraints when what they refer to is taken away, copied or mirrored."""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping
from dataclasses import replace
from typing import Any, TypeVar

from jointed_crane.core.geometry.coordinates import Vector
from jointed_crane.core.model.constraints import (
    Between,
    Carry,
    Constraint,
    Goal,
    Hold,
    PointAt,
    Reach,
    Span,
    StayAbove,
    goals_of,
)

Kind = TypeVar("Kind", bound=Constraint)


def with_goals(constraint: Kind, changed: Callable[[Goal], Goal]) -> Kind:
    """The constraint with each of its goals changed."""
    found: Any = constraint
    if isinstance(constraint, Between):
        found = replace(constraint, goals=tuple(map(changed, constraint.goals)))
    elif isinstance(constraint, Span):
        found = replace(constraint, first=changed(constraint.first), second=changed(constraint.second))
    elif isinstance(constraint, StayAbove):
        towards = constraint.towards and changed(constraint.towards)
        found = replace(constraint, line=changed(constraint.line), towards=towards)
    elif isinstance(constraint, Carry):
        parts = (hold.part and changed(Goal(part=hold.part)).part for hold in constraint.holds)
        found = replace(
            constraint, holds=tuple(Hold(hold.frame, part) for hold, part in zip(constraint.holds, parts, strict=True))
        )
    else:
        found = replace(constraint, goal=changed(constraint.goal))
    kept: Kind = found
    return kept


def with_parts(constraint: Kind, ids: Mapping[str, str]) -> Kind:
    """The constraint referring to copies of parts instead of the originals; what was not copied stays."""
    return with_goals(constraint, lambda goal: replace(goal, part=ids.get(goal.part or "", goal.part)))


def with_points(constraint: Kind, moved: Callable[[Vector], Vector]) -> Kind:
    """The constraint of a part whose art lies elsewhere in its space: its own points of the art moved along."""
    found: Any = constraint
    if isinstance(constraint, PointAt) and not isinstance(constraint.along, str):
        found = replace(constraint, along=moved(constraint.along))
    elif isinstance(constraint, Reach) and constraint.tip is not None:
        found = replace(constraint, tip=moved(constraint.tip))
    elif isinstance(constraint, Span):
        found = replace(constraint, points=(moved(constraint.points[0]), moved(constraint.points[1])))
    elif isinstance(constraint, StayAbove) and constraint.point is not None:
        found = replace(constraint, point=moved(constraint.point))
    kept: Kind = found
    return kept


def own_points(constraint: Constraint) -> list[Vector]:
    """The points of its part's art that a constraint names, px in art space."""
    found: list[Vector] = []

    def noted(point: Vector) -> Vector:
        found.append(point)
        return point

    with_points(constraint, noted)
    return found


def loses_goal(constraint: Constraint, is_lost: Callable[[Goal], bool]) -> bool:
    """Whether a constraint refers to something that is lost."""
    return any(map(is_lost, goals_of(constraint)))


def without_goals(constraint: Constraint, is_lost: Callable[[Goal], bool]) -> Constraint | None:
    """What is left of a constraint without goals that are lost: a part that nobody carries any more stays where it was
    put down; others need all their goals.
    """
    if not loses_goal(constraint, is_lost):
        return constraint
    if not isinstance(constraint, Carry):
        return None
    lost = [hold.part is not None and is_lost(Goal(part=hold.part)) for hold in constraint.holds]
    holds = tuple(
        replace(hold, part=None if gone else hold.part) for hold, gone in zip(constraint.holds, lost, strict=True)
    )
    return replace(constraint, holds=holds) if any(hold.part for hold in holds) else None


def mirrored(constraint: Kind, copied: Collection[str]) -> Kind:
    """The constraint of a mirrored copy, with its sides swapped: that on which a chain bends, and that of a line which
    was mirrored too.
    """
    found: Any = constraint
    if isinstance(constraint, Reach):
        found = replace(constraint, bends=-constraint.bends)
    elif isinstance(constraint, StayAbove) and constraint.line.part in copied:
        found = replace(constraint, side=-constraint.side)
    kept: Kind = found
    return kept
