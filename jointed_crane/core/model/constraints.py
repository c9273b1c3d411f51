"""What constraints are: frozen values. Their numbers are channels of the part, named by `number_channel`."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from typing import Any, Literal

from jointed_crane.core.geometry.coordinates import Vector

#: Where a goal lies: a part's pivot, the centre of its art, an eyelet or a point of the art, or a mark.
GoalPlace = Literal["pivot", "centre", "eyelet", "point", "mark"]

#: More goals than this make no better mean.
MOST_GOALS = 64
#: The longest chain that reaches.
MOST_JOINTS = 32
#: Carriers of one part one after the other, and changes of one chain between turning and reaching.
MOST_CHANGES = 500


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


@dataclass(frozen=True)
class Change:
    """From `frame` on a chain reaches, or hands turn its joints, each from the pose that it has come to."""

    frame: float
    to: Literal["reach", "turn"]


@dataclass(frozen=True, kw_only=True)
class Reach(Rule):
    """Joints above the part turn so that its pivot comes to a goal, or a point of its art, its own joint included.

    Attributes
    ----------
    joints : how many joints turn, the nearest first
    bends : on which side of the line from the first joint to the goal two bones bend: 1 is clockwise on the screen
    tip : px in art space; None is the pivot, which turns nothing by itself
    keeps_turn : whether the part lies on the stage as it would without reaching, like a foot that stays flat
    keeps_area : whether bones that stretch become thinner
    changes : frames from which hands turn the joints, or the chain reaches again; the pose never jumps at one
    """

    goal: Goal
    joints: int = 2
    bends: Literal[-1, 1] = 1
    tip: Vector | None = None
    keeps_turn: bool = False
    keeps_area: bool = False
    changes: tuple[Change, ...] = ()
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


@dataclass(frozen=True, kw_only=True)
class AlongPath(Rule):
    """The pivot runs along a path: that of a pen, an ellipse, or the outline of a part, evenly by its length on the
    stage. Closed paths run round, open ones end.

    Attributes
    ----------
    goal : the pivot of the part whose picture is the path
    contour : which of its contours or outlines, counted from 0
    turns : whether the part turns with the path
    """

    goal: Goal
    contour: int = 0
    turns: bool = True
    kind: Literal["along a path"] = "along a path"


@dataclass(frozen=True)
class Hold:
    """From `frame` on a part is carried by another, by its id, or by none."""

    frame: float
    part: str | None


@dataclass(frozen=True, kw_only=True)
class Carry(Rule):
    """One part after the other takes the part along, each from where it lies when it is taken."""

    holds: tuple[Hold, ...]
    kind: Literal["carry"] = "carry"


Constraint = Between | PointAt | Follow | Carry | Reach | Span | AlongPath | StayAbove

#: The numbers of each kind besides its weight and the weights of goals.
NUMBERS: dict[str, tuple[str, ...]] = {
    "reach": ("soft", "stretch"),
    "point at": ("offset",),
    "follow": ("x", "y", "turn", "scalex", "scaley"),
    "carry": (),
    "between": (),
    "span": ("area", "shortest", "longest", "thinnest", "thickest", "yields"),
    "along a path": ("along", "ahead", "beside", "turn"),
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
    if isinstance(constraint, Carry):
        return tuple(Goal(part=hold.part) for hold in constraint.holds if hold.part is not None)
    return (constraint.goal,)


def changes_of(constraint: Constraint) -> tuple[Hold, ...] | tuple[Change, ...]:
    """What takes hold of a constraint's part from a frame on, in order."""
    if isinstance(constraint, Carry):
        return constraint.holds
    return constraint.changes if isinstance(constraint, Reach) else ()


def changing_by(constraint: Constraint, changes: Iterable[Hold | Change]) -> Constraint:
    """The constraint with other changes; they are put in order, and of two on one frame the later in the row stays."""
    by_frame = {change.frame: change for change in changes}
    found: Any = tuple(by_frame[frame] for frame in sorted(by_frame))
    if isinstance(constraint, Carry):
        return replace(constraint, holds=found)
    return replace(constraint, changes=found) if isinstance(constraint, Reach) else constraint


def moments_of(constraint: Constraint) -> tuple[float, ...]:
    """The frames that have a say in where a constraint puts its part at later ones."""
    return tuple(change.frame for change in changes_of(constraint))


def retimed(constraint: Constraint, later: Callable[[float], float]) -> Constraint:
    """The constraint with all that changes hands on other frames."""
    return changing_by(constraint, (replace(one, frame=later(one.frame)) for one in changes_of(constraint)))


def resting(constraint: Constraint) -> Constraint:
    """The constraint in Rest, where there are no frames: nothing changes hands."""
    return changing_by(constraint, ())


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
