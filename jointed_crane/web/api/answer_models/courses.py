"""How values and points go over time, in answers."""

from __future__ import annotations

from jointed_crane.core.measures.seam import Seam
from jointed_crane.web.api.answer_models.answer import Answer, left_out


class Curve(Answer):
    """The picture of a channel: places are frame and value."""

    part: str
    channel: str
    segments: list[tuple[tuple[float, float], tuple[float, float], tuple[float, float], tuple[float, float]]]
    course: list[tuple[float, float]]
    speeds: list[tuple[float, float]]


class CurvesAnswer(Answer):
    """The pictures of channels."""

    version: int
    curves: list[Curve]


class ArcsAnswer(Answer):
    """Where pivots are at each frame from the first on, px on the stage, by part."""

    version: int
    first: int
    arcs: dict[str, list[tuple[float, float]]]


class SeamAnswer(Answer):
    """What jumps where the film begins again."""

    version: int
    seams: list[Seam]


class OffLevel(Answer):
    """From which frame on a part stands off its level, and how high at its worst, px; below it less than 0."""

    frame: float
    height: float


class DriftAnswer(Answer):
    """Where a point is at each frame from the first on, how far it has gone since the frame before, the frames in which
    it slips, and how it stands off its level, where it does.
    """

    version: int
    first: int
    path: list[tuple[float, float]]
    speeds: list[float]
    slips: list[float]
    off: OffLevel | None = left_out()
