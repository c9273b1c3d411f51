"""Curves as polylines, and what lines that cross themselves paint: beside curves drawn finely, and winding numbers."""

import unittest

import numpy as np
import shapely
from hypothesis import given
from shapely.geometry import LineString

from jointed_crane.core.outlines.coverage import Windows, filled, windings
from jointed_crane.core.outlines.outline import area_of, filled_area, outline
from jointed_crane.core.outlines.patches import Patch
from jointed_crane.core.outlines.polylines import FLATNESS, Subpaths, polylines
from tests.strategies import examples, seeds


def random_subpaths(random, scale):
    """Subpaths of sides and curves, and for each subpath many points on it."""
    controls, is_side, counts, courses = [], [], [], []
    for _ in range(random.integers(1, 4)):
        at = random.uniform(-80, 80, 2)
        course = [at[None]]
        counts.append(int(random.integers(1, 7)))
        for _ in range(counts[-1]):
            side = bool(random.random() < 0.4)
            inner = random.uniform(-80, 80, (3, 2))
            piece = np.array([at, *inner])
            u = np.linspace(0, 1, 300)[:, None]
            if side:
                course.append(at + u * (inner[2] - at))
            else:
                weights = ((1 - u) ** 3, 3 * u * (1 - u) ** 2, 3 * u**2 * (1 - u), u**3)
                course.append(sum(weight * point for weight, point in zip(weights, piece, strict=True)))
            controls.append(piece)
            is_side.append(side)
            at = inner[2]
        courses.append(np.concatenate(course))
    return Subpaths(np.array(controls).ravel().tolist(), is_side, counts, scale), courses


class PolylineTests(unittest.TestCase):
    @given(seeds)
    @examples(20)
    def test_a_polyline_lies_on_its_curves_as_finely_as_they_are_drawn(self, seed):
        random = np.random.default_rng(seed)
        scale = float(random.choice([0.05, 1.0, 4.0]))
        subpaths, courses = random_subpaths(random, scale)
        (lines,) = polylines([subpaths])
        for line, course in zip(lines, courses, strict=True):
            np.testing.assert_allclose(line[[0, -1]], course[[0, -1]], rtol=0, atol=1e-12)
            away = shapely.distance(LineString(line), shapely.points(course)).max()
            self.assertLess(away * scale, FLATNESS)

    @given(seeds)
    @examples(10)
    def test_many_shapes_at_once_are_what_each_is_alone(self, seed):
        random = np.random.default_rng(seed)
        shapes = [random_subpaths(random, 1.0)[0] for _ in range(30)] + [Subpaths([], [], [])]
        for together, shape in zip(polylines(shapes * 20), shapes * 20, strict=True):
            for ours, theirs in zip(together, next(polylines([shape])), strict=True):
                np.testing.assert_array_equal(ours, theirs)

    def test_what_leaves_the_numbers_is_left_out_alone(self):
        fine = [0, 0, 0, 0, 9, 9, 9, 9]
        (lines,) = polylines([Subpaths([*fine, *[np.inf, 0.0] * 4, *fine], [True, False, True], [1, 1, 1])])
        self.assertEqual([line.tolist() for line in lines], [[[0, 0], [9, 9]]] * 2)


class CrossingTests(unittest.TestCase):
    @given(seeds)
    @examples(30)
    def test_a_line_that_crosses_itself_paints_what_it_goes_round(self, seed):
        """SVG 2, 13.4.2, nonzero: by winding numbers on a grid."""
        random = np.random.default_rng(seed)
        points = random.uniform(4, 196, (int(random.integers(4, 14)), 2))
        grid = Windows(np.array([200]), np.array([200]))
        winding = windings(points, np.roll(points, -1, axis=0), grid, np.zeros(len(points), dtype=np.intp))
        cells = filled(winding, is_even_odd=False).sum()
        crowd = [Patch((points,)), *(Patch((np.array([(0, 0), (1, 0), (1, 1.0)]) + k,)) for k in (300, 310, 320) * 3)]
        self.assertAlmostEqual(filled_area([points]).area / cells, 1.0, delta=0.02)
        alone = shapely.unary_union([area_of(patch) for patch in crowd])
        np.testing.assert_allclose(outline(crowd)[0], alone.bounds, rtol=0, atol=1e-9)

    def test_two_lobes_of_equal_size_that_go_round_either_way_are_both_painted(self):
        bow_tie = np.array([(0, 0), (10, 10), (10, 0), (0, 10.0)])
        self.assertAlmostEqual(filled_area([bow_tie]).area, 50)
        self.assertEqual(outline([Patch((bow_tie,))])[0], (0, 0, 10, 10))


if __name__ == "__main__":
    unittest.main()
