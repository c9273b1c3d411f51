"""The bodies, queries, forms and answers of the API, as models."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from jointed_crane.core.basics.limits import LONGEST_ID, LONGEST_NAME
from jointed_crane.formats.artwork import Choices
from jointed_crane.web.api.contract import Strict

#: More edits than this in one request are a mistake.
MOST_EDITS = 1_000
#: Frames beyond these lie beyond all time.
_MOST = 1e7

Frame = Annotated[float, Field(gt=-_MOST, lt=_MOST, description="A frame of the motion; null is Rest.")]
Version = Annotated[
    int, Field(ge=0, lt=2**53, description="The version of the scene that the request was made against.")
]
Name = Annotated[str, Field(max_length=LONGEST_NAME)]
Id = Annotated[str, Field(max_length=LONGEST_ID)]
#: The longest is that of a number of a constraint, which has its id in it.
ChannelName = Annotated[str, Field(max_length=LONGEST_ID + 40)]


class FrameQuery(Strict):
    """The state that is asked for."""

    frame: Frame | None = None


class MotionQuery(Strict):
    """The frames of a block of motion, both included; without them the whole scene."""

    model_config = ConfigDict(extra="forbid", strict=True, populate_by_name=False)

    first: Annotated[int, Field(alias="from", gt=-_MOST, lt=_MOST)] = 0
    last: Annotated[int | None, Field(alias="to", gt=-_MOST, lt=_MOST)] = None


class SpanQuery(MotionQuery):
    """The frames that are sent, both included; without them the whole scene."""


class CurvesQuery(Strict):
    """Channels whose curves are asked for, each as [part, channel]."""

    channels: Annotated[list[tuple[Id, ChannelName]], Field(max_length=500)]


class ArcsQuery(MotionQuery):
    """Parts whose pivots are followed."""

    parts: Annotated[list[Id], Field(min_length=1, max_length=500)]


class DriftQuery(MotionQuery):
    """A point of a part, px in its art; without one the foothold that holds. What is faster than the limit, in px a
    frame, slips.
    """

    part: Id
    x: Annotated[float, Field(gt=-_MOST, lt=_MOST)] | None = None
    y: Annotated[float, Field(gt=-_MOST, lt=_MOST)] | None = None
    limit: Annotated[float, Field(ge=0, lt=_MOST)] = 0.1


class NoQuery(Strict):
    """Nothing is asked."""


class Edits(Strict):
    """Edits against a version, shown at a frame."""

    version: Version
    frame: Frame | None = None
    edits: Annotated[list[dict[str, Any]], Field(min_length=1, max_length=MOST_EDITS)]


class PreviewedEdits(Edits):
    """Edits to be shown, and channels whose curves are wanted beside, each as [part, channel]."""

    curves: Annotated[list[tuple[Id, ChannelName]], Field(max_length=500)] = []


class Step(Strict):
    """One step of undo or redo against a version."""

    version: Version
    frame: Frame | None = None


class FuseParts(Strict):
    """Parts that become one, against a version, as they are shown at a frame."""

    version: Version
    frame: Frame | None = None
    parts: Annotated[list[Id], Field(min_length=1, max_length=1_000)]


class SplitPart(Strict):
    """A part that becomes its pieces, against a version."""

    version: Version
    frame: Frame | None = None
    part: Id


class NewScene(Strict):
    """A new, empty scene."""

    name: Name
    width: float = 1280.0
    height: float = 720.0
    ground: Annotated[str, Field(max_length=20)] = "#e3edf0"
    fps: tuple[int, int] = (24, 1)
    length: int = 96


class Rename(Strict):
    """Another name."""

    name: Name


class Nothing(Strict):
    """An act that needs no more words."""


class LayersForm(Strict):
    """Which layers are opened."""

    opened: Annotated[list[str], Field(max_length=10_000)] = []


class BringInForm(Strict):
    """Against which version artwork comes in, and what is chosen for it."""

    version: Version
    frame: Frame | None = None
    choices: Choices = Choices()


class UpdateForm(Strict):
    """Against which version a changed file comes in again, and how its art is laid."""

    version: Version
    frame: Frame | None = None
    fit: Literal["registration", "box"] = "registration"


class NoForm(Strict):
    """Files alone."""


# Answers


class History(BaseModel):
    """The version, and what undo and redo would do."""

    version: int
    undo: str | None
    redo: str | None


class Placed(BaseModel):
    """Where one part is seen."""

    matrix: tuple[float, float, float, float, float, float]
    pivot: tuple[float, float]
    opacity: float
    drawing: int
    shown: bool


class Posed(BaseModel):
    """Parts at a frame, and all motion values."""

    frame: float | None
    parts: dict[str, Placed]
    motion: dict[str, dict[str, float]]
    painting: list[str] = []
    shapes: dict[str, dict[str, Any]] = {}


class Moved(Posed):
    """Parts that lie or look otherwise, and motion values that differ; null for a channel that moves no more."""

    motion: dict[str, dict[str, float | None]]  # type: ignore[assignment]


class SceneAnswer(History):
    """A whole scene with its pose."""

    scene: dict[str, Any]
    pose: Posed


class PoseAnswer(BaseModel):
    """A pose, and the version it is of."""

    version: int
    pose: Posed


class Curve(BaseModel):
    """The picture of a channel: places are frame and value."""

    part: str
    channel: str
    segments: list[tuple[tuple[float, float], tuple[float, float], tuple[float, float], tuple[float, float]]]
    course: list[tuple[float, float]]
    speeds: list[tuple[float, float]]


class CurvesAnswer(BaseModel):
    """The pictures of channels."""

    version: int
    curves: list[Curve]


class ArcsAnswer(BaseModel):
    """Where pivots are at each frame from the first on, px on the stage, by part."""

    version: int
    first: int
    arcs: dict[str, list[tuple[float, float]]]


class SeamAnswer(BaseModel):
    """What jumps where the film begins again."""

    version: int
    seams: list[dict[str, Any]]


class DriftAnswer(BaseModel):
    """Where a point is at each frame from the first on, how far it has gone since the frame before, and the frames in
    which it slips.
    """

    version: int
    first: int
    path: list[tuple[float, float]]
    speeds: list[float]
    slips: list[float]


class Change(BaseModel):
    """What differs; order and stage only where they do."""

    changed: list[dict[str, Any]]
    removed: list[str]
    order: list[str] = []
    stage: dict[str, Any] = {}


class ChangeAnswer(History, Change):
    """What an edit changed, and the pose."""

    pose: Posed


class PreviewAnswer(Change):
    """What edits would change, and where a point snaps to."""

    version: int
    pose: Moved
    snap: str | None
    curves: list[Curve] = []


class BroughtIn(ChangeAnswer):
    """What came in."""

    added: list[str]
    notes: list[str]


class Updated(ChangeAnswer):
    """What came in again, in words."""

    words: str


class Made(History):
    """A scene that is new on the shelf."""

    id: str
    notes: list[str] = []


class Layer(BaseModel):
    """One layer as it would come in."""

    path: str
    name: str
    art: str
    box: tuple[float, float, float, float]
    bounds: tuple[float, float, float, float]
    inner: int
    crosses: list[str]


class LayersAnswer(BaseModel):
    """The layers of files."""

    width: float
    height: float
    layers: list[Layer]
    notes: list[str]


class DrawingAnswer(BaseModel):
    """One drawing, as edits take it."""

    drawing: dict[str, Any]
    notes: list[str]


class MovingShapesAnswer(BaseModel):
    """By part, its shape at each frame: path data, fill, stroke and line width."""

    version: int
    shapes: dict[str, list[dict[str, Any] | None]]


class MovingAnswer(BaseModel):
    """Drawings in the order of time, and when each begins, seconds."""

    drawings: list[dict[str, Any]]
    starts: list[float] | None
    notes: list[str]


class TrackAnswer(BaseModel):
    """A followed point: frame, x and y of each frame, px on the stage."""

    name: str
    points: list[tuple[float, float, float]]


class LayerState(BaseModel):
    """What a changed file would do to one layer."""

    name: str
    state: Literal["new", "changed", "same", "gone"]


class CompareAnswer(BaseModel):
    """What a changed file would do."""

    layers: list[LayerState]


class Gaps(BaseModel):
    """The gaps of all joints."""

    version: int
    gaps: list[dict[str, Any]]


class JointAnswer(BaseModel):
    """The ends of one joint."""

    version: int
    joint: dict[str, Any] | None


class Findings(BaseModel):
    """What the checks find."""

    version: int
    findings: list[dict[str, Any]]


class Font(BaseModel):
    """A typeface at hand."""

    id: str
    name: str


class Fonts(BaseModel):
    """The typefaces at hand."""

    fonts: list[Font]


class Notes(BaseModel):
    """What a format cannot carry."""

    notes: list[str]


class Named(BaseModel):
    """The name of what was acted on."""

    name: str


class Labelled(BaseModel):
    """The act that was taken back or done again."""

    label: str


class NamesAnswer(BaseModel):
    """Names of scenes."""

    names: list[str]


class ReadingAnswer(BaseModel):
    """How far a reading has come."""

    is_reading: bool
    done: int
    of: int
    what: str


class StopAnswer(BaseModel):
    """Whether there was a reading to stop."""

    was_reading: bool
