"""A scene in which what links do is written into keys, for formats that know nothing of links."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from jointed_crane.core.evaluate.evaluation import evaluate
from jointed_crane.core.evaluate.pose import Pose
from jointed_crane.core.evaluate.values import motion_values
from jointed_crane.core.model.channels import channel_kind
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.motion.channel import Channel, Key, SegmentKind


def links_as_keys(scene: Scene) -> Scene:
    """The scene with a key on every whole frame of each channel that links drive, and no links; at whole frames it is
    the same. The frames at which parts step onto footholds or change hands get keys as well, wherever they are: what
    comes later goes by the pose there.
    """
    if not any(part.links for part in scene.parts):
        return scene
    steps = (hold.frame for part in scene.parts for hold in part.footholds)
    changes = (frame for part in scene.parts for one in part.constraints for frame in one.moments())
    pose = evaluate(scene, np.unique([*np.arange(scene.length + 1.0), *steps, *changes]))
    return scene.with_parts(_keyed(part, pose) for part in scene.parts if part.links)


def _keyed(part: Part, pose: Pose) -> Part:
    after = replace(part, links=())
    for name in dict.fromkeys(link.onto for link in part.links):
        more = pose.driven.get((part.id, name))
        if more is None:
            continue
        kind = channel_kind(name)
        own = motion_values(part, name, pose.frames)
        found = own * (1 + more) if kind.joins == "multiply" else own + more
        segment: SegmentKind = "hold" if kind.stepped else "straight"
        frames = pose.frames[:1] if (found == found[0]).all() else pose.frames
        keys = tuple(Key(float(frame), float(value), segment) for frame, value in zip(frames, found, strict=False))
        after = after.with_channel(name, Channel(keys))
    return after
