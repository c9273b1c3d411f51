"""What cameras are, and the row in time that says which one is on."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace

#: The channel of a camera's lens: its focal length in mm before a sensor 36 mm wide.
LENS = "lens"


@dataclass(frozen=True, kw_only=True)
class Camera:
    """How a part of kind camera sees: it stands where its pivot lies and looks along its own -z, its own y downwards.

    Attributes
    ----------
    parallel : whether it sees everything as large however far away; then its scale says how much it sees, not its lens
    near : what lies less deep before it is not seen, px
    """

    parallel: bool = False
    near: float = 1.0


@dataclass(frozen=True)
class CameraCut:
    """From `frame` on a camera is on; None is the stage's own view."""

    frame: float
    camera: str | None


def retimed_cuts(cuts: Iterable[CameraCut], later: Callable[[float], float]) -> tuple[CameraCut, ...]:
    """Cuts on other frames; of several that come to one frame the last holds."""
    by_frame = {later(cut.frame): cut for cut in cuts}
    return tuple(replace(by_frame[frame], frame=frame) for frame in sorted(by_frame))
