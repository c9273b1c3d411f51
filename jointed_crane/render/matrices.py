"""Matrices as the rasteriser takes them."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
import skia


def planar_matrix(matrix: npt.NDArray[np.float64]) -> skia.Matrix:
    """A matrix of the plane, shape (3, 3)."""
    return skia.Matrix.MakeAll(*matrix.ravel().tolist())
