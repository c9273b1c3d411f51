"""The answers of the API, as models: they describe what is answered, and nothing is checked by them."""

from __future__ import annotations

from typing import Any, Literal, get_type_hints

from pydantic import BaseModel, ConfigDict, Field, create_model

from jointed_crane.core.measures.gaps import Gap
from jointed_crane.core.measures.seam import Seam
from jointed_crane.core.model.cameras import CameraCut
from jointed_crane.core.model.forms import Shape
from jointed_crane.core.model.markers import KeptPose, Marker
from jointed_crane.core.model.scene import Drawing, Mark, Part, Scene
from jointed_crane.core.motion.channel import Channel, Key
from jointed_crane.core.viewing.view import View
from jointed_crane.formats.artwork import Coming


class Answer(BaseModel):
    """What is answered. It is described, not checked; what describes it is made when somebody asks."""

    model_config = ConfigDict(defer_build=True)


#: a b c d e f.
Matrix = tuple[float, float, float, float, float, float]


class KeysBeside(Answer):
    """A channel of which keys alone differ: those that do, and the frames of those that are gone."""

    beside: list[Key]
    gone: list[float]


def _left_out() -> Any:
    """A field that is not said where it does not differ."""
    return Field(default=None, json_schema_extra=_without_default)


def _without_default(schema: dict[str, Any]) -> None:
    del schema["default"]


_fields: dict[str, Any] = {
    name: (kind, _left_out()) for name, kind in get_type_hints(Part).items() if name not in ("id", "channels")
}
_part_fields: Any = create_model("PartFields", __base__=Answer, **_fields)


class PartBeside(_part_fields):
    """A part, or of one that is known the fields that differ: null for a channel that is gone."""

    id: str
    channels: dict[str, Channel | KeysBeside | None] = _left_out()


class History(Answer):
    """The version, and what undo and redo would do."""

    version: int
    undo: str | None
    redo: str | None


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


class SceneAnswer(History):
    """A whole scene with its pose."""

    scene: Scene
    pose: Posed


class PoseAnswer(Answer):
    """A pose, and the version it is of."""

    version: int
    pose: Posed


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
    off: OffLevel | None = _left_out()


class Stage(Answer):
    """The scene's own values, and what lies beside its parts."""

    name: str
    width: float
    height: float
    ground: str
    fps: tuple[int, int]
    length: int
    isolated: list[str]
    depth: bool
    marks: list[Mark]
    markers: list[Marker]
    poses: list[KeptPose]
    cuts: list[CameraCut]


class Difference(Answer):
    """What differs; order and stage only where they do."""

    changed: list[PartBeside]
    removed: list[str]
    order: list[str] = _left_out()
    stage: Stage = _left_out()


class ChangeAnswer(History, Difference):
    """What an edit changed, the pose, and what is to be said of it."""

    pose: Posed
    remarks: list[str] = _left_out()


class PreviewAnswer(Difference):
    """What edits would change, and where a point snaps to."""

    version: int
    pose: Moved
    snap: str | None
    curves: list[Curve] = []
    seen: list[SeenView] = _left_out()
    rings: Rings | None = _left_out()


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


class KeysAnswer(Answer):
    """By the id of a command, the keys that it has instead of its own."""

    keys: dict[str, list[str]]


class DrawingAnswer(Answer):
    """One drawing, as edits take it."""

    drawing: Drawing
    notes: list[str]


class MovingShapesAnswer(Answer):
    """By part, its shape at each frame: path data, fill, stroke and line width."""

    version: int
    shapes: dict[str, list[ShapeWords | None]]


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


class Gaps(Answer):
    """The gaps of all joints."""

    version: int
    gaps: list[Gap]


class RangeEnd(Answer):
    """Where a part lies at an end of its turning range."""

    turn: float
    matrix: Matrix


class Joint(Answer):
    """The round ends of a joint, px on the stage at rest."""

    child: float
    parent: float
    is_child_round: bool
    is_parent_round: bool
    difference: float
    is_patched: bool
    ends: list[RangeEnd]
    parent_matrix: Matrix


class JointAnswer(Answer):
    """The ends of one joint."""

    version: int
    joint: Joint | None


class Found(Answer):
    """One thing that may be wrong with a rig, and the edits that mend it where that is safe."""

    check: str
    part: str
    sentence: str
    number: float
    unit: str
    mend: list[dict[str, Any]]


class Findings(Answer):
    """What the checks find."""

    version: int
    findings: list[Found]


class Font(Answer):
    """A typeface at hand."""

    id: str
    name: str


class Fonts(Answer):
    """The typefaces at hand."""

    fonts: list[Font]


class Notes(Answer):
    """What a format cannot carry."""

    notes: list[str]


class Named(Answer):
    """The name of what was acted on."""

    name: str


class Labelled(Answer):
    """The act that was taken back or done again."""

    label: str


class NamesAnswer(Answer):
    """Names of scenes."""

    names: list[str]


class WorkAnswer(Answer):
    """How far work has come."""

    is_working: bool
    done: int
    of: int
    what: str


class StopAnswer(Answer):
    """Whether there was work to stop."""

    was_working: bool


class SendingAnswer(Answer):
    """What is being sent or was: how far it is, how large its file, and why it failed."""

    id: str
    scene_id: str
    scene_version: int
    way: str
    words: str
    choices: dict[str, Any]
    rows: int
    file_name: str
    state: Literal["waiting", "working", "done", "stopped", "failed"]
    done: int
    of: int
    size: int
    took: float
    fault: str
    made_at: str


class SendingsAnswer(Answer):
    """What is being sent and was."""

    sendings: list[SendingAnswer]


class TableAnswer(Answer):
    """A table of variants: its columns, and the cells of each row by them."""

    columns: list[str]
    rows: list[dict[str, str]]


class ForecastAnswer(Answer):
    """What sending would come to: sizes in bytes and px, times in seconds; and what cannot be carried."""

    frames: int
    seconds: float
    width: int
    height: int
    size: int
    takes: float
    notes: list[str]


class PresetAnswer(Answer):
    """Choices under a name."""

    name: str
    way: str
    choices: dict[str, Any]


class PresetsAnswer(Answer):
    """Choices under names."""

    presets: list[PresetAnswer]
