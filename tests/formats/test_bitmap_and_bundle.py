import io
import json
import unittest
from dataclasses import replace

import numpy as np
from hypothesis import given
from PIL import Image

from jointed_crane.formats.bring_in import read_artwork
from jointed_crane.formats.bundle import bundle_bytes, read_bundle
from jointed_crane.formats.document import scene_document, scene_from
from jointed_crane.formats.older import brought_up_to_date
from tests.strategies import examples, random_scene, seeds

ART = b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 40 40"><rect width="40" height="40"/></svg>'


def encoded(picture: Image.Image, kind: str, **options) -> bytes:
    stream = io.BytesIO()
    picture.save(stream, kind, **options)
    return stream.getvalue()


class BitmapTests(unittest.TestCase):
    def test_png_jpeg_and_webp_become_one_part_of_their_own_size(self):
        for kind in ("PNG", "JPEG", "WEBP"):
            found = read_artwork(encoded(Image.new("RGB", (40, 30), "#12706f"), kind), f"lock_gate.{kind.lower()}")
            (piece,) = found.pieces
            self.assertEqual((found.width, found.height, piece.bounds), (40, 30, (0, 0, 40, 30)))
            self.assertEqual((piece.name, piece.kind), ("lock gate", "bitmap"))

    def test_bounds_are_those_of_what_is_not_transparent(self):
        pixels = np.zeros((60, 80, 4), dtype=np.uint8)
        pixels[10:40, 20:50] = 255
        (piece,) = read_artwork(encoded(Image.fromarray(pixels), "PNG"), "a.png").pieces
        self.assertEqual(piece.bounds, (20, 10, 50, 40))
        xs, ys = zip(*piece.outline[0], strict=True)
        np.testing.assert_allclose([min(xs), min(ys), max(xs), max(ys)], piece.bounds, atol=0.6)

    def test_an_orientation_noted_beside_the_pixels_is_applied(self):
        exif = Image.Exif()
        exif[0x0112] = 6
        found = read_artwork(encoded(Image.new("RGB", (40, 30)), "JPEG", exif=exif), "a.jpg")
        self.assertEqual((found.width, found.height), (30, 40))


class BundleTests(unittest.TestCase):
    @given(seeds)
    @examples(40)
    def test_zip_out_and_in_is_the_identity(self, seed):
        import hashlib

        name = hashlib.sha256(ART).hexdigest()
        scene = random_scene(seed, is_deep=True)
        scene = scene.with_parts(
            replace(part, drawings=tuple(replace(drawing, art=name) for drawing in part.drawings))
            for part in scene.parts
        )
        found = read_bundle(bundle_bytes(scene, lambda _: ("image/svg+xml", ART)), "scene.zip")
        self.assertEqual(found.scene, scene)
        self.assertEqual(found.art, {name: ("image/svg+xml", ART)})

    def test_a_document_holds_every_field_by_its_name(self):
        scene = random_scene(4)
        document = scene_document(scene)
        self.assertEqual(document["parts"][0]["pivot"], list(scene.parts[0].pivot))
        self.assertEqual(scene_from(document), scene)


class OlderVersionTests(unittest.TestCase):
    def test_a_zip_of_version_1_opens_with_ids_of_its_own_and_the_newer_word(self):
        box = [0, 0, 9, 9]
        drawing = {"id": "1", "name": "D", "art": "", "box": box, "bounds": box}
        channel = {"keys": [{"frame": 0, "value": 0}, {"frame": 5, "value": 9}], "after": "repeat with offset"}
        parts = [
            {"id": "a", "name": "A", "drawings": [drawing], "channels": {"turn.z": channel}},
            {"id": "b", "name": "B", "drawings": [drawing], "shares": "g"},
            {"id": "c", "name": "C", "drawings": [drawing], "shares": "g"},
        ]
        document = json.loads(json.dumps({"id": "s", "name": "S", "parts": parts}))
        scene = scene_from(brought_up_to_date(document, 1))
        self.assertEqual([part.drawings[0].id for part in scene.parts], ["a-1", "g-1", "g-1"])
        self.assertEqual(scene.part("a").channels["turn.z"].after, "repeat onwards")
