"""Outlines as the rasteriser's paths: those of drawings, and of the app's own shapes."""

from __future__ import annotations

import skia

from jointed_crane.core.model.forms import Shape, contours_of, is_closed, sides
from jointed_crane.formats.svg.display.nodes import Figure


def path_of_figure(figure: Figure) -> skia.Path:
    """An outline, with its rule."""
    builder = skia.PathBuilder()
    for contour in figure.contours:
        at = contour.start
        builder.moveTo(*at)
        for leaving, arriving, end in contour.curves:
            if leaving == at and arriving == end:
                builder.lineTo(*end)
            else:
                builder.cubicTo(*leaving, *arriving, *end)
            at = end
        if contour.is_closed:
            builder.close()
    path = builder.detach()
    if figure.is_even_odd:
        path.setFillType(skia.PathFillType.kEvenOdd)
    return path


def path_of_shape(shape: Shape) -> skia.Path:
    """A shape of the app's own, px in its own coordinates."""
    builder = skia.PathBuilder()
    for contour in contours_of(shape):
        beziers = sides(contour, is_closed(shape)).tolist()
        if not beziers:
            continue
        builder.moveTo(*beziers[0][0])
        for _, leaving, arriving, end in beziers:
            builder.cubicTo(*leaving, *arriving, *end)
        if is_closed(shape):
            builder.close()
    return builder.detach()
