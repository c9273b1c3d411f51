"""A span of a scene's frames as a scene of its own, to be sent out alone."""

from __future__ import annotations

from dataclasses import replace

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.model.cameras import retimed_cuts
from jointed_crane.core.model.scene import Foothold, Part, Scene
from jointed_crane.core.motion.channel import Channel
from jointed_crane.core.motion.editing import moved


def excerpt(scene: Scene, first: int, last: int) -> Scene:
    """The frames from first to last, both included, counted from 0; each looks as it does in the whole.

    Keys, footholds and sways all come earlier by `first`; those before it stay, on frames below 0, since what follows
    hangs on them. RuleError where the scene has no such frames.
    """
    ensure_within(scene, first, last)
    if (first, last) == (0, scene.length - 1):
        return scene
    parts = tuple(_earlier(part, first) for part in scene.parts)
    cuts = retimed_cuts(scene.cuts, lambda frame: frame - first)
    return replace(scene, length=last - first + 1, parts=parts, markers=(), cuts=cuts)


def ensure_within(scene: Scene, first: int, last: int) -> None:
    """RuleError where the scene has no such frames."""
    if not 0 <= first <= last < scene.length:
        raise RuleError(
            f"The scene runs from frame 0 to {scene.length - 1}; frames {first} to {last} are not in it. "
            "Nothing was sent."
        )


def _earlier(part: Part, by: int) -> Part:
    channels = {name: _channel(channel, -by) for name, channel in part.channels.items()}
    footholds = tuple(Foothold(hold.frame - by, hold.point) for hold in part.footholds)
    constraints = tuple(one.retimed(lambda frame: frame - by) for one in part.constraints)
    return replace(part, channels=channels, footholds=footholds, constraints=constraints)


def _channel(channel: Channel, by: float) -> Channel:
    sway = None if channel.sway is None else channel.sway.shifted(by)
    return replace(moved(channel, frozenset(channel.frames), by), sway=sway)
