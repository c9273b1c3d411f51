import unittest
from itertools import pairwise

from hypothesis import given
from shapely import LineString, box

from jointed_crane.formats.joint_map.drawing import map_bytes
from jointed_crane.formats.joint_map.layout import NODE, joint_map
from tests.demo_library import demo_scenes
from tests.meeting import meeting_scene
from tests.strategies import examples, seeds


class JointMapTests(unittest.TestCase):
    def assert_clear(self, scene):
        """No line of a constraint or a link runs through a node, and all of it lies on the map."""
        picture = joint_map(scene)
        boxes = {
            node.part.id: box(x, y - NODE[1] / 2, x + NODE[0], y + NODE[1] / 2)
            for node in picture.nodes
            for x, y in [node.place]
        }
        for line in picture.references:
            course = LineString(line.course)
            through = [part_id for part_id, node in boxes.items() if course.intersection(node.buffer(-0.5)).length > 0]
            self.assertEqual(through, [], f"{line.word} of {line.part}")
            self.assertTrue(box(0, 0, picture.width, picture.height).covers(course))
            self.assertTrue(all(x == to_x or y == to_y for (x, y), (to_x, to_y) in pairwise(line.course)))

    @given(seeds)
    @examples(15)
    def test_lines_keep_clear_of_all_parts_where_everything_meets(self, seed):
        self.assert_clear(meeting_scene(seed))

    def test_lines_keep_clear_of_all_parts_of_the_demo_and_are_lagoon(self):
        for scene, _ in demo_scenes():
            with self.subTest(scene.name):
                self.assert_clear(scene)
                self.assertNotIn(b"#d2512f", map_bytes(scene, joint_map(scene)), "coral is for what warns")


if __name__ == "__main__":
    unittest.main()
