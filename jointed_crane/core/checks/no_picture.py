"""A part without a picture that is no helper."""

from __future__ import annotations

from collections.abc import Iterator

from jointed_crane.core.checks.finding import Finding, Rig
from jointed_crane.core.edits.scene.parts import DeleteParts

NAME = "Part without a picture"


def find(rig: Rig) -> Iterator[Finding]:
    """Parts that should show something and own no drawing."""
    for part in rig.scene.parts:
        if part.kind in ("helper", "lever", "camera") or part.drawings:
            continue
        is_leaf = part.id not in rig.scene.children and not part.locked
        mend = (DeleteParts((part.id,)),) if is_leaf else ()
        yield Finding(NAME, part.id, f"{part.name} has no picture and is no helper.", mend=mend)
