"""Lines of text as outlines: shaped by HarfBuzz with the font's own advances and kerning, drawn from the font file."""

from __future__ import annotations

import io
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field, replace
from functools import lru_cache
from importlib.resources import files

import uharfbuzz
from fontTools.ttLib import TTFont

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.basics.limits import MOST_FONT_BYTES
from jointed_crane.core.edits import Edit
from jointed_crane.core.geometry.coordinates import Point
from jointed_crane.core.model.forms import Contour, Node, Text
from jointed_crane.formats.artwork import ArtworkError

#: The media type under which fonts are stored (RFC 8081).
FONT_TYPE = "font/sfnt"
_FOLDER = files("jointed_crane") / "web" / "static" / "fonts"
#: Shipped typefaces: the files that make one up, by what letters they hold, and the weight of the variable font.
SHIPPED: dict[str, tuple[tuple[str, str], float]] = {
    f"{name}{suffix}": ((f"{stem}-latin.woff2", f"{stem}-latin-ext.woff2"), weight)
    for name, stem in (("Hanken Grotesk", "hanken-grotesk"), ("Bricolage Grotesque", "bricolage-grotesque"))
    for suffix, weight in (("", 400.0), (" Bold", 700.0))
}

#: Fetches an uploaded font by its content hash: media type and bytes; RuleError where it is not stored.
FontSource = Callable[[str], tuple[str, bytes]]
#: Font, glyph, offset and advance in px.
_Glyph = tuple[uharfbuzz.Font, int, Point, float]


@dataclass
class _Outline:
    """Collects a glyph's drawing commands as contours of nodes, in px, y down."""

    scale: float
    shift: Point
    contours: list[list[Node]] = field(default_factory=list)

    def _px(self, point: tuple[float, float]) -> Point:
        return (self.shift[0] + point[0] * self.scale, self.shift[1] - point[1] * self.scale)

    def moveTo(self, point: tuple[float, float]) -> None:  # noqa: N802 - the names of the font library's pens
        self.contours.append([Node(self._px(point))])

    def lineTo(self, point: tuple[float, float]) -> None:  # noqa: N802
        self.contours[-1].append(Node(self._px(point)))

    def curveTo(self, *points: tuple[float, float]) -> None:  # noqa: N802
        first, second, end = map(self._px, points)
        before = self.contours[-1][-1]
        self.contours[-1][-1] = replace(before, handle_out=_offset(before.point, first))
        self.contours[-1].append(Node(end, _offset(end, second)))

    def qCurveTo(self, *points: tuple[float, float]) -> None:  # noqa: N802
        """A quadratic as the same cubic: handles reach two thirds of the way to its control point."""
        control, end = map(self._px, points)
        before = self.contours[-1][-1]
        out, back = _offset(before.point, control), _offset(end, control)
        self.contours[-1][-1] = replace(before, handle_out=(2 / 3 * out[0], 2 / 3 * out[1]))
        self.contours[-1].append(Node(end, (2 / 3 * back[0], 2 / 3 * back[1])))

    def closePath(self) -> None:  # noqa: N802
        nodes = self.contours[-1]
        if len(nodes) > 1 and max(map(abs, _offset(nodes[0].point, nodes[-1].point))) < 1e-9:
            nodes[0] = replace(nodes[0], handle_in=nodes.pop().handle_in)

    def endPath(self) -> None:  # noqa: N802
        """Open contours do not occur in fonts; nothing to do."""


def _offset(start: Point, end: Point) -> Point:
    return (end[0] - start[0], end[1] - start[1])


@lru_cache(maxsize=16)
def _face(data: bytes) -> uharfbuzz.Face:
    return uharfbuzz.Face(data)


@lru_cache(maxsize=16)
def _plain_font(data: bytes) -> bytes:
    """A font file's bytes without the compression of the web formats; ArtworkError where it is no font."""
    try:
        font = TTFont(io.BytesIO(data), lazy=False)
        font.flavor = None
        stream = io.BytesIO()
        font.save(stream)
    except Exception as error:  # a damaged table can raise whatever its reader happens to stumble over
        raise ArtworkError(
            f"The file is not a font that can be read ({type(error).__name__}). Nothing was stored; choose another "
            "TTF, OTF or WOFF2 file."
        ) from None
    return stream.getvalue()


def _fonts(name: str, uploaded: FontSource) -> list[uharfbuzz.Font]:
    if name in SHIPPED:
        names, weight = SHIPPED[name]
        result = [uharfbuzz.Font(_face(_plain_font((_FOLDER / file).read_bytes()))) for file in names]
        for font in result:
            font.set_variations({"wght": weight})
        return result
    media_type, data = uploaded(name)
    if media_type != FONT_TYPE:
        raise no_typeface(name)
    return [uharfbuzz.Font(_face(_plain_font(data)))]


def font_name(data: bytes, file_name: str) -> str:
    """The full name that a font file gives itself. ArtworkError where it is no font or too large."""
    if len(data) > MOST_FONT_BYTES:
        raise ArtworkError(f"{file_name} has {len(data) / 1e6:.0f} MB; a font may have {MOST_FONT_BYTES // 10**6} MB.")
    font = TTFont(io.BytesIO(_plain_font(data)))
    if not {"head", "hhea", "hmtx", "maxp", "cmap"} <= set(font.keys()):
        raise ArtworkError(f"{file_name} is a font without letters. Nothing was stored.")
    names = font.get("name")
    result = (names.getDebugName(4) or names.getDebugName(1) if names else None) or file_name
    return " ".join(str(result).split())[:100]


def lettered(text: Text, uploaded: FontSource) -> Text:
    """The text with its outlines: one contour a stroke of a letter, px, y down, baselines `leading` apart.

    Letters stand at the font's own advances with its kerning, plus the tracking. A letter the font lacks shows as its
    box for missing letters. RuleError where there is no such typeface.
    """
    fonts = _fonts(text.font, uploaded)
    contours: list[Contour] = []
    for number, line in enumerate(text.words.splitlines()):
        contours += _line(line, text, fonts, number * text.leading * text.size)
    return replace(text, contours=tuple(contours))


def line_width(line: str, text: Text, uploaded: FontSource) -> float:
    """How far a line advances, px, the space behind its last letter not counted."""
    return _width(list(_glyphs(line, text, _fonts(text.font, uploaded))), text)


def _width(glyphs: list[_Glyph], text: Text) -> float:
    return sum(advance for *_, advance in glyphs) - (text.tracking * text.size / 1000 if glyphs else 0.0)


def _line(line: str, text: Text, fonts: list[uharfbuzz.Font], baseline: float) -> list[Contour]:
    glyphs = list(_glyphs(line, text, fonts))
    width = _width(glyphs, text)
    x = {"start": 0.0, "middle": -width / 2, "end": -width}[text.alignment]
    contours: list[Contour] = []
    for font, glyph, (dx, dy), advance in glyphs:
        outline = _Outline(text.size / font.face.upem, (x + dx, baseline - dy))
        font.draw_glyph_with_pen(glyph, outline)
        contours += [tuple(nodes) for nodes in outline.contours if len(nodes) > 1]
        x += advance
    return contours


def _glyphs(line: str, text: Text, fonts: list[uharfbuzz.Font]) -> Iterator[_Glyph]:
    """Each glyph of a line."""
    for font, run in _runs(line, fonts):
        buffer = uharfbuzz.Buffer()
        buffer.add_str(run)
        buffer.guess_segment_properties()
        uharfbuzz.shape(font, buffer)
        scale = text.size / font.face.upem
        for info, place in zip(buffer.glyph_infos, buffer.glyph_positions, strict=True):
            advance = place.x_advance * scale + text.tracking * text.size / 1000
            yield font, info.codepoint, (place.x_offset * scale, place.y_offset * scale), advance


def _runs(line: str, fonts: list[uharfbuzz.Font]) -> Iterator[tuple[uharfbuzz.Font, str]]:
    """A line cut where another file of the typeface holds the next letter."""
    held = [set(font.face.unicodes) for font in fonts]
    run, at = "", 0
    for letter in line:
        where = next((number for number, letters in enumerate(held) if ord(letter) in letters), 0)
        if run and where != at:
            yield fonts[at], run
            run = ""
        run, at = run + letter, where
    if run:
        yield fonts[at], run


def with_outlines(edits: list[Edit], otherwise: Callable[[Text], Text | None] = lambda _: None) -> list[Edit]:
    """The edits with the outlines of every text they bring computed from its font, whatever they came with.

    `otherwise` may letter a text itself, one in an uploaded font for example; where it gives None the shipped
    typefaces do.
    """
    result = []
    for edit in edits:
        shape = getattr(edit, "shape", None)
        if isinstance(shape, Text):
            edit = replace(edit, shape=otherwise(shape) or lettered(shape, _no_font))  # type: ignore[call-arg]
        result.append(edit)
    return result


def no_typeface(name: str) -> RuleError:
    """What is said where a text names a typeface that is not here."""
    return RuleError(f"There is no typeface called {name[:60]!r} here. Nothing was changed; choose another.")


def _no_font(name: str) -> tuple[str, bytes]:
    raise no_typeface(name)
