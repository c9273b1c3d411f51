"""A file brought in again finds its layers: by id, by picture, by name and place, by shape."""

import unittest
from dataclasses import replace
from itertools import count

from jointed_crane.core.edits import applied
from jointed_crane.core.edits.scene.parts import AddParts
from jointed_crane.core.model.scene import Scene
from jointed_crane.formats.artwork import Reading
from jointed_crane.formats.bring_in import read_again, read_artwork
from jointed_crane.formats.coming_in import parts_of
from jointed_crane.formats.comparing import compared, origins

HEAD = 'xmlns="http://www.w3.org/2000/svg" width="300" height="100"'


def svg(*layers):
    return f"<svg {HEAD}>{''.join(layers)}</svg>".encode()


def box(x, colour="red", name="", size=20, label=""):
    words = f' id="{name}"' if name else ""
    words += f' x:label="{label}" xmlns:x="urn:x"' if label else ""
    return f'<g{words}><rect x="{x}" y="5" width="{size}" height="{size}" fill="{colour}"/></g>'


class AgainTests(unittest.TestCase):
    def brought_in(self, data, opened=()):
        artwork = read_artwork(data, "f.svg", Reading("layers", opened))
        parts = parts_of(artwork, map("p{}".format, count()).__next__)
        return applied(Scene("s", "S"), [AddParts(parts)])

    def states(self, scene, data):
        artwork = read_again(data, "f.svg", origins(scene, "f.svg"))
        found = compared(scene, artwork)
        return [(change.state, tuple(part for part, _ in change.known)) for change in found]

    def test_the_same_file_changes_nothing_whatever_its_layers_are_called(self):
        for data in (
            svg(box(0), box(40), box(80)),
            svg(box(0, label="Leg"), box(40, label="Leg"), box(80, label="Leg")),
            svg(box(0, name="a"), box(40, name="g12"), box(80)),
            svg(box(0), box(0), box(0)),
        ):
            scene = self.brought_in(data)
            self.assertEqual(self.states(scene, data), [("same", (f"p{n}",)) for n in range(3)])

    def test_layers_without_names_keep_their_parts_when_one_comes_in_before_them(self):
        scene = self.brought_in(svg(box(0, "red"), box(100, "green"), box(200, "blue")))
        after = svg(box(50, "black"), box(0, "red"), box(104, "lime"), box(200, "blue"))
        self.assertEqual(
            self.states(scene, after), [("new", ()), ("same", ("p0",)), ("changed", ("p1",)), ("same", ("p2",))]
        )

    def test_an_id_counts_more_than_place_and_name(self):
        scene = self.brought_in(svg(box(0, name="near"), box(100, name="far")))
        after = svg(box(100, "blue", "far"), box(0, "blue", "near"))
        self.assertEqual(self.states(scene, after), [("changed", ("p1",)), ("changed", ("p0",))])

    def test_layers_of_one_name_are_told_apart_by_their_place_and_then_their_shape(self):
        scene = self.brought_in(svg(box(0, label="Leg"), box(100, label="Leg")))
        after = svg(box(0, "blue", label="Leg"), box(100, "blue", label="Leg"))
        self.assertEqual(self.states(scene, after), [("changed", ("p0",)), ("changed", ("p1",))])

    def test_a_layer_that_is_gone_is_said_to_be(self):
        scene = self.brought_in(svg(box(0, name="near"), box(100, name="far")))
        self.assertEqual(self.states(scene, svg(box(0, name="near"))), [("same", ("p0",)), ("gone", ("p1",))])

    def test_a_group_that_came_in_opened_is_opened_again(self):
        data = svg(f"<g>{box(0)}{box(50, 'green')}</g>", box(200, "blue"))
        scene = self.brought_in(data, {"0"})
        self.assertEqual(len(scene.parts), 3)
        self.assertEqual([state for state, _ in self.states(scene, data)], ["same"] * 3)

    def test_drawings_of_an_older_version_without_id_and_place_still_find_their_layers(self):
        data = svg(box(0, name="near"), box(100, name="far"))
        scene = self.brought_in(data)
        older = []
        for part in scene.parts:
            (drawing,) = part.drawings
            older.append(replace(part, drawings=(replace(drawing, source=replace(drawing.source, id="", path="")),)))
        self.assertEqual(self.states(scene.with_parts(older), data), [("same", ("p0",)), ("same", ("p1",))])
