"""A flat part's placement as nested groups: one for each channel that moves, one for all that stands between."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from jointed_crane.core.evaluate.placement import INNER, OUTER, Factor, Setting, composed, rotation
from jointed_crane.core.geometry.coordinates import Vector
from jointed_crane.core.geometry.decomposition import rotation_matrices
from jointed_crane.core.geometry.fields import Column, Entry, entry, stacked, unstacked
from jointed_crane.core.model.channels import CHANNELS, joined
from jointed_crane.core.model.scene import Part
from jointed_crane.core.motion.channel import Channel
from jointed_crane.formats.svg_out.inlining import matrix_text, number

Floats = npt.NDArray[np.float64]

_IDENTITY = np.eye(4)

#: How CSS writes the factor of a channel that moves, for an effective value.
_CSS: dict[str, Callable[[float], str]] = {
    "move.x": lambda v: f"translate({number(v)}px,0)",
    "move.y": lambda v: f"translate(0,{number(v)}px)",
    "slide.x": lambda v: f"translate({number(v)}px,0)",
    "slide.y": lambda v: f"translate(0,{number(v)}px)",
    "turn.z": lambda v: f"rotate({number(v)}deg)",
    "spin.z": lambda v: f"rotate({number(v)}deg)",
    "scale.x": lambda v: f"scale({number(v)},1)",
    "scale.y": lambda v: f"scale(1,{number(v)})",
}


@dataclass(frozen=True)
class StillFactor:
    """Factors of the placement that do not move, multiplied, shape (4, 4)."""

    matrix: Floats


@dataclass(frozen=True)
class MovedFactor:
    """One factor that a channel moves; `css` writes it for an effective value."""

    channel: str
    motion: Channel
    rest: float
    css: Callable[[float], str]

    def effective(self, motion: float) -> float:
        """Rest and motion joined."""
        return joined(CHANNELS[self.channel], self.rest, motion)


GroupFactor = StillFactor | MovedFactor


def most_groups(part: Part) -> int:
    """How many groups a part's placement takes at most: one for each channel that moves, and what stands between."""
    return 2 * sum(name in _CSS for name in part.channels) + 1


def placement_factors(parts: Iterable[Part]) -> dict[str, list[GroupFactor]]:
    """The placement formula as factors, outermost first, by the id of each part; for parts that are not baked.

    The factor of a channel that moves is taken apart into one for each channel; in the plane they commute. What stands
    between two that move is multiplied, for all parts at once whose same channels move.
    """
    alike: dict[tuple[object, ...], list[Part]] = {}
    for part in parts:
        alike.setdefault((part.turn_order, *sorted(_CSS.keys() & part.channels.keys())), []).append(part)
    result: dict[str, list[GroupFactor]] = {}
    for members in alike.values():
        result |= _factors_of_alike(members)
    return result


def _factors_of_alike(parts: list[Part]) -> dict[str, list[GroupFactor]]:
    result: dict[str, list[GroupFactor]] = {part.id: [] for part in parts}
    standing: list[Factor] = []
    for factor in (*OUTER, *INNER):
        standing.append(factor)
        moving = [name for name in factor.channels if name in parts[0].channels]
        if moving:
            _add_standing(result, parts, standing)
            for part in parts:
                result[part.id] += [
                    MovedFactor(name, part.channels[name], part.rest_value(name), _CSS[name]) for name in moving
                ]
            standing = []
    _add_standing(result, parts, standing)
    return result


def _add_standing(factors_of: dict[str, list[GroupFactor]], parts: list[Part], factors: list[Factor]) -> None:
    """Consecutive factors with the channels that move left neutral, as one; none where that moves nothing."""
    standing = {name for factor in factors for name in factor.channels if name not in parts[0].channels}
    values: dict[str, Entry] = {}
    for name, kind in CHANNELS.items():
        rests = name in standing and any(name in part.rest for part in parts)
        values[name] = entry(np.array([part.rest_value(name) for part in parts])) if rests else kind.neutral
    turn, spin = (rotation(values, name, parts[0].turn_order) for name in ("turn", "spin"))
    orientation = unstacked(rotation_matrices(np.array([part.orientation for part in parts])))
    pivot, centre = _column([part.pivot for part in parts]), _column([part.centre for part in parts])
    linear, place = composed(factors, Setting(values, orientation, turn, spin, pivot, centre))
    matrices = np.tile(_IDENTITY, (len(parts), 1, 1))
    matrices[:, :3, :3] = stacked(linear, (len(parts),))
    for axis in range(3):
        matrices[:, axis, 3] = place[axis]
    moves = np.abs(matrices - _IDENTITY).max(axis=(1, 2)) > 1e-15
    for part, matrix, is_needed in zip(parts, matrices, moves, strict=True):
        if is_needed:
            factors_of[part.id].append(StillFactor(matrix))


def _column(points: list[Vector]) -> Column:
    return [entry(values) for values in np.array(points).T]


def standing_text(factor: StillFactor) -> str:
    """The transform attribute of factors that do not move."""
    return matrix_text(factor.matrix)
