"""The pose of a whole scene: one function for one frame under a dragging hand and for a whole film."""

from jointed_crane.core.evaluate.evaluation import evaluate, evaluate_with
from jointed_crane.core.evaluate.pose import Pose

__all__ = ["Pose", "evaluate", "evaluate_with"]
