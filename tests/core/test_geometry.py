import unittest

import numpy as np
import shapely
from hypothesis import given
from hypothesis import strategies as st
from scipy.linalg import polar as scipy_polar
from scipy.spatial.transform import Rotation
from shapely.geometry import Point

from jointed_crane.core.geometry import fields, trigonometric
from jointed_crane.core.geometry.decomposition import polar, quaternion, rotation_matrices, rotation_shear_scale
from jointed_crane.core.geometry.nine_points import at_fraction, fraction_of, nine_points
from jointed_crane.core.geometry.plane import cosine_and_sine
from jointed_crane.core.outlines.outline import filled_area, painted, stroked_area
from jointed_crane.core.outlines.patches import Stroke
from jointed_crane.core.outlines.polylines import Subpaths, polylines
from tests.strategies import examples, seeds


class FieldTests(unittest.TestCase):
    """Matrices of numbers and arrays against NumPy's own products."""

    def test_product_and_application_equal_numpy(self):
        random = np.random.default_rng(0)
        for _ in range(30):
            a, b = (
                fields.unstacked(random.choice([0.0, 1.0, 2.5], (5, 3, 3)) * random.random((1, 3, 3))) for _ in range(2)
            )
            column = [0.0, 1.0, random.random(5)]
            expected = fields.stacked(a, (5,)) @ fields.stacked(b, (5,))
            np.testing.assert_allclose(fields.stacked(fields.product(a, b), (5,)), expected)
            stacked = np.stack([np.broadcast_to(value, 5) for value in column], axis=-1)
            found = np.stack([np.broadcast_to(value, 5) for value in fields.applied(a, column)], axis=-1)
            np.testing.assert_allclose(found, np.einsum("nij,nj->ni", fields.stacked(a, (5,)), stacked))

    def test_what_never_varies_stays_a_number(self):
        flat = fields.product(fields.turned(2, np.array([10.0, 20.0])), fields.IDENTITY)
        self.assertEqual([flat[0][2], flat[2][0], flat[2][2]], [0.0, 0.0, 1.0])

    def test_a_turn_about_each_axis_is_that_of_scipy(self):
        for axis, name in enumerate("xyz"):
            found = fields.stacked(fields.turned(axis, 33.0), ())
            np.testing.assert_allclose(found, Rotation.from_euler(name, 33, degrees=True).as_matrix(), atol=1e-15)


class DecompositionTests(unittest.TestCase):
    @given(seeds)
    @examples(60)
    def test_rotation_shear_and_scale_multiply_back(self, seed):
        random = np.random.default_rng(seed)
        linear = random.normal(size=(3, 3))
        signs = random.choice([-1.0, 1.0], 3)
        rotation, shear, scale = rotation_shear_scale(linear, signs)
        k = np.array([[1, shear[0], shear[1]], [0, 1, shear[2]], [0, 0, 1]])
        np.testing.assert_allclose(rotation @ k @ np.diag(scale), linear, atol=1e-9 * max(1, np.abs(shear).max()))
        np.testing.assert_allclose(rotation @ rotation.T, np.eye(3), atol=1e-12)
        self.assertAlmostEqual(np.linalg.det(rotation), 1.0)
        self.assertEqual(list(np.sign(scale[1:])), list(signs[1:]))

    @given(seeds)
    @examples(40)
    def test_polar_is_scipys_but_for_the_mirror(self, seed):
        linear = np.random.default_rng(seed).normal(size=(3, 3))
        rotation, stretch = polar(linear[None])
        np.testing.assert_allclose(rotation[0] @ stretch[0], linear, atol=1e-12)
        self.assertAlmostEqual(np.linalg.det(rotation[0]), 1.0)
        if np.linalg.det(linear) > 0:
            expected = scipy_polar(linear)
            np.testing.assert_allclose(rotation[0], expected[0], atol=1e-8)
            np.testing.assert_allclose(stretch[0], expected[1], atol=1e-8)

    def test_quaternions_are_those_of_scipy(self):
        rotations = Rotation.random(20, rng=1)
        np.testing.assert_allclose(rotation_matrices(rotations.as_quat()), rotations.as_matrix(), atol=1e-12)
        for rotation in rotations:
            back = rotation_matrices(np.array(quaternion(rotation.as_matrix())))
            np.testing.assert_allclose(back, rotation.as_matrix(), atol=1e-12)


class NinePointTests(unittest.TestCase):
    def test_nine_points_against_shapely(self):
        box = shapely.box(10, 20, 50, 100)
        points = nine_points((10.0, 20.0, 50.0, 100.0))
        on_edge = [box.exterior.distance(Point(point)) for point in points]
        np.testing.assert_allclose(np.delete(on_edge, 4), 0, atol=1e-12)
        self.assertEqual(tuple(points[4]), box.centroid.coords[0])
        self.assertEqual(tuple(points[0]), (10.0, 20.0))
        self.assertEqual(tuple(points[8]), (50.0, 100.0))

    @given(st.floats(-3, 3), st.floats(-3, 3))
    def test_fractions_and_back(self, x, y):
        bounds = (10.0, 20.0, 50.0, 100.0)
        np.testing.assert_allclose(fraction_of(bounds, at_fraction(bounds, (x, y))), (x, y), atol=1e-12)

    def test_the_middle_and_the_lower_right_corner(self):
        # Common practice, no source: (0.5, 0.5) is the centre, (1, 1) the lower right corner.
        self.assertEqual(at_fraction((0, 0, 400, 400), (0.5, 0.5)), (200, 200))
        self.assertEqual(at_fraction((0, 0, 400, 400), (1, 1)), (400, 400))


class TrigonometricTests(unittest.TestCase):
    def test_where_polynomials_rise_through_0_against_the_roots_that_numpy_finds_of_them_in_e_to_the_it(self):
        m, b, c, p, q = terms = np.random.default_rng(2).normal(size=(5, 300))
        found = list(trigonometric.rises(terms))
        shares = np.pi / trigonometric.SHARES
        for point in range(300):
            both = (q - 1j * p, c - 1j * b, 2 * m, c + 1j * b, q + 1j * p)
            roots = np.roots([each[point] for each in both])
            angles = np.angle(roots[np.abs(np.abs(roots) - 1) < 1e-9])
            angles = angles[angles >= 0]
            alone = angles[[np.sum(angles // shares == angle // shares) == 1 for angle in angles]]
            slopes = trigonometric.values(
                trigonometric.derivative(np.repeat(terms[:, point, None], len(alone), axis=1)), alone
            )
            rising = sorted(alone[slopes > 0])
            own = sorted(angle[point] for angle, is_there in found if is_there[point])
            own = [angle for angle in own if np.sum(angles // shares == angle // shares) == 1]
            np.testing.assert_allclose(own, rising, rtol=0, atol=1e-9)

    def test_the_square_of_what_turns_is_one(self):
        first, along, across = np.random.default_rng(3).normal(size=(3, 2, 50))
        terms = trigonometric.squared_length(first, along, across)
        for angle in np.linspace(-7, 7, 15):
            end = first + np.cos(angle) * along + np.sin(angle) * across
            np.testing.assert_allclose(
                trigonometric.values(terms, np.full(50, angle)), (end**2).sum(axis=0), rtol=1e-11
            )

    def test_cosine_and_sine_by_tangents_are_those_of_numpy(self):
        angles = np.concatenate([np.linspace(-40, 40, 4001), np.arange(-8, 9) * np.pi / 2, [0.0, 1e-300, 1e6]])
        cosine, sine = cosine_and_sine(angles)
        np.testing.assert_allclose(cosine, np.cos(angles), rtol=0, atol=1e-15)
        np.testing.assert_allclose(sine, np.sin(angles), rtol=0, atol=1e-15)


class OutlineTests(unittest.TestCase):
    def test_a_circle_of_four_cubics_has_its_area(self):
        k = 0.5522847498  # a quarter circle as a cubic is off by at most 2.7e-4 of the radius (from memory)
        quarter = np.array([(100, 0), (100, 100 * k), (100 * k, 100), (0, 100)])
        turn = np.array([[0.0, 1.0], [-1.0, 0.0]])
        quarters = [quarter @ np.linalg.matrix_power(turn, n) for n in range(4)]
        (lines,) = polylines([Subpaths(np.array(quarters).ravel().tolist(), [False] * 4, [4])])
        area = filled_area(lines)
        self.assertLess(abs(area.area - np.pi * 100**2) / (np.pi * 100**2), 1e-3)

    def test_fill_rules(self):
        outer = np.array([(0, 0), (90, 0), (90, 90), (0, 90), (0, 0)], dtype=float)
        inner = np.array([(30, 30), (60, 30), (60, 60), (30, 60), (30, 30)], dtype=float)
        self.assertAlmostEqual(filled_area([outer, inner]).area, 8100)
        self.assertAlmostEqual(filled_area([outer, inner[::-1]]).area, 7200)
        self.assertAlmostEqual(filled_area([outer, inner], is_even_odd=True).area, 7200)

    def test_a_stroke_with_round_caps_is_a_capsule(self):
        area = stroked_area([np.array([(0.0, 0.0), (50.0, 0.0)])], Stroke(20, "round"))
        expected = Point(0, 0).buffer(10, quad_segs=400).union(shapely.box(0, -10, 50, 10))
        expected = expected.union(Point(50, 0).buffer(10, quad_segs=400))
        self.assertLess(area.symmetric_difference(expected).area / expected.area, 2e-3)

    def test_nothing_painted_is_none(self):
        self.assertIsNone(painted([filled_area([np.array([(0.0, 0.0), (1.0, 0.0)])])]))
