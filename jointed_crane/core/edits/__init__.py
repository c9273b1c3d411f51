"""Every change a scene can undergo, as frozen values; importing the package fills the register."""

from jointed_crane.core.edits import (
    copies,
    drawings,
    eyelets,
    keys,
    limiting,
    naming,
    parts,
    pivots,
    poses,
    registering,
    settling,
    shapes,
    stage,
    tree,
    turning,
)
from jointed_crane.core.edits.edit import EDITS, Edit, applied

__all__ = [
    "EDITS",
    "Edit",
    "applied",
    "copies",
    "drawings",
    "eyelets",
    "keys",
    "limiting",
    "naming",
    "parts",
    "pivots",
    "poses",
    "registering",
    "settling",
    "shapes",
    "stage",
    "tree",
    "turning",
]
