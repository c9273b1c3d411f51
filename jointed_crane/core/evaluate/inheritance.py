"""What a part takes over from its parent: the whole linear part, the plain rotation, what is left, or nothing."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from jointed_crane.core.model.scene import Inherits

Floats = npt.NDArray[np.float64]


def inherited_linear(linear: Floats, plain: Floats, kept: Inherits) -> Floats:
    """What a child takes of its parent's linear part.

    Without scale it takes the parent's plain rotation, which is free of scale and shear; without turn it takes what is
    left when that rotation is taken off. So mirrored and vanished parents neither turn nor mirror the child.

    Parameters
    ----------
    linear, plain : arrays, shape (..., 3, 3), of the parent
    """
    if kept.turn and kept.scale:
        return linear
    if kept.turn:
        return plain
    if kept.scale:
        return np.asarray(np.swapaxes(plain, -1, -2) @ linear, dtype=np.float64)
    return np.broadcast_to(np.eye(3), linear.shape)


def inherited_plain(plain: Floats, kept: Inherits) -> Floats:
    """What a child takes of its parent's plain rotation, shape (..., 3, 3)."""
    return plain if kept.turn else np.broadcast_to(np.eye(3), plain.shape)
