"""Whole evaluation against a batched matrix product, a scene-description library, and its own growth."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import replace

import numpy as np
from pxr import Gf, Usd, UsdGeom
from pydantic_core import from_json, to_json

from bench.scenes import constrained
from bench.timing import ratio, seconds
from jointed_crane.core.edits import Edit, applied
from jointed_crane.core.edits.joints.helpers import AddHelper
from jointed_crane.core.edits.placing.poses import TurnBy
from jointed_crane.core.edits.time.keys import KeyAt
from jointed_crane.core.edits.time.retiming import MoveKeys, Stagger
from jointed_crane.core.edits.time.timing import SetLength
from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.evaluate.packing.plan import hand_plan_on
from jointed_crane.core.evaluate.pose_at_frame import pose_at
from jointed_crane.core.model.scene import Inherits, Part, Scene
from jointed_crane.core.model.scene_change import SceneChange
from jointed_crane.core.motion.channel import Channel, Key
from jointed_crane.store.rows import scene_from_rows, scene_rows
from tests.crowds import FRAMES, crowd


def over_product(scene: Scene) -> float:
    """Whole evaluation over one batched 4 x 4 product of the same size."""
    shape = (len(scene.parts), FRAMES, 4, 4)
    a, b = np.random.default_rng(1).random((2, *shape))
    frames = np.arange(FRAMES, dtype=float)
    return seconds(lambda: evaluate(scene, frames)) / seconds(lambda: a @ b)


def fresh_over_product(scene: Scene, edit: TurnBy | None = None) -> float:
    """Whole evaluation over the product where nothing of the scene is known yet or, with an edit, all but what that
    changes.
    """
    shape = (len(scene.parts), FRAMES, 4, 4)
    a, b = np.random.default_rng(1).random((2, *shape))
    frames = np.arange(FRAMES, dtype=float)
    times = []
    for run in range(5):
        if edit is None:
            after = scene.with_parts(replace(part, channels=_unknown(part)) for part in scene.parts)
        else:
            evaluate(scene, frames)
            after = applied(scene, [replace(edit, degrees=1.0 + run)])
            hand_plan_on(SceneChange(scene, after))
        begin = time.perf_counter()
        evaluate(after, frames)
        times.append(time.perf_counter() - begin)
    return min(times) / seconds(lambda: a @ b)


def _unknown(part: Part) -> dict[str, Channel]:
    """The channels of a part as values that nothing was computed of yet."""
    return {name: Channel(channel.keys) for name, channel in part.channels.items()}


def constrained_over_plain(scene: Scene) -> float:
    """Whole evaluation of a scene with 40 constraints over that of the same without them."""
    plain, ruled = constrained(scene)
    frames = np.arange(FRAMES, dtype=float)
    return ratio(lambda: evaluate(ruled, frames), lambda: evaluate(plain, frames))


def first_pose(scene: Scene) -> float:
    """The first pose of a scene that was just read from its rows, ms."""
    rows = scene_rows(scene)
    read = scene_from_rows(scene.id, dict(zip(rows, from_json(to_json(list(rows.values()))), strict=True)))
    begin = time.perf_counter()
    pose_at(read, 10.0)
    return (time.perf_counter() - begin) * 1000


def over_library(scene: Scene, frames: int = 30) -> float:
    """Part-frames a second over those of usd-core's transform cache on the same hierarchy.

    The library gets the same keys as time samples; it draws straight lines between them, which is less work than
    easing. It is asked for fewer frames, since it is slower; both counts are divided out.
    """
    stage = _as_stage(scene)
    prims = [prim for prim in stage.Traverse() if prim.IsA(UsdGeom.Xformable)]

    def library() -> None:
        cache = UsdGeom.XformCache()
        for frame in range(frames):
            cache.SetTime(float(frame * FRAMES / frames))
            for prim in prims:
                cache.GetLocalToWorldTransform(prim)

    ours = len(scene.parts) * FRAMES / seconds(lambda: evaluate(scene, np.arange(FRAMES, dtype=float)))
    theirs = len(prims) * frames / seconds(library, runs=3)
    return ours / theirs


def _as_stage(scene: Scene) -> Usd.Stage:
    stage = Usd.Stage.CreateInMemory()
    paths: dict[str, str] = {}
    for part in scene.parts:
        paths[part.id] = f"{paths.get(part.parent or '', '')}/{part.id}"
        prim = UsdGeom.Xform.Define(stage, paths[part.id])
        pivot = Gf.Vec3d(*part.pivot)
        place = Gf.Vec3d(part.rest_value("move.x"), part.rest_value("move.y"), 0)
        prim.AddTranslateOp(UsdGeom.XformOp.PrecisionDouble).Set(place - pivot)
        prim.AddTranslateOp(UsdGeom.XformOp.PrecisionDouble, "pivot").Set(pivot)
        turn = prim.AddRotateZOp(UsdGeom.XformOp.PrecisionDouble)
        scale = prim.AddScaleOp(UsdGeom.XformOp.PrecisionDouble)
        prim.AddTranslateOp(UsdGeom.XformOp.PrecisionDouble, "pivot", True)
        for key in part.channels["turn.z"].keys:
            turn.Set(key.value, key.frame)
        for x, y in zip(part.channels["scale.x"].keys, part.channels["scale.y"].keys, strict=True):
            scale.Set(Gf.Vec3d(x.value, y.value, 1), x.frame)
    return stage


def edit_growth() -> dict[str, float]:
    """How much longer edits take where a scene holds four times as much, over four: 1 is linear."""
    found = {}
    for name, make in _GROWING.items():
        few, many = (make(count) for count in (_FEW[name], 4 * _FEW[name]))
        found[name] = seconds(lambda: applied(*many), runs=4) / (4 * seconds(lambda: applied(*few), runs=4))  # noqa: B023
    return found


def _keyed(count: int) -> tuple[Scene, tuple[KeyAt, ...]]:
    channel = Channel(tuple(Key(float(frame), float(frame % 7)) for frame in range(count)))
    parts = tuple(Part(name, name.upper(), channels={"turn.z": channel}) for name in "pq")
    return Scene("s", "S", length=count, parts=parts), tuple(KeyAt("p", "turn.z", float(at)) for at in range(count))


def _hung(count: int, inherits: Inherits) -> tuple[Scene, list[Edit]]:
    parts = tuple(
        Part(f"p{n}", f"P{n}", parent=f"p{n - 1}" if n % 10 else None, rest={"move.x": 10.0}, inherits=inherits)
        for n in range(count)
    )
    return Scene("s", "S", parts=parts), [AddHelper("h", tuple(part.id for part in parts))]


_FEW = {"move": 2000, "length": 2000, "stagger": 2000, "helper": 50, "helper, no scale inherited": 50}
_GROWING: dict[str, Callable[[int], tuple[Scene, list[Edit]]]] = {
    "move": lambda count: (_keyed(count)[0], [MoveKeys(_keyed(count)[1], 5.0)]),
    "length": lambda count: (_keyed(count)[0], [SetLength(2 * count, True)]),
    "stagger": lambda count: (_keyed(count)[0], [Stagger(("p", "q"), 5.0)]),
    "helper": lambda count: _hung(count, Inherits()),
    "helper, no scale inherited": lambda count: _hung(count, Inherits(scale=False)),
}


def growth() -> float:
    """Time for 1,000 parts over ten times the time for 100: 1 is linear, less is better than linear."""
    frames = np.arange(FRAMES, dtype=float)
    few, many = crowd(100), crowd(1000)
    return seconds(lambda: evaluate(many, frames), runs=4) / (10 * seconds(lambda: evaluate(few, frames)))
