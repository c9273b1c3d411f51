"""An element of a drawing as a drawing of its own that shows it where the whole does."""

from __future__ import annotations

from copy import deepcopy

from lxml import etree

from jointed_crane.core.geometry.coordinates import Bounds
from jointed_crane.formats.svg.measuring import Page
from jointed_crane.formats.svg.parsing import references_of
from jointed_crane.formats.svg.styles import declared, own_style, set_style
from jointed_crane.formats.svg.tags import LABEL, SVG, WHOLE_GROUP, local_name
from jointed_crane.formats.svg.viewports import viewport_of

#: Attributes that make the outermost svg a viewport; the art gets them on its own, the rest goes on a group.
_VIEWPORT = {"width", "height", "viewBox", "preserveAspectRatio", "x", "y", "overflow", "version", "baseProfile"}


def standalone(
    element: etree._Element, wrappers: list[etree._Element], page: Page, root: etree._Element, box: Bounds
) -> bytes:
    """The layer as a drawing of its own that shows it where the page does, in px of the page."""
    left, top, right, bottom = box
    art = etree.Element(f"{{{SVG}}}svg", nsmap={None: SVG, "xlink": "http://www.w3.org/1999/xlink"})
    art.set("width", f"{right - left:g}")
    art.set("height", f"{bottom - top:g}")
    art.set("viewBox", f"{left:g} {top:g} {right - left:g} {bottom - top:g}")
    viewport = viewport_of(root)
    view = etree.SubElement(art, f"{{{SVG}}}svg", width=repr(viewport.width), height=repr(viewport.height))
    view.set("overflow", "visible")
    for name in ("viewBox", "preserveAspectRatio"):
        if root.get(name):
            view.set(name, root.get(name))
    defs = etree.SubElement(view, f"{{{SVG}}}defs")
    holder = bare_copy(root, view, without=_VIEWPORT)
    for wrapper in wrappers:
        holder = bare_copy(wrapper, holder)
        unhide(holder)
    holder.append(element)
    bring_resources(art, defs, page, root)
    if not len(defs):
        view.remove(defs)
    for inner in art.iter():
        if inner.get(LABEL) is not None:
            del inner.attrib[LABEL]
    etree.cleanup_namespaces(art)
    return etree.tostring(art, encoding="utf-8")


def bare_copy(element: etree._Element, into: etree._Element, without: frozenset | set = frozenset()) -> etree._Element:
    """A group with an element's attributes but none of its children."""
    group = etree.SubElement(into, f"{{{SVG}}}g")
    for name, value in element.attrib.items():
        if name not in without and name != "id":
            group.set(name, value)
    if without:
        set_style(group, {key: value for key, value in own_style(group).items() if key not in without})
    return group


def bring_resources(art: etree._Element, defs: etree._Element, page: Page, root: etree._Element) -> None:
    """Copy everything the art refers to, and what that refers to, into its definitions."""
    by_id = page.by_id
    here = {element.get("id") for element in art.iter() if element.get("id")}
    waiting = [target for element in art.iter() for target in references_of(element)]
    while waiting:
        target = waiting.pop()
        if target in here or target not in by_id:
            continue
        source = by_id[target]
        holder = defs
        # Gradients, clips and the like take inherited properties from where they are written.
        lineage = [ancestor for ancestor in source.iterancestors() if ancestor is not root]
        for ancestor in reversed(lineage):
            if local_name(ancestor) in ("g", "defs", "a") and len(ancestor.attrib):
                holder = bare_copy(ancestor, holder)
                unhide(holder)
        copy = deepcopy(source)
        copy.tail = None
        holder.append(copy)
        here |= {element.get("id") for element in copy.iter() if element.get("id")}
        waiting += [name for element in copy.iter() for name in references_of(element)]


def unhide(element: etree._Element) -> None:
    """Have an element show, whatever its own `display` said."""
    style = own_style(element)
    if style.get("display") == "none":
        del style["display"]
        set_style(element, style)
    if element.get("display") == "none":
        del element.attrib["display"]


def acts_as_a_whole(element: etree._Element) -> bool:
    """Whether effects on the element would look different on each child alone."""
    neutral = {"opacity": ("1", "100%"), "mix-blend-mode": ("normal",)}
    for name in WHOLE_GROUP:
        value = declared(element, name)
        if value not in (None, "none", *neutral.get(name, ())):
            return True
    return False
