"""The same name twice, upper and lower case taken as one."""

from __future__ import annotations

from collections.abc import Iterator

from jointed_crane.core.checks.finding import Finding, Rig
from jointed_crane.core.edits.scene.parts import RenamePart
from jointed_crane.core.hierarchy.tree import free_name

NAME = "Same name twice"


def find(rig: Rig) -> Iterator[Finding]:
    """Parts whose name another part further back has too."""
    seen: dict[str, str] = {}
    for part in rig.scene.parts:
        key = part.name.casefold()
        if key not in seen:
            seen[key] = part.name
            continue
        name = free_name(part.name, (*seen.values(), *(other.name for other in rig.scene.parts)))
        sentence = f"{part.name} has the name of another part."
        yield Finding(NAME, part.id, sentence, mend=(RenamePart(part.id, name),))
