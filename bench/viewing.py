"""What seeing planes in space takes."""

from __future__ import annotations

import numpy as np

from bench.scenes import planes
from bench.timing import seconds
from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.evaluate.pose_at_frame import pose_at
from jointed_crane.core.model.scene import Scene
from jointed_crane.core.viewing.order import painted
from jointed_crane.core.viewing.pieces import in_pieces
from jointed_crane.core.viewing.planes import Planes
from jointed_crane.core.viewing.projection import carried
from jointed_crane.core.viewing.seeing import seen
from jointed_crane.core.viewing.view import looking

_FRAMES = 300
_CAMERA = looking((740.0, 410.0, 3000.0), (640.0, 360.0, 0.0), 900.0)


def maps_over_plain(scene: Scene) -> float:
    """Evaluating and seeing in perspective over evaluating alone."""
    frames = np.arange(_FRAMES, dtype=float)
    plain = seconds(lambda: evaluate(scene, frames))
    return seconds(lambda: seen(evaluate(scene, frames), _CAMERA)) / plain


def order_milliseconds(count: int, cutting: int) -> float:
    """Putting planes in the order of their depth, so many of which cut another, ms."""
    scene = planes(count, cutting)
    pose = pose_at(scene, None)
    squares = np.array([(0.0, 0.0, 0.0), (80.0, 0.0, 0.0), (80.0, 80.0, 0.0), (0.0, 80.0, 0.0)])
    quads = [carried(pose.world_of(part.id), squares) for part in scene.parts]
    return 1000 * seconds(lambda: painted(in_pieces(Planes(quads)), _CAMERA))
