"""Edits of how parts hang together and how they may move: parents, eyelets, helpers, ranges."""

from jointed_crane.core.edits.joints import eyelets, helpers, joining, limiting

__all__ = ["eyelets", "helpers", "joining", "limiting"]
