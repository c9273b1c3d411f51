"""What takes hold of a part from a frame on, and goes along when its keys are retimed: the points that it stands on,
who carries it, whether it reaches or is turned.

It goes along with the keys that it belongs to: a foothold with the turns on its frame, a change of hands with all that
places the part there. Between two keys that are retimed it goes along as well, unless one of those between them stays.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import replace
from typing import Any

from jointed_crane.core.constraints.constraint import Constraint
from jointed_crane.core.model.channels import TURN, family_of
from jointed_crane.core.model.scene import Foothold, Part

#: Frames at which keys of one part are retimed, by channel; and what is picked of it by itself: the frames from which
#: it stands on points, and those from which constraints change, by these words before their ids.
Picked = dict[str, set[float]]
FOOTHOLDS, CHANGES = "footholds", "changes."
#: Things that hold from a frame on, as their frames and what they are.
Steps = list[tuple[float, Any]]


def steps_retimed(later: Callable[[float], float]) -> Callable[[Part, Picked], Part]:
    """What retimes the footholds and changes of a part, as far as they are picked or belong to keys that are."""

    def retimed(steps: Steps, going: Steps, _first: Any, _left: set[float]) -> Steps:
        moved = [(later(frame), what) for frame, what in going]
        taken = {frame for frame, _ in moved}
        return [*(step for step in steps if step not in going and step[0] not in taken), *moved]

    return lambda part, picked: _with_steps(part, picked, retimed)


def steps_turned_round(ends: tuple[float, float]) -> Callable[[Part, Picked], Part]:
    """The same backwards between two frames."""

    def turned_round(steps: Steps, going: Steps, first: Any, left: set[float]) -> Steps:
        return _turned_round(steps, going, first, ends, has_more=any(frame > ends[1] for frame in left))

    return lambda part, picked: _with_steps(part, picked, turned_round)


def is_step(name: str) -> bool:
    """Whether what is picked by this name is a foothold or a change of hands, and no key of a channel."""
    return name == FOOTHOLDS or name.startswith(CHANGES)


def frames_of_steps(part: Part, name: str) -> set[float]:
    """The frames from which a part stands on points, or a constraint of it changes, by the name under which that is
    picked.
    """
    if name == FOOTHOLDS:
        return {hold.frame for hold in part.footholds}
    return {change.frame for one in part.constraints if CHANGES + one.id == name for change in one.every_change()}


def with_steps_repeated(part: Part, original: Part, picked: Picked, by: float) -> Part:
    """A part that has got copies of keys so many frames later, with what belonged to them while it was the original."""

    def repeated(steps: Steps, going: Steps, _first: Any, _left: set[float]) -> Steps:
        taken = {frame + by for frame, _ in going}
        return [*(step for step in steps if step[0] not in taken), *((frame + by, what) for frame, what in going)]

    after = _with_steps(original, picked, repeated)
    return replace(part, footholds=after.footholds, constraints=after.constraints)


def with_steps_dropped(part: Part, picked: Picked) -> Part:
    """The part without the footholds and changes that are picked; a constraint that is nothing without goes along."""
    if FOOTHOLDS in picked:
        part = part.with_footholds(hold for hold in part.footholds if hold.frame not in picked[FOOTHOLDS])
    made = []
    for one in part.constraints:
        gone = picked.get(CHANGES + one.id, set())
        kept = [change for change in one.every_change() if change.frame not in gone]
        made += _changing_by(one, kept) if gone else [one]
    return replace(part, constraints=tuple(made)) if made != list(part.constraints) else part


def _with_steps(part: Part, picked: Picked, change: Callable[[Steps, Steps, Any, set[float]], Steps]) -> Part:
    """The part with the steps of each kind changed, given those of them that are picked or belong to picked keys, what
    holds before the first, and the frames of the keys that they could belong to and that are not picked.
    """
    frames = {frame for result in picked.values() for frame in result}

    def changed(name: str, steps: Steps, first: Any, channels: Iterable[str]) -> Steps | None:
        left = {frame for one in channels for frame in part.channels[one].frames if frame not in picked.get(one, ())}
        own = picked.get(name, set())
        going = [step for step in steps if step[0] in own or _goes_along(step[0], frames, left)]
        return sorted(change(steps, going, first, left), key=lambda step: step[0]) if going else None

    result = part
    turns = [name for name in part.channels if family_of(name) is TURN]
    holds = changed(FOOTHOLDS, [(hold.frame, hold.point) for hold in part.footholds], part.pivot, turns)
    if holds is not None:
        result = result.with_footholds(Foothold(frame, point) for frame, point in holds)
    placing = [name for name in part.channels if family_of(name).moves != "shape"]
    made = []
    for one in part.constraints:
        every = [(each.frame, each) for each in one.every_change()]
        steps = changed(CHANGES + one.id, every, one.unchanged(), placing)
        made += [one] if steps is None else _changing_by(one, [replace(each, frame=frame) for frame, each in steps])
    return replace(result, constraints=tuple(made)) if made != list(part.constraints) else result


def _changing_by(one: Constraint, changes: list[Any]) -> list[Constraint]:
    """A constraint with other changes, as far as they change something; none where it is nothing without."""
    kept = one.sensible(changes)
    return [one.changing_by(kept)] if kept or not one.needs("change") else []


def with_all_steps_retimed(part: Part, later: Callable[[float], float]) -> Part:
    """The part with all its footholds and changes on other frames."""
    if part.constraints:
        part = replace(part, constraints=tuple(one.retimed(later) for one in part.constraints))
    if not part.footholds:
        return part
    return part.with_footholds(Foothold(later(hold.frame), hold.point) for hold in part.footholds)


def _goes_along(frame: float, picked: set[float], left: set[float]) -> bool:
    if frame in picked:
        return frame not in left
    before = max((at for at in picked if at < frame), default=None)
    after = min((at for at in picked if at > frame), default=None)
    if before is None or after is None:
        return False
    return not any(before <= at <= after for at in left)


def _turned_round(steps: Steps, going: Steps, first: Any, ends: tuple[float, float], has_more: bool) -> Steps:
    """Steps backwards: what held from one to the next holds between the same two of them, seen from the other end."""
    begin, end = ends
    inside = [step for step in going if begin <= step[0] <= end]
    outside = [step for step in steps if step not in inside]
    held = [what for frame, what in outside if frame < begin]
    before = held[-1] if held else first
    edges = [*(frame for frame, _ in inside), end]
    made = [
        (begin + end - edges[place + 1], what)
        for place, (_, what) in enumerate(inside)
        if edges[place + 1] > edges[place]
    ]
    if edges[0] > begin:
        made.append((begin + end - edges[0], before))
    if has_more:  # what comes after goes on from where it did
        made.append((end, inside[-1][1]))
    return [*outside, *made]
