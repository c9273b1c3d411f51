"""The picture of a shape: its bounds, its outline, and the SVG that is stored and shown for it."""

from __future__ import annotations

import hashlib
from collections.abc import Mapping
from dataclasses import replace

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.model.forms import Shape, contours_of, ensure_drawable, is_closed, sides
from jointed_crane.core.model.scene import Drawing, Part
from jointed_crane.core.outlines.outline import outline
from jointed_crane.core.outlines.patches import Floats, Patch, Stroke
from jointed_crane.core.outlines.polylines import Subpaths, polylines
from jointed_crane.core.shapes.reshaping import reshaped

#: Room around the picture, px, so that soft edges are not cut.
_SPARE = 2.0


def shape_drawing(drawing_id: str, name: str, shape: Shape, registration: tuple[float, float] = (0.0, 0.0)) -> Drawing:
    """A drawing that shows a shape; RuleError where the shape cannot be drawn or paints nothing."""
    ensure_drawable(shape)
    result = outline(_patches(shape))
    if result is None:
        raise RuleError(f"{name} would paint nothing: it has neither a fill nor a stroke, or no size.")
    bounds, rings = result
    left, top, right, bottom = bounds
    box = (left - _SPARE, top - _SPARE, right + _SPARE, bottom + _SPARE)
    drawing = Drawing(drawing_id, name, "", box, bounds, outline=rings, shape=shape).with_zero_moved(registration)
    return replace(drawing, art=hashlib.sha256(made_art(drawing)).hexdigest())


def with_shapes_changed(part: Part, by: Mapping[str, float]) -> Part:
    """A part whose drawn shapes have numbers larger by so much, in all of its drawings that have them."""
    drawings = (
        drawing
        if drawing.shape is None
        else shape_drawing(drawing.id, drawing.name, reshaped(drawing.shape, by), drawing.registration)
        for drawing in part.drawings
    )
    return replace(part, drawings=tuple(drawings))


def made_art(drawing: Drawing) -> bytes:
    """The SVG of a drawing that was made from a shape; its SHA-256 is the drawing's `art`."""
    shape = drawing.shape
    assert shape is not None
    left, top, right, bottom = drawing.box
    paint = shape.paint
    stroke = (
        f' stroke="{paint.stroke}" stroke-width="{paint.width:.10g}" stroke-linejoin="round" stroke-linecap="round"'
        if paint.stroke and paint.width
        else ""
    )
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{right - left:.10g}" height="{bottom - top:.10g}" '
        f'viewBox="{left:.10g} {top:.10g} {right - left:.10g} {bottom - top:.10g}">'
        f'<path d="{path_data(shape)}" fill="{paint.fill or "none"}"{stroke}/></svg>'
    ).encode()


def path_data(shape: Shape) -> str:
    """The contours as SVG path data (SVG 2, section 9.3), px in the shape's own coordinates."""
    pieces = []
    for contour in contours_of(shape):
        beziers = sides(contour, is_closed(shape))
        if not len(beziers):
            continue
        pieces.append("M" + _pair(beziers[0, 0]))
        pieces += ["C" + " ".join(_pair(point) for point in bezier[1:]) for bezier in beziers]
        if is_closed(shape):
            pieces.append("Z")
    return "".join(pieces)


def _pair(point: Floats) -> str:
    return f"{round(float(point[0]), 4):.10g} {round(float(point[1]), 4):.10g}"


def _patches(shape: Shape) -> list[Patch]:
    curves = [beziers for contour in contours_of(shape) if len(beziers := sides(contour, is_closed(shape)))]
    counts = [len(beziers) for beziers in curves]
    controls = [number for beziers in curves for number in beziers.ravel().tolist()]
    (lines,) = polylines([Subpaths(controls, [False] * sum(counts), counts)])
    result = []
    if shape.paint.fill:
        result.append(Patch(tuple(lines)))
    if shape.paint.stroke and shape.paint.width:
        result.append(Patch(tuple(lines), stroke=Stroke(shape.paint.width, "round", "round")))
    return result
