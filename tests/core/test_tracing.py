import unittest
from unittest import mock

import numpy as np
import shapely
from hypothesis import given
from shapely.geometry import Polygon

from jointed_crane.core.outlines.coverage import Windows, filled, windings
from jointed_crane.core.outlines.outline import area_of, outline
from jointed_crane.core.outlines.patches import MOST_VERTICES, Patch, Stroke
from jointed_crane.core.outlines.tracing import traced, traced_rings
from tests.strategies import examples, seeds


def even_odd(rings):
    area = Polygon()
    for ring in rings:
        area = area.symmetric_difference(shapely.make_valid(Polygon(ring)))
    return area


def circle(x, y, radius, steps=48):
    angles = np.linspace(0, 2 * np.pi, steps, endpoint=False)
    return np.stack([x + radius * np.cos(angles), y + radius * np.sin(angles)], axis=1)


def drawn(points, *sizes):
    """Windings of one closed line in windows of so many rows and columns side by side, each from the same corner."""
    windows = Windows(*np.array([(size, size) for size in sizes]).T)
    starts, ends = (np.tile(corners, (len(sizes), 1)) for corners in (points, np.roll(points, -1, axis=0)))
    result = windings(starts, ends, windows, np.repeat(np.arange(len(sizes)), len(points)))
    return [
        result[begin : begin + size**2].reshape(size, size) for begin, size in zip(windows.begins, sizes, strict=True)
    ]


class CoverageTests(unittest.TestCase):
    @given(seeds)
    @examples(40)
    def test_every_cell_holds_the_area_that_shapely_finds_in_it(self, seed):
        random = np.random.default_rng(seed)
        points = random.uniform(0.2, 8.8, (3, 2))
        triangle = Polygon(points)
        small, found, large = drawn(points, 5, 9, 12)
        wanted = [[triangle.intersection(shapely.box(x, y, x + 1, y + 1)).area for x in range(9)] for y in range(9)]
        np.testing.assert_allclose(np.abs(found), wanted, atol=1e-9)
        np.testing.assert_allclose(small, found[:5, :5], atol=1e-9)
        np.testing.assert_allclose(large, np.pad(found, (0, 3)), atol=1e-9)

    def test_the_fill_rules_of_svg(self):
        winding = np.array([-2.0, -1.0, 0.0, 0.5, 1.0, 2.0, 3.0])
        np.testing.assert_allclose(filled(winding, False), [1, 1, 0, 0.5, 1, 1, 1])
        np.testing.assert_allclose(filled(winding, True), [0, 1, 0, 0.5, 1, 0, 1])


class TracingTests(unittest.TestCase):
    """The traced outline against the exact one of shapely."""

    def assert_alike(self, patches):
        bounds, rings = traced(patches)
        exact = shapely.unary_union([shapely.make_valid(area_of(patch)) for patch in patches])
        np.testing.assert_allclose(bounds, exact.bounds, atol=0.05)
        self.assertLess(even_odd(rings).symmetric_difference(exact).area, 0.03 * exact.area)

    def test_fills_strokes_holes_and_clips(self):
        ring = (circle(50, 50, 40), circle(50, 50, 20)[::-1])
        corner = (np.array([(0.0, 0.0), (60.0, 0.0), (60.0, 80.0)]),)
        turned = np.array([[1.2, -0.4, 30.0], [0.5, 0.9, 10.0], [0, 0, 1]])
        half = (Patch((np.array([(0.0, 0.0), (70.0, 0.0), (70.0, 200.0), (0.0, 200.0)]),)),)
        self.assert_alike([Patch(ring)])
        self.assert_alike([Patch((circle(50, 50, 40), circle(60, 50, 25)), is_even_odd=True)])
        self.assert_alike([Patch(ring), Patch((circle(120, 60, 25),))])
        for join in ("miter", "round", "bevel"):
            for cap in ("butt", "round", "square"):
                self.assert_alike([Patch(corner, turned, stroke=Stroke(9.0, cap, join))])
        bounds, rings = traced([Patch(ring, clips=(half,))])
        exact = area_of(Patch(ring, clips=(half,)))
        np.testing.assert_allclose(bounds, exact.bounds, atol=0.05)
        self.assertLess(even_odd(rings).symmetric_difference(exact).area, 0.03 * exact.area)

    def test_a_clip_that_leaves_nothing_leaves_nothing(self):
        away = (Patch((circle(900, 900, 5),)),)
        self.assertIsNone(traced([Patch((circle(50, 50, 40),), clips=(away,))]))
        self.assertIsNone(traced([]))

    @given(seeds)
    @examples(8)
    def test_a_crowd_drawn_together_is_traced_as_one_by_one(self, seed):
        """With holes, turned and mirrored, round either way."""
        random = np.random.default_rng(seed)
        matrices = [np.eye(3), np.diag([-1.0, 1.0, 1.0]), np.array([[1.2, -0.4, 30.0], [0.5, 0.9, 10.0], [0, 0, 1]])]
        crowd = []
        for place in range(420):
            x, y, radius = 30 * (place % 20), 30 * (place // 20), random.uniform(16, 28)
            lines = [circle(x, y, radius), circle(x, y, radius / 2)[::-1]][: 1 + place % 2]
            way = random.choice([-1, 1])
            crowd.append(Patch(tuple(line[::way] for line in lines), matrices[place % 3]))
        together, one_by_one = traced(crowd), None
        with mock.patch("jointed_crane.core.outlines.tracing._MOST_ALONE", 10_000):
            one_by_one = traced(crowd)
        np.testing.assert_allclose(together[0], one_by_one[0], rtol=0, atol=1e-9)
        ours, theirs = (sum(Polygon(ring).area for ring in rings) for _, rings in (together, one_by_one))
        self.assertAlmostEqual(ours / theirs, 1.0, delta=0.02)

    @given(seeds)
    @examples(6)
    def test_whatever_clips_a_crowd_is_traced_as_what_it_leaves(self, seed):
        """Clips of several patches, clips that are clipped, by strokes, even-odd, and of very many corners."""
        random = np.random.default_rng(seed)
        heavy = (Patch((circle(90, 90, 80, 900),)),)

        def clip(x, y):
            parts = [Patch((circle(x, y, 22), circle(x, y, 9)), is_even_odd=True)]
            if random.random() < 0.5:
                line = np.array([(x - 25, y), (x + 25, y + 9.0)])
                parts.append(Patch((line,), stroke=Stroke(12.0), clips=((Patch((circle(x, y, 20),)),),)))
            return tuple(parts)

        crowd = []
        for place in range(36):
            x, y = 29 * (place % 6), 29 * (place // 6)
            clips = [clip(x, y)] if place % 3 else []
            clips += [heavy] if place % 2 else []
            clips += [(Patch((circle(x + 9, y, 18),)),)] if place % 5 == 0 else []
            crowd.append(Patch((circle(x, y, 14),), clips=tuple(clips)))
        exact = shapely.unary_union([area_of(patch) for patch in crowd])
        for alone in (10, 400):
            with mock.patch("jointed_crane.core.outlines.tracing._MOST_ALONE", alone):
                bounds, rings = traced(crowd)
            self.assertTrue(shapely.box(*bounds).buffer(0.05).covers(exact))
            self.assertLess(even_odd(rings).symmetric_difference(exact).area, 0.06 * exact.area)

    @given(seeds)
    @examples(20)
    def test_plain_patches_measured_together_are_what_each_is_alone(self, seed):
        random = np.random.default_rng(seed)
        patches = [Patch((random.uniform(0, 60, (random.integers(3, 7), 2)),)) for _ in range(24)]
        patches += [Patch((np.zeros((4, 2)),)), Patch((circle(9, 9, 4),), stroke=Stroke(2.0))]
        alone = shapely.unary_union([shapely.make_valid(area_of(patch)) for patch in patches])
        bounds, rings = outline(patches) if len(patches) < 400 else (None, None)
        np.testing.assert_allclose(bounds, alone.bounds, atol=0.5)
        self.assertLess(even_odd(rings).symmetric_difference(alone).area, 0.03 * alone.area)

    def test_a_crowd_is_traced_as_its_union(self):
        random = np.random.default_rng(3)
        crowd = [Patch((circle(*random.uniform(0, 900, 2), 12),)) for _ in range(1200)]
        bounds, rings = outline(crowd)
        exact = shapely.unary_union([area_of(patch) for patch in crowd])
        np.testing.assert_allclose(bounds, exact.bounds, atol=1e-9)
        self.assertLessEqual(sum(map(len, rings)), MOST_VERTICES)
        # Some five corners are left to each blob, and a polygon inside a circle has three quarters of its area.
        found = even_odd(rings)
        self.assertGreater(found.intersection(exact).area, 0.7 * exact.area)
        self.assertLess(found.difference(exact).area, 0.1 * exact.area)

    def test_a_scribble_of_any_length_gives_an_outline_of_bounded_size(self):
        random = np.random.default_rng(4)
        for count in (300, 3_000, 30_000):
            points = random.uniform(0, 800, (count, 2))
            for patch in (Patch((points,)), Patch((points,), stroke=Stroke(2.0))):
                bounds, rings = outline([patch])
                self.assertLessEqual(sum(map(len, rings)), MOST_VERTICES)
                self.assertTrue(np.isfinite(bounds).all())
                self.assertTrue(rings)

    def test_grain_is_left_out(self):
        mask = np.zeros((80, 80))
        mask[20:60, 20:60] = 1.0
        mask[::7, ::7] = 1 - mask[::7, ::7]
        self.assertEqual(len(traced_rings(mask, 1.0, (0.0, 0.0))), 1)
