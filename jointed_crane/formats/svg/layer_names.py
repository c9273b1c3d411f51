"""What a layer is called: by the name it was given, else by what it is: "Path 4, green"."""

from __future__ import annotations

import re

import numpy as np
from lxml import etree
from PIL import ImageColor

from jointed_crane.formats.svg.styles import declared
from jointed_crane.formats.svg.tags import SHAPES, SVG, local_name

_KINDS = {
    "g": "Group", "a": "Group", "svg": "Picture", "switch": "Group", "use": "Copy", "image": "Picture", "text": "Text",
    "path": "Path", "rect": "Rectangle", "circle": "Circle", "ellipse": "Ellipse", "line": "Line",
    "polyline": "Line", "polygon": "Polygon",
}  # fmt: skip
#: Ids that drawing programs give of themselves: the element's own tag and a number.
_MADE_UP = re.compile(rf"(?:{'|'.join(_KINDS)}|layer|group)?[-_ .]?[0-9a-f]*\d[-_ .\d]*", re.I)
#: Colours by the words people use for them; the nearest one names a fill.
_WORDS = {
    "black": (24, 24, 28), "grey": (128, 128, 128), "white": (250, 250, 250), "red": (205, 45, 40),
    "orange": (230, 130, 40), "yellow": (240, 210, 70), "green": (70, 150, 70), "teal": (20, 120, 115),
    "blue": (50, 100, 190), "purple": (120, 70, 150), "pink": (235, 150, 170), "brown": (125, 85, 45),
    "light blue": (165, 195, 220), "light green": (170, 205, 150), "beige": (225, 205, 170),
}  # fmt: skip


def layer_name(element: etree._Element, number: int) -> str:
    """The name a layer was given, else its kind with its number and its colour."""
    given = given_name(element)
    if given:
        return given
    colour = _colour(element)
    return f"{_KINDS.get(local_name(element), 'Layer')} {number}{f', {colour}' if colour else ''}"


def given_name(element: etree._Element) -> str:
    """The name somebody gave an element: its label, its title, or an id that was not made up; else nothing."""
    for attribute, value in element.attrib.items():
        if etree.QName(attribute).localname == "label" and value.strip():
            return " ".join(value.split())
    title = element.find(f"{{{SVG}}}title")
    if title is not None and (title.text or "").strip():
        return " ".join(title.text.split())
    name = " ".join(element.get("id", "").replace("_", " ").split())
    return "" if _MADE_UP.fullmatch(element.get("id", "")) else name


def _colour(element: etree._Element) -> str:
    """A word for the first colour that an element or anything in it is filled or drawn with."""
    for inner in element.iter():
        for name in ("fill", "stroke"):
            value = (declared(inner, name) or "").strip()
            if value and value not in ("none", "transparent", "inherit", "currentColor") and "url(" not in value:
                try:
                    rgb = np.array(ImageColor.getrgb(value)[:3], dtype=float)
                except ValueError:
                    continue
                return min(_WORDS, key=lambda word: float(((rgb - _WORDS[word]) ** 2).sum()))
        if local_name(inner) in SHAPES and declared(inner, "fill") is None:
            return "black"
    return ""
