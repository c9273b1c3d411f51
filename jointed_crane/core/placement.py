"""Where one part lies in its parent: design section 3, for many parts and frames at once.

local = T(q) O R(turn) K S T(-p_k) T(c) R(spin) T(-c),  q = r + move + O slide + D_k
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

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
    times,
    turned,
)

Floats = npt.NDArray[np.float64]
Values = Mapping[str, Entry]

_AXES = {"X": 0, "Y": 1, "Z": 2}


@dataclass(frozen=True)
class Local:
    """A part in its parent, taken apart so that inheritance can act on the pieces.

    Attributes
    ----------
    linear : A = O R K S
    spin : R(spin)
    place : q, where the pivot lies in parent space
    tail : the art point that A carries to the place, negated: c - p - R(spin) c
    """

    linear: Matrix
    spin: Matrix
    place: Column
    tail: Column


def rotation(values: Values, channel: str, order: str) -> Matrix:
    """Rotation from three channel values in degrees; "XYZ" is Rx Ry Rz on column vectors."""
    result = IDENTITY
    for letter in order:
        result = product(result, turned(_AXES[letter], values[f"{channel}.{letter.lower()}"]))
    return result


def linear_part(values: Values, orientation: Matrix, turn: Matrix) -> Matrix:
    """A = O R K S, with K = [[1, xy, xz], [0, 1, yz], [0, 0, 1]]."""
    scale = [values["scale.x"], values["scale.y"], values["scale.z"]]
    shear: Matrix = [[1.0, values["shear.xy"], values["shear.xz"]], [0.0, 1.0, values["shear.yz"]], [0.0, 0.0, 1.0]]
    sheared = product(product(orientation, turn), shear)
    return [[times(row[axis], scale[axis]) for axis in range(3)] for row in sheared]


def local_placement(
    values: Values, orientation: Matrix, turn: Matrix, spin: Matrix, pivot: Column, centre: Column, shift: Column
) -> Local:
    """The placement formula.

    Parameters
    ----------
    values : effective channel values, each a float or an array of shape (parts, frames) or (parts, 1)
    orientation, turn, spin : O, R(turn), R(spin)
    pivot : p_k, the current foothold, px in art space
    centre : c, px in art space
    shift : D_k, px in parent space
    """
    move: Column = [values["move.x"], values["move.y"], values["move.z"]]
    slide = applied(orientation, [values["slide.x"], values["slide.y"], values["slide.z"]])
    about_centre = applied(spin, centre)
    return Local(
        linear=linear_part(values, orientation, turn),
        spin=spin,
        place=[plus(plus(move[axis], slide[axis]), shift[axis]) for axis in range(3)],
        tail=[minus(minus(centre[axis], pivot[axis]), about_centre[axis]) for axis in range(3)],
    )


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
