"""Edits of the scene itself and of which parts it holds: names, copies, the stage, states of the bench."""

from jointed_crane.core.edits.scene import bench_state, cameras, copies, framing, mirrored_copies, naming, parts, stage

__all__ = ["bench_state", "cameras", "copies", "framing", "mirrored_copies", "naming", "parts", "stage"]
