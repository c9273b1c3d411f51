"""Files on their way in: how each comes, under which names, and where it lies."""

import io
import unittest
import zipfile
from dataclasses import replace
from itertools import count

import numpy as np
from hypothesis import given

from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.geometry.side_by_side import side_by_side
from jointed_crane.core.hierarchy.tree import free_name
from jointed_crane.core.model.scene import Scene
from jointed_crane.formats.artwork import BY_ITSELF, ArtworkError, Reading, together
from jointed_crane.formats.bring_in import read_again, read_artwork
from jointed_crane.formats.coming_in import Choices, LayerChoice, parts_of
from jointed_crane.formats.comparing import origins
from jointed_crane.formats.zipped_drawings import drawings_in
from tests.strategies import examples, seeds

STAGE = (1280.0, 720.0)
ARM = '<g id="arm"><rect width="40" height="90" fill="#a33"/></g><g id="hand"><circle cx="20" cy="100" r="12"/></g>'
PLAIN = '<rect width="40" height="90" fill="#a33"/><circle cx="20" cy="100" r="12"/>'


def svg(body, size=(200, 150)):
    return f'<svg xmlns="http://www.w3.org/2000/svg" width="{size[0]}" height="{size[1]}">{body}</svg>'.encode()


def came_in(files, choices=Choices(), stage=STAGE):  # noqa: B008 - frozen
    """The parts that files become."""
    read = [read_artwork(data, name, choices.reading(number, len(files))) for number, (name, data) in enumerate(files)]
    return parts_of(together(read), map("p{}".format, count()).__next__, choices, stage)


class ComingTests(unittest.TestCase):
    def names(self, *given):
        return [part.name for part in came_in(*given)]

    def test_a_file_is_its_layers_where_they_have_names_and_one_part_where_none_has_or_where_there_are_several(self):
        self.assertEqual(self.names([("keeper.svg", svg(ARM))]), ["arm", "hand"])
        self.assertEqual(self.names([("keeper.svg", svg(PLAIN))]), ["keeper"])
        files = [("keeper.svg", svg(ARM)), ("old_gull.svg", svg(PLAIN))]
        self.assertEqual(self.names(files), ["keeper", "old gull"])
        self.assertEqual(self.names(files, Choices(coming="layers"))[:2], ["arm", "hand"])
        chosen = Choices(files={"0": "helper"})
        helper, arm, hand, gull = came_in(files, chosen)
        self.assertEqual((helper.name, helper.kind, arm.parent, hand.parent), ("keeper", "helper", "p0", "p0"))
        self.assertIsNone(gull.parent)

    def test_names_are_typed_and_layers_fused_on_the_way_in_and_again_when_the_file_has_changed(self):
        layers = {"0/1": LayerChoice(name="  Near hand "), "0/0": LayerChoice(take=False)}
        self.assertEqual(self.names([("k.svg", svg(ARM))], Choices(layers=layers)), ["Near hand"])
        body = f"{ARM}<g id='hat'><rect x='60' width='9' height='9'/></g>"
        parts = came_in([("k.svg", svg(body))], Choices(fused=(("0/0", "0/1"),)))
        self.assertEqual([part.name for part in parts], ["hand", "hat"])
        self.assertEqual(parts[0].drawings[0].source.path, "0+1")
        scene = Scene("s", "S", parts=parts)
        again = read_again(svg(body.replace("#a33", "#3a3")), "k.svg", origins(scene, "k.svg"))
        self.assertEqual([piece.path for piece in again.pieces], ["0+1", "2"])
        with self.assertRaisesRegex(ArtworkError, "different groups"):
            nested = svg(f"<g id='a'>{ARM}</g><g id='b'>{ARM}</g>")
            read_artwork(nested, "n.svg", Reading(opened=["0"], fused=[["0.0", "1"]]))

    def test_layers_without_names_are_called_by_what_is_seen_of_them(self):
        body = """<path d="M150 100h40v40h-40z" fill="#e8956b"/><path d="M5 5h20v20z" fill="none" stroke="#1e90ff"/>
        <g><desc>The lamp on the post</desc><circle cx="100" cy="75" r="9" fill="#ff0"/></g>
        <text x="90" y="75">Lock 4</text><rect width="200" height="150" fill="url(#sky)"/>
        <g><rect x="80" y="2" width="30" height="30" fill="#7d5529"/><rect x="80" width="2" height="2"/></g>"""
        found = read_artwork(svg(body), "d.svg", Reading())
        self.assertEqual(
            [piece.name for piece in found.pieces],
            [
                "Orange shape, lower right", "Blue shape, upper left", "The lamp on the post", "Lock 4",
                "Rectangle, all over", "Brown shape, top",
            ],
        )  # fmt: skip

    def test_a_copy_of_what_has_a_number_has_the_next(self):
        taken = ["Arm", "Arm 2", "Arm 3", "9"]
        self.assertEqual([free_name(name, taken) for name in ("Arm", "Arm 2", "Arm 3", "9", "Leg 4")],
                         ["Arm 4", "Arm 4", "Arm 4", "9 2", "Leg 4"])  # fmt: skip

    @given(seeds)
    @examples(20)
    def test_several_files_lie_whole_on_the_stage_beside_each_other_in_their_order_and_one_as_it_is_drawn(self, seed):
        random = np.random.default_rng(seed)
        sizes = random.uniform(5, 900, (int(random.integers(2, 12)), 2))
        files = [(f"f{n}.svg", svg(f'<rect x="-7" width="{w}" height="{h}"/>')) for n, (w, h) in enumerate(sizes)]
        middle = tuple(random.uniform(300, 400, 2)) if seed % 2 else None
        coming = str(random.choice(["part", "helper"]))
        parts = came_in(files, Choices(coming=coming, middle=middle))
        pose = evaluate(Scene("s", "S", *STAGE, parts=parts), [0])
        boxes = np.array([
            (np.array([part.bounds[:2], part.bounds[2:]]) @ world[:2, :2].T + world[:2, 3]).ravel()
            for part, world in ((part, pose.world_of(part.id)) for part in parts)
            if part.drawings
        ])  # fmt: skip
        ratio = (boxes[:, 2:] - boxes[:, :2]) / sizes
        np.testing.assert_allclose(ratio, ratio[0, 0], rtol=1e-9)
        self.assertLessEqual(ratio.max(), 1 + 1e-9)
        whole = np.concatenate([boxes[:, :2].min(axis=0), boxes[:, 2:].max(axis=0)])
        np.testing.assert_allclose((whole[:2] + whole[2:])[0] / 2, (middle or (640,))[0], atol=whole[2] - whole[0])
        self.assertTrue(np.all(whole[2:] - whole[:2] <= np.array(STAGE)))
        for one in range(len(boxes)):
            for other in range(one):
                apart = np.maximum(boxes[one, :2] - boxes[other, 2:], boxes[other, :2] - boxes[one, 2:])
                self.assertGreater(apart.max(), 0)
        alone = came_in(files[:1], Choices(coming=coming))[-1]
        world = evaluate(Scene("s", "S", *STAGE, parts=came_in(files[:1], Choices(coming=coming))), [0])
        np.testing.assert_allclose(world.world_of(alone.id)[:2, 3], alone.drawings[0].registration, atol=1e-9)

    def test_as_many_rows_as_let_things_be_largest(self):
        lay = side_by_side([(0, 0, 100, 100)] * 4, (220, 220))
        self.assertEqual({(round(each.x > 100), round(each.y > 100)) for each in lay}, {(0, 0), (1, 0), (0, 1), (1, 1)})

    def test_a_zip_is_the_drawings_in_it(self):
        stream = io.BytesIO()
        with zipfile.ZipFile(stream, "w") as archive:
            for name in ("b/two.svg", "one.PNG", "__MACOSX/._one.PNG", "notes.txt", ".hidden.svg"):
                archive.writestr(name, name.encode())
        data = stream.getvalue()
        self.assertEqual(drawings_in(data, "z.zip"), [("one.PNG", b"one.PNG"), ("two.svg", b"b/two.svg")])
        for broken in (data[:-30], b"PK\3\4" + bytes(50)):
            with self.assertRaisesRegex(ArtworkError, "Nothing was brought in"):
                drawings_in(broken, "z.zip")
        self.assertEqual(read_artwork(svg(PLAIN), "k.svg", replace(BY_ITSELF)).files[0].layers, 2)
