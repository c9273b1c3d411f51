"""What views in depth see, in answers."""

from __future__ import annotations

from jointed_crane.core.viewing.view import View
from jointed_crane.web.api.answer_models.answer import Answer


class SeenPart(Answer):
    """How a view sees a part: the rows x, y and w of the map from (x, y, z, 1) of its art, and its pivot, px."""

    map: list[float]
    pivot: tuple[float, float]


#: A part, and what of its picture is painted, px in art space; null is all of it.
PaintedPiece = tuple[str, list[tuple[float, float]] | None]


class SeenView(Answer):
    """What a view sees: itself, as edits made in it take it, and its map from the stage; the corners of the stage;
    parts, and how they are painted from back to front; cameras, by the places of their bodies of wire.
    """

    view: View
    map: list[float]
    stage: list[tuple[float, float]]
    parts: dict[str, SeenPart]
    painting: list[PaintedPiece]
    cameras: dict[str, list[tuple[float, float]]]


class Rings(Answer):
    """The rings of a part: the angle that it sees where it is a camera, its angles and rest orientation in degrees,
    and by view and channel the ways from the pivot to the angles 0 and 90, each as x, y and nearness.
    """

    part: str
    place: tuple[float, float, float]
    angle: float | None
    orientation: tuple[float, float, float]
    angles: dict[str, float]
    views: list[dict[str, tuple[float, float, float, float, float, float]]]
    axes: dict[str, list[list[tuple[float, float, float]]]]


class SeenAnswer(Answer):
    """What views see."""

    version: int
    frame: float | None
    views: list[SeenView]
    rings: Rings | None


class PaintedAnswer(Answer):
    """How parts are painted at each frame from the first on; null where that is as at the frame before."""

    version: int
    first: int
    frames: list[list[PaintedPiece] | None]
