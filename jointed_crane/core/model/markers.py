"""What a scene keeps by name beside its parts: places in time, and poses. None of it is ever sent out."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

#: Motion values by part name and channel.
PoseValues = Mapping[str, Mapping[str, float]]


@dataclass(frozen=True)
class Marker:
    """A named frame or, with `until`, a named span of frames; the last one belongs to it."""

    id: str
    name: str
    frame: float
    until: float | None = None

    @property
    def last(self) -> float:
        """The last frame that belongs to it."""
        return self.frame if self.until is None else self.until


@dataclass(frozen=True)
class KeptPose:
    """A pose under a name: motion values by part name and channel, so that it fits copies and other sides too."""

    id: str
    name: str
    values: PoseValues
