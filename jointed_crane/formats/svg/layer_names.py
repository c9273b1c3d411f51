"""What a layer is called: by the name it was given, else by what is seen of it: "Green shape, upper left"."""

from __future__ import annotations

import re
from collections.abc import Sequence
from functools import lru_cache

import numpy as np
import numpy.typing as npt
from lxml import etree
from PIL import ImageColor

from jointed_crane.core.geometry.coordinates import Bounds
from jointed_crane.core.outlines.patches import Patch, areas_inside
from jointed_crane.formats.svg.tags import LABEL, SVG, local_name

Floats = npt.NDArray[np.float64]
_KINDS = {
    "svg": "picture", "image": "picture", "text": "text", "rect": "rectangle", "circle": "circle",
    "ellipse": "ellipse", "line": "line", "polyline": "line",
}  # fmt: skip
#: Ids that drawing programs give of themselves: the element's own tag and a number.
_MADE_UP = re.compile(
    r"(?:g|a|svg|switch|use|image|text|path|rect|circle|ellipse|line|polyline|polygon|layer|group)?"
    r"[-_ .]?[0-9a-f]*\d[-_ .\d]*",
    re.I,
)
#: Colours by the words people use for them, each with some of its kind; the nearest names a fill. Chosen by eye.
_WORDS = {
    "black": ("#000000", "#18181c", "#2b2b2f"),
    "dark grey": ("#505050",),
    "grey": ("#808080", "#8a929a"),
    "light grey": ("#c4c4c4", "#d4d8dc"),
    "white": ("#ffffff", "#fafafa"),
    "red": ("#cd2d28", "#ff0000", "#e05a4e"),
    "dark red": ("#7a1c1c",),
    "orange": ("#e6822c", "#ffa500", "#f09a5a", "#e8956b", "#d2691e"),
    "yellow": ("#f0d246", "#ffff00", "#fff0a0"),
    "green": ("#46964a", "#008000", "#00b050", "#7ab648"),
    "dark green": ("#1f4d2b",),
    "light green": ("#aacd96", "#90ee90"),
    "olive": ("#808000", "#8a8a4a"),
    "teal": ("#147873", "#2a9d96"),
    "light blue": ("#a5c3dc", "#87ceeb", "#7fdbe6"),
    "blue": ("#3264be", "#0000ff", "#1e90ff", "#5a7fa8"),
    "dark blue": ("#1a2a5a", "#20303c"),
    "purple": ("#784696", "#800080", "#a040c0"),
    "lilac": ("#b9a0d6",),
    "pink": ("#eb96aa", "#ffc0cb", "#ff69b4"),
    "brown": ("#7d5529", "#8b5a2b", "#5a3a22", "#a0703c"),
    "beige": ("#e1cdaa", "#f5f0dc", "#d8bc94"),
}
_PLACES = (
    ("upper left", "top", "upper right"),
    ("left", "middle", "right"),
    ("lower left", "bottom", "lower right"),
)
#: What covers more of the page than this lies nowhere in particular.
_ALL_OVER = 0.6
_MOST_LETTERS = 40


def given_name(element: etree._Element) -> str:
    """The name somebody gave an element of a cleaned drawing: its label, its title or description, or an id that
    was not made up; else nothing.
    """
    label = element.get(LABEL)
    if label and label.strip():
        return " ".join(label.split())
    for tag in ("title", "desc") if len(element) else ():
        told = element.find(f"{{{SVG}}}{tag}")
        if told is not None and (told.text or "").strip():
            return " ".join(told.text.split())[:_MOST_LETTERS].strip()
    name = element.get("id", "")
    return "" if not name or _MADE_UP.fullmatch(name) else " ".join(name.replace("_", " ").split())


def layer_name(element: etree._Element, patches: Sequence[Patch], bounds: Bounds, page: tuple[float, float]) -> str:
    """The name a layer was given, else its words, or its colour, its kind and where on the page it lies.

    Parameters
    ----------
    patches, bounds : what it paints, px on the page
    page : width and height, px
    """
    given = given_name(element)
    words = " ".join("".join(element.itertext()).split()) if local_name(element) == "text" else ""
    if given or words:
        return given or words[:_MOST_LETTERS].strip()
    described = f"{_colour(patches)} {_KINDS.get(local_name(element), 'shape')}".strip()
    return f"{described[0].upper()}{described[1:]}, {_place(bounds, page)}"


def _place(bounds: Bounds, page: tuple[float, float]) -> str:
    left, top, right, bottom = bounds
    width, height = page
    if (right - left) * (bottom - top) > _ALL_OVER * width * height:
        return "all over"
    column, row = (
        min(max(int(3 * middle / size), 0), 2)
        for middle, size in (((left + right) / 2, width), ((top + bottom) / 2, height))
    )
    return _PLACES[row][column]


def _colour(patches: Sequence[Patch]) -> str:
    """A word for the colour that covers most of what is painted; nothing where no plain colour does."""
    painted = [(patch, rgb) for patch in patches if (rgb := _rgb(patch.paint))]
    if not painted:
        return ""
    distinct = list(dict.fromkeys(rgb for _, rgb in painted))
    word_of = dict(zip(distinct, _words(distinct), strict=True))
    words = [word_of[rgb] for _, rgb in painted]
    lines = [(points, place) for place, (patch, _) in enumerate(painted) if not patch.stroke for points in patch.lines]
    covered = np.zeros(len(painted))  # strokes cover little; they count where nothing is filled
    if lines:
        np.add.at(covered, [place for _, place in lines], areas_inside([points for points, _ in lines]))
        covered *= np.abs(np.linalg.det(np.stack([patch.matrix[:2, :2] for patch, _ in painted])))
    sums = np.bincount(words, covered, len(_NAMES))
    return _NAMES[max(dict.fromkeys(words), key=sums.__getitem__)]


@lru_cache(maxsize=4096)
def _rgb(paint: str) -> tuple[int, ...] | None:
    """Red, green and blue of a plain colour that shows; None of anything else."""
    try:
        red, green, blue, *alpha = ImageColor.getrgb(paint)
    except ValueError:
        return None
    return (red, green, blue) if not alpha or alpha[0] > 0 else None


def _oklab(colours: npt.ArrayLike) -> Floats:
    """sRGB from 0 to 255, shape (n, 3), as Oklab, in which near colours look alike (CSS Color 4, section 10.2 and its
    sample code; the numbers are from memory, and tested against the browser's).
    """
    share = np.asarray(colours, dtype=np.float64) / 255
    linear = np.where(share <= 0.04045, share / 12.92, ((share + 0.055) / 1.055) ** 2.4)
    cones = linear @ np.array(
        [
            (0.4122214708, 0.2119034982, 0.0883024619),
            (0.5363325363, 0.6806995451, 0.2817188376),
            (0.0514459929, 0.1073969566, 0.6299787005),
        ]
    )
    result: Floats = np.cbrt(cones) @ np.array(
        [
            (0.2104542553, 1.9779984951, 0.0259040371),
            (0.7936177850, -2.4285922050, 0.7827717662),
            (-0.0040720468, 0.4505937099, -0.8086757660),
        ]
    )
    return result


_NAMES = list(_WORDS)
_KNOWN = _oklab([ImageColor.getrgb(one) for kind in _WORDS.values() for one in kind])
_WORD_OF_KNOWN = [place for place, kind in enumerate(_WORDS.values()) for _ in kind]
#: Hue tells more than lightness.
_WEIGHTS = np.array([1.0, 2.0, 2.0])


def _words(colours: Sequence[tuple[int, ...]]) -> list[int]:
    """For each of so many colours the place of its word."""
    away = (_KNOWN - _oklab(colours)[:, None]) * _WEIGHTS
    return [_WORD_OF_KNOWN[nearest] for nearest in np.argmin((away**2).sum(axis=-1), axis=1).tolist()]
