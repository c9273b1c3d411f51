"""Where parts are at a frame, in answers."""

from __future__ import annotations

from jointed_crane.core.model.forms import Shape
from jointed_crane.web.api.answer_models.answer import Answer, Matrix


class Placed(Answer):
    """Where one part is seen."""

    matrix: Matrix
    pivot: tuple[float, float]
    opacity: float
    drawing: int
    shown: bool


class ShapeWords(Answer):
    """A shape as a page draws it: path data, px in art space, colours or none, and the width of its line."""

    d: str
    fill: str
    stroke: str
    width: float


class MovedShape(ShapeWords):
    """A shape in motion: how it is drawn, and the shape itself."""

    shape: Shape


class Posed(Answer):
    """Parts at a frame, and all motion values."""

    frame: float | None
    parts: dict[str, Placed]
    motion: dict[str, dict[str, float]]
    painting: list[str] = []
    shapes: dict[str, MovedShape] = {}


class Moved(Posed):
    """Parts that lie or look otherwise, and motion values that differ; null for a channel that moves no more."""

    motion: dict[str, dict[str, float | None]]  # type: ignore[assignment]


class PoseAnswer(Answer):
    """A pose, and the version it is of."""

    version: int
    pose: Posed


class MovingShapesAnswer(Answer):
    """By part, its shape at each frame: path data, fill, stroke and line width."""

    version: int
    shapes: dict[str, list[ShapeWords | None]]
