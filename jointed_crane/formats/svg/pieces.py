"""A stored picture taken apart: every element of its innermost group that holds it all, each a picture of its own."""

from __future__ import annotations

import hashlib
from copy import deepcopy
from dataclasses import dataclass

from lxml import etree

from jointed_crane.core.basics import progress
from jointed_crane.core.basics.limits import MOST_LAYERS
from jointed_crane.core.geometry.nine_points import box_to_box
from jointed_crane.core.hierarchy.tree import free_name
from jointed_crane.core.model.scene import Drawing
from jointed_crane.core.outlines.outline import outline
from jointed_crane.formats.artwork import ArtworkError
from jointed_crane.formats.svg.layer_names import layer_name
from jointed_crane.formats.svg.measuring import Page
from jointed_crane.formats.svg.parsing import read_tree
from jointed_crane.formats.svg.standalone import acts_as_a_whole, bring_resources
from jointed_crane.formats.svg.tags import PAINTED, SVG, local_name
from jointed_crane.formats.svg.viewports import viewport_of

_HOLDERS = ("g", "a", "svg")


@dataclass(frozen=True)
class Cut:
    """One piece: its picture as SVG, and the drawing that shows it in the art space of the whole."""

    data: bytes
    drawing: Drawing


def pieces_of(data: bytes, whole: Drawing, id_prefix: str) -> list[Cut]:
    """The pieces of a drawing's picture, back to front; none where an effect holds it together or there is only one.

    Ids of the drawings are `id_prefix` and a number. Raises ArtworkError where there are too many.
    """
    root, _ = read_tree(data, whole.name)
    holders, elements = _opened(root)
    if len(elements) > MOST_LAYERS:
        raise ArtworkError(
            f"{whole.name} would become {len(elements)} parts; {MOST_LAYERS} is the most. Nothing was split."
        )
    viewport = viewport_of(root)
    lay = box_to_box((0.0, 0.0, viewport.width, viewport.height), whole.box)
    page = Page(root)
    result: list[Cut] = []
    for number, element in enumerate(elements, start=1):
        progress.tell(number, len(elements), "pieces")
        patches = page.patches(element, holders[1:])
        measured = outline(patches)
        if measured is None:
            continue
        bounds, rings = measured
        left, top, right, bottom = bounds
        art = _alone(root, holders, element, page)
        name = free_name(
            layer_name(element, patches, bounds, (viewport.width, viewport.height))[:90],
            (cut.drawing.name for cut in result),
        )
        drawing = Drawing(
            f"{id_prefix}{number}",
            name,
            hashlib.sha256(art).hexdigest(),
            whole.box,
            (*lay((left, top)), *lay((right, bottom))),
            outline=tuple(tuple(map(lay, ring)) for ring in rings),
        )
        result.append(Cut(art, drawing.with_zero_moved(whole.registration)))
    return result if len(result) > 1 else []


def _opened(root: etree._Element) -> tuple[list[etree._Element], list[etree._Element]]:
    """The groups down to the first that holds more than one painted element, and those elements."""
    holders = []
    holder = root
    while not acts_as_a_whole(holder):
        holders.append(holder)
        elements = [child for child in holder if local_name(child) in PAINTED]
        if len(elements) > 1:
            return holders, elements
        if len(elements) != 1 or local_name(elements[0]) not in _HOLDERS:
            break
        holder = elements[0]
    return holders, []


def _alone(root: etree._Element, holders: list[etree._Element], element: etree._Element, page: Page) -> bytes:
    """The picture with nothing in it but one element, the groups that hold it, and what it refers to."""
    art = etree.Element(root.tag, dict(root.attrib), nsmap={None: SVG, "xlink": "http://www.w3.org/1999/xlink"})
    inner = art
    for holder in holders[1:]:
        inner = etree.SubElement(inner, holder.tag, {key: v for key, v in holder.attrib.items() if key != "id"})
    copy = deepcopy(element)
    copy.tail = None
    inner.append(copy)
    defs = etree.Element(f"{{{SVG}}}defs")
    art.insert(0, defs)
    bring_resources(art, defs, page, root)
    if not len(defs):
        art.remove(defs)
    etree.cleanup_namespaces(art)
    return etree.tostring(art, encoding="utf-8")
