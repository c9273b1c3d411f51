"""Text whose font is not at hand: it shows as it was, but cannot be changed."""

from __future__ import annotations

from collections.abc import Iterator

from jointed_crane.core.checks.finding import Finding, Rig
from jointed_crane.core.model.forms import Text

NAME = "Font missing"


def find(rig: Rig) -> Iterator[Finding]:
    """Texts set in a typeface that is neither shipped nor stored."""
    for part in rig.scene.parts:
        for drawing in part.drawings:
            if isinstance(drawing.shape, Text) and drawing.shape.font not in rig.fonts:
                sentence = f"The font of {part.name} is not stored here; its words cannot be changed."
                yield Finding(NAME, part.id, sentence)
                break
