"""Edits that make links by what is there: the ranges of channels, where they stand, the values that they take."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.edits.constraints.levers_and_links import SetLink, link_of, named_channel
from jointed_crane.core.edits.shared.edit import Edit, unlocked
from jointed_crane.core.edits.shared.named_things import exchanged_for
from jointed_crane.core.edits.shared.values_on_screen import added_by_links, value_on_screen, with_value
from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.evaluate.pose_at_frame import narrowed
from jointed_crane.core.evaluate.values import motion_values
from jointed_crane.core.geometry.coordinates import Point
from jointed_crane.core.model.channels import LEVER, channel_kind, family_of
from jointed_crane.core.model.levers import Axis, Link
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.motion.channel import BARE

#: How far channels without a range usually go, by their unit.
_USUAL = {"deg": 90.0, "px": 90.0, "": 1.0}
#: Frames that are looked at for what links make of a source.
_MOST_FRAMES = 2000


@dataclass(frozen=True)
class _NewLink(Edit):
    """A link that is made: what drives, and what of a part is driven."""

    part: str
    id: str
    source: str
    channel: str
    onto: str

    def label(self, scene: Scene) -> str:
        return f"{named_channel(scene, self.source, self.channel)} drives {named_channel(scene, self.part, self.onto)}"

    def made(self, amount: float = 0.0, points: tuple[Point, ...] = ()) -> SetLink:
        """What makes it, by an amount or a curve."""
        link = Link(id=self.id, source=self.source, channel=self.channel, onto=self.onto, amount=amount, points=points)
        return SetLink(self.part, link)


@dataclass(frozen=True)
class LinkByRanges(_NewLink, kind="link_by_ranges"):
    """Have a channel driven by another so that the whole range of one takes it through the whole of its own: the range
    of a lever, limits, ends, or how far channels of that unit usually go.
    """

    def apply(self, scene: Scene) -> Scene:
        amount = _span(scene.part(self.part), self.onto) / _span(scene.part(self.source), self.channel)
        # Three digits are as many as anybody chooses.
        return self.made(float(f"{amount:.3g}")).apply(scene)


@dataclass(frozen=True)
class LinkFromHere(_NewLink, kind="link_from_here"):
    """Have a channel driven so that it goes from what it was to what it is, while its source goes from what that was to
    what it is. Its own value is then again what it was, so nothing moves.

    Parameters
    ----------
    source_was, was : the values that were shown, its own of the source and of the channel that is driven
    """

    source_was: float
    was: float
    frame: float | None = None

    def apply(self, scene: Scene) -> Scene:
        (part,) = unlocked(scene, [self.part])
        source = scene.part(self.source)
        if self.frame is None and channel_kind(self.channel).joins != "replace":
            raise RuleError("At rest only levers drive anything. Nothing was changed; take both ends in Motion.")
        begin, end = self._through(scene, source)
        now = value_on_screen(part, self.onto, self.frame)
        if begin == end or now == self.was:
            what = (self.source, self.channel) if begin == end else (self.part, self.onto)
            raise RuleError(f"{named_channel(scene, *what)} stands where it stood. Nothing was changed; move it first.")
        added = now - self.was
        if channel_kind(self.onto).joins == "multiply":
            if not self.was:
                raise RuleError(
                    f"{named_channel(scene, self.part, self.onto)} was 0, and nothing is a multiple of it. Nothing "
                    "was changed; begin where it has a size."
                )
            added = (1 + added_by_links(scene, part, self.frame).get(self.onto, 0.0)) * (now / self.was - 1)
        put_back = scene.with_parts([with_value(part, self.onto, self.was, self.frame)])
        return self.made(points=tuple(sorted([(begin, 0.0), (end, added)]))).apply(put_back)

    def _through(self, scene: Scene, source: Part) -> tuple[float, float]:
        """What the source had and has, as it counts: with what drives it, and within the ends of a lever."""
        more = added_by_links(scene, source, self.frame).get(self.channel, 0.0)
        own = np.array([self.source_was, value_on_screen(source, self.channel, self.frame)])
        values = own * (1 + more) if channel_kind(self.channel).joins == "multiply" else own + more
        axis = _axis(source, self.channel)
        begin, end = values if axis is None else axis.within(values)
        return float(begin), float(end)


@dataclass(frozen=True)
class LinkAsCurve(Edit, kind="link_as_curve"):
    """Write a link that goes by an amount as a curve through points, over all values that its source takes: nothing
    moves at any frame.
    """

    part: str
    link: str

    def label(self, scene: Scene) -> str:
        link = link_of(scene.part(self.part), self.link)
        return f"{named_channel(scene, self.part, link.onto)} by a curve"

    def apply(self, scene: Scene) -> Scene:
        (part,) = unlocked(scene, [self.part])
        link = link_of(part, self.link)
        if link.points:
            raise RuleError(f"{named_channel(scene, part.id, link.onto)} goes by a curve already. Nothing was changed.")
        home, low, high = _values_taken(scene, scene.part(link.source), link.channel)
        points = tuple((x, link.amount * (x - home)) for x in sorted({low, home, high}))
        links = exchanged_for(part.links, link, replace(link, points=points))
        return scene.with_parts([replace(part, links=links)])


def _axis(part: Part, channel: str) -> Axis | None:
    return part.lever.axis(channel) if part.lever is not None and family_of(channel) is LEVER else None


def _span(part: Part, channel: str) -> float:
    """How far a channel of a part goes from end to end."""
    kind, axis = channel_kind(channel), _axis(part, channel)
    low, high = (axis.low, axis.high) if axis else part.limits.get(channel) or kind.ends or (None, None)
    span = 0.0 if low is None or high is None else high - low
    return span if 0 < span < np.inf else _USUAL.get(kind.unit, 1.0)


def _values_taken(scene: Scene, source: Part, channel: str) -> tuple[float, float, float]:
    """Where a channel is at home, and values that it neither goes below nor above."""
    kind, axis = channel_kind(channel), _axis(source, channel)
    if axis is not None:
        return axis.neutral, axis.low, axis.high
    home = source.rest_value(channel) if kind.joins == "replace" else kind.neutral
    frames = np.unique(np.linspace(0, scene.length - 1, min(scene.length, _MOST_FRAMES)))
    own = np.abs(motion_values(source, channel, frames)).max()
    # A curve rises beyond the frames that are looked at by no more than its keys and handles do.
    most = float(max(abs(home), own)) + 2 * source.channels.get(channel, BARE).reach + _USUAL.get(kind.unit, 1.0)
    if any(link.onto == channel for link in source.links):
        driven = evaluate(narrowed(scene, [source.id]), frames).driven.get((source.id, channel), np.zeros(1))
        more = float(np.abs(driven).max())
        most = most * (1 + more) if kind.joins == "multiply" else most + more
    return home, -most, most
