"""Random scenes and edits for property tests."""

from __future__ import annotations

import os
import unittest
from collections.abc import Sequence
from dataclasses import replace
from random import Random
from typing import TypeVar

import numpy as np
from hypothesis import settings
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from jointed_crane.core.constraints.along_path import AlongPath
from jointed_crane.core.constraints.constraint import Goal
from jointed_crane.core.constraints.follow import Follow
from jointed_crane.core.constraints.point_at import PointAt
from jointed_crane.core.edits.constraints import changing_hands, constraining, keeping_as_keys, making_links
from jointed_crane.core.edits.constraints import levers_and_links as driving
from jointed_crane.core.edits.joints import eyelets, helpers, joining, limiting
from jointed_crane.core.edits.pictures import (
    boxes,
    drawings,
    folding,
    fusing,
    making_shapes,
    painting,
    patching,
    registering,
    slots,
)
from jointed_crane.core.edits.placing import (
    axes,
    kept_poses,
    leading,
    pasting,
    pivots,
    placement_choices,
    poses,
    rolling,
    settling,
    standing_on_keys,
    turning,
    whole_turns,
)
from jointed_crane.core.edits.placing import pivot_throughout as throughout
from jointed_crane.core.edits.scene import bench_state, cameras, copies, framing, mirrored_copies, naming, parts, stage
from jointed_crane.core.edits.time import (
    appearing,
    bringing_tracks,
    curving,
    inbetween,
    inserting_frames,
    keys,
    repeating,
    retiming,
    timing,
)
from jointed_crane.core.edits.time import time_markers as markers
from jointed_crane.core.measures.snapping import Snapping
from jointed_crane.core.model.channels import CHANNELS
from jointed_crane.core.model.forms import Rectangle
from jointed_crane.core.model.levers import Axis, Lever, Link
from jointed_crane.core.model.scene import Drawing, Foothold, Inherits, Part, Scene
from jointed_crane.core.motion.channel import Channel, Key, Sway
from jointed_crane.core.viewing.view import from_around
from jointed_crane.store.assets import content_hash

numbers = st.floats(-200, 200, allow_nan=False).map(lambda value: round(value, 3))
seeds = st.integers(0, 2**32 - 1)


#: A view from aside and above.
ASIDE = from_around((0.0, 0.0, 0.0), 34.0, 21.0, 900.0)
#: A picture that stands for any, as a library stores it, and its name there.
STUB = (
    "image/svg+xml",
    b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 40 40"><rect width="40" height="40"/></svg>',
)
STUB_NAME = content_hash(STUB[1])
#: How many times as many examples are drawn: `make fuzz` looks longer than `make test`.
TIMES = int(os.environ.get("JOINTED_CRANE_FUZZ", "1"))
#: What chance goes by, where no property draws it.
SEED = int(os.environ.get("JOINTED_CRANE_SEED", "1"))
Thing = TypeVar("Thing")


#: What `make test` draws of them: it is to be over within eight minutes, on the slowest days too.
_SHARE = 0.2


def examples(count: int) -> settings:
    """Settings of a property test that draws so many examples, or a multiple of them under `make fuzz`."""
    return settings(max_examples=count * TIMES if TIMES > 1 else max(2, round(_SHARE * count)), deadline=None)


def some(things: Sequence[Thing], share: float = 0.5) -> list[Thing]:
    """All of them in the long run, otherwise a share of them, by chance, in their order."""
    if TIMES > 1:
        return list(things)
    count = max(1, round(len(things) * share))
    return [things[place] for place in sorted(Random(SEED).sample(range(len(things)), count))]


#: A test of the long run alone; what it tells at length is told in the daily run by shorter ones.
long_story = unittest.skipUnless(TIMES > 1, "told by make fuzz")


def random_channel(random: np.random.Generator, neutral: float, spread: float, length: int = 48) -> Channel:
    """A channel with two to five keys of all kinds, some handles shaped."""
    frames = np.sort(random.choice(length, size=random.integers(2, 6), replace=False))
    made = []
    for frame in frames:
        shaped = random.random() < 0.5
        made.append(
            Key(
                float(frame),
                float(neutral + random.normal() * spread),
                str(random.choice(["hold", "straight", "eased"])),
                (-float(random.uniform(0, 12)), float(random.normal() * spread)) if shaped else None,
                (float(random.uniform(0, 12)), float(random.normal() * spread)) if shaped else None,
            )
        )
    outside = ["hold", "straight on", "repeat", "back and forth", "repeat onwards"]
    sway = Sway(float(spread), float(random.uniform(5, 30)), float(random.random())) if random.random() < 0.2 else None
    return Channel(tuple(made), str(random.choice(outside)), str(random.choice(outside)), sway)


def random_part(random: np.random.Generator, number: int, parent: str | None, is_deep: bool) -> Part:
    """A part with a random placement; `is_deep` lets it leave the plane."""
    names = "xyz" if is_deep else "xy"
    rest = {f"move.{axis}": float(random.normal() * 80) for axis in names}
    rest |= {f"scale.{axis}": float(random.choice([-1, 1]) * random.uniform(0.5, 1.8)) for axis in names}
    rest |= {"turn.z": float(random.uniform(-400, 400)), "shear.xy": float(random.normal() * 0.3)}
    rest |= {"spin.z": float(random.uniform(-90, 90)), "slide.x": float(random.normal() * 10)}
    if is_deep:
        rest |= {"turn.x": float(random.uniform(-90, 90)), "turn.y": float(random.uniform(-90, 90))}
        rest |= {"shear.xz": float(random.normal() * 0.2), "shear.yz": float(random.normal() * 0.2)}
    channels = {}
    for name in ("turn.z", "scale.x", "move.y", "spin.z", "opacity", "shown", "drawing"):
        if random.random() < 0.4:
            neutral = CHANNELS[name].neutral
            channels[name] = random_channel(random, neutral, 30.0 if CHANNELS[name].unit else 0.2)
    half = float(random.uniform(0, np.pi))
    orientation = (0.0, 0.0, float(np.sin(half)), float(np.cos(half)))
    if is_deep:
        orientation = tuple(float(value) for value in Rotation.random(rng=random).as_quat())
    width, height = float(random.uniform(10, 90)), float(random.uniform(10, 90))
    bounds = (0.0, 0.0, width, height)
    drawing = Drawing(f"d{number}", "first", STUB_NAME, bounds, bounds)
    footholds = (Foothold(5.0, (3.0, 4.0, 0.0)), Foothold(20.0, (9.0, -2.0, 0.0))) if random.random() < 0.2 else ()
    return Part(
        id=f"p{number}",
        name=f"Part {number}",
        parent=parent,
        drawings=(drawing,),
        pivot=(float(random.normal() * 20), float(random.normal() * 20), 0.0),
        orientation=orientation,
        turn_order=str(random.choice(["XYZ", "ZYX", "YXZ"])) if is_deep else "XYZ",
        rest=rest,
        channels=channels,
        footholds=footholds,
    )


#: The axes of mirrored copies.
AXES = ("upright", "level", "facing")


def random_scene(seed: int, count: int = 7, is_deep: bool = False) -> Scene:
    """A scene with a random tree of parts."""
    random = np.random.default_rng(seed)
    made = []
    for number in range(count):
        parent = f"p{random.integers(0, number)}" if number and random.random() < 0.8 else None
        made.append(random_part(random, number, parent, is_deep))
    parts = tuple(made[i] for i in random.permutation(count))
    return Scene("s", "Random", length=48, parts=parts, depth=is_deep)


def cornered_scene(seed: int) -> Scene:
    """A random scene in which parts inherit partly, vanish, lie mirrored, and stand on footholds; deep or flat."""
    random = np.random.default_rng(seed + 1)
    scene = random_scene(seed, is_deep=seed % 3 == 0)
    changed = []
    for part in scene.parts:
        if random.random() < 0.4:
            part = replace(part, inherits=Inherits(*(bool(flag) for flag in random.integers(0, 2, 3))))
        if random.random() < 0.15:
            part = replace(part, channels={**part.channels, "scale.y": Channel((Key(0.0, 1.0), Key(44.0, 0.0)))})
        if part.drawings and random.random() < 0.3:
            part = replace(part, drawings=(*part.drawings, replace(part.drawings[0], id=f"{part.id}-2", name="second")))
        changed.append(part)
    return scene.with_parts(changed)


def _piece(start: str, number: int) -> Drawing:
    """A picture that a split could find."""
    bounds = (0.0, 0.0, 10.0 + number, 20.0)
    return Drawing(f"{start}-{number}", "Piece", STUB_NAME, (0.0, 0.0, 40.0, 40.0), bounds)


def _value_edits(parts: tuple[str, str], by: tuple[float, float], channel: str, frame: float | None) -> list[object]:
    """One of each kind of edit that sets values and does nothing else."""
    x, y = by
    return [
        poses.SetValues(parts, {channel: x / 50}, frame),
        poses.TurnBy(parts, x, frame, past_limits=y > 0),
        poses.TurnBy(parts, y, frame, about="x"),
        poses.TurnBy(parts, x, frame, about="sight", view=ASIDE),
        poses.MoveBy(parts, (x, y), frame),
        poses.MoveBy(parts, (x, y), frame, view=ASIDE),
        poses.MoveAlong(parts, "z", x, "own", frame),
        poses.ScaleBy(parts, (1 + abs(x) / 200, 1.0), frame),
        poses.ScaleToward(parts, (x, y), (y, x), "both", frame),
        turning.TurnAbout(parts, x, (y, x), frame),
        turning.TurnAbout(parts, x, "shared centre", frame),
        turning.ScaleAbout(parts, 1 + abs(y) / 300, (y, x), frame),
    ]


def _rule_edits(
    scene: Scene, parts: tuple[str, str], by: tuple[float, float], frame: float | None, fresh: str
) -> list[object]:
    """Edits of constraints, levers and links."""
    (part, other), (x, y) = parts, by
    goal, own = Goal(part=other), {"id": fresh, "name": "Rule"}
    known = scene.part(part).constraints[0] if scene.part(part).constraints else Follow(**own, goal=goal)
    rule = known.id
    known_link = scene.part(part).links[0].id if scene.part(part).links else "none"
    lever = next((found.id for found in scene.parts if found.lever is not None), "none")
    link = Link(id=fresh, source=lever, channel="lever.x", onto="turn.z", amount=x)
    return [
        constraining.Constrain(part, Follow(**own, goal=goal), frame=frame),
        constraining.Constrain(part, PointAt(**own, goal=goal, along="y"), {"weight": abs(x) / 500}, frame),
        constraining.Constrain(part, AlongPath(**own, goal=goal), {"beside": y}, frame),
        constraining.MakeReach(part, fresh, 2, x > 0, frame),
        constraining.RemoveConstraint(part, rule),
        constraining.ChangeConstraint(part, replace(known, is_on=x > 0)),
        constraining.OrderConstraint(part, rule, int(y > 0)),
        keeping_as_keys.KeepAsKeys(part, rule, 2.0),
        changing_hands.DropChange(part, rule, 8.0 if x > 0 else 20.0),
        changing_hands.CarryFrom(part, other if y > 0 else None, abs(x), fresh),
        changing_hands.MatchReach(part, rule, "turn" if x > 0 else "reach", abs(y)),
        changing_hands.MoveChange(part, rule, 5.0, abs(y)),
        driving.AddLever(fresh, "Lever", Lever(axes=(Axis(),)), other),
        driving.ChangeLever(lever, Lever(axes=(Axis(low=-abs(x) - 1), Axis()))),
        driving.Unlink(part, known_link),
        driving.SetLink(part, link),
        driving.SetLink(part, replace(link, source=other, channel="move.x", points=((x - 1, y), (x, x)))),
        making_links.LinkByRanges(part, fresh, other, "turn.z", "scale.x"),
        making_links.LinkFromHere(part, fresh, other, "turn.z", "move.x", x, y, frame),
        making_links.LinkAsCurve(part, known_link),
        driving.Teach(lever, fresh, (poses.TurnBy((part,), x, frame),), frame=frame),
        leading.Lead((part,), (x, y), (y, x), frame),
    ]


def _shape_edits(part: str, drawing: str, by: tuple[float, float], frame: float | None, fresh: str) -> list[object]:
    """Edits of shapes and drawings, and of what is brought in."""
    x, y = by
    box = Rectangle((0.0, 0.0, 1 + abs(x), 30.0), corner=2.0)
    return [
        making_shapes.AddShape(fresh, box, "Plank", (x, y)),
        making_shapes.SetShape(part, drawing, box),
        making_shapes.KeyShape(part, drawing, box, abs(y)),
        making_shapes.MoveNode(part, drawing, 0, 1, (x, y), frame=frame),
        drawings.AddDrawing(part, _piece(fresh, 3), frame),
        drawings.ReplaceDrawing(part, drawing, _piece(fresh, 4)),
        drawings.CopyDrawing(part, drawing, fresh, frame=frame),
        drawings.OrderDrawing(part, drawing, 0),
        drawings.DeleteDrawing(part, drawing),
        drawings.RenameDrawing(part, drawing, f"Drawing {x}"),
        slots.NameSlot(part, "picture", f"Column {x}"),
        folding.Fold((part, fresh), x),
        parts.AddParts((Part(fresh, "New", rest={"move.x": x}),)),
        bringing_tracks.BringTrack(fresh, "Track", ((0.0, x, y), (6.5, y, x))),
    ]


@st.composite
def value_edit_for(draw: st.DrawFn, scene: Scene, frame: float | None) -> object:
    """Any edit of values alone in one state of the scene."""
    ids = st.sampled_from([part.id for part in scene.parts])
    channel = draw(st.sampled_from(["turn.z", "move.x", "scale.y", "opacity", "shear.xy", "spin.z", "shown", "order"]))
    edits = _value_edits((draw(ids), draw(ids)), (draw(numbers), draw(numbers)), channel, frame)
    return draw(st.sampled_from(edits))


@st.composite
def edits_for(draw: st.DrawFn, scene: Scene) -> list[object]:
    """Edits of every kind that fit the scene; some of them are refused by the rules, as users' edits are."""
    ids = [part.id for part in scene.parts]
    part = draw(st.sampled_from(ids))
    other = draw(st.sampled_from(ids))
    frame = draw(st.sampled_from([None, 0.0, 7.0, 12.5, 30.0]))
    x, y = draw(numbers), draw(numbers)
    channel = draw(st.sampled_from(["turn.z", "move.x", "scale.y", "opacity", "shear.xy", "spin.z"]))
    curve = scene.part(part).channels.get(channel)
    key = keys.KeyAt(part, channel, curve.keys[0].frame) if curve and curve.keys else keys.KeyAt(part, channel, 3.0)
    all_keys = tuple(keys.KeyAt(part, channel, at) for at in (curve.frames if curve else (3.0,)))
    eyelet = scene.part(part).eyelets[0].id if scene.part(part).eyelets else "none"
    mark = scene.marks[0].id if scene.marks else "none"
    drawing = scene.part(part).drawings[-1].id if scene.part(part).drawings else "none"
    marker = scene.markers[0].id if scene.markers else "none"
    pose = scene.poses[0].id if scene.poses else "none"
    fresh = f"n{len(ids)}-{draw(st.integers(0, 10**6))}"
    return [
        *_value_edits((part, other), (x, y), channel, frame),
        *_rule_edits(scene, (part, other), (x, y), frame, fresh),
        pivots.MovePivot(part, (x, y), "stage", "art", Snapping(8.0), frame),
        markers.AddMarker(fresh, abs(x), abs(x) + abs(y), "Walk"),
        markers.SetMarker(marker, abs(y), None, "Look"),
        markers.DeleteMarker(marker),
        kept_poses.KeepPose(fresh, frame or 0.0, (part, other), "Reach"),
        kept_poses.PutPose(pose, frame or 3.0, (part,), 0.6, x > 0),
        kept_poses.RenamePose(pose, "Stretch"),
        kept_poses.DeletePose(pose),
        keys.SetSway(part, channel, Sway(abs(x), 9.0, 0.1, 0.5, 3, 2.0, 40.0, 4.0, 5.0)),
        pivots.MovePivot(part, (x / 100, y / 100), "fraction", "pivot", frame=frame),
        pivots.MovePivot(part, (None, y), "stage", frame=frame),
        pivots.PivotIntoRoundEnd((part,), frame),
        pivots.SetFoothold(part, abs(x), (x, y)),
        pivots.SetFoothold(part, abs(x), (x, y), "stage", Snapping(8.0)),
        pivots.MoveFoothold(part, 12.0, abs(x)),
        keys.RaiseKeys(all_keys, x),
        joining.Join((part,), other, frame),
        joining.Join((part, other), None, frame),
        helpers.AddHelper(fresh, (part, other), None, "Helper", frame),
        parts.DeleteParts((part,), frame),
        parts.RenamePart(part, f"Name {x}"),
        bench_state.SetBenchState((part,), hidden=x > 0),
        painting.Reorder((part, other), draw(st.sampled_from(["front", "forward", "backward", "back"]))),
        painting.PlaceInOrder((part,), other),
        keys.SetKeys((part,), (channel,), abs(x)),
        retiming.MoveKeys((key,), x),
        retiming.StretchKeys((key,), y, 0.1 + abs(x) / 50, x > 0),
        retiming.ReverseKeys(all_keys),
        retiming.Stagger((part, other), x / 20, None, draw(st.sampled_from(["picked", "tree", "down"]))),
        retiming.Stagger((part, other), 0.0, y / 50, "shuffled", 5, False),
        inbetween.InBetween((part, other), abs(x), y / 100),
        appearing.ShowFrom((part, other), abs(x), y > 0),
        curving.ShapeSegments((key,), draw(st.sampled_from(["soft end", "overshoot", "bounce"])), 2),
        curving.ShapeLike(all_keys, key),
        curving.LayHandles((key,), draw(st.sampled_from(["flat", "joined", "smooth"]))),
        curving.Bake(0.0, 40.0, 0.5, (part,)),
        rolling.Roll(part, abs(x), abs(x) + 20.0, 3, draw(st.sampled_from(["right", "left"]))),
        timing.SetRate(draw(st.sampled_from([(25, 1), (12, 1), (30000, 1001)])), "seconds", x > 0),
        timing.SetLength(draw(st.integers(1, 300)), y > 0, x > 0),
        inserting_frames.InsertFrames(abs(x), draw(st.integers(-30, 30)) or 1, draw(st.sampled_from([(), (part,)]))),
        throughout.MovePivotThroughout(part, (x / 4, y / 4), 0.1),
        repeating.HoldUntil((part, other), abs(x)),
        whole_turns.TurnRound((part, other), round(y / 50), abs(x), abs(x) + 9.5, "spin.z", "straight"),
        repeating.PasteKeys((repeating.CopiedKeys("Part 1", channel, (Key(x, y), Key(x + 3, x))),), y, (part,)),
        keys.DeleteKeys((key,)),
        keys.SetSegmentKind((key,), "straight"),
        keys.SetHandles((key,), (-3.0, y), (4.0, x)),
        keys.SetSway(part, channel, Sway(x, 1 + abs(y))),
        keys.SetOutside(part, channel, after="repeat onwards"),
        stage.SetStage(length=draw(st.integers(1, 500))),
        stage.RenameScene(f"Scene {x}"),
        eyelets.AddEyelet(part, fresh, (x, y), "stage", scene.part(other).name, frame=frame),
        eyelets.MoveEyelet(part, eyelet, (x, y), "art", Snapping(5.0, ("nine points", "edges", "grid")), frame),
        eyelets.DeleteEyelet(part, eyelet),
        eyelets.Seat((), None, "{name}", frame),
        eyelets.Seat((part,), eyelet, "{name}", frame),
        eyelets.Unseat((part,)),
        settling.Settle(abs(x), (part,)),
        settling.Reset((), (), frame),
        turning.AddMark(fresh, (x, y)),
        turning.SetMark(mark, (y, x), None, Snapping(9.0, ("pivots", "grid")), frame),
        turning.TurnAbout((part, other), x, "shared centre", frame),
        copies.Duplicate((part,), fresh, shares=x > 0, by=(x, y), frame=frame),
        mirrored_copies.MirroredCopy(
            (part,), fresh, draw(st.sampled_from(["upright", "level", "facing"])), frame=frame
        ),
        copies.Paste((scene.part(part), scene.part(other)), fresh),
        eyelets.MakeJoints((part, other), fresh, frame),
        limiting.SetLimits((part,), channel, min(x, y), max(x, y)),
        limiting.FixChannels((part,), (channel,), x > 0),
        limiting.KeepWithinLimits((part,), channel),
        naming.NameByPattern((part, other), "{name} {number}", 7),
        bench_state.Isolate((part, other)),
        bench_state.SetTag((part,), "reed"),
        bench_state.SilenceFinding((part,), "Joint open"),
        patching.AddRoundPatch(part, fresh, "#886644"),
        registering.MoveRegistration(part, (x, y), "art", draw(st.sampled_from(["art", "registration"]))),
        registering.AlignAxes(part, "line", (0.0, 0.0), (x, y), frame),
        registering.PlacePivots((part, other), (0.5, 1.0), frame=frame),
        pasting.PastePose({scene.part(part).name: {channel: x / 50}}, (other,), x > 0, frame),
        joining.Join((part,), other, frame, "snapped"),
        turning.DeleteMark(mark),
        fusing.Fuse((part, other), _piece(fresh, 2), frame),
        fusing.Split(part, (_piece(fresh, 0), _piece(fresh, 1)), fresh, frame),
        *_shape_edits(part, drawing, (x, y), frame, fresh),
        pivots.RemoveFoothold(part, 12.0),
        placement_choices.SetPlacement(part, painted_by="list"),
        axes.SetAxes(part, (x, y, 30.0)),
        cameras.AddCamera(fresh, view=ASIDE),
        cameras.SetCamera(part, parallel=x > 0),
        cameras.SetLensAngle((part,), 40.0, frame),
        cameras.SetCut(abs(x)),
        cameras.MoveCut(0.0, abs(x)),
        cameras.RemoveCut(0.0),
        cameras.MoveCamera(part, (x, y), frame=frame),
        cameras.SpreadInDepth((part, other), x, frame),
        framing.FrameParts(part, (other,), frame),
        boxes.AddBox(fresh, size=(abs(x) + 1, 90.0, 40.0)),
        boxes.AddPrism(fresh, sides=5),
        pivots.MovePivot(part, (x, y), "stage", frame=frame, view=ASIDE, z=y / 10),
        placement_choices.SetPlacement(part, inherits=Inherits(scale=x > 0, turn=y > 0)),
        standing_on_keys.SetLevel(part, mark if x > 0 else None),
        standing_on_keys.StandOnKeys(part),
        helpers.UnscaleHelper(part),
        eyelets.RenameEyelet(part, eyelet, f"Neck {x}"),
    ]


def edit_for(scene: Scene) -> st.SearchStrategy[object]:
    """Any edit that fits the scene."""
    return edits_for(scene).flatmap(st.sampled_from)
