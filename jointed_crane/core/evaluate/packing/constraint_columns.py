"""The constraints of a scene packed for evaluation: which act together, on which rows, and what they refer to."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import numpy.typing as npt

from jointed_crane.core.constraints.constraint import Constraint, Goal, number_channel, of_kind
from jointed_crane.core.constraints.reach import Reach
from jointed_crane.core.evaluate.packing.art_columns import art_of
from jointed_crane.core.geometry.fields import Column, Rows, in_one_piece
from jointed_crane.core.hierarchy.chains import Chains
from jointed_crane.core.model.channels import channel_kind
from jointed_crane.core.model.scene import Part

Floats = npt.NDArray[np.float64]
Places = npt.NDArray[np.intp]


@dataclass(frozen=True, eq=False)
class Together:
    """Constraints of one kind that act together: the rows of their parts, ascending, and the constraints."""

    rows: Places
    constraints: tuple[Constraint, ...]

    @cached_property
    def goals(self) -> tuple[tuple[Goal, ...], ...]:
        """Their first goals, their second ones and so on; carriers are no points that something is brought to."""
        placing = (one.every_goal() if one.HAS_POINTS else () for one in self.constraints)
        return tuple(zip(*placing, strict=True))


@dataclass(frozen=True, eq=False)
class Acting:
    """Parts of a wave that share what acts on them.

    Attributes
    ----------
    count : how many they are
    rows : ascending
    here : the same among those of the wave
    level : those of them at the end of a chain that keep their turn
    groups : the constraints, in the order in which they act, each with the places of its rows among these
    """

    count: int
    rows: Rows
    here: Rows
    level: tuple[int, ...]
    level_at: Places
    groups: tuple[tuple[Rows, Together], ...]


@dataclass(frozen=True)
class Chain:
    """A reach: the row of its part, and those of its joints from the first down."""

    row: int
    reach: Reach
    joints: tuple[int, ...]


@dataclass(frozen=True, eq=False)
class Reaching(Together):
    """Chains of equally many joints that begin in one wave, all of them led through a pose or none.

    Attributes
    ----------
    above : the row that each first joint hangs on, -1 for none
    has_ranges : whether any joint's turn about z has one
    """

    chains: tuple[Chain, ...]
    above: Places
    has_ranges: bool

    @cached_property
    def joints(self) -> Places:
        """The rows of their joints, shape (joints, chains)."""
        return np.array([chain.joints for chain in self.chains]).T

    @cached_property
    def is_apart(self) -> bool:
        """Whether no two of them share a joint."""
        return len(np.unique(self.joints)) == self.joints.size

    @cached_property
    def below(self) -> Places:
        """The rows that hang on each joint, the end on the last, shape (joints, chains)."""
        return np.array([(*chain.joints[1:], chain.row) for chain in self.chains]).T

    @cached_property
    def bends(self) -> Floats:
        """The sides on which they bend, shape (chains, 1)."""
        return np.array([[float(chain.reach.bends)] for chain in self.chains])

    @cached_property
    def through(self) -> Floats:
        """The bends of the poses that their ways lead through, radians towards those sides, shape (joints - 1, chains,
        1); no number where a pose says none.
        """
        result = np.full((len(self.joints) - 1, len(self.chains), 1), np.nan)
        for place, chain in enumerate(self.chains):
            bends = chain.reach.through[-len(result) :] if len(result) else ()
            result[len(result) - len(bends) :, place, 0] = np.deg2rad(bends)
        return result


@dataclass(frozen=True)
class PackedConstraints:
    """All constraints of a scene that act.

    Attributes
    ----------
    reaching : for each wave the chains that begin in it
    acting : for each wave the parts that others act on
    bent : the rows of the joints that chains turn, ascending
    bent_of : for each wave which of those lie in it, and their places among its rows
    """

    reaching: tuple[tuple[Reaching, ...], ...]
    acting: tuple[tuple[Acting, ...], ...]
    bent: Places
    bent_of: tuple[tuple[slice, Rows], ...]

    @cached_property
    def chained(self) -> frozenset[int]:
        """The rows of all joints of chains and of the parts at their ends."""
        chains = [chain for groups in self.reaching for group in groups for chain in group.chains]
        return frozenset(row for chain in chains for row in (*chain.joints, chain.row))


@dataclass(frozen=True)
class Numbered:
    """A number of constraints that act together.

    Attributes
    ----------
    rest : array, shape (constraints, 1)
    names : its row and channel for each of them
    curves : their places with those of their curves, where they have some
    ends : the lowest and the highest value that means something, whatever overshoots; None is without end
    """

    rest: Floats
    names: tuple[tuple[int, str], ...]
    curves: tuple[tuple[int, int], ...]
    ends: tuple[float, float] | None


@dataclass(frozen=True)
class GoalRows:
    """Goals of constraints that act together.

    Attributes
    ----------
    rows : the row of what has each goal; -1 for a mark
    pivots, points, marks : the places of goals of each sort
    own : array, shape (points, 3, 1), px in art space
    on_stage : array, shape (2, marks, 1), px
    """

    rows: Places
    pivots: Places
    points: Places
    marks: Places
    own: Floats
    on_stage: Floats


@dataclass(frozen=True)
class Terms:
    """The numbers of constraints that act together, by name, their first goals, their second ones and so on, and what
    they take of their own parts' art.
    """

    numbers: Mapping[str, Numbered]
    goals: tuple[GoalRows, ...]
    art: tuple[Column, ...]


def packed_constraints(
    parts: Sequence[Part], begun: Sequence[int], row_of: Mapping[str, int], chains_by_end: Chains
) -> PackedConstraints:
    """What acts on parts by their rows; `begun` are the first rows of their waves."""
    reaching = _reaching(parts, begun, row_of, chains_by_end)
    chains = [chain for groups in reaching for group in groups for chain in group.chains]
    level = sorted({chain.row for chain in chains if chain.reach.keeps_turn})
    waves = [range(*ends) for ends in zip(begun, [*begun[1:], len(parts)], strict=True)]
    acting = tuple(_acting(_together(parts, wave), [row for row in level if row in wave], wave.start) for wave in waves)
    bent = np.array(sorted({row for chain in chains for row in chain.joints}), dtype=np.intp)
    bounds = np.searchsorted(bent, [*begun, len(parts)]).tolist()
    spans = tuple(map(slice, bounds, bounds[1:]))
    here = (in_one_piece(bent[span] - wave.start) for span, wave in zip(spans, waves, strict=True))
    return PackedConstraints(reaching, acting, bent, tuple(zip(spans, here, strict=True)))


def packed_terms(
    group: Together,
    parts: Sequence[Part],
    row_of: Mapping[str, int],
    curve_of: Mapping[tuple[int, str], int],
    marks: Mapping[str, tuple[float, float]],
) -> Terms:
    """What constraints that act together refer to, given the curves of channels and the places of marks."""
    numbers = {}
    for name in group.constraints[0].numbers():
        channels = (number_channel(one.id, name) for one in group.constraints)
        names = tuple(zip(group.rows.tolist(), channels, strict=True))
        rest = np.array([[parts[row].rest_value(channel)] for row, channel in names])
        curves = tuple((place, curve_of[pair]) for place, pair in enumerate(names) if pair in curve_of)
        numbers[name] = Numbered(rest, names, curves, channel_kind(names[0][1]).ends)
    goals = tuple(_goal_rows(goals, parts, row_of, marks) for goals in group.goals)
    return Terms(numbers, goals, art_of(group.constraints, [parts[row] for row in group.rows.tolist()]))


def _goal_rows(
    goals: Sequence[Goal],
    parts: Sequence[Part],
    row_of: Mapping[str, int],
    marks: Mapping[str, tuple[float, float]],
) -> GoalRows:
    rows = [-1 if goal.part is None else row_of[goal.part] for goal in goals]
    sorts: dict[str, list[int]] = {"pivot": [], "point": [], "mark": []}
    for place, goal in enumerate(goals):
        sorts["mark" if goal.part is None else "pivot" if goal.at == "pivot" else "point"].append(place)
    own = [parts[rows[place]].point_of(goals[place]) for place in sorts["point"]]
    on_stage = [marks[goals[place].named or ""] for place in sorts["mark"]]
    pivots, points, marked = (np.array(places, dtype=np.intp) for places in sorts.values())
    return GoalRows(
        np.array(rows, dtype=np.intp),
        pivots,
        points,
        marked,
        np.array([point or (0.0, 0.0, 0.0) for point in own]).reshape(-1, 3, 1),  # nothing is taken of what is gone
        np.array(on_stage).reshape(-1, 2).T[..., None],
    )


def _reaching(
    parts: Sequence[Part], begun: Sequence[int], row_of: Mapping[str, int], chains_by_end: Chains
) -> tuple[tuple[Reaching, ...], ...]:
    result: dict[tuple[int, int, bool], list[Chain]] = {}
    for row, part in enumerate(parts):
        for one in of_kind(part.constraints, Reach):
            if one.is_on:
                joints = tuple(row_of[joint] for joint in chains_by_end[part.id, one.id])
                if joints:
                    number = bisect_right(begun, joints[0]) - 1
                    result.setdefault((number, len(joints), bool(one.through)), []).append(Chain(row, one, joints))
    groups: list[list[Reaching]] = [[] for _ in begun]
    for (number, *_), chains in result.items():
        parents = (parts[chain.joints[0]].parent for chain in chains)
        groups[number].append(
            Reaching(
                np.array([chain.row for chain in chains], dtype=np.intp),
                tuple(chain.reach for chain in chains),
                tuple(chains),
                np.array([-1 if parent is None else row_of[parent] for parent in parents], dtype=np.intp),
                any("turn.z" in parts[row].limits for chain in chains for row in chain.joints),
            )
        )
    return tuple(map(tuple, groups))


def _together(parts: Sequence[Part], wave: range) -> list[Together]:
    """The constraints of a wave in the order in which they act, those of one manner and place in it together."""
    groups: dict[tuple[int, tuple[object, ...]], list[tuple[int, Constraint]]] = {}
    for row in wave:
        acting = (one for one in parts[row].constraints if one.is_on and not one.turns_joints)
        for place, one in enumerate(acting):
            groups.setdefault((place, one.manner()), []).append((row, one))
    return [
        Together(np.array([row for row, _ in groups[key]], dtype=np.intp), tuple(one for _, one in groups[key]))
        for key in sorted(groups, key=lambda key: key[0])
    ]


def _acting(groups: Sequence[Together], level: Sequence[int], start: int) -> tuple[Acting, ...]:
    """Constraints of a wave apart where they have no part in common."""
    result: list[tuple[set[int], list[Together]]] = [({row}, []) for row in level]
    for group in groups:
        rows, members = set(group.rows.tolist()), [group]
        for others in [one for one in result if not rows.isdisjoint(one[0])]:
            result.remove(others)
            rows, members = rows | others[0], others[1] + members
        result.append((rows, members))
    made = []
    for together, members in result:
        own = sorted(together)
        places = np.array(own, dtype=np.intp)
        leveled = [row for row in level if row in together]
        acts = [(in_one_piece(np.searchsorted(places, group.rows)), group) for group in groups if group in members]
        made.append(
            Acting(
                len(own),
                in_one_piece(places),
                in_one_piece(places - start),
                tuple(leveled),
                np.array([own.index(row) for row in leveled], dtype=np.intp),
                tuple(acts),
            )
        )
    return tuple(made)
