"""What makes the files that are sent. Each loads what it writes with when it is asked, as commands are soon over."""

from __future__ import annotations

import importlib
from collections.abc import Iterator
from dataclasses import dataclass
from typing import TYPE_CHECKING

from jointed_crane.core.basics import progress
from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.model.scene import Scene
from jointed_crane.formats.excerpt import ensure_within
from jointed_crane.formats.svg_out.inlining import ArtSource

if TYPE_CHECKING:
    from jointed_crane.render.frames import Pixels


def svg(scene: Scene, art: ArtSource, first: int, last: int) -> bytes:
    """One animated SVG of the frames from first to last, both included."""
    from jointed_crane.formats.excerpt import excerpt
    from jointed_crane.formats.svg_out.animated import animated_svg

    return animated_svg(excerpt(scene, first, last), art)


def svg_notes(scene: Scene) -> list[str]:
    """What an animated SVG of the scene cannot carry as it is."""
    from jointed_crane.formats.svg_out.carrying import notes

    return notes(scene)


def ensure_pictures() -> None:
    """RuleError where frames cannot be drawn on this machine, for want of a library of the system."""
    try:
        importlib.import_module("skia")
    except ImportError as error:
        raise RuleError(
            f"Pictures cannot be drawn here: {error}. Nothing was sent; install libgl1 and libegl1, as Debian calls "
            "them, or send an SVG."
        ) from None


def still(scene: Scene, art: ArtSource, frame: float | None, scale: float, see_through: bool) -> bytes:
    """One frame as a PNG of straight alpha, marked sRGB. RuleError where it would be too large."""
    ensure_pictures()
    from jointed_crane.render.frames import frame as drawn
    from jointed_crane.render.frames import size_of
    from jointed_crane.render.png import png

    return png(drawn(scene, frame, art, size_of(scene, scale), see_through))


@dataclass(frozen=True)
class Film:
    """Frames of a scene from the first to the last, both included, drawn one after the other as they are written."""

    scene: Scene
    art: ArtSource
    span: tuple[int, int]
    scale: float
    see_through: bool

    def __post_init__(self) -> None:
        ensure_pictures()

    def pictures(self, pattern: str, begin: int) -> bytes:
        """A zip of numbered PNGs."""
        from jointed_crane.render.png import numbered

        return numbered(self._frames(), pattern, begin)

    def apng(self, loops: int) -> bytes:
        """An animated PNG."""
        from jointed_crane.render.png import animated

        return animated(self._frames(), self._count, self.scene.rate, loops)

    def webp(self, loops: int, quality: int | None) -> bytes:
        """An animated WebP, lossless without a quality."""
        from jointed_crane.render.loops import webp

        return webp(self._frames(), self._count, self.scene.rate, loops, quality)

    def gif(self, loops: int, one_palette: bool, dither: bool, matte: str) -> bytes:
        """A GIF."""
        from jointed_crane.render.loops import gif

        return gif(self._frames(), self._count, self.scene.rate, loops, one_palette, dither, matte)

    @property
    def _count(self) -> int:
        return self.span[1] - self.span[0] + 1

    def _frames(self) -> Iterator[Pixels]:
        """The frames, telling how far it has come. RuleError where there are none such, or too many for their size."""
        from jointed_crane.render.frames import Renderer, size_of

        first, last = self.span
        ensure_within(self.scene, first, last)
        renderer = Renderer(self.scene, self.art, size_of(self.scene, self.scale, self._count), self.see_through)
        for done, pixels in enumerate(renderer.frames(range(first, last + 1)), start=1):
            progress.tell(done, self._count, "frames")
            yield pixels


def gif_notes(scene: Scene) -> list[str]:
    """What a GIF of the scene cannot carry as it is."""
    exact = 100 % scene.rate == 0
    return (
        []
        if exact
        else [f"A GIF counts in hundredths of a second: frames of {scene.rate} a second are shown unevenly."]
    )


def bundle(scene: Scene, art: ArtSource) -> bytes:
    """A zip of the scene and its art."""
    from jointed_crane.formats.bundle import bundle_bytes

    return bundle_bytes(scene, art)
