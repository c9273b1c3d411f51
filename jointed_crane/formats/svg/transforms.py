"""Transforms as drawings write them: lists of functions, as SVG attributes and as CSS (CSS Transforms 1, section 8)."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable
from functools import lru_cache, reduce

import numpy as np
import numpy.typing as npt
import tinycss2
from tinycss2.ast import DimensionToken, FunctionBlock, LiteralToken, Node, NumberToken, ParseError, WhitespaceToken

Floats = npt.NDArray[np.float64]
_DEGREES = {"": 1.0, "deg": 1.0, "rad": 180 / math.pi, "grad": 0.9, "turn": 360.0}
#: CSS Values 4, section 6.2: an inch has 96 px.
_PIXELS = {"": 1.0, "px": 1.0, "in": 96.0, "cm": 96 / 2.54, "mm": 9.6 / 2.54, "q": 2.4 / 2.54, "pt": 4 / 3, "pc": 16.0}


@lru_cache(maxsize=4096)
def matrix_of(text: str) -> Floats:
    """The matrix of a list of transforms, shape (3, 3); the last acts first. ValueError where it cannot be read."""
    result = [_function(node) for node in tinycss2.parse_component_value_list(text) if not _is_between(node)]
    return reduce(np.matmul, result, np.eye(3))


def _is_between(node: Node) -> bool:
    return isinstance(node, WhitespaceToken) or (isinstance(node, LiteralToken) and node.value == ",")


def _function(node: Node) -> Floats:
    if not isinstance(node, FunctionBlock) or node.lower_name not in _FUNCTIONS:
        raise ValueError(f"not a transform: {node.serialize()}")
    units, make = _FUNCTIONS[node.lower_name]
    numbers = [_number(argument, units) for argument in node.arguments if not _is_between(argument)]
    return make(*_checked(numbers, node.lower_name))


def _checked(numbers: list[float], name: str) -> list[float]:
    if len(numbers) not in _COUNTS.get(name, (1,)):
        raise ValueError(f"{name} with {len(numbers)} numbers")
    return numbers


def _number(node: Node, units: dict[str, float]) -> float:
    if isinstance(node, ParseError) or not isinstance(node, NumberToken | DimensionToken):
        raise ValueError(f"not a number: {node.serialize()}")
    unit = node.lower_unit if isinstance(node, DimensionToken) else ""
    if unit not in units:
        raise ValueError(f"not a unit: {unit}")
    return float(node.value) * units[unit]


def _rows(*rows: Iterable[float]) -> Floats:
    return np.array([*rows, (0.0, 0.0, 1.0)], dtype=np.float64)


def _matrix(a: float, b: float, c: float, d: float, e: float, f: float) -> Floats:
    return _rows((a, c, e), (b, d, f))


def _translate(x: float, y: float = 0.0) -> Floats:
    return _matrix(1, 0, 0, 1, x, y)


def _scale(x: float, y: float | None = None) -> Floats:
    return _matrix(x, 0, 0, x if y is None else y, 0, 0)


def _rotate(degrees: float, x: float = 0.0, y: float = 0.0) -> Floats:
    # Turns by multiples of a right angle are exact.
    quarter = degrees % 360 / 90
    cosine, sine = (
        ((1.0, 0.0), (0.0, 1.0), (-1.0, 0.0), (0.0, -1.0))[int(quarter)]
        if quarter == int(quarter)
        else (math.cos(math.radians(degrees)), math.sin(math.radians(degrees)))
    )
    return _translate(x, y) @ _matrix(cosine, sine, -sine, cosine, 0, 0) @ _translate(-x, -y)


def _skew(x: float, y: float = 0.0) -> Floats:
    return _matrix(1, math.tan(math.radians(y)), math.tan(math.radians(x)), 1, 0, 0)


_PLAIN = {"": 1.0}
_FUNCTIONS: dict[str, tuple[dict[str, float], Callable[..., Floats]]] = {
    "matrix": (_PLAIN, _matrix),
    "translate": (_PIXELS, _translate),
    "translatex": (_PIXELS, _translate),
    "translatey": (_PIXELS, lambda y: _translate(0.0, y)),
    "scale": (_PLAIN, _scale),
    "scalex": (_PLAIN, lambda x: _scale(x, 1.0)),
    "scaley": (_PLAIN, lambda y: _scale(1.0, y)),
    "rotate": (_DEGREES, _rotate),
    "skew": (_DEGREES, _skew),
    "skewx": (_DEGREES, _skew),
    "skewy": (_DEGREES, lambda y: _skew(0.0, y)),
}
#: How many numbers those take that do not take one.
_COUNTS = {"matrix": (6,), "translate": (1, 2), "scale": (1, 2), "rotate": (1, 3), "skew": (1, 2)}
