"""Scenes to measure with: crowds with more keys, and with constraints, and planes in space."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from scipy.spatial.transform import Rotation

from jointed_crane.core.constraints.between import Between
from jointed_crane.core.constraints.constraint import Goal
from jointed_crane.core.constraints.follow import Follow
from jointed_crane.core.constraints.point_at import PointAt
from jointed_crane.core.constraints.reach import Reach
from jointed_crane.core.edits import applied
from jointed_crane.core.edits.constraints.constraining import Constrain
from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.model.scene import Drawing, Part, Scene
from jointed_crane.core.motion.channel import Channel, Key
from tests.crowds import FRAMES, crowd

MANY_KEYS = 40


def dense(count: int = 200, art: str = "art") -> Scene:
    """The same crowd with 40 keys on five channels of each part."""
    random = np.random.default_rng(3)
    kinds = {
        "turn.z": (0.0, 40.0),
        "scale.x": (1.0, 0.1),
        "scale.y": (1.0, 0.1),
        "move.x": (0.0, 9.0),
        "opacity": (0.9, 0.01),
    }
    parts = (
        replace(part, channels={name: _many_keys(random, neutral, spread) for name, (neutral, spread) in kinds.items()})
        for part in crowd(count, art).parts
    )
    return replace(crowd(0), id="dense", name="Dense", parts=tuple(parts))


def _many_keys(random: np.random.Generator, neutral: float, spread: float) -> Channel:
    frames = np.sort(random.choice(FRAMES, MANY_KEYS, replace=False)).tolist()
    values = (neutral + random.normal(size=MANY_KEYS) * spread).tolist()
    rises = (random.normal(size=(MANY_KEYS, 2)) * spread).tolist()
    return Channel(
        tuple(
            Key(float(frame), value, "eased", (-2.0, back), (2.0, out))
            for frame, value, (back, out) in zip(frames, values, rises, strict=True)
        )
    )


def constrained(scene: Scene) -> tuple[Scene, Scene]:
    """A crowd of 200 with a helper near each of 40 parts, and the same with the 40 constrained to them: ten each reach
    by two joints, point, follow, and lie between two.
    """
    pose = evaluate(scene, [0.0])
    parts = [f"p{5 * place + offset}" for offset, first in ((3, 0), (2, 20), (0, 20), (0, 30)) for place in _ten(first)]
    goals = [
        Part(f"g{number}", f"Goal {number}", "helper", rest=_beside(pose.pivot_of(part_id)))
        for number, part_id in enumerate(parts)
    ]
    plain = replace(scene, parts=(*scene.parts, *goals))
    edits = []
    for number, part_id in enumerate(parts):
        goal, own = Goal(part=f"g{number}"), {"id": "c", "name": "Rule"}
        rules = (
            Reach(**own, goal=goal),
            PointAt(**own, goal=goal),
            Follow(**own, goal=goal),
            Between(**own, goals=(goal, Goal(part=f"g{(number + 1) % 40}"))),
        )
        edits.append(Constrain(part_id, rules[number // 10]))
    return plain, applied(plain, edits)


def _ten(first: int) -> range:
    return range(first, first + 10)


def _beside(place: np.ndarray) -> dict[str, float]:
    return {"move.x": float(place[0]) + 20.0, "move.y": float(place[1]) + 10.0}


def planes(count: int, cutting: int, art: str = "art") -> Scene:
    """Squares of 80 px, layers in depth and pairs that cut each other, over a stage; each turns about its upright."""
    random = np.random.default_rng(1)
    box = (0.0, 0.0, 80.0, 80.0)
    drawing = Drawing("d", "square", art, box, box, outline=(((0, 0), (80, 0), (80, 80), (0, 80)),))
    places = np.column_stack([random.normal(size=(count, 2)) * 400 + (640, 360), 3.0 * np.arange(count)])
    turns = Rotation.random(count, random_state=np.random.RandomState(1)).as_quat()
    turns[cutting:] = (0.0, 0.0, 0.0, 1.0)
    places[1:cutting:2] = places[0:cutting:2]
    places[:cutting, 2] = 3.0 * random.uniform(0, count, cutting // 2).repeat(2)
    parts = [
        Part(
            f"p{number}", f"Square {number}", drawings=(replace(drawing, id=f"d{number}"),), pivot=(40.0, 40.0, 0.0),
            orientation=tuple(turn), rest=dict(zip(("move.x", "move.y", "move.z"), place, strict=True)),
            channels={"turn.y": Channel((Key(0.0, 0.0), Key(FRAMES - 1.0, 30.0)))},
        )
        for number, (place, turn) in enumerate(zip(places.tolist(), turns.tolist(), strict=True))
    ]  # fmt: skip
    return Scene("planes", "Planes", length=FRAMES, parts=tuple(parts), depth=True)
