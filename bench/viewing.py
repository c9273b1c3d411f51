"""What seeing planes in space takes."""

from __future__ import annotations

import numpy as np
from scipy.spatial.transform import Rotation

from bench.timing import seconds
from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.model.scene import Scene
from jointed_crane.core.viewing.order import painted
from jointed_crane.core.viewing.seeing import seen
from jointed_crane.core.viewing.view import looking

_FRAMES = 300
_CAMERA = looking((100.0, 50.0, 3000.0), (0.0, 0.0, 0.0), 900.0)


def maps_over_plain(scene: Scene) -> float:
    """Evaluating and seeing in perspective over evaluating alone."""
    frames = np.arange(_FRAMES, dtype=float)
    plain = seconds(lambda: evaluate(scene, frames))
    return seconds(lambda: seen(evaluate(scene, frames), _CAMERA)) / plain


def order_milliseconds(count: int, cutting: int) -> float:
    """Putting planes in the order of their depth, so many of which cut another, ms."""
    quads = pile(count, cutting)
    return 1000 * seconds(lambda: painted(quads, _CAMERA))


def pile(count: int, cutting: int) -> list[np.ndarray]:
    """Layers in depth, and pairs of planes that cut each other, over a stage."""
    random = np.random.default_rng(1)
    flat = np.array([(-1, -1, 0), (1, -1, 0), (1, 1, 0), (-1, 1, 0)]) * 40.0
    places = np.column_stack([random.normal(size=(count - cutting, 2)) * 400, 3.0 * np.arange(count - cutting)])
    layers = [flat + place for place in places]
    for number in range(cutting // 2):
        turns = Rotation.random(2, random_state=np.random.RandomState(number)).as_matrix()
        middle = np.array([*random.normal(size=2) * 400, random.uniform(0, 600)])
        layers += [flat @ turn.T + middle for turn in turns]
    return layers
