"""The contours that parts run along, as their pictures have them over some frames."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache
from types import MappingProxyType

import numpy as np
import numpy.typing as npt

from jointed_crane.core.geometry.arc_length import Way, pieces_of
from jointed_crane.core.scene import Drawing, Part
from jointed_crane.core.shape_motion import Moving, moving, reshaped
from jointed_crane.core.shapes import Ellipse, PenPath, Shape, contours_of, is_closed, sides

Floats = npt.NDArray[np.float64]


@dataclass(frozen=True)
class Path:
    """A contour of a part.

    Attributes
    ----------
    controls : array, shape (frames, curves, 4, 2), or (1, ...) where the picture does not move, px in art space
    pieces : into how many pieces each curve is cut to find lengths
    """

    controls: Floats
    pieces: int
    is_closed: bool

    def on_stage(self, linear: Floats, origin: Floats) -> Way:
        """The path as it lies on the stage.

        Parameters
        ----------
        linear, origin : arrays, shapes (frames, 2, 2) and (frames, 2), art space to stage
        """
        found = self.controls @ np.swapaxes(linear, -1, -2)[:, None] + origin[:, None, None]
        return Way(found, self.pieces)


def contour_count(part: Part) -> int:
    """How many contours the picture has that the part shows at rest."""
    drawing = part.drawing
    if drawing is None:
        return 0
    return len(contours_of(drawing.shape)) if drawing.shape is not None else len(drawing.outline)


def path_of(
    part: Part, contour: int, frames: Floats, added: Mapping[str, Floats] = MappingProxyType({})
) -> Path | None:
    """A contour of the picture that a part shows at rest, moved by its own channels and by what links add to them; None
    where it has no such contour.
    """
    drawing = part.drawing
    if drawing is None:
        return None
    curves, pieces, closed = _drawn(drawing, contour)
    if not len(curves):
        return None
    controls = curves[None]
    motion = moving(part, frames, added) if drawing.shape is not None else None
    if motion is not None and drawing.shape is not None:
        controls = controls + _moved(drawing.shape, contour, motion)
    return Path(controls, pieces, closed)


@lru_cache(maxsize=256)
def _drawn(drawing: Drawing, contour: int) -> tuple[Floats, int, bool]:
    """A contour of a drawing, shape (curves, 4, 2), px in art space, its pieces, and whether it is closed."""
    shape = drawing.shape
    if shape is None:
        if contour >= len(drawing.outline):
            return np.empty((0, 4, 2)), 1, True
        corners = np.array(drawing.outline[contour], dtype=np.float64)
        ends = np.roll(corners, -1, axis=0)
        share = (np.arange(4) / 3)[:, None]
        return corners[:, None] + share * (ends - corners)[:, None], 1, True
    curves = _sides_of(shape, contour) - np.array(drawing.registration)
    return curves, pieces_of(curves) if len(curves) else 1, is_closed(shape)


def _sides_of(shape: Shape, contour: int) -> Floats:
    contours = contours_of(shape)
    return sides(contours[contour], is_closed(shape)) if contour < len(contours) else np.empty((0, 4, 2))


def _moved(shape: Shape, contour: int, motion: Moving) -> Floats:
    """How far a shape that moves carries the control points of a contour, shape (frames, curves, 4, 2)."""
    rest = _sides_of(shape, contour)
    if isinstance(shape, PenPath | Ellipse):  # they follow each of their numbers in proportion
        rates = [_sides_of(reshaped(shape, {name: 1.0}), contour) - rest for name in motion.names]
        found: Floats = np.einsum("nf,nckx->fckx", motion.offsets, np.array(rates))
        return found
    different, back = np.unique(motion.offsets, axis=1, return_inverse=True)
    made = [_sides_of(reshaped(shape, _named(motion, column)), contour) - rest for column in different.T]
    return np.array(made)[back.reshape(-1)]


def _named(motion: Moving, column: Floats) -> Mapping[str, float]:
    return dict(zip(motion.names, column.tolist(), strict=True))
