"""The contours that parts run along, as their pictures have them over some frames."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from functools import lru_cache
from types import MappingProxyType

import numpy as np
import numpy.typing as npt

from jointed_crane.core.geometry.arc_length import Way, pieces_of
from jointed_crane.core.model.channels import node_of
from jointed_crane.core.model.forms import PenPath, Polygon, Rectangle, Shape, Text, contours_of, is_closed, sides
from jointed_crane.core.model.scene import Drawing, Part
from jointed_crane.core.shapes.reshaping import form_numbers, moving_shapes, numbers_of_shape, reshaped

Floats = npt.NDArray[np.float64]

#: A curve that moves is cut into no fewer pieces than this, at all frames alike: it may come to bend more than it does.
_MOVING_PIECES = 24


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
        """The path as it lies on the stage, in its plane or in space.

        Parameters
        ----------
        linear, origin : arrays, shapes (frames, 2, 2) and (frames, 2), or (frames, 3, 3) and (frames, 3), art space to
            stage
        """
        result = self.controls @ np.swapaxes(linear[..., :2], -1, -2)[:, None] + origin[:, None, None]
        return Way(result, self.pieces)


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
    shape = drawing.shape
    motion = moving_shapes(part, frames, added) if shape is not None else None
    if shape is None or motion is None:
        return Path(curves[None], pieces, closed)
    offsets = dict(zip(motion.names, motion.offsets, strict=True))
    return Path(_moved(shape, contour, offsets) - np.array(drawing.registration), max(pieces, _MOVING_PIECES), closed)


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


def _moved(shape: Shape, contour: int, offsets: Mapping[str, Floats]) -> Floats:
    """The control points of a contour whose shape's numbers are larger by so much, each of shape (frames,); shape
    (frames, curves, 4, 2). Each form follows its numbers in proportion, a polygon the sine and cosine of its angle.
    """
    if isinstance(shape, PenPath):
        shape = _with_handles(shape, offsets)
        known = numbers_of_shape(shape)
        return _in_proportion(shape, contour, {name: by for name, by in offsets.items() if name in known})
    if isinstance(shape, Text):
        return _sides_of(shape, contour)[None]
    numbers = form_numbers(shape, offsets)
    if isinstance(shape, Polygon):
        unit = _sides_of(Polygon((0.0, 0.0), 1.0, shape.corners), contour)
        square = np.stack([-unit[..., 1], unit[..., 0]], axis=-1)
        cx, cy, radius, angle = (np.atleast_1d(numbers[f"form.{name}"]) for name in ("cx", "cy", "radius", "angle"))
        x, y = (radius * of(np.deg2rad(angle)) for of in (np.cos, np.sin))
        turned = x[:, None, None, None] * unit + y[:, None, None, None] * square
        centre = np.stack(np.broadcast_arrays(cx, cy), axis=-1)
        return np.asarray(turned + centre[:, None, None])
    if isinstance(shape, Rectangle):
        across, down = (numbers[f"form.{b}"] - numbers[f"form.{a}"] for a, b in (("left", "right"), ("top", "bottom")))
        numbers["form.corner"] = np.minimum(numbers["form.corner"], np.minimum(across, down) / 2)
        shape = Rectangle((0.0, 0.0, 10.0, 10.0), 1.0)  # round, so that its corners may become so
    known = numbers_of_shape(shape)
    return _in_proportion(shape, contour, {name: np.atleast_1d(value) - known[name] for name, value in numbers.items()})


def _in_proportion(shape: Shape, contour: int, by: Mapping[str, Floats]) -> Floats:
    """Control points that follow each number of their shape in proportion, shape (frames, curves, 4, 2)."""
    result = _sides_of(shape, contour)[None]
    rest = result[0]
    for name, more in by.items():
        rate = _sides_of(reshaped(shape, {name: 1.0}), contour) - rest
        if rate.any():
            result = result + more[:, None, None, None] * rate
    return result


def _with_handles(shape: PenPath, names: Iterable[str]) -> PenPath:
    """The same path with handles of no length where some move: a straight side has none, and stays straight."""
    moved = {result[:2] for result in map(node_of, names) if result}
    made, number = [], 0
    for contour in shape.contours:
        nodes = []
        for node in contour:
            before, after = ((number, side) in moved for side in ("in.", "out."))
            nodes.append(
                replace(
                    node,
                    handle_in=node.handle_in or ((0.0, 0.0) if before else None),
                    handle_out=node.handle_out or ((0.0, 0.0) if after else None),
                )
            )
            number += 1
        made.append(tuple(nodes))
    return replace(shape, contours=tuple(made))
