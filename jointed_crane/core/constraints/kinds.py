"""What constraints are: frozen values. Their numbers are channels of the part, named by `number_channel`."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal

Vector = tuple[float, float, float]
#: Where a goal lies: a part's pivot, the centre of its art, an eyelet or a point of the art, or a mark.
GoalPlace = Literal["pivot", "centre", "eyelet", "point", "mark"]

#: More goals than this make no better mean.
MOST_GOALS = 64
#: The longest chain that reaches.
MOST_JOINTS = 32


@dataclass(frozen=True, kw_only=True)
class Goal:
    """What a constraint refers to: a point of a part, or a mark.

    Attributes
    ----------
    at : which point of the part, or "mark"
    part : id of the part; None for a mark
    named : id of the eyelet or the mark
    point : px in the art space of the part, where `at` is "point"
    """

    at: GoalPlace = "pivot"
    part: str | None = None
    named: str | None = None
    point: Vector | None = None


@dataclass(frozen=True, kw_only=True)
class Rule:
    """What all constraints have: an id of their own on their part, a name, and whether they act."""

    id: str
    name: str
    is_on: bool = True


@dataclass(frozen=True, kw_only=True)
class Between(Rule):
    """The pivot lies between two goals at a share, or at the weighted mean of many; if wished turned and scaled alike.

    Turns between go the shortest way, or as the goals have been turned, whole turns included.
    """

    goals: tuple[Goal, ...]
    turns: bool = False
    scales: bool = False
    is_shortest: bool = True
    kind: Literal["between"] = "between"


@dataclass(frozen=True, kw_only=True)
class PointAt(Rule):
    """A direction of the part points at a goal: its own x or y, or from the pivot to a point of its art."""

    goal: Goal
    along: Literal["x", "y"] | Vector = "x"
    kind: Literal["point at"] = "point at"


@dataclass(frozen=True, kw_only=True)
class Follow(Rule):
    """Position, turn and scale of a goal are taken over, each by choice, with the offset that the numbers say."""

    goal: Goal
    position: bool = True
    turns: bool = True
    scales: bool = True
    kind: Literal["follow"] = "follow"


@dataclass(frozen=True, kw_only=True)
class Reach(Rule):
    """Joints above the part turn so that its pivot comes to a goal, or a point of its art, its own joint included.

    Attributes
    ----------
    joints : how many joints turn, the nearest first
    bends : on which side of the line from the first joint to the goal two bones bend: 1 is clockwise on the screen
    tip : px in art space; None is the pivot, which turns nothing by itself
    keeps_turn : whether the part lies on the stage as it would without reaching, like a foot that stays flat
    """

    goal: Goal
    joints: int = 2
    bends: Literal[-1, 1] = 1
    tip: Vector | None = None
    keeps_turn: bool = False
    kind: Literal["reach"] = "reach"


@dataclass(frozen=True, kw_only=True)
class Span(Rule):
    """Two points of the art are held on two goals; what lies between them stretches and squashes, within ranges."""

    first: Goal
    second: Goal
    points: tuple[Vector, Vector]
    kind: Literal["span"] = "span"


@dataclass(frozen=True, kw_only=True)
class StayAbove(Rule):
    """A point of the art, or its whole outline, does not go through a line.

    Attributes
    ----------
    line : a point of the line
    towards : a second point; without one the direction is a number, degrees on the stage
    point : px in art space; None is the whole outline
    side : 1 is above where the line runs to the right on the screen, -1 below it
    """

    line: Goal
    towards: Goal | None = None
    point: Vector | None = None
    side: Literal[-1, 1] = 1
    kind: Literal["stay above"] = "stay above"


Constraint = Between | PointAt | Follow | Reach | Span | StayAbove

#: The numbers of each kind besides its weight and the weights of goals.
NUMBERS: dict[str, tuple[str, ...]] = {
    "between": (),
    "point at": ("offset",),
    "follow": ("x", "y", "turn", "scalex", "scaley"),
    "reach": ("soft",),
    "span": ("area", "shortest", "longest", "thinnest", "thickest", "yields"),
    "stay above": ("direction",),
}


def goals_of(constraint: Constraint) -> tuple[Goal, ...]:
    """What a constraint refers to."""
    if isinstance(constraint, Between):
        return constraint.goals
    if isinstance(constraint, Span):
        return (constraint.first, constraint.second)
    if isinstance(constraint, StayAbove):
        return (constraint.line,) if constraint.towards is None else (constraint.line, constraint.towards)
    return (constraint.goal,)


def numbers_of(constraint: Constraint) -> tuple[str, ...]:
    """The names of a constraint's numbers."""
    own = NUMBERS[constraint.kind]
    if isinstance(constraint, Between):
        count = len(constraint.goals)
        own = ("share",) if count == 2 else tuple(f"goal{number}" for number in range(1, count + 1))
    return ("weight", *own)


def number_channel(constraint_id: str, number: str) -> str:
    """The channel of a number of a constraint."""
    return f"constraint.{constraint_id}.{number}"


def number_channels(constraints: Iterable[Constraint]) -> tuple[str, ...]:
    """The channels of all numbers of constraints."""
    return tuple(number_channel(one.id, number) for one in constraints for number in numbers_of(one))
