"""Lock gates, one lever: two gates swing on their heel posts by one lever, and a barge goes through on its course."""

from __future__ import annotations

from heron_lock.rigging import started
from jointed_crane.core.model.forms import Node, Paint, PenPath
from jointed_crane.core.model.levers import Axis
from jointed_crane.store.library import Library

NAME = "Lock gates, one lever"

PIVOTS = {
    "Upper gate": (640, 240),
    "Lower gate": (640, 480),
    "Upper sluice": (516, 206),
    "Lower sluice": (516, 514),
    "Barge": (236, 360),
}
COURSE = PenPath(
    (
        (
            Node((236.0, 360.0), None, (130.0, 0.0)),
            Node((640.0, 360.0), (-150.0, 26.0), (150.0, -26.0)),
            Node((1100.0, 366.0), (-140.0, 0.0)),
        ),
    ),
    is_closed=False,
    paint=Paint("", "#a9c7ca", 3.0),
)


def build(library: Library) -> None:
    """Make the scene in a library."""
    rig = started("lock-gates.svg", NAME, 168)
    rig.pivots(PIVOTS)
    rig.add_shape("course", "Course", COURSE, behind="Barge")
    one_way = Axis(low=0.0, high=1.0)
    # One lever opens both gates, each about its own heel post and the other way round; a second one draws the paddles.
    rig.lever("gates", "Gates", one_way, (1060, 196))
    rig.link("Gates", "Upper gate", "turn.z", 68)
    rig.link("Gates", "Lower gate", "turn.z", -68)
    rig.lever("paddles", "Paddles", one_way, (400, 150))
    rig.link("Paddles", "Upper sluice", "move.y", -26)
    rig.link("Paddles", "Lower sluice", "move.y", 26)
    # The chamber is low before the paddles are drawn: its full water comes by a curve, late and then quickly.
    rig.curve("Paddles", "Full chamber", "opacity", ((0.0, -0.85), (0.4, -0.7), (1.0, 0.0)))
    rig.keys("Paddles", "lever.x", {0: 0, 8: 0, 44: 1, 136: 1, 160: 0})
    rig.keys("Gates", "lever.x", {0: 0, 44: 0, 72: 1, 132: 1, 160: 0})
    # The barge runs evenly along its course, turning with it.
    along = rig.along("Barge", "Course")
    rig.keys("Barge", along, {0: 0, 60: 0, 128: 1, 168: 1})
    rig.lock(("Meadow", "Tow path", "Basin", "Upper pound", "Trees", "Keeper’s hut"))
    rig.put_on_shelf(library)
