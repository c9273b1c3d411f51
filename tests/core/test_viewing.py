"""Planes in space as views see them: the pinhole formula, SciPy's rotations, and a buffer of depths in NumPy."""

import unittest
from itertools import combinations

import numpy as np
from scipy.spatial.transform import Rotation
from shapely import Point, Polygon

from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.geometry.decomposition import quaternion
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.viewing.order import painted
from jointed_crane.core.viewing.pieces import in_pieces
from jointed_crane.core.viewing.planes import Planes
from jointed_crane.core.viewing.projection import planar, seen_from
from jointed_crane.core.viewing.seeing import back_through, near_enough, seen, through
from jointed_crane.core.viewing.view import (
    STAGE,
    View,
    angle_of_lens,
    focal_of_lens,
    lens_of_angle,
    looking,
    straight,
)
from tests.strategies import TIMES, random_scene


def random_view(random, is_parallel=False):
    turn = Rotation.random(random_state=np.random.RandomState(int(random.integers(2**31))))
    place, centre = tuple(random.normal(size=3) * 900), tuple(random.normal(size=2) * 300)
    focal = None if is_parallel else float(random.uniform(50, 3000))
    scale, near = random.uniform((0.1, 0.1), (4, 50)).tolist()
    return View(place, tuple(turn.as_quat()), focal, scale, centre, near)


def pinhole(view, places):
    """Section 6.1 of Hartley and Zisserman, with SciPy's rotation; the depth is what lies along the line of sight."""
    camera = Rotation.from_quat(view.orientation).inv().apply(places - np.array(view.place))
    depth = -camera[:, 2]
    scale = view.scale if view.focal is None else (view.focal / depth)[:, None]
    return np.array(view.centre) + camera[:, :2] * scale, depth


class MapTests(unittest.TestCase):
    def test_maps_are_those_of_a_pinhole_camera_for_random_cameras_and_planes(self):
        random = np.random.default_rng(5)
        pose = evaluate(random_scene(5, 8, is_deep=True), np.array([0.0, 13.0]))
        points = random.normal(size=(5, 2)) * 80
        space = np.column_stack([points, np.zeros(5), np.ones(5)])
        for number in range(1_000):
            view = random_view(random, is_parallel=number % 4 == 0)
            sight = seen(pose, view)
            for row, column in ((0, 0), (number % len(pose.part_ids), 1)):
                there = (pose.world[row, column] @ space.T).T[:, :3]
                wanted, depth = pinhole(view, there)
                deep = points @ sight.depths[row, column, :2] + sight.depths[row, column, 2]
                np.testing.assert_allclose(deep, depth, rtol=1e-9, atol=1e-9)
                if view.focal is None or (np.abs(depth) > 1).all():
                    found = through(sight.maps[row, column], points)
                    np.testing.assert_allclose(found, wanted, rtol=1e-9, atol=1e-9 * np.abs(wanted).max())

    def test_the_stage_itself_is_seen_number_for_number(self):
        for seed in range(5):
            pose = evaluate(random_scene(seed, 8, is_deep=seed > 2), np.arange(0.0, 48.0, 5.0))
            maps = seen(pose).maps
            a, b, c, d, e, f = np.moveaxis(planar(pose.world), -1, 0)
            np.testing.assert_array_equal(
                maps[..., :2, :], np.stack([np.stack([a, c, e], -1), np.stack([b, d, f], -1)], -2)
            )
            np.testing.assert_array_equal(maps[..., 2, :], np.broadcast_to([0.0, 0.0, 1.0], maps[..., 2, :].shape))

    def test_what_is_seen_at_a_place_is_found_again(self):
        random = np.random.default_rng(8)
        pose = evaluate(random_scene(9, 8, is_deep=True), np.array([7.0]))
        for number in range(100):
            sight = seen(pose, random_view(random, is_parallel=number % 3 == 0))
            points = random.normal(size=(6, 2)) * 60
            for row in range(len(pose.part_ids)):
                maps, depths = sight.maps[row, 0], sight.depths[row, 0]
                if (points @ depths[:2] + depths[2] > 1).all() and np.linalg.cond(maps) < 1e8:
                    again = back_through(maps, through(maps, points))
                    np.testing.assert_allclose(again, points, rtol=1e-6, atol=1e-6)

    def test_sides_show_what_they_are_called(self):
        place = np.array([[30.0, 70.0, 500.0]])
        for side, wanted in (
            ("front", (30, 70)), ("back", (-30, 70)), ("top", (30, 500)), ("below", (30, -500)), ("left", (500, 70)),
            ("right", (-500, 70)),
        ):  # fmt: skip
            np.testing.assert_allclose(pinhole(straight(side), place)[0][0], wanted, atol=1e-9)
            found = straight(side).matrix @ [*place[0], 1.0]
            np.testing.assert_allclose(found, [*wanted, 1.0], atol=1e-9)

    def test_looking_at_a_goal_sees_it_in_the_centre_upright(self):
        random = np.random.default_rng(2)
        for _ in range(50):
            place, goal = random.normal(size=(2, 3)) * 400
            view = looking(tuple(place), tuple(goal), 800.0, (640.0, 360.0))
            wide, down, _ = view.matrix @ [*goal, 1.0]
            depth = float(view.depths @ [*goal, 1.0])
            self.assertAlmostEqual(depth, np.linalg.norm(place - goal), places=6)
            np.testing.assert_allclose([wide / depth, down / depth], (640, 360), atol=1e-6)
            lower = view.matrix @ [*(goal + np.array([0.0, 1.0, 0.0])), 1.0]
            self.assertAlmostEqual(lower[0] / lower[2], 640.0, places=6)
            self.assertGreater(lower[1] / lower[2], 360.0 if abs(place[1] - goal[1]) < 300 else 0.0)
            rolled = looking(tuple(place), tuple(goal), 800.0, roll=90.0).axes
            np.testing.assert_allclose(rolled[:, 0], view.axes[:, 1], atol=1e-9)

    def test_lenses(self):
        # A normal lens: 50 mm before 36 mm sees 39.6 degrees (common practice, no source).
        self.assertAlmostEqual(angle_of_lens(50.0), 39.6, places=1)
        self.assertAlmostEqual(lens_of_angle(angle_of_lens(85.0)), 85.0)
        half = np.tan(np.deg2rad(angle_of_lens(24.0)) / 2) * focal_of_lens(24.0, 1280.0)
        self.assertAlmostEqual(half, 640.0)


class FaceTests(unittest.TestCase):
    def test_a_turned_part_shows_its_back_and_a_mirrored_one_its_face(self):
        for rest, wanted in (
            ({}, 1), ({"turn.y": 89.0}, 1), ({"turn.y": 91.0}, -1), ({"turn.x": 180.0}, -1), ({"scale.x": -1.0}, 1),
            ({"scale.x": -1.0, "turn.y": 170.0}, -1), ({"scale.z": -1.0}, -1), ({"turn.y": 90.0}, 0),
            ({"scale.x": 0.0}, 0),
        ):  # fmt: skip
            pose = evaluate(Scene("s", "S", parts=(Part("a", "A", rest=rest),)), np.array([0.0]))
            self.assertEqual(seen(pose).faces[0, 0], wanted, rest)
            back = seen(pose, straight("back")).faces[0, 0]
            self.assertEqual(back, -wanted, rest)

    def test_a_near_camera_sees_the_side_it_stands_on(self):
        random = np.random.default_rng(4)
        for _ in range(100):
            turn = Rotation.random(random_state=np.random.RandomState(int(random.integers(2**31))))
            part = Part("a", "A", orientation=quaternion(turn.as_matrix()), rest={"move.x": 50.0})
            pose = evaluate(Scene("s", "S", parts=(part,)), np.array([0.0]))
            view = random_view(random)
            side = np.sign((np.array(view.place) - [50.0, 0.0, 0.0]) @ turn.as_matrix()[:, 2])
            self.assertEqual(seen(pose, view).faces[0, 0], side)


class NearTests(unittest.TestCase):
    def test_what_is_cut_is_what_lies_deep_enough(self):
        random = np.random.default_rng(6)
        box = np.array([(0.0, 0.0), (90.0, 0.0), (90.0, 60.0), (0.0, 60.0)])
        for _ in range(200):
            depths = np.array([*random.normal(size=2), random.normal() * 60])
            kept = near_enough(box, depths, 5.0)
            shape = Polygon(kept) if len(kept) > 2 else Polygon()
            for point in random.uniform((0, 0), (90, 60), size=(20, 2)):
                deep = point @ depths[:2] + depths[2]
                if abs(deep - 5.0) > 1e-6:
                    self.assertEqual(shape.buffer(1e-7).contains(Point(point)), deep > 5.0)
        self.assertIs(near_enough(box, np.array([0.0, 0.0, 9.0]), 5.0), box)


#: The picture in which piles are compared, px.
WIDE, HIGH = 96, 72


def inside(corners, pixels):
    """Which pixels lie in a convex polygon, and how far each is from its nearest side, px."""
    sides = np.roll(corners, -1, axis=0) - corners
    length = np.linalg.norm(sides, axis=1)
    sides, corners = sides[length > 1e-9], corners[length > 1e-9]
    normals = np.column_stack([-sides[:, 1], sides[:, 0]]) / np.linalg.norm(sides, axis=1)[:, None]
    away = np.einsum("pk,ck->pc", pixels, normals) - (corners * normals).sum(axis=1)
    (along, down), (to_x, to_y) = sides[0], corners.mean(axis=0) - corners[0]
    if along * to_y - down * to_x < 0:
        away = -away
    return away.min(axis=1) > 0, np.abs(away).min(axis=1)


class OrderTests(unittest.TestCase):
    """Piles of planes that cut each other, painted piece by piece, beside a buffer of depths."""

    def pile(self, random, count):
        quads = []
        for _ in range(count):
            turn = Rotation.random(random_state=np.random.RandomState(int(random.integers(2**31)))).as_matrix()
            size = random.uniform(15, 60, size=2)
            flat = np.array([(-1, -1), (1, -1), (1, 1), (-1, 1)]) * size
            middle = random.normal(size=3) * (25, 20, 20)
            quads.append(flat @ turn[:, :2].T + middle)
        return quads

    def assert_painted(self, quads, view):
        rows, columns = np.mgrid[0:HIGH, 0:WIDE]
        pixels = np.column_stack([columns.ravel() + 0.5, rows.ravel() + 0.5])
        picture = np.full(len(pixels), -1)
        near_edge = np.zeros(len(pixels), dtype=bool)
        pieces = painted(in_pieces(Planes(quads)), view)
        for piece in pieces:
            corners = pinhole(view, piece.corners)[0]
            if Polygon(corners).area < 1e-6:
                continue
            covered, away = inside(corners, pixels)
            picture[covered] = piece.row
            near_edge |= away < 1.0
        nearest, buffer = np.full(len(pixels), -1), np.full(len(pixels), np.inf)
        for row, quad in enumerate(quads):
            corners, depths = pinhole(view, quad)
            if Polygon(corners).area < 1e-3:
                near_edge |= inside(corners, pixels)[0]
                continue
            covered, _ = inside(corners, pixels)
            # Over the picture one over the depth is linear; in parallel the depth is.
            told = depths if view.focal is None else 1 / depths
            plane = np.linalg.lstsq(np.column_stack([corners, np.ones(4)]), told, rcond=None)[0]
            deep = np.column_stack([pixels, np.ones(len(pixels))]) @ plane
            deep = deep if view.focal is None else 1 / deep
            is_nearer = covered & (deep < buffer)
            nearest[is_nearer], buffer[is_nearer] = row, deep[is_nearer]
        wrong = (picture != nearest) & ~near_edge
        self.assertEqual(int(wrong.sum()), 0)
        return len(pieces)

    def test_random_piles_are_painted_as_a_buffer_of_depths_shows_them(self):
        cut = 0
        for seed in range(40 if TIMES == 1 else 300):
            random = np.random.default_rng(seed)
            quads = self.pile(random, int(random.integers(2, 13)))
            place = random.normal(size=3)
            place = tuple(place / np.linalg.norm(place) * 400)
            centre = (WIDE / 2, HIGH / 2)
            view = looking(place, (0.0, 0.0, 0.0), 240.0, centre)
            if seed % 2:
                view = View(place, view.orientation, None, 0.6, centre)
            with self.subTest(seed=seed):
                cut += self.assert_painted(quads, view) > len(quads)
        self.assertGreater(cut, 12)

    def test_what_lies_in_one_plane_keeps_its_order_and_is_whole(self):
        random = np.random.default_rng(1)
        turn = Rotation.from_euler("xyz", [20, 40, 60], degrees=True).as_matrix()
        quads = [
            np.array([(0, 0, 0), (20, 0, 0), (20, 20, 0), (0, 20, 0)]) @ turn.T
            + turn[:, :2] @ random.normal(size=2) * 9
            for _ in range(30)
        ]
        for view in (STAGE, straight("top"), looking((0.0, 0.0, -900.0), (0.0, 0.0, 0.0), 300.0)):
            pieces = painted(in_pieces(Planes(quads)), view)
            order = [piece.row for piece in pieces]
            self.assertEqual(sorted(order), list(range(30)))
            for below, above in combinations(range(30), 2):
                overlap = Polygon(seen_from(quads[below], view)).intersection(Polygon(seen_from(quads[above], view)))
                if overlap.area > 1e-6:
                    self.assertLess(order.index(below), order.index(above))

    def test_what_lies_deeper_than_all_others_is_painted_first_and_whole(self):
        layers = [np.array([(0, 0, z), (9, 0, z), (9, 9, z), (0, 9, z)], dtype=float) for z in (40, -300, 0, 7, -20)]
        for view, wanted in ((STAGE, [1, 4, 2, 3, 0]), (straight("back"), [0, 3, 2, 4, 1])):
            pieces = painted(in_pieces(Planes(layers)), view)
            self.assertEqual([piece.row for piece in pieces], wanted)
            self.assertTrue(all(piece.is_whole for piece in pieces))

    def test_planes_without_area_and_many_that_all_cut_each_other(self):
        line = np.array([(0.0, 0.0, 0.0), (9.0, 0.0, 0.0), (4.0, 0.0, 0.0)])
        self.assertEqual(painted(in_pieces(Planes([line, np.zeros((4, 3)), np.zeros((0, 3))])), STAGE), [])
        upright = np.array([(0.0, 0.0, 0.0), (0.0, 9.0, 0.0), (0.0, 9.0, 9.0), (0.0, 0.0, 9.0)])
        self.assertEqual(
            {piece.row for piece in painted(in_pieces(Planes([upright, upright + 1.0, upright])), STAGE)}, {0, 1, 2}
        )
        fan = [
            np.array([(-50.0, -50 + n, 0.0), (50.0, -50 + n, 0.0), (50.0, 50 - n, 1.0 + n), (-50.0, 50 - n, 1.0 + n)])
            for n in range(0, 60, 2)
        ]
        pieces = painted(in_pieces(Planes([*fan, *(quad[:, [1, 0, 2]] for quad in fan)])), STAGE)
        self.assertEqual({piece.row for piece in pieces}, set(range(60)))
        self.assertLess(len(pieces), 6_000)
