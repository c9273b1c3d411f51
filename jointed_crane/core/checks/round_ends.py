"""Round ends of different radius at one joint, which do not close at every angle."""

from __future__ import annotations

from collections.abc import Iterator

from jointed_crane.core.checks.finding import Finding, Rig
from jointed_crane.core.measures.round_joints import unlike_round_joint

NAME = "Round ends differ"
#: Radii that differ by less are taken as equal: px, and share of the larger one.
SMALLEST = (0.75, 0.03)


def find(rig: Rig) -> Iterator[Finding]:
    """Joints whose two ends are both round about the pivot, with radii that differ."""
    for part in rig.scene.parts:
        joint = unlike_round_joint(rig.scene, part, *SMALLEST)
        if joint is not None:
            sentence = (
                f"{part.name} ends round with {joint.child:.1f} px at its joint, its parent with {joint.parent:.1f} px."
            )
            yield Finding(NAME, part.id, sentence, joint.difference, "px")
