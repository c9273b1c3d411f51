"""Names of SVG elements and attributes by what they may do here."""

from __future__ import annotations

from functools import lru_cache

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
ALLOWED = PAINTED | RESOURCES | _FILTER_PARTS | {"stop", "tspan", "textPath", "title", "desc"}
#: Elements whose words are shown or read.
TEXTUAL = {"text", "tspan", "textPath", "title", "desc"}
#: Elements that may point at something; a link to another page is none of them.
POINTING = {
    "use", "image", "feImage", "textPath", "linearGradient", "radialGradient", "pattern", "filter", "mask", "clipPath",
}  # fmt: skip
#: Where a layer's own name is kept between reading and storing; never stored.
LABEL = "{urn:jointed-crane}label"

#: SVG 2, Appendix "Property index": properties that may be said as attributes, and the geometry properties.
PRESENTATION = {
    "alignment-baseline", "baseline-shift", "clip", "clip-path", "clip-rule", "color", "color-interpolation",
    "color-interpolation-filters", "color-rendering", "direction", "display", "dominant-baseline", "fill",
    "fill-opacity", "fill-rule", "filter", "flood-color", "flood-opacity", "font-family", "font-size",
    "font-size-adjust", "font-stretch", "font-style", "font-variant", "font-weight", "image-rendering",
    "letter-spacing", "lighting-color", "marker-end", "marker-mid", "marker-start", "mask", "mask-type", "opacity",
    "overflow", "paint-order", "shape-rendering", "stop-color", "stop-opacity", "stroke", "stroke-dasharray",
    "stroke-dashoffset", "stroke-linecap", "stroke-linejoin", "stroke-miterlimit", "stroke-opacity", "stroke-width",
    "text-anchor", "text-decoration", "text-rendering", "unicode-bidi", "vector-effect", "visibility", "white-space",
    "word-spacing", "writing-mode", "cx", "cy", "r", "rx", "ry", "x", "y", "width", "height",
}  # fmt: skip
#: Properties that only a style can say.
STYLE_ONLY = {
    "font", "isolation", "line-height", "marker", "mix-blend-mode", "transform", "transform-box", "transform-origin",
}  # fmt: skip
#: Every attribute that is kept: the properties, and what SVG 2 and Filter Effects 1 define for the elements above.
ATTRIBUTES = PRESENTATION | {
    "id", "systemLanguage", "d", "points", "pathLength", "x1", "y1", "x2", "y2", "fx", "fy", "fr", "dx", "dy",
    "rotate", "textLength", "lengthAdjust", "startOffset", "method", "spacing", "side", "viewBox",
    "preserveAspectRatio", "version", "transform", "gradientTransform", "patternTransform", "gradientUnits",
    "patternUnits", "patternContentUnits", "clipPathUnits", "maskUnits", "maskContentUnits", "filterUnits",
    "primitiveUnits", "spreadMethod", "offset", "refX", "refY", "markerWidth", "markerHeight", "markerUnits", "orient",
    "in", "in2", "result", "type", "values", "mode", "operator", "k1", "k2", "k3", "k4", "stdDeviation", "edgeMode",
    "kernelMatrix", "divisor", "bias", "targetX", "targetY", "preserveAlpha", "order", "kernelUnitLength",
    "surfaceScale", "diffuseConstant", "specularConstant", "specularExponent", "limitingConeAngle", "azimuth",
    "elevation", "pointsAtX", "pointsAtY", "pointsAtZ", "z", "scale", "xChannelSelector", "yChannelSelector",
    "radius", "baseFrequency", "numOctaves", "seed", "stitchTiles", "tableValues", "slope", "intercept", "amplitude",
    "exponent", f"{_XML}space", f"{_XML}lang",
}  # fmt: skip
#: Attributes whose numbers must be finite.
NUMERIC = {
    "d", "points", "transform", "x", "y", "width", "height", "cx", "cy", "r", "rx", "ry", "x1", "x2", "y1", "y2",
    "fx", "fy", "viewBox", "stroke-width", "opacity", "offset", "stdDeviation", "gradientTransform",
    "patternTransform", "dx", "dy", "font-size",
}  # fmt: skip
#: CSS functions that fetch nothing: colours, numbers, transforms, shapes and filters.
FUNCTIONS = {
    "rgb", "rgba", "hsl", "hsla", "hwb", "lab", "lch", "oklab", "oklch", "color", "color-mix", "calc", "min", "max",
    "clamp", "matrix", "matrix3d", "translate", "translatex", "translatey", "scale", "scalex", "scaley", "rotate",
    "skew", "skewx", "skewy", "inset", "circle", "ellipse", "polygon", "path", "rect", "xywh", "blur", "brightness",
    "contrast", "drop-shadow", "grayscale", "hue-rotate", "invert", "opacity", "saturate", "sepia", "icc-color",
}  # fmt: skip
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


_PREFIX = f"{{{SVG}}}"


def local_name(element: etree._Element) -> str:
    """The element's name in the SVG namespace; empty for elements of other namespaces."""
    return _local_name(element.tag)


@lru_cache(maxsize=1024)
def _local_name(tag: object) -> str:
    return tag[len(_PREFIX) :] if isinstance(tag, str) and tag.startswith(_PREFIX) else ""


def elements_by_id(root: etree._Element) -> dict[str, etree._Element]:
    """Elements by their id; of two with one id the first counts, as in browsers."""
    result: dict[str, etree._Element] = {}
    for element in root.iter():
        name = element.get("id")
        if name:
            result.setdefault(name, element)
    return result


def reference(element: etree._Element) -> str | None:
    """The id an element's href points at inside the drawing, or None."""
    target = element.get("href") or element.get(XLINK_HREF) or ""
    return target[1:] if target.startswith("#") else None
