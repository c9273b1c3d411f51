"""What links add to channels over some frames, known before anything is placed."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from jointed_crane.core.evaluate.packing.plan import Plan
from jointed_crane.core.evaluate.values import motion_values
from jointed_crane.core.geometry.fields import Entry
from jointed_crane.core.model.channels import LEVER, channel_kind, family_of

Floats = npt.NDArray[np.float64]
#: What is added to channels, by row of the part and channel, each of shape (frames,).
Added = dict[tuple[int, str], Floats]


@dataclass(frozen=True)
class Motions:
    """Motion values as hands made them.

    Attributes
    ----------
    motion : array, shape (curves, frames)
    frames : array, shape (frames,), ascending
    bare : values of channels without a curve, by channel and row; rest values where the scene is at rest
    """

    plan: Plan
    motion: Floats
    frames: Floats
    bare: Mapping[str, Mapping[int, float]]
    is_at_rest: bool

    def of(self, row: int, channel: str) -> tuple[Floats, float]:
        """A channel's values over the frames, shape (frames,), and where it is at home: neutral, or what it rests at
        where motion takes the place of that.
        """
        part = self.plan.parts[row]
        kind = channel_kind(channel)
        is_exchanged = kind.joins == "replace"
        home = part.rest_value(channel) if is_exchanged else kind.neutral
        curve = self.plan.curve_of.get((row, channel))
        if curve is not None:
            values = self.motion[curve]
        elif channel in part.channels:  # of a shape, whose numbers have no say in where it lies
            values = motion_values(part, channel, self.frames)
        else:
            held = self.bare.get(channel, {}).get(row)
            counts = held is not None and (is_exchanged or not self.is_at_rest)
            values = np.full(self.motion.shape[1], held if counts else home)
        if part.lever is not None and family_of(channel) is LEVER:
            return values, part.lever.axis(channel).neutral
        return values, home


def added(motions: Motions) -> Added:
    """What links add, all of them in order: a channel that is driven may drive others."""
    result: Added = {}
    for row, link in motions.plan.links:
        source = motions.plan.row_of[link.source]
        values, home = motions.of(source, link.channel)
        values = values + _driven(result.get((source, link.channel)), values, link.channel)
        lever = motions.plan.parts[source].lever
        if lever is not None and family_of(link.channel) is LEVER:
            values = lever.axis(link.channel).within(values)
        more = link.adds(values, home)
        result[row, link.onto] = result[row, link.onto] + more if (row, link.onto) in result else more
    return result


def _driven(more: Floats | None, values: Floats, channel: str) -> Floats | float:
    """How far links carry a channel's own values."""
    if more is None:
        return 0.0
    return values * more if channel_kind(channel).joins == "multiply" else more


def with_added(plan: Plan, values: dict[str, Entry], additions: Added, frame_count: int) -> dict[str, Entry]:
    """Effective values with what links add; those that multiply become so many times as large and once more."""
    after = dict(values)
    for (row, channel), more in additions.items():
        if not family_of(channel).is_everywhere:
            continue
        if after[channel] is values[channel]:
            full = np.empty((len(plan.parts), frame_count))
            full[:] = values[channel]
            after[channel] = full
        full = np.asarray(after[channel])
        full[row] += _driven(more, full[row], channel)
    return after
