"""Edits of what places and drives parts from others: constraints, levers and links."""

from jointed_crane.core.edits.constraints import (
    changing_hands,
    constraining,
    keeping_as_keys,
    levers_and_links,
    making_links,
)

__all__ = ["changing_hands", "constraining", "keeping_as_keys", "levers_and_links", "making_links"]
