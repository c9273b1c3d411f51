"""What a scene is made of: frozen values that share all that did not change."""

from __future__ import annotations

import operator
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, fields, replace
from fractions import Fraction
from functools import cached_property
from typing import Literal

from jointed_crane.core.basics.errors import UnknownPart
from jointed_crane.core.basics.frozen import TravelsBare, changed, remembered
from jointed_crane.core.constraints.constraint import Constraint, Goal, number_channel, number_channels
from jointed_crane.core.geometry.coordinates import UPRIGHT, Bounds, Quaternion, Ring, Vector
from jointed_crane.core.model.cameras import LENS, Camera, CameraCut
from jointed_crane.core.model.channels import CHANNELS, MOVE, SCALE, channel_kind, family_of
from jointed_crane.core.model.forms import Shape
from jointed_crane.core.model.levers import LEVER_CHANNELS, Lever, Link
from jointed_crane.core.model.markers import KeptPose, Marker
from jointed_crane.core.motion.channel import Channel

PartKind = Literal["drawing", "bitmap", "shape", "text", "helper", "reference", "lever", "camera"]
HelperForm = Literal["square", "round", "cross"]
Tag = Literal["", "reed", "clay", "slate", "moss", "plum", "straw"]
#: Lowest and highest motion value of a channel; None is open on that side.
Limit = tuple[float | None, float | None]
TurnOrder = Literal["XYZ", "XZY", "YXZ", "YZX", "ZXY", "ZYX"]
#: How children are painted in a scene that has depth: the nearer over the farther, or as the list has them.
PaintedBy = Literal["depth", "list"]


@dataclass(frozen=True)
class Source:
    """Where a drawing came from, by which a changed file finds it again.

    Attributes
    ----------
    file, layer : names of the file and of the layer in it
    cross : the named element that is its registration, its register cross, if any
    id, path : the layer's own id in the file, and its place among the layers, such as "3.1"; empty where not known
    """

    file: str
    layer: str
    cross: str = ""
    id: str = ""
    path: str = ""


@dataclass(frozen=True)
class Drawing(TravelsBare):
    """One picture a part can show.

    Attributes
    ----------
    art : the content hash of the stored art
    box : left, top, right, bottom of the whole picture, px in the file's own coordinates
    registration : where the art's zero lies, px in the file's own coordinates
    shape : what the art was made from where the app made it, so that it stays editable
    source : where it came from, by which a changed file finds it again
    bounds : left, top, right, bottom of what is painted, px in art space
    outline : closed rings round what is painted, px in art space; the even-odd rule says what is inside
    """

    id: str
    name: str
    art: str
    box: Bounds
    bounds: Bounds
    registration: tuple[float, float] = (0.0, 0.0)
    outline: tuple[Ring, ...] = ()
    shape: Shape | None = None
    source: Source | None = None

    def with_zero_moved(self, by: tuple[float, float]) -> Drawing:
        """The same picture in other coordinates: the point that lay at `by`, px in art space, becomes the zero."""
        if by == (0.0, 0.0):
            return self
        dx, dy = by
        left, top, right, bottom = self.bounds
        return replace(
            self,
            registration=(self.registration[0] + dx, self.registration[1] + dy),
            bounds=(left - dx, top - dy, right - dx, bottom - dy),
            outline=tuple(tuple((x - dx, y - dy) for x, y in ring) for ring in self.outline),
        )


@dataclass(frozen=True)
class Eyelet:
    """A named point on a part where a child's pivot belongs, px in art space; never sent out."""

    id: str
    name: str
    point: Vector


@dataclass(frozen=True)
class Mark:
    """A free point on the stage, used as a shared turning centre, px on the stage; never sent out."""

    id: str
    name: str
    place: tuple[float, float]


@dataclass(frozen=True)
class Foothold:
    """From `frame` onwards the part stands on `point` (px in art space)."""

    frame: float
    point: Vector


@dataclass(frozen=True)
class Inherits:
    """What a part takes over from its parent."""

    position: bool = True
    turn: bool = True
    scale: bool = True


@dataclass(frozen=True)
class Part(TravelsBare):
    """One thing that moves.

    Attributes
    ----------
    parent : id of the parent, None on the stage itself
    pivot : px in art space
    orientation : the rest orientation O as a unit quaternion (x, y, z, w)
    turn_order : "XYZ" means R = Rx Ry Rz
    rest : rest values by channel name; a channel that is absent rests at neutral
    channels : motion by channel name; a channel that is absent is neutral
    spin_centre : px in art space; None is the centre of the art's bounds
    level : id of the mark that says how high the part stands, None for the line that it first stood on
    seat : id of the parent's eyelet that the pivot is kept in, None where it is free
    constraints : what places the part from others, acting in order after its own placement
    lever : what the part is drawn as on the board, where it is a lever
    camera : how it sees, where it is a camera
    links : what drives channels of the part
    limits : allowed motion values by channel; they hold in Motion, where a part moves from its rest
    fixed : channels that no hand changes, the locks of its axes
    shares : the mark that copies which share their drawings have in common
    hidden, locked : states of the bench only; neither changes what is sent out
    size, form : drawn size in px and form of a helper, display settings
    tag : a colour in the tree
    silenced : names of findings that are not reported for this part
    slots : what of it tables fill, by the names of their columns (`slots`)
    painted_by : what says in which order all that hangs on it is painted, in a scene that has depth
    """

    id: str
    name: str
    kind: PartKind = "drawing"
    parent: str | None = None
    drawings: tuple[Drawing, ...] = ()
    pivot: Vector = (0.0, 0.0, 0.0)
    orientation: Quaternion = UPRIGHT
    turn_order: TurnOrder = "XYZ"
    rest: Mapping[str, float] = field(default_factory=dict)
    channels: Mapping[str, Channel] = field(default_factory=dict)
    footholds: tuple[Foothold, ...] = ()
    eyelets: tuple[Eyelet, ...] = ()
    seat: str | None = None
    level: str | None = None
    spin_centre: Vector | None = None
    inherits: Inherits = Inherits()
    constraints: tuple[Constraint, ...] = ()
    lever: Lever | None = None
    links: tuple[Link, ...] = ()
    limits: Mapping[str, Limit] = field(default_factory=dict)
    fixed: tuple[str, ...] = ()
    shares: str | None = None
    hidden: bool = False
    locked: bool = False
    size: float = 40.0
    form: HelperForm = "square"
    tag: Tag = ""
    silenced: tuple[str, ...] = ()
    slots: Mapping[str, str] = field(default_factory=dict)
    painted_by: PaintedBy = "depth"
    camera: Camera | None = None

    @property
    def is_sent(self) -> bool:
        """Whether the part's picture is sent out: helpers, levers and cameras have none, references are for the eye
        alone.
        """
        return self.kind not in ("helper", "reference", "lever", "camera")

    @property
    def drivers(self) -> tuple[str, ...]:
        """Ids of the parts whose channels drive channels of this one."""
        return tuple(dict.fromkeys(link.source for link in self.links))

    @property
    def numbers(self) -> tuple[str, ...]:
        """The channels of numbers that not every part has: those of its constraints, its lever and its camera."""
        axes = 0 if self.lever is None else len(self.lever.axes)
        lens = () if self.camera is None else (LENS,)
        return (*number_channels(self.constraints), *LEVER_CHANNELS[:axes], *lens)

    @property
    def has_keyed_numbers(self) -> bool:
        """Whether numbers of its constraints, its lever or its camera move."""
        return any(family_of(name).moves == "number" for name in self.channels)

    @property
    def is_deep(self) -> bool:
        """Whether it leaves, or may leave, the plane of its parent."""
        x, y, _, _ = self.orientation
        acting = [one for one in self.constraints if one.is_on]
        numbers = (number_channel(one.id, each.name) for one in acting for each in one.NUMBERS if each.is_deep)
        deep = (*(name for name, kind in CHANNELS.items() if kind.is_deep), *numbers)
        moves = any(name in self.channels or self.rest_value(name) != channel_kind(name).neutral for name in deep)
        is_tilted = abs(x) > 1e-12 or abs(y) > 1e-12
        return moves or is_tilted or any(one.leaves_plane() for one in acting)

    def eyelet(self, eyelet_id: str) -> Eyelet | None:
        """The eyelet of this id, or None."""
        return next((eyelet for eyelet in self.eyelets if eyelet.id == eyelet_id), None)

    def rest_value(self, channel: str) -> float:
        """The rest value of a channel; neutral where none is stored."""
        return self.rest.get(channel, channel_kind(channel).neutral)

    def with_rest(self, values: Mapping[str, float]) -> Part:
        """The part with some rest values changed."""
        rest = {**self.rest, **{name: float(value) for name, value in values.items()}}
        return self._with_numbers("rest", values, rest=rest)

    def with_rest_moved(self, by: Iterable[float]) -> Part:
        """The part resting elsewhere: x, y and, where given, z added to the rest values of move, px in parent space."""
        steps = zip(MOVE.names, by, strict=False)
        return self.with_rest({name: self.rest_value(name) + step for name, step in steps if step})

    def with_channel(self, name: str, channel: Channel) -> Part:
        """The part with one channel changed; a channel with neither keys nor sway is dropped."""
        return self.with_channels({name: channel})

    def with_channels(self, others: Mapping[str, Channel]) -> Part:
        """The part with some channels changed; those with neither keys nor sway are dropped."""
        channels = dict(self.channels)
        for name, channel in others.items():
            if channel.at_hand or channel.sway:
                channels[name] = channel
            else:
                channels.pop(name, None)
        return self._with_numbers("channels", others, channels=channels)

    def _with_numbers(self, field: str, names: Iterable[str], **numbers: object) -> Part:
        """The part with other numbers by channel; what it is besides is one and the same value for both."""
        self.own_values  # noqa: B018  found before it is handed on
        return changed(self, {f"{field}.{name.partition('.')[0]}" for name in names}, **numbers)

    def with_footholds(self, footholds: Iterable[Foothold]) -> Part:
        """The part with these footholds, in order; of two on one frame the later in the row stays."""
        by_frame = {foothold.frame: foothold for foothold in footholds}
        return replace(self, footholds=tuple(by_frame[frame] for frame in sorted(by_frame)))

    @remembered()
    def at_rest(self) -> Part:
        """The part in Rest: no motion, and nothing that changes from a frame on."""
        constraints = self.constraints
        if any(one.moments() for one in constraints):
            constraints = tuple(one.resting() for one in constraints)
        if not self.footholds and constraints is self.constraints:
            return changed(self, channels={}) if self.channels else self
        return changed(self, channels={}, footholds=(), constraints=constraints)

    @remembered(but=("rest", "channels"))
    def own_values(self) -> tuple[object, ...]:
        """What the part is besides its numbers by channel: the values of OWN_FIELDS."""
        result: tuple[object, ...] = _own(self)
        return result

    @remembered("rest.scale", "channels.scale")
    def largest_scale(self) -> float:
        """How large the part may become: for each axis its rest scale times the largest key, handles included."""
        result = 1.0
        for name in SCALE.names:
            if name in self.channels or name in self.rest:
                result = max(result, abs(self.rest_value(name)) * largest_factor(self.channels.get(name)))
        return result

    def drawing_number(self, value: float) -> int:
        """The number of the drawing that a value of the channel shows; beyond the row the first or the last."""
        return min(max(round(value), 0), max(len(self.drawings) - 1, 0))

    @remembered("drawings", "rest.drawing")
    def drawing(self) -> Drawing | None:
        """The drawing shown at rest; None for a part without a picture."""
        if not self.drawings:
            return None
        return self.drawings[self.drawing_number(self.rest_value("drawing"))]

    @remembered("drawings", "rest.drawing")
    def bounds(self) -> Bounds | None:
        """The bounds of the drawing shown at rest, px in art space; None for a part without a picture."""
        return None if self.drawing is None else self.drawing.bounds

    @property
    def outline(self) -> tuple[Ring, ...]:
        """The outline of the drawing shown at rest, px in art space; no rings for a part without a picture."""
        return () if self.drawing is None else self.drawing.outline

    def point_of(self, goal: Goal) -> Vector | None:
        """Where on its art a goal lies, px in art space; None for its pivot, and for an eyelet that is not there."""
        if goal.at == "centre":
            return self.centre
        if goal.at == "eyelet":
            eyelet = self.eyelet(goal.named or "")
            return None if eyelet is None else eyelet.point
        return goal.point

    @remembered("drawings", "rest.drawing", "spin_centre", "pivot")
    def centre(self) -> Vector:
        """The point c that spin turns about, px in art space."""
        if self.spin_centre is not None:
            return self.spin_centre
        if self.bounds is None:
            return self.pivot
        left, top, right, bottom = self.bounds
        return ((left + right) / 2, (top + bottom) / 2, 0.0)


def largest_factor(channel: Channel | None) -> float:
    """The most that a channel of scales multiplies its rest value with, handles and sway included."""
    if channel is None:
        return 1.0
    return channel.reach + (0.0 if channel.at_hand else 1.0)


#: The fields of a part besides its numbers by channel.
OWN_FIELDS = tuple(field.name for field in fields(Part) if field.name not in ("rest", "channels"))
_own = operator.attrgetter(*OWN_FIELDS)

#: The ground of a stage that has none: what is behind it is seen.
NO_GROUND = "none"


@dataclass(frozen=True)
class Scene(TravelsBare):
    """A stage and its parts, in painting order from back to front.

    Attributes
    ----------
    width, height : px
    ground : the colour behind everything, "#rrggbb", or NO_GROUND
    fps : frames per second as numerator and denominator
    length : number of frames; they run from 0 to length - 1
    isolated : the only parts seen on the bench; empty shows all
    cuts : which camera is on from which frame, in order; before the first the first one is, without any the stage's own
        view
    depth : whether what is nearer hides what is farther; without it parts are painted as the list has them
    """

    id: str
    name: str
    width: float = 1280.0
    height: float = 720.0
    ground: str = "#e3edf0"
    fps: tuple[int, int] = (24, 1)
    length: int = 96
    parts: tuple[Part, ...] = ()
    marks: tuple[Mark, ...] = ()
    isolated: tuple[str, ...] = ()
    markers: tuple[Marker, ...] = ()
    poses: tuple[KeptPose, ...] = ()
    depth: bool = False
    cuts: tuple[CameraCut, ...] = ()

    @property
    def rate(self) -> Fraction:
        """Frames per second."""
        return Fraction(*self.fps)

    @property
    def seconds(self) -> float:
        """Length in seconds."""
        return float(self.length / self.rate)

    @cached_property
    def index(self) -> dict[str, int]:
        """Place of each part in the painting order by its id."""
        return {part.id: place for place, part in enumerate(self.parts)}

    @cached_property
    def children(self) -> dict[str | None, tuple[Part, ...]]:
        """Parts by the id of their parent, back to front; None holds those on the stage itself."""
        result: dict[str | None, list[Part]] = {}
        for part in self.parts:
            result.setdefault(part.parent, []).append(part)
        return {parent: tuple(parts) for parent, parts in result.items()}

    def part(self, part_id: str) -> Part:
        """The part of this id; raises UnknownPart."""
        try:
            return self.parts[self.index[part_id]]
        except KeyError:
            raise UnknownPart(part_id) from None

    def with_parts(self, parts: Iterable[Part]) -> Scene:
        """The scene with some parts changed, found by their ids."""
        by_id = {part.id: part for part in parts}
        return replace(self, parts=tuple(by_id.get(part.id, part) for part in self.parts))

    @cached_property
    def at_rest(self) -> Scene:
        """The scene in Rest: every motion value neutral."""
        return replace(self, parts=tuple(part.at_rest for part in self.parts))

    def shown_as(self, frame: float | None) -> Scene:
        """The scene as one state shows it: Rest where `frame` is None, motion otherwise."""
        return self.at_rest if frame is None else self
