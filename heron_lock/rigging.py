"""Short words for the edits that the demo scenes are made of; parts go by their names."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from pathlib import Path

from jointed_crane.core.constraints.along_path import AlongPath
from jointed_crane.core.constraints.constraint import Goal, number_channel
from jointed_crane.core.constraints.span import Span
from jointed_crane.core.edits import Edit, applied
from jointed_crane.core.edits.constraints.changing_hands import CarryFrom
from jointed_crane.core.edits.constraints.constraining import Constrain, MakeReach
from jointed_crane.core.edits.constraints.levers_and_links import AddLever, SetLink
from jointed_crane.core.edits.joints.eyelets import MakeJoints
from jointed_crane.core.edits.joints.helpers import AddHelper
from jointed_crane.core.edits.joints.joining import Join
from jointed_crane.core.edits.joints.limiting import SetLimits
from jointed_crane.core.edits.pictures.making_shapes import AddShape
from jointed_crane.core.edits.pictures.painting import Reorder
from jointed_crane.core.edits.placing.pivots import MovePivot
from jointed_crane.core.edits.placing.placement_choices import SetPlacement
from jointed_crane.core.edits.placing.poses import SetValues
from jointed_crane.core.edits.placing.rolling import Roll
from jointed_crane.core.edits.scene.bench_state import SetBenchState, SilenceFinding
from jointed_crane.core.edits.scene.parts import RenamePart
from jointed_crane.core.edits.scene.stage import SetStage
from jointed_crane.core.edits.time.curving import ShapeSegments
from jointed_crane.core.edits.time.keys import KeyAt, SetSegmentKind, SetSway
from jointed_crane.core.edits.time.repeating import CopiedKeys, PasteKeys
from jointed_crane.core.edits.time.retiming import Stagger
from jointed_crane.core.model.forms import PenPath
from jointed_crane.core.model.levers import Axis, Lever, Link
from jointed_crane.core.model.scene import Inherits, Scene
from jointed_crane.core.motion.channel import SegmentKind, Sway
from jointed_crane.core.motion.ready_shapes import ReadyShape
from jointed_crane.formats.artwork import Artwork
from jointed_crane.formats.bring_in import read_artwork
from jointed_crane.store.library import Library, scene_of

ART = Path(__file__).with_name("art")


@dataclass
class Rig:
    """A scene under construction: every call is one of the product's edits."""

    artwork: Artwork
    scene: Scene

    def named(self, name: str) -> str:
        """The id of the part of this name."""
        return next(part.id for part in self.scene.parts if part.name == name)

    def keep(self, edits: Iterable[Edit]) -> None:
        """Apply edits."""
        self.scene = applied(self.scene, edits)

    def put_on_shelf(self, library: Library) -> None:
        """Store the scene and its art, there whole or not at all."""
        library.put_new(self.scene, "Make", self.artwork)

    def pivots(self, places: Mapping[str, tuple[float, float]]) -> None:
        """Place pivots, px in the art; the art stays."""
        self.keep([MovePivot(self.named(name), place) for name, place in places.items()])

    def joints(self, parents: dict[str, str]) -> None:
        """Join children to their parents, each seated in an eyelet under its pivot."""
        self.keep([Join((self.named(child),), self.named(parent)) for child, parent in parents.items()])
        self.keep([MakeJoints(tuple(map(self.named, parents)), "joint")])

    def limits(self, ranges: Mapping[str, tuple[float, float]]) -> None:
        """Say how far parts may turn, degrees."""
        edits = [SetLimits((self.named(name),), "turn.z", low, high) for name, (low, high) in ranges.items()]
        self.keep(edits)

    def silence(self, name: str, finding: str) -> None:
        """Stop reporting a finding for a part."""
        self.keep([SilenceFinding((self.named(name),), finding)])

    def lock(self, names: tuple[str, ...]) -> None:
        """Lock scenery, so that a click on it picks nothing."""
        self.keep([SetBenchState(tuple(map(self.named, names)), locked=True)])

    def helper(self, helper_id: str, name: str, over: tuple[str, ...], place: tuple[float, float]) -> None:
        """Add a helper as parent of some parts."""
        self.keep([AddHelper(helper_id, tuple(map(self.named, over)), place, name)])

    def inherits(self, name: str, inherits: Inherits) -> None:
        """Say what a part takes over from its parent."""
        self.keep([SetPlacement(self.named(name), inherits=inherits)])

    def rest(self, name: str, values: Mapping[str, float]) -> None:
        """Say how a part lies at rest, by channel."""
        self.keep([SetValues((self.named(name),), dict(values))])

    def rename(self, name: str, to: str) -> None:
        """Give a part another name."""
        self.keep([RenamePart(self.named(name), to)])

    def keys(self, name: str, channel: str, values: dict[float, float], segment: SegmentKind = "eased") -> None:
        """Key a channel of a part: value by frame."""
        part = self.named(name)
        edits: list[Edit] = [SetValues((part,), {channel: value}, frame) for frame, value in values.items()]
        if segment != "eased":
            edits.append(SetSegmentKind(tuple(KeyAt(part, channel, frame) for frame in values), segment))
        self.keep(edits)

    def pivots_to(self, names: Iterable[str], fraction: tuple[float, float]) -> None:
        """Place pivots at a fraction of each part's box."""
        self.keep([MovePivot(self.named(name), fraction, "fraction") for name in names])

    def roll(self, name: str, frame: float, until: float, corners: int) -> None:
        """Tumble a part over corners of its outline to the right."""
        self.keep([Roll(self.named(name), frame, until, corners)])

    def shape(self, name: str, channel: str, frame: float, shape: ReadyShape) -> None:
        """Give the segment that leaves a key a ready shape."""
        self.keep([ShapeSegments((KeyAt(self.named(name), channel, frame),), shape)])

    def paste_onto(self, name: str, others: Iterable[str], frame: float) -> None:
        """Give all keys of one part to others, the first of them at a frame."""
        part = self.scene.part(self.named(name))
        copied = tuple(CopiedKeys(name, channel, curve.keys) for channel, curve in part.channels.items())
        self.keep([PasteKeys(copied, frame, tuple(map(self.named, others)))])

    def follow(self, names: Iterable[str], step: float) -> None:
        """Let each part set out so many frames after the one before."""
        self.keep([Stagger(tuple(map(self.named, names)), step)])

    def sway(self, name: str, channel: str, amount: float, period: float, phase: float = 0.0) -> None:
        """Add an oscillation."""
        self.keep([SetSway(self.named(name), channel, Sway(amount, period, phase))])

    def add_shape(self, part_id: str, name: str, shape: PenPath, behind: str) -> None:
        """Add a shape of the app's own, painted directly behind another part."""
        place = self.scene.index[self.named(behind)]
        self.keep([AddShape(part_id, shape, name)])
        self.keep([Reorder((part_id,), "backward")] * (len(self.scene.parts) - 1 - place))

    def lever(self, part_id: str, name: str, axis: Axis, at: tuple[float, float]) -> None:
        """Add a lever that is seen on the stage."""
        self.keep([AddLever(part_id, name, Lever(axes=(axis,), on_stage=True), at=at)])

    def link(self, source: str, name: str, channel: str, amount: float) -> None:
        """Have a lever drive a channel of a part."""
        self.keep([SetLink(self.named(name), self._link(source, channel, amount=amount))])

    def curve(self, source: str, name: str, channel: str, points: tuple[tuple[float, float], ...]) -> None:
        """Have a lever drive a channel of a part by a curve."""
        self.keep([SetLink(self.named(name), self._link(source, channel, points=points))])

    def _link(
        self, source: str, channel: str, amount: float = 1.0, points: tuple[tuple[float, float], ...] = ()
    ) -> Link:
        lever = self.named(source)
        return Link(
            id=f"{lever}-{channel}", source=lever, channel="lever.x", onto=channel, amount=amount, points=points
        )

    def along(self, name: str, path: str) -> str:
        """Run a part along another; the channel of its share."""
        rule = AlongPath(id="along", name="Along the course", goal=Goal(part=self.named(path)))
        self.keep([Constrain(self.named(name), rule, {"along": 0.0})])
        return number_channel("along", "along")

    def reach(self, name: str) -> str:
        """Have a hand that keeps its turn be reached for, its goal going along with what the arm hangs on; its name."""
        hand = self.scene.part(self.named(name))
        body = self.scene.part(self.scene.part(hand.parent or "").parent or "").parent
        reach_id = f"{hand.id}-reach"
        self.keep([MakeReach(hand.id, reach_id, keeps_turn=True), Join((f"{reach_id}-goal",), body)])
        return f"{name} goal"

    def grip(self, hand: str, place: tuple[float, float]) -> None:
        """Add a helper that goes along with a hand and never turns: what it carries hangs plumb."""
        part, name = self.named(hand), hand.replace("hand", "grip")
        self.keep([AddHelper(f"{part}-grip", (), place, name), Join((f"{part}-grip",), part)])
        self.inherits(name, Inherits(turn=False))

    def carry(self, name: str, carriers: Mapping[float, str]) -> None:
        """Have one part after the other carry a part, each from a frame on."""
        part = self.named(name)
        self.keep([CarryFrom(part, self.named(by), frame, "carry") for frame, by in carriers.items()])

    def span(self, name: str, first: tuple[str, tuple[float, float]], second: tuple[str, tuple[float, float]]) -> None:
        """Hold a part between points of two others, px in the art, which all parts of a drawing share."""
        ends = [Goal(at="point", part=self.named(held), point=(*place, 0.0)) for held, place in (first, second)]
        points = ((*first[1], 0.0), (*second[1], 0.0))
        self.keep(
            [Constrain(self.named(name), Span(id="span", name="Span", first=ends[0], second=ends[1], points=points))]
        )


def started(file_name: str, title: str, length: int) -> Rig:
    """A new scene with the parts of one of the demo drawings."""
    artwork = read_artwork((ART / file_name).read_bytes(), file_name)
    rig = Rig(artwork, scene_of(artwork, title))
    rig.keep([SetStage(length=length)])
    return rig
