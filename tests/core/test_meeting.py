"""What the edits promise where rules meet: parts that are constrained, driven, inherit partly, stand on footholds."""

import numpy as np
from hypothesis import assume, given
from hypothesis import strategies as st

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.edits import applied
from jointed_crane.core.edits.joints.eyelets import DeleteEyelet, Seat
from jointed_crane.core.edits.joints.helpers import AddHelper
from jointed_crane.core.edits.joints.joining import Join
from jointed_crane.core.edits.pictures.registering import AlignAxes
from jointed_crane.core.edits.placing.pivots import MovePivot
from jointed_crane.core.edits.placing.poses import MoveBy
from jointed_crane.core.edits.placing.turning import TurnAbout
from jointed_crane.core.edits.scene.copies import Duplicate
from jointed_crane.core.edits.scene.parts import DeleteParts
from jointed_crane.core.evaluate.pose_at_frame import shown_pivot, shown_pose
from jointed_crane.core.geometry.projection import carried
from tests.core.test_exactness import ExactnessCase, moments
from tests.meeting import meeting_scene, with_a_say
from tests.strategies import examples, seeds

#: What follows, is carried or points goes wherever a hand wants it; the others hold on to lines, paths and goals.
FREE = ("carry", "follow", "point at")


class MeetingCase(ExactnessCase):
    def drawn(self, seed, **kinds):
        """A scene, one of its parts that something else has a say in, and another one."""
        random = np.random.default_rng(seed)
        scene = meeting_scene(seed, **kinds)
        part = str(random.choice(with_a_say(scene)))
        other = str(random.choice([one.id for one in scene.parts if one.id != part]))
        return scene, part, other

    def heading(self, scene, part_id, frame):
        linear = shown_pose(scene, frame).world_of(part_id)[:2, :2]
        return np.arctan2(linear[1, 0], linear[0, 0])


class NothingMovesWhereRulesMeetTests(MeetingCase):
    """Edits that promise that nothing moves as it is shown, or refuse."""

    def assert_stays(self, scene, edit, frame):
        after = self.edited(scene, edit)
        was, now = shown_pose(scene, frame), shown_pose(after, frame)
        for part in scene.parts:
            if part.id in now.index:
                self.assert_same(now.world_of(part.id), was.world_of(part.id))

    @given(seeds, moments)
    @examples(12)
    def test_joining_and_detaching(self, seed, frame):
        scene, part, other = self.drawn(seed)
        self.assert_stays(scene, Join((part,), other if seed % 2 else None, frame), frame)

    @given(seeds, moments)
    @examples(12)
    def test_a_helper_above(self, seed, frame):
        scene, part, _ = self.drawn(seed)
        self.assert_stays(scene, AddHelper("h", (part,), frame=frame), frame)

    @given(seeds, moments)
    @examples(12)
    def test_deleting_what_others_hang_on_follow_or_are_driven_by(self, seed, frame):
        scene, part, other = self.drawn(seed)
        goals = [goal.part for one in scene.part(part).constraints for goal in one.every_goal() if goal.part]
        sources = [link.source for link in scene.part(part).links]
        self.assert_stays(scene, DeleteParts(((*goals, *sources, other)[0],), frame), frame)

    @given(seeds, moments)
    @examples(12)
    def test_moving_a_pivot_under_the_art(self, seed, frame):
        scene, part, _ = self.drawn(seed)
        self.assert_stays(scene, MovePivot(part, (12.0, -33.0), "art", "art", frame=frame), frame)

    @given(seeds, moments)
    @examples(12)
    def test_lining_up_axes(self, seed, frame):
        scene, part, _ = self.drawn(seed)
        self.assert_stays(scene, AlignAxes(part, "line", (0.0, 0.0), (3.0, 4.0), frame), frame)

    @given(seeds)
    @examples(12)
    def test_deleting_an_eyelet(self, seed):
        scene, part, _ = self.drawn(seed)
        self.assert_stays(scene, DeleteEyelet(part, "e"), None)


class BroughtWhereRulesMeetTests(MeetingCase):
    """Edits that promise a place on the stage. What is dragged goes as near as it can, so links that move what the part
    itself hangs on are left out there.
    """

    @given(seeds, moments)
    @examples(12)
    def test_what_is_moved_goes_as_far_as_the_hand(self, seed, frame):
        scene, part, _ = self.drawn(seed, kinds=FREE, has_links=False)
        assume(not scene.part(part).fixed)
        after = self.edited(scene, MoveBy((part,), (10.0, 4.0), frame))
        self.assert_same(
            shown_pivot(after, part, frame)[:2], shown_pivot(scene, part, frame)[:2] + np.array([10.0, 4.0])
        )

    @given(seeds, moments)
    @examples(12)
    def test_a_copy_lies_beside(self, seed, frame):
        scene, part, _ = self.drawn(seed, kinds=FREE, has_links=False)
        after = self.edited(scene, Duplicate((part,), "k", with_children=False, by=(20.0, 10.0), frame=frame))
        self.assert_same(
            shown_pivot(after, "k0", frame)[:2], shown_pivot(scene, part, frame)[:2] + np.array([20.0, 10.0])
        )

    @given(seeds, moments, st.sampled_from([30.0, -100.0]))
    @examples(12)
    def test_what_is_turned_about_a_point_turns_as_a_body(self, seed, frame, degrees):
        scene, part, _ = self.drawn(seed, kinds=FREE)
        assume(scene.part(part).constraints)
        after = self.edited(scene, TurnAbout((part,), degrees, (5.0, 6.0), frame))
        angle = np.deg2rad(degrees)
        turn = np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])
        arm = shown_pivot(scene, part, frame)[:2] - [5.0, 6.0]
        self.assert_same(shown_pivot(after, part, frame)[:2], turn @ arm + [5.0, 6.0])
        off = self.heading(after, part, frame) - self.heading(scene, part, frame) - angle
        self.assert_same(np.remainder(off + np.pi, 2 * np.pi) - np.pi, 0.0)

    @given(seeds, moments)
    @examples(12)
    def test_seating_and_snapping_close_the_gap(self, seed, frame):
        scene, part, other = self.drawn(seed, kinds=FREE)
        parent = scene.part(part).parent
        assume(parent is not None)
        for edit, owner in ((Seat((part,), "e", frame=frame), parent), (Join((part,), other, frame, "snapped"), other)):
            try:
                after = applied(scene, [edit])
            except RuleError:
                continue
            place = carried(shown_pose(after, frame).world_of(owner), np.array([4.0, 5.0, 0.0]))
            self.assert_same(shown_pivot(after, part, frame)[:2], place[:2])
