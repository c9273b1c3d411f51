"""Art as the rasteriser draws it: each read once and recorded; what its canvas cannot draw is another rasteriser's."""

from __future__ import annotations

import math
from collections.abc import Callable
from copy import deepcopy
from functools import cache

import resvg
import skia
from lxml import etree

from jointed_crane.core.model.scene import Drawing
from jointed_crane.formats.svg.display.walk import displayed
from jointed_crane.formats.svg.stored_art import ArtSource, harmless, stretch
from jointed_crane.formats.svg.styles import declared, own_style, set_style
from jointed_crane.formats.svg.viewports import viewport_of
from jointed_crane.render.art_canvas import BeyondCanvas, draw
from jointed_crane.render.bitmaps import SMOOTH, decoded
from jointed_crane.render.fonts import family_here

#: Draws art in its own px.
Picture = Callable[[skia.Canvas], None]
#: What another rasteriser draws is drawn at powers of this of its own size, with no more px than this on a side.
_STEP, _LONGEST = math.sqrt(2.0), 4096


class ArtPictures:
    """The art of scenes, by the hash of its bytes and the box that it lies in."""

    def __init__(self, art: ArtSource) -> None:
        self._art = art
        self._pictures: dict[tuple[str, tuple[float, ...]], Picture] = {}

    def draw(self, canvas: skia.Canvas, drawing: Drawing) -> None:
        """Draw a drawing's art; the canvas lies in the art space of its part."""
        key = (drawing.art, drawing.box)
        if key not in self._pictures:
            self._pictures[key] = self._picture(drawing)
        x, y = drawing.registration
        count = canvas.save()
        canvas.translate(-x, -y)
        self._pictures[key](canvas)
        canvas.restoreToCount(count)

    def png(self, drawing: Drawing, scale: float) -> bytes:
        """A drawing's art as a PNG that fills its box, so many px to each of its own, as far as bounds let."""
        left, top, right, bottom = drawing.box
        scale = min(scale, _LONGEST / max(right - left, bottom - top, 1.0))
        width, height = (max(math.ceil(side * scale), 1) for side in (right - left, bottom - top))
        surface = skia.Surface(width, height)
        with surface as canvas:
            canvas.scale(width / (right - left), height / (bottom - top))
            canvas.translate(drawing.registration[0] - left, drawing.registration[1] - top)
            self.draw(canvas, drawing)
        return bytes(surface.makeImageSnapshot().encodeToData())

    def _picture(self, drawing: Drawing) -> Picture:
        media_type, data = self._art(drawing.art)
        box = skia.Rect.MakeLTRB(*drawing.box)
        if media_type != "image/svg+xml":
            image = decoded(data)
            return lambda canvas: None if image is None else canvas.drawImageRect(image, box, SMOOTH)
        root = harmless(data)
        recorder = skia.PictureRecorder()
        canvas = recorder.beginRecording(box)
        try:
            canvas.concat(skia.Matrix.MakeAll(*stretch(root, drawing), 0, 0, 1))
            draw(canvas, displayed(root))
        except BeyondCanvas:
            return _Bitmaps(root, box).draw
        picture = recorder.finishRecordingAsPicture()
        return lambda canvas: canvas.drawPicture(picture)


def _scale_of(matrix: skia.Matrix, box: skia.Rect) -> float:
    """How many px one px of the art is seen as at most; in perspective that of the longest side of its box."""
    if not matrix.hasPerspective():
        return float(matrix.getMaxScale())
    left, top, right, bottom = box.left(), box.top(), box.right(), box.bottom()
    corners = [skia.Point(left, top), skia.Point(right, top), skia.Point(right, bottom), skia.Point(left, bottom)]
    seen = matrix.mapPoints(corners)
    sides = zip(seen, [*seen[1:], seen[0]], (box.width(), box.height()) * 2, strict=True)
    return max(math.hypot(after.x() - at.x(), after.y() - at.y()) / max(side, 1e-6) for at, after, side in sides)


class _Bitmaps:
    """A drawing as bitmaps of the sizes that it is shown at, drawn by the other rasteriser, each once."""

    def __init__(self, root: etree._Element, box: skia.Rect) -> None:
        self._root, self._box = root, box
        self._images: dict[int, skia.Image] = {}

    def draw(self, canvas: skia.Canvas) -> None:
        """Draw the bitmap that is large enough here."""
        scale = max(_scale_of(canvas.getTotalMatrix(), self._box), 1e-3)
        most = _LONGEST / max(self._box.width(), self._box.height(), 1.0)
        power = math.ceil(math.log(min(scale, most), _STEP) - 1e-6)
        if power not in self._images:
            self._images[power] = self._image(min(_STEP**power, most))
        canvas.drawImageRect(self._images[power], self._box, SMOOTH)

    def _image(self, scale: float) -> skia.Image:
        root = deepcopy(self._root)
        viewport = viewport_of(root)
        root.set("width", repr(max(round(viewport.width * scale), 1)))
        root.set("height", repr(max(round(viewport.height * scale), 1)))
        root.set("preserveAspectRatio", "none")
        for element in root.iter():  # the other rasteriser knows fonts by their own names alone
            family = declared(element, "font-family")
            if family:
                set_style(element, {**own_style(element), "font-family": family_here(family)})
        tree = resvg.usvg.Tree.from_str(etree.tostring(root, encoding="unicode"), _options())
        image = decoded(bytes(resvg.render(tree, (1.0, 0.0, 0.0, 0.0, 1.0, 0.0))))
        assert image is not None
        return image


@cache
def _options() -> resvg.usvg.Options:
    options = resvg.usvg.Options.default()
    options.load_system_fonts()
    options.font_family = family_here("")
    return options
