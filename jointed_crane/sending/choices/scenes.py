"""Scenes sent without their frames being drawn: as drawings that move, as tables, as zips."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated, Literal

from pydantic import Field

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.model.scene import Drawing, Scene
from jointed_crane.core.viewing.cameras import is_seen_in_depth
from jointed_crane.formats.svg.stored_art import ArtSource
from jointed_crane.sending.choices.base import SentPart, SentSpan, WayChoices
from jointed_crane.sending.film import Sent, ensure_pictures, limb

#: Art that only a picture can tell has so many px to each of its own.
_PICTURE_SCALE = 2.0


def _pictures_of(sent: Sent) -> Callable[[Drawing], bytes]:
    """What draws art as a PNG that fills its box."""

    def as_picture(drawing: Drawing) -> bytes:
        ensure_pictures()
        from jointed_crane.render.art_pictures import ArtPictures

        return ArtPictures(sent.art).png(drawing, _PICTURE_SCALE)

    return as_picture


class WholeScene(WayChoices):
    """Nothing is chosen."""

    def write(self, sent: Sent) -> None:
        """A zip of the scene and its art."""
        from jointed_crane.formats.bundle import bundle_bytes

        sent.file.write(bundle_bytes(sent.scene, sent.art))


class AnimatedSvg(SentSpan, SentPart):
    """A drawing that moves."""

    def write(self, sent: Sent) -> None:
        """One animated SVG of the span."""
        from jointed_crane.formats.excerpt import excerpt
        from jointed_crane.formats.svg_out.animated import animated_svg

        only = limb(sent.scene, self.part)
        scene = excerpt(sent.scene, *self.of(sent.scene))
        sent.file.write(animated_svg(scene, sent.art, only, _pictures_of(sent)))

    def notes(self, scene: Scene, art: ArtSource) -> list[str]:
        """What is written frame by frame."""
        from jointed_crane.formats.svg_out.carrying import notes

        return notes(scene, art)


class VectorAnimation(SentSpan, SentPart):
    """A document of layers with keys of their own."""

    def write(self, sent: Sent) -> None:
        """One vector animation of the span."""
        from jointed_crane.formats.excerpt import excerpt
        from jointed_crane.formats.lottie_out.animated import lottie_bytes

        scene = excerpt(sent.scene, *self.of(sent.scene))
        if is_seen_in_depth(scene):
            raise RuleError(
                "The scene has depth, which layers of a vector animation cannot tell. Nothing was sent; "
                "send an animated SVG or a film, or turn Depth off."
            )
        sent.file.write(lottie_bytes(scene, sent.art, _pictures_of(sent), limb(sent.scene, self.part)))

    def notes(self, scene: Scene, art: ArtSource) -> list[str]:
        """What has other keys than in the scene, and what is left out."""
        from jointed_crane.formats.lottie_out.carrying import notes

        return notes(scene, art)


class Motion(SentSpan):
    """Where every part is at each frame."""

    what: Annotated[
        Literal["matrices", "pivots"],
        Field(description="the matrix of each part on the stage, or the place of its pivot alone"),
    ] = "matrices"


class MotionJson(Motion):
    """Where every part is at each frame, as JSON."""

    def write(self, sent: Sent) -> None:
        """One JSON document, frame by frame."""
        from jointed_crane.formats.tables.motion import write_json

        write_json(sent.scene, self.of(sent.scene), self.what, sent.file)


class MotionCsv(Motion):
    """Where every part is at each frame, as a table."""

    def write(self, sent: Sent) -> None:
        """A line for each part at each frame."""
        from jointed_crane.formats.tables.motion import write_csv

        write_csv(sent.scene, self.of(sent.scene), self.what, sent.file)
