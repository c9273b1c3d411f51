"""Scenes in depth to look at: a gate that swings, a lantern that turns, and a title that flies in from far."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

from jointed_crane.core.edits import applied
from jointed_crane.core.edits.joints.joining import Join
from jointed_crane.core.edits.pictures.boxes import AddPrism
from jointed_crane.core.edits.pictures.making_shapes import AddShape
from jointed_crane.core.edits.placing.poses import SetValues
from jointed_crane.core.edits.scene.cameras import AddCamera, MoveCamera
from jointed_crane.core.model.forms import Ellipse, Paint, Rectangle, Text
from jointed_crane.core.model.scene import Scene
from jointed_crane.formats.lettering import with_outlines

PAPER, INK, BRASS, LAGOON = (Paint(colour) for colour in ("#f4efe4", "#20303c", "#b07d2b", "#12706f"))


def deep_scenes() -> dict[str, tuple[Scene, tuple[int, ...]]]:
    """Each with frames at which much of it is tilted, by what it is."""
    return {"gate": (gate(), (9, 30)), "lantern": (lantern(), (5, 22)), "title": (title(), (27, 40))}


def keyed(part_id: str, channel: str, values: dict[float, float]) -> Iterable[SetValues]:
    return (SetValues((part_id,), {channel: value}, frame) for frame, value in values.items())


def gate() -> Scene:
    """Two leaves between posts, seen from above; each turns about its post."""
    posts = [
        AddShape(name, Rectangle((0, 0, 30, 320), paint=INK), name, (x, 200)) for name, x in (("a", 300), ("b", 950))
    ]
    leaves = [
        AddShape(name, Rectangle((0, 0, 300, 260), 12, paint=paint), name, (x, 230))
        for name, x, paint in (("left", 340, LAGOON), ("right", 640, BRASS))
    ]
    scene = applied(Scene("gate", "Gate", ground="#c9d6d2", length=48), [*posts, *leaves, AddCamera("camera")])
    hinges = {"left": (0.0, 130.0, 0.0), "right": (300.0, 130.0, 0.0)}
    for name, hinge in hinges.items():
        leaf = scene.part(name)
        by = hinge[0] - leaf.pivot[0], hinge[1] - leaf.pivot[1]
        moved = {"move.x": leaf.rest_value("move.x") + by[0], "move.y": leaf.rest_value("move.y") + by[1]}
        scene = scene.with_parts([replace(leaf, pivot=hinge).with_rest(moved)])
    swings = [*keyed("left", "turn.y", {0: 0, 47: -110}), *keyed("right", "turn.y", {0: 0, 47: 80})]
    return applied(scene, [*swings, MoveCamera("camera", (25.0, 30.0))])


def lantern() -> Scene:
    """Eight clear panes round a flame that shines through, turning."""
    flame = AddShape("flame", Ellipse((0, 0), (30, 60), paint=Paint("#d2512f")), "Flame", (640, 360))
    scene = applied(
        Scene("lantern", "Lantern", ground="#20303c", length=48),
        [flame, AddPrism("prism", sides=8, wide=120.0, high=240.0)],
    )
    panes = [part.id for part in scene.parts if part.parent == "prism"]
    for part_id in panes:
        scene = scene.with_parts([scene.part(part_id).with_rest({"opacity": 0.6})])
    turns = keyed("prism", "turn.y", {0: 0, 47: 90})
    return applied(scene, [*turns, AddCamera("camera"), MoveCamera("camera", (10.0, 22.0), nearer=0.3)])


def title() -> Scene:
    """Words that come from far off, turned about two axes, and lie flat at the end; a board hangs on them."""
    words = with_outlines([AddShape("title", Text("Heron Lock", size=150.0, paint=INK), "Title", (230, 400))])
    board = AddShape("board", Rectangle((0, 0, 800, 24), 12, paint=BRASS), "Board", (240, 440))
    scene = applied(Scene("title", "Title", ground="#f4efe4", length=48), [*words, board, Join(("board",), "title")])
    flies = [
        *keyed("title", "move.z", {0: -4000, 44: 0}),
        *keyed("title", "turn.x", {0: 200, 44: 0}),
        *keyed("title", "turn.y", {0: -120, 44: 0}),
    ]
    return applied(scene, [*flies, AddCamera("camera")])
