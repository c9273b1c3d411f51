"""A part's stored art: where it is fetched, and how its picture lies in the box of its drawing."""

from __future__ import annotations

from collections.abc import Callable
from functools import lru_cache

from lxml import etree

from jointed_crane.core.model.scene import Drawing
from jointed_crane.formats.svg.parsing import read_tree
from jointed_crane.formats.svg.viewports import viewport_of

#: Fetches stored art by its content hash: media type and bytes.
ArtSource = Callable[[str], tuple[str, bytes]]


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
