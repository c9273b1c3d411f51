"""Edits of where parts lie and what they turn about: values, pivots, poses, the rest."""

from jointed_crane.core.edits.placing import (
    axes,
    kept_poses,
    leading,
    pasting,
    pivot_throughout,
    pivots,
    placement_choices,
    poses,
    rolling,
    settling,
    standing_on_keys,
    turning,
    whole_turns,
)

__all__ = [
    "axes",
    "kept_poses",
    "leading",
    "pasting",
    "pivot_throughout",
    "pivots",
    "placement_choices",
    "poses",
    "rolling",
    "settling",
    "standing_on_keys",
    "turning",
    "whole_turns",
]
