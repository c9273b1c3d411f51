"""What nested groups with keyframes cannot carry as it is, and is written frame by frame instead."""

from __future__ import annotations

from jointed_crane.core.hierarchy.dependencies import dependencies_of, waves
from jointed_crane.core.hierarchy.tree import with_descendants
from jointed_crane.core.model.channels import CHANNELS, channel_kind, countable, family_of
from jointed_crane.core.model.scene import Scene
from jointed_crane.core.motion.channel import Channel
from jointed_crane.core.shapes.reshaping import shape_channels
from jointed_crane.formats.svg_out.groups import is_native, most_groups

#: Placements nest no deeper than this many groups. The reader of XML that most programs use (libxml2) refuses what
#: nests deeper than 256 unless it is told otherwise, and the art in the innermost group has a depth of its own.
_DEEPEST = 200


def baked_parts(scene: Scene) -> dict[str, str]:
    """Ids of the parts whose whole placement is written frame by frame, each with the reason in words."""
    deep = with_descendants(scene, [part.id for part in scene.parts if part.is_deep])
    chained = dependencies_of(scene).companions
    baked: dict[str, str] = {}
    depths: dict[str | None, int] = {None: 0}
    for part in (scene.parts[index] for wave in waves(scene.parts) for index in wave):
        depths[part.id] = depths[part.parent] + most_groups(part)
        if part.id in deep:
            baked[part.id] = "it turns in depth"
        elif part.constraints or part.id in chained:
            baked[part.id] = "of the constraints that place it"
        elif not is_native(part):
            baked[part.id] = "of its footholds, shear or inheritance"
        elif depths[part.id] > _DEEPEST:
            baked[part.id] = "so many parts hang on each other above it"
        if part.id in baked:
            depths[part.id] = 1  # it stands on the stage itself
    return {part.id: baked[part.id] for part in scene.parts if part.id in baked}


def is_baked(name: str, motion: Channel) -> bool:
    """Whether a channel has to be written frame by frame: it repeats, carries on or sways beyond its keys.

    Steps never have to: they change at single frames, however often.
    """
    return not channel_kind(name).stepped and not countable(name, motion).is_plain


def notes(scene: Scene) -> list[str]:
    """What an animated SVG of the scene writes frame by frame, in words; the film is not evaluated for it."""
    baked = baked_parts(scene)
    result = []
    for part in scene.parts:
        if part.id in baked and part.drawings and part.is_sent:
            result.append(f"{part.name} is written frame by frame, because {baked[part.id]}.")
        if shape_channels(part) and part.is_sent:
            result.append(
                f"The shape of {part.name} is written frame by frame; browsers that know the CSS property d move it."
            )
        for name in dict.fromkeys(
            link.onto for link in part.links if link.is_on and family_of(link.onto).is_everywhere
        ):
            result.append(f"{CHANNELS[name].label} of {part.name} is written frame by frame, because a link drives it.")
        for name, motion in part.channels.items():
            if not family_of(name).is_everywhere:
                continue
            is_written = part.id not in baked or name == "opacity"
            if is_written and is_baked(name, motion):
                label = CHANNELS[name].label
                result.append(f"{label} of {part.name} is written frame by frame, because it cycles or sways.")
    return result
