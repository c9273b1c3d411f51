import io
import unittest
import zipfile

from PIL import Image

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.formats.bring_in import read_artwork
from jointed_crane.formats.bundle import read_bundle

HEAD = 'xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" width="100" height="100"'
SHAPE = '<rect id="shape" width="50" height="50"/>'


def svg(body: str, before: str = "") -> bytes:
    return f"{before}<svg {HEAD}>{body}{SHAPE}</svg>".encode()


class HarmlessTests(unittest.TestCase):
    """Comes in, without what could harm, and says what was left out."""

    def assert_harmless(self, data: bytes, *without: bytes, note: str):
        found = read_artwork(data, "drawing.svg")
        everything = b"".join(piece.data for piece in found.pieces)
        for part in without:
            self.assertNotIn(part, everything)
        self.assertIn(note, " ".join(found.notes))

    def test_a_script(self):
        self.assert_harmless(svg("<script>alert(1)</script>"), b"script", b"alert", note="a script")

    def test_an_event_handler(self):
        data = svg('<g onload="alert(1)" ONCLICK="x"><rect width="9" height="9"/></g>')
        self.assert_harmless(data, b"alert", b"onload", b"ONCLICK", note="event handler")

    def test_an_external_image(self):
        data = svg('<image href="https://example.invalid/a.png" width="9" height="9"/>')
        self.assert_harmless(data, b"example.invalid", note="outside")
        self.assert_harmless(svg('<image xlink:href="file:///etc/passwd"/>'), b"passwd", note="outside")

    def test_an_external_use_and_a_link_that_runs_script(self):
        data = svg('<use href="other.svg#a"/><a href="javascript:alert(1)"><rect width="9" height="9"/></a>')
        self.assert_harmless(data, b"other.svg", b"javascript", note="outside")

    def test_an_external_font_and_style_sheet(self):
        data = svg(
            "<style>@import url(https://example.invalid/a.css); @font-face{font-family:x;src:url(https://example.invalid/x)}"
            " rect{fill:url(https://example.invalid/p.svg#a)}</style>",
            before='<?xml-stylesheet href="https://example.invalid/a.css"?>',
        )
        self.assert_harmless(data, b"example.invalid", b"@import", note="style sheet")
        self.assert_harmless(data, note="font")

    def test_a_style_attribute_that_points_outside(self):
        data = svg(
            '<rect width="9" height="9" style="fill:url(https://example.invalid/a#b)" mask="url(//x.invalid#m)"/>'
        )
        self.assert_harmless(data, b"invalid", note="outside")

    def test_a_foreign_object(self):
        data = svg('<foreignObject><iframe xmlns="http://www.w3.org/1999/xhtml" src="x"/></foreignObject>')
        self.assert_harmless(data, b"foreignObject", b"iframe", note="a foreign object")

    def test_an_animation_that_sets_a_link(self):
        self.assert_harmless(svg('<set attributeName="href" to="javascript:x"/>'), b"javascript", note="animation")

    def test_numbers_that_are_not_finite(self):
        largest = '<path d="M0 0 L1e308 -1e308 9 9 Q-1e308 4 1e308 8 C9 1e308 8 7 3 -1e308"/>'
        data = svg(f'<path d="M0 0 L1e999 3 NaN 4"/>{largest}<rect x="nan" width="inf" height="1e400"/>')
        found = read_artwork(data, "drawing.svg")
        self.assertIn("not finite", " ".join(found.notes))
        for piece in found.pieces:
            self.assertTrue(all(abs(value) < 1e6 for value in piece.bounds))

    def test_an_embedded_picture_that_is_none(self):
        data = svg('<image href="data:image/png;base64,AAAA" width="9" height="9"/>')
        self.assert_harmless(data, b"AAAA", note="could not be read")

    def test_an_embedded_drawing(self):
        data = svg('<image href="data:image/svg+xml;base64,PHN2Zy8+" width="9" height="9"/>')
        self.assert_harmless(data, b"PHN2Zy8", note="outside")


class RefusedTests(unittest.TestCase):
    """Gets one clear sentence."""

    def assert_refused(self, data: bytes, sentence: str, name: str = "drawing.svg"):
        with self.assertRaisesRegex(RuleError, sentence):
            read_artwork(data, name)

    def test_an_entity_bomb(self):
        entities = '<!ENTITY a "aaaaaaaaaa">' + "".join(
            f'<!ENTITY {new} "{f"&{old};" * 10}">' for old, new in zip("abcdefgh", "bcdefghi", strict=True)
        )
        data = svg("<text>&i;</text>", before=f"<!DOCTYPE svg [{entities}]>")
        self.assert_refused(data, "entities|well-formed")

    def test_an_entity_that_reads_a_file(self):
        data = svg("<text>&x;</text>", before='<!DOCTYPE svg [<!ENTITY x SYSTEM "file:///etc/passwd">]>')
        self.assert_refused(data, "entities")

    def test_references_that_loop(self):
        self.assert_refused(svg('<g id="a"><use href="#b"/></g><g id="b"><use href="#a"/></g>'), "circle")
        self.assert_refused(svg('<g id="a"><use href="#a"/></g>'), "circle: #a to #a")
        pattern = '<pattern id="p" width="9" height="9"><rect width="9" height="9" fill="url(#p)"/></pattern>'
        self.assert_refused(svg(pattern + '<rect width="9" height="9" fill="url(#p)"/>'), "circle")

    def test_references_that_multiply(self):
        levels = "".join(f'<g id="l{n + 1}">{f"<use href=&quot;#l{n}&quot;/>" * 10}</g>' for n in range(9))
        levels = levels.replace("&quot;", '"')
        data = svg(f'<defs><rect id="l0" width="9" height="9"/>{levels}</defs><use href="#l9"/>')
        self.assert_refused(data, "multiply")

    def test_a_drawing_of_50_mb(self):
        data = svg(f'<path d="M0 0{" L1 1" * 10_000_000}"/>')
        self.assertGreater(len(data), 50_000_000)
        self.assert_refused(data, "MB")

    def test_too_many_elements_and_too_deep_a_nesting(self):
        self.assert_refused(svg("<g/>" * 60_000), "elements")
        self.assert_refused(svg("<g>" * 5_000 + "</g>" * 5_000), "well-formed")

    def test_a_bitmap_with_too_many_pixels(self):
        stream = io.BytesIO()
        Image.new("1", (30_000, 30_000)).save(stream, "PNG")
        self.assert_refused(stream.getvalue(), "more than 64 million pixels", "huge.png")

    def test_files_that_are_not_what_their_names_say(self):
        self.assert_refused(b"\x89PNG\r\n\x1a\n not really", "not a PNG, JPEG or WebP", "sky.png")
        self.assert_refused(b"<html><body/></html>", "not an SVG drawing", "page.svg")
        self.assert_refused(b"MZ\x90\x00program", "neither an SVG drawing nor", "wing.svg")
        self.assert_refused(b"", "is empty", "nothing.svg")
        self.assert_refused(b"RIFF\x00\x00\x00\x00WAVEfmt ", "not a PNG, JPEG or WebP", "sound.webp")

    def test_broken_xml(self):
        self.assert_refused(b"<svg xmlns='http://www.w3.org/2000/svg'><g>", "well-formed")

    def test_a_page_without_size_or_paint(self):
        self.assert_refused(b'<svg xmlns="http://www.w3.org/2000/svg" width="0" height="9"><rect/></svg>', "no size")
        self.assert_refused(b'<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"/>', "paints nothing")


class HostileBundleTests(unittest.TestCase):
    def zipped(self, **files: bytes) -> bytes:
        stream = io.BytesIO()
        with zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED) as archive:
            for name, data in files.items():
                archive.writestr(name.replace("_", "."), data)
        return stream.getvalue()

    def assert_refused(self, data: bytes, sentence: str):
        with self.assertRaisesRegex(RuleError, sentence):
            read_bundle(data, "scene.zip")

    def test_zips_that_are_no_scene(self):
        self.assert_refused(b"PK\x03\x04 broken", "not a scene zip")
        self.assert_refused(self.zipped(other_txt=b""), "not a scene zip")
        self.assert_refused(self.zipped(scene_json=b"{}"), "holds no scene")
        self.assert_refused(self.zipped(scene_json=b"[" * 100_000), "not JSON")

    def test_a_zip_bomb(self):
        self.assert_refused(self.zipped(scene_json=b"0" * 300_000_000), "unpacks to more than")

    def test_a_scene_that_breaks_the_rules(self):
        part = '{"id":"a","name":"A","parent":"%s"}'
        whole = '{"format":"jointed-crane-scene","version":1,"art":{},"scene":{"id":"s","name":"S","parts":[%s]}}'
        self.assert_refused(self.zipped(scene_json=(whole % (part % "a")).encode()), "loop")
        self.assert_refused(self.zipped(scene_json=(whole % (part % "b")).encode()), "not in the scene")
        self.assert_refused(
            self.zipped(scene_json=(whole % '{"id":"a","name":"A","pivot":[1e999,0,0]}').encode()), "finite"
        )
        self.assert_refused(self.zipped(scene_json=(whole % '{"id":"a"}').encode()), "cannot be read")
