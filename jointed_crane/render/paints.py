"""Fills and strokes: plain colours, gradients and patterns (SVG 2, chapters 13 and 14)."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from dataclasses import replace

import skia
from lxml import etree

from jointed_crane.formats.svg.styles import own_style
from jointed_crane.formats.svg.tags import local_name, reference
from jointed_crane.formats.svg.transforms import matrix_of
from jointed_crane.formats.svg.viewports import NUMBER, Viewport, length
from jointed_crane.render.colours import colour_of
from jointed_crane.render.context import INITIAL, Context, share
from jointed_crane.render.matrices import of_box, planar_matrix

_URL = re.compile(r"url\(\s*[\"']?#([^)\"']*)[\"']?\s*\)\s*(.*)")
_CAPS = {"round": skia.Paint.kRound_Cap, "square": skia.Paint.kSquare_Cap}
_JOINS = {"round": skia.Paint.kRound_Join, "bevel": skia.Paint.kBevel_Join}
_SPREADS = {"reflect": skia.TileMode.kMirror, "repeat": skia.TileMode.kRepeat}
#: References of gradients to gradients that are followed.
_DEEPEST = 20


class Paints:
    """The paint of one drawing's shapes; `contents` draws what is in an element, as patterns need."""

    def __init__(
        self,
        by_id: Mapping[str, etree._Element],
        contents: Callable[[skia.Canvas, etree._Element, Context], None],
    ) -> None:
        self._by_id = by_id
        self._contents = contents

    def shape(self, canvas: skia.Canvas, path: skia.Path, context: Context, opacity: float = 1.0) -> None:
        """Fill and stroke a path as its style says."""
        if context.is_clip:
            canvas.drawPath(path, skia.Paint(AntiAlias=True))
            return
        paints = [self._fill(path, context, opacity), self._stroke(path, context, opacity)]
        if context.style.get("paint-order", "normal").split()[0] == "stroke":
            paints.reverse()
        for paint in paints:
            if paint is not None:
                canvas.drawPath(path, paint)

    def is_one(self, context: Context) -> bool:
        """Whether a shape is filled or stroked alone, so that its opacity is that of its paint."""
        return "none" in (context.style["fill"], context.style["stroke"])

    def _fill(self, path: skia.Path, context: Context, opacity: float) -> skia.Paint | None:
        return self._paint("fill", path, context, opacity)

    def _stroke(self, path: skia.Path, context: Context, opacity: float) -> skia.Paint | None:
        style = context.style
        width = context.px(style.get("stroke-width"), 1.0)
        paint = self._paint("stroke", path, context, opacity) if width > 0 else None
        if paint is None:
            return None
        paint.setStyle(skia.Paint.kStroke_Style)
        paint.setStrokeWidth(width)
        paint.setStrokeCap(_CAPS.get(style.get("stroke-linecap", ""), skia.Paint.kButt_Cap))
        paint.setStrokeJoin(_JOINS.get(style.get("stroke-linejoin", ""), skia.Paint.kMiter_Join))
        paint.setStrokeMiter(max(length(style.get("stroke-miterlimit"), 1.0, 4.0), 1.0))
        dashes = [context.px(text) for text in re.split(r"[\s,]+", style.get("stroke-dasharray", "none").strip())]
        if sum(dashes) > 0 and min(dashes) >= 0:
            dashes *= 1 + len(dashes) % 2
            paint.setPathEffect(skia.DashPathEffect.Make(dashes, context.px(style.get("stroke-dashoffset"))))
        return paint

    def _paint(self, kind: str, path: skia.Path, context: Context, opacity: float) -> skia.Paint | None:
        text, current = context.style[kind].strip(), context.style["color"]
        opacity *= share(context.style.get(f"{kind}-opacity"))
        named = _URL.match(text)
        if named:
            server = self._by_id.get(named[1])
            shader = None if server is None else self._shader(server, path, context)
            if isinstance(shader, skia.Shader):
                return skia.Paint(AntiAlias=True, Shader=shader, Alphaf=opacity)
            if server is not None and shader is None:
                return None
            text = named[2].strip() or "none" if server is None else str(shader)
        colour = None if text in ("none", "transparent", "") else colour_of(text, current, opacity)
        return None if colour is None else skia.Paint(AntiAlias=True, Color=colour)

    def _shader(self, server: etree._Element, path: skia.Path, context: Context) -> skia.Shader | str | None:
        """A gradient or a pattern; a plain colour where it comes to one, None where it shows nothing."""
        lineage = self._lineage(server)
        tag = local_name(server)
        if tag == "pattern":
            return self._pattern(lineage, path, context)
        return self._gradient(tag, lineage, path, context) if tag in ("linearGradient", "radialGradient") else None

    def _lineage(self, server: etree._Element) -> list[etree._Element]:
        """A paint server and those that it takes after, one by one."""
        lineage = [server]
        while len(lineage) < _DEEPEST:
            above = self._by_id.get(reference(lineage[-1]) or "")
            if above is None or above in lineage:
                break
            lineage.append(above)
        return lineage

    def _gradient(
        self, tag: str, lineage: list[etree._Element], path: skia.Path, context: Context
    ) -> skia.Shader | str | None:
        holder = next((one for one in lineage if any(local_name(child) == "stop" for child in one)), None)
        if holder is None:
            return None
        stops = [_stop(child, context) for child in holder if local_name(child) == "stop"]
        colours = [colour for _, colour in stops]
        if len(stops) == 1:
            return f"#{colours[0] & 0xFFFFFF:06x}{colours[0] >> 24:02x}"
        offsets: list[float] = []
        for offset, _ in stops:
            offsets.append(max(offset, offsets[-1] if offsets else 0.0))
        said = _said(lineage)
        in_box = said.get("gradientUnits", "objectBoundingBox") == "objectBoundingBox"
        matrix = _transform(said.get("gradientTransform"))
        if in_box:
            box = path.computeTightBounds()
            if box.isEmpty():
                return None
            matrix = skia.Matrix.Concat(of_box(box), matrix)
        (width, height), diagonal = ((1.0, 1.0), 1.0) if in_box else (context.size, context.px("100%"))
        mode = _SPREADS.get(said.get("spreadMethod", ""), skia.TileMode.kClamp)
        if tag == "linearGradient":
            wholes = {"x1": (width, 0.0), "y1": (height, 0.0), "x2": (width, width), "y2": (height, 0.0)}
            x1, y1, x2, y2 = (length(said.get(name), whole, unsaid) for name, (whole, unsaid) in wholes.items())
            return skia.GradientShader.MakeLinear(
                [skia.Point(x1, y1), skia.Point(x2, y2)], colours, offsets, mode, 0, matrix
            )
        cx, cy = length(said.get("cx"), width, width / 2), length(said.get("cy"), height, height / 2)
        radius = length(said.get("r"), diagonal, diagonal / 2)
        fx, fy, fr = (
            length(said.get(name), whole, unsaid)
            for name, whole, unsaid in (("fx", width, cx), ("fy", height, cy), ("fr", diagonal, 0.0))
        )
        return skia.GradientShader.MakeTwoPointConical(
            skia.Point(fx, fy), fr, skia.Point(cx, cy), radius, colours, offsets, mode, 0, matrix
        )

    def _pattern(self, lineage: list[etree._Element], path: skia.Path, context: Context) -> skia.Shader | None:
        holder = next((one for one in lineage if len(one)), None)
        said = _said(lineage)
        box = path.computeTightBounds()
        in_box = said.get("patternUnits", "objectBoundingBox") == "objectBoundingBox"
        if holder is None or (in_box and box.isEmpty()):
            return None
        wide, high = (1.0, 1.0) if in_box else context.size
        x, y = length(said.get("x"), wide), length(said.get("y"), high)
        width, height = length(said.get("width"), wide), length(said.get("height"), high)
        if in_box:
            x, width = box.left() + x * box.width(), width * box.width()
            y, height = box.top() + y * box.height(), height * box.height()
        if width <= 0 or height <= 0:
            return None
        recorder = skia.PictureRecorder()
        tile = skia.Rect.MakeWH(width, height)
        canvas = recorder.beginRecording(tile)
        view = [float(number) for number in NUMBER.findall(said.get("viewBox", ""))]
        inner = replace(context, style=INITIAL)
        if len(view) == 4 and view[2] > 0 and view[3] > 0:
            fitted = Viewport(width, height, (view[0], view[1], view[2], view[3]), said.get("preserveAspectRatio", ""))
            canvas.concat(planar_matrix(fitted.matrix()))
            inner = replace(inner, size=(view[2], view[3]))
        elif said.get("patternContentUnits") == "objectBoundingBox":
            canvas.scale(box.width(), box.height())
        self._contents(canvas, holder, inner.inside(holder)[1])
        picture = recorder.finishRecordingAsPicture()
        matrix = _transform(said.get("patternTransform")).preTranslate(x, y)
        return picture.makeShader(skia.TileMode.kRepeat, skia.TileMode.kRepeat, skia.FilterMode.kLinear, matrix, tile)


def _said(lineage: list[etree._Element]) -> dict[str, str]:
    """What the nearest of a paint server and those that it takes after says of each attribute."""
    result: dict[str, str] = {}
    for one in reversed(lineage):
        result |= {**one.attrib, **own_style(one)}
    return result


def _transform(text: str | None) -> skia.Matrix:
    try:
        return planar_matrix(matrix_of(text)) if text and text != "none" else skia.Matrix.I()
    except (ValueError, OverflowError):
        return skia.Matrix.I()


def _stop(stop: etree._Element, context: Context) -> tuple[float, int]:
    """Where a stop lies, 0 to 1, and its colour."""
    own = {**stop.attrib, **own_style(stop)}
    current = own.get("color", context.style["color"])
    colour = colour_of(own.get("stop-color", "black"), current, share(own.get("stop-opacity")))
    return share(own.get("offset"), 0.0), 0xFF000000 if colour is None else colour
