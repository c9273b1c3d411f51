"""The tree of parents and children: ancestors, descendants, the uppermost of what is picked; free names."""

from __future__ import annotations

import re
from collections.abc import Iterable
from collections.abc import Set as AbstractSet

from jointed_crane.core.hierarchy.dependencies import reached
from jointed_crane.core.model.scene import Part, Scene

#: A name that ends in a number of its own.
_NUMBERED = re.compile(r"(.+) (\d{1,6})")


def ancestors(scene: Scene, part_id: str) -> list[str]:
    """Ids from the parent up to the stage."""
    result: list[str] = []
    parent = scene.part(part_id).parent
    while parent is not None:
        result.append(parent)
        parent = scene.part(parent).parent
    return result


def descendants(scene: Scene, part_id: str) -> list[str]:
    """Ids of all parts below a part, nearest first."""
    result: list[str] = []
    wave = [part_id]
    while wave:
        wave = [child.id for parent in wave for child in scene.children.get(parent, ())]
        result += wave
    return result


def with_descendants(scene: Scene, part_ids: Iterable[str]) -> set[str]:
    """Ids of these parts and of all below them, however they hang on each other."""
    return reached(part_ids, lambda part_id: (child.id for child in scene.children.get(part_id, ())))


def limbs(scene: Scene, part_ids: Iterable[str]) -> list[Part]:
    """Parts with everything below them, in painting order."""
    picked = with_descendants(scene, part_ids)
    return [part for part in scene.parts if part.id in picked]


def uppermost(scene: Scene, part_ids: Iterable[str]) -> list[str]:
    """Of these parts those that hang on none of the others, in painting order."""
    picked = set(part_ids)
    hanging = with_descendants(scene, picked)
    return [part.id for part in scene.parts if part.id in picked and part.parent not in hanging]


def free_name(wanted: str, taken: Iterable[str]) -> str:
    """The wanted name, with the first free number behind it where it is taken: after "Arm 2" comes "Arm 3"."""
    names = taken if isinstance(taken, AbstractSet) else set(taken)
    base = wanted.strip() or "Part"
    if base not in names:
        return base
    numbered = _NUMBERED.fullmatch(base)
    stem, number = (numbered[1], int(numbered[2]) + 1) if numbered else (base, 2)
    while f"{stem} {number}" in names:
        number += 1
    return f"{stem} {number}"
