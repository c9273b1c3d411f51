"""A drawing as the format has it: shapes inside the layer of its part, or layers of their own."""

from __future__ import annotations

import base64
import hashlib
import io
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from itertools import count

import numpy as np
from PIL import Image

from jointed_crane.core.geometry.coordinates import Bounds
from jointed_crane.core.model.scene import Drawing
from jointed_crane.formats.lottie_out.shapes import BeyondShapes, path_item, shape_items, transform, transforms_of
from jointed_crane.formats.moving.lottie_words import IMAGE, PRECOMPOSED, SHAPES, Json, still
from jointed_crane.formats.svg.display.nodes import (
    Bitmap,
    Coat,
    Contour,
    Figure,
    Floats,
    Group,
    Mask,
    Node,
    Painted,
    unknown_in,
)
from jointed_crane.formats.svg.display.outlines import lines
from jointed_crane.formats.svg.display.walk import displayed
from jointed_crane.formats.svg.stored_art import ArtSource, harmless, stretch
from jointed_crane.formats.svg.viewports import Viewport

#: Draws a drawing's art as a PNG that fills its box, where nothing else can tell it.
AsPicture = Callable[[Drawing], bytes]
#: Blend modes by their numbers (Lottie 1.0, "Blend Mode").
_BLENDS = {
    "normal": 0, "multiply": 1, "screen": 2, "overlay": 3, "darken": 4, "lighten": 5, "color-dodge": 6,
    "color-burn": 7, "hard-light": 8, "soft-light": 9, "difference": 10, "exclusion": 11, "hue": 12, "saturation": 13,
    "color": 14, "luminosity": 15, "plus-lighter": 16,
}  # fmt: skip


@dataclass
class Art:
    """Drawings as they are written; what several layers show stands once among the assets."""

    art: ArtSource
    as_picture: AsPicture
    length: int
    assets: list[Json] = field(default_factory=list)
    #: Why drawings are sent as pictures, by their ids.
    as_pictures: dict[str, str] = field(default_factory=dict)

    def __post_init__(self) -> None:
        self._names = count(1)
        self._known: dict[str, Json] = {}
        self._trees: dict[str, Group] = {}

    def shapes(self, drawing: Drawing) -> list[Json] | None:
        """A drawing as native shapes in the art space of its part, the uppermost first; None where it takes layers."""
        tree = self._tree(drawing)
        if tree is None:
            return None
        try:
            return shape_items(tree, np.eye(3))
        except BeyondShapes as beyond:
            self.as_pictures[drawing.id] = str(beyond)
            return None

    def layer(self, drawing: Drawing) -> Json:
        """A drawing as one layer, without a number and a name, lying in the art space of its part."""
        return self._told(drawing) or self._filling(drawing, self.as_picture(drawing))

    def why_picture(self, drawing: Drawing) -> str | None:
        """What a drawing has that neither shapes nor layers can tell; None where there is nothing such."""
        if self.shapes(drawing) is None:
            self._told(drawing)
        return self.as_pictures.get(drawing.id)

    def _told(self, drawing: Drawing) -> Json | None:
        """A drawing as a layer of what it is made of; None where that cannot be told."""
        media_type, data = self.art(drawing.art)
        if media_type != "image/svg+xml":
            return self._filling(drawing, data)
        tree = self._tree(drawing)
        if tree is None:
            return None
        left, top, right, bottom = _in_art(drawing)
        size = (float(np.ceil(right - left)), float(np.ceil(bottom - top)))
        try:
            inside = self._layers(tree, np.array([[1.0, 0, -left], [0, 1.0, -top], [0, 0, 1.0]]), size)
        except BeyondShapes as beyond:
            self.as_pictures[drawing.id] = str(beyond)
            return None
        return self._precomposed(inside, size, transform((left, top)))

    def _filling(self, drawing: Drawing, picture: bytes) -> Json:
        """A picture that fills the box of a drawing."""
        left, top, right, bottom = _in_art(drawing)
        return self._image(picture, (left, top), (right - left, bottom - top))

    def _tree(self, drawing: Drawing) -> Group | None:
        """What a drawing shows; None where it is a picture, or has to be sent as one."""
        if drawing.id in self.as_pictures:
            return None
        if drawing.id not in self._trees:
            tree = self._read(drawing)
            if tree is None:
                return None
            self._trees[drawing.id] = tree
        return self._trees[drawing.id]

    def _read(self, drawing: Drawing) -> Group | None:
        media_type, data = self.art(drawing.art)
        if media_type != "image/svg+xml":
            return None
        root = harmless(data)
        x, y = drawing.registration
        matrix = np.array([[1.0, 0, -x], [0, 1.0, -y], [0, 0, 1.0]]) @ [
            *np.reshape(stretch(root, drawing), (2, 3)),
            [0, 0, 1],
        ]
        tree = Group((displayed(root),), matrix)
        unknown = unknown_in(tree)
        if unknown is not None:
            self.as_pictures[drawing.id] = f"a {unknown}"
            return None
        return tree

    # Layers

    def _layers(self, node: Node, matrix: Floats, size: tuple[float, float]) -> list[Json]:
        """A node as layers, the uppermost first; what follows each other as plain shapes is one of them."""
        items = shape_items(node, matrix)
        if items is not None:
            return [_shape_layer(items)] if items else []
        if isinstance(node, Bitmap):
            return self._bitmap(node, matrix, size)
        assert isinstance(node, Group)
        inner = matrix @ node.matrix
        result: list[Json] = []
        for child in node.children:
            above = self._layers(child, inner, size)
            if len(above) == 1 and result and _is_plain(above[0]) and _is_plain(result[0]):
                result[0]["shapes"] = above[0]["shapes"] + result[0]["shapes"]
            else:
                result = above + result
        if not result or not (node.clips or node.is_layer):
            return result
        whole = self._one(result, size)
        if node.blend != "normal":
            whole["bm"] = _BLENDS[node.blend]
        whole["ks"]["o"] = still(100 * node.opacity)
        layers = [whole]
        for clip in node.clips:
            layers = self._clipped(layers, clip, inner, size)
        if node.mask is not None:
            layers = self._masked(layers, node.mask, inner, size)
        return layers

    def _one(self, layers: list[Json], size: tuple[float, float]) -> Json:
        """Layers as one."""
        is_free = len(layers) == 1 and "tt" not in layers[0] and not layers[0].get("bm")
        if is_free and layers[0]["ks"]["o"] == still(100.0) and "masksProperties" not in layers[0]:
            return layers[0]
        return self._precomposed(layers, size, transform())

    def _clipped(self, layers: list[Json], clip: Group, matrix: Floats, size: tuple[float, float]) -> list[Json]:
        whole = self._one(layers, size)
        contours = _single_contours(clip, matrix)
        if contours is not None and whole["ks"] == transform():
            whole["hasMask"] = True
            whole["masksProperties"] = [
                {"mode": "a", "inv": False, "o": still(100), "pt": path_item(contour, at)["ks"], "x": still(0)}
                for contour, at in contours
            ]
            return [whole]
        return self._matted(whole, self._layers(_filled(clip), matrix, size), 1, size)

    def _masked(self, layers: list[Json], mask: Mask, matrix: Floats, size: tuple[float, float]) -> list[Json]:
        within = self._clipped(layers, _box(*mask.box), matrix, size)
        matte = self._layers(mask.content, matrix, size)
        return self._matted(self._one(within, size), matte, 1 if mask.by_alpha else 3, size)

    def _matted(self, whole: Json, matte: list[Json], kind: int, size: tuple[float, float]) -> list[Json]:
        """A layer of which is seen what a matte lets through; the matte stands before it."""
        if not matte:
            return []
        through = self._one(matte, size)
        through["td"] = 1
        whole["tt"] = kind
        return [through, whole]

    def _precomposed(self, layers: list[Json], size: tuple[float, float], at: Json) -> Json:
        name = f"art {next(self._names)}"
        self.assets.append({"id": name, "layers": numbered(layers, self.length)})
        return {"ty": PRECOMPOSED, "refId": name, "w": size[0], "h": size[1], "ks": at}

    def _bitmap(self, bitmap: Bitmap, matrix: Floats, size: tuple[float, float]) -> list[Json]:
        try:
            with Image.open(io.BytesIO(bitmap.data)) as picture:
                wide, high = picture.size
        except (OSError, ValueError, SyntaxError):
            return []
        x, y, width, height = bitmap.box
        width, height = width or wide, height or high
        fitted = Viewport(width, height, (0.0, 0.0, float(wide), float(high)), bitmap.preserve).matrix()
        whole = matrix @ [[1, 0, x], [0, 1, y], [0, 0, 1]]
        transforms = transforms_of(whole @ fitted)
        if len(transforms) > 1:
            raise BeyondShapes("a skewed picture")
        image = self._image(bitmap.data, (0.0, 0.0), (float(wide), float(high))) | {"ks": transforms[0]}
        if "slice" not in bitmap.preserve:
            return [image]
        cut = self._precomposed([image], size, transform())
        return self._clipped([cut], _box(0.0, 0.0, width, height), whole, size)

    def _image(self, data: bytes, place: tuple[float, float], size: tuple[float, float]) -> Json:
        """A picture that fills a box."""
        asset = self._known.get(key := hashlib.sha256(data).hexdigest())
        if asset is None:
            media_type, kept, (wide, high) = _encoded(data)
            text = f"data:{media_type};base64,{base64.b64encode(kept).decode()}"
            asset = {"id": f"picture {next(self._names)}", "w": wide, "h": high, "u": "", "p": text, "e": 1}
            self._known[key] = asset
            self.assets.append(asset)
        scale = (100 * size[0] / asset["w"], 100 * size[1] / asset["h"])
        return {"ty": IMAGE, "refId": asset["id"], "ks": transform(place, scale=scale)}


def _in_art(drawing: Drawing) -> Bounds:
    """The box of a drawing, px in art space."""
    x, y = drawing.registration
    left, top, right, bottom = drawing.box
    return (left - x, top - y, right - x, bottom - y)


def numbered(layers: list[Json], length: int) -> list[Json]:
    """Layers with what each needs beside what it shows, numbered from the uppermost."""
    return [
        {"ddd": 0, "ind": number, "nm": "", "sr": 1, "ip": 0, "op": length, "st": 0, "bm": 0, "ao": 0} | layer
        for number, layer in enumerate(layers, start=1)
    ]


def _encoded(data: bytes) -> tuple[str, bytes, tuple[int, int]]:
    """A picture as all players can show it: PNG and JPEG stay as they are, others become PNG."""
    with Image.open(io.BytesIO(data)) as picture:
        if picture.format in ("PNG", "JPEG"):
            return f"image/{picture.format.lower()}", data, picture.size
        stream = io.BytesIO()
        picture.convert("RGBA").save(stream, "PNG")
        return "image/png", stream.getvalue(), picture.size


def _shape_layer(items: list[Json]) -> Json:
    return {"ty": SHAPES, "ks": transform(), "shapes": items}


def _is_plain(layer: Json) -> bool:
    """Whether a layer is nothing but shapes."""
    return layer.keys() == {"ty", "ks", "shapes"} and layer["ks"] == transform()


def _box(left: float, top: float, width: float, height: float) -> Group:
    right, bottom = left + width, top + height
    corners = [(left, top), (right, top), (right, bottom), (left, bottom)]
    return Group((Painted(Figure((lines(corners, is_closed=True),))),))


def _single_contours(clip: Group, matrix: Floats) -> list[tuple[Contour, Floats]] | None:
    """The shapes of a clip as contours, each with its matrix; None where one of them is made of several."""
    result: list[tuple[Contour, Floats]] = []
    at = matrix @ clip.matrix
    for child in clip.children:
        if isinstance(child, Painted) and len(child.figure.contours) == 1:
            result.append((replace(child.figure.contours[0], is_closed=True), at))
        elif isinstance(child, Group) and not child.clips:
            inner = _single_contours(child, at)
            if inner is None:
                return None
            result += inner
        else:
            return None
    return result or None


def _filled(node: Group) -> Group:
    """The shapes of a clip, filled."""
    children: list[Node] = []
    for child in node.children:
        if isinstance(child, Painted):
            children.append(replace(child, coats=(Coat((0.0, 0.0, 0.0, 1.0)),)))
        elif isinstance(child, Group):
            children.append(_filled(child))
    return replace(node, children=tuple(children))
