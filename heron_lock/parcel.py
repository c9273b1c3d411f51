"""Parcel, ready to go: six panels of card fold themselves into a box, which turns on the packer's table."""

from __future__ import annotations

from heron_lock.rigging import started
from jointed_crane.core.edits.constraints.levers_and_links import SetLink
from jointed_crane.core.edits.joints.joining import Join
from jointed_crane.core.edits.pictures.folding import Fold
from jointed_crane.core.edits.pictures.making_shapes import AddShape
from jointed_crane.core.edits.scene.cameras import AddCamera, MoveCamera
from jointed_crane.core.edits.scene.stage import SetStage
from jointed_crane.core.model.forms import Paint, Rectangle
from jointed_crane.core.model.levers import LEVER_CHANNELS, Link
from jointed_crane.store.library import Library

NAME = "Parcel, ready to go"
#: How far the lever folds each panel, 0 to 1 of a right angle: the sides one after the other, the lid at the end.
FOLDS = {"North": (0.0, 0.35), "South": (0.15, 0.5), "West": (0.3, 0.65), "East": (0.45, 0.8), "Lid": (0.75, 1.0)}
PANELS = ("Bottom", *FOLDS)
#: Where the middles of the printed panels lie in the net, px; how each is turned over, so that what is up stays up; and
#: the card of its inside.
SIDES = {
    "North": (640, 180, "turn.y", "#b08342"),
    "South": (640, 540, "turn.y", "#ba8d4c"),
    "West": (460, 360, "turn.x", "#a87b3a"),
    "East": (820, 360, "turn.x", "#b58847"),
    "Lid": (1000, 360, "turn.x", "#bf9351"),
}
#: How thick the card is, px.
THICK = 0.6


def build(library: Library) -> None:
    """Make the scene in a library."""
    rig = started("parcel.svg", NAME, 168)
    rig.keep([SetStage(ground="#66797a")])
    for name in ("Wall", "Table"):
        rig.pivots({name: (640, 360)})
    # The net lies with its print on the table, and plain card up, which will be the inside.
    for name, (x, y, over, colour) in SIDES.items():
        rig.pivots({name: (x, y)})
        rig.rest(name, {over: 180.0})
        card = Rectangle((-90.0, -90.0, 90.0, 90.0), paint=Paint(colour))
        rig.keep([AddShape(f"in-{name}", card, f"{name} inside", (x, y)), Join((f"in-{name}",), rig.named(name))])
        rig.rest(f"{name} inside", {"move.z": -THICK})
    rig.keep([Fold(tuple(map(rig.named, PANELS)), 90.0, 0.5, "fold")])
    for name, (begins, ends) in FOLDS.items():
        part = rig.scene.part(rig.named(name))
        (known,) = part.links
        points = tuple((at, known.amount * share) for at, share in ((0.0, 0.0), (begins, 0.0), (ends, 1.0), (1.0, 1.0)))
        link = Link(
            id=known.id, source=known.source, channel=LEVER_CHANNELS[0], onto="turn.x",
            points=tuple(dict(points).items()),
        )  # fmt: skip
        rig.keep([SetLink(part.id, link)])
    rig.helper("turntable", "Turntable", ("Bottom",), (640, 360))
    # The net lies on the table, a little off its top so that it is never in one plane with it.
    rig.rest("Turntable", {"turn.x": 68.0, "move.z": 0.0})
    rig.rest("Table", {"turn.x": 68.0, "move.y": 362.0, "scale.x": 1.6, "scale.y": 1.75})
    rig.rest("Wall", {"move.z": -760.0, "move.y": 330.0, "scale.x": 2.2, "scale.y": 2.2})
    rig.keys("Fold", LEVER_CHANNELS[0], {6: 0, 84: 1}, "eased")
    rig.keys("Turntable", "turn.z", {0: 0, 80: 0, 152: 360})
    rig.keys("Turntable", "move.z", {84: 0, 100: 24, 136: 24, 152: 0})
    rig.keep([AddCamera("camera", "Camera"), MoveCamera("camera", (-12.0, 14.0), nearer=0.08)])
    rig.keep([MoveCamera("camera", (24.0, 0.0), frame=167.0)])
    rig.lock(("Wall", "Table"))
    rig.put_on_shelf(library)
