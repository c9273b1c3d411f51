import io
import unittest
from importlib.resources import files

import numpy as np
from fontTools.fontBuilder import FontBuilder
from fontTools.pens.ttGlyphPen import TTGlyphPen
from fontTools.ttLib import TTFont
from fontTools.varLib.instancer import instantiateVariableFont

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.edits.pictures.making_shapes import AddShape
from jointed_crane.core.model.forms import Text
from jointed_crane.core.shapes.picture import shape_drawing
from jointed_crane.formats.artwork import ArtworkError
from jointed_crane.formats.lettering import FONT_TYPE, SHIPPED, font_name, lettered, line_width, with_outlines

FONTS = files("jointed_crane") / "web" / "static" / "fonts"


def nothing_uploaded(name):
    raise RuleError(f"no {name}")


def block_font():
    """A font of our own: "a" is a block of 400 x 500 units and advances 600 of 1000, "b" advances 250 and is empty."""
    builder = FontBuilder(1000, isTTF=True)
    builder.setupGlyphOrder([".notdef", "a", "b"])
    builder.setupCharacterMap({ord("a"): "a", ord("b"): "b"})
    pen = TTGlyphPen(None)
    for name, point in (("moveTo", (100, 0)), ("lineTo", (100, 500)), ("lineTo", (500, 500)), ("lineTo", (500, 0))):
        getattr(pen, name)(point)
    pen.closePath()
    empty = TTGlyphPen(None).glyph()
    builder.setupGlyf({".notdef": empty, "a": pen.glyph(), "b": empty})
    builder.setupHorizontalMetrics({".notdef": (500, 0), "a": (600, 100), "b": (250, 0)})
    builder.setupHorizontalHeader(ascent=800, descent=-200)
    builder.setupNameTable({"familyName": "Lock Blocks", "styleName": "Regular", "fullName": "Lock Blocks"})
    builder.setupPost()
    stream = io.BytesIO()
    builder.save(stream)
    return stream.getvalue()


class LetteringTests(unittest.TestCase):
    def test_lines_advance_by_the_fonts_own_widths(self):
        # One letter at a time, so that no kerning counts; the widths as fontTools reads them from hmtx at that weight.
        for family, file in (("Hanken Grotesk", "hanken-grotesk"), ("Bricolage Grotesque", "bricolage-grotesque")):
            font = TTFont(str(FONTS / f"{file}-latin.woff2"))
            names, units = font.getBestCmap(), font["head"].unitsPerEm
            font = instantiateVariableFont(font, {"wght": SHIPPED[family][1]})
            widths = font["hmtx"]
            for letter in "HnoMi0e ":
                wanted = widths[names[ord(letter)]][0] / units * 80
                self.assertAlmostEqual(line_width(letter, Text("", family, 80.0), nothing_uploaded), wanted, places=2)

    def test_size_tracking_lines_and_alignment(self):
        def uploaded(name):
            return FONT_TYPE, block_font()

        def boxes(**fields):
            found = lettered(Text(size=100.0, font="blocks", **fields), uploaded)
            points = [np.array([node.point for node in contour]) for contour in found.contours]
            return [tuple(np.round([*p.min(axis=0), *p.max(axis=0)], 6)) for p in points]

        self.assertEqual(boxes(words="aba"), [(10, -50, 50, 0), (95, -50, 135, 0)])
        self.assertEqual(boxes(words="aa", tracking=100.0), [(10, -50, 50, 0), (80, -50, 120, 0)])
        self.assertEqual(boxes(words="a\na", leading=1.5), [(10, -50, 50, 0), (10, 100, 50, 150)])
        self.assertEqual(boxes(words="aa", alignment="end")[0], (-110, -50, -70, 0))
        self.assertEqual(boxes(words="aa", alignment="middle", tracking=100.0)[0], (-55, -50, -15, 0))

    def test_letters_of_both_files_of_a_typeface_are_drawn(self):
        for words in ("Heron Lock", "Čáš", "naïve Žuž"):
            found = lettered(Text(words), nothing_uploaded)
            self.assertGreaterEqual(len(found.contours), len(words.replace(" ", "")))

    def test_holes_of_letters_stay_open(self):
        drawing = shape_drawing("d", "D", lettered(Text("o", size=200.0), nothing_uploaded))
        self.assertEqual(len(drawing.outline), 2)

    def test_a_font_that_is_none_or_missing_says_so(self):
        with self.assertRaises(RuleError):
            lettered(Text("a", "nowhere"), nothing_uploaded)
        with self.assertRaises(RuleError):
            lettered(Text("a", "picture"), lambda name: ("image/png", b""))
        for damaged in (b"", b"OTTO", b"wOF2" + bytes(60), block_font()[:300]):
            with self.assertRaises(ArtworkError):
                font_name(damaged, "broken.ttf")
        self.assertEqual(font_name(block_font(), "blocks.ttf"), "Lock Blocks")

    def test_edits_get_their_outlines_whatever_they_came_with(self):
        (edit,) = with_outlines([AddShape("t", Text("Hi"))])
        self.assertGreater(len(edit.shape.contours), 1)
