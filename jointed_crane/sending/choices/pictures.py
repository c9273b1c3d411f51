"""Scenes sent as pictures: one, numbered ones, all on a sheet, and such that move by themselves."""

from __future__ import annotations

import zipfile
from collections.abc import Iterator
from typing import TYPE_CHECKING, Annotated, Literal

from pydantic import Field

from jointed_crane.core.basics.limits import LARGEST, LONGEST_NAME
from jointed_crane.core.model.scene import Scene
from jointed_crane.formats.svg.stored_art import ArtSource
from jointed_crane.sending.choices.base import SentFrames, SentPictures
from jointed_crane.sending.film import Sent, ensure_pictures, limb

if TYPE_CHECKING:
    from jointed_crane.render.frames import Pixels


class Still(SentPictures):
    """One frame as a picture."""

    frame: Annotated[float | None, Field(gt=-LARGEST, lt=LARGEST, description="the frame, whole or between two")] = 0.0

    def write(self, sent: Sent) -> None:
        """One frame as a PNG of straight alpha, marked sRGB."""
        pixels = self.pixels(sent.scene, sent.art)
        from jointed_crane.render.png import png

        sent.file.write(png(pixels))

    def pixels(self, scene: Scene, art: ArtSource) -> Pixels:
        """The frame, shape (height, width, 4), premultiplied. RuleError where it would be too large."""
        ensure_pictures()
        from jointed_crane.core.evaluate.pose_at_frame import pose_at
        from jointed_crane.render.frames import Renderer

        renderer = Renderer(scene, art, self.size_for(scene), self.see_through, limb(scene, self.part))
        return next(renderer.of_pose(pose_at(scene, self.frame)))

    def name_for(self, scene: Scene) -> str:
        """The scene's name and the frame."""
        return f"{scene.name} at rest" if self.frame is None else f"{scene.name} {self.frame:g}"


class Pictures(SentFrames):
    """Numbered pictures, one a frame."""

    pattern: Annotated[
        str,
        Field(
            pattern=r"^[\w .-]{0,60}#{1,9}[\w .-]{0,60}$",
            description="their names, # for each digit, such as frame-####",
        ),
    ] = "frame-####"
    begin: Annotated[int, Field(ge=0, le=LARGEST, description="the number of the first picture")] = 0

    def write(self, sent: Sent) -> None:
        """A zip of numbered PNGs."""
        with zipfile.ZipFile(sent.file, "w", zipfile.ZIP_STORED) as archive:  # they are as small as they can be already
            for name, picture in self.pictures(sent):
                archive.writestr(zipfile.ZipInfo(name), picture)

    def pictures(self, sent: Sent) -> Iterator[tuple[str, bytes]]:
        """The name of each picture and its PNG, one after the other."""
        film = self.film(sent)
        from jointed_crane.render.png import png

        digits = self.pattern.count("#")
        for number, pixels in enumerate(film.frames(), start=self.begin):
            name = self.pattern.replace("#" * digits, f"{number:0{digits}d}")
            yield f"{name}.png", png(pixels)


class Sheet(SentFrames):
    """All frames on one picture, with a table of where each is."""

    columns: Annotated[int, Field(ge=0, le=10_000, description="cells in a row; 0 is as square as can be")] = 0
    padding: Annotated[int, Field(ge=0, le=1_000, description="clear px round each cell")] = 1
    trimmed: Annotated[bool, Field(description="cut cells to what is seen")] = False
    pivot: Annotated[
        str | None,
        Field(max_length=LONGEST_NAME, description="part or mark that is each frame's pivot; else the stage's middle"),
    ] = None

    def write(self, sent: Sent) -> None:
        """A zip of the picture and a JSON that says frame, cell, pivot and duration."""
        film = self.film(sent)
        from jointed_crane.render.sheets import Cells, FrameFacts, write_sheet
        from jointed_crane.sending.pivots import pivots_of

        facts = [FrameFacts(*fact) for fact in zip(film.numbers, pivots_of(film, self.pivot), strict=True)]
        write_sheet(film.frames(), facts, film.rate, Cells(self.columns, self.padding, self.trimmed), sent.file)


class Loop(SentFrames):
    """A picture that moves by itself."""

    loops: Annotated[int, Field(ge=0, le=65_535, description="how often it plays; 0 is without end")] = 0


class Apng(Loop):
    """A picture of all colours that moves by itself, exact."""

    def write(self, sent: Sent) -> None:
        """An animated PNG."""
        film = self.film(sent)
        from jointed_crane.render.png import animated

        animated(film.frames(), film.count, film.rate, self.loops, sent.file)


class Gif(Loop):
    """A picture of few colours that moves by itself."""

    palette: Annotated[Literal["each", "one"], Field(description="one palette for all frames, or one for each")] = (
        "each"
    )
    dither: Annotated[bool, Field(description="mix colours that are in no palette by grain")] = False
    matte: Annotated[
        str,
        Field(pattern=r"^#[0-9a-f]{6}$", description="the colour under soft edges, such as #f4efe4"),
    ] = "#ffffff"

    def write(self, sent: Sent) -> None:
        """A GIF."""
        film = self.film(sent)
        from jointed_crane.render.loops import gif

        gif(film.frames(), film.count, film.rate, self.loops, self.palette == "one", self.dither, self.matte, sent.file)

    def notes(self, scene: Scene, art: ArtSource) -> list[str]:
        """Whether its frames can be even, and its edges soft."""
        rate = self.rate_for(scene)
        result = []
        if 100 % rate:
            result.append(f"A GIF counts in hundredths of a second: frames of {rate} a second are shown unevenly.")
        if rate > 50:
            result.append("Most programs show a GIF's frames for two hundredths of a second at the least.")
        if self.see_through:
            result.append(f"A GIF has no soft edges: what is half clear lies over {self.matte}.")
        return result


class Webp(Loop):
    """A picture of all colours that moves by itself."""

    quality: Annotated[int, Field(ge=0, le=100, description="0 to 100")] = 85
    lossless: Annotated[bool, Field(description="as exact as the frames themselves")] = False

    def write(self, sent: Sent) -> None:
        """An animated WebP."""
        film = self.film(sent)
        from jointed_crane.render.loops import webp

        webp(film.frames(), film.count, film.rate, self.loops, None if self.lossless else self.quality, sent.file)
