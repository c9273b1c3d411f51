"""Every change a scene can undergo, as frozen values: one folder a family, all of them by name in `every`."""

from jointed_crane.core.edits.shared.edit import Edit, applied, changed_by

__all__ = ["Edit", "applied", "changed_by"]
