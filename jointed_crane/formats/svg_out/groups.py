"""A flat part's placement as nested groups: one for each channel that moves, one for all that stands between."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from jointed_crane.core.channels import CHANNELS, joined
from jointed_crane.core.geometry.decomposition import rotation_matrices
from jointed_crane.core.geometry.fields import stacked, unstacked
from jointed_crane.core.motion.channel import Channel
from jointed_crane.core.placement import INNER, OUTER, Setting, composed, rotation
from jointed_crane.core.placement import Factor as PlacementFactor
from jointed_crane.core.scene import Inherits, Part
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
class Standing:
    """Factors of the placement that do not move, multiplied, shape (4, 4)."""

    matrix: Floats


@dataclass(frozen=True)
class Moving:
    """One factor that a channel moves; `css` writes it for an effective value."""

    channel: str
    motion: Channel
    rest: float
    css: Callable[[float], str]

    def effective(self, motion: float) -> float:
        """Rest and motion joined."""
        return joined(CHANNELS[self.channel], self.rest, motion)


Factor = Standing | Moving


def is_deep(part: Part) -> bool:
    """Whether a part leaves the plane of the stage."""
    tilted = abs(part.orientation[0]) > 1e-12 or abs(part.orientation[1]) > 1e-12
    deep = [name for name, kind in CHANNELS.items() if kind.is_deep]
    rests = any(part.rest_value(name) != CHANNELS[name].neutral for name in deep)
    return tilted or rests or any(name in part.channels for name in deep)


def is_native(part: Part) -> bool:
    """Whether nested groups can carry a part's placement as it is, without baking."""
    shears = "shear.xy" in part.channels
    return not is_deep(part) and not part.footholds and not shears and part.inherits == Inherits()


def most_groups(part: Part) -> int:
    """How many groups a part's placement takes at most: one for each channel that moves, and what stands between."""
    return 2 * sum(name in _CSS for name in part.channels) + 1


def placement_factors(part: Part) -> list[Factor]:
    """The placement formula as factors, outermost first, for a part that `is_native`.

    The factor of a channel that moves is taken apart into one for each channel; in the plane they commute. What stands
    between two that move is multiplied.
    """
    found: list[Factor] = []
    standing: list[PlacementFactor] = []
    for factor in (*OUTER, *INNER):
        standing.append(factor)
        moving = [name for name in factor.channels if name in part.channels]
        if moving:
            found += _standing(part, standing)
            found += [Moving(name, part.channels[name], part.rest_value(name), _CSS[name]) for name in moving]
            standing = []
    return [*found, *_standing(part, standing)]


def _standing(part: Part, factors: list[PlacementFactor]) -> list[Standing]:
    """Consecutive factors with the channels that move left neutral, as one; none where that moves nothing."""
    standing = {name for factor in factors for name in factor.channels if name not in part.channels}
    values = {name: part.rest_value(name) if name in standing else kind.neutral for name, kind in CHANNELS.items()}
    turn, spin = (rotation(values, name, part.turn_order) for name in ("turn", "spin"))
    orientation = unstacked(rotation_matrices(np.array(part.orientation)))
    linear, place = composed(factors, Setting(values, orientation, turn, spin, list(part.pivot), list(part.centre)))
    matrix = np.eye(4)
    matrix[:3, :3] = stacked(linear, ())
    matrix[:3, 3] = place
    return [Standing(matrix)] if np.abs(matrix - _IDENTITY).max() > 1e-15 else []


def standing_text(factor: Standing) -> str:
    """The transform attribute of factors that do not move."""
    return matrix_text(factor.matrix)
