"""What a format with parents and keys cannot carry as it is, and is baked instead, with the reasons in words."""

from __future__ import annotations

from collections.abc import Callable

from jointed_crane.core.hierarchy.dependencies import dependencies_of, waves
from jointed_crane.core.hierarchy.tree import with_descendants
from jointed_crane.core.model.channels import channel_kind, countable
from jointed_crane.core.model.scene import Inherits, Part, Scene
from jointed_crane.core.motion.channel import Channel


def baked_parts(scene: Scene, reason: Callable[[Part], str | None]) -> dict[str, str]:
    """Ids of the parts whose whole placement is baked, each with why: what no format of nested transforms can carry,
    and, parents first, what `reason` names of the others.
    """
    deep = with_descendants(scene, [part.id for part in scene.parts if part.is_deep])
    chained = dependencies_of(scene).companions
    baked: dict[str, str] = {}
    for part in (scene.parts[index] for wave in waves(scene.parts) for index in wave):
        why: str | None
        if part.id in deep:
            why = "it turns in depth"
        elif part.constraints or part.id in chained:
            why = "of the constraints that place it"
        elif part.footholds or part.inherits != Inherits():
            why = "of its footholds or what it inherits"
        else:
            why = reason(part)
        if why is not None:
            baked[part.id] = why
    return {part.id: baked[part.id] for part in scene.parts if part.id in baked}


def is_baked(name: str, motion: Channel) -> bool:
    """Whether a channel has to be baked: it repeats, carries on or sways beyond its keys.

    Steps never have to: they change at single frames, however often.
    """
    return not channel_kind(name).stepped and not countable(name, motion).is_plain
