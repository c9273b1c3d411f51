import pickle
import unittest
from dataclasses import dataclass, replace

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from jointed_crane.core.basics.frozen import Memory, changed, remembered
from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.model.scene import Part
from jointed_crane.core.motion.channel import Channel, Key
from jointed_crane.formats.document import channel_document, channel_from
from tests.strategies import cornered_scene, examples, seeds

_WIDE = Memory("box")
_WHOLE = Memory()
_BUT = Memory(but=("name", "rest"))
_LAST_TWO = Memory(most=2)


@dataclass(frozen=True)
class Crate:
    name: str
    box: tuple[float, float]
    rest: dict[str, float]

    @remembered("box", "rest.scale")
    def area(self):
        return self.box[0] * self.box[1] * self.rest.get("scale.x", 1.0)


class RememberingTests(unittest.TestCase):
    def setUp(self):
        self.crate = Crate("Crate", (3.0, 4.0), {"move.x": 1.0})
        for memory in (_WIDE, _WHOLE, _BUT):
            memory.put(self.crate, "known")
        self.assertEqual(self.crate.area, 12.0)

    def kept(self, crate):
        return [memory.at(crate) == "known" for memory in (_WIDE, _WHOLE, _BUT)] + ["area" in vars(crate)]

    def test_what_does_not_depend_on_what_was_touched_comes_along(self):
        self.assertEqual(self.kept(changed(self.crate, name="Box")), [True, False, True, True])
        self.assertEqual(self.kept(changed(self.crate, box=(1.0, 1.0))), [False, False, False, False])
        self.assertEqual(self.kept(changed(self.crate, rest={})), [True, False, True, False])
        self.assertEqual(
            self.kept(changed(self.crate, ("rest.move",), rest={"move.x": 2.0})), [True, False, True, True]
        )
        self.assertEqual(
            self.kept(changed(self.crate, ("rest.scale",), rest={"scale.x": 2.0})), [True, False, True, False]
        )
        self.assertEqual(changed(self.crate, rest={"scale.x": 2.0}).area, 24.0)
        self.assertEqual(self.kept(replace(self.crate)), [False, False, False, False])

    def test_a_scene_travels_without_what_it_remembers(self):
        scene = cornered_scene(5)
        bare = pickle.dumps(scene)
        evaluate(scene, range(30))
        self.assertEqual(len(pickle.dumps(scene)), len(bare))
        there = pickle.loads(bare)
        self.assertEqual(there, scene)
        np.testing.assert_array_equal(evaluate(there, [7.0]).world, evaluate(scene, [7.0]).world)

    def test_the_oldest_of_some_gives_way(self):
        for key in (1, 2, 3, 2):
            _LAST_TWO.of(self.crate, lambda key=key: key * 10, key)
        self.assertEqual([_LAST_TWO.at(self.crate, key) for key in (1, 2, 3)], [None, 20, 30])

    def test_rows_of_read_keys_do_not_outlive_the_keys(self):
        read = channel_from(channel_document(Channel((Key(0.0, 1.0), Key(9.0, 2.0)))))
        self.assertIsNotNone(read.written)
        other = changed(read, keys=(Key(4.0, 7.0),))
        self.assertEqual([key["value"] for key in channel_document(other)["keys"]], [7.0])
        self.assertEqual(changed(read, after="repeat").keys, read.keys)

    @examples(30)
    @given(seeds, st.data())
    def test_a_part_changed_in_numbers_remembers_what_a_new_one_finds(self, seed, data):
        part = data.draw(st.sampled_from(cornered_scene(seed).parts))
        properties = ("own_values", "largest_scale", "drawing", "bounds", "centre", "at_rest")
        for name in properties:
            getattr(part, name)
        name = data.draw(st.sampled_from(["drawing", "scale.x", "turn.z", "move.x", "opacity"]))
        for after in (part.with_rest({name: 2.0}), part.with_channel(name, Channel((Key(0.0, 3.0),))), part.at_rest):
            anew = Part(**{field: getattr(after, field) for field in Part.__dataclass_fields__})
            for found in properties:
                self.assertEqual(getattr(after, found), getattr(anew, found), f"{found} after {name}")
