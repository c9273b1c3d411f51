"""Many frames looked at a stretch at a time, so that they take no more memory than few."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.float64]
#: Parts times frames that are evaluated together.
_AT_ONCE = 200_000


def in_stretches(frames: Floats, part_count: int) -> list[Floats]:
    """Frames in stretches, each to be evaluated by itself for so many parts."""
    return np.array_split(frames, 1 + len(frames) * part_count // _AT_ONCE)
