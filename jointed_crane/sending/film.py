"""What is sent, and the film of it: frames that are drawn one after the other as they are written."""

from __future__ import annotations

import importlib
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from fractions import Fraction
from typing import TYPE_CHECKING, BinaryIO

from jointed_crane.core.basics import progress
from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.hierarchy.tree import with_descendants
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.formats.svg.stored_art import ArtSource

if TYPE_CHECKING:
    from jointed_crane.render.frames import Pixels


@dataclass(frozen=True)
class Sent:
    """What is sent, and the file that it is written into.

    Attributes
    ----------
    file : open for writing bytes, with a place that can be sought
    drawn : gives frames by their places in the film, where somebody has drawn them already
    """

    scene: Scene
    art: ArtSource
    file: BinaryIO
    drawn: Callable[[int], Pixels] | None = None


@dataclass(frozen=True)
class Film:
    """Frames of a scene.

    Attributes
    ----------
    numbers : the frames of the scene that it shows, whole or between two
    rate : how many it shows a second
    size : width and height, px
    only : ids of the parts that are drawn, None for all
    """

    sent: Sent
    numbers: tuple[float, ...]
    rate: Fraction
    size: tuple[int, int]
    see_through: bool
    only: frozenset[str] | None

    @property
    def count(self) -> int:
        """How many frames it has."""
        return len(self.numbers)

    def frames(self, first: int = 0) -> Iterator[Pixels]:
        """The frames from a place on, telling how far it has come."""
        for place, pixels in enumerate(self._pixels(first), start=first + 1):
            yield pixels
            progress.tell(place, self.count, "frames")

    def _pixels(self, first: int) -> Iterator[Pixels]:
        if self.sent.drawn is not None:
            yield from map(self.sent.drawn, range(first, self.count))
            return
        ensure_pictures()
        from jointed_crane.render.frames import Renderer

        renderer = Renderer(self.sent.scene, self.sent.art, self.size, self.see_through, self.only)
        yield from renderer.frames(self.numbers[first:])


def ensure_pictures() -> None:
    """RuleError where frames cannot be drawn on this machine, for want of a library of the system."""
    try:
        importlib.import_module("skia")
    except ImportError as error:
        raise RuleError(
            f"Pictures cannot be drawn here: {error}. Nothing was sent; install libgl1 and libegl1, as Debian calls "
            "them, or send an SVG."
        ) from None


def limb(scene: Scene, name: str | None) -> frozenset[str] | None:
    """Ids of a part and of what hangs on it, by its name; None for all parts. RuleError where there is none such."""
    if name is None:
        return None
    known = part_named(scene, name)
    if known is None:
        raise RuleError(f"{scene.name} has no part called {name!r}. Nothing was sent; give the name of one.")
    return frozenset(with_descendants(scene, [known.id]))


def part_named(scene: Scene, name: str) -> Part | None:
    """The part of this name, or of this id; None where there is none such."""
    return next((part for part in scene.parts if name in (part.name, part.id)), None)
