import unittest
from dataclasses import replace

import numpy as np
import shapely
from shapely.geometry import LineString, Point, Polygon
from svgelements import Path

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.constraints.between import Between
from jointed_crane.core.constraints.constraint import Goal
from jointed_crane.core.edits import applied
from jointed_crane.core.edits.pictures.making_shapes import AddShape, MoveNode, SetShape
from jointed_crane.core.edits.placing.pivots import MovePivot
from jointed_crane.core.edits.placing.poses import SetValues
from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.measures.round_joints import inscribed_radius
from jointed_crane.core.model.forms import Ellipse, Node, Paint, PenPath, Rectangle, Text
from jointed_crane.core.model.forms import Polygon as RegularPolygon
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.shapes.picture import path_data, shape_drawing

EMPTY = Scene("s", "S")
PEN = PenPath(((Node((0.0, 0.0), None, (30.0, 0.0)), Node((40.0, 40.0), (0.0, -30.0), None), Node((0.0, 40.0))),))


def words(text, width):
    corners = ((0.0, -30.0), (width, -30.0), (width, 0.0), (0.0, 0.0))
    return Text(text, contours=(tuple(map(Node, corners)),))


def area_of(drawing):
    return Polygon(drawing.outline[0], drawing.outline[1:])


class ShapeTests(unittest.TestCase):
    def test_outlines_agree_with_shapely(self):
        corners = shapely.box(10, 20, 110, 70).buffer(-10).buffer(10, quad_segs=64)
        cases = [
            (Rectangle((10.0, 20.0, 110.0, 70.0)), shapely.box(10, 20, 110, 70)),
            (Rectangle((10.0, 20.0, 110.0, 70.0), 10.0), corners),
            (Ellipse((5.0, 6.0), (40.0, 40.0)), Point(5, 6).buffer(40, quad_segs=128)),
            (RegularPolygon((0.0, 0.0), 50.0, 4), Polygon([(0, -50), (50, 0), (0, 50), (-50, 0)])),
            (
                PenPath(((Node((0.0, 0.0)), Node((50.0, 0.0))),), False, Paint("", "#000000", 10.0)),
                LineString([(0, 0), (50, 0)]).buffer(5, quad_segs=64),
            ),
        ]
        for shape, wanted in cases:
            found = area_of(shape_drawing("d", "D", shape))
            self.assertLess(found.symmetric_difference(wanted).area, 0.012 * wanted.area, shape)
            np.testing.assert_allclose(found.bounds, wanted.bounds, atol=0.3)

    def test_path_data_reads_back_as_the_same_curve(self):
        # svgelements is the outside reader of SVG 2 path data.
        path = Path(path_data(PEN))
        for share in np.linspace(0, 1, 9):
            u = share
            wanted = (1 - u) ** 3 * np.array([0, 0]) + 3 * u * (1 - u) ** 2 * np.array([30, 0])
            wanted = wanted + 3 * u**2 * (1 - u) * np.array([40, 10]) + u**3 * np.array([40, 40])
            point = path[1].point(share)
            np.testing.assert_allclose((point.x, point.y), wanted, atol=1e-9)
        self.assertTrue(path_data(PEN).endswith("Z"))
        self.assertFalse(path_data(replace(PEN, is_closed=False)).endswith("Z"))

    def test_a_shape_can_be_changed_and_keeps_its_pivot(self):
        scene = applied(EMPTY, [AddShape("r", Rectangle((0.0, 0.0, 100.0, 40.0)), "Crate", (50.0, 60.0))])
        part = scene.part("r")
        self.assertEqual((part.kind, part.pivot, part.rest), ("shape", (50, 20, 0), {"move.x": 100, "move.y": 80}))
        wider = Rectangle((0.0, 0.0, 200.0, 40.0), 0.0, Paint("#d2512f"))
        after = applied(scene, [SetShape("r", "r-1", wider)])
        self.assertEqual(after.part("r").drawings[0].bounds, (0, 0, 200, 40))
        self.assertNotEqual(after.part("r").drawings[0].art, part.drawings[0].art)
        self.assertEqual(replace(after.part("r"), drawings=()), replace(part, drawings=()))

    def test_the_pivot_of_a_text_keeps_its_share_of_the_box_when_the_words_change_and_the_words_stay(self):
        scene = applied(EMPTY, [AddShape("t", words("Lock", 100.0)), SetValues(("t",), {"turn.z": 30.0})])
        scene = applied(scene, [MovePivot("t", (0.25, 1.0), "fraction")])
        after = applied(scene, [SetShape("t", scene.part("t").drawings[0].id, words("Heron Lock", 220.0))])
        self.assertEqual(scene.part("t").pivot, (25, 0, 0))
        self.assertEqual(after.part("t").pivot, (55, 0, 0))
        np.testing.assert_allclose(evaluate(after, [0.0]).world, evaluate(scene, [0.0]).world, atol=1e-12)

    def test_words_that_a_constraint_places_change_all_the_same_and_their_pivot_stays(self):
        helpers = tuple(Part(name, name, "helper", rest={"move.y": y}) for name, y in (("g", 0.0), ("h", 100.0)))
        scene = applied(replace(EMPTY, parts=helpers), [AddShape("t", words("Lock", 100.0))])
        between = Between(id="b", name="B", goals=(Goal(part="g"), Goal(part="h")))
        part = replace(scene.part("t"), constraints=(between,))
        after = applied(scene.with_parts([part]), [SetShape("t", part.drawings[0].id, words("Heron Lock", 220.0))])
        self.assertEqual(after.part("t").drawings[0].shape.words, "Heron Lock")
        self.assertEqual(after.part("t").pivot, part.pivot)

    def test_nodes_and_handles_of_a_path_are_moved(self):
        scene = applied(EMPTY, [AddShape("p", PEN, "Path", (10.0, 20.0))])
        after = applied(scene, [MoveNode("p", "p-1", 0, 2, (15.0, 70.0))])
        self.assertEqual(after.part("p").drawings[0].shape.contours[0][2].point, (5, 50))
        self.assertEqual(replace(after.part("p"), drawings=()), replace(scene.part("p"), drawings=()))
        bent = applied(scene, [MoveNode("p", "p-1", 0, 1, (60.0, 40.0), "handle_in")])
        node = bent.part("p").drawings[0].shape.contours[0][1]
        self.assertEqual((node.handle_in, node.handle_out), ((10, -20), (-10, 20)))
        broken = applied(scene, [MoveNode("p", "p-1", 0, 1, (60.0, 40.0), "handle_in", breaks=True)])
        self.assertIsNone(broken.part("p").drawings[0].shape.contours[0][1].handle_out)
        for wrong in (MoveNode("p", "p-1", 0, 9, (0.0, 0.0)), MoveNode("p", "p-1", -1, 0, (0.0, 0.0))):
            with self.assertRaises(RuleError):
                applied(scene, [wrong])

    def test_shapes_that_cannot_be_drawn_are_refused(self):
        wrong = [
            Rectangle((0.0, 0.0, 0.0, 5.0)),
            Ellipse((0.0, 0.0), (5.0, -1.0)),
            RegularPolygon((0.0, 0.0), 5.0, 2),
            Rectangle((0.0, 0.0, 5.0, 5.0), 0.0, Paint("red")),
            Rectangle((0.0, 0.0, 5.0, 5.0), 0.0, Paint("")),
            Rectangle((0.0, 0.0, 1e9, 5.0)),
            PenPath(((Node((0.0, 0.0)),),)),
            PenPath(()),
            Text("Empty"),
        ]
        for shape in wrong:
            with self.assertRaises(RuleError):
                applied(EMPTY, [AddShape("x", shape)])


class InscribedCircleTests(unittest.TestCase):
    def test_the_largest_circle_about_a_point_agrees_with_shapely_on_fifty_outlines(self):
        random = np.random.default_rng(20)
        inside = 0
        for number in range(50):
            angles = np.sort(random.uniform(0, 2 * np.pi, random.integers(5, 40)))
            radii = random.uniform(20, 90, len(angles))
            shell = [(float(r * np.cos(a)), float(r * np.sin(a))) for a, r in zip(angles, radii, strict=True)]
            hole = [(x * 0.2 + 1, y * 0.2 - 2) for x, y in shell] if number % 3 == 0 else None
            rings = (tuple(shell), tuple(hole)) if hole else (tuple(shell),)
            # The even-odd area in shapely: valid even where the star of points folds back over itself.
            area = shapely.make_valid(Polygon(shell))
            if hole:
                area = area.symmetric_difference(shapely.make_valid(Polygon(hole)))
            for point in random.uniform(-60, 60, (4, 2)):
                at = (float(point[0]), float(point[1]))
                wanted = area.boundary.distance(Point(at)) if area.contains(Point(at)) else 0.0
                self.assertAlmostEqual(inscribed_radius(rings, at), wanted, delta=1e-9)
                inside += wanted > 0
        self.assertGreater(inside, 40)
