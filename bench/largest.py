"""What edits cost in the largest scenes there may be: every kind, with what chance draws, the longest time of each."""

from __future__ import annotations

import contextlib
import time
from collections.abc import Callable
from dataclasses import replace
from functools import cache

from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import strategies as st

from bench.timing import seconds
from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.basics.limits import MOST_KEYS, MOST_PARTS
from jointed_crane.core.edits import applied, changed_by
from jointed_crane.core.edits.scene.copies import Paste
from jointed_crane.core.evaluate.pose_at_frame import moved_pose, pose_at
from jointed_crane.core.model.scene import Scene
from tests.crowds import crowd
from tests.meeting import meeting_scene
from tests.strategies import STUB_NAME, edits_for

#: How often each kind is drawn, and how many scenes in which everything meets lie side by side.
_DRAWS, _SIDE_BY_SIDE = 3, 60
_FRAME = 7.0


def most_parts() -> Scene:
    """As many parts as there may be, with nearly as many keys."""
    scene = crowd(MOST_PARTS, STUB_NAME)
    keys = sum(len(channel.keys) for part in scene.parts for channel in part.channels.values())
    assert MOST_KEYS / 2 < keys <= MOST_KEYS
    return scene


def much_that_meets() -> Scene:
    """Constraints, links and footholds of every kind, seven parts to a group."""
    scene = replace(meeting_scene(0), length=240)
    for number in range(1, _SIDE_BY_SIDE):
        scene = applied(scene, [Paste(meeting_scene(number).parts, f"x{number}-")])
    return scene


LARGEST: dict[str, Callable[[], Scene]] = {
    f"{MOST_PARTS} parts": most_parts,
    f"{7 * _SIDE_BY_SIDE} parts that meet": much_that_meets,
}


@cache
def unit() -> float:
    """Seconds that a plain loop takes here: about one on the machine that the bound of two was set on."""
    return seconds(lambda: sum(number for number in range(20_000_000)), runs=1)


def longest(scene: Scene) -> dict[str, float]:
    """The longest time of each kind of edit, with the pose that answers it, in units; the longest first."""
    pose_at(scene, _FRAME)
    found: dict[str, float] = {}

    @given(st.data())
    @settings(
        max_examples=_DRAWS, deadline=None, phases=[Phase.generate], database=None, suppress_health_check=[*HealthCheck]
    )
    def draw(data: st.DataObject) -> None:
        for edit in data.draw(edits_for(scene)):
            begin = time.perf_counter()
            with contextlib.suppress(RuleError):  # what is refused costs time, too
                moved_pose(changed_by(scene, [edit]), _FRAME)
            took = (time.perf_counter() - begin) / unit()
            found[edit.kind] = max(found.get(edit.kind, 0.0), took)

    draw()
    return dict(sorted(found.items(), key=lambda kind: -kind[1]))
