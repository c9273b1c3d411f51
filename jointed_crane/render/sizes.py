"""How large frames are, within what may be sent."""

from __future__ import annotations

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.basics.limits import MOST_FILM_PIXELS, MOST_PIXELS_SENT
from jointed_crane.core.model.scene import Scene


def size_of(scene: Scene, scale: float, count: int = 1) -> tuple[int, int]:
    """Width and height of a scene's frames at so many times its stage's size, px. RuleError where one of them would be
    too large, or so many too much.
    """
    width, height = max(round(scene.width * scale), 1), max(round(scene.height * scale), 1)
    if width * height > MOST_PIXELS_SENT:
        raise RuleError(
            f"A picture of {width} x {height} px is too large; {MOST_PIXELS_SENT // 10**6} million pixels is the most. "
            "Nothing was sent; choose a smaller scale."
        )
    if width * height * count > MOST_FILM_PIXELS:
        raise RuleError(
            f"{count} pictures of {width} x {height} px are too many; {MOST_FILM_PIXELS // (width * height)} can be "
            "sent at once. Nothing was sent; choose a span or a smaller scale."
        )
    return width, height
