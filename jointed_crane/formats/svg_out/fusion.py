"""Pictures of several parts put together as one drawing."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from lxml import etree

from jointed_crane.core.edits.pictures.fusing import FusedLayer
from jointed_crane.core.geometry.coordinates import Bounds
from jointed_crane.core.viewing.projection import on_stage
from jointed_crane.formats.svg.stored_art import ArtSource
from jointed_crane.formats.svg.tags import SVG
from jointed_crane.formats.svg_out.inlining import add_art, matrix_text, number


def fused_svg(layers: Sequence[FusedLayer], art: ArtSource) -> tuple[bytes, Bounds]:
    """One drawing of all layers, a group for each, and its box: left, top, right, bottom, px in the art space of the
    part that stays.
    """
    corners = np.concatenate([on_stage(layer.matrix, _corners(layer)) for layer in layers])
    left, top = np.floor(corners.min(axis=0)).tolist()
    right, bottom = np.ceil(corners.max(axis=0)).tolist()
    root = etree.Element(f"{{{SVG}}}svg", nsmap={None: SVG, "xlink": "http://www.w3.org/1999/xlink"})
    root.set("width", number(right - left))
    root.set("height", number(bottom - top))
    root.set("viewBox", " ".join(map(number, (left, top, right - left, bottom - top))))
    for row, layer in enumerate(layers):
        group = etree.SubElement(root, f"{{{SVG}}}g", transform=matrix_text(layer.matrix))
        etree.SubElement(group, f"{{{SVG}}}title").text = layer.name
        if layer.opacity < 1:
            group.set("opacity", number(layer.opacity))
        add_art(group, layer.drawing, f"f{row}-", art)
    return etree.tostring(root, encoding="utf-8", xml_declaration=True), (left, top, right, bottom)


def _corners(layer: FusedLayer) -> np.ndarray:
    """The corners of a layer's picture, px in its own art space."""
    left, top, right, bottom = layer.drawing.box
    return np.array([(x, y) for x in (left, right) for y in (top, bottom)]) - layer.drawing.registration
