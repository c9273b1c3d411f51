"""Frames of a scene in depth, each written by itself: what is nearer is painted over what is farther, as a camera
sees it.

Where a map is affine the art stands once and is used; in perspective plain shapes are written as they are seen, outline
by outline, and other art as a picture laid into place.
"""

from __future__ import annotations

import base64
import io
from collections.abc import Callable, Collection
from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt
from lxml import etree
from PIL import Image

from jointed_crane.core.evaluate import Pose
from jointed_crane.core.geometry.nine_points import box_corners
from jointed_crane.core.model.forms import Shape
from jointed_crane.core.model.scene import Drawing, Scene
from jointed_crane.core.shapes.picture import path_data
from jointed_crane.core.viewing.painting import painting
from jointed_crane.core.viewing.projection import plane_maps
from jointed_crane.core.viewing.seeing import through
from jointed_crane.core.viewing.shown import shown
from jointed_crane.core.viewing.view import View
from jointed_crane.formats.svg.display.nodes import Coat, Figure, Group, Painted, Pen
from jointed_crane.formats.svg.display.outlines import contours_of_data
from jointed_crane.formats.svg.display.walk import displayed
from jointed_crane.formats.svg.stored_art import ArtSource, harmless, stretch
from jointed_crane.formats.svg.tags import SVG
from jointed_crane.formats.svg_out.inlining import add_art, number
from jointed_crane.formats.svg_out.moving_shapes import add_shape
from jointed_crane.formats.svg_out.seen_outlines import moved_figure, seen_path

Floats = npt.NDArray[np.float64]
#: Draws a drawing's art as a PNG that fills its box.
AsPicture = Callable[[Drawing], bytes]
#: Drawings of more curves than these are not written outline by outline in perspective.
MOST_CURVES_SEEN = 400


@dataclass
class DepthFrames:
    """Writes frames of one scene into elements; art that several frames show stands once.

    `as_picture` draws what cannot be written outline by outline in perspective; without it that is written as it is
    seen about its middle.
    """

    scene: Scene
    art: ArtSource
    root: etree._Element
    as_picture: AsPicture | None = None
    only: Collection[str] | None = None
    _uses: dict[str, str] = field(default_factory=dict)
    _plain: dict[str, list[Painted] | None] = field(default_factory=dict)
    _pictures: dict[str, Image.Image] = field(default_factory=dict)
    _clips: int = 0

    def __post_init__(self) -> None:
        self._definitions = etree.SubElement(self.root, f"{{{SVG}}}defs")
        self._left_out = [
            part.id
            for part in self.scene.parts
            if not part.is_sent or (self.only is not None and part.id not in self.only)
        ]

    def pieces(self, pose: Pose, column: int, view: View) -> list[tuple[object, ...]]:
        """All that says how a frame looks: frames that are alike are written once."""
        shapes = pose.shapes()
        result: list[tuple[object, ...]] = []
        for one in painting(shown(self.scene, pose, column, self._left_out), view):
            row = pose.index[one.part_id]
            map_ = plane_maps(pose.world[row, column], view)
            shape = shapes[one.part_id][column] if one.part_id in shapes else None
            clip = one.clip and tuple((round(x, 6), round(y, 6)) for x, y in one.clip)
            drawing, opacity = int(pose.drawing[row, column]), float(pose.opacity[row, column])
            if drawing >= 0 and opacity > 0:
                result.append((one.part_id, drawing, opacity, tuple(map_.reshape(9).tolist()), clip, shape))
        return result

    def write(self, holder: etree._Element, pieces: list[tuple[object, ...]]) -> None:
        """Write the pieces of one frame into an element."""
        for part_id, drawing, opacity, numbers, clip, shape in pieces:
            part = self.scene.part(str(part_id))
            shown = part.drawings[int(drawing)]  # type: ignore[call-overload]
            map_ = np.array(numbers, dtype=np.float64).reshape(3, 3)
            corners = None if clip is None else np.array(clip, dtype=np.float64)
            element = etree.SubElement(holder, f"{{{SVG}}}g")
            element.set("data-part", part.name)
            if float(opacity) < 1:  # type: ignore[arg-type]
                element.set("opacity", number(float(opacity)))  # type: ignore[arg-type]
            self._piece(element, shown, map_, corners, shape)  # type: ignore[arg-type]

    def _piece(
        self, element: etree._Element, drawing: Drawing, map_: Floats, clip: Floats | None, shape: Shape | None
    ) -> None:
        is_flat = abs(map_[2, 0]) + abs(map_[2, 1]) < 1e-12 * abs(map_[2, 2])
        plain = None if is_flat else self._plain_of(drawing, shape)
        if not is_flat and plain is not None:
            self._outlines(element, plain, map_, clip)
        elif not is_flat and self.as_picture is not None and shape is None:
            self._picture(element, drawing, map_, clip)
        else:
            self._used(element, drawing, map_, clip, shape)

    # Affine: the art itself

    def _used(
        self, element: etree._Element, drawing: Drawing, map_: Floats, clip: Floats | None, shape: Shape | None
    ) -> None:
        a, c, e, b, d, f = _affine(map_, drawing).reshape(6).tolist()
        element.set("transform", f"matrix({' '.join(map(number, (a, b, c, d, e, f)))})")
        if clip is not None:
            element = self._clipped(element, clip)
        if shape is not None:
            add_shape(element, drawing, shape)
            return
        if drawing.id not in self._uses:
            self._uses[drawing.id] = f"a{len(self._uses)}"
            group = etree.SubElement(self._definitions, f"{{{SVG}}}g", id=self._uses[drawing.id])
            add_art(group, drawing, f"{self._uses[drawing.id]}-", self.art)
        etree.SubElement(element, f"{{{SVG}}}use").set("href", f"#{self._uses[drawing.id]}")

    def _clipped(self, element: etree._Element, clip: Floats) -> etree._Element:
        """A group cut to a polygon, in the coordinates of its element."""
        self._clips += 1
        path = etree.SubElement(element, f"{{{SVG}}}clipPath", id=f"c{self._clips}")
        etree.SubElement(path, f"{{{SVG}}}polygon", points=_points(clip))
        group = etree.SubElement(element, f"{{{SVG}}}g")
        group.set("clip-path", f"url(#c{self._clips})")
        return group

    # Perspective: outlines as they are seen, or a picture laid into place

    def _plain_of(self, drawing: Drawing, shape: Shape | None) -> list[Painted] | None:
        """A drawing as shapes of plain colours, in art space; None where it is more than that."""
        if shape is not None:
            return _of_shape(shape, drawing)
        if drawing.id not in self._plain:
            self._plain[drawing.id] = plain_shapes(drawing, self.art)
        return self._plain[drawing.id]

    def _outlines(self, element: etree._Element, plain: list[Painted], map_: Floats, clip: Floats | None) -> None:
        near = None
        if clip is not None:
            element = self._clipped(element, through(map_, clip))
            depths = clip @ map_[2, :2] + map_[2, 2]
            near = max(float(depths.min()), 1e-6 * float(depths.max()))
        for painted in plain:
            for coat in painted.coats:
                path = seen_path(painted.figure, coat.pen, map_, near)
                if path:
                    drawn = etree.SubElement(element, f"{{{SVG}}}path", d=path, fill=_hex(coat))
                    drawn.set("fill-rule", "evenodd" if painted.figure.is_even_odd or coat.pen else "nonzero")
                    alpha = coat.opacity * coat.paint[3]  # type: ignore[index]
                    if alpha < 1:
                        drawn.set("fill-opacity", number(alpha))

    def _picture(self, element: etree._Element, drawing: Drawing, map_: Floats, clip: Floats | None) -> None:
        if drawing.id not in self._pictures:
            assert self.as_picture is not None
            with Image.open(io.BytesIO(self.as_picture(drawing))) as opened:
                self._pictures[drawing.id] = opened.convert("RGBA")
        picture = self._pictures[drawing.id]
        left, top, right, bottom = drawing.box
        x, y = drawing.registration
        to_art = np.array(
            [[(right - left) / picture.width, 0, left - x], [0, (bottom - top) / picture.height, top - y], [0, 0, 1.0]]
        )
        corners = box_corners((left - x, top - y, right - x, bottom - y)) if clip is None else clip
        seen = through(map_, corners)
        low = np.floor(np.maximum(seen.min(axis=0), 0.0))
        high = np.ceil(np.minimum(seen.max(axis=0), (self.scene.width, self.scene.height)))
        wide, high_px = (int(side) for side in high - low)
        if wide < 1 or high_px < 1:
            return
        shift = np.array([[1.0, 0, low[0]], [0, 1.0, low[1]], [0, 0, 1.0]])
        back = np.linalg.inv(map_ @ to_art) @ shift
        laid = picture.transform(
            (wide, high_px), Image.Transform.PERSPECTIVE, (back / back[2, 2]).reshape(9)[:8].tolist(),
            Image.Resampling.BICUBIC,
        )  # fmt: skip
        if clip is not None:
            element = self._clipped(element, seen)
        stream = io.BytesIO()
        laid.save(stream, "PNG")
        image = etree.SubElement(element, f"{{{SVG}}}image")
        for name, value in (("x", low[0]), ("y", low[1]), ("width", wide), ("height", high_px)):
            image.set(name, number(float(value)))
        image.set("href", f"data:image/png;base64,{base64.b64encode(stream.getvalue()).decode()}")


def plain_shapes(drawing: Drawing, art: ArtSource) -> list[Painted] | None:
    """The shapes of a drawing in art space where they are of plain colours and few; None where it is more than that."""
    media_type, data = art(drawing.art)
    if media_type != "image/svg+xml":
        return None
    root = harmless(data)
    a, c, e, b, d, f = stretch(root, drawing)
    x, y = drawing.registration
    found: list[Painted] = []
    matrix = np.array([[a, c, e - x], [b, d, f - y], [0.0, 0.0, 1.0]])
    if not _collect(displayed(root), matrix, found):
        return None
    curves = sum(len(contour.curves) for painted in found for contour in painted.figure.contours)
    return found if curves <= MOST_CURVES_SEEN else None


def _collect(group: Group, matrix: Floats, found: list[Painted]) -> bool:
    if group.is_layer or group.clips:
        return False
    matrix = matrix @ group.matrix
    for node in group.children:
        if isinstance(node, Group):
            if not _collect(node, matrix, found):
                return False
        elif isinstance(node, Painted) and all(
            isinstance(coat.paint, tuple) and not (coat.pen and coat.pen.dashes) for coat in node.coats
        ):
            found.append(_moved(node, matrix))
        else:
            return False
    return True


def _moved(painted: Painted, matrix: Floats) -> Painted:
    """A shape with its points, and the widths of its lines, in other coordinates."""
    scale = float(np.sqrt(abs(np.linalg.det(matrix[:2, :2]))))
    coats = tuple(
        coat
        if coat.pen is None
        else Coat(coat.paint, coat.opacity, Pen(coat.pen.width * scale, coat.pen.cap, coat.pen.join, coat.pen.miter))
        for coat in painted.coats
    )
    return Painted(moved_figure(painted.figure, matrix), coats)


def _of_shape(shape: Shape, drawing: Drawing) -> list[Painted]:
    """A shape of the app's own, in art space."""
    x, y = drawing.registration
    coats = []
    if shape.paint.fill:
        coats.append(Coat(_colour(shape.paint.fill)))
    if shape.paint.stroke and shape.paint.width > 0:
        coats.append(Coat(_colour(shape.paint.stroke), pen=Pen(shape.paint.width, "round", "round")))
    painted = Painted(Figure(contours_of_data(path_data(shape))), tuple(coats))
    return [_moved(painted, np.array([[1.0, 0, -x], [0, 1.0, -y], [0, 0, 1.0]]))]


def _colour(text: str) -> tuple[float, float, float, float]:
    red, green, blue = (int(text[place : place + 2], 16) / 255 for place in (1, 3, 5))
    return (red, green, blue, 1.0)


def _hex(coat: Coat) -> str:
    return "#" + "".join(f"{round(255 * min(max(value, 0.0), 1.0)):02x}" for value in coat.paint[:3])  # type: ignore[index]


def _affine(map_: Floats, drawing: Drawing) -> Floats:
    """A map as an affine one, rows x and y; in perspective as it is about the middle of the drawing."""
    if abs(map_[2, 0]) + abs(map_[2, 1]) < 1e-12 * abs(map_[2, 2]):
        return map_[:2] / map_[2, 2]
    left, top, right, bottom = drawing.bounds
    middle = np.array([(left + right) / 2, (top + bottom) / 2])
    at, along_x, along_y = through(map_, middle + np.array([[0.0, 0.0], [1e-3, 0.0], [0.0, 1e-3]]))
    linear = np.stack([along_x - at, along_y - at], axis=1) * 1e3
    return np.column_stack([linear, at - linear @ middle])


def _points(corners: Floats) -> str:
    return " ".join(f"{number(x)},{number(y)}" for x, y in corners.tolist())


def notes_of_depth(scene: Scene, art: ArtSource) -> list[str]:
    """What is said before a scene in depth is sent."""
    result = ["The scene has depth, so it is written picture by picture; frames that are alike stand once."]
    cameras = (scene.part(cut.camera).camera for cut in scene.cuts if cut.camera is not None)
    if any(camera is not None and not camera.parallel for camera in cameras):
        for part in scene.parts:
            if part.is_sent and any(plain_shapes(drawing, art) is None for drawing in part.drawings):
                result.append(f"{part.name} is laid into perspective as a picture at each frame.")
    return result
