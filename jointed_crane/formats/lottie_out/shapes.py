"""What a drawing paints as native shapes (Lottie 1.0, "Shapes"): paths with fills, strokes and gradients."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np

from jointed_crane.formats.moving.lottie_words import Json, still
from jointed_crane.formats.svg.display.nodes import Coat, Contour, Figure, Floats, Gradient, Group, Node, Painted, Pen

_CAPS = {"butt": 1, "round": 2, "square": 3}
_JOINS = {"miter": 1, "round": 2, "bevel": 3}
#: Matrices that differ less from one that keeps shapes count as one.
_SIMILAR = 1e-9


class BeyondShapes(Exception):
    """A drawing has something that native shapes and layers cannot say."""


def shape_items(node: Node, matrix: Floats) -> list[Json] | None:
    """A node as items, the uppermost first; None where it has to be a layer of its own. `matrix` goes from its space to
    that of the layer.
    """
    if isinstance(node, Painted):
        return [_painted(node, matrix)]
    if not isinstance(node, Group):
        return None
    if node.clips or (node.is_layer and not _fades_one(node)):
        return None
    result: list[Json] = []
    for child in node.children:
        items = shape_items(child, matrix @ node.matrix)
        if items is None:
            return None
        result = items + result
    if node.opacity < 1:
        return [group(result, transform(opacity=100 * node.opacity))]
    return result


def _fades_one(group: Group) -> bool:
    """Whether a group does nothing as a whole but fade a single paint, which fading that alone does as well."""
    return group.mask is None and group.blend == "normal" and not group.is_isolated and _coats_in(group) <= 1


def _coats_in(node: Node) -> int:
    if isinstance(node, Painted):
        return len(node.coats)
    if isinstance(node, Group) and not (node.is_layer and node.opacity == 1) and not node.clips:
        return sum(map(_coats_in, node.children))
    return 2


def path_item(contour: Contour, matrix: Floats = np.eye(3)) -> Json:  # noqa: B008  never written to
    """One contour as a path."""
    return {"ty": "sh", "ks": still(_bezier(contour, matrix))}


def _bezier(contour: Contour, matrix: Floats) -> Json:
    """One contour as the format has it: vertices, and their handles as offsets."""
    count = len(contour.curves)
    points = np.array([contour.start, *(point for curve in contour.curves for point in curve)])
    points = points @ matrix[:2, :2].T + matrix[:2, 2]
    vertices, leaving, arriving = points[::3], points[1::3], points[2::3]
    outs = np.concatenate([leaving - vertices[:-1], np.zeros((1, 2))])
    ins = np.concatenate([np.zeros((1, 2)), arriving - vertices[1:]])
    if contour.is_closed and count and np.allclose(vertices[0], vertices[-1], atol=1e-9):
        ins[0] = ins[-1]
        vertices, outs, ins = vertices[:-1], outs[:-1], ins[:-1]
    return {"c": contour.is_closed, "v": rounded(vertices), "i": rounded(ins), "o": rounded(outs)}


def rounded(points: Floats) -> list[list[float]]:
    """Points as they are written, shape (points, 2)."""
    result: list[list[float]] = np.round(points, 5).tolist()
    return result


def _painted(shape: Painted, matrix: Floats) -> Json:
    """A shape and its paints. Lines keep their width only under matrices that keep shapes; under others the shape stays
    in its own space, and groups around it bring it to where it lies.
    """
    scale = float(np.sqrt(abs(np.linalg.det(matrix[:2, :2]))))
    if any(coat.pen for coat in shape.coats) and not _keeps_shapes(matrix):
        items = [*_paths(shape.figure, np.eye(3)), *_paints(shape, np.eye(3), 1.0)]
        for at in reversed(transforms_of(matrix)):
            items = [group(items, at)]
        return items[0]
    return group([*_paths(shape.figure, matrix), *_paints(shape, matrix, scale)], transform())


def _paths(figure: Figure, matrix: Floats) -> list[Json]:
    return [path_item(contour, matrix) for contour in figure.contours]


def _paints(shape: Painted, matrix: Floats, scale: float) -> list[Json]:
    return [_paint(coat, shape.figure.is_even_odd, matrix, scale) for coat in reversed(shape.coats)]


def _paint(coat: Coat, is_even_odd: bool, matrix: Floats, scale: float) -> Json:
    item: Json
    if isinstance(coat.paint, tuple):
        red, green, blue, alpha = coat.paint
        item = {"ty": "fl", "c": still([red, green, blue]), "o": still(100 * alpha * coat.opacity)}
    elif isinstance(coat.paint, Gradient):
        item = {"ty": "gf", "o": still(100 * coat.opacity), **_gradient(coat.paint, matrix)}
    else:
        raise BeyondShapes("a pattern")
    if coat.pen is None:
        return item | {"r": 2 if is_even_odd else 1}
    return item | {"ty": {"fl": "st", "gf": "gs"}[item["ty"]], **_stroke(coat.pen, scale)}


def _stroke(pen: Pen, scale: float = 1.0) -> Json:
    """What a line is drawn with."""
    item: Json = {
        "w": still(pen.width * scale), "lc": _CAPS[pen.cap], "lj": _JOINS[pen.join], "ml": pen.miter,
    }  # fmt: skip
    if pen.dashes:
        marks = [{"n": "dg"[place % 2], "nm": "", "v": still(dash * scale)} for place, dash in enumerate(pen.dashes)]
        item["d"] = [*marks, {"n": "o", "nm": "", "v": still(pen.dash_offset * scale)}]
    return item


def _gradient(gradient: Gradient, matrix: Floats) -> Json:
    if gradient.spread != "pad":
        raise BeyondShapes("a gradient that repeats")
    whole = matrix @ gradient.matrix
    colours = [number for offset, colour in gradient.stops for number in (offset, *colour[:3])]
    alphas = [number for offset, colour in gradient.stops for number in (offset, colour[3])]
    is_clear = any(colour[3] < 1 for _, colour in gradient.stops)
    stops = {"p": len(gradient.stops), "k": still([*colours, *(alphas if is_clear else [])])}
    if not gradient.is_radial:
        begin, end = _line(gradient.places, whole)
        return {"t": 1, "s": still(begin), "e": still(end), "g": stops}
    fx, fy, fr, cx, cy, radius = gradient.places
    if not _keeps_shapes(whole) or fr > 0:
        raise BeyondShapes("a gradient in an ellipse")
    centre, edge = (whole @ [cx, cy, 1])[:2], (whole @ [cx + radius, cy, 1])[:2]
    focus = (whole @ [fx, fy, 1])[:2] - centre
    reach, axis = edge - centre, float(np.linalg.norm(edge - centre))
    angle = np.degrees(np.arctan2(focus[1], focus[0]) - np.arctan2(reach[1], reach[0]))
    length = float(np.linalg.norm(focus))
    return {
        "t": 2, "s": still(centre.tolist()), "e": still(edge.tolist()), "g": stops,
        "h": still(min(100 * length / axis, 100.0) if axis else 0.0), "a": still(float(angle) if length else 0.0),
    }  # fmt: skip


def _line(places: Sequence[float], matrix: Floats) -> tuple[list[float], list[float]]:
    """Where a gradient along a line begins and ends under a matrix, skewed ones too: its levels are lines square to the
    line it is said by, and under the matrix they are square to another.
    """
    begin, end = np.array(places[:2]), np.array(places[2:])
    way = end - begin
    there = (matrix @ [*begin, 1.0])[:2]
    if not way.any() or abs(np.linalg.det(matrix[:2, :2])) < 1e-12:
        return there.tolist(), (matrix @ [*end, 1.0])[:2].tolist()
    slope = np.linalg.solve(matrix[:2, :2].T, way / (way @ way))
    return there.tolist(), (there + slope / (slope @ slope)).tolist()


def _keeps_shapes(matrix: Floats) -> bool:
    (a, c), (b, d) = matrix[:2, :2].tolist()
    largest = max(abs(a), abs(b), abs(c), abs(d), 1e-300)
    is_turn = max(abs(a - d), abs(b + c)) <= _SIMILAR * largest
    return is_turn or max(abs(a + d), abs(b - c)) <= _SIMILAR * largest


def transforms_of(matrix: Floats) -> list[Json]:
    """A matrix as transforms that all players know, the outermost first: turned, scaled, and turned before that
    (its singular value decomposition), since not all of them know shear.
    """
    left, sizes, right = np.linalg.svd(matrix[:2, :2])
    for side in (left, right):  # rotations both, the sign goes into a size
        if np.linalg.det(side) < 0:
            if side is left:
                side[:, 1] *= -1
            else:
                side[1] *= -1
            sizes[1] *= -1
    outer, inner = (float(np.degrees(np.arctan2(side[1, 0], side[0, 0]))) for side in (left, right))
    place, scale = matrix[:2, 2].tolist(), (100 * sizes).tolist()
    if abs(sizes[0] - sizes[1]) < 1e-12 * max(abs(sizes[0]), 1e-300):
        outer, inner = outer + inner, 0.0
    if abs((inner + 45) % 90 - 45) < 1e-9:  # a turn by quarters inside only swaps the sides
        quarters = round(inner / 90)
        scale = scale if quarters % 2 == 0 else scale[::-1]
        outer, inner = outer + 90 * quarters, 0.0
    result = [transform(place, outer, scale)]
    return [*result, transform(turn=inner)] if inner else result


def transform(
    place: Sequence[float] = (0.0, 0.0),
    turn: float = 0.0,
    scale: Sequence[float] = (100.0, 100.0),
    opacity: float = 100.0,
) -> Json:
    """A transform that stands still."""
    return {
        "a": still([0.0, 0.0]), "p": still(list(place)), "s": still(list(scale)), "r": still(turn), "o": still(opacity),
    }  # fmt: skip


def group(items: list[Any], at: Json, name: str = "") -> Json:
    """Items that are moved and faded together."""
    return {"ty": "gr", "nm": name, "it": [*items, {"ty": "tr", **at}]}
