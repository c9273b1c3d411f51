"""Jointed Crane: animate cut-out figures about the joints you chose.

For scripts: `open_library` opens the scenes of a data folder (see `jointed_crane.scripting`), and what cannot be done
raises `RuleError` with a sentence.
"""

from __future__ import annotations

import importlib
from typing import Any

__all__ = ["RuleError", "open_library"]
__version__ = "0.2.0"

#: What a script asks for, and where it is; loaded then, since all else begins without it.
_FOR_SCRIPTS = {
    "open_library": ("jointed_crane.scripting", "OpenLibrary"),
    "RuleError": ("jointed_crane.core.basics.errors", "RuleError"),
}


def __getattr__(name: str) -> Any:
    """What scripts ask for."""
    if name not in _FOR_SCRIPTS:
        raise AttributeError(f"module {__name__!r} has no attribute {name!r}")
    room, known = _FOR_SCRIPTS[name]
    return getattr(importlib.import_module(room), known)
