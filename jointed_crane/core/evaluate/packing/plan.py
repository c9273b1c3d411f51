"""A scene packed for evaluation: parts by depth, rest values and curves in arrays."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from jointed_crane.core.basics.frozen import Memory, changed, remembered
from jointed_crane.core.evaluate.packing.constraint_columns import (
    PackedConstraints,
    Terms,
    Together,
    packed_constraints,
    packed_terms,
)
from jointed_crane.core.geometry.coordinates import UPRIGHT
from jointed_crane.core.geometry.decomposition import rotation_matrices
from jointed_crane.core.geometry.fields import Column, Entry, Matrix, entry, unstacked
from jointed_crane.core.hierarchy.chains import chains_of
from jointed_crane.core.hierarchy.dependencies import waves
from jointed_crane.core.hierarchy.link_order import links_in_order
from jointed_crane.core.model.channels import CHANNELS, countable, family_of
from jointed_crane.core.model.levers import Link
from jointed_crane.core.model.scene import Inherits, Mark, Part, Scene
from jointed_crane.core.model.scene_change import SceneChange
from jointed_crane.core.motion.channel import Channel
from jointed_crane.core.motion.curves import PackedCurves
from jointed_crane.core.shapes.reshaping import shape_channels

Floats = npt.NDArray[np.float64]
Places = npt.NDArray[np.intp]


@dataclass(frozen=True)
class Wave:
    """Parts of one depth: a slice of the depth-sorted parts, and the row of each one's parent."""

    rows: slice
    parents: Places | None


@dataclass(frozen=True)
class KeyedChannel:
    """All parts' curves on one channel: rows of the parts, ascending, and the matching slice of the packed curves."""

    name: str
    rows: Places
    curves: slice


@dataclass(frozen=True)
class Plan:
    """Everything evaluation needs that does not depend on the frame. Rows are parts sorted by depth.

    What it remembers tells what parts are ("parts.own") from the numbers that they have by channel ("parts.numbers").

    Attributes
    ----------
    places : array, shape (parts,), the place of each row in the scene's painting order
    rest : rest values by channel, float or array of shape (parts, 1)
    orders : turn orders in use, each with the rows that use it
    numbers : row and channel of the constraints' numbers that move; their curves come after those of `keyed`
    partial : rows that do not inherit everything, with what they do inherit
    """

    parts: tuple[Part, ...]
    places: Places
    waves: tuple[Wave, ...]
    rest: dict[str, Floats]
    keyed: tuple[KeyedChannel, ...]
    numbers: tuple[tuple[int, str], ...]
    curves: PackedCurves
    orientation: Matrix
    pivot: Column
    centre: Column
    orders: dict[str, npt.NDArray[np.bool_]]
    partial: dict[int, Inherits]
    standing: tuple[int, ...]
    marks: dict[str, tuple[float, float]]

    @remembered("places")
    def back(self) -> Places:
        """The row of each part in the scene's painting order."""
        return np.argsort(self.places)

    @remembered("rest")
    def still(self) -> dict[str, Entry]:
        """Rest values by channel as entries: what counts where nothing moves a channel."""
        return {name: entry(rest) for name, rest in self.rest.items()}

    @remembered("parts.own")
    def row_of(self) -> dict[str, int]:
        """The row of each part by its id."""
        return {part.id: row for row, part in enumerate(self.parts)}

    @remembered("parts.own", "places")
    def part_ids(self) -> tuple[str, ...]:
        """Ids in the scene's painting order."""
        return tuple(self.parts[row].id for row in self.back)

    @remembered("parts.own")
    def drawings(self) -> npt.NDArray[np.int64]:
        """How many drawings each row has, shape (parts, 1)."""
        return np.array([[len(part.drawings)] for part in self.parts], dtype=np.int64).reshape(-1, 1)

    @remembered()
    def shaped(self) -> dict[str, Part]:
        """The parts whose shapes move, by their ids."""
        return {part.id: part for part in self.parts if shape_channels(part)}

    @remembered("parts.own", "keyed", "numbers")
    def keyed_names(self) -> tuple[tuple[str, str], ...]:
        """Part and channel of every curve, in the order of the curves."""
        return tuple((self.parts[row].id, name) for row, name in self.curve_of)

    @remembered("parts.own", "keyed", "numbers")
    def curve_of(self) -> dict[tuple[int, str], int]:
        """The place among the curves of each row's channel."""
        names = ((row, keyed.name) for keyed in self.keyed for row in keyed.rows.tolist())
        return {name: place for place, name in enumerate((*names, *self.numbers))}

    @remembered("parts.own")
    def is_constrained(self) -> bool:
        """Whether any constraint places a part."""
        return any(part.constraints for part in self.parts)

    @remembered("parts.own")
    def leaves_plane(self) -> bool:
        """Whether constraints may bring parts out of the plane of the stage where all there is lies in it."""
        is_asked = any(one.leaves_plane() for part in self.parts for one in part.constraints if one.is_on)
        return is_asked or (self.is_constrained and any(each.point[2] for part in self.parts for each in part.eyelets))

    @remembered("parts.own", "places")
    def deep_numbers(self) -> tuple[tuple[Together, str], ...]:
        """The numbers of constraints that take parts out of the plane where they are not neutral."""
        groups = (group for acting in self.constraints.acting for each in acting for _, group in each.groups)
        return tuple((group, one.name) for group in groups for one in group.constraints[0].NUMBERS if one.is_deep)

    @remembered("parts.own")
    def counts_turns(self) -> bool:
        """Whether whole turns have a say in where any constraint puts its part."""
        return any(one.counts_turns() for part in self.parts for one in part.constraints if one.is_on)

    @remembered("parts.own")
    def links(self) -> tuple[tuple[int, Link], ...]:
        """The links that act, in order, each with the row of the part that has it."""
        return tuple((self.row_of[part_id], link) for part_id, link in links_in_order(self.parts))

    @remembered("parts.own")
    def moments(self) -> Floats:
        """The frames that have a say in where constraints put parts at later ones, ascending, shape (moments,)."""
        result = (one.moments() for part in self.parts for one in part.constraints if one.is_on)
        return np.array(sorted({frame for frames in result for frame in frames}), dtype=np.float64)

    @remembered("parts.own", "places")
    def constraints(self) -> PackedConstraints:
        """Its constraints."""
        chains = chains_of(self.parts[row] for row in self.back)
        return packed_constraints(self.parts, [wave.rows.start for wave in self.waves], self.row_of, chains)

    def terms_of(self, group: Together) -> Terms:
        """What constraints that act together refer to."""
        result = self._terms.get(group)
        if result is None:
            result = self._terms[group] = packed_terms(group, self.parts, self.row_of, self.curve_of, self.marks)
        return result

    @remembered("parts.own", "keyed", "numbers", "rest")
    def _terms(self) -> dict[Together, Terms]:
        return {}


_PLAN: Memory[Plan] = Memory()


def plan_of(scene: Scene, beside: Scene | None = None) -> Plan:
    """The scene's plan, made once for each scene value; what `beside` has packed already is not packed again.

    Scenes are frozen, so the plan lives as long as the scene it describes and can never be out of date. Channels
    that a new scene shares with an older one bring their segment tables along (`Channel.segments`).
    """

    def compute() -> Plan:
        repacked = beside and _repacked(plan_of(beside), SceneChange(beside, scene))
        return repacked or packed_plan(scene.parts, scene.marks)

    return _PLAN.of(scene, compute)


def hand_plan_on(change: SceneChange) -> None:
    """Have a scene take over what is packed of the one it was made from, where they differ in numbers alone."""
    known = None if change.before is None else _PLAN.at(change.before)
    repacked = _repacked(known, change) if known is not None and _PLAN.at(change.after) is None else None
    if repacked is not None:
        _PLAN.put(change.after, repacked)


def _repacked(known: Plan, change: SceneChange) -> Plan | None:
    """The plan of a scene, given that of the one it was made from; None where more differs than numbers by channel."""
    if not change.is_of_numbers or (known.is_constrained and "marks" in change.beside):
        return None
    pairs = [(part, old) for part, old in change.parts if old is not None]
    parts = tuple(change.after.parts[place] for place in known.places.tolist())
    if any(part.rest is not old.rest and part.has_keyed_numbers for part, old in pairs):
        return None  # numbers swing about their rest values
    if any(part.rest is not old.rest for part, old in pairs):
        known = changed(known, rest=_rest_values(parts), centre=_centres(parts))
    if all(part.channels is old.channels or part.channels.keys() == old.channels.keys() for part, old in pairs):
        return changed(known, ("parts.numbers", "curves"), parts=parts, curves=_with_curves(known, parts))
    keyed, numbers, curves = _pack_channels(parts)
    touched = ("parts.numbers", "keyed", "numbers", "curves")
    return changed(known, touched, parts=parts, keyed=keyed, numbers=numbers, curves=curves)


def _with_curves(known: Plan, parts: tuple[Part, ...]) -> PackedCurves:
    """The curves of parts that have the channels that they had."""
    channels = list(known.curves.channels)
    for row, part in enumerate(parts):
        old = known.parts[row].channels
        if part.channels is not old:
            for name, channel in part.channels.items():
                if channel is not old[name] and (row, name) in known.curve_of:
                    channels[known.curve_of[row, name]] = countable(name, channel, part.rest_value(name))
    return PackedCurves(tuple(channels))


def packed_plan(scene_parts: tuple[Part, ...], marks: tuple[Mark, ...] = ()) -> Plan:
    """Pack parts in painting order, and the marks that constraints refer to. Raises RuleError where parts depend on
    each other in a loop.
    """
    depth_first = [half for wave in waves(scene_parts) for half in _by_parent(scene_parts, wave)]
    places = np.array([place for wave in depth_first for place in wave], dtype=np.intp)
    parts = tuple(scene_parts[place] for place in places)
    row_of = {part.id: row for row, part in enumerate(parts)}
    keyed, numbers, curves = _pack_channels(parts)
    used_orders = {part.turn_order for part in parts} or {"XYZ"}
    whole = Inherits()
    return Plan(
        parts=parts,
        places=places,
        waves=_wave_slices(parts, [len(wave) for wave in depth_first], row_of),
        rest=_rest_values(parts),
        keyed=keyed,
        numbers=numbers,
        curves=curves,
        orientation=_orientations(parts),
        pivot=_column(np.array([part.pivot for part in parts]).reshape(-1, 3)),
        centre=_centres(parts),
        orders={order: np.array([[part.turn_order == order] for part in parts]) for order in sorted(used_orders)},
        partial={row: part.inherits for row, part in enumerate(parts) if part.inherits != whole},
        standing=tuple(row for row, part in enumerate(parts) if part.footholds),
        marks=_places(marks),
    )


def _places(marks: tuple[Mark, ...]) -> dict[str, tuple[float, float]]:
    return {mark.id: mark.place for mark in marks}


def _by_parent(parts: tuple[Part, ...], wave: list[int]) -> list[list[int]]:
    """The parts of a wave that hang on a parent, and those that stand on the stage and wait for a goal alone."""
    halves = [[place for place in wave if (parts[place].parent is None) == is_free] for is_free in (False, True)]
    return [half for half in halves if half]


def _wave_slices(parts: tuple[Part, ...], counts: list[int], row_of: dict[str, int]) -> tuple[Wave, ...]:
    result = []
    begin = 0
    for count in counts:
        rows = slice(begin, begin + count)
        parents = [row_of[part.parent] for part in parts[rows] if part.parent is not None]
        result.append(Wave(rows, np.array(parents, dtype=np.intp) if parents else None))
        begin += count
    return tuple(result)


def _rest_values(parts: tuple[Part, ...]) -> dict[str, Floats]:
    rest = {name: np.full((len(parts), 1), kind.neutral) for name, kind in CHANNELS.items()}
    for row, part in enumerate(parts):
        for name, value in part.rest.items():
            if name in rest:
                rest[name][row, 0] = value
    return rest


def _pack_channels(
    parts: tuple[Part, ...],
) -> tuple[tuple[KeyedChannel, ...], tuple[tuple[int, str], ...], PackedCurves]:
    by_name: dict[str, list[tuple[int, Channel]]] = {}
    numbers: dict[tuple[int, str], Channel] = {}
    for row, part in enumerate(parts):
        for name, channel in part.channels.items():
            family = family_of(name)
            if family.is_everywhere:
                by_name.setdefault(name, []).append((row, channel))
            elif family.moves == "number":  # what moves a shape has no say in where it lies
                numbers[row, name] = countable(name, channel, part.rest_value(name))
    keyed: list[KeyedChannel] = []
    channels: list[Channel] = []
    for name, result in by_name.items():
        rows = np.array([row for row, _ in result], dtype=np.intp)
        keyed.append(KeyedChannel(name, rows, slice(len(channels), len(channels) + len(result))))
        channels += [countable(name, channel) for _, channel in result]
    return tuple(keyed), tuple(numbers), PackedCurves((*channels, *numbers.values()))


def _orientations(parts: tuple[Part, ...]) -> Matrix:
    result = [part.orientation for part in parts]
    if result.count(UPRIGHT) == len(result):
        result = result[:1]
    return unstacked(rotation_matrices(np.array(result).reshape(-1, 1, 4)))


def _centres(parts: tuple[Part, ...]) -> Column:
    return _column(np.array([part.centre for part in parts]).reshape(-1, 3))


def _column(points: Floats) -> Column:
    return [entry(points[:, axis : axis + 1]) for axis in range(3)]
