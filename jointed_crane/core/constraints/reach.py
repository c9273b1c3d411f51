"""Reach: joints turn so that the end of their chain comes to a goal; how far they turn stands in `chain_turns`."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from jointed_crane.core.basics.limits import MOST_JOINTS
from jointed_crane.core.constraints.constraint import (
    ANY,
    Constraint,
    Goal,
    Number,
    bends_field,
    changes_field,
    choice_field,
    count_field,
    goal_field,
    point_field,
    side_field,
)
from jointed_crane.core.geometry.coordinates import Vector

#: How far a joint is bent at most, degrees.
HALF_TURN = 180.0


@dataclass(frozen=True)
class ReachChange:
    """From `frame` on a chain reaches, or hands turn its joints, each from the pose that it has come to."""

    frame: float
    to: Literal["reach", "turn"]


@dataclass(frozen=True, kw_only=True)
class Reach(Constraint):
    """Joints above the part turn so that its pivot comes to a goal, or a point of its art, its own joint included.

    Attributes
    ----------
    joints : how many joints turn, the nearest first
    bends : on which side of the line from the first joint to the goal two bones bend: 1 is clockwise on the screen
    tip : px in art space; None is the pivot, which turns nothing by itself
    keeps_turn : whether the part lies on the stage as it would without reaching, like a foot that stays flat
    keeps_area : whether bones that stretch become thinner
    through : how the joints but the first were bent when the chain began to reach, degrees from straight towards that
        side: it takes that pose again where its goal is as near as then; empty is as hands turn three and more joints,
        and nearest to straight for two
    changes : frames from which hands turn the joints, or the chain reaches again; the pose never jumps at one
    """

    goal: Goal = goal_field("for")
    joints: int = count_field("Joints that turn", 1, MOST_JOINTS, default=2, label="Joints of {name}")
    bends: Literal[-1, 1] = side_field("Bend the other way")
    tip: Vector | None = point_field(
        "Brings", label="What {name} brings to the goal", default=None, others={"its pivot": None}, has_pivot=False
    )
    keeps_turn: bool = choice_field("keeps its own turn", False, is_first=True)
    keeps_area: bool = choice_field("stretches by area", False)
    through: tuple[float, ...] = bends_field(())
    changes: tuple[ReachChange, ...] = changes_field(())
    kind: Literal["reach"] = "reach"

    WITHOUT = "no longer reaches"
    NUMBERS = (
        Number("soft", "Soft approach", ends=(0.0, 1.0)),
        Number("stretch", "Longest stretch", 1.0, ends=(1.0, ANY)),
    )

    MIRRORS_GOALS = True

    def unchanged(self) -> ReachChange:
        return ReachChange(0.0, "reach")

    def turned(self) -> tuple[int, bool]:
        return self.joints, self.tip is not None

    def led(self, frame: float | None) -> tuple[Goal, ...]:
        before = [change.to for change in self.changes if frame is not None and change.frame <= frame]
        return () if before and before[-1] == "turn" else (self.goal,)

    def fault(self) -> str | None:
        if not 1 <= self.joints <= MOST_JOINTS:
            return f"turns 1 to {MOST_JOINTS} joints"
        if len(self.through) >= MOST_JOINTS or not all(abs(bend) <= HALF_TURN for bend in self.through):
            return f"remembers up to {MOST_JOINTS - 1} bends from -180 to 180 degrees"
        return None
