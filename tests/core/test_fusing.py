"""Parts made one and one part made many: what hangs on them stays where it is."""

import unittest
from dataclasses import replace

import numpy as np
from hypothesis import assume, given
from hypothesis import strategies as st

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.edits import applied
from jointed_crane.core.edits.pictures.fusing import Fuse, Split, layers, staying
from jointed_crane.core.edits.pictures.painting import PlaceInOrder
from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.evaluate.pose_at_frame import world_at
from jointed_crane.core.hierarchy.tree import ancestors, descendants
from jointed_crane.core.model.scene import Drawing, Eyelet, Part, Scene
from jointed_crane.core.motion.channel import Channel, Key
from jointed_crane.core.viewing.projection import carried
from tests.core.test_exactness import FRAMES, ExactnessCase, moments, pictures
from tests.strategies import STUB_NAME, cornered_scene, examples, random_scene, seeds

BOX = (0.0, 0.0, 30.0, 20.0)
PICTURE = Drawing("fused", "Fused", STUB_NAME, BOX, BOX)


def piece(number, size=1.0):
    return Drawing(f"piece-{number}", f"Piece {number}", STUB_NAME, BOX, (0.0, 0.0, 30.0 * size, 20.0))


def fusible_scene(seed, picked):
    """A random flat scene whose picked parts are whole, wholly seen, painted together, and carry eyelets."""
    scene = random_scene(seed)
    changed = []
    for part in scene.parts:
        channels = {name: c for name, c in part.channels.items() if name not in ("opacity", "shown", "drawing")}
        part = replace(part, channels=channels, eyelets=(Eyelet(f"{part.id}-e", "Wrist", (7.0, -3.0, 0.0)),))
        changed.append(part)
    scene = PlaceInOrder((picked[0],), picked[1]).apply(scene.with_parts(changed))
    gone = set(picked) - {staying(scene, picked).id}
    return scene.with_parts(replace(scene.part(name), channels={}, footholds=()) for name in gone)


class FusingTests(ExactnessCase):
    @given(seeds, st.permutations([f"p{n}" for n in range(7)]), moments)
    @examples(40)
    def test_what_hangs_on_fused_parts_stays_and_the_one_that_stays_keeps_its_film(self, seed, names, frame):
        picked = tuple(names[:2])
        scene = fusible_scene(seed, picked)
        stays = staying(scene, picked)
        (gone,) = set(picked) - {stays.id}
        seated = replace(next(p for p in scene.parts if p.id not in picked), parent=gone, seat=f"{gone}-e")
        assume(seated.id not in {*ancestors(scene, gone), *ancestors(scene, stays.id)})
        scene = scene.with_parts([seated])
        after = self.edited(scene, Fuse(picked, PICTURE, frame))
        self.assertNotIn(gone, after.index)
        for part in after.parts:
            self.assert_same(world_at(after, part.id, frame), world_at(scene, part.id, frame))
        film, was = pictures(after), pictures(scene)
        for part in after.parts:
            if part.id not in descendants(scene, gone):
                self.assert_same(film[part.id][0], was[part.id][0])
        self.assertEqual((after.part(seated.id).parent, after.part(seated.id).seat), (stays.id, f"{gone}-e"))
        self.assertEqual(len({eyelet.name for eyelet in after.part(stays.id).eyelets}), 2)
        for owner, name in ((stays.id, f"{stays.id}-e"), (gone, f"{gone}-e")):
            old = carried(world_at(scene, owner, frame), np.array(scene.part(owner).eyelet(name).point))
            new = carried(world_at(after, stays.id, frame), np.array(after.part(stays.id).eyelet(name).point))
            self.assert_same(new, old)

    @given(seeds, st.permutations([f"p{n}" for n in range(7)]), moments)
    @examples(40)
    def test_pictures_are_laid_where_they_are_seen(self, seed, names, frame):
        picked = tuple(names[:2])
        scene = fusible_scene(seed, picked)
        try:
            found = layers(scene, picked, frame)
        except RuleError:
            assume(False)
        stays = staying(scene, picked)
        order = [part.id for part in scene.parts if part.id in picked]
        for layer, part_id in zip(found, order, strict=True):
            seen = world_at(scene, stays.id, frame) @ layer.matrix
            self.assert_same(seen, world_at(scene, part_id, frame))

    @given(seeds, moments)
    @examples(30)
    def test_pieces_stand_and_move_as_the_whole_did(self, seed, frame):
        scene = cornered_scene(seed)
        part = scene.parts[seed % len(scene.parts)]
        scene = scene.with_parts([replace(part, drawings=part.drawings[:1])])
        after = self.edited(scene, Split(part.id, (piece(1, 0.5), piece(2), piece(3, 0.2)), "n", frame))
        self.assertEqual(len(after.parts), len(scene.parts) + 2)
        film, was = pictures(after), pictures(scene)
        for name in (*scene.index, "n0", "n2"):
            self.assert_same(film[name][0], was[name if name in was else part.id][0])
            self.assertEqual(film[name][2], was[name if name in was else part.id][2])
        at = scene.index[part.id]
        self.assertEqual([known.id for known in after.parts[at : at + 3]], ["n0", part.id, "n2"])
        self.assertEqual(
            [known.drawings[0].id for known in after.parts[at : at + 3]], ["piece-1", "piece-2", "piece-3"]
        )


class RefusalTests(unittest.TestCase):
    def setUp(self):
        parts = [
            Part(name.lower(), name, drawings=(replace(PICTURE, id=name),)) for name in ("Palm", "Sleeve", "Thumb")
        ]
        self.scene = Scene("s", "S", parts=tuple(parts))

    def refused(self, edit, words, scene=None):
        with self.assertRaisesRegex(RuleError, words):
            applied(scene or self.scene, [edit])

    def changed(self, name, **fields):
        return self.scene.with_parts([replace(self.scene.part(name), **fields)])

    def test_what_lies_between_is_named(self):
        self.refused(Fuse(("thumb", "palm"), PICTURE), "Between Palm and Thumb lies Sleeve in the painting order")
        applied(self.scene, [Fuse(("thumb", "sleeve", "palm"), PICTURE)])
        helper = self.changed("sleeve", kind="helper", drawings=())
        applied(helper, [Fuse(("thumb", "palm"), PICTURE)])

    def test_what_would_be_lost_is_refused_by_name(self):
        pair = Fuse(("sleeve", "palm"), PICTURE)
        keyed = {"turn.z": Channel((Key(0.0, 1.0),))}
        applied(self.changed("palm", channels=keyed), [pair])
        self.refused(pair, "Sleeve has keys of its own", self.changed("sleeve", channels=keyed))
        self.refused(pair, "Palm is shown at an opacity of 0.5", self.changed("palm", rest={"opacity": 0.5}))
        self.refused(pair, "Sleeve is not shown here", self.changed("sleeve", rest={"shown": 0.0}))
        self.refused(pair, "Sleeve does not lie in the plane of Palm", self.changed("sleeve", rest={"turn.x": 40.0}))
        self.refused(pair, "Palm or a part above it is scaled to nothing", self.changed("palm", rest={"scale.x": 0.0}))
        self.refused(pair, "Sleeve is locked", self.changed("sleeve", locked=True))
        two = (replace(PICTURE, id="1"), replace(PICTURE, id="2"))
        self.refused(pair, "Palm has 2 drawings", self.changed("palm", drawings=two))
        self.refused(Fuse(("palm",), PICTURE), "One part alone")
        self.refused(Fuse(("palm", "palm"), PICTURE), "One part alone")
        self.refused(
            Split("palm", (piece(1), piece(2)), "n"), "Palm has 2 drawings", self.changed("palm", drawings=two)
        )
        self.refused(Split("palm", (piece(1),), "n"), "The picture of Palm is one piece")

    def test_the_uppermost_stays_when_parts_hang_on_each_other(self):
        hanging = self.changed("sleeve", parent="palm")
        self.assertEqual(staying(hanging, ["palm", "sleeve"]).id, "palm")
        self.assertEqual(staying(hanging, ["sleeve", "thumb"]).id, "thumb")
        after = applied(hanging, [Fuse(("palm", "sleeve"), PICTURE)])
        self.assertEqual([part.name for part in after.parts], ["Palm", "Thumb"])

    def test_a_spinning_part_spins_about_the_same_centre(self):
        spinning = self.changed("palm", channels={"spin.z": Channel((Key(0.0, 0.0), Key(9.0, 90.0)))})
        after = applied(spinning, [Fuse(("sleeve", "palm"), replace(PICTURE, bounds=(-50.0, 0.0, 30.0, 20.0)))])
        before_film, after_film = (evaluate(scene, FRAMES).world for scene in (spinning, after))
        np.testing.assert_allclose(after_film[0], before_film[0], atol=1e-12)


if __name__ == "__main__":
    unittest.main()
