"""The bodies, queries, forms and answers of the API, as models."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import ConfigDict, Field

from jointed_crane.core.basics.limits import (
    LARGEST,
    LONGEST_ID,
    LONGEST_NAME,
    MOST_ARCS,
    MOST_CURVES,
    MOST_EDITS,
    MOST_FUSED,
    MOST_VARIANTS,
    MOST_VIEWS,
)
from jointed_crane.formats.coming_in import Choices
from jointed_crane.web.api.contract import Strict

Frame = Annotated[float, Field(gt=-LARGEST, lt=LARGEST, description="A frame of the motion; null is Rest.")]
Version = Annotated[
    int, Field(ge=0, lt=2**53, description="The version of the scene that the request was made against.")
]
Name = Annotated[str, Field(max_length=LONGEST_NAME)]
Length = Annotated[float, Field(gt=0, lt=LARGEST)]
Id = Annotated[str, Field(max_length=LONGEST_ID)]
#: The longest is that of a number of a constraint, which has its id in it.
ChannelName = Annotated[str, Field(max_length=LONGEST_ID + 40)]


Coordinate = Annotated[float, Field(gt=-LARGEST, lt=LARGEST)]


class FrameQuery(Strict):
    """The state that is asked for."""

    frame: Frame | None = None


class MotionQuery(Strict):
    """The frames of a block of motion, both included; without them the whole scene."""

    model_config = ConfigDict(extra="forbid", strict=True, populate_by_name=False)

    first: Annotated[int, Field(alias="from", gt=-LARGEST, lt=LARGEST)] = 0
    last: Annotated[int | None, Field(alias="to", gt=-LARGEST, lt=LARGEST)] = None


class AskedView(Strict):
    """How the scene is looked at: the stage's own camera, a straight side, or from around a place in space, so many
    degrees to the right of the front and above it, px away.
    """

    side: Literal["stage", "front", "back", "top", "below", "left", "right", "free"] = "stage"
    at: tuple[Coordinate, Coordinate, Coordinate] | None = None
    yaw: Coordinate = 0.0
    pitch: Coordinate = 0.0
    distance: Length | None = None


Views = Annotated[list[AskedView], Field(max_length=MOST_VIEWS)]


class SeenBody(Strict):
    """Views that look at a frame, and the part whose rings are wanted."""

    frame: Frame | None = None
    views: Views
    lead: Id | None = None


class SeenMotionQuery(MotionQuery):
    """A block of motion as a view sees it."""

    view: AskedView = AskedView()


class CurvesQuery(Strict):
    """Channels whose curves are asked for, each as [part, channel]."""

    channels: Annotated[list[tuple[Id, ChannelName]], Field(max_length=MOST_CURVES)]


class ArcsQuery(MotionQuery):
    """Parts whose pivots are followed, as a view sees them."""

    parts: Annotated[list[Id], Field(min_length=1, max_length=MOST_ARCS)]
    view: AskedView | None = None


class DriftQuery(MotionQuery):
    """A point of a part, px in its art; without one the foothold that holds. What is faster than the limit, in px a
    frame, slips.
    """

    part: Id
    x: Annotated[float, Field(gt=-LARGEST, lt=LARGEST)] | None = None
    y: Annotated[float, Field(gt=-LARGEST, lt=LARGEST)] | None = None
    limit: Annotated[float, Field(ge=0, lt=LARGEST)] = 0.1
    view: AskedView | None = None


class NoQuery(Strict):
    """Nothing is asked."""


class Edits(Strict):
    """Edits against a version, shown at a frame. Where they set the first key of a channel at a later frame, another
    one keeps what was before, unless that is not wished.
    """

    version: Version
    frame: Frame | None = None
    edits: Annotated[list[dict[str, Any]], Field(min_length=1, max_length=MOST_EDITS)]
    keeps_before: bool = True


class PreviewedEdits(Edits):
    """Edits to be shown, channels whose curves are wanted beside, each as [part, channel], views that look at it, and
    the part whose rings are wanted.
    """

    curves: Annotated[list[tuple[Id, ChannelName]], Field(max_length=MOST_CURVES)] = []
    views: Views = []
    lead: Id | None = None


class Step(Strict):
    """One step of undo or redo against a version."""

    version: Version
    frame: Frame | None = None


class FuseParts(Strict):
    """Parts that become one, against a version, as they are shown at a frame."""

    version: Version
    frame: Frame | None = None
    parts: Annotated[list[Id], Field(min_length=1, max_length=MOST_FUSED)]


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
    """What is chosen so far, and the size of the stage that files would lie on, px."""

    choices: Choices = Choices()
    stage: tuple[Length, Length] | None = None


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


class KeysBody(Strict):
    """By the id of a command, the keys that it has instead of its own: event.key values, "Ctrl+" before some."""

    keys: Annotated[
        dict[
            Annotated[str, Field(max_length=40)],
            Annotated[list[Annotated[str, Field(max_length=30)]], Field(max_length=4)],
        ],
        Field(max_length=400),
    ]


class NoForm(Strict):
    """Files alone."""


class WayBody(Strict):
    """A way out by its name, and what is chosen of it by the names of its choices."""

    way: Annotated[str, Field(max_length=40)]
    choices: Annotated[dict[str, Any], Field(max_length=40)] = {}


#: The cells of one row of a table, by their columns.
_Row = Annotated[
    dict[Annotated[str, Field(max_length=300)], Annotated[str, Field(max_length=10_000)]], Field(max_length=200)
]


class FillingBody(Strict):
    """A table whose rows fill the slots of a scene; pictures are drawings as `/api/drawings` answers them, by what
    cells call them.
    """

    rows: Annotated[list[_Row], Field(min_length=1, max_length=MOST_VARIANTS)]
    names: Annotated[str, Field(max_length=300)] = "{row}"
    fit: Literal["registration", "box"] = "registration"
    pictures: Annotated[dict[str, dict[str, Any]], Field(max_length=MOST_VARIANTS)] = {}


class SendBody(WayBody):
    """What is sent, and how; with a table a file for each of its rows, in a zip."""

    filling: FillingBody | None = None


class VariantBody(WayBody):
    """How a scene is sent that a row of a table has filled, the first one."""

    filling: FillingBody


class PictureQuery(Strict):
    """How far it had come when its picture was asked for, which tells one picture from the next."""

    done: Annotated[int, Field(ge=0, lt=2**53)] = 0


class SendAgain(Strict):
    """Whether the scene is sent as it is now, or as it was then."""

    from_now: bool = False


class PresetBody(WayBody):
    """A way out and what is chosen of it, under a name."""

    name: Annotated[str, Field(min_length=1, max_length=LONGEST_NAME)]


class PresetsBody(Strict):
    """All choices that are kept under names."""

    presets: Annotated[list[PresetBody], Field(max_length=100)]
