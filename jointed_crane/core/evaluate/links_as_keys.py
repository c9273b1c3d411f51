"""A scene in which what links do is written into keys, for formats that know nothing of links."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

import numpy as np
import numpy.typing as npt

from jointed_crane.core.evaluate.evaluation import evaluate
from jointed_crane.core.evaluate.values import motion_values
from jointed_crane.core.model.channels import channel_kind
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.motion.channel import Channel, Key, SegmentKind

Floats = npt.NDArray[np.float64]
#: Parts times frames that are looked at together.
_AT_ONCE = 200_000


def links_as_keys(scene: Scene) -> Scene:
    """The scene with a key on every whole frame of each channel that links drive, and no links; at whole frames it is
    the same. The frames at which parts step onto footholds or change hands get keys as well, wherever they are: what
    comes later goes by the pose there.
    """
    if not any(part.links for part in scene.parts):
        return scene
    steps = (hold.frame for part in scene.parts for hold in part.footholds)
    changes = (frame for part in scene.parts for one in part.constraints for frame in one.moments())
    frames = np.unique([*np.arange(scene.length + 1.0), *steps, *changes])
    at_once = max(1, _AT_ONCE // len(scene.parts))
    poses = [evaluate(scene, frames[at : at + at_once]).driven for at in range(0, len(frames), at_once)]
    driven = {name: np.concatenate([pose[name] for pose in poses]) for name in poses[0]}
    return scene.with_parts(_keyed(part, frames, driven) for part in scene.parts if part.links)


def _keyed(part: Part, frames: Floats, driven: Mapping[tuple[str, str], Floats]) -> Part:
    after = replace(part, links=())
    for name in dict.fromkeys(link.onto for link in part.links):
        more = driven.get((part.id, name))
        if more is None:
            continue
        kind = channel_kind(name)
        own = motion_values(part, name, frames)
        result = own * (1 + more) if kind.joins == "multiply" else own + more
        segment: SegmentKind = "hold" if kind.stepped else "straight"
        at = frames[:1] if (result == result[0]).all() else frames
        keys = tuple(Key(float(frame), float(value), segment) for frame, value in zip(at, result, strict=False))
        after = after.with_channel(name, Channel(keys))
    return after
