"""Shapes of a file as elements of a drawing (Lottie 1.0, "Shapes")."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
import numpy.typing as npt
from lxml import etree

from jointed_crane.core.geometry.coordinates import Point
from jointed_crane.formats.lottie_in.properties import Unreadable, is_moving, moments, number, value_at
from jointed_crane.formats.svg.display.nodes import Contour, Curve
from jointed_crane.formats.svg.display.outlines import contours_of_form
from jointed_crane.formats.svg.tags import SVG

Floats = npt.NDArray[np.float64]
_CAPS = {1: "butt", 2: "round", 3: "square"}
_JOINS = {1: "miter", 2: "round", 3: "bevel"}
#: What acts on shapes and is not drawn here, by what it is called.
_UNKNOWN = {
    "tm": "trimmed paths", "rp": "repeated shapes", "rd": "rounded corners", "mm": "merged paths",
    "pb": "puckered paths", "tw": "twisted paths", "zz": "zigzags", "op": "offset paths",
}  # fmt: skip


@dataclass
class Sketch:
    """A drawing in the making.

    Attributes
    ----------
    time : at which it is looked at what moves
    say : told what is not understood
    defs : gradients and clips
    """

    time: float
    say: Callable[[str], None]
    defs: list[etree._Element] = field(default_factory=list)

    def value(self, prop: Any, default: Sequence[float] = (0.0,)) -> tuple[float, ...]:
        """The values of a property at the time; what moves inside a shape stands still here."""
        if is_moving(prop):
            self.say("shapes that move in themselves")
        return value_at(moments(prop, default), self.time)

    def named(self, element: etree._Element) -> str:
        """Put something that is referred to among the defs; its reference."""
        name = f"d{len(self.defs) + 1}"
        element.set("id", name)
        self.defs.append(element)
        return f"url(#{name})"


def svg_element(tag: str, **attributes: object) -> etree._Element:
    """An element; underscores in names are hyphens."""
    result = etree.Element(f"{{{SVG}}}{tag}")
    for name, value in attributes.items():
        result.set(name.replace("_", "-"), f"{value:.10g}" if isinstance(value, float) else str(value))
    return result


def matrix_of(transform: Any, drawn: Sketch) -> Floats:
    """The matrix of a transform that stands still, shape (3, 3)."""
    if transform is None:
        return np.eye(3)
    ax, ay = _two(drawn.value(transform.get("a"), (0.0, 0.0)))
    x, y = _place(transform.get("p"), drawn)
    sx, sy = (share / 100 for share in _two(drawn.value(transform.get("s"), (100.0, 100.0))))
    (turn,) = drawn.value(transform.get("r", transform.get("rz")))[:1]
    (skew,), (axis,) = drawn.value(transform.get("sk"))[:1], drawn.value(transform.get("sa"))[:1]
    linear = rotation(turn) @ skewed(skew, axis) @ np.diag([sx, sy])
    result = np.eye(3)
    result[:2, :2] = linear
    result[:2, 2] = np.array([x, y]) - linear @ [ax, ay]
    return result


def rotation(degrees: float) -> Floats:
    """Clockwise on the screen, shape (2, 2)."""
    cosine, sine = np.cos(np.deg2rad(degrees)), np.sin(np.deg2rad(degrees))
    return np.array([[cosine, -sine], [sine, cosine]])


def skewed(skew: float, axis: float) -> Floats:
    """A shear by an angle along an axis, as players have it, shape (2, 2)."""
    return rotation(axis) @ np.array([[1.0, -np.tan(np.deg2rad(skew))], [0.0, 1.0]]) @ rotation(-axis)


def _place(prop: Any, drawn: Sketch) -> tuple[float, float]:
    if isinstance(prop, dict) and prop.get("s") is True:
        return drawn.value(prop.get("x"))[0], drawn.value(prop.get("y"))[0]
    return _two(drawn.value(prop, (0.0, 0.0)))


def _two(values: Sequence[float]) -> tuple[float, float]:
    if len(values) < 2:
        raise Unreadable("a place has too few numbers")
    return values[0], values[1]


def shape_elements(items: Any, drawn: Sketch) -> list[etree._Element]:
    """Items as elements from back to front."""
    return _scope(items, drawn, 1.0)[0][::-1]


def _scope(items: Any, drawn: Sketch, opacity: float) -> tuple[list[etree._Element], list[Contour]]:
    """What items paint, the uppermost first, and their contours: a paint goes for all of them before it."""
    if not isinstance(items, list):
        raise Unreadable("its shapes are missing")
    painted: list[etree._Element] = []
    contours: list[Contour] = []
    for item in items:
        if not isinstance(item, dict) or item.get("hd"):
            continue
        kind = item.get("ty")
        if kind == "gr":
            inside = item.get("it")
            at = next((one for one in inside if one.get("ty") == "tr"), None) if isinstance(inside, list) else None
            matrix = matrix_of(at, drawn)
            faded = opacity * (drawn.value((at or {}).get("o"), (100.0,))[0] / 100)
            its_paint, its_contours = _scope(inside, drawn, faded)
            if its_paint:
                holder = svg_element("g", transform=f"matrix({_numbers(matrix[:2].T.ravel())})")
                holder.extend(its_paint[::-1])
                painted.append(holder)
            contours += [_carried(contour, matrix) for contour in its_contours]
        elif kind in ("sh", "rc", "el", "sr"):
            contours += _contours(kind, item, drawn)
        elif kind in ("fl", "st", "gf", "gs"):
            if contours:
                painted.append(_paint(kind, item, contours, drawn, opacity))
        elif kind in _UNKNOWN:
            drawn.say(_UNKNOWN[kind])
        elif kind != "tr":
            drawn.say(f"shapes of the kind {str(kind)[:20]!r}")
    return painted, contours


# Outlines


def contour_of(path: Any) -> Contour:
    """A path as files write it: vertices, and handles as offsets from them."""
    if isinstance(path, list) and len(path) == 1:
        (path,) = path
    if not isinstance(path, dict):
        raise Unreadable("a path is missing")
    columns = [path.get(name) for name in ("v", "o", "i")]
    if not all(isinstance(column, list) and len(column) == len(columns[0] or ()) for column in columns):
        raise Unreadable("a path has not as many handles as vertices")
    rows = [[_two(tuple(map(number, point))) for point in column or ()] for column in columns]
    vertices, outs, ins = (np.array(row, dtype=np.float64).reshape(-1, 2) for row in rows)
    if not len(vertices):
        raise Unreadable("a path has no vertices")
    leaving, arriving, points = (_points(array) for array in (vertices + outs, vertices + ins, vertices))
    count = len(points)
    is_closed = bool(path.get("c"))
    curves: list[Curve] = []
    for place in range(count if is_closed else count - 1):
        after = (place + 1) % count
        curves.append((leaving[place], arriving[after], points[after]))
    return Contour(points[0], tuple(curves), is_closed)


def _points(array: Floats) -> list[Point]:
    return [(x, y) for x, y in array.tolist()]


def _contours(kind: str, item: dict[str, Any], drawn: Sketch) -> list[Contour]:
    if kind == "sh":
        prop = item.get("ks")
        if is_moving(prop):
            drawn.say("shapes that move in themselves")
            assert isinstance(prop, dict)
            keys = [key for key in prop["k"] if isinstance(key, dict) and "s" in key]
            before = [key for key in keys if number(key.get("t")) <= drawn.time]
            made = [contour_of((before or keys)[-1 if before else 0]["s"])] if keys else []
        else:
            made = [contour_of(prop.get("k") if isinstance(prop, dict) else prop)]
    elif kind == "sr":
        made = [_star(item, drawn)]
    else:
        x, y = _two(drawn.value(item.get("p"), (0.0, 0.0)))
        width, height = _two(drawn.value(item.get("s"), (0.0, 0.0)))
        if kind == "el":
            at = {"cx": x, "cy": y, "rx": width / 2, "ry": height / 2}
            made = list(contours_of_form("ellipse", at))
        else:
            (radius,) = drawn.value(item.get("r"))[:1]
            at = {"x": x - width / 2, "y": y - height / 2, "width": width, "height": height, "rx": radius, "ry": radius}
            made = list(contours_of_form("rect", at))
    return list(map(_backwards, made)) if item.get("d") == 3 else made


def _star(item: dict[str, Any], drawn: Sketch) -> Contour:
    """A star or a regular polygon, its first corner upwards."""
    x, y = _two(drawn.value(item.get("p"), (0.0, 0.0)))
    count = min(max(round(drawn.value(item.get("pt"), (5.0,))[0]), 2), 1000)
    (turn,), (outer,) = drawn.value(item.get("r"))[:1], drawn.value(item.get("or"))[:1]
    if drawn.value(item.get("os"))[0] or drawn.value(item.get("is"))[0]:
        drawn.say("round corners of stars")
    radii = [outer]
    if item.get("sy") != 2:
        radii = [outer, drawn.value(item.get("ir"))[0]]
    steps = len(radii) * count
    angles = np.deg2rad(turn - 90 + 360 * np.arange(steps) / steps)
    size = np.resize(radii, steps)
    points: list[Point] = [
        (x + r * float(np.cos(a)), y + r * float(np.sin(a))) for r, a in zip(size, angles, strict=True)
    ]
    return Contour(points[0], tuple((a, b, b) for a, b in zip(points, [*points[1:], points[0]], strict=True)), True)


def _backwards(contour: Contour) -> Contour:
    ends = [contour.start, *(curve[2] for curve in contour.curves)]
    curves = [(back, out, end) for (out, back, _), end in zip(contour.curves, ends, strict=False)]
    return replace(contour, start=ends[-1], curves=tuple(reversed(curves)))


def _carried(contour: Contour, matrix: Floats) -> Contour:
    points = np.array([contour.start, *(point for curve in contour.curves for point in curve)])
    moved = _points(points @ matrix[:2, :2].T + matrix[:2, 2])
    curves = tuple(zip(moved[1::3], moved[2::3], moved[3::3], strict=True))
    return replace(contour, start=moved[0], curves=curves)


def path_data(contours: Iterable[Contour]) -> str:
    """Contours as path data (SVG 2, 9.3)."""
    pieces = []
    for contour in contours:
        at = contour.start
        pieces.append("M" + _numbers(at))
        for leaving, arriving, end in contour.curves:
            is_side = leaving == at and arriving == end
            pieces.append("L" + _numbers(end) if is_side else "C" + _numbers((*leaving, *arriving, *end)))
            at = end
        if contour.is_closed:
            pieces.append("Z")
    return "".join(pieces)


def _numbers(values: Iterable[float]) -> str:
    return " ".join(f"{round(float(value), 6):.10g}" for value in values)


# Paints


def _paint(
    kind: str, item: dict[str, Any], contours: Sequence[Contour], drawn: Sketch, opacity: float
) -> etree._Element:
    paint = _gradient(item, drawn) if kind[0] == "g" else _colour(drawn.value(item.get("c"), (0.0, 0.0, 0.0)))
    share = min(max(opacity * drawn.value(item.get("o"), (100.0,))[0] / 100, 0.0), 1.0)
    element = svg_element("path", d=path_data(contours))
    if kind in ("fl", "gf"):
        for name, value in (("fill", paint), ("fill-opacity", f"{share:.10g}")):
            element.set(name, value)
        if item.get("r") == 2:
            element.set("fill-rule", "evenodd")
        return element
    width = drawn.value(item.get("w"), (1.0,))[0]
    cap, join = _CAPS.get(item.get("lc", 1), "butt"), _JOINS.get(item.get("lj", 1), "miter")
    miter = max(number(item.get("ml", 4)), 1.0)
    told = {
        "fill": "none", "stroke": paint, "stroke-opacity": f"{share:.10g}", "stroke-width": f"{max(width, 0.0):.10g}",
        "stroke-linecap": cap, "stroke-linejoin": join, "stroke-miterlimit": f"{miter:.10g}",
    }  # fmt: skip
    for name, value in told.items():
        element.set(name, value)
    dashes = [one for one in item.get("d") or () if isinstance(one, dict)]
    if dashes:
        lengths = [drawn.value(one.get("v"))[0] for one in dashes if one.get("n") in ("d", "g")]
        element.set("stroke-dasharray", _numbers(lengths))
        offset = [drawn.value(one.get("v"))[0] for one in dashes if one.get("n") == "o"]
        element.set("stroke-dashoffset", _numbers(offset or [0.0]))
    return element


def _colour(values: Sequence[float]) -> str:
    """Shares of 1, or as older files have them of 255."""
    if len(values) < 3:
        raise Unreadable("a colour has too few numbers")
    whole = 255.0 if max(values[:3]) > 1 else 1.0
    return "#" + "".join(f"{round(255 * min(max(value / whole, 0.0), 1.0)):02x}" for value in values[:3])


def _gradient(item: dict[str, Any], drawn: Sketch) -> str:
    stops = item.get("g")
    if not isinstance(stops, dict):
        raise Unreadable("a gradient has no colours")
    count = int(number(stops.get("p", 0)))
    table = drawn.value(stops.get("k"))
    if not 0 < count <= len(table) // 4:
        raise Unreadable("a gradient has too few colours")
    begin, end = (np.array(_two(drawn.value(item.get(name), (0.0, 0.0)))) for name in ("s", "e"))
    if item.get("t") == 2:
        radius = float(np.linalg.norm(end - begin))
        reach, turn = drawn.value(item.get("h"))[0] / 100, drawn.value(item.get("a"))[0]
        focus = begin + rotation(turn) @ (end - begin) * min(max(reach, -0.99), 0.99)
        element = svg_element(
            "radialGradient", cx=float(begin[0]), cy=float(begin[1]), r=radius, fx=float(focus[0]), fy=float(focus[1])
        )
    else:
        element = svg_element(
            "linearGradient", x1=float(begin[0]), y1=float(begin[1]), x2=float(end[0]), y2=float(end[1])
        )
    element.set("gradientUnits", "userSpaceOnUse")
    colours = np.reshape(table[: 4 * count], (count, 4))
    alphas = np.reshape(table[4 * count : len(table) // 2 * 2], (-1, 2)) if len(table) > 4 * count else None
    places = colours[:, 0] if alphas is None else np.unique(np.concatenate([colours[:, 0], alphas[:, 0]]))
    for place in places.tolist():
        rgb = [float(np.interp(place, colours[:, 0], colours[:, column])) for column in (1, 2, 3)]
        stop = svg_element(
            "stop", offset=float(min(max(place, 0.0), 1.0)), stop_color=_colour([min(v, 1.0) for v in rgb])
        )
        if alphas is not None:
            stop.set("stop-opacity", f"{float(np.interp(place, alphas[:, 0], alphas[:, 1])):.10g}")
        element.append(stop)
    return drawn.named(element)
