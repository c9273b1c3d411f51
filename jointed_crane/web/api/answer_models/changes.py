"""A scene, and what edits change of it, in answers."""

from __future__ import annotations

from typing import Any, get_type_hints

from pydantic import create_model

from jointed_crane.core.model.cameras import CameraCut
from jointed_crane.core.model.markers import KeptPose, Marker
from jointed_crane.core.model.scene import Mark, Part, Scene
from jointed_crane.core.motion.channel import Channel, Key
from jointed_crane.web.api.answer_models.answer import Answer, History, left_out
from jointed_crane.web.api.answer_models.courses import Curve
from jointed_crane.web.api.answer_models.poses import Moved, Posed
from jointed_crane.web.api.answer_models.views import Rings, SeenView


class KeysBeside(Answer):
    """A channel of which keys alone differ: those that do, and the frames of those that are gone."""

    beside: list[Key]
    gone: list[float]


_fields: dict[str, Any] = {
    name: (kind, left_out()) for name, kind in get_type_hints(Part).items() if name not in ("id", "channels")
}


_part_fields: Any = create_model("PartFields", __base__=Answer, **_fields)


class PartBeside(_part_fields):
    """A part, or of one that is known the fields that differ: null for a channel that is gone."""

    id: str
    channels: dict[str, Channel | KeysBeside | None] = left_out()


class SceneAnswer(History):
    """A whole scene with its pose."""

    scene: Scene
    pose: Posed


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
    order: list[str] = left_out()
    stage: Stage = left_out()


class ChangeAnswer(History, Difference):
    """What an edit changed, the pose, and what is to be said of it."""

    pose: Posed
    remarks: list[str] = left_out()


class PreviewAnswer(Difference):
    """What edits would change, and where a point snaps to."""

    version: int
    pose: Moved
    snap: str | None
    curves: list[Curve] = []
    seen: list[SeenView] = left_out()
    rings: Rings | None = left_out()


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


class Labelled(Answer):
    """The act that was taken back or done again."""

    label: str


class NamesAnswer(Answer):
    """Names of scenes."""

    names: list[str]
