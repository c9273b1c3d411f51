"""Names of SVG elements and attributes by what they may do here."""

from __future__ import annotations

from lxml import etree

SVG = "http://www.w3.org/2000/svg"
XLINK_HREF = "{http://www.w3.org/1999/xlink}href"
_XML = "{http://www.w3.org/XML/1998/namespace}"

CONTAINERS = {"g", "a", "switch", "svg"}
SHAPES = {"path", "rect", "circle", "ellipse", "line", "polyline", "polygon"}
PAINTED = CONTAINERS | SHAPES | {"use", "text", "image"}
#: Elements that paint only where something refers to them.
RESOURCES = {
    "defs", "symbol", "linearGradient", "radialGradient", "pattern", "clipPath", "mask", "marker", "filter",
}  # fmt: skip
_FILTER_PARTS = {
    "feBlend", "feColorMatrix", "feComponentTransfer", "feComposite", "feConvolveMatrix", "feDiffuseLighting",
    "feDisplacementMap", "feDistantLight", "feDropShadow", "feFlood", "feFuncA", "feFuncB", "feFuncG", "feFuncR",
    "feGaussianBlur", "feImage", "feMerge", "feMergeNode", "feMorphology", "feOffset", "fePointLight",
    "feSpecularLighting", "feSpotLight", "feTile", "feTurbulence",
}  # fmt: skip
ALLOWED = PAINTED | RESOURCES | _FILTER_PARTS | {"stop", "tspan", "textPath", "title", "desc", "style"}
#: What is said when one of these is left out; other unknown elements go without a word, as browsers skip them.
LEFT_OUT = {
    "script": "a script",
    "foreignObject": "a foreign object",
    "animate": "an animation inside the drawing",
    "animateTransform": "an animation inside the drawing",
    "animateMotion": "an animation inside the drawing",
    "set": "an animation inside the drawing",
    "iframe": "a web page inside the drawing",
    "audio": "a sound",
    "video": "a film",
}

#: Effects that act on a whole group at once: applied to each layer alone they would not look the same.
WHOLE_GROUP = ("opacity", "filter", "mask", "mix-blend-mode")


def local_name(element: etree._Element) -> str:
    """The element's name in the SVG namespace; empty for elements of other namespaces."""
    tag = element.tag
    if not isinstance(tag, str) or not tag.startswith(f"{{{SVG}}}"):
        return ""
    return tag[len(SVG) + 2 :]


def is_kept_attribute(name: str) -> bool:
    """Whether an attribute may stay: SVG's own, xlink:href and the xml ones, but no event handler."""
    if name.startswith("{"):
        return name == XLINK_HREF or name.startswith(_XML)
    return not name.lower().startswith("on")


def elements_by_id(root: etree._Element) -> dict[str, etree._Element]:
    """Elements by their id; of two with one id the first counts, as in browsers."""
    found: dict[str, etree._Element] = {}
    for element in root.iter():
        name = element.get("id")
        if name:
            found.setdefault(name, element)
    return found


def reference(element: etree._Element) -> str | None:
    """The id an element's href points at inside the drawing, or None."""
    target = element.get("href") or element.get(XLINK_HREF) or ""
    return target[1:] if target.startswith("#") else None
