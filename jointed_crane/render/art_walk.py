"""A cleaned drawing drawn onto a canvas of the rasteriser, element by element (SVG 2, chapter 3)."""

from __future__ import annotations

import base64
import contextlib
from collections.abc import Iterator
from dataclasses import replace
from functools import cached_property

import skia
from lxml import etree

from jointed_crane.formats.svg.measuring import Page
from jointed_crane.formats.svg.parsing import URL
from jointed_crane.formats.svg.tags import CONTAINERS, SHAPES, XLINK_HREF, elements_by_id, local_name, reference
from jointed_crane.formats.svg.viewports import Viewport, length, transform_of, used_viewport, viewport_of
from jointed_crane.render.bitmaps import IN_PIXELS, SMOOTH, decoded
from jointed_crane.render.context import INITIAL, Context, Own, share
from jointed_crane.render.matrices import of_box, planar_matrix, transformed
from jointed_crane.render.paints import Paints
from jointed_crane.render.paths import path_of_data, path_of_form

_BLENDS = {
    "multiply": skia.BlendMode.kMultiply, "screen": skia.BlendMode.kScreen, "overlay": skia.BlendMode.kOverlay,
    "darken": skia.BlendMode.kDarken, "lighten": skia.BlendMode.kLighten, "color-dodge": skia.BlendMode.kColorDodge,
    "color-burn": skia.BlendMode.kColorBurn, "hard-light": skia.BlendMode.kHardLight,
    "soft-light": skia.BlendMode.kSoftLight, "difference": skia.BlendMode.kDifference,
    "exclusion": skia.BlendMode.kExclusion, "hue": skia.BlendMode.kHue, "saturation": skia.BlendMode.kSaturation,
    "color": skia.BlendMode.kColor, "luminosity": skia.BlendMode.kLuminosity, "plus-lighter": skia.BlendMode.kPlus,
}  # fmt: skip
_DRAWN = CONTAINERS | SHAPES | {"use", "image", "text"}


class BeyondCanvas(Exception):
    """A drawing has something that the canvas has no way to draw."""


class ArtWalk:
    """One drawing as it is drawn. Raises BeyondCanvas where something in it cannot be."""

    def __init__(self, root: etree._Element) -> None:
        self._root = root
        self._by_id = elements_by_id(root)
        self._paints = Paints(self._by_id, self._children)

    def draw(self, canvas: skia.Canvas) -> None:
        """Draw all of it, in the px of its outermost user space."""
        self._children(canvas, self._root, Context(INITIAL, viewport_of(self._root).inner_size))

    def _children(self, canvas: skia.Canvas, element: etree._Element, context: Context) -> None:
        for child in element:
            self._element(canvas, child, context)

    def _element(self, canvas: skia.Canvas, element: etree._Element, outer: Context) -> None:
        tag = local_name(element)
        own, context = outer.inside(element)
        if tag not in _DRAWN or own.get("display") == "none":
            return
        if own.get("filter", "none") != "none" or tag == "text":
            raise BeyondCanvas(tag)
        count = canvas.save()
        if "transform" in own:
            canvas.concat(planar_matrix(transform_of(element)))
        with self._clipped(canvas, element, own, context), self._layered(canvas, element, tag, own, context) as opacity:
            self._contents(canvas, element, tag, own, context, opacity)
        canvas.restoreToCount(count)

    def _named(self, text: str | None, tag: str) -> etree._Element | None:
        """The element of a kind that a `url(#id)` names."""
        named = URL.search(text or "")
        result = self._by_id.get(named[1]) if named else None
        return result if result is not None and local_name(result) == tag else None

    def _box(self, element: etree._Element) -> skia.Rect:
        """What objectBoundingBox units are of."""
        return skia.Rect.MakeLTRB(*(self._page.box(element) or (0.0, 0.0, 0.0, 0.0)))

    @cached_property
    def _page(self) -> Page:
        return Page(self._root)

    # What acts on an element as a whole

    @contextlib.contextmanager
    def _layered(
        self, canvas: skia.Canvas, element: etree._Element, tag: str, own: Own, context: Context
    ) -> Iterator[float]:
        """A layer of its own for an element whose opacity, mask or blending acts on it as a whole; gives the opacity
        that its paint still has to take.
        """
        opacity = share(own.get("opacity"))
        blend = _BLENDS.get(own.get("mix-blend-mode", "normal"))
        mask = self._named(own.get("mask"), "mask")
        is_plain = blend is None and mask is None and own.get("isolation") != "isolate"
        if context.is_clip or (is_plain and opacity >= 1):
            yield 1.0
            return
        if is_plain and tag in SHAPES and self._paints.is_one(context):
            yield opacity
            return
        paint = skia.Paint(Alphaf=opacity)
        if blend is not None:
            paint.setBlendMode(blend)
        canvas.saveLayer(None, paint)
        if mask is not None:
            canvas.clipRect(self._region(mask, element, context), True)
        yield 1.0
        if mask is not None:
            self._mask(canvas, mask, element, context)
        canvas.restore()

    def _region(self, mask: etree._Element, element: etree._Element, context: Context) -> skia.Rect:
        """The part of the page that a mask lets anything through at all."""
        own, _ = context.inside(mask)
        unsaid = {"x": "-10%", "y": "-10%", "width": "120%", "height": "120%"}
        in_box = own.get("maskUnits", "objectBoundingBox") == "objectBoundingBox"
        wide, high = (1.0, 1.0) if in_box else context.size
        x, y, width, height = (
            length(own.get(name, default), whole)
            for (name, default), whole in zip(unsaid.items(), (wide, high, wide, high), strict=True)
        )
        region = skia.Rect.MakeXYWH(x, y, width, height)
        return of_box(self._box(element)).mapRect(region) if in_box else region

    def _mask(self, canvas: skia.Canvas, mask: etree._Element, element: etree._Element, context: Context) -> None:
        own, inner = replace(context, style=INITIAL).inside(mask)
        paint = skia.Paint(BlendMode=skia.BlendMode.kDstIn)
        if own.get("mask-type", "luminance") != "alpha":
            paint.setColorFilter(skia.LumaColorFilter.Make())
        canvas.saveLayer(None, paint)
        if own.get("maskContentUnits") == "objectBoundingBox":
            canvas.concat(of_box(self._box(element)))
        self._children(canvas, mask, inner)
        canvas.restore()

    @contextlib.contextmanager
    def _clipped(self, canvas: skia.Canvas, element: etree._Element, own: Own, context: Context) -> Iterator[None]:
        """What is drawn inside the `clip-path` of an element."""
        clip = self._named(own.get("clip-path"), "clipPath")
        if clip is None:
            yield
            return
        its_own, inner = Context(INITIAL, context.size, is_clip=True).inside(clip)
        matrix = planar_matrix(transform_of(clip))
        if its_own.get("clipPathUnits") == "objectBoundingBox":
            matrix = skia.Matrix.Concat(of_box(self._box(element)), matrix)
        single = self._single_clip(clip, its_own, inner)
        if single is not None:
            canvas.clipPath(transformed(single, matrix), True)
            yield
            return
        canvas.saveLayer(None, None)
        yield
        canvas.saveLayer(None, skia.Paint(BlendMode=skia.BlendMode.kDstIn))
        with self._clipped(canvas, element, its_own, inner):
            canvas.concat(matrix)
            self._children(canvas, clip, inner)
        canvas.restore()
        canvas.restore()

    def _single_clip(self, clip: etree._Element, its_own: Own, inner: Context) -> skia.Path | None:
        """The path of a clip of one plain shape, by which the canvas clips itself; None of another one."""
        shapes = [child for child in clip if local_name(child) in _DRAWN]
        if len(shapes) != 1 or local_name(shapes[0]) not in SHAPES or "clip-path" in its_own:
            return None
        own, context = inner.inside(shapes[0])
        if "clip-path" in own or own.get("display") == "none" or not context.is_visible:
            return None
        path = self._path(local_name(shapes[0]), own, context)
        return None if path is None else transformed(path, planar_matrix(transform_of(shapes[0])))

    # What an element shows

    def _contents(
        self, canvas: skia.Canvas, element: etree._Element, tag: str, own: Own, context: Context, opacity: float
    ) -> None:
        if tag == "svg":
            self._viewport(canvas, element, own, viewport_of(element, context.size), context)
        elif tag == "use":
            self._used(canvas, element, own, context)
        elif tag == "switch":
            first = next((child for child in element if local_name(child) in _DRAWN), None)
            if first is not None:
                self._element(canvas, first, context)
        elif tag in CONTAINERS:
            self._children(canvas, element, context)
        elif not context.is_visible:
            return
        elif tag == "image":
            self._image(canvas, element, own, context)
        else:
            path = self._path(tag, own, context)
            if path is not None:
                self._paints.shape(canvas, path, context, opacity)

    def _path(self, tag: str, own: Own, context: Context) -> skia.Path | None:
        """The outline of a shape in its own px, with its fill rule."""
        style = context.style
        if any(style.get(f"marker-{place}", "none") != "none" for place in ("start", "mid", "end")):
            raise BeyondCanvas("marker")
        if tag == "path":
            path = path_of_data(own.get("d", ""))
        else:
            path = path_of_form(tag, context.places(own), own.get("points", ""))
        rule = style.get("clip-rule" if context.is_clip else "fill-rule", "nonzero")
        if path is not None and rule == "evenodd":
            path.setFillType(skia.PathFillType.kEvenOdd)
        return path

    def _viewport(
        self, canvas: skia.Canvas, element: etree._Element, own: Own, viewport: Viewport, context: Context
    ) -> None:
        if not viewport.width or not viewport.height:
            return
        if local_name(element) == "svg":
            places = context.places(own)
            canvas.translate(places["x"], places["y"])
        if own.get("overflow", "hidden") not in ("visible", "auto"):
            canvas.clipRect(skia.Rect.MakeWH(viewport.width, viewport.height), True)
        canvas.concat(planar_matrix(viewport.matrix()))
        self._children(canvas, element, replace(context, size=viewport.inner_size))

    def _used(self, canvas: skia.Canvas, element: etree._Element, own: Own, context: Context) -> None:
        target = self._by_id.get(reference(element) or "")
        if target is None:
            return
        places = context.places(own)
        canvas.translate(places["x"], places["y"])
        if local_name(target) not in ("symbol", "svg"):
            self._element(canvas, target, context)
            return
        viewport = used_viewport(target, element, context.size)
        targets, inner = context.inside(target)
        if targets.get("display") != "none":
            self._viewport(canvas, target, targets, viewport, inner)

    def _image(self, canvas: skia.Canvas, element: etree._Element, own: Own, context: Context) -> None:
        data = (element.get("href") or element.get(XLINK_HREF) or "").partition("base64,")[2]
        image = decoded(base64.b64decode(data)) if data else None
        if image is None:
            return
        places = context.places(own)
        width, height = places["width"] or image.width(), places["height"] or image.height()
        view = (0.0, 0.0, float(image.width()), float(image.height()))
        fitted = Viewport(width, height, view, element.get("preserveAspectRatio", "xMidYMid"))
        canvas.translate(places["x"], places["y"])
        canvas.clipRect(skia.Rect.MakeWH(width, height), True)
        canvas.concat(planar_matrix(fitted.matrix()))
        in_pixels = context.style.get("image-rendering") in ("pixelated", "crisp-edges", "optimizeSpeed")
        canvas.drawImage(image, 0, 0, IN_PIXELS if in_pixels else SMOOTH)
