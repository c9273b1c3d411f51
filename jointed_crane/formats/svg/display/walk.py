"""A cleaned drawing walked element by element into what it paints (SVG 2, chapters 3 and 5)."""

from __future__ import annotations

import base64
from dataclasses import replace
from functools import cached_property

import numpy as np
from lxml import etree

from jointed_crane.core.geometry.coordinates import Bounds
from jointed_crane.formats.svg.display.context import INITIAL, Context, Own, share
from jointed_crane.formats.svg.display.nodes import Bitmap, Figure, Floats, Group, Mask, Node, Painted, Unknown
from jointed_crane.formats.svg.display.outlines import contours_of_data, contours_of_form
from jointed_crane.formats.svg.display.servers import Servers, of_box
from jointed_crane.formats.svg.measuring import Page
from jointed_crane.formats.svg.parsing import URL
from jointed_crane.formats.svg.tags import CONTAINERS, SHAPES, XLINK_HREF, elements_by_id, local_name, reference
from jointed_crane.formats.svg.viewports import Viewport, length, transform_of, used_viewport, viewport_of

#: Blend modes that are known (Compositing 1, section 5).
BLENDS = (
    "multiply", "screen", "overlay", "darken", "lighten", "color-dodge", "color-burn", "hard-light", "soft-light",
    "difference", "exclusion", "hue", "saturation", "color", "luminosity", "plus-lighter",
)  # fmt: skip
_DRAWN = CONTAINERS | SHAPES | {"use", "image", "text"}


def displayed(root: etree._Element) -> Group:
    """What a drawing paints, in the px of its outermost user space."""
    return _Walk(root).whole()


class _Walk:
    def __init__(self, root: etree._Element) -> None:
        self._root = root
        self._by_id = elements_by_id(root)
        self._servers = Servers(self._by_id, self._children)

    def whole(self) -> Group:
        return self._children(self._root, Context(INITIAL, viewport_of(self._root).inner_size))

    def _children(self, element: etree._Element, context: Context) -> Group:
        return Group(tuple(node for child in element for node in self._element(child, context)))

    def _element(self, element: etree._Element, outer: Context) -> tuple[Node, ...]:
        """What an element paints, as one node, or none."""
        tag = local_name(element)
        own, context = outer.inside(element)
        if tag not in _DRAWN or own.get("display") == "none":
            return ()
        if own.get("filter", "none") != "none" or tag == "text":
            return (Unknown(tag if tag == "text" else "filter"),)
        whole = Group(matrix=transform_of(element), clips=self._clips(element, own, context))
        opacity = 1.0
        if not context.is_clip:
            blend = own.get("mix-blend-mode", "normal")
            whole = replace(
                whole,
                mask=self._mask(element, own, context),
                opacity=share(own.get("opacity")),
                blend=blend if blend in BLENDS else "normal",
                is_isolated=own.get("isolation") == "isolate",
            )
            is_one = tag in SHAPES and "none" in (context.style["fill"], context.style["stroke"])
            if is_one and not replace(whole, opacity=1.0).is_layer:  # the opacity of one paint is that of its shape
                whole, opacity = replace(whole, opacity=1.0), whole.opacity
        return (replace(whole, children=self._contents(element, tag, own, context, opacity)),)

    def _named(self, text: str | None, tag: str) -> etree._Element | None:
        """The element of a kind that a `url(#id)` names."""
        named = URL.search(text or "")
        result = self._by_id.get(named[1]) if named else None
        return result if result is not None and local_name(result) == tag else None

    def _box(self, element: etree._Element) -> Bounds:
        """What objectBoundingBox units are of."""
        return self._page.box(element) or (0.0, 0.0, 0.0, 0.0)

    @cached_property
    def _page(self) -> Page:
        return Page(self._root)

    # What acts on an element as a whole

    def _mask(self, element: etree._Element, own: Own, context: Context) -> Mask | None:
        mask = self._named(own.get("mask"), "mask")
        if mask is None:
            return None
        its_own, inner = replace(context, style=INITIAL).inside(mask)
        content = self._children(mask, inner)
        if its_own.get("maskContentUnits") == "objectBoundingBox":
            content = replace(content, matrix=of_box(self._box(element)))
        return Mask(content, self._region(its_own, element, context), its_own.get("mask-type") == "alpha")

    def _region(self, own: Own, element: etree._Element, context: Context) -> tuple[float, float, float, float]:
        """The box outside which a mask lets nothing through: left, top, width, height."""
        unsaid = {"x": "-10%", "y": "-10%", "width": "120%", "height": "120%"}
        in_box = own.get("maskUnits", "objectBoundingBox") == "objectBoundingBox"
        wide, high = (1.0, 1.0) if in_box else context.size
        x, y, width, height = (
            length(own.get(name, default), whole)
            for (name, default), whole in zip(unsaid.items(), (wide, high, wide, high), strict=True)
        )
        if not in_box:
            return (x, y, width, height)
        left, top, right, bottom = self._box(element)
        kx, ky = right - left, bottom - top
        return (left + x * kx, top + y * ky, width * kx, height * ky)

    def _clips(self, element: etree._Element, own: Own, context: Context) -> tuple[Group, ...]:
        """What the `clip-path` of an element lets through, and what the `clip-path` of that does."""
        clip = self._named(own.get("clip-path"), "clipPath")
        if clip is None:
            return ()
        its_own, inner = Context(INITIAL, context.size, is_clip=True).inside(clip)
        matrix = transform_of(clip)
        if its_own.get("clipPathUnits") == "objectBoundingBox":
            matrix = of_box(self._box(element)) @ matrix
        shapes = replace(self._children(clip, inner), matrix=matrix)
        return (shapes, *self._clips(element, its_own, inner))

    # What an element shows

    def _contents(
        self, element: etree._Element, tag: str, own: Own, context: Context, opacity: float
    ) -> tuple[Node, ...]:
        if tag == "svg":
            return self._viewport(element, own, viewport_of(element, context.size), context)
        if tag == "use":
            return self._used(element, own, context)
        if tag == "switch":
            first = next((child for child in element if local_name(child) in _DRAWN), None)
            return () if first is None else self._element(first, context)
        if tag in CONTAINERS:
            return self._children(element, context).children
        if not context.is_visible:
            return ()
        if tag == "image":
            return self._image(element, own, context)
        return self._shape(tag, own, context, opacity)

    def _shape(self, tag: str, own: Own, context: Context, opacity: float) -> tuple[Node, ...]:
        style = context.style
        if any(style.get(f"marker-{place}", "none") != "none" for place in ("start", "mid", "end")):
            return (Unknown("marker"),)
        if tag == "path":
            contours = contours_of_data(own.get("d", ""))
        else:
            contours = contours_of_form(tag, context.places(own), own.get("points", ""))
        if not contours:
            return ()
        rule = style.get("clip-rule" if context.is_clip else "fill-rule", "nonzero")
        figure = Figure(contours, rule == "evenodd")
        if context.is_clip:
            return (Painted(figure),)
        coats = self._servers.coats(figure, context, opacity)
        return (Painted(figure, coats),) if coats else ()

    def _viewport(self, element: etree._Element, own: Own, viewport: Viewport, context: Context) -> tuple[Node, ...]:
        if not viewport.width or not viewport.height:
            return ()
        x, y = 0.0, 0.0
        if local_name(element) == "svg":
            places = context.places(own)
            x, y = places["x"], places["y"]
        inner = replace(self._children(element, replace(context, size=viewport.inner_size)), matrix=viewport.matrix())
        clips: tuple[Group, ...] = ()
        if own.get("overflow", "hidden") not in ("visible", "auto"):
            sides = {"x": 0.0, "y": 0.0, "width": viewport.width, "height": viewport.height, "rx": 0.0, "ry": 0.0}
            clips = (Group((Painted(Figure(contours_of_form("rect", sides))),)),)
        return (Group((inner,), _shift(x, y), clips),)

    def _used(self, element: etree._Element, own: Own, context: Context) -> tuple[Node, ...]:
        target = self._by_id.get(reference(element) or "")
        if target is None:
            return ()
        places = context.places(own)
        if local_name(target) not in ("symbol", "svg"):
            inside = self._element(target, context)
        else:
            viewport = used_viewport(target, element, context.size)
            targets, inner = context.inside(target)
            inside = () if targets.get("display") == "none" else self._viewport(target, targets, viewport, inner)
        return (Group(inside, _shift(places["x"], places["y"])),)

    def _image(self, element: etree._Element, own: Own, context: Context) -> tuple[Node, ...]:
        data = (element.get("href") or element.get(XLINK_HREF) or "").partition("base64,")[2]
        if not data:
            return ()
        places = context.places(own)
        in_pixels = context.style.get("image-rendering") in ("pixelated", "crisp-edges", "optimizeSpeed")
        box = (places["x"], places["y"], places["width"], places["height"])
        preserve = element.get("preserveAspectRatio", "xMidYMid")
        return (Bitmap(base64.b64decode(data), box, preserve, in_pixels),)


def _shift(x: float, y: float) -> Floats:
    return np.array([[1.0, 0, x], [0, 1.0, y], [0, 0, 1.0]])
