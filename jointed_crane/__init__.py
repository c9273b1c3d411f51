"""Jointed Crane: animate cut-out figures about the joints you chose.

For scripts: `open_library` opens the scenes of a data folder (see `jointed_crane.scripting`), and what cannot be done
raises `RuleError` with a sentence.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from jointed_crane.core.basics.errors import RuleError
    from jointed_crane.scripting import OpenLibrary

    open_library = OpenLibrary

__all__ = ["RuleError", "open_library"]
__version__ = "0.2.0"


def __getattr__(name: str) -> Any:
    """Load what a script asks for; all else begins without it."""
    if name == "open_library":
        from jointed_crane.scripting import OpenLibrary

        return OpenLibrary
    if name == "RuleError":
        from jointed_crane.core.basics.errors import RuleError

        return RuleError
    raise AttributeError(f"module {__name__!r} has no attribute {name!r}")
