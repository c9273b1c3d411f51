"""A child's pivot off its eyelet."""

from __future__ import annotations

from collections.abc import Iterator

from jointed_crane.core.checks.finding import Finding, Rig
from jointed_crane.core.edits.joints.eyelets import Seat
from jointed_crane.core.measures.gaps import gaps

NAME = "Joint open"
#: Gaps below this are not seen, px.
SMALLEST = 0.01


def find(rig: Rig) -> Iterator[Finding]:
    """Parts whose pivot does not lie in the eyelet of their parent, at rest."""
    for gap in gaps(rig.scene, None):
        if gap.distance <= SMALLEST:
            continue
        part = rig.scene.part(gap.part)
        assert part.parent is not None
        parent = rig.scene.part(part.parent)
        eyelet = parent.eyelet(gap.eyelet)
        assert eyelet is not None
        sentence = f"The pivot of {part.name} lies {gap.distance:.2f} px off eyelet {eyelet.name} of {parent.name}."
        mend = () if part.locked else (Seat((part.id,)),)
        yield Finding(NAME, part.id, sentence, gap.distance, "px", mend)
