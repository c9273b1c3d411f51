"""Vectors and matrices in the plane of the stage, for many parts and frames at once.

Components come first, shapes (2, ...) and (2, 2, ...), so that each of them lies in one piece.
"""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.float64]
#: What is half a turn but for so small a share of a turn is half a turn.
_HALF = 1e-10


def angle_of(vectors: Floats) -> Floats:
    """The direction of vectors, radians; 0 for one without length."""
    result: Floats = np.arctan2(vectors[1], vectors[0])
    return result


def angle_between(vectors: Floats, others: Floats) -> Floats:
    """How far vectors turn clockwise to point as others do, radians above -pi up to pi; 0 where one has no length."""
    result: Floats = np.arctan2(cross(vectors, others) + 0.0, dot(vectors, others))  # less than 0 is never -0
    return result


def length_of(vectors: Floats) -> Floats:
    """The length of vectors, in space too."""
    square = dot(vectors, vectors)
    return np.sqrt(square if len(vectors) == 2 else square + vectors[2] * vectors[2])


def cosine_and_sine(angle: Floats) -> tuple[Floats, Floats]:
    """Cosine and sine of radians, by the tangent of the half: of many at once NumPy finds one tangent several
    times as quickly as both.
    """
    tangent = np.tan(angle / 2)
    by = 2 / (1 + tangent * tangent)
    return by - 1, tangent * by


def square_to(vectors: Floats) -> Floats:
    """Vectors turned by a quarter, clockwise on the screen."""
    return np.array([-vectors[1], vectors[0]])


def dot(a: Floats, b: Floats) -> Floats:
    """The scalar products of vectors."""
    result: Floats = a[0] * b[0] + a[1] * b[1]
    return result


def cross(a: Floats, b: Floats) -> Floats:
    """The third components of the vector products of vectors."""
    result: Floats = a[0] * b[1] - a[1] * b[0]
    return result


def applied(matrices: Floats, vectors: Floats) -> Floats:
    """Matrices on vectors."""
    result: Floats = matrices[:, 0] * vectors[0] + matrices[:, 1] * vectors[1]
    return result


def product(a: Floats, b: Floats) -> Floats:
    """Products of matrices."""
    result: Floats = a[:, :1] * b[:1] + a[:, 1:] * b[1:]
    return result


def turned(these: Floats, angle: Floats) -> Floats:
    """Vectors or matrices turned by radians, clockwise on the screen."""
    cosine, sine = cosine_and_sine(angle)
    return np.array([cosine * these[0] - sine * these[1], sine * these[0] + cosine * these[1]])


def determinant(matrices: Floats) -> Floats:
    """Determinants of matrices."""
    return cross(matrices[0], matrices[1])


def solved(matrices: Floats, right: Floats) -> Floats:
    """The vectors that matrices carry to others; 0 where a matrix has no inverse."""
    (a, b), (c, d) = matrices
    size = a * d - b * c
    result = np.array([d * right[0] - b * right[1], a * right[1] - c * right[0]])
    if size.all():
        return np.asarray(result / size)
    with np.errstate(divide="ignore", invalid="ignore"):
        return np.where(size == 0, 0.0, result / size)


def shortest(angle: Floats) -> Floats:
    """The turn that ends in the same direction and goes the shortest way, radians, above -pi up to pi. Half a turn goes
    clockwise, whatever its last digits say: what is mirrored lies just there, and would flicker.
    """
    result: Floats = angle - 2 * np.pi * np.ceil((angle - np.pi) / (2 * np.pi) - _HALF)
    return result
