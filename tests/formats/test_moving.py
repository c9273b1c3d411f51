import io
import unittest
import unittest.mock
from fractions import Fraction

import numpy as np
from PIL import Image

from jointed_crane.formats import moving_pictures as moving
from jointed_crane.formats.artwork import ArtworkError
from jointed_crane.formats.moving_pictures import read_moving
from jointed_crane.render.video import video


def picture(shade: int, size: tuple[int, int] = (12, 8)) -> Image.Image:
    made = Image.new("RGBA", size, (shade, 20, 40, 255))
    made.paste((0, 0, 0, 0), (0, 0, 3, 3))
    return made


def saved(kind: str, shades: list[int], duration: int | list[int] = 125, **how: object) -> bytes:
    stream = io.BytesIO()
    first, *others = [picture(shade) for shade in shades]
    first.save(stream, kind, save_all=True, append_images=others, duration=duration, loop=0, **how)
    return stream.getvalue()


class MovingTests(unittest.TestCase):
    def test_each_picture_of_a_file_comes_whole_and_at_its_time(self):
        for kind, how in (("GIF", {"disposal": 2}), ("WEBP", {"lossless": True}), ("PNG", {})):
            with self.subTest(kind):
                found = read_moving([(saved(kind, [10, 90, 170], [100, 250, 50], **how), "hop.bin")])
                np.testing.assert_allclose(found.starts, [0.0, 0.1, 0.35, 0.4], atol=1e-9)
                shades = [np.asarray(Image.open(io.BytesIO(piece.data))) for piece in found.artwork.pieces]
                self.assertEqual([int(pixels[6, 6, 0]) for pixels in shades], [10, 90, 170])
                self.assertEqual([int(pixels[1, 1, 3]) for pixels in shades], [0, 0, 0])
                self.assertEqual([piece.name for piece in found.artwork.pieces], ["hop 1", "hop 2", "hop 3"])

    def test_each_picture_of_a_film_comes_at_its_time(self):
        for kind, codec, ground in (("webm", "vp9", None), ("webm", "av1", (9, 9, 9)), ("mp4", "h264", (9, 9, 9))):
            with self.subTest(kind, codec=codec):
                stream = io.BytesIO()
                pixels = [np.full((32, 48, 4), (shade, 0, 0, 255), np.uint8) for shade in (10, 90, 170)]
                for one in pixels:
                    one[:16, :16] = 0
                video(pixels, 3, (48, 32), Fraction(25, 2), kind, codec, 100, ground, stream)
                found = read_moving([(stream.getvalue(), "hop.bin")])
                np.testing.assert_allclose(found.starts, [0.0, 0.08, 0.16, 0.24], atol=1e-9)
                shown = [np.asarray(Image.open(io.BytesIO(piece.data))) for piece in found.artwork.pieces]
                np.testing.assert_allclose([one[24, 40, 0] for one in shown], [10, 90, 170], atol=5)
                self.assertEqual([one[4, 4, 3] for one in shown], [0 if ground is None else 255] * 3)

    def test_a_film_opens_no_other_file(self):
        for data in (b"ffconcat version 1.0\nfile /etc/passwd\n", b"#EXTM3U\n#EXTINF:1,\n/etc/passwd\n"):
            for lead in (b"", b"\x1a\x45\xdf\xa3", b"\0\0\0\x18ftypisom"):
                with self.assertRaisesRegex(ArtworkError, "Nothing was brought in"):
                    read_moving([(lead + data, "list.mp4")])

    def test_numbered_pictures_come_in_the_order_in_which_people_count(self):
        files = []
        for number in (10, 2, 1):
            stream = io.BytesIO()
            picture(number).save(stream, "PNG")
            files.append((stream.getvalue(), f"frame_{number}.png"))
        found = read_moving(files)
        self.assertIsNone(found.starts)
        self.assertEqual([piece.name for piece in found.artwork.pieces], ["frame 1", "frame 2", "frame 10"])

    def test_a_still_picture_is_one_drawing(self):
        stream = io.BytesIO()
        picture(5).save(stream, "PNG")
        found = read_moving([(stream.getvalue(), "still.png")])
        self.assertEqual((len(found.artwork.pieces), found.starts), (1, None))

    def test_what_is_too_long_or_no_picture_gets_a_sentence(self):
        with unittest.mock.patch.object(moving, "MOST_PICTURES", 2):
            with self.assertRaisesRegex(ArtworkError, "more than 2 pictures"):
                read_moving([(saved("GIF", [10, 90, 170]), "hop.gif")])
            with self.assertRaisesRegex(ArtworkError, "at most 2 pictures, not 3"):
                read_moving([(b"", "a")] * 3)
        with self.assertRaisesRegex(ArtworkError, "cannot be read as a moving picture"):
            read_moving([(b"GIF89a" + b"\x00" * 40, "hop.gif")])
        whole = saved("GIF", [10, 90, 170])
        for end in range(8, len(whole), 37):  # cut short anywhere: a sentence, or the pictures that are there
            try:
                self.assertGreaterEqual(len(read_moving([(whole[:end], "hop.gif")]).artwork.pieces), 1)
            except ArtworkError as error:
                self.assertIn("hop.gif", str(error))
