"""A flat part's placement as nested groups: one for each channel that moves, one for all that stands between."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from jointed_crane.core.channels import CHANNELS, joined
from jointed_crane.core.geometry.decomposition import rotation_matrices
from jointed_crane.core.motion.channel import Channel
from jointed_crane.core.scene import Inherits, Part
from jointed_crane.formats.svg_out.inlining import matrix_text, number

Floats = npt.NDArray[np.float64]

_DEEP = {"turn.x", "turn.y", "spin.x", "spin.y", "move.z", "slide.z", "shear.xz", "shear.yz"}


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
    rests = any(part.rest_value(name) != CHANNELS[name].neutral for name in _DEEP)
    return tilted or rests or any(name in part.channels for name in _DEEP)


def is_native(part: Part) -> bool:
    """Whether nested groups can carry a part's placement as it is, without baking."""
    shears = "shear.xy" in part.channels
    return not is_deep(part) and not part.footholds and not shears and part.inherits == Inherits()


def _shift(x: float, y: float) -> Floats:
    matrix = np.eye(4)
    matrix[:2, 3] = (x, y)
    return matrix


def _rotation(degrees: float) -> Floats:
    matrix = np.eye(4)
    cosine, sine = np.cos(np.deg2rad(degrees)), np.sin(np.deg2rad(degrees))
    matrix[:2, :2] = [[cosine, -sine], [sine, cosine]]
    return matrix


def placement_factors(part: Part) -> list[Factor]:
    """The placement formula as factors, outermost first, for a part that `is_native`."""
    orientation = np.eye(4)
    orientation[:3, :3] = rotation_matrices(np.array(part.orientation))
    shear = np.eye(4)
    shear[0, 1] = part.rest_value("shear.xy")
    pivot, centre = part.pivot, part.centre
    factors: list[Factor] = [
        _along(part, "move.x", lambda v: f"translate({number(v)}px,0)", lambda v: _shift(v, 0)),
        _along(part, "move.y", lambda v: f"translate(0,{number(v)}px)", lambda v: _shift(0, v)),
        Standing(orientation),
        _along(part, "slide.x", lambda v: f"translate({number(v)}px,0)", lambda v: _shift(v, 0)),
        _along(part, "slide.y", lambda v: f"translate(0,{number(v)}px)", lambda v: _shift(0, v)),
        _along(part, "turn.z", lambda v: f"rotate({number(v)}deg)", _rotation),
        Standing(shear),
        _along(part, "scale.x", lambda v: f"scale({number(v)},1)", lambda v: np.diag([v, 1.0, 1, 1])),
        _along(part, "scale.y", lambda v: f"scale(1,{number(v)})", lambda v: np.diag([1.0, v, 1, 1])),
        Standing(_shift(centre[0] - pivot[0], centre[1] - pivot[1])),
        _along(part, "spin.z", lambda v: f"rotate({number(v)}deg)", _rotation),
        Standing(_shift(-centre[0], -centre[1])),
    ]
    return _merged(factors)


def _along(part: Part, name: str, css: Callable[[float], str], matrix: Callable[[float], Floats]) -> Factor:
    rest = part.rest_value(name)
    if name in part.channels:
        return Moving(name, part.channels[name], rest, css)
    return Standing(matrix(rest))


def _merged(factors: list[Factor]) -> list[Factor]:
    found: list[Factor] = []
    for factor in factors:
        if isinstance(factor, Standing) and found and isinstance(found[-1], Standing):
            found[-1] = Standing(found[-1].matrix @ factor.matrix)
        else:
            found.append(factor)
    return [f for f in found if not (isinstance(f, Standing) and np.allclose(f.matrix, np.eye(4), rtol=0, atol=1e-15))]


def standing_text(factor: Standing) -> str:
    """The transform attribute of factors that do not move."""
    return matrix_text(factor.matrix)
