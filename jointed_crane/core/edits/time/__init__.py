"""Edits of when things happen: keys, curves, markers, the length and rate of the scene."""

from jointed_crane.core.edits.time import (
    appearing,
    bringing_tracks,
    curving,
    inbetween,
    inserting_frames,
    keys,
    repeating,
    retiming,
    time_markers,
    timing,
)

__all__ = [
    "appearing",
    "bringing_tracks",
    "curving",
    "inbetween",
    "inserting_frames",
    "keys",
    "repeating",
    "retiming",
    "time_markers",
    "timing",
]
