"""Matrices as the rasteriser takes them."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
import skia


def planar_matrix(matrix: npt.NDArray[np.float64]) -> skia.Matrix:
    """A matrix of the plane, shape (3, 3)."""
    return skia.Matrix.MakeAll(*matrix.ravel().tolist())


def of_box(box: skia.Rect) -> skia.Matrix:
    """From the square of objectBoundingBox units to user space (SVG 2, 8.10)."""
    return skia.Matrix.MakeAll(box.width(), 0, box.left(), 0, box.height(), box.top(), 0, 0, 1)


def transformed(path: skia.Path, matrix: skia.Matrix) -> skia.Path:
    """A path under a matrix."""
    result = skia.Path()
    path.transform(matrix, result)
    return result
