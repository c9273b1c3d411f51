"""Edits of what parts show: drawings, shapes, registration, and the order they are painted in."""

from jointed_crane.core.edits.pictures import (
    boxes,
    drawings,
    folding,
    fusing,
    making_shapes,
    painting,
    patching,
    registering,
    slots,
)

__all__ = ["boxes", "drawings", "folding", "fusing", "making_shapes", "painting", "patching", "registering", "slots"]
