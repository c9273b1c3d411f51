"""What ways out have in common to be chosen: spans, parts, sizes, and frames that follow each other."""

from __future__ import annotations

from fractions import Fraction
from typing import Annotated

from pydantic import AfterValidator, BaseModel, ConfigDict, Field

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.basics.limits import LARGEST, LONGEST_NAME, MOST_FRAMES_SENT, MOST_RATE_SENT
from jointed_crane.core.model.scene import Scene
from jointed_crane.formats.excerpt import ensure_within
from jointed_crane.formats.svg.stored_art import ArtSource
from jointed_crane.sending.film import Film, Sent, ensure_pictures, limb

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

    def notes(self, scene: Scene, art: ArtSource) -> list[str]:
        """What of a scene cannot be carried as it is, and what is done instead, in sentences."""
        return []

    def name_for(self, scene: Scene) -> str:
        """What its file is called, without an ending."""
        return scene.name


class SentSpan(WayChoices):
    """The frames that are sent, both included; without them the whole scene."""

    first: Annotated[_Frame, Field(alias="from", description="the first frame")] = 0
    last: Annotated[_Frame | None, Field(alias="to", description="the last frame; that of the scene unless told")] = (
        None
    )

    def of(self, scene: Scene) -> tuple[int, int]:
        """The first and the last frame; RuleError where the scene has none such."""
        span = self._span(scene)
        ensure_within(scene, *span)
        return span

    def _span(self, scene: Scene) -> tuple[int, int]:
        return self.first, scene.length - 1 if self.last is None else self.last

    def name_for(self, scene: Scene) -> str:
        """The scene's name, with that of the span where it has one."""
        first, last = self._span(scene)
        spans = {(marker.frame, marker.until): f"{scene.name} {marker.name}" for marker in scene.markers}
        return spans.get((float(first), float(last)), scene.name)


class SentPart(WayChoices):
    """What is sent of the parts; without a name all of them."""

    part: Annotated[
        str | None, Field(max_length=LONGEST_NAME, description="only the part of this name, with what hangs on it")
    ] = None


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
