"""What sending would come to, foretold from a few frames that are drawn and written."""

from __future__ import annotations

import io
import os
import time
from dataclasses import dataclass, replace
from math import ceil

from jointed_crane.core.model.scene import Scene
from jointed_crane.formats.svg.stored_art import ArtSource
from jointed_crane.sending.bounds import DRAWING
from jointed_crane.sending.choices.base import SentFrames, SentPictures, WayChoices
from jointed_crane.sending.film import Sent

#: Frames that are written to see what each one more takes.
_TRIED = 3


@dataclass(frozen=True)
class Forecast:
    """What sending would come to.

    Attributes
    ----------
    frames : how many; 0 where it is no film
    seconds : how long it plays
    width, height : px; 0 where it is no picture
    size : of the file, bytes, about
    takes : how long sending takes here, s, about
    notes : what cannot be carried as it is, in sentences
    """

    frames: int
    seconds: float
    width: int
    height: int
    size: int
    takes: float
    notes: tuple[str, ...] = ()


def forecast(scene: Scene, art: ArtSource, choices: WayChoices) -> Forecast:
    """Draw and write the middle of what is chosen, once with one frame and once with some; the rest is taken to be like
    it. What is no film is written whole. RuleError where it cannot be sent.
    """
    notes = tuple(choices.notes(scene, art))
    if not isinstance(choices, SentFrames):
        width, height = choices.size_for(scene) if isinstance(choices, SentPictures) else (0, 0)
        takes, size = _written(Sent(scene, art, io.BytesIO()), choices)
        return Forecast(0, 0.0, width, height, size, takes, notes)
    film = choices.film(Sent(scene, art, io.BytesIO()))
    first, last = choices.of(scene)
    steps = ceil(_TRIED * scene.rate / film.rate)
    begin = max(first, min((first + last) // 2, last + 1 - steps))
    few = choices.model_copy(update={"first": begin, "last": min(begin + steps - 1, last)})
    begun = time.perf_counter()
    pixels = list(few.film(Sent(scene, art, io.BytesIO())).frames())
    drawing = (time.perf_counter() - begun) / len(pixels)
    sent = Sent(scene, art, io.BytesIO(), lambda place: pixels[place])
    takes, size = _written(sent, few)
    if len(pixels) > 1:
        one = choices.model_copy(update={"first": begin, "last": begin, "rate": str(scene.rate)})
        least, smallest = _written(replace(sent, file=io.BytesIO()), one)
        more = (film.count - 1) / (len(pixels) - 1)
        takes, size = least + max(takes - least, 0.0) * more, round(smallest + max(size - smallest, 0) * more)
    hands = min(os.cpu_count() or 1, DRAWING.at_once)
    takes = max(takes, (takes + drawing * film.count) / hands)
    return Forecast(film.count, float(film.count / film.rate), *film.size, size, takes, notes)


def _written(sent: Sent, choices: WayChoices) -> tuple[float, int]:
    """How long it takes to write, s, and how large it is, bytes."""
    begun = time.perf_counter()
    choices.write(sent)
    return time.perf_counter() - begun, sent.file.seek(0, io.SEEK_END)
