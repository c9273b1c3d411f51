"""Random scenes in which everything meets: constraints of every kind, links, footholds, partly inheriting parts."""

from __future__ import annotations

import contextlib
from dataclasses import replace

import numpy as np

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.constraints.constraint import Goal, number_channel
from jointed_crane.core.constraints.every import KINDS
from jointed_crane.core.edits import applied
from jointed_crane.core.edits.constraints.constraining import Constrain
from jointed_crane.core.edits.constraints.levers_and_links import SetLink
from jointed_crane.core.model.levers import Link
from jointed_crane.core.model.scene import Drawing, Eyelet, Mark, Part, Scene
from jointed_crane.core.motion.channel import Channel, Key
from tests.constrained_rigs import any_constraint
from tests.strategies import cornered_scene

#: Weights that constraints act with.
WEIGHTS = (0.0, 0.5, 1.0, 1.0)


def meeting_scene(
    seed: int, kinds: tuple[str, ...] = tuple(sorted(KINDS)), has_links: bool = True, may_be_deep: bool = False
) -> Scene:
    """A scene of `cornered_scene` with two constraints of some kinds, at weights of all sorts and keyed, and perhaps a
    link; flat, or one of three deep.
    """
    random = np.random.default_rng(seed + 7)
    scene = cornered_scene(seed if may_be_deep else seed - seed % 3 + 1)
    scene = replace(scene.with_parts(map(_with_outline, scene.parts)), marks=(Mark("m", "Mark", (40.0, 60.0)),))
    ids = [part.id for part in scene.parts]
    made = 0
    for number in range(12):
        if made == 2:
            break
        part_id = str(random.choice(ids))
        try:
            scene = _constrained(scene, part_id, str(random.choice(kinds)), f"c{number}", random)
        except RuleError:
            continue
        made += 1
    if has_links and random.random() < 0.5:
        source, part_id = (str(name) for name in random.choice(ids, 2, replace=False))
        ends = (str(random.choice(["turn.z", "move.x"])), str(random.choice(["turn.z", "move.x", "scale.x"])))
        link = Link(id="l", source=source, channel=ends[0], onto=ends[1], amount=float(random.uniform(-0.3, 0.3)))
        with contextlib.suppress(RuleError):
            scene = applied(scene, [SetLink(part_id, link)])
    return scene


def _with_outline(part: Part) -> Part:
    def outlined(drawing: Drawing) -> Drawing:
        left, top, right, bottom = drawing.bounds
        return replace(drawing, outline=(((left, top), (right, top), (right, bottom), (left, bottom)),))

    drawings = tuple(map(outlined, part.drawings))
    return replace(part, drawings=drawings, eyelets=(Eyelet("e", "Eyelet", (4.0, 5.0, 0.0)),))


def _constrained(scene: Scene, part_id: str, kind_name: str, name: str, random: np.random.Generator) -> Scene:
    kind = KINDS[kind_name]
    ids = [part.id for part in scene.parts]

    def goal() -> Goal:
        if kind.HAS_POINTS and random.random() < 0.2:
            return Goal(at="mark", named="m")
        is_pivot = not kind.HAS_POINTS or random.random() < 0.5
        return Goal(part=str(random.choice(ids)), at="pivot" if is_pivot else "centre")

    one = any_constraint(kind, name, goal, random)
    if one.fault():
        raise RuleError("A goal that the kind does not take.")
    scene = applied(scene, [Constrain(part_id, one, {"weight": float(random.choice(WEIGHTS))})])
    if random.random() < 0.25:
        keyed = Channel((Key(0.0, 0.0), Key(30.0, 1.0)))
        scene = scene.with_parts([scene.part(part_id).with_channel(number_channel(name, "weight"), keyed)])
    return scene


def with_a_say(scene: Scene) -> list[str]:
    """Ids of the parts that constraints or links place, or all where none is."""
    found = [part.id for part in scene.parts if part.constraints or part.links]
    return found or [part.id for part in scene.parts]
