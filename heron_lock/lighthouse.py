"""Lighthouse, going round: a tower of flat panels, a lens that turns in its lantern, a camera that goes round it."""

from __future__ import annotations

import math

from heron_lock.rigging import Rig, started
from jointed_crane.core.checks.depth import seen_from_behind
from jointed_crane.core.edits.joints.joining import Join
from jointed_crane.core.edits.pictures.boxes import AddPrism
from jointed_crane.core.edits.scene.cameras import AddCamera
from jointed_crane.core.edits.scene.parts import DeleteParts
from jointed_crane.core.edits.scene.stage import SetStage
from jointed_crane.core.geometry.coordinates import Vector
from jointed_crane.core.model.scene import Drawing
from jointed_crane.core.viewing.view import from_around
from jointed_crane.store.library import Library

NAME = "Lighthouse, going round"
MIDDLE: Vector = (640.0, 400.0, 0.0)
#: Width and length of a panel of the roof, px.
ROOF = (72.0, 96.0)


def build(library: Library) -> None:
    """Make the scene in a library."""
    rig = started("lighthouse.svg", NAME, 192)
    wall, window, glass, lens, roof = (rig.scene.part(rig.named(name)).drawings[0] for name in
                                       ("Wall", "Window wall", "Glass", "Lens", "Roof"))  # fmt: skip
    rig.keep([SetStage(ground="#a9c3c8")])
    _prism(rig, "tower", "Tower", 10, (70.0, 300.0), 430.0, (wall, window))
    _prism(rig, "lantern", "Lantern room", 8, (64.0, 92.0), 234.0, (glass,))
    _prism(rig, "lens", "Lens", 6, (34.0, 60.0), 236.0, (lens,))
    _prism(rig, "roof", "Roof", 8, ROOF, 144.0, (roof,))
    # The panels of the roof lean so far in that their tips meet over its middle.
    lean = math.degrees(math.asin(ROOF[0] / 2 / math.tan(math.pi / 8) / ROOF[1]))
    for number in range(8):
        rig.pivots_to((f"Roof side {number + 1}",), (0.5, 1.0))
        rig.rest(f"Roof side {number + 1}", {"turn.x": lean})
    rig.rest("Heron", {"move.x": MIDDLE[0], "move.y": 104.0, "move.z": 0.0})
    rig.pivots({"Beam": (400, 120)})
    rig.rest("Beam", {"move.x": MIDDLE[0], "move.y": 236.0, "move.z": 0.0})
    for name, turned in (("Sea", 90.0), ("Rock", 90.0)):
        rig.rest(name, {"turn.x": turned, "move.x": MIDDLE[0], "move.z": 0.0})
    rig.rest("Sea", {"move.y": 584.0, "scale.x": 3.4, "scale.y": 7.0})
    rig.rest("Rock", {"move.y": 580.0, "scale.x": 1.3, "scale.y": 1.5})
    rig.keep(
        [DeleteParts(tuple(rig.named(name) for name in ("Wall", "Window wall", "Glass", "Lens drawn", "Roof drawn")))]
    )
    rig.keep([Join((rig.named("Beam"),), "lens")])
    rig.keys("Lens", "turn.y", {0: 0, 192: -720}, "straight")
    rig.sway("Heron", "turn.y", 34, 64)
    rig.helper("round", "Round", (), (MIDDLE[0], 360.0))
    view = from_around((MIDDLE[0], 360.0, 0.0), 0.0, 13.0, 1260.0)
    rig.keep([AddCamera("camera", "Camera", view=view, lens=34.0), Join(("camera",), "round")])
    rig.keys("Round", "turn.y", {0: -20, 192: 340}, "straight")
    for name in ("Beam", "Heron"):  # alike from both sides
        rig.silence(name, seen_from_behind.NAME)
    rig.lock(("Sea", "Rock"))
    rig.put_on_shelf(library)


def _prism(
    rig: Rig, part_id: str, name: str, sides: int, size: tuple[float, float], height: float, faces: tuple[Drawing, ...]
) -> None:
    """A ring of panels about the tower's axis, its middle at a height of the stage."""
    drawn = next((part for part in rig.scene.parts if part.name == name), None)
    if drawn is not None:  # what the faces are drawn as makes room for the name
        rig.rename(name, f"{name} drawn")
    at = (MIDDLE[0], height, 0.0)
    rig.keep([AddPrism(part_id, name, sides, *size, closed=False, at=at, drawings=faces)])
