"""Tracks from tables of frame, x and y."""

import unittest

import numpy as np

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.edits import applied
from jointed_crane.core.edits.time.bringing_tracks import BringTrack
from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.motion.channel import Channel, Key
from jointed_crane.formats.artwork import ArtworkError
from jointed_crane.formats.tables.tracks import read_tracks
from tests.demo_library import written


class TrackTests(unittest.TestCase):
    def test_tables_with_and_without_names_and_with_other_separators_say_the_same(self):
        wanted = ((0.0, 1.5, 2.0), (1.0, -3.0, 4.25))
        for text in (
            "frame,x,y\n0,1.5,2\n1,-3,4.25\n",
            "\ufeff0,1.5,2\r\n\r\n1,-3,4.25",
            "frame;x;y\n0;1,5;2\n1;-3;4,25\n",
            "0\t1.5\t2\n1\t-3\t4.25\n",
            "y,error,frame,x\n2,9,0,1.5\n4.25,9,1,-3\n",
        ):
            self.assertEqual([one.points for one in read_tracks(text.encode(), "gull.csv")], [wanted])
        self.assertEqual(read_tracks(b"0,1,2", "gull.csv")[0].name, "gull")

    def test_the_motion_that_is_sent_comes_in_as_a_track_a_part(self):
        turn = Channel((Key(0.0, 0.0), Key(4.0, 90.0)))
        arm = Part("a", "Arm", "helper", channels={"move.x": turn})
        scene = Scene("s", "S", length=5, parts=(arm, Part("h", "Hand", "helper", parent="a", rest={"move.x": 7.5})))
        tracks = read_tracks(written(scene, None, "motion-csv", what="pivots"), "s.csv")
        self.assertEqual([track.name for track in tracks], ["Arm", "Hand"])
        pivots = evaluate(scene, np.arange(5.0)).pivot[..., :2]
        np.testing.assert_array_equal([[point[1:] for point in track.points] for track in tracks], pivots)

    def test_what_is_no_track_is_refused_with_the_line(self):
        for data, words in (
            (b"", "no line"),
            (b"frame,x,y\n", "no line"),
            (b"frame,x\n0,1", "columns"),
            (b"0,1,2\n1,two,3", "line 2"),
            (b"0,1,2\n1,2", "line 2"),
            (b"0,1,nan", "finite numbers"),
            (b"0,1,1e999", "finite numbers"),
            (b"\xff\xfe\x00", "UTF-8"),
            (b"0,1,2\n" * 100_001, "more than"),
        ):
            with self.assertRaisesRegex(ArtworkError, words):
                read_tracks(data, "gull.csv")

    def test_a_helper_goes_where_the_track_says(self):
        points = ((4.0, 10.0, 20.0), (2.0, 0.0, 5.0), (4.0, 12.0, 21.0))
        scene = applied(Scene("s", "S"), [BringTrack("t", "Gull", points), BringTrack("u", "Gull", points[:1])])
        self.assertEqual([part.name for part in scene.parts], ["Gull", "Gull 2"])
        pivots = evaluate(scene, [0.0, 2.0, 3.0, 4.0, 9.0]).pivot[0, :, :2]
        np.testing.assert_allclose(pivots, [(0, 5), (0, 5), (6, 13), (12, 21), (12, 21)], atol=1e-12)

    def test_a_track_with_nothing_or_numbers_beyond_all_bounds_is_refused(self):
        for points in ((), ((0.0, 1e9, 0.0),), ((0.0, 1.0, 1.0), (1e-7, 1.0, 2.0))):
            with self.assertRaises(RuleError):
                applied(Scene("s", "S"), [BringTrack("t", "Gull", points)])
