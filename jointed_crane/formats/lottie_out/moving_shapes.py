"""Shapes of the app's own in motion: their nodes, colours and widths as keys of paths and paints."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise
from typing import cast

import numpy as np
import numpy.typing as npt

from jointed_crane.core.model.channels import countable
from jointed_crane.core.model.forms import Shape, contours_of, is_closed, sides
from jointed_crane.core.model.scene import Part
from jointed_crane.core.motion.curves import PackedCurves, values
from jointed_crane.core.shapes.reshaping import moving_shapes, shape_channels
from jointed_crane.formats.lottie_out.properties import Track, moving
from jointed_crane.formats.lottie_out.shapes import group, rounded, transform
from jointed_crane.formats.lottie_out.tracks import channel_of, key_track, straight_stops
from jointed_crane.formats.moving.keyframes import Easing, Keyframe
from jointed_crane.formats.moving.lottie_words import Json, still

Floats = npt.NDArray[np.float64]
#: How far a shape may lie from what is evaluated, px, and a colour, of 255.
_PX, _LEVELS = 0.02, 0.5


def shape_in_motion(part: Part, drawing: int, length: int) -> list[Json]:
    """A drawn shape over the film, as items in the art space of its part."""
    frames = np.arange(length + 1.0)
    motion = moving_shapes(part, frames)
    assert motion is not None
    shapes = [cast(Shape, motion.at(drawing, column)) for column in range(len(frames))]
    x, y = part.drawings[drawing].registration
    items: list[Json] = []
    tracks = [track for name in shape_channels(part) if len(track := _track(part, name)) > 1]
    contours = [[sides(contour, is_closed(shape)) for contour in contours_of(shape)] for shape in shapes]
    for place in range(len(contours[0])):
        curves = np.stack([of_frame[place] for of_frame in contours]) - (x, y)
        if curves.shape[1]:
            keys = _keys(curves.reshape(len(frames), -1), _PX, tracks, length)
            beziers = [_bezier(curves[int(frame)], is_closed(shapes[0])) for frame, _ in keys]
            items.append({"ty": "sh", "ks": _property(keys, beziers, in_lists=True)})
    paints = [shape.paint for shape in shapes]
    if paints[0].stroke:
        widths = np.array([[paint.width] for paint in paints])
        keys = _keys(widths, _PX, tracks, length)
        numbers = [float(widths[int(frame), 0]) for frame, _ in keys]
        width = _property(keys, numbers, in_lists=True)
        stroke = {"ty": "st", "c": _colour([paint.stroke for paint in paints], tracks, length), "w": width}
        items.append(stroke | {"o": still(100), "lc": 2, "lj": 2})
    if paints[0].fill:
        fill = {"ty": "fl", "c": _colour([paint.fill for paint in paints], tracks, length), "o": still(100), "r": 1}
        items.append(fill)
    return [group(items, transform())]


def _track(part: Part, name: str) -> Track:
    """The keys of a channel of a shape; only their frames and eases count."""
    channel = countable(name, part.channels[name]) if name in part.channels else None
    return key_track(channel) if channel is not None and channel.is_plain else ()


def _colour(texts: Sequence[str], tracks: Sequence[Track], length: int) -> Json:
    levels = np.array([[int(text[at : at + 2], 16) for at in (1, 3, 5)] for text in texts], dtype=np.float64)
    keys = _keys(levels, _LEVELS, tracks, length)
    colours = [(levels[int(frame)] / 255).tolist() for frame, _ in keys]
    return _property(keys, colours)


def _property(keys: Sequence[tuple[float, Easing]], values: Sequence[object], in_lists: bool = False) -> Json:
    """A property with values at keys; keys have paths and single numbers in lists."""
    if len(keys) == 1:
        return still(values[0])
    return moving([([value] if in_lists else value, *key) for value, key in zip(values, keys, strict=True)])


def _bezier(curves: Floats, is_round: bool) -> Json:
    """The sides of one contour, shape (sides, 4, 2)."""
    vertices, ends = curves[:, 0], curves[:, 3]
    outs, ins = curves[:, 1] - vertices, curves[:, 2] - ends
    if is_round:
        ins = np.roll(ins, 1, axis=0)
    else:
        vertices = np.concatenate([vertices, ends[-1:]])
        outs, ins = np.concatenate([outs, np.zeros((1, 2))]), np.concatenate([np.zeros((1, 2)), ins])
    return {"c": is_round, "v": rounded(vertices), "i": rounded(ins), "o": rounded(outs)}


def _keys(course: Floats, tolerance: float, tracks: Sequence[Track], length: int) -> list[tuple[float, Easing]]:
    """Frames and eases of keys that follow numbers, shape (frames, numbers), within a tolerance: between two keys of
    the channels one ease where it goes for all of them, else straight lines, as few as will do.
    """
    if float(np.ptp(course, axis=0).max(initial=0.0)) <= tolerance / 10:
        return [(0.0, "hold")]
    frames = {keyframe.frame for track in tracks for keyframe in track if 0 < keyframe.frame < length}
    edges = sorted({0, length, *(int(frame) for frame in frames if float(frame).is_integer())})
    result: list[tuple[float, Easing]] = []
    for begin, end in pairwise(edges):
        ease = _common_ease(course[begin : end + 1], tolerance, tracks, float(begin), float(end))
        stops = [0] if ease is not None else straight_stops(course[begin : end + 1], tolerance)[:-1]
        result += [(float(begin + stop), ease or "straight") for stop in stops]
    return [*result, (float(length), "hold")]


def _common_ease(course: Floats, tolerance: float, tracks: Sequence[Track], begin: float, end: float) -> Easing | None:
    """The ease of one of the channels that all numbers follow between two frames."""
    rise = course[-1] - course[0]
    eases: list[Easing] = ["straight", "hold"]
    eases += dict.fromkeys(
        keyframe.easing
        for track in tracks
        for keyframe, after in pairwise(track)
        if (keyframe.frame, after.frame) == (begin, end) and isinstance(keyframe.easing, tuple)
    )
    at = np.linspace(0.0, 1.0, len(course))
    for ease in eases:
        channel = channel_of((Keyframe(0.0, 0.0, ease), Keyframe(1.0, 1.0, "hold")))
        share = values(PackedCurves((channel,)), at)[0]
        if float(np.abs(course[0] + share[:, None] * rise - course).max()) <= tolerance:
            return ease
    return None
