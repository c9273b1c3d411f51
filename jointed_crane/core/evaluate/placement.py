"""Where one part lies in its parent: design section 3, for many parts and frames at once.

local = T(r + move + O slide + D_k) O R(turn) K S T(-p_k) T(c) R(spin) T(-c)

The formula stands here once, as factors from the outermost to the innermost: evaluation multiplies them out, and
formats that nest groups write one group for each.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt

from jointed_crane.core.geometry.fields import (
    IDENTITY,
    Column,
    Entry,
    Matrix,
    applied,
    minus,
    plus,
    product,
    turned,
)

Floats = npt.NDArray[np.float64]
Values = Mapping[str, Entry]

_AXES = {"X": 0, "Y": 1, "Z": 2}
_NOWHERE: Column = [0.0, 0.0, 0.0]


@dataclass(frozen=True)
class Setting:
    """Everything that the placement of a part is made of.

    Attributes
    ----------
    values : effective channel values, each a float or an array of shape (parts, frames) or (parts, 1)
    orientation, turn, spin : O, R(turn), R(spin)
    pivot : p_k, the current foothold, px in art space
    centre : c, px in art space
    shift : D_k, px in parent space
    """

    values: Values
    orientation: Matrix
    turn: Matrix
    spin: Matrix = field(default_factory=lambda: IDENTITY)
    pivot: Column = field(default_factory=lambda: _NOWHERE)
    centre: Column = field(default_factory=lambda: _NOWHERE)
    shift: Column = field(default_factory=lambda: _NOWHERE)


@dataclass(frozen=True)
class Factor:
    """One factor of the formula: a matrix or a shift by a column, and the channels that move it."""

    name: str
    matrix: Callable[[Setting], Matrix] | None = None
    column: Callable[[Setting], Column] | None = None
    channels: tuple[str, ...] = ()


def _three(name: str) -> tuple[str, ...]:
    return tuple(f"{name}.{axis}" for axis in "xyz")


def _shear(of: Setting) -> Matrix:
    """K = [[1, xy, xz], [0, 1, yz], [0, 0, 1]]."""
    return [
        [1.0, of.values["shear.xy"], of.values["shear.xz"]],
        [0.0, 1.0, of.values["shear.yz"]],
        [0.0, 0.0, 1.0],
    ]


def _scale(of: Setting) -> Matrix:
    x, y, z = (of.values[name] for name in _three("scale"))
    return [[x, 0.0, 0.0], [0.0, y, 0.0], [0.0, 0.0, z]]


#: The factors down to the pivot: they carry the point that the part turns about to its place in the parent.
OUTER = (
    Factor("foothold", column=lambda of: of.shift),
    Factor("move", column=lambda of: [of.values[name] for name in _three("move")], channels=_three("move")),
    Factor("orientation", matrix=lambda of: of.orientation),
    Factor("slide", column=lambda of: [of.values[name] for name in _three("slide")], channels=_three("slide")),
    Factor("turn", matrix=lambda of: of.turn, channels=_three("turn")),
    Factor("shear", matrix=_shear, channels=("shear.xy", "shear.xz", "shear.yz")),
    Factor("scale", matrix=_scale, channels=_three("scale")),
)
#: The factors below the pivot: the art about its pivot, and its spin about its own centre.
INNER = (
    Factor("pivot", column=lambda of: [minus(0.0, value) for value in of.pivot]),
    Factor("centre", column=lambda of: of.centre),
    Factor("spin", matrix=lambda of: of.spin, channels=_three("spin")),
    Factor("art", column=lambda of: [minus(0.0, value) for value in of.centre]),
)


@dataclass(frozen=True)
class Local:
    """A part in its parent, taken apart so that inheritance can act on the pieces.

    Attributes
    ----------
    linear : A = O R K S
    spin : R(spin)
    place : q, where the pivot lies in parent space
    tail : the art point that A carries to the place, negated: c - p - R(spin) c
    plain : O R(turn) R(spin), free of scale and shear
    """

    linear: Matrix
    spin: Matrix
    place: Column
    tail: Column
    plain: Matrix


def rotation(values: Values, channel: str, order: str) -> Matrix:
    """Rotation from three channel values in degrees; "XYZ" is Rx Ry Rz on column vectors."""
    result = IDENTITY
    for letter in order:
        result = product(result, turned(_AXES[letter], values[f"{channel}.{letter.lower()}"]))
    return result


def composed(factors: Iterable[Factor], of: Setting) -> tuple[Matrix, Column]:
    """The product of factors: the linear part and the shift."""
    linear, place = IDENTITY, _NOWHERE
    for factor in factors:
        if factor.matrix is not None:
            linear = product(linear, factor.matrix(of))
        if factor.column is not None:
            carried = applied(linear, factor.column(of))
            place = [plus(place[axis], carried[axis]) for axis in range(3)]
    return linear, place


def linear_part(of: Setting) -> Matrix:
    """A = O R K S."""
    return composed(OUTER, of)[0]


def local_placement(of: Setting) -> Local:
    """The placement formula multiplied out."""
    linear, place = composed(OUTER, of)
    spin, tail = composed(INNER, of)
    return Local(linear, spin, place, tail, product(product(of.orientation, of.turn), of.spin))


def foothold_shifts(points: Floats, linear: Floats) -> Floats:
    """D_k for k = 0 .. n: D_0 = 0, D_k = D_(k-1) + A(F_k) (p_k - p_(k-1)).

    Parameters
    ----------
    points : array, shape (n + 1, 3), the pivot and the foothold points
    linear : array, shape (n, 3, 3), A at each foothold's frame

    Returns
    -------
    shifts : array, shape (n + 1, 3), px in parent space
    """
    steps = np.einsum("kij,kj->ki", linear, np.diff(points, axis=0))
    return np.concatenate([np.zeros((1, 3)), np.cumsum(steps, axis=0)])
