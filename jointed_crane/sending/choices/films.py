"""Scenes sent as films of constant rate."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.model.scene import NO_GROUND, Scene
from jointed_crane.formats.svg.stored_art import ArtSource
from jointed_crane.sending.choices.base import SentFrames
from jointed_crane.sending.film import Sent

#: What lies under a film that cannot be clear where the scene has no ground.
_PAPER = "#ffffff"


class Video(SentFrames):
    """A film of constant rate."""

    quality: Annotated[int, Field(ge=0, le=100, description="0 to 100")] = 85

    def _write(self, sent: Sent, container: Literal["webm", "mp4"], codec: Literal["vp9", "av1", "h264"]) -> None:
        film = self.film(sent)
        from jointed_crane.render.png import rgb
        from jointed_crane.render.video import video

        ground = None if self.see_through else rgb(_PAPER if sent.scene.ground == NO_GROUND else sent.scene.ground)
        video(film.frames(), film.count, film.size, film.rate, container, codec, self.quality, ground, sent.file)

    def notes(self, scene: Scene, art: ArtSource) -> list[str]:
        """What is done with odd sizes, and without a ground."""
        result = []
        width, height = self.size_for(scene)
        if width % 2 or height % 2:
            result.append(
                f"Films have even sizes: {width} x {height} px becomes {width + width % 2} x {height + height % 2} px, "
                "filled with the ground; nothing is stretched."
            )
        if scene.ground == NO_GROUND and not self.see_through:
            result.append("The scene has no ground: what is clear becomes white.")
        return result


class WebM(Video):
    """A film for browsers."""

    codec: Annotated[Literal["vp9", "av1"], Field(description="how frames are coded")] = "vp9"

    def write(self, sent: Sent) -> None:
        """A WebM film; RuleError where it is to be seen through and its codec cannot."""
        if self.codec == "av1" and self.see_through:
            raise RuleError("AV1 cannot be seen through. Nothing was sent; choose VP9, or send it over the ground.")
        self._write(sent, "webm", self.codec)


class Mp4(Video):
    """A film that plays nearly everywhere."""

    codec: Annotated[Literal["h264", "av1"], Field(description="how frames are coded")] = "h264"

    def write(self, sent: Sent) -> None:
        """An MP4 film; RuleError where it is to be seen through, which it cannot be."""
        if self.see_through:
            raise RuleError("An MP4 cannot be seen through. Nothing was sent; send WebM, or send it over the ground.")
        self._write(sent, "mp4", self.codec)
