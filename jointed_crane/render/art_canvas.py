"""What a drawing paints, drawn onto a canvas of the rasteriser."""

from __future__ import annotations

import contextlib
from collections.abc import Iterator

import skia

from jointed_crane.formats.svg.display.nodes import (
    Bitmap,
    Coat,
    Gradient,
    Group,
    Mask,
    Node,
    Paint,
    Painted,
    Pattern,
    Unknown,
)
from jointed_crane.formats.svg.viewports import Viewport
from jointed_crane.render.bitmaps import IN_PIXELS, SMOOTH, decoded
from jointed_crane.render.matrices import planar_matrix
from jointed_crane.render.paths import path_of_figure

_BLENDS = {
    "multiply": skia.BlendMode.kMultiply, "screen": skia.BlendMode.kScreen, "overlay": skia.BlendMode.kOverlay,
    "darken": skia.BlendMode.kDarken, "lighten": skia.BlendMode.kLighten, "color-dodge": skia.BlendMode.kColorDodge,
    "color-burn": skia.BlendMode.kColorBurn, "hard-light": skia.BlendMode.kHardLight,
    "soft-light": skia.BlendMode.kSoftLight, "difference": skia.BlendMode.kDifference,
    "exclusion": skia.BlendMode.kExclusion, "hue": skia.BlendMode.kHue, "saturation": skia.BlendMode.kSaturation,
    "color": skia.BlendMode.kColor, "luminosity": skia.BlendMode.kLuminosity, "plus-lighter": skia.BlendMode.kPlus,
}  # fmt: skip
_CAPS = {"butt": skia.Paint.kButt_Cap, "round": skia.Paint.kRound_Cap, "square": skia.Paint.kSquare_Cap}
_JOINS = {"miter": skia.Paint.kMiter_Join, "round": skia.Paint.kRound_Join, "bevel": skia.Paint.kBevel_Join}
_SPREADS = {"pad": skia.TileMode.kClamp, "reflect": skia.TileMode.kMirror, "repeat": skia.TileMode.kRepeat}


class BeyondCanvas(Exception):
    """A drawing has something that the canvas has no way to draw."""


def draw(canvas: skia.Canvas, node: Node) -> None:
    """Draw a node. Raises BeyondCanvas where something in it cannot be."""
    if isinstance(node, Group):
        _group(canvas, node)
    elif isinstance(node, Painted):
        _painted(canvas, node)
    elif isinstance(node, Bitmap):
        _bitmap(canvas, node)
    else:
        assert isinstance(node, Unknown)
        raise BeyondCanvas(node.name)


def _group(canvas: skia.Canvas, group: Group) -> None:
    count = canvas.save()
    canvas.concat(planar_matrix(group.matrix))
    with _clipped(canvas, group.clips), _layered(canvas, group):
        for child in group.children:
            draw(canvas, child)
    canvas.restoreToCount(count)


# What acts on a group as a whole


@contextlib.contextmanager
def _layered(canvas: skia.Canvas, group: Group) -> Iterator[None]:
    if not group.is_layer:
        yield
        return
    paint = skia.Paint(Alphaf=group.opacity)
    if group.blend != "normal":
        paint.setBlendMode(_BLENDS[group.blend])
    canvas.saveLayer(None, paint)
    if group.mask is not None:
        canvas.clipRect(skia.Rect.MakeXYWH(*group.mask.box), True)
    yield
    if group.mask is not None:
        _mask(canvas, group.mask)
    canvas.restore()


def _mask(canvas: skia.Canvas, mask: Mask) -> None:
    paint = skia.Paint(BlendMode=skia.BlendMode.kDstIn)
    if not mask.by_alpha:
        paint.setColorFilter(skia.LumaColorFilter.Make())
    canvas.saveLayer(None, paint)
    _group(canvas, mask.content)
    canvas.restore()


@contextlib.contextmanager
def _clipped(canvas: skia.Canvas, clips: tuple[Group, ...]) -> Iterator[None]:
    """What is drawn is seen where all clips let it through."""
    layers = 0
    for clip in clips:
        single = _single_path(clip)
        if single is None:
            layers += 1
        else:
            canvas.clipPath(single, True)
    if not layers:
        yield
        return
    canvas.saveLayer(None, None)
    yield
    for clip in clips:
        if _single_path(clip) is None:
            canvas.saveLayer(None, skia.Paint(BlendMode=skia.BlendMode.kDstIn))
            _group(canvas, clip)
            canvas.restore()
    canvas.restore()


def _single_path(clip: Group) -> skia.Path | None:
    """The path of a clip of one plain shape, by which the canvas clips itself; None of another one."""
    matrix = planar_matrix(clip.matrix)
    while len(clip.children) == 1 and not clip.clips:
        (child,) = clip.children
        if isinstance(child, Painted):
            path, result = path_of_figure(child.figure), skia.Path()
            path.transform(matrix, result)
            return result
        if not isinstance(child, Group):
            return None
        clip = child
        matrix = skia.Matrix.Concat(matrix, planar_matrix(clip.matrix))
    return None


# What is painted


def _painted(canvas: skia.Canvas, shape: Painted) -> None:
    path = path_of_figure(shape.figure)
    if not shape.coats:
        canvas.drawPath(path, skia.Paint(AntiAlias=True))
    for coat in shape.coats:
        canvas.drawPath(path, _paint(coat))


def _paint(coat: Coat) -> skia.Paint:
    if isinstance(coat.paint, tuple):
        red, green, blue, alpha = coat.paint
        # Colours of 8 bits, as browsers have them: what is finer would differ from what they show.
        colour = skia.Color4f(red, green, blue, alpha * coat.opacity).toColor()
        paint = skia.Paint(AntiAlias=True, Color=colour)
    else:
        paint = skia.Paint(AntiAlias=True, Shader=_shader(coat.paint), Alphaf=coat.opacity)
    stroke = coat.pen
    if stroke is not None:
        paint.setStyle(skia.Paint.kStroke_Style)
        paint.setStrokeWidth(stroke.width)
        paint.setStrokeCap(_CAPS[stroke.cap])
        paint.setStrokeJoin(_JOINS[stroke.join])
        paint.setStrokeMiter(stroke.miter)
        if stroke.dashes:
            paint.setPathEffect(skia.DashPathEffect.Make(list(stroke.dashes), stroke.dash_offset))
    return paint


def _shader(paint: Paint) -> skia.Shader:
    if isinstance(paint, Pattern):
        return _tiles(paint)
    assert isinstance(paint, Gradient)
    colours = [skia.Color4f(*colour).toColor() for _, colour in paint.stops]
    offsets = [offset for offset, _ in paint.stops]
    mode, matrix, at = _SPREADS[paint.spread], planar_matrix(paint.matrix), paint.places
    if paint.is_radial:
        begin, end = skia.Point(at[0], at[1]), skia.Point(at[3], at[4])
        return skia.GradientShader.MakeTwoPointConical(begin, at[2], end, at[5], colours, offsets, mode, 0, matrix)
    return skia.GradientShader.MakeLinear(
        [skia.Point(at[0], at[1]), skia.Point(at[2], at[3])], colours, offsets, mode, 0, matrix
    )


def _tiles(pattern: Pattern) -> skia.Shader:
    recorder = skia.PictureRecorder()
    tile = skia.Rect.MakeWH(*pattern.size)
    _group(recorder.beginRecording(tile), pattern.content)
    picture = recorder.finishRecordingAsPicture()
    matrix = planar_matrix(pattern.matrix)
    return picture.makeShader(skia.TileMode.kRepeat, skia.TileMode.kRepeat, skia.FilterMode.kLinear, matrix, tile)


def _bitmap(canvas: skia.Canvas, bitmap: Bitmap) -> None:
    image = decoded(bitmap.data)
    if image is None:
        return
    x, y, width, height = bitmap.box
    width, height = width or image.width(), height or image.height()
    view = (0.0, 0.0, float(image.width()), float(image.height()))
    fitted = Viewport(width, height, view, bitmap.preserve)
    count = canvas.save()
    canvas.translate(x, y)
    canvas.clipRect(skia.Rect.MakeWH(width, height), True)
    canvas.concat(planar_matrix(fitted.matrix()))
    canvas.drawImage(image, 0, 0, IN_PIXELS if bitmap.in_pixels else SMOOTH)
    canvas.restoreToCount(count)
