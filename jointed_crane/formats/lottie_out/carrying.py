"""What vector animation cannot carry as it is, in words, and what is done instead."""

from __future__ import annotations

from collections.abc import Iterator

from jointed_crane.core.model.channels import CHANNELS, family_of
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.shapes.reshaping import shape_channels
from jointed_crane.formats.lottie_out.art import Art
from jointed_crane.formats.lottie_out.tracks import TOLERANCE
from jointed_crane.formats.moving.baking import baked_parts, is_baked
from jointed_crane.formats.svg.stored_art import ArtSource


def notes(scene: Scene, art: ArtSource) -> list[str]:
    """What of a scene has other keys than in it, or is sent as a picture; the film is not evaluated for it."""
    baked = baked_parts(scene, lambda part: None)
    its_art = Art(art, lambda drawing: b"", scene.length)
    result: list[str] = []
    for part in scene.parts:
        if part.id in baked and part.is_sent and part.drawings:
            result.append(
                f"{part.name} stands on the stage itself, with keys that follow it within {TOLERANCE['px']} px, "
                f"because {baked[part.id]}."
            )
        result += _of_channels(part, part.id in baked)
        if part.is_sent:
            result += _of_art(part, its_art)
    return result


def _of_channels(part: Part, is_placed: bool) -> Iterator[str]:
    driven = dict.fromkeys(link.onto for link in part.links if link.is_on and family_of(link.onto).is_everywhere)
    for name in driven:
        yield f"{CHANNELS[name].label} of {part.name} has keys that follow it, because a link drives it."
    for name, motion in part.channels.items():
        if not family_of(name).is_everywhere or name in driven or (is_placed and name != "opacity"):
            continue
        if is_baked(name, motion):
            yield f"{CHANNELS[name].label} of {part.name} has keys that follow it, because it cycles or sways."
    if "order" in part.channels:
        yield f"{part.name} is there once for each place that it has in the painting order."
    if shape_channels(part) and part.is_sent:
        yield f"The shape of {part.name} goes straight from key to key where its numbers ease apart."


def _of_art(part: Part, art: Art) -> Iterator[str]:
    for drawing in part.drawings:
        why = art.why_picture(drawing)
        if why is not None:
            shown = part.name if len(part.drawings) == 1 else f"{drawing.name} of {part.name}"
            yield f"{shown} is sent as a picture, because it has {why}."
