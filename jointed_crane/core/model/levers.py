"""What levers and links are: frozen values, and how a link answers what drives it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from jointed_crane.core.geometry.coordinates import Point

Floats = npt.NDArray[np.float64]

#: Two points of a curve closer than this would make a step of any size.
CLOSEST_POINTS = 1e-9
#: The channels of a lever's values, by the place of the axis.
LEVER_CHANNELS = ("lever.x", "lever.y")


@dataclass(frozen=True, kw_only=True)
class Axis:
    """One value of a lever: from low to high, at home at neutral, in steps of so much; 0 is without steps."""

    low: float = -1.0
    high: float = 1.0
    neutral: float = 0.0
    step: float = 0.0

    def within(self, values: Floats) -> Floats:
        """Values as they count: in steps from neutral, and within the range."""
        if self.step > 0:
            values = self.neutral + self.step * np.round((values - self.neutral) / self.step)
        result: Floats = np.clip(values, self.low, self.high)
        return result


@dataclass(frozen=True, kw_only=True)
class Lever:
    """A slider drawn for the animator, or with two axes a pad; if wished on the stage too, where its part lies.

    Its values are the channels "lever.x" and "lever.y" of the part that it is.
    """

    axes: tuple[Axis, ...] = (Axis(),)
    on_stage: bool = False

    def axis(self, channel: str) -> Axis:
        """The axis of one of its channels."""
        return self.axes[LEVER_CHANNELS.index(channel)]


@dataclass(frozen=True, kw_only=True)
class Link:
    """What a channel adds to one of the part that has the link.

    Attributes
    ----------
    source, channel : the part and its channel that drive
    onto : the channel of this part that is driven
    amount : what each unit adds, counted from where the source is at home
    points : (value of the source, what is added) in ascending order, straight in between and level beyond; where there
        are some they count instead of the amount
    """

    id: str
    source: str
    channel: str
    onto: str
    amount: float = 1.0
    points: tuple[Point, ...] = ()
    is_on: bool = True

    def adds(self, values: Floats, home: float) -> Floats:
        """What is added while the source has some values."""
        if not self.points:
            result: Floats = self.amount * (values - home)
            return result
        xs, ys = zip(*self.points, strict=True)
        return np.asarray(np.interp(values, xs, ys), dtype=np.float64)
