"""The checks of a rig, one module a finding; each can be silenced for a part."""

from __future__ import annotations

from jointed_crane.core.checks import does_nothing as idle_rule
from jointed_crane.core.checks import (
    far_pivot,
    missed_goal,
    missing_font,
    never_seen,
    no_picture,
    off_stage,
    open_joint,
    out_of_range,
    round_ends,
    same_name,
    scaled_helper,
    skew,
)
from jointed_crane.core.checks.depth import open_edge, seen_from_behind
from jointed_crane.core.checks.finding import Check, Finding, Rig
from jointed_crane.core.checks.footholds import off_level, overruled_foothold
from jointed_crane.core.model.scene import Scene

#: In the order in which their findings are read.
CHECKS: tuple[Check, ...] = (
    open_joint,
    open_edge,
    seen_from_behind,
    far_pivot,
    skew,
    scaled_helper,
    out_of_range,
    missed_goal,
    overruled_foothold,
    off_level,
    idle_rule,
    round_ends,
    same_name,
    no_picture,
    off_stage,
    never_seen,
    missing_font,
)


def findings(scene: Scene, fonts: frozenset[str]) -> list[Finding]:
    """Everything the checks find, without what is silenced for its part."""
    rig = Rig(scene, fonts)
    result = (finding for check in CHECKS for finding in check.find(rig))
    return [finding for finding in result if finding.check not in scene.part(finding.part).silenced]


__all__ = ["CHECKS", "Check", "Finding", "Rig", "findings"]
