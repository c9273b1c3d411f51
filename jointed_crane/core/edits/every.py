"""Every edit by its kind: a family registers its own when it is imported."""

from jointed_crane.core.edits import constraints, joints, pictures, placing, scene, time
from jointed_crane.core.edits.shared.edit import EDITS

__all__ = ["EDITS", "constraints", "joints", "pictures", "placing", "scene", "time"]
