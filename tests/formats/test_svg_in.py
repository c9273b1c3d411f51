import unittest
from pathlib import Path

import numpy as np

from jointed_crane.core.outlines.polylines import polylines
from jointed_crane.formats.svg.layers import read_svg
from jointed_crane.formats.svg.path_data import subpaths_of
from jointed_crane.formats.svg.viewports import length

ART = Path(__file__).parents[1] / "art"
HEAD = 'xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" xmlns:e="urn:editor"'


def svg(body: str, attributes: str = 'width="200" height="100"') -> bytes:
    return f"<svg {HEAD} {attributes}>{body}</svg>".encode()


def names(data: bytes) -> list[str]:
    return [piece.name for piece in read_svg(data, "drawing.svg").pieces]


class LayerTests(unittest.TestCase):
    def test_each_top_level_layer_becomes_a_piece_from_back_to_front(self):
        found = names(svg('<g id="tail"><rect width="9" height="9"/></g><g id="body"><rect width="9" height="9"/></g>'))
        self.assertEqual(found, ["tail", "body"])

    def test_loose_elements_between_groups_keep_their_place_in_the_painting_order(self):
        body = '<rect id="sky" width="9" height="9"/><g id="hill"><rect width="9" height="9"/></g><circle r="5"/>'
        self.assertEqual(names(svg(body)), ["sky", "hill", "Black circle, upper left"])

    def test_a_group_that_wraps_everything_is_looked_through(self):
        inner = '<g id="a"><rect width="9" height="9"/></g><path id="b" d="M0 0H9V9Z"/>'
        self.assertEqual(names(svg(f'<g id="all"><g id="more" transform="scale(2)">{inner}</g></g>')), ["a", "b"])

    def test_a_single_layer_of_shapes_stays_one_piece(self):
        self.assertEqual(names(svg('<g id="wheel"><circle r="9"/><circle r="4"/></g>')), ["wheel"])

    def test_a_group_that_fades_as_a_whole_is_not_taken_apart(self):
        inner = '<g id="a"><rect width="9" height="9"/></g><g id="b"><rect width="9" height="9"/></g>'
        for effect in ('opacity=".5"', 'style="filter:url(#f)"', 'mask="url(#m)"'):
            self.assertEqual(names(svg(f'<g id="all" {effect}>{inner}</g>')), ["all"])

    def test_names_come_from_label_title_or_id_and_are_unique(self):
        body = (
            '<g id="x1" e:label="Left  wing"><rect width="9" height="9"/></g>'
            '<g id="x2"><title>Right wing</title><rect width="9" height="9"/></g>'
            '<g id="near_leg"><rect width="9" height="9"/></g>'
            '<g id="y" label="Left wing"><rect width="9" height="9"/></g>'
        )
        self.assertEqual(names(svg(body)), ["Left wing", "Right wing", "near leg", "Left wing 2"])

    def test_a_hidden_layer_comes_in_hidden_but_whole(self):
        found = read_svg((ART / "hidden-layers.svg").read_bytes(), "h.svg").pieces
        self.assertEqual([piece.is_shown for piece in found], [True, False, False, True])
        self.assertEqual(found[1].bounds, (60.0, 60.0, 260.0, 160.0))
        self.assertNotIn(b"display", found[1].data)

    def test_a_layer_that_paints_nothing_is_left_out_with_a_note(self):
        found = read_svg(svg('<g id="empty"/><rect width="9" height="9" id="full"/>'), "d.svg")
        self.assertEqual([piece.name for piece in found.pieces], ["full"])
        self.assertIn("empty paints nothing; it was left out.", found.notes)


class MeasuringTests(unittest.TestCase):
    def bounds(self, body: str, attributes: str = 'width="200" height="100"'):
        return read_svg(svg(body, attributes), "d.svg").pieces[0].bounds

    def assert_bounds(self, found, expected, within=0.05):
        np.testing.assert_allclose(found, expected, atol=within)

    def test_a_square_has_its_own_edges(self):
        # Common practice, no source: for a 400 px square the bottom edge is at 400 and the left edge at 0.
        body = '<rect width="400" height="400"/>'
        self.assertEqual(self.bounds(body, 'width="400" height="400"'), (0, 0, 400, 400))

    def test_curves_are_measured_at_their_extremes(self):
        # x of the cubic 0, 0, 100, 100 rises straight; y = 3u(1-u)^2 80 + 3u^2(1-u) 80 has its extreme 60 at u = 1/2.
        self.assert_bounds(self.bounds('<path d="M0 0 C0 80 100 80 100 0"/>'), (0, 0, 100, 60))
        self.assert_bounds(self.bounds('<circle cx="50" cy="40" r="30"/>'), (20, 10, 80, 70))
        self.assert_bounds(self.bounds('<path d="M20 50 A30 30 0 0 1 80 50 Z"/>'), (20, 20, 80, 50))

    def test_strokes_count_with_their_caps_and_joins(self):
        line = '<path d="M20 50 H80" stroke="#000" stroke-width="10" stroke-linecap="{}"/>'
        self.assert_bounds(self.bounds(line.format("butt")), (20, 45, 80, 55))
        self.assert_bounds(self.bounds(line.format("round")), (15, 45, 85, 55))
        self.assert_bounds(self.bounds(line.format("square")), (15, 45, 85, 55))

    def test_the_view_box_and_units_of_the_page(self):
        body = '<rect width="50" height="25"/>'
        self.assert_bounds(self.bounds(body, 'width="2in" height="1in" viewBox="0 0 100 50"'), (0, 0, 96, 48))
        aligned = self.bounds(body, 'width="200" height="200" viewBox="0 0 50 25" preserveAspectRatio="xMidYMax"')
        self.assert_bounds(aligned, (0, 100, 200, 200))

    def test_clips_cut_the_bounds(self):
        body = '<clipPath id="c"><rect x="10" y="10" width="20" height="30"/></clipPath>'
        self.assert_bounds(self.bounds(f'{body}<rect width="90" height="90" clip-path="url(#c)"/>'), (10, 10, 30, 40))

    def test_a_hole_is_no_part_of_the_outline(self):
        piece = read_svg(svg('<path d="M0 0H90V90H0Z M30 30V60H60V30Z"/>'), "d.svg").pieces[0]
        self.assertEqual(len(piece.outline), 2)

    def test_absolute_lengths_are_those_of_css(self):
        # CSS Values and Units 4: 1in = 2.54cm = 25.4mm = 101.6q = 72pt = 6pc = 96px.
        for text in ("1in", "2.54cm", "25.4mm", "101.6q", "72pt", "6pc", "96px", "96"):
            self.assertAlmostEqual(length(text, 0), 96.0, places=9)
        self.assertEqual(length("50%", 300), 150.0)
        self.assertEqual(length("red", 300, 7.0), 7.0)

    def test_path_data_is_read_up_to_where_it_breaks(self):
        broken, nothing = polylines(map(subpaths_of, ("M0 0 L10 0 L10 10 Lfoo", "nonsense")))
        self.assertEqual(broken[0].tolist(), [[0, 0], [10, 0], [10, 10]])
        self.assertEqual(nothing, [])
