import io
import unittest
from pathlib import Path

import numpy as np
from lxml import etree
from PIL import Image

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.formats.bring_in import read_artwork
from jointed_crane.formats.bundle import bundle_bytes, read_bundle
from tests.strategies import TIMES, random_scene

ART = Path(__file__).parents[1] / "art"
#: Mutations of each file.
TRIES = 12 if TIMES == 1 else 30 * TIMES


def damaged(data: bytes, random: np.random.Generator) -> bytes:
    """The bytes with a few of them changed, cut, doubled or swapped with text that means something."""
    found = bytearray(data)
    for _ in range(random.integers(1, 6)):
        at = int(random.integers(0, len(found)))
        span = int(random.integers(1, 40))
        kind = random.integers(0, 4)
        if kind == 0:
            found[at : at + span] = random.bytes(span)
        elif kind == 1:
            del found[at : at + span]
        elif kind == 2:
            found[at:at] = found[at : at + span]
        else:
            words = [b"-", b"1e9", b"%", b"url(#a)", b'"', b"<g>", b"NaN", b" 0 ", b"M", b"rotate(", b"#", b"em", b";"]
            found[at:at] = words[random.integers(0, len(words))]
    return bytes(found)


def bent(data: bytes, random: np.random.Generator) -> bytes:
    """A drawing that is still well-formed, with a few attributes taking odd values or each other's."""
    root = etree.fromstring(data)
    elements = [element for element in root.iter() if isinstance(element.tag, str)]
    values = [value for element in elements for value in element.attrib.values()]
    odd = ["", "-5", "1e9", "50%", "url(#a)", "none", "#", "3em", "0", "M", "rotate(", "scale(0)", "a b c", "1 2 3 4"]
    for _ in range(random.integers(1, 6)):
        element = elements[random.integers(0, len(elements))]
        if element.attrib:
            name = list(element.attrib)[random.integers(0, len(element.attrib))]
            choice = odd if random.random() < 0.6 else values
            element.set(name, choice[random.integers(0, len(choice))])
    return etree.tostring(root)


class DamagedFileTests(unittest.TestCase):
    """Whatever is wrong with a file, it comes in or gets a sentence; nothing else is ever raised."""

    def assert_no_other_error(self, data: bytes, name: str, read, seed: int, change=damaged):
        random = np.random.default_rng(seed)
        outcomes = {"came in": 0, "refused": 0}
        for _ in range(TRIES):
            try:
                read(change(data, random), name)
                outcomes["came in"] += 1
            except RuleError:
                outcomes["refused"] += 1
        return outcomes

    def test_drawings(self):
        total = 0
        for seed, path in enumerate(sorted(ART.glob("*.svg"))):
            with self.subTest(path.name):
                total += self.assert_no_other_error(path.read_bytes(), path.name, read_artwork, seed)["came in"]
                total += self.assert_no_other_error(path.read_bytes(), path.name, read_artwork, seed, bent)["came in"]
        self.assertGreater(total, 50, "many of them are still drawings")

    def test_bitmaps(self):
        picture = Image.effect_noise((40, 30), 60).convert("RGBA")
        picture.putalpha(Image.linear_gradient("L").resize((40, 30)))
        for seed, kind in enumerate(("PNG", "JPEG", "WEBP")):
            stream = io.BytesIO()
            (picture.convert("RGB") if kind == "JPEG" else picture).save(stream, kind)
            with self.subTest(kind):
                self.assert_no_other_error(stream.getvalue(), f"a.{kind.lower()}", read_artwork, seed)

    def test_zips(self):
        scene = random_scene(3)
        data = bundle_bytes(scene, lambda _: ("image/svg+xml", b"<svg xmlns='http://www.w3.org/2000/svg'/>"))
        self.assert_no_other_error(data, "scene.zip", read_bundle, 1)
