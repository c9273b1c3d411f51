"""The ways out: the one table that command line, API, description and menus are made from."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from pydantic import ValidationError

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.model.scene import Scene
from jointed_crane.sending.choices.base import WayChoices
from jointed_crane.sending.choices.films import Mp4, WebM
from jointed_crane.sending.choices.pictures import Apng, Gif, Pictures, Sheet, Still, Webp
from jointed_crane.sending.choices.scenes import AnimatedSvg, MotionCsv, MotionJson, VectorAnimation, WholeScene


@dataclass(frozen=True)
class WayOut:
    """One way out of the app.

    Attributes
    ----------
    name : what it is called in commands and addresses
    words, use : what it is called in menus, and what it is good for
    ending : of its files
    choices : the model of what may be chosen, which writes the file
    is_quick : whether menus offer it as it is; all are on the page
    """

    name: str
    words: str
    use: str
    media_type: str
    ending: str
    choices: type[WayChoices]
    is_quick: bool = False

    def chosen(self, given: Mapping[str, object]) -> WayChoices:
        """What is chosen, by the names of the fields; RuleError with a sentence where this way knows no such choice."""
        stray = next((name for name in given if name not in self.choices.model_fields), None)
        if stray is not None:
            known = ", ".join(self.choices.model_fields).replace("_", "-") or "nothing"
            word = stray[:40].replace("_", "-").capitalize()
            raise RuleError(f"{word} cannot be chosen for {self.name}; {known} can. Nothing was sent; leave it out.")
        try:
            return self.choices.model_validate(dict(given), by_name=True)
        except ValidationError as error:
            first = error.errors(include_url=False, include_context=False)[0]
            name = str(first["loc"][0])
            if first["type"] == "string_pattern_mismatch":
                reason = f"it is to be {self.choices.model_fields[name].description}"
            else:
                reason = first["msg"].lower().removeprefix("value error, ")
            raise RuleError(f"{name} cannot be taken: {reason}. Nothing was sent.") from None

    def file_name(self, scene: Scene, choices: WayChoices) -> str:
        """What its file is called: by the scene, the span where it is one with a name, or the frame."""
        return f"{choices.name_for(scene)}.{self.ending}"


def way_named(name: str) -> WayOut:
    """The way out of this name; RuleError where there is none such."""
    if name not in WAYS:
        raise RuleError(f"There is no way out called {name!r}. Nothing was sent; {', '.join(WAYS)} are known.")
    return WAYS[name]


WAYS: Mapping[str, WayOut] = {
    way.name: way
    for way in (
        WayOut("svg", "Animated SVG", "plays in any browser", "image/svg+xml", "svg", AnimatedSvg, True),
        WayOut("webm", "WebM film", "for pages, see-through if wished", "video/webm", "webm", WebM),
        WayOut("mp4", "MP4 film", "plays nearly everywhere", "video/mp4", "mp4", Mp4),
        WayOut("webp", "Animated WebP", "all colours, small", "image/webp", "webp", Webp),
        WayOut("gif", "Animated GIF", "plays everywhere, 255 colours", "image/gif", "gif", Gif),
        WayOut("apng", "Animated PNG", "exact, large", "image/apng", "png", Apng),
        WayOut("still", "Still picture", "PNG of the frame shown", "image/png", "png", Still, True),
        WayOut("png", "Numbered pictures", "PNG, in a zip", "application/zip", "zip", Pictures),
        WayOut("sheet", "Sprite sheet", "PNG and JSON with pivots, in a zip", "application/zip", "zip", Sheet),
        WayOut(
            "lottie",
            "Vector animation",
            "Lottie JSON, for apps and pages",
            "application/json",
            "json",
            VectorAnimation,
        ),
        WayOut("motion-json", "Motion as JSON", "matrices by frame", "application/json", "json", MotionJson),
        WayOut("motion-csv", "Motion as a table", "CSV by frame and part", "text/csv", "csv", MotionCsv),
        WayOut("zip", "Zip of the scene", "opens again", "application/zip", "zip", WholeScene, True),
    )
}
