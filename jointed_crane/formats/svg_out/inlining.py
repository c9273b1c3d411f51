"""A part's stored art as elements inside the sent drawing, its ids made its own."""

from __future__ import annotations

import base64
from collections.abc import Callable
from copy import deepcopy
from functools import lru_cache

from lxml import etree

from jointed_crane.core.geometry.projection import planar
from jointed_crane.core.model.scene import Drawing
from jointed_crane.formats.svg.parsing import URL, read_tree
from jointed_crane.formats.svg.tags import SVG, XLINK_HREF
from jointed_crane.formats.svg.viewports import viewport_of

#: Fetches stored art by its content hash: media type and bytes.
ArtSource = Callable[[str], tuple[str, bytes]]


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


@lru_cache(maxsize=256)
def harmless(data: bytes) -> etree._Element:
    """Stored art as a tree; cleaned again, since a library may hold art that an older version let in."""
    return read_tree(data, "Stored art")[0]


def stretch(root: etree._Element, drawing: Drawing) -> tuple[float, float, float, float, float, float]:
    """The upper two rows of the matrix that lays the stored picture into the drawing's box; that of nothing where it
    lies there by itself.
    """
    viewport = viewport_of(root)
    left, top, width, height = viewport.view_box or (0.0, 0.0, viewport.width, viewport.height)
    if not width or not height:
        return (1.0, 0.0, 0.0, 0.0, 1.0, 0.0)
    box_left, box_top, right, bottom = drawing.box
    kx, ky = (right - box_left) / width, (bottom - box_top) / height
    if max(abs(kx - 1), abs(ky - 1), abs(box_left - left), abs(box_top - top)) < 1e-3:
        return (1.0, 0.0, 0.0, 0.0, 1.0, 0.0)
    return (kx, 0.0, box_left - left * kx, 0.0, ky, box_top - top * ky)


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
