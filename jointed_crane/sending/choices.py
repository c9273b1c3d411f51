"""What may be chosen of each way out, and how a scene is written as it is chosen.

Each loads what it writes with when it is asked, as commands are soon over.
"""

from __future__ import annotations

import zipfile
from collections.abc import Iterator
from fractions import Fraction
from typing import TYPE_CHECKING, Annotated, Literal

from pydantic import AfterValidator, BaseModel, ConfigDict, Field

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.basics.limits import LARGEST, LONGEST_NAME, MOST_FRAMES_SENT, MOST_RATE_SENT
from jointed_crane.core.model.scene import NO_GROUND, Scene
from jointed_crane.formats.excerpt import ensure_within
from jointed_crane.formats.svg_out.inlining import ArtSource
from jointed_crane.sending.film import Film, Sent, ensure_pictures, limb

#: What lies under a film that cannot be clear where the scene has no ground.
_PAPER = "#ffffff"
if TYPE_CHECKING:
    from jointed_crane.render.frames import Pixels

_Frame = Annotated[int, Field(gt=-LARGEST, lt=LARGEST)]


def _rate(words: str) -> str:
    """A rate as it is typed; ValueError where it is none that films have."""
    if not 1 <= Fraction(words) <= MOST_RATE_SENT:
        raise ValueError(f"a rate lies between 1 and {MOST_RATE_SENT}")
    return words


class WayChoices(BaseModel):
    """What may be chosen of a way: known names alone, and no value taken for one of another kind."""

    model_config = ConfigDict(extra="forbid", strict=True, frozen=True)

    def write(self, sent: Sent) -> None:
        """Write what is sent into its file. RuleError where it cannot be."""
        raise NotImplementedError

    def notes(self, scene: Scene) -> list[str]:
        """What of a scene cannot be carried as it is, and what is done instead, in sentences."""
        return []

    def name_for(self, scene: Scene) -> str:
        """What its file is called, without an ending."""
        return scene.name


class WholeScene(WayChoices):
    """Nothing is chosen."""

    def write(self, sent: Sent) -> None:
        """A zip of the scene and its art."""
        from jointed_crane.formats.bundle import bundle_bytes

        sent.file.write(bundle_bytes(sent.scene, sent.art))


class SentSpan(WayChoices):
    """The frames that are sent, both included; without them the whole scene."""

    first: Annotated[_Frame, Field(alias="from", description="the first frame")] = 0
    last: Annotated[_Frame | None, Field(alias="to", description="the last frame; that of the scene unless told")] = (
        None
    )

    def of(self, scene: Scene) -> tuple[int, int]:
        """The first and the last frame; RuleError where the scene has none such."""
        span = self.first, scene.length - 1 if self.last is None else self.last
        ensure_within(scene, *span)
        return span

    def name_for(self, scene: Scene) -> str:
        """The scene's name, with that of the span where it has one."""
        first, last = self.first, scene.length - 1 if self.last is None else self.last
        spans = {(marker.frame, marker.until): f"{scene.name} {marker.name}" for marker in scene.markers}
        return spans.get((float(first), float(last)), scene.name)


class SentPart(WayChoices):
    """What is sent of the parts; without a name all of them."""

    part: Annotated[
        str | None, Field(max_length=LONGEST_NAME, description="only the part of this name, with what hangs on it")
    ] = None


class AnimatedSvg(SentSpan, SentPart):
    """A drawing that moves."""

    def write(self, sent: Sent) -> None:
        """One animated SVG of the span."""
        from jointed_crane.formats.excerpt import excerpt
        from jointed_crane.formats.svg_out.animated import animated_svg

        only = limb(sent.scene, self.part)
        sent.file.write(animated_svg(excerpt(sent.scene, *self.of(sent.scene)), sent.art, only))

    def notes(self, scene: Scene) -> list[str]:
        """What is written frame by frame."""
        from jointed_crane.formats.svg_out.carrying import notes

        return notes(scene)


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


class SentPictures(SentPart):
    """Pictures of any size, over the ground or without it."""

    scale: Annotated[float, Field(gt=0, le=64, description="times the size of the stage")] = 1.0
    height: Annotated[
        int | None, Field(gt=0, le=32_000, description="how high they are, px, whatever the scale says")
    ] = None
    see_through: Annotated[bool, Field(alias="see-through", description="without the ground")] = False

    def size_for(self, scene: Scene, count: int = 1) -> tuple[int, int]:
        """Width and height, px; RuleError where one would be too large, or so many too much."""
        from jointed_crane.render.sizes import size_of

        return size_of(scene, self.scale if self.height is None else self.height / scene.height, count)


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


class SentFrames(SentSpan, SentPictures):
    """Frames that follow each other."""

    rate: Annotated[
        str | None,
        Field(pattern=r"^\d{1,6}(/[1-9]\d{0,5}|\.\d{1,3})?$", description="frames a second, such as 24 or 30000/1001"),
        AfterValidator(lambda words: words and _rate(words)),
    ] = None

    def film(self, sent: Sent) -> Film:
        """The film of what is sent; RuleError where it has no such frames or parts, or too many for their size."""
        ensure_pictures()
        first, last = self.of(sent.scene)
        rate = self.rate_for(sent.scene)
        step = sent.scene.rate / rate
        count = max(round((last - first + 1) / step), 1)
        if count > MOST_FRAMES_SENT:
            raise RuleError(
                f"{count} frames are too many; {MOST_FRAMES_SENT} can be sent at once. Nothing was sent; choose a span "
                "or a lower rate."
            )
        size = self.size_for(sent.scene, count)
        numbers = tuple(float(first + place * step) for place in range(count))
        return Film(sent, numbers, rate, size, self.see_through, limb(sent.scene, self.part))

    def rate_for(self, scene: Scene) -> Fraction:
        """How many frames are shown a second."""
        return scene.rate if self.rate is None else Fraction(self.rate)


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

    def notes(self, scene: Scene) -> list[str]:
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


class Video(SentFrames):
    """A film of constant rate."""

    quality: Annotated[int, Field(ge=0, le=100, description="0 to 100")] = 85

    def _write(self, sent: Sent, container: Literal["webm", "mp4"], codec: Literal["vp9", "av1", "h264"]) -> None:
        film = self.film(sent)
        from jointed_crane.render.video import rgb, video

        ground = None if self.see_through else rgb(_PAPER if sent.scene.ground == NO_GROUND else sent.scene.ground)
        video(film.frames(), film.count, film.size, film.rate, container, codec, self.quality, ground, sent.file)

    def notes(self, scene: Scene) -> list[str]:
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
