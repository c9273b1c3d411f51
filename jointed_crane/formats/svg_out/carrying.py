"""What nested groups with keyframes cannot carry as it is, and is written frame by frame instead."""

from __future__ import annotations

from jointed_crane.core.model.channels import CHANNELS, family_of
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.shapes.reshaping import shape_channels
from jointed_crane.core.viewing.cameras import is_seen_in_depth
from jointed_crane.formats.moving import baking
from jointed_crane.formats.svg.stored_art import ArtSource
from jointed_crane.formats.svg_out.groups import most_groups
from jointed_crane.formats.svg_out.in_depth import notes_of_depth

#: Placements nest no deeper than this many groups. The reader of XML that most programs use (libxml2) refuses what
#: nests deeper than 256 unless it is told otherwise, and the art in the innermost group has a depth of its own.
_DEEPEST = 200


def baked_parts(scene: Scene) -> dict[str, str]:
    """Ids of the parts whose whole placement is written frame by frame, each with the reason in words."""
    depths: dict[str | None, int] = {None: 0}

    def reason(part: Part) -> str | None:
        # A parent that is baked stands on the stage itself, as one group.
        depths[part.id] = depths.get(part.parent, 1) + most_groups(part)
        if "shear.xy" in part.channels:
            why = "its shear moves"
        elif depths[part.id] > _DEEPEST:
            why = "so many parts hang on each other above it"
        else:
            return None
        del depths[part.id]
        return why

    return baking.baked_parts(scene, reason)


def notes(scene: Scene, art: ArtSource) -> list[str]:
    """What an animated SVG of the scene writes frame by frame, in words; the film is not evaluated for it."""
    if is_seen_in_depth(scene):
        return notes_of_depth(scene, art)
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
            if is_written and baking.is_baked(name, motion):
                label = CHANNELS[name].label
                result.append(f"{label} of {part.name} is written frame by frame, because it cycles or sways.")
    return result
