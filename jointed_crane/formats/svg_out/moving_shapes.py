"""Shapes that move as SVG paths: one of them at a frame, or over all frames by CSS keyframes.

The path data is animated by the CSS property `d` (SVG 2, section 9.3.2). Its keyframes have the same commands, so
browsers draw straight lines between them. Colours and widths go along.
"""

from __future__ import annotations

from collections.abc import Sequence

from lxml import etree

from jointed_crane.core.model.forms import Shape
from jointed_crane.core.model.scene import Drawing
from jointed_crane.core.shapes.picture import path_data
from jointed_crane.formats.moving.keyframes import Keyframe
from jointed_crane.formats.svg.tags import SVG
from jointed_crane.formats.svg_out.inlining import number


def add_shape(holder: etree._Element, drawing: Drawing, shape: Shape) -> etree._Element:
    """Put a shape into a group whose coordinates are the art space of a drawing; returns its path."""
    x, y = drawing.registration
    if x or y:
        holder = etree.SubElement(holder, f"{{{SVG}}}g", transform=f"translate({number(-x)} {number(-y)})")
    path = etree.SubElement(holder, f"{{{SVG}}}path", d=path_data(shape), fill=shape.paint.fill or "none")
    if shape.paint.stroke:
        path.set("stroke", shape.paint.stroke)
        path.set("stroke-width", number(shape.paint.width))
        path.set("stroke-linejoin", "round")
        path.set("stroke-linecap", "round")
    return path


def shape_keyframes(shapes: Sequence[Shape]) -> tuple[list[Keyframe], list[str]]:
    """Keyframes whose values are places among declarations; frames between two alike are left out."""
    declarations = [_declaration(shape) for shape in shapes]
    result = []
    for frame, declaration in enumerate(declarations):
        beside = declarations[max(frame - 1, 0) : frame + 2]
        if frame in (0, len(declarations) - 1) or any(other != declaration for other in beside):
            result.append(Keyframe(float(frame), float(frame), "straight"))
    return result, declarations


def _declaration(shape: Shape) -> str:
    paint = shape.paint
    stroke = f";stroke:{paint.stroke};stroke-width:{number(paint.width)}px" if paint.stroke else ""
    return f'd:path("{path_data(shape)}");fill:{paint.fill or "none"}{stroke}'
