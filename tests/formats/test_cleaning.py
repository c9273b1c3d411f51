"""What is left of a drawing is known to be harmless, however the harm is spelt, and whether or not it was noticed."""

import hashlib
import io
import json
import unittest
import zipfile

from lxml import etree

from jointed_crane.core.model.scene import Drawing, Part, Scene
from jointed_crane.formats.bring_in import read_artwork
from jointed_crane.formats.bundle import read_bundle
from jointed_crane.formats.document import scene_document
from jointed_crane.formats.svg.parsing import cleaned
from jointed_crane.formats.svg.tags import ALLOWED, ATTRIBUTES, STYLE_ONLY, SVG
from jointed_crane.formats.svg_out.animated import animated_svg

HEAD = 'xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" width="90" height="90"'
#: Ways out that were found in other drawings, each in an element of its own.
HOSTILE = (
    '<x:img xmlns:x="http://www.w3.org/1999/xhtml" src="x" onerror="alert(1)"/>',
    '<a xlink:href="javascript:alert(1)"><rect width="9" height="9"/></a>',
    '<a href=" java&#10;script:alert(1)"><rect width="9" height="9"/></a>',
    '<g xml:base="https://away.invalid/"><use href="a.svg#b"/><image href="b.png" width="9" height="9"/></g>',
    "<rect width='9' height='9' fill='url(\"https://away.invalid/&apos;)#a\")'/>",
    '<rect width="9" height="9" style="fill:u\\72l(https://away.invalid/a#b)"/>',
    '<rect width="9" height="9" fill="u\\72 l(https://away.invalid/a#b)"/>',
    '<rect width="9" height="9" style="mask-image:IMAGE-SET(\'https://away.invalid/a\' 1x)"/>',
    '<rect width="9" height="9" style="mask:-webkit-image-set(url(https://away.invalid/a) 1x)"/>',
    '<rect width="9" height="9" fill="url(https://away.invalid/a"/>',
    '<rect width="9" height="9" style="filter:url(https://away.invalid/a"/>',
    '<rect width="9" height="9" style="background:url(https://away.invalid/a)"/>',
    '<rect width="9" height="9" style="cursor:url(https://away.invalid/a),auto"/>',
    '<rect width="9" height="9" style="fill:var(--a);--a:url(https://away.invalid/a)"/>',
    '<rect width="9" height="9" style="fill:src(&quot;https://away.invalid/a&quot;)"/>',
    '<rect width="9" height="9" marker-start="cross-fade(url(https://away.invalid/a), red)"/>',
    '<style>rect{fill:url(https://away.invalid/a#b)} @import "https://away.invalid/c.css";</style>',
    '<text x="1" y="20" style="font-family:x;src:url(https://away.invalid/f)">Words</text>',
    '<image xlink:href="data:image/svg+xml;base64,PHN2Zy8+" width="9" height="9"/>',
    '<image href="data:text/html,&lt;script&gt;alert(1)&lt;/script&gt;" width="9" height="9"/>',
    '<use href="data:image/svg+xml,&lt;svg id=&quot;a&quot;/&gt;#a"/>',
    '<feImage xmlns="http://www.w3.org/2000/svg" href="https://away.invalid/a.png"/>',
    '<foreignObject><body xmlns="http://www.w3.org/1999/xhtml"><script>alert(1)</script></body></foreignObject>',
    '<handler xmlns="http://www.w3.org/2001/xml-events">alert(1)</handler>',
    '<animate attributeName="href" values="javascript:alert(1)"/><set attributeName="onload" to="alert(1)"/>',
    '<rect width="9" height="9" data-run="alert(1)" onclick="alert(1)" ONLOAD="alert(1)"/>',
    '<discard/><unknown onload="alert(1)"/><audio src="https://away.invalid/s"/>',
)


def drawing(body: str) -> bytes:
    return f'<svg {HEAD}>{body}<rect id="shape" width="50" height="50"/></svg>'.encode()


def assert_harmless(case: unittest.TestCase, data: bytes):
    """Only known elements, attributes and properties; every address is one of the drawing's own ids."""
    root = etree.fromstring(data)
    ids = {element.get("id") for element in root.iter()}
    for element in root.iter():
        case.assertTrue(element.tag.startswith(f"{{{SVG}}}"), element.tag)
        case.assertIn(etree.QName(element).localname, ALLOWED | {"a"})
        for name, value in element.attrib.items():
            local = etree.QName(name).localname
            case.assertTrue(name in ATTRIBUTES or local in ("href", "style"), name)
            if local == "href":
                case.assertTrue(value[1:] in ids or value.startswith("data:image/"), value)
            if local == "style":
                case.assertLessEqual({item.split(":")[0] for item in value.split(";")}, STYLE_ONLY)
    for word in (b"away.invalid", b"alert", b"javascript", b"xml:base", b"image-set", b"\\72", b"var("):
        case.assertNotIn(word, data.lower())


class CleaningTests(unittest.TestCase):
    def test_nothing_of_the_known_ways_out_is_left(self):
        for body in HOSTILE:
            with self.subTest(body):
                for piece in read_artwork(drawing(body), "drawing.svg").pieces:
                    assert_harmless(self, piece.data)

    def test_what_is_harmless_stays(self):
        body = (
            '<linearGradient id="odd id)"><stop offset="0" stop-color="red"/></linearGradient>'
            "<g id='wing' style='mix-blend-mode:multiply;fill:url(\"#odd id)\")'>"
            '<path d="M0 0L9 9 0 9z" style="stroke:rgb(10, 20, 30);stroke-width:2px;transform:rotate(4deg)"/></g>'
        )
        (wing, _) = read_artwork(drawing(body), "drawing.svg").pieces
        self.assertEqual(wing.name, "wing")
        root = etree.fromstring(wing.data)
        (group,) = [element for element in root.iter() if element.get("id") == "wing"]
        gradient = next(root.iter(f"{{{SVG}}}linearGradient"))
        self.assertEqual(group.get("fill"), f"url(#{gradient.get('id')})")
        self.assertEqual(group.get("style"), "mix-blend-mode:multiply")
        path = next(root.iter(f"{{{SVG}}}path"))
        self.assertEqual((path.get("stroke"), path.get("stroke-width")), ("rgb(10, 20, 30)", "2px"))
        self.assertEqual(path.get("style"), "transform:rotate(4deg)")

    def test_cleaning_twice_changes_nothing_more(self):
        for body in HOSTILE:
            once = cleaned(drawing(body), "a.svg")
            self.assertEqual(cleaned(once, "a.svg"), once)


class ZipTests(unittest.TestCase):
    def zipped(self, data: bytes) -> bytes:
        name = hashlib.sha256(data).hexdigest()
        part = Part("a", "A", drawings=(Drawing("a-1", "A", name, (0, 0, 90, 90), (0, 0, 50, 50)),))
        document = {
            "format": "jointed-crane-scene", "version": 2, "art": {name: f"art/{name}.svg"},
            "scene": scene_document(Scene("s", "S", parts=(part,))),
        }  # fmt: skip
        stream = io.BytesIO()
        with zipfile.ZipFile(stream, "w") as archive:
            archive.writestr("scene.json", json.dumps(document))
            archive.writestr(f"art/{name}.svg", data)
        return stream.getvalue()

    def test_art_in_a_zip_is_stored_clean_under_the_name_of_what_is_stored(self):
        for body in HOSTILE:
            with self.subTest(body):
                bundle = read_bundle(self.zipped(drawing(body)), "scene.zip")
                ((name, (_, data)),) = bundle.art.items()
                assert_harmless(self, data)
                self.assertEqual(name, hashlib.sha256(data).hexdigest())
                self.assertEqual(bundle.scene.parts[0].drawings[0].art, name)

    def test_art_that_an_older_version_stored_is_sent_clean(self):
        scene = Scene("s", "S", parts=read_bundle(self.zipped(drawing("")), "scene.zip").scene.parts)
        for body in HOSTILE:
            stored = drawing(body).replace(b'height="90"', b'height="90" viewBox="0 0 90 90"')
            sent = animated_svg(scene, lambda _, stored=stored: ("image/svg+xml", stored))
            for word in (b"away.invalid", b"alert", b"javascript"):
                self.assertNotIn(word, sent)


class EndlessTests(unittest.TestCase):
    def test_references_that_lead_on_and_on_get_a_sentence(self):
        chain = "".join(f'<g id="u{n}"><use href="#u{n - 1}"/></g>' for n in range(1, 400))
        with self.assertRaisesRegex(Exception, "lead 400 steps"):
            read_artwork(
                drawing(f'<defs><rect id="u0" width="9" height="9"/>{chain}</defs><use href="#u399"/>'), "a.svg"
            )

    def test_a_path_that_breaks_again_and_again_is_drawn_up_to_there(self):
        found = read_artwork(drawing('<path id="wing" d="M0 0 L10 0 10 10' + " x L 1" * 30_000 + '"/>'), "a.svg")
        self.assertEqual(found.pieces[0].bounds, (0, 0, 10, 10))
