"""A part's stored art as elements inside the sent drawing, its ids made its own."""

from __future__ import annotations

import base64
from copy import deepcopy

from lxml import etree

from jointed_crane.core.model.scene import Drawing
from jointed_crane.core.viewing.projection import planar
from jointed_crane.formats.svg.parsing import URL
from jointed_crane.formats.svg.stored_art import ArtSource, harmless, stretch
from jointed_crane.formats.svg.tags import SVG, XLINK_HREF


def number(value: float) -> str:
    """A number as it is written: ten significant digits, no trailing zeros, no minus zero."""
    return f"{value:.10g}" if value else "0"


def matrix_text(matrix) -> str:
    """A world or local matrix, shape (4, 4), as the planar matrix() of SVG: depth is looked at from the front."""
    return f"matrix({' '.join(number(float(value)) for value in planar(matrix))})"


def add_art(holder: etree._Element, drawing: Drawing, prefix: str, art: ArtSource) -> None:
    """Put a drawing's art into a group whose coordinates are art space."""
    x, y = drawing.registration
    if x or y:
        holder = etree.SubElement(holder, f"{{{SVG}}}g", transform=f"translate({number(-x)} {number(-y)})")
    media_type, data = art(drawing.art)
    left, top, right, bottom = drawing.box
    if media_type != "image/svg+xml":
        image = etree.SubElement(holder, f"{{{SVG}}}image")
        for name, value in (("x", left), ("y", top), ("width", right - left), ("height", bottom - top)):
            image.set(name, number(value))
        image.set("href", f"data:{media_type};base64,{base64.b64encode(data).decode()}")
        return
    root = harmless(data)
    a, c, e, b, d, f = stretch(root, drawing)
    if (a, b, c, d, e, f) != (1, 0, 0, 1, 0, 0):
        transform = f"matrix({' '.join(map(number, (a, b, c, d, e, f)))})"
        holder = etree.SubElement(holder, f"{{{SVG}}}g", transform=transform)
    for child in root:
        copy = deepcopy(child)
        _prefix_ids(copy, prefix)
        holder.append(copy)


def _prefix_ids(tree: etree._Element, prefix: str) -> None:
    for element in tree.iter():
        for attribute, value in element.attrib.items():
            if attribute == "id":
                element.set(attribute, prefix + value)
            elif attribute in ("href", XLINK_HREF):
                if value.startswith("#"):
                    element.set(attribute, f"#{prefix}{value[1:]}")
            elif "url(" in value.lower():
                element.set(attribute, URL.sub(lambda match: f"url(#{prefix}{match[1]})", value))
