"""The ways out: the one table that command line, API, description and menus are made from."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.basics.limits import LARGEST
from jointed_crane.core.model.scene import Scene
from jointed_crane.formats.svg_out.inlining import ArtSource
from jointed_crane.sending import writers

_Frame = Annotated[int, Field(gt=-LARGEST, lt=LARGEST)]


class WayChoices(BaseModel):
    """What may be chosen of a way: known names alone, and no value taken for one of another kind."""

    model_config = ConfigDict(extra="forbid", strict=True, frozen=True)


class WholeScene(WayChoices):
    """Nothing is chosen."""


class SentSpan(WayChoices):
    """The frames that are sent, both included; without them the whole scene."""

    first: Annotated[_Frame, Field(alias="from", description="the first frame")] = 0
    last: Annotated[_Frame | None, Field(alias="to", description="the last frame; that of the scene unless told")] = (
        None
    )

    def of(self, scene: Scene) -> tuple[int, int]:
        """The first and the last frame."""
        return self.first, scene.length - 1 if self.last is None else self.last


class SentPictures(WayChoices):
    """Pictures of any size, over the ground or without it."""

    scale: Annotated[float, Field(gt=0, le=64, description="times the size of the stage")] = 1.0
    see_through: Annotated[bool, Field(alias="see-through", description="without the ground")] = False


class Still(SentPictures):
    """One frame as a picture."""

    frame: Annotated[float | None, Field(gt=-LARGEST, lt=LARGEST, description="the frame, whole or between two")] = 0.0


class Pictures(SentSpan, SentPictures):
    """Numbered pictures, one a frame."""

    pattern: Annotated[
        str,
        Field(pattern=r"^[\w .-]{0,60}#{1,9}[\w .-]{0,60}$", description="their names, # for each digit of the number"),
    ] = "frame-####"
    begin: Annotated[int, Field(ge=0, le=LARGEST, description="the number of the first picture")] = 0


class Loop(SentSpan, SentPictures):
    """A picture that moves by itself."""

    loops: Annotated[int, Field(ge=0, le=65_535, description="how often it plays; 0 is without end")] = 0


class Gif(Loop):
    """A picture of few colours that moves by itself."""

    palette: Annotated[Literal["each", "one"], Field(description="one palette for all frames, or one for each")] = (
        "each"
    )
    dither: Annotated[bool, Field(description="mix colours that are in no palette by grain")] = False
    matte: Annotated[
        str, Field(pattern=r"^#[0-9a-f]{6}$", description="the colour under soft edges of what is see-through")
    ] = "#ffffff"


class Webp(Loop):
    """A picture of all colours that moves by itself."""

    quality: Annotated[int, Field(ge=0, le=100, description="0 to 100")] = 85
    lossless: Annotated[bool, Field(description="as exact as the frames themselves")] = False


@dataclass(frozen=True)
class WayOut:
    """One way out of the app.

    Attributes
    ----------
    name : what it is called in commands and addresses
    words, use : what it is called in menus, and what it is good for
    ending : of its files
    choices : the model of what may be chosen
    write : makes the file of a scene, with its art, as chosen
    notes : sentences on what of a scene it cannot carry as it is, and what it does instead
    """

    name: str
    words: str
    use: str
    media_type: str
    ending: str
    choices: type[WayChoices]
    write: Callable[[Scene, ArtSource, WayChoices], bytes]
    notes: Callable[[Scene], list[str]] = lambda scene: []

    def chosen(self, given: Mapping[str, object]) -> WayChoices:
        """What is chosen, by the names of the fields; RuleError with a sentence where this way knows no such choice."""
        stray = next((name for name in given if name not in self.choices.model_fields), None)
        if stray is not None:
            known = ", ".join(self.choices.model_fields).replace("_", "-") or "nothing"
            raise RuleError(
                f"{stray.replace('_', '-').capitalize()} cannot be chosen for {self.name}; {known} can. Nothing was "
                "sent; leave it out."
            )
        try:
            return self.choices.model_validate(dict(given), by_name=True)
        except ValidationError as error:
            first = error.errors(include_url=False, include_context=False)[0]
            raise RuleError(f"{first['loc'][0]} cannot be taken: {first['msg'].lower()}. Nothing was sent.") from None

    def file_name(self, scene: Scene, choices: WayChoices) -> str:
        """What its file is called: by the scene, or by the span where it is one with a name."""
        name = scene.name
        if isinstance(choices, SentSpan):
            first, last = choices.of(scene)
            spans = {(marker.frame, marker.until): f"{name} {marker.name}" for marker in scene.markers}
            name = spans.get((float(first), float(last)), name)
        if isinstance(choices, Still):
            name = f"{name} at rest" if choices.frame is None else f"{name} {choices.frame:g}"
        return f"{name}.{self.ending}"


def _film(scene: Scene, art: ArtSource, choices: Pictures | Loop) -> writers.Film:
    return writers.Film(scene, art, choices.of(scene), choices.scale, choices.see_through)


def _pictures(scene: Scene, art: ArtSource, choices: WayChoices) -> bytes:
    assert isinstance(choices, Pictures)
    return _film(scene, art, choices).pictures(choices.pattern, choices.begin)


def _apng(scene: Scene, art: ArtSource, choices: WayChoices) -> bytes:
    assert isinstance(choices, Loop)
    return _film(scene, art, choices).apng(choices.loops)


def _webp(scene: Scene, art: ArtSource, choices: WayChoices) -> bytes:
    assert isinstance(choices, Webp)
    return _film(scene, art, choices).webp(choices.loops, None if choices.lossless else choices.quality)


def _gif(scene: Scene, art: ArtSource, choices: WayChoices) -> bytes:
    assert isinstance(choices, Gif)
    return _film(scene, art, choices).gif(choices.loops, choices.palette == "one", choices.dither, choices.matte)


def _svg(scene: Scene, art: ArtSource, choices: WayChoices) -> bytes:
    assert isinstance(choices, SentSpan)
    return writers.svg(scene, art, *choices.of(scene))


def _still(scene: Scene, art: ArtSource, choices: WayChoices) -> bytes:
    assert isinstance(choices, Still)
    return writers.still(scene, art, choices.frame, choices.scale, choices.see_through)


def _zip(scene: Scene, art: ArtSource, choices: WayChoices) -> bytes:
    return writers.bundle(scene, art)


WAYS: Mapping[str, WayOut] = {
    way.name: way
    for way in (
        WayOut(
            "svg", "Animated SVG", "plays in any browser", "image/svg+xml", "svg", SentSpan, _svg, writers.svg_notes
        ),
        WayOut("still", "Still picture", "PNG of the frame shown", "image/png", "png", Still, _still),
        WayOut("png", "Numbered pictures", "PNG, in a zip", "application/zip", "zip", Pictures, _pictures),
        WayOut("webp", "Animated WebP", "all colours, small", "image/webp", "webp", Webp, _webp),
        WayOut(
            "gif", "Animated GIF", "plays everywhere, 255 colours", "image/gif", "gif", Gif, _gif, writers.gif_notes
        ),
        WayOut("apng", "Animated PNG", "exact, large", "image/apng", "png", Loop, _apng),
        WayOut("zip", "Zip of the scene", "opens again", "application/zip", "zip", WholeScene, _zip),
    )
}
