import unittest
from dataclasses import replace

import numpy as np
from scipy.spatial.transform import Rotation

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.constraints.constraint import Goal
from jointed_crane.core.constraints.follow import Follow
from jointed_crane.core.edits import applied
from jointed_crane.core.edits.pictures.folding import Fold
from jointed_crane.core.edits.placing.poses import SetValues
from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.geometry.decomposition import quaternion
from jointed_crane.core.model.scene import Drawing, Inherits, Part, Scene

SIDE = 400.0
#: Where the squares of a cross lie, in sides; the last is the lid.
CROSS = {"base": (0, 0), "right": (1, 0), "left": (-1, 0), "above": (0, -1), "below": (0, 1), "lid": (2, 0)}


def panel(name, place, corners=((0, 0), (SIDE, 0), (SIDE, SIDE), (0, SIDE)), **more):
    ring = tuple((float(x), float(y)) for x, y in corners)
    xs, ys = zip(*ring, strict=True)
    box = (min(xs), min(ys), max(xs), max(ys))
    drawing = Drawing(f"{name}-d", name, "art", box, box, outline=(ring,))
    return Part(name, name, drawings=(drawing,), rest={"move.x": place[0], "move.y": place[1]}, **more)


def cross(**more):
    return Scene("s", "S", parts=tuple(panel(name, (SIDE * x, SIDE * y), **more) for name, (x, y) in CROSS.items()))


def corners(scene, name):
    """The corners of a panel in space."""
    pose = evaluate(scene.at_rest, np.array([0.0]))
    ring = np.array(scene.part(name).outline[0])
    return (pose.world_of(name) @ np.column_stack([ring, np.zeros(len(ring)), np.ones(len(ring))]).T).T[:, :3]


def sorted_corners(scene, name):
    return sorted(np.round(corners(scene, name), 6).tolist())


def apart(scene, names):
    """The places at which corners of panels lie, each once, and how far those of one place lie apart."""
    points = np.concatenate([corners(scene, name) for name in names])
    places, spread = [], 0.0
    for point in points:
        near = [place for place in places if np.linalg.norm(place - point) < 1.0]
        spread = max([spread, *(float(np.linalg.norm(place - point)) for place in near)])
        places += [] if near else [point]
    return np.array(places), spread


class FoldTests(unittest.TestCase):
    def test_six_squares_fold_to_a_cube_whose_edges_meet(self):
        # Check values that are common practice: six squares of 400 px make a cube whose middle is at 200.
        folded = applied(cross(), [Fold(tuple(CROSS))])
        places, spread = apart(folded, CROSS)
        self.assertEqual(len(places), 8)
        self.assertLess(spread, 1e-9)
        np.testing.assert_allclose(places.mean(axis=0), (200, 200, 200), atol=1e-9)
        self.assertEqual(
            {part.parent for part in folded.parts if part.id in ("right", "left", "above", "below")}, {"base"}
        )
        self.assertEqual((folded.part("lid").parent, folded.part("base").rest), ("right", cross().part("base").rest))

    def test_any_angle_turns_each_panel_about_its_edge(self):
        for angle in (-120.0, -30.0, 0.0, 45.0, 150.0):
            folded = applied(cross(), [Fold(("base", "right", "lid"), angle)])
            for steps, (child, parent) in enumerate((("right", "base"), ("lid", "right")), start=1):
                body, hinge = corners(folded, child), corners(folded, parent)
                away = np.sort(np.linalg.norm(body[:, None] - hinge[None], axis=-1).min(axis=1))
                self.assertLess(away[1], 1e-9, "two corners lie on those of the panel that it hangs on")
                # Towards the viewer is a turn from x towards z, each on top of the one before.
                way = Rotation.from_euler("y", -steps * angle, degrees=True).apply([1.0, 0.0, 0.0])
                np.testing.assert_allclose((body[1] - body[0]) / SIDE, way, atol=1e-9)

    def test_each_panel_by_an_angle_of_its_own(self):
        names, angles = ("base", "right", "lid"), (90.0, -30.0)
        folded = applied(cross(), [Fold(names, angles=angles)])
        base, right, lid = (corners(folded, name).mean(axis=0) for name in names)
        np.testing.assert_allclose(right - base, (SIDE / 2, 0, SIDE / 2), atol=1e-9)
        # 90 degrees up and 30 back: the lid goes on at 60 from the base's own way.
        way = np.array([np.cos(np.pi / 3), 0.0, np.sin(np.pi / 3)])
        np.testing.assert_allclose(lid - base, (SIDE / 2, 0, SIDE) + way * SIDE / 2, atol=1e-9)
        levered = applied(cross(), [Fold(names, lever="lever", angles=angles)])
        for name in names:
            at_one = applied(levered, [SetValues(("lever",), {"lever.x": 1.0})])
            np.testing.assert_allclose(corners(at_one, name), corners(folded, name), atol=1e-9)
        with self.assertRaisesRegex(RuleError, "angles for 1 panel, and 2 to fold"):
            applied(cross(), [Fold(names, angles=(90.0,))])

    def test_turned_mirrored_and_hanging_panels_fold_all_the_same(self):
        flat = cross()
        holders = (
            {"turn.z": 33.0, "scale.x": 0.5, "scale.y": 0.5, "move.x": 90.0},
            {"turn.z": -120.0, "scale.x": -1.0},
            {"scale.y": -2.0, "scale.x": 2.0},
        )
        for rest in holders:
            holder = Part("h", "Holder", "helper", rest=rest)
            hung = replace(flat, parts=(holder, *(replace(part, parent="h") for part in flat.parts)))
            folded = applied(hung, [Fold(tuple(CROSS))])
            places, spread = apart(folded, CROSS)
            self.assertEqual(len(places), 8)
            self.assertLess(spread, 1e-9 * SIDE)
            # The hinge turns in the holder's space, where z is as it was: it is as deep as a side there.
            np.testing.assert_allclose(np.ptp(places[:, 2]), SIDE, atol=1e-9)
        turned = flat.with_parts(
            replace(part, orientation=quaternion(Rotation.from_euler("z", 20 * n, degrees=True).as_matrix())).with_rest(
                {"turn.z": -20.0 * n}
            )
            for n, part in enumerate(flat.parts)
        )
        self.assertLess(apart(applied(turned, [Fold(tuple(CROSS))]), CROSS)[1], 1e-9)

    def test_a_net_with_its_print_down_folds_up_as_one_with_it_up(self):
        flat = cross()
        wanted = [sorted_corners(applied(flat, [Fold(tuple(CROSS))]), name) for name in CROSS]
        for axis, along in (("turn.x", "move.y"), ("turn.y", "move.x")):
            over = flat.with_parts(
                part.with_rest({axis: 180.0, along: part.rest_value(along) + SIDE}) for part in flat.parts[1:]
            )
            folded = applied(over, [Fold(tuple(CROSS))])
            levered = applied(over, [Fold(tuple(CROSS), lever="l"), SetValues(("l",), {"lever.x": 1.0})])
            for scene in (folded, levered):
                found = [sorted_corners(scene, name) for name in CROSS]
                np.testing.assert_allclose(found, wanted, rtol=0, atol=1e-9)

    def test_a_net_of_a_pyramid_meets_in_its_tip(self):
        half, height = SIDE / 2, 300.0
        triangle = ((0, 0), (SIDE, 0), (half, height))
        parts = [panel("base", (0, 0))]
        for name, turn, place in (
            ("n", 180, (SIDE, 0)),
            ("e", -90, (SIDE, SIDE)),
            ("s", 0, (0, SIDE)),
            ("w", 90, (0, 0)),
        ):
            parts.append(panel(name, place, triangle).with_rest({"turn.z": float(turn)}))
        # The slant height is 300 and it leans in by 200: the angle of a face with the base is arccos(2 / 3).
        angle = 180 - np.degrees(np.arccos(half / height))
        folded = applied(Scene("s", "S", parts=tuple(parts)), [Fold(("base", "n", "e", "s", "w"), float(angle))])
        places, spread = apart(folded, [part.id for part in parts])
        self.assertEqual(len(places), 5)
        self.assertLess(spread, 1e-9)
        tip = places[np.argmax(places[:, 2])]
        np.testing.assert_allclose(tip, (200, 200, np.sqrt(height**2 - half**2)), atol=1e-9)

    def test_what_cannot_be_folded_is_said(self):
        scene = cross()
        gone = scene.with_parts([scene.part("lid").with_rest({"move.x": 9_000.0})])
        deep = scene.with_parts([scene.part("lid").with_rest({"turn.x": 10.0})])
        helper = Part("h", "Holder", "helper")
        with_helper = replace(scene, parts=(*scene.parts, helper))
        alone = scene.with_parts([replace(scene.part("lid"), inherits=Inherits(scale=False))])
        placed = scene.with_parts(
            [replace(scene.part("lid"), constraints=(Follow(id="f", name="Follow", goal=Goal(part="base")),))]
        )
        for each, edit, words in (
            (alone, Fold(tuple(CROSS)), "lid takes only some of its parent"),
            (placed, Fold(tuple(CROSS)), "lid is placed by constraints"),
            (gone, Fold(tuple(CROSS)), "No edge of lid lies on one of the others within 1 px"),
            (deep, Fold(tuple(CROSS)), "lid lies in depth already"),
            (scene, Fold(("base",)), "2 panels and more"),
            (with_helper, Fold(("base", "h")), "Holder has no picture"),
            (scene, Fold(tuple(CROSS), float("inf")), "angles are numbers"),
            (scene, Fold(tuple(CROSS), tolerance=-1.0), "The tolerance"),
        ):
            with self.subTest(words), self.assertRaisesRegex(RuleError, words):
                applied(each, [edit])
