"""What a constraint is: a frozen value that declares what it refers to and asks for, and acts on parts as they lie.

A kind is a module of this folder with one class. Its fields say what they are by the functions below (`goal_field`,
`point_field`, ...), its numbers stand in `NUMBERS`; what copies, mirrors, documents, packing and pages do with it
follows from that. What is kind by kind are its methods: `there`, where it lays its part; `on_the_spot`, the numbers
with which nothing moves when it sets in; `fault`, what it refuses.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import MISSING, dataclass, field, fields, replace
from functools import cache
from types import MappingProxyType
from typing import Any, ClassVar, Literal, Protocol, TypeVar

import numpy as np
import numpy.typing as npt

from jointed_crane.core.constraints.placements import PlacedParts
from jointed_crane.core.geometry.arc_length import Way
from jointed_crane.core.geometry.coordinates import Bounds, Ring, Vector
from jointed_crane.core.geometry.fields import Column

Floats = npt.NDArray[np.float64]
#: Where a goal lies: a part's pivot, the centre of its art, an eyelet or a point of the art, or a mark.
GoalPlace = Literal["pivot", "centre", "eyelet", "point", "mark"]
#: Where a helper is put that is to be a goal: so many px from the part's pivot along its own x, at an end of its art,
#: or below it.
GoalSpot = float | Literal["first end", "second end", "lowest"]
Self = TypeVar("Self", bound="Constraint")

#: The end of a number that is open.
ANY = 1e9


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


@dataclass(frozen=True)
class Number:
    """A number of constraints, keyed like any other channel; one name means one thing, whatever the kind.

    Attributes
    ----------
    mirror : the axes along which a mirror changes the sign of the value where limbs are drawn for two sides, each in
        their own plane: "xy" of a turn in it
    ends : lowest and highest value that means something; None is without end
    is_row : whether there is one for each goal, counted from 1 behind the name
    goals : of how many goals, fewest and most, a constraint has it; None is of any
    is_on_stage : whether it is a direction on the stage, which a mirror takes from twice that of its axis
    is_deep : whether a value other than neutral takes the part out of the plane of the stage
    """

    name: str
    label: str
    neutral: float = 0.0
    unit: str = ""
    mirror: str = ""
    ends: tuple[float, float] | None = None
    is_row: bool = False
    goals: tuple[int, int] | None = None
    is_on_stage: bool = False
    is_deep: bool = False


WEIGHT = Number("weight", "Weight", 1.0, ends=(0.0, 1.0))


class Change(Protocol):
    """What takes hold of a constraint's part from a frame on."""

    @property
    def frame(self) -> float:
        """From when on."""


class Body(Protocol):
    """A part as constraints know it."""

    @property
    def pivot(self) -> Vector:
        """Px in art space."""

    @property
    def centre(self) -> Vector:
        """What it spins about, px in art space."""

    @property
    def bounds(self) -> Bounds | None:
        """Of its picture at rest, px in art space."""

    @property
    def outline(self) -> tuple[Ring, ...]:
        """Of its picture at rest, px in art space."""


class Given(Protocol):
    """What constraints that act together have to go by, over parts and frames."""

    @property
    def constraints(self) -> tuple[Any, ...]:
        """They themselves, each acting on the part of its place; what `is_each` of them may differ."""

    @property
    def numbers(self) -> Mapping[str, Floats]:
        """By their names, each of shape (parts, frames) or (parts, 1)."""

    @property
    def art(self) -> tuple[Column, ...]:
        """The vectors that `art` names, the first ones of all parts together, the second ones and so on."""

    @property
    def points(self) -> Sequence[Floats]:
        """Where the first goals lie, the second ones and so on, px on the stage, shape (2, parts, frames) each."""

    @property
    def places(self) -> Sequence[Floats] | None:
        """The same in space, shape (3, parts, frames) each; None where nothing leaves the plane of the stage."""

    @property
    def frame_count(self) -> int:
        """How many frames there are."""

    @property
    def stands(self) -> bool:
        """Whether any of the parts stands on another point than its pivot at some frame."""

    def linears(self, number: int) -> Floats:
        """The linear parts of what has the goals of this number, shape (3, 3, parts, frames) where there are `places`,
        else (2, 2, parts, frames).
        """

    def whole_turns(self, number: int) -> Floats:
        """How far what has these goals has turned as it is shown, whole turns included, radians, shape (parts,
        frames).
        """

    def way(self, part_id: str, contour: int) -> tuple[Way, bool] | None:
        """A contour of a part's picture as it lies at every frame, in space where `places` are, and whether it is
        closed.
        """

    def outline(self, place: int) -> tuple[Floats, Floats] | None:
        """The corners of what the part of a place shows at each frame, px in art space, shape (frames, corners, 2), no
        numbers beyond its end, and how far a round line reaches beyond them, shape (frames,); None where it shows the
        same throughout.
        """

    def column(self, frame: float) -> int:
        """The place of a frame among the frames; those of all changes are there."""

    def lies(self, part_id: str) -> tuple[Floats, Floats]:
        """Where a part lies: linear parts, shape (frames, 3, 3), and origins, shape (frames, 3), px."""


class Spot(Protocol):
    """A part, and what it is to be placed from, as one state shows them."""

    @property
    def pivot(self) -> Floats:
        """Where it turns about, px on the stage, shape (3,)."""

    @property
    def linear(self) -> Floats:
        """Its linear part on the stage, shape (3, 3)."""

    def goal(self, goal: Goal) -> tuple[Floats, Floats]:
        """Where a goal lies, px on the stage, shape (3,), and the linear part of what has it, shape (3, 3)."""

    def way(self, part_id: str, contour: int) -> Way:
        """A contour as it lies on the stage; RuleError where there is none."""

    def name_of(self, part_id: str | None) -> str:
        """The name of a part."""


def goal_field(*words: str, default: Any = MISSING, spots: tuple[GoalSpot, ...] = ()) -> Any:
    """A goal, or a row of them; `words` say on a page what each of them is to the part, and `spots` where helpers that
    are made to be goals are put, so that nothing moves.
    """
    return _declared("goal", default, words=words, spots=spots)


def point_field(
    *words: str,
    label: str,
    default: Any = MISSING,
    others: Mapping[str, Any] | None = None,
    has_pivot: bool = True,
    deep: tuple[str, ...] = (),
    camera: str | None = None,
) -> Any:
    """A point of the part's own art, or a row of them; `others` are values by words that are no points, of which those
    in `deep` are offered where there is depth alone, and cameras begin with `camera`. The label says the whole of it to
    those who hear it, with the constraint's {name} and, in a row, the {number}.
    """
    more = {"others": dict(others or {}), "has_pivot": has_pivot, "deep": deep, "camera": camera}
    return _declared("point", default, words=words, label=label, **more)


def choice_field(words: str, default: bool, is_first: bool = False, is_deep: bool = False) -> Any:
    """Whether something is taken over; what `is_first` is asked before all else, what is deep where there is depth
    alone.
    """
    return _declared("choice", default, words=(words,), is_first=is_first, is_deep=is_deep)


def side_field(words: str, default: int = 1) -> Any:
    """A side, 1 or -1, which a mirror exchanges; `words` say what turning to the other one is."""
    return _declared("side", default, words=(words,))


def count_field(words: str, least: int, most: int, default: int, label: str, first: int = 0) -> Any:
    """A whole number; people count it from `first` more than it is stored. The label is as for a point."""
    return _declared("count", default, words=(words,), label=label, least=least, most=most, first=first)


def bends_field(default: Any = MISSING) -> Any:
    """The bends of a pose that its joints had, degrees."""
    return _declared("bends", default)


def changes_field(default: Any = MISSING) -> Any:
    """A row of what takes hold from frames on."""
    return _declared("change", default)


def _declared(role: str, default: Any, **more: Any) -> Any:
    declared = {"role": role, "is_needed": default is MISSING, **more}
    return field(metadata=declared) if default is MISSING else field(default=default, metadata=declared)


@cache
def _names_of(kind: Any, role: str) -> tuple[str, ...]:
    """The fields of a kind that are declared so."""
    return tuple(each.name for each in fields(kind) if each.metadata.get("role") == role)


@dataclass(frozen=True, kw_only=True)
class Constraint:
    """What all constraints have: an id of their own on their part, a name, and whether they act."""

    #: The numbers of the kind besides its weight.
    NUMBERS: ClassVar[tuple[Number, ...]] = ()
    #: What a command says that gives a part one; empty where other commands do.
    ACT: ClassVar[str] = ""
    #: What it needs where no goal was picked, and none can be made.
    NEEDS: ClassVar[str] = "a goal: pick one first, then the part"
    #: What is said of its part where a goal is deleted.
    WITHOUT: ClassVar[str] = ""
    #: What may differ among constraints that act together; all else is one for all of them.
    EACH: ClassVar[frozenset[str]] = frozenset()
    #: Whether it has a say in where its part's pivot lies.
    MOVES: ClassVar[bool] = True
    #: Its numbers that bring its part's "place", "turn" and "size" where an edit wants them.
    BACK: ClassVar[Mapping[str, tuple[str, ...]]] = MappingProxyType({})
    #: Whether it takes its part along from wherever that lies, instead of putting it somewhere.
    TAKES_ALONG: ClassVar[bool] = False
    #: Whether it stops its part at something, and lets it go wherever that does not stand in the way.
    STOPS: ClassVar[bool] = False
    #: Whether goals outside a limb that is copied mirrored are mirrored too: it brings the limb to them.
    MIRRORS_GOALS: ClassVar[bool] = False
    #: Whether its goals are points that something is brought to.
    HAS_POINTS: ClassVar[bool] = True

    id: str
    name: str
    is_on: bool = True

    @classmethod
    def described(cls) -> dict[str, Any]:
        """What it declares, for a page: its fields with their roles and words, its numbers, what a command says."""
        own: Any = cls
        declared = ({"name": each.name, **each.metadata} for each in fields(own) if each.metadata)
        numbers = [{"name": one.name, "is_row": one.is_row, "goals": one.goals} for one in (WEIGHT, *cls.NUMBERS)]
        return {"fields": [*declared], "numbers": numbers, "act": cls.ACT, "needs": cls.NEEDS, "without": cls.WITHOUT}

    @property
    def kind(self) -> str:
        """The name of its kind, by which documents tell it; each kind has it as a field."""
        raise NotImplementedError

    def there(self, placed: PlacedParts, given: Given) -> PlacedParts:
        """Where parts lie that constraints of one manner act on together; this is the first of them."""
        raise NotImplementedError

    def turned(self) -> tuple[int, bool]:
        """How many joints it turns before any of them is placed, instead of placing its part, from that up; and whether
        its part is the first of them.
        """
        return 0, False

    def says_place(self) -> bool:
        """Whether it says where its part's pivot lies, whatever the part's own values say."""
        return not self.TAKES_ALONG and ("place" in self.BACK or bool(self.led(None)))

    @property
    def heading(self) -> int | None:
        """The axis of the stage about which it turns its part, or by which it tells the sides, 0 to 2; None where it
        goes by how its goals and its part lie alone, so that it is the same wherever all of them lie.
        """
        return None

    def back(self, aspect: str) -> tuple[str, ...]:
        """Its numbers that bring the "place", "turn" or "size" of its part as it is."""
        return self.BACK.get(aspect, ())

    def leaves_plane(self) -> bool:
        """Whether it may bring its part out of the plane of the stage where all there is lies in it."""
        return any(goal.point is not None and goal.point[2] for goal in self.every_goal())

    def counts_turns(self) -> bool:
        """Whether the whole turns of its goals have a say in where it puts its part."""
        return False

    def led(self, frame: float | None) -> tuple[Goal, ...]:
        """The goals that a hand moves which drags its part at a frame, or at rest; none where it moves the part."""
        return ()

    def contours(self) -> tuple[tuple[str, int], ...]:
        """The contours of pictures that it goes by, each as the id of a part and its number from 0."""
        return ()

    def art(self, body: Body) -> Sequence[Vector]:
        """What it takes of its part's art as vectors, px in art space."""
        return ()

    def on_the_spot(self, spot: Spot) -> dict[str, float]:
        """The numbers with which nothing moves when it sets in, where numbers can do that."""
        return {}

    def fault(self) -> str | None:
        """What is wrong with it by itself, to be said behind its name and its part's; None where nothing is."""
        return None

    # What follows from the declaration

    def declared(self, role: str) -> tuple[str, ...]:
        """The names of its fields that are declared so."""
        kind: Any = type(self)
        return _names_of(kind, role)

    @property
    def turns_joints(self) -> bool:
        """Whether it turns joints instead of placing its part."""
        return self.turned()[0] > 0

    def needs(self, role: str) -> bool:
        """Whether it is nothing without what one of its fields of this role holds."""
        kind: Any = type(self)
        return any(each.metadata.get("is_needed") for each in fields(kind) if each.metadata.get("role") == role)

    def numbers(self) -> tuple[str, ...]:
        """The names of its numbers."""
        count = len(self.every_goal())
        result = [WEIGHT.name]
        for number in self.NUMBERS:
            if number.goals is None or number.goals[0] <= count <= number.goals[1]:
                result += [f"{number.name}{place + 1}" for place in range(count)] if number.is_row else [number.name]
        return tuple(result)

    def every_goal(self) -> tuple[Goal, ...]:
        """What it refers to."""
        return tuple(_flat(self, "goal", Goal))

    def with_goals(self: Self, changed: Callable[[Goal], Goal]) -> Self:
        """It with each of its goals changed."""
        return _with_each(self, "goal", Goal, changed)

    def with_parts(self: Self, ids: Mapping[str, str]) -> Self:
        """It referring to copies of parts instead of the originals; what was not copied stays."""
        return self.with_goals(lambda goal: replace(goal, part=ids.get(goal.part or "", goal.part)))

    def loses(self, is_lost: Callable[[Goal], bool]) -> bool:
        """Whether it refers to something that is lost."""
        return any(map(is_lost, self.every_goal()))

    def without(self, is_lost: Callable[[Goal], bool]) -> Constraint | None:
        """What is left of it without goals that are lost; it needs all of them, where a kind does not say otherwise."""
        return None if self.loses(is_lost) else self

    def own_points(self) -> list[Vector]:
        """The points of its part's art that it names, px in art space."""
        return list(_flat(self, "point", tuple))

    def with_points(self: Self, moved: Callable[[Vector], Vector]) -> Self:
        """It on a part whose art lies elsewhere in its space: its own points moved along."""
        return _with_each(self, "point", tuple, moved)

    def mirrored(self: Self) -> Self:
        """It on a mirrored copy, with its sides exchanged."""
        sides: Any = {name: -getattr(self, name) for name in self.declared("side")}
        return replace(self, **sides)

    def every_change(self) -> tuple[Any, ...]:
        """What takes hold of its part from a frame on, in order."""
        return tuple(change for name in self.declared("change") for change in getattr(self, name))

    def changing_by(self: Self, changes: Iterable[Change]) -> Self:
        """It with other changes; they are put in order, and of two on one frame the later in the row stays."""
        by_frame = {change.frame: change for change in changes}
        result: Any = tuple(by_frame[frame] for frame in sorted(by_frame))
        return replace(self, **dict.fromkeys(self.declared("change"), result))

    def unchanged(self) -> Any:
        """What holds before its first change, as a change."""
        return None

    def sensible(self: Self, changes: Sequence[Any]) -> list[Any]:
        """Changes in order without those that change nothing."""
        result, last = [], replace(self.unchanged(), frame=0.0) if self.unchanged() is not None else None
        for change in changes:
            if last is None or replace(change, frame=0.0) != last:
                result.append(change)
            last = replace(change, frame=0.0)
        return result

    def moments(self) -> tuple[float, ...]:
        """The frames that have a say in where it puts its part at later ones."""
        return tuple(change.frame for change in self.every_change())

    def retimed(self: Self, later: Callable[[float], float]) -> Self:
        """It with all that changes on other frames."""
        return self.changing_by(replace(one, frame=later(one.frame)) for one in self.every_change())

    def resting(self: Self) -> Self:
        """It in Rest, where there are no frames: nothing changes."""
        return self.changing_by(())

    def manner(self) -> tuple[Any, ...]:
        """What those that act together have in common: the kind, how many goals, and every choice."""
        kind: Any = type(self)
        count = len(self.every_goal()) if self.HAS_POINTS else 0
        return (self.kind, count, *(getattr(self, name) for name in _shared(kind)))


@cache
def _shared(kind: Any) -> tuple[str, ...]:
    apart = {"id", "name", "is_on"} | kind.EACH
    return tuple(
        each.name
        for each in fields(kind)
        if each.name not in apart and each.metadata.get("role") not in ("goal", "point", "change")
    )


def _flat(constraint: Constraint, role: str, kind: type) -> Iterable[Any]:
    """The values of the fields of a role, rows of them one by one; what is no such value is passed over."""
    for name in constraint.declared(role):
        value = getattr(constraint, name)
        if isinstance(value, tuple) and value and isinstance(value[0], kind):
            yield from value
        elif isinstance(value, kind):
            yield value


def _with_each(constraint: Self, role: str, kind: type, changed: Callable[[Any], Any]) -> Self:
    made: dict[str, Any] = {}
    for name in constraint.declared(role):
        value = getattr(constraint, name)
        if isinstance(value, tuple) and value and isinstance(value[0], kind):
            made[name] = tuple(map(changed, value))
        elif isinstance(value, kind):
            made[name] = changed(value)
    return replace(constraint, **made) if made else constraint


def of_kind(constraints: Iterable[Constraint], kind: type[Self]) -> list[Self]:
    """Those of one kind, for what asks for its own fields."""
    return [one for one in constraints if isinstance(one, kind)]


def number_channel(constraint_id: str, number: str) -> str:
    """The channel of a number of a constraint."""
    return f"constraint.{constraint_id}.{number}"


def number_channels(constraints: Iterable[Constraint]) -> tuple[str, ...]:
    """The channels of all numbers of constraints."""
    return tuple(number_channel(one.id, number) for one in constraints for number in one.numbers())
