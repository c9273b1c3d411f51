"""The outline of the picture that a part shows at each frame: drawings are exchanged, and shapes grow."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from types import MappingProxyType

import numpy as np
import numpy.typing as npt

from jointed_crane.core.model.forms import Text
from jointed_crane.core.model.scene import Part
from jointed_crane.core.shapes.paths import contour_count, path_of
from jointed_crane.core.shapes.reshaping import MovingShapes, moving_shapes

Floats = npt.NDArray[np.float64]
#: So many points stand for each curve of a shape that moves, and for each of very many.
_POINTS, _FEW_POINTS, _MANY_CURVES = 9, 3, 200


@dataclass(frozen=True)
class Outline:
    """What is seen of a part.

    Attributes
    ----------
    corners : array, shape (frames, corners, 2), px in art space; those that a frame has less are no numbers
    reach : array, shape (frames,), how far a round line reaches beyond them, px in art space
    """

    corners: Floats
    reach: Floats


def outline_over_time(
    part: Part, drawing: Floats, frames: Floats, added: Mapping[str, Floats] = MappingProxyType({})
) -> Outline | None:
    """The outline at each frame, where the channel of the drawing has some values, shape (frames,), and links add to
    the numbers of the shape; None where it is that of the picture at rest throughout.
    """
    if not part.drawings:
        return None
    motion = moving_shapes(part, frames, added)
    shown = np.clip(np.rint(np.broadcast_to(drawing, frames.shape)), 0, len(part.drawings) - 1).astype(np.intp)
    if motion is None and (shown == part.drawing_number(part.rest_value("drawing"))).all():
        return None
    pieces = {number: _outline(part, number, motion, frames, added) for number in np.unique(shown).tolist()}
    most = max(piece.corners.shape[1] for piece in pieces.values())
    corners, reach = np.full((len(frames), most, 2), np.nan), np.zeros(len(frames))
    for number, piece in pieces.items():
        here = shown == number
        own = np.broadcast_to(piece.corners, (len(frames), *piece.corners.shape[1:]))
        corners[here, : own.shape[1]] = own[here]
        reach[here] = np.broadcast_to(piece.reach, frames.shape)[here]
    return Outline(corners, reach)


def _outline(
    part: Part, number: int, motion: MovingShapes | None, frames: Floats, added: Mapping[str, Floats]
) -> Outline:
    """The outline of one of a part's drawings, over the frames or alike for all of them."""
    drawing = part.drawings[number]
    if motion is None or drawing.shape is None or isinstance(drawing.shape, Text):
        rings = [np.array(ring, dtype=np.float64).reshape(-1, 2) for ring in drawing.outline]
        return Outline(np.concatenate([*rings, np.empty((0, 2))])[None], np.zeros(1))
    shown = part.with_rest({"drawing": float(number)})
    paths = (path_of(shown, contour, frames, added) for contour in range(contour_count(shown)))
    points = [_points(path.controls) for path in paths if path is not None]
    most = max((len(each) for each in points), default=1)
    points = [np.broadcast_to(each, (most, *each.shape[1:])) for each in points]
    paint, width = drawing.shape.paint, np.zeros(1)
    if paint.stroke:
        offsets = dict(zip(motion.names, motion.offsets, strict=True))
        width = np.maximum(paint.width + offsets.get("stroke.width", np.zeros(1)), 0.0)
    return Outline(np.concatenate([*points, np.empty((most, 0, 2))], axis=1), width / 2)


def _points(controls: Floats) -> Floats:
    """Points on cubics, shape (frames, curves, 4, 2), as rows of shape (frames, points, 2)."""
    count = _POINTS if controls.shape[1] <= _MANY_CURVES else _FEW_POINTS
    t = np.linspace(0.0, 1.0, count)
    weights = np.stack([(1 - t) ** 3, 3 * t * (1 - t) ** 2, 3 * t * t * (1 - t), t**3])
    result: Floats = np.einsum("kt,fckd->fctd", weights, controls)
    return result.reshape(len(controls), -1, 2)
