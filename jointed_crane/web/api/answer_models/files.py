"""What files hold before it comes in, in answers."""

from __future__ import annotations

from typing import Literal

from jointed_crane.core.model.scene import Drawing
from jointed_crane.formats.artwork import Coming
from jointed_crane.web.api.answer_models.answer import Answer


class Layer(Answer):
    """One layer as it would come in."""

    path: str
    name: str
    art: str
    box: tuple[float, float, float, float]
    bounds: tuple[float, float, float, float]
    inner: int
    crosses: list[str]
    file: int
    lay: tuple[float, float, float]


class FileAnswer(Answer):
    """One file: how it would come in, and how many layers it has."""

    name: str
    coming: Coming
    layers: int


class LayersAnswer(Answer):
    """The files, and their layers as they would come in."""

    width: float
    height: float
    files: list[FileAnswer]
    layers: list[Layer]
    notes: list[str]


class DrawingAnswer(Answer):
    """One drawing, as edits take it."""

    drawing: Drawing
    notes: list[str]


class MovingAnswer(Answer):
    """Drawings in the order of time, and when each begins, seconds."""

    drawings: list[Drawing]
    starts: list[float] | None
    notes: list[str]


class TrackAnswer(Answer):
    """A followed point: frame, x and y of each frame, px on the stage."""

    name: str
    points: list[tuple[float, float, float]]


class TracksAnswer(Answer):
    """The points of a table that were followed."""

    tracks: list[TrackAnswer]


class LayerState(Answer):
    """What a changed file would do to one layer."""

    name: str
    state: Literal["new", "changed", "same", "gone"]


class CompareAnswer(Answer):
    """What a changed file would do."""

    layers: list[LayerState]


class TableAnswer(Answer):
    """A table of variants: its columns, and the cells of each row by them."""

    columns: list[str]
    rows: list[dict[str, str]]
