"""Small matrices whose entries are numbers or whole arrays, one entry a plain float where it never varies.

A flat scene turns about z only: most entries of its matrices are the numbers 0 and 1. Keeping those as plain floats
lets one general three-dimensional rule cost no more than a flat one, without a second copy of the rule.
"""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from jointed_crane.core.geometry.plane import cosine_and_sine

Floats = npt.NDArray[np.float64]
Entry = float | Floats
Matrix = list[list[Entry]]
Column = list[Entry]
Rows = slice | npt.NDArray[np.intp]

IDENTITY: Matrix = [[1.0, 0.0, 0.0], [0.0, 1.0, 0.0], [0.0, 0.0, 1.0]]


def entry(values: Floats) -> Entry:
    """The array itself, or one float where all its values are the same 0 or 1."""
    first = float(values.flat[0]) if values.size else 0.0
    if first in (0.0, 1.0) and bool((values == first).all()):
        return first
    return values


def of_rows(value: Entry, rows: Rows) -> Entry:
    """An entry of some rows; what is alike in all of them stays as it is."""
    return value if isinstance(value, float) or len(value) == 1 else value[rows]


def columns_of_rows(column: Column, rows: Rows) -> Column:
    """A column of some rows."""
    return [of_rows(value, rows) for value in column]


def matrices_of_rows(matrix: Matrix, rows: Rows) -> Matrix:
    """A matrix of some rows."""
    return matrix if matrix is IDENTITY else [columns_of_rows(row, rows) for row in matrix]


def put(target: Entry, rows: Rows, news: Entry) -> None:
    """Write some rows of an entry; one that is a plain number is so in all of them."""
    if not isinstance(target, float):
        target[rows] = news


def put_column(target: Column, rows: Rows, news: Column) -> None:
    """The same for the entries of a column."""
    for pair in zip(target, news, strict=True):
        put(pair[0], rows, pair[1])


def put_matrix(target: Matrix, rows: Rows, news: Matrix) -> None:
    """The same for the entries of a matrix."""
    for pair in zip(target, news, strict=True):
        put_column(pair[0], rows, pair[1])


def in_one_piece(rows: npt.NDArray[np.intp]) -> Rows:
    """Ascending rows as a slice if they are neighbours: entries of those are seen without being copied."""
    if not len(rows) or rows[-1] - rows[0] + 1 != len(rows):
        return rows
    return slice(int(rows[0]), int(rows[-1]) + 1)


def with_rows(value: Entry, rows: Rows, news: Entry, shape: tuple[int, int]) -> Entry:
    """An entry of so many rows and frames with some rows changed; what stays as it is in all of them is not copied."""
    if isinstance(value, float) and (news == value if isinstance(news, float) else bool((news == value).all())):
        return value
    result = np.empty(shape)
    result[:] = value
    result[rows] = news
    return result


def _is(value: Entry, number: float) -> bool:
    return isinstance(value, float) and value == number


def plus(a: Entry, b: Entry) -> Entry:
    """The sum, without computing what is known."""
    if _is(a, 0.0):
        return b
    return a if _is(b, 0.0) else a + b


def minus(a: Entry, b: Entry) -> Entry:
    """The difference, without computing what is known."""
    return a if _is(b, 0.0) else a - b


def product(a: Matrix, b: Matrix) -> Matrix:
    """The matrix product a b, without computing what is known; matrices are never changed in place."""
    if a is IDENTITY:
        return b
    if b is IDENTITY:
        return a
    return [[_dot(row, [b[0][j], b[1][j], b[2][j]]) for j in range(3)] for row in a]


def applied(a: Matrix, column: Column) -> Column:
    """The product of a matrix and a column."""
    return [_dot(row, column) for row in a]


def _dot(row: Column, column: Column) -> Entry:
    """The sum of products, without computing what is known; written out, since whole scenes are made of these."""
    total: Entry | None = None
    for a, b in zip(row, column, strict=True):
        a_known, b_known = isinstance(a, float), isinstance(b, float)
        if (a_known and a == 0.0) or (b_known and b == 0.0):
            continue
        if a_known and a == 1.0:
            term = b
        elif b_known and b == 1.0:
            term = a
        else:
            term = a * b
        total = term if total is None else total + term
    return 0.0 if total is None else total


def turned(axis: int, degrees: Entry) -> Matrix:
    """Rotation about x (0), y (1) or z (2); positive about z is clockwise on the screen (CSS Transforms, y down)."""
    return IDENTITY if _is(degrees, 0.0) else rotation(axis, np.deg2rad(np.asarray(degrees)))


def rotation(axis: int, radians: Floats) -> Matrix:
    """The same by radians."""
    cosine, sine = cosine_and_sine(radians)
    matrix = [list(row) for row in IDENTITY]
    first, second = ((1, 2), (2, 0), (0, 1))[axis]
    matrix[first][first] = matrix[second][second] = cosine
    matrix[first][second] = -sine
    matrix[second][first] = sine
    return matrix


def stacked(matrix: Matrix, shape: tuple[int, ...]) -> Floats:
    """The entries as one array, shape (*shape, 3, 3)."""
    result = np.empty((*shape, 3, 3))
    for i in range(3):
        for j in range(3):
            result[..., i, j] = matrix[i][j]
    return result


def stacked_column(column: Column, shape: tuple[int, ...]) -> Floats:
    """The entries of a column as one array, shape (*shape, 3)."""
    return np.stack([np.broadcast_to(np.asarray(value), shape) for value in column], axis=-1)


def unstacked_column(points: Floats) -> Column:
    """An array of shape (..., 3) as the entries of a column."""
    return [entry(points[..., axis]) for axis in range(3)]


def unstacked(matrices: Floats) -> Matrix:
    """An array of shape (..., 3, 3) as entries."""
    return [[entry(matrices[..., i, j]) for j in range(3)] for i in range(3)]
