"""Any frame of a scene as a picture, whole or between, alone or one after the other."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence

import numpy as np
import numpy.typing as npt
import skia

from jointed_crane.core.evaluate import Pose
from jointed_crane.core.evaluate.pose_at_frame import pose_at
from jointed_crane.core.evaluate.stretches import film
from jointed_crane.core.geometry.nine_points import box_corners
from jointed_crane.core.model.forms import Shape
from jointed_crane.core.model.scene import NO_GROUND, Drawing, Scene
from jointed_crane.core.viewing.cameras import stage_view
from jointed_crane.core.viewing.clips import Clip
from jointed_crane.core.viewing.painting import painting
from jointed_crane.core.viewing.projection import plane_maps
from jointed_crane.core.viewing.seeing import through
from jointed_crane.core.viewing.shown import shown
from jointed_crane.core.viewing.view import View
from jointed_crane.formats.svg.stored_art import ArtSource
from jointed_crane.render.art_pictures import ArtPictures
from jointed_crane.render.colours import colour_of
from jointed_crane.render.paths import path_of_shape

Pixels = npt.NDArray[np.uint8]
Floats = npt.NDArray[np.float64]
#: Room round art for soft edges, px of the art.
_SPARE = 2.0


def frame(
    scene: Scene, number: float | None, art: ArtSource, size: tuple[int, int] | None = None, see_through: bool = False
) -> Pixels:
    """The scene at a frame, or at rest where its number is None, as the animated SVG shows it.

    Returns
    -------
    pixels : array, shape (height, width, 4): red, green, blue and alpha, 8 bits, premultiplied, sRGB
    """
    renderer = Renderer(scene, art, size, see_through)
    return next(renderer.of_pose(pose_at(scene, number), is_at_rest=number is None))


class Renderer:
    """Draws frames of one scene; what it has read of the art stays read.

    `size` is width and height, px, those of the stage unless told; `see_through` leaves the ground out, and `only` are
    the ids of the parts that are drawn, all unless told.
    """

    def __init__(
        self,
        scene: Scene,
        art: ArtSource,
        size: tuple[int, int] | None = None,
        see_through: bool = False,
        only: frozenset[str] | None = None,
    ) -> None:
        self._scene = scene
        self._sent = {part.id for part in scene.parts if part.is_sent and (only is None or part.id in only)}
        self._unsent = [part.id for part in scene.parts if part.id not in self._sent]
        self._pictures = ArtPictures(art)
        self.size = size or (round(scene.width), round(scene.height))
        self._ground = None if see_through or scene.ground == NO_GROUND else colour_of(scene.ground)

    def frames(self, numbers: Sequence[float]) -> Iterator[Pixels]:
        """Frame after frame; one is made when it is asked for."""
        for pose in film(self._scene, np.asarray(numbers, dtype=np.float64)):
            yield from self.of_pose(pose)

    def of_pose(self, pose: Pose, is_at_rest: bool = False) -> Iterator[Pixels]:
        """The frames of a pose one after the other, each as `frame` gives it."""
        shapes = pose.shapes()
        for column in range(len(pose.frames)):
            view = stage_view(self._scene, pose, column, is_at_rest)
            yield self._pixels(pose, column, {part_id: its[column] for part_id, its in shapes.items()}, view)

    def _pixels(self, pose: Pose, column: int, shapes: Mapping[str, Shape | None], view: View) -> Pixels:
        width, height = self.size
        srgb = skia.ColorSpace.MakeSRGB()
        # Half floats: with 8 bits each layer rounds what is under it, and what is laid over a ground later differs.
        surface = skia.Surface(
            skia.ImageInfo.Make(width, height, skia.kRGBA_F16_ColorType, skia.kPremul_AlphaType, srgb)
        )
        with surface as canvas:
            if self._ground is not None:
                canvas.clear(self._ground)
            canvas.scale(width / self._scene.width, height / self._scene.height)
            self._draw(canvas, pose, column, shapes, view)
        result: Pixels = np.empty((height, width, 4), dtype=np.uint8)
        info = skia.ImageInfo.Make(width, height, skia.kRGBA_8888_ColorType, skia.kPremul_AlphaType, srgb)
        surface.readPixels(info, result, width * 4, 0, 0)
        return result

    def _draw(
        self, canvas: skia.Canvas, pose: Pose, column: int, shapes: Mapping[str, Shape | None], view: View
    ) -> None:
        for painted in painting(shown(self._scene, pose, column, self._unsent), view):
            part_id = painted.part_id
            row, part = pose.index[part_id], self._scene.part(part_id)
            drawing, opacity = int(pose.drawing[row, column]), float(pose.opacity[row, column])
            if drawing < 0 or not pose.shown[row, column] or opacity <= 0:
                continue
            art = part.drawings[drawing]
            count = canvas.save()
            map_ = plane_maps(pose.world[row, column], view)
            if view.focal is not None:
                map_ = map_ / _nearness(map_, art, painted.clip)
            matrix = skia.Matrix.MakeAll(*map_.reshape(9).tolist())
            if painted.clip is not None:
                # The piece as a whole is cut: shapes cut one by one would let each other shine through at the line.
                (left, top), (right, bottom) = _extent(through(map_, np.array(painted.clip)))
                canvas.clipRect(skia.Rect.MakeLTRB(left, top, right, bottom))
                canvas.saveLayer()
                canvas.save()
            canvas.concat(matrix)
            if opacity < 1:
                left, top, right, bottom = art.box
                x, y = art.registration
                box = skia.Rect.MakeLTRB(left - x, top - y, right - x, bottom - y)
                canvas.saveLayer(box.makeOutset(_SPARE, _SPARE), skia.Paint(Alphaf=opacity))
            shape = shapes.get(part_id)
            if shape is None:
                self._pictures.draw(canvas, art)
            else:
                canvas.translate(-art.registration[0], -art.registration[1])
                _draw_shape(canvas, shape)
            if painted.clip is not None:
                canvas.restoreToCount(count + 2)
                _cut(canvas, matrix, painted.clip)
            canvas.restoreToCount(count)


def _extent(seen: Floats) -> tuple[list[float], list[float]]:
    """The box of what is seen, with room for smooth edges, px."""
    return (seen.min(axis=0) - 2.0).tolist(), (seen.max(axis=0) + 2.0).tolist()


def _cut(canvas: skia.Canvas, matrix: skia.Matrix, clip: Clip) -> None:
    """Cut what the uppermost layer holds to a polygon in art space."""
    canvas.saveLayer(None, skia.Paint(BlendMode=skia.BlendMode.kDstIn))
    canvas.concat(matrix)
    path = skia.Path().addPoly([skia.Point(x, y) for x, y in clip], True)
    canvas.drawPath(path, skia.Paint(AntiAlias=True))
    canvas.restore()


def _nearness(map_: Floats, art: Drawing, clip: Clip | None) -> float:
    """The third number of a map in the middle of what is painted: the rasteriser cuts where it is small beside 1."""
    x, y = (box_corners(art.bounds) if clip is None else np.array(clip)).mean(axis=0)
    return max(float(map_[2] @ [x, y, 1.0]), 1e-9)


def _draw_shape(canvas: skia.Canvas, shape: Shape) -> None:
    """A shape of the app's own as it is at a frame."""
    path, paint = path_of_shape(shape), shape.paint
    if paint.fill:
        canvas.drawPath(path, skia.Paint(AntiAlias=True, Color=colour_of(paint.fill)))
    if paint.stroke and paint.width > 0:
        stroke = skia.Paint(AntiAlias=True, Color=colour_of(paint.stroke), Style=skia.Paint.kStroke_Style)
        stroke.setStrokeWidth(paint.width)
        stroke.setStrokeCap(skia.Paint.kRound_Cap)
        stroke.setStrokeJoin(skia.Paint.kRound_Join)
        canvas.drawPath(path, stroke)
