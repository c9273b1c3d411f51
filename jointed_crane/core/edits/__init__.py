"""Every change a scene can undergo, as frozen values: one module a family, all of them by name in `every`."""

from jointed_crane.core.edits.edit import Edit, applied

__all__ = ["Edit", "applied"]
