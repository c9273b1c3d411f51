"""Rigs with constraints and links for tests: arms that reach, helpers that move, random graphs of rules."""

from dataclasses import fields, replace
from typing import Literal, get_args, get_origin, get_type_hints

import numpy as np

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.constraints.along_path import AlongPath
from jointed_crane.core.constraints.between import Between
from jointed_crane.core.constraints.carry import Carry, Hold
from jointed_crane.core.constraints.constraint import Goal, number_channel
from jointed_crane.core.constraints.follow import Follow
from jointed_crane.core.constraints.point_at import PointAt
from jointed_crane.core.constraints.reach import Reach, ReachChange
from jointed_crane.core.constraints.span import Span
from jointed_crane.core.constraints.stay_above import StayAbove
from jointed_crane.core.edits import applied
from jointed_crane.core.edits.constraints.constraining import Constrain
from jointed_crane.core.edits.constraints.levers_and_links import AddLever, SetLink
from jointed_crane.core.edits.placing.poses import SetValues
from jointed_crane.core.model.channels import CHANNELS
from jointed_crane.core.model.levers import Axis, Lever, Link
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.motion.channel import Channel, Key

#: Channels in the plane that links may drive.
TARGETS = [name for name, kind in CHANNELS.items() if not kind.is_deep and not kind.stepped and name != "scale.z"]

#: What mirrored copies are beside their originals, in the parent, shape (4, 4).
MIRRORS = {
    "upright": np.diag([-1.0, 1.0, 1.0, 1.0]),
    "level": np.diag([1.0, -1.0, 1.0, 1.0]),
    "facing": np.diag([1.0, 1.0, -1.0, 1.0]),
}


def helper(part_id, x=0.0, y=0.0, **fields):
    return Part(part_id, part_id.capitalize(), "helper", rest={"move.x": float(x), "move.y": float(y)}, **fields)


def moving(part, **values):
    """The part with straight keys at frames 0, 10, 20, ... on move.x, move.y or turn.z."""
    for name, found in values.items():
        keys = tuple(Key(10.0 * place, float(value), "straight") for place, value in enumerate(found))
        part = part.with_channel({"x": "move.x", "y": "move.y", "turn": "turn.z"}[name], Channel(keys))
    return part


def arm(number, bones, goal, bends=1, turns=(0.0, 0.0), root=(0.0, 0.0), scale=(1.0, 1.0)):
    """Shoulder, elbow, hand and the goal that the hand reaches for; the shoulder hangs on a scaled base."""
    x, y = goal
    base = Part(f"s{number}", f"S{number}", rest={"scale.x": scale[0], "scale.y": scale[1]})
    upper = Part(f"u{number}", f"U{number}", parent=base.id, rest={"turn.z": turns[0]})
    upper = upper.with_rest({"move.x": root[0], "move.y": root[1]})
    fore = Part(f"f{number}", f"F{number}", parent=upper.id, rest={"move.x": bones[0], "turn.z": turns[1]})
    hand = Part(f"h{number}", f"H{number}", parent=fore.id, rest={"move.x": bones[1]})
    rule = Reach(id="r", name="Reach", goal=Goal(part=f"g{number}"), bends=bends)
    hand = replace(hand, constraints=(rule,))
    return [base, upper, fore, hand, helper(f"g{number}", x, y)]


def constrained(scene: Scene, seed: int) -> Scene:
    """The scene with random constraints, as many as its rules allow."""
    random = np.random.default_rng(seed + 7)
    ids = [part.id for part in scene.parts]

    def goal() -> Goal:
        found = str(random.choice(ids))
        at = str(random.choice(["pivot", "centre", "point"]))
        return Goal(part=found, at=at, point=(3.0, -4.0, 0.0) if at == "point" else None)

    for number in range(8):
        part = str(random.choice(ids))
        name = {"id": f"c{number}", "name": f"Rule {number}"}
        flags = [bool(flag) for flag in random.integers(0, 2, 3)]
        rules = [
            Between(**name, goals=(goal(), goal()), turns=flags[0], scales=flags[1], is_shortest=flags[2]),
            Between(**name, goals=(goal(), goal(), goal()), turns=flags[0], scales=flags[1]),
            PointAt(**name, goal=goal(), along=(3.0, 5.0, 0.0)),
            Follow(**name, goal=goal(), position=flags[0], turns=flags[1], scales=flags[2]),
            Reach(**name, goal=goal(), joints=int(random.integers(1, 4)), keeps_turn=flags[0]),
            Span(**name, first=goal(), second=goal(), points=((0.0, 0.0, 0.0), (9.0, 3.0, 0.0))),
            StayAbove(**name, line=goal(), towards=goal() if flags[0] else None, point=(1.0, 2.0, 0.0)),
            AlongPath(**name, goal=replace(goal(), at="pivot", point=None), turns=flags[0]),
            Carry(**name, holds=tuple(Hold(frame, goal().part if flags[0] else None) for frame in (6.0, 20.0))),
            Reach(
                **name, goal=goal(), changes=(ReachChange(8.0, "turn"), ReachChange(21.0, "reach")), keeps_turn=flags[0]
            ),
        ]
        rule = rules[int(random.integers(len(rules)))]
        edits = [Constrain(part, rule, frame=None)]
        if random.random() < 0.5:
            edits.append(SetValues((part,), {number_channel(rule.id, "weight"): float(random.random())}, 12.0))
        try:
            scene = applied(scene, edits)
        except RuleError:
            continue
    return scene


def any_constraint(kind, constraint_id, goal, random):
    """A constraint of a kind with every field that it declares filled in by chance; `goal()` gives its goals."""
    made = {"id": constraint_id, "name": f"{kind.__name__} {constraint_id}"}
    hints = get_type_hints(kind)
    for each in fields(kind):
        role = each.metadata.get("role")
        is_row = get_origin(hints[each.name]) is tuple and role in ("goal", "point")
        count = len(each.metadata.get("words", ())) if is_row else 1
        if role == "goal":
            made[each.name] = tuple(goal() for _ in range(count)) if is_row and each.name != "point" else goal()
        elif role == "point":
            points = tuple((float(random.integers(1, 30)), float(random.integers(1, 30)), 0.0) for _ in range(count))
            made[each.name] = points if get_args(hints[each.name])[:1] not in ((float,), ()) and is_row else points[0]
        elif role == "choice":
            made[each.name] = bool(random.integers(2))
        elif role == "side":
            made[each.name] = int(random.choice([-1, 1]))
        elif role == "bends":
            made[each.name] = tuple(random.uniform(-40, 90, 3).tolist())
        elif role == "count":
            made[each.name] = each.default
        elif role == "change":
            change = get_args(hints[each.name])[0]
            what = get_type_hints(change)
            (other,) = (name for name in what if name != "frame")
            words = get_args(what[other]) if get_origin(what[other]) is Literal else None
            made[each.name] = tuple(
                change(frame, words[place % len(words)] if words else goal().part)
                for place, frame in enumerate((6.0, 20.0))
            )
    return kind(**made)


def linked(scene: Scene, seed: int) -> Scene:
    """The scene with a lever and random links, as many as the rules allow."""
    random = np.random.default_rng(seed + 3)
    scene = applied(scene, [AddLever("lever", "Lever", Lever(axes=(Axis(low=-2.0, high=3.0, neutral=0.5), Axis())))])
    for axis in ("lever.x", "lever.y"):
        for frame in (3.0, 17.0):
            scene = applied(scene, [SetValues(("lever",), {axis: float(random.uniform(-1, 1))}, frame)])
    ids = [part.id for part in scene.parts if part.id != "lever"]
    for number in range(8):
        source, channel = ("lever", str(random.choice(["lever.x", "lever.y"])))
        if random.random() < 0.4:
            source, channel = str(random.choice(ids)), str(random.choice(TARGETS))
        points = tuple(zip(np.sort(random.uniform(-2, 3, 4)).tolist(), random.uniform(-1, 1, 4).tolist(), strict=True))
        link = Link(
            id=f"l{number}", source=source, channel=channel, onto=str(random.choice(TARGETS)),
            amount=float(random.uniform(-1, 1)), points=points if random.random() < 0.5 else (),
        )  # fmt: skip
        try:
            scene = applied(scene, [SetLink(str(random.choice(ids)), link)])
        except RuleError:
            continue
    return scene
