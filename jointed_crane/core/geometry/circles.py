"""Circles through points."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.float64]


def circle_through(points: Floats) -> tuple[tuple[float, float], float]:
    """The circle that comes nearest to points, shape (points, 2): its centre and its radius.

    Least squares of x^2 + y^2 = 2 a x + 2 b y + c, which is linear in a, b and c (Kasa 1976).
    """
    system = np.column_stack([2 * points, np.ones(len(points))])
    (a, b, c), *_ = np.linalg.lstsq(system, (points**2).sum(axis=1), rcond=None)
    return (float(a), float(b)), float(np.sqrt(max(c + a * a + b * b, 0.0)))
