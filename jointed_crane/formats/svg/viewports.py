"""Lengths with units, and what a viewport's viewBox does (SVG 2, section 8)."""

from __future__ import annotations

import math
import re
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt
from lxml import etree

from jointed_crane.formats.svg.styles import declared
from jointed_crane.formats.svg.transforms import matrix_of

Floats = npt.NDArray[np.float64]

#: CSS Values and Units 4, absolute lengths, in px.
_UNITS = {"px": 1.0, "": 1.0, "in": 96.0, "cm": 96 / 2.54, "mm": 96 / 25.4, "q": 96 / 101.6, "pt": 96 / 72, "pc": 16.0}
#: A number as SVG and CSS write it.
NUMBER = re.compile(r"[-+]?(?:\d+\.?\d*|\.\d+)(?:e[-+]?\d+)?", re.I)
_LENGTH = re.compile(rf"^\s*({NUMBER.pattern})\s*([a-z%]*)\s*$", re.I)
#: What a font size is where the drawing says nothing: the initial value `medium`.
FONT_SIZE = 16.0


def length(text: str | None, whole: float, default: float = 0.0, font_size: float = FONT_SIZE) -> float:
    """A length in px; percentages are of `whole`, em and ex of the font size. What cannot be read is the default."""
    match = _LENGTH.match(text or "")
    if not match:
        return default
    number, unit = float(match[1]), match[2].lower()
    if unit == "%":
        return number / 100 * whole
    if unit in ("em", "rem"):
        return number * font_size
    if unit == "ex":
        return number * font_size / 2
    return number * _UNITS[unit] if unit in _UNITS else default


#: What percentages of a property are of, if not the viewport's diagonal.
_WHOLES = dict.fromkeys(("x", "cx", "width", "rx", "x1", "x2"), "x")
_WHOLES |= dict.fromkeys(("y", "cy", "height", "ry", "y1", "y2"), "y")


def diagonal(size: tuple[float, float]) -> float:
    """What percentages are of that belong to neither side of a viewport."""
    return math.hypot(*size) / math.sqrt(2)


def geometry(name: str, text: str | None, size: tuple[float, float], default: float, font_size: float) -> float:
    """A geometry property in user px; percentages are of the viewport's width, height or diagonal (SVG 2, 8.9)."""
    whole = {"x": size[0], "y": size[1]}.get(_WHOLES.get(name, ""))
    return length(text, diagonal(size) if whole is None else whole, default, font_size)


@dataclass(frozen=True)
class Viewport:
    """A size in px and the box of user space shown in it.

    `view_box` is left, top, width, height; None where user space is px.
    """

    width: float
    height: float
    view_box: tuple[float, float, float, float] | None
    preserve: str

    @property
    def inner_size(self) -> tuple[float, float]:
        """What percentages inside refer to."""
        return self.view_box[2:] if self.view_box else (self.width, self.height)

    def matrix(self) -> Floats:
        """User space to the viewport's px, shape (3, 3): SVG 2, 8.2 "equivalent transform"."""
        if not self.view_box:
            return np.eye(3)
        left, top, wide, high = self.view_box
        scale_x, scale_y = self.width / wide, self.height / high
        words = self.preserve.split()
        align = words[0] if words else "xMidYMid"
        if align != "none":
            scale_x = scale_y = max(scale_x, scale_y) if "slice" in words else min(scale_x, scale_y)
        shift_x, shift_y = -left * scale_x, -top * scale_y
        spare_x, spare_y = self.width - wide * scale_x, self.height - high * scale_y
        shares = {"Min": 0.0, "Mid": 0.5, "Max": 1.0}
        if align != "none":
            shift_x += spare_x * shares.get(align[1:4], 0.5)
            shift_y += spare_y * shares.get(align[5:8], 0.5)
        return np.array([[scale_x, 0, shift_x], [0, scale_y, shift_y], [0, 0, 1.0]])


def viewport_of(element: etree._Element, outer: tuple[float, float] | None = None) -> Viewport:
    """The viewport an svg or symbol element makes; `outer` is the size it lies in, None for the outermost."""
    box = _view_box(element.get("viewBox"))
    natural = (box[2], box[3]) if box else (300.0, 150.0)
    size = []
    for index, name in enumerate(("width", "height")):
        text = declared(element, name) or ("100%" if outer else "")
        whole = outer[index] if outer else natural[index]
        size.append(length(text, whole, natural[index]))
    if outer is None and box:  # one side given: the other follows the box
        given = [bool(declared(element, name)) for name in ("width", "height")]
        if given == [True, False]:
            size[1] = size[0] * box[3] / box[2]
        elif given == [False, True]:
            size[0] = size[1] * box[2] / box[3]
    return Viewport(max(size[0], 0.0), max(size[1], 0.0), box, element.get("preserveAspectRatio", "xMidYMid"))


def used_viewport(target: etree._Element, use: etree._Element, outer: tuple[float, float]) -> Viewport:
    """The viewport that a `use` makes of a symbol or an svg: its own size wins over the target's (SVG 2, 5.6)."""
    viewport = viewport_of(target, outer)
    width = length(use.get("width"), outer[0], viewport.width)
    return replace(viewport, width=width, height=length(use.get("height"), outer[1], viewport.height))


def _view_box(text: str | None) -> tuple[float, float, float, float] | None:
    numbers = NUMBER.findall(text or "")
    if len(numbers) != 4:
        return None
    left, top, width, height = map(float, numbers)
    return (left, top, width, height) if width > 0 and height > 0 else None


def transform_of(element: etree._Element) -> Floats:
    """An element's transform, shape (3, 3); what cannot be read counts as none."""
    text = declared(element, "transform")
    if not text or text == "none":
        return np.eye(3)
    try:
        with np.errstate(all="ignore"):  # what leaves the numbers there are counts as none
            result = matrix_of(text)
    except (ValueError, OverflowError):
        return np.eye(3)
    return result if np.isfinite(result).all() else np.eye(3)
