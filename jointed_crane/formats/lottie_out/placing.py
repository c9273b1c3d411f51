"""Where a part lies as transforms of layers, one inside the other: T(position) R(turn) K S T(-anchor) each.

One is enough where a part neither spins nor slides nor scales by axes that ease apart. Innermost is the one that what
hangs on the part hangs on.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

import numpy as np
import numpy.typing as npt

from jointed_crane.core.evaluate.pose_at_frame import narrowed
from jointed_crane.core.evaluate.stretches import corners_of, film
from jointed_crane.core.geometry.decomposition import angle_about_z
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.motion.curves import PackedCurves, values
from jointed_crane.core.viewing.projection import planar
from jointed_crane.formats.lottie_out.properties import (
    Track,
    constant,
    is_constant,
    is_neutral,
    mapped,
    scalar,
    vector,
)
from jointed_crane.formats.lottie_out.tracks import TOLERANCE, channel_of, fitted_track, straight_tracks
from jointed_crane.formats.moving.lottie_words import Json, still

Floats = npt.NDArray[np.float64]
_NOWHERE: tuple[Track, Track] = (constant(0.0), constant(0.0))
_SAME: tuple[Track, Track] = (constant(1.0), constant(1.0))


def placed(part: Part, tracks: Callable[[str], Track], length: int) -> list[Json]:
    """The transforms of a part that is carried as it is; `tracks` gives its channels, rest and motion joined."""
    own = float(np.rad2deg(angle_about_z(part.orientation)))
    move, slide = (tracks("move.x"), tracks("move.y")), (tracks("slide.x"), tracks("slide.y"))
    turn, shear = tracks("turn.z"), tracks("shear.xy")
    scale, spin = (tracks("scale.x"), tracks("scale.y")), tracks("spin.z")
    result = []
    if all(map(is_constant, slide)):
        cosine, sine = np.cos(np.deg2rad(own)), np.sin(np.deg2rad(own))
        x, y = slide[0][0].value, slide[1][0].value
        along = (float(cosine * x - sine * y), float(sine * x + cosine * y))
        place = (_plus(move[0], along[0]), _plus(move[1], along[1]))
        turn = _plus(turn, own)
    else:
        result.append(_transform(move, turn=constant(own)))
        place = slide
    anchor = (part.pivot[0], part.pivot[1])
    if vector(scale) is not None:
        result.append(_transform(place, turn, _skew(shear, length), scale, anchor))
    else:
        result.append(_transform(place, turn, _skew(shear, length), (scale[0], constant(1.0))))
        result.append(_transform(scale=(constant(1.0), scale[1]), anchor=anchor))
    if not is_neutral(spin, 0.0):
        x, y, _ = part.centre
        result.append(_transform((constant(x), constant(y)), spin, anchor=(x, y)))
    return result


def baked(scene: Scene, part: Part, sources: list[Part]) -> list[Json]:
    """The transform of a part that stands on the stage itself, with keys fitted to where it is at each moment;
    `sources` are the parts that its place goes by.
    """
    known: dict[bytes, Floats] = {}
    alone = narrowed(scene, [part.id])

    def places(frames: Floats) -> Floats:
        key = frames.tobytes()
        if key not in known:
            poses = film(alone, frames)
            known[key] = np.concatenate([planar(pose.world[pose.index[part.id]]) for pose in poses])
        return known[key]

    length = scene.length
    grid = np.arange(0.0, length + 0.25, 0.25)
    its_corners = corners_of(sources, 0.0, float(length))
    whole = _whole_turns(places(grid))
    anchor = (part.pivot[0], part.pivot[1])

    def course(row: int, frames: Floats) -> Floats:
        near = np.interp(frames, grid, whole)
        return np.asarray(_taken_apart(places(frames), anchor, near)[row])

    def track(row: int, unit: str) -> Track:
        return fitted_track(partial(course, row), length, TOLERANCE[unit], its_corners)

    def pair(first: int, second: int) -> tuple[Track, Track]:
        """Two scales that one ease goes for."""
        alone = (track(first, ""), track(second, ""))
        if vector(alone) is not None:
            return alone
        frames = np.arange(length + 1.0)
        x, y = straight_tracks(np.stack([course(first, frames), course(second, frames)], axis=-1), TOLERANCE[""])
        return x, y

    place, scale = (track(0, "px"), track(1, "px")), pair(3, 4)
    if is_neutral(track(5, ""), 0.0):
        return [_transform(place, track(2, "deg"), scale=scale, anchor=anchor)]
    return [
        _transform(place, track(6, "deg"), scale=pair(7, 8)),
        _transform(turn=track(9, "deg"), scale=scale, anchor=anchor),
    ]


def _whole_turns(matrices: Floats) -> Floats:
    """The angle of the first axis at each frame, degrees, as it goes on; where a scale passes through nothing the axis
    turns round, and the scale changes its sign instead.
    """
    angles = np.arctan2(matrices[:, 1], matrices[:, 0])
    size = np.hypot(matrices[:, 0], matrices[:, 1])
    square = np.arctan2(-matrices[:, 2], matrices[:, 3])
    angles = np.where(size > 1e-9, angles, square)
    result: Floats = np.rad2deg(np.unwrap(angles, period=np.pi))
    return result


def _taken_apart(matrices: Floats, anchor: tuple[float, float], near: Floats) -> Floats:
    """Place of the anchor, turn, scales and shear, of the angles that say the same the nearest to one that is known;
    then turn, scales and turn that come to the same turn and shear, since not all players know shear. Shape
    (10, frames).

    [[1, k], [0, 1]] = R(b) diag(s, 1 / s) R(b - 90) with s = (k + sqrt(k^2 + 4)) / 2 and tan b = 1 / s: its singular
    value decomposition, on the branch that goes on through k = 0.
    """
    a, b, c, d, e, f = matrices.T
    x, y = a * anchor[0] + c * anchor[1] + e, b * anchor[0] + d * anchor[1] + f
    size = np.hypot(a, b)
    turn = np.rad2deg(np.where(size > 1e-9, np.arctan2(b, a), np.arctan2(-c, d)))
    halves = np.round((near - turn) / 180)
    turn = turn + 180 * halves
    wide = np.where(halves % 2 == 0, size, -size)
    cosine, sine = np.cos(np.deg2rad(turn)), np.sin(np.deg2rad(turn))
    across, high = cosine * c + sine * d, cosine * d - sine * c
    shear = np.divide(across, high, out=np.zeros_like(high), where=np.abs(high) > 1e-6 * np.maximum(size, 1e-6))
    longer = (np.abs(shear) + np.sqrt(shear * shear + 4)) / 2
    longer = np.where(shear < 0, 1 / longer, longer)
    way = np.rad2deg(np.arctan2(1.0, longer))
    return np.stack([x, y, turn, wide, high, shear, turn + way, longer, 1 / longer, way - 90])


def _plus(track: Track, by: float) -> Track:
    return mapped(track, lambda value: value + by) if by else track


def _skew(shear: Track, length: int) -> Track:
    """The angle of a shear, degrees, as the format counts it; it is fitted, since angles do not go as shears do."""
    if is_constant(shear):
        return constant(-float(np.rad2deg(np.arctan(shear[0].value))) or 0.0)
    packed = PackedCurves((channel_of(shear),))
    inner = [keyframe.frame for keyframe in shear if 0 < keyframe.frame < length]
    return fitted_track(
        lambda frames: -np.rad2deg(np.arctan(values(packed, frames)[0])), length, TOLERANCE["deg"], inner
    )


def _transform(
    place: tuple[Track, Track] = _NOWHERE,
    turn: Track = constant(0.0),  # noqa: B008  never written to
    skew: Track = constant(0.0),  # noqa: B008
    scale: tuple[Track, Track] = _SAME,
    anchor: tuple[float, float] = (0.0, 0.0),
) -> Json:
    size = vector(list(map(percent, scale)))
    assert size is not None
    at = vector(place)
    if at is None or at["a"]:  # each axis with the keys that it has
        at = {"s": True, "x": scalar(place[0]), "y": scalar(place[1])}
    result = {"a": still(list(anchor)), "p": at, "s": size, "r": scalar(turn), "o": still(100.0)}
    if not is_neutral(skew, 0.0):
        result |= {"sk": scalar(skew), "sa": still(0.0)}
    return result


def percent(shares: Track) -> Track:
    """Shares as the percentages that read back as the same numbers."""
    return mapped(shares, lambda share: float(f"{share * 100:.15g}"))
