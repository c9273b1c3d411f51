"""Where a walk through a drawing is: the inherited style, and the viewport that lengths are of."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

from lxml import etree

from jointed_crane.formats.svg.styles import own_style
from jointed_crane.formats.svg.viewports import diagonal, geometry, length

#: An element's own declarations, attributes and style.
Own = Mapping[str, str]

_INHERITED = {
    "clip-rule", "color", "fill", "fill-opacity", "fill-rule", "font-size", "image-rendering", "paint-order", "stroke",
    "stroke-dasharray", "stroke-dashoffset", "stroke-linecap", "stroke-linejoin", "stroke-miterlimit",
    "stroke-opacity", "stroke-width", "visibility", "marker-start", "marker-mid", "marker-end",
}  # fmt: skip
_PLACES = ("x", "y", "width", "height", "rx", "ry", "cx", "cy", "r", "x1", "y1", "x2", "y2")
#: What is inherited at the root, where it matters.
INITIAL = {"fill": "black", "stroke": "none", "color": "black"}


@dataclass(frozen=True)
class Context:
    """The inherited style, the size that percentages are of, px, and whether what is drawn is a clip: its insides,
    whatever their paint.
    """

    style: Mapping[str, str]
    size: tuple[float, float]
    is_clip: bool = False

    def inside(self, element: etree._Element) -> tuple[dict[str, str], Context]:
        """An element's own declarations, and the context of what is in it."""
        own = {**element.attrib, **own_style(element)}
        inherited = {name: value for name, value in own.items() if name in _INHERITED and value != "inherit"}
        return own, replace(self, style={**self.style, **inherited}) if inherited else self

    @property
    def is_visible(self) -> bool:
        """Whether what is here shows."""
        return self.style.get("visibility", "visible") == "visible"

    def px(self, text: str | None, default: float = 0.0) -> float:
        """A length of a stroke in px; percentages are of the viewport's diagonal (SVG 2, 8.9)."""
        return length(text, diagonal(self.size), default, self._font_size)

    def places(self, own: Own) -> dict[str, float]:
        """All geometry properties in user px; radii that are not said are below nothing."""
        unsaid = {"rx": -1.0, "ry": -1.0}
        return {
            name: geometry(name, own.get(name), self.size, unsaid.get(name, 0.0), self._font_size) for name in _PLACES
        }

    @property
    def _font_size(self) -> float:
        return length(self.style.get("font-size"), 16.0, 16.0)


def share(text: str | None, default: float = 1.0) -> float:
    """A number from 0 to 1, or a percentage."""
    return min(max(length(text, 1.0, default), 0.0), 1.0)
