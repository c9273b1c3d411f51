"""The tree of parents and children: ancestors, descendants, the uppermost of what is picked; free names."""

from __future__ import annotations

from collections.abc import Iterable

from jointed_crane.core.scene import Part, Scene


def ancestors(scene: Scene, part_id: str) -> list[str]:
    """Ids from the parent up to the stage."""
    found: list[str] = []
    parent = scene.part(part_id).parent
    while parent is not None:
        found.append(parent)
        parent = scene.part(parent).parent
    return found


def descendants(scene: Scene, part_id: str) -> list[str]:
    """Ids of all parts below a part, nearest first."""
    found: list[str] = []
    wave = [part_id]
    while wave:
        wave = [child.id for parent in wave for child in scene.children.get(parent, ())]
        found += wave
    return found


def limbs(scene: Scene, part_ids: Iterable[str]) -> list[Part]:
    """Parts with everything below them, in painting order."""
    picked = set(part_ids)
    picked |= {below for part_id in picked for below in descendants(scene, part_id)}
    return [part for part in scene.parts if part.id in picked]


def uppermost(scene: Scene, part_ids: Iterable[str]) -> list[str]:
    """Of these parts those that hang on none of the others, in painting order; the rest follow them."""
    picked = set(part_ids)
    hangs: dict[str | None, bool] = {None: False}

    def hangs_on_picked(part_id: str | None) -> bool:
        """Whether a part or one above it is picked; walked once for every part, without recursion."""
        way: list[str] = []
        while part_id not in hangs:
            assert part_id is not None
            way.append(part_id)
            part_id = scene.part(part_id).parent
        found = hangs[part_id]
        for below in reversed(way):
            found = hangs[below] = found or below in picked
        return found

    return [part.id for part in scene.parts if part.id in picked and not hangs_on_picked(part.parent)]


def free_name(wanted: str, taken: Iterable[str]) -> str:
    """The wanted name, with the first free number behind it where it is taken."""
    names = set(taken)
    base = wanted.strip() or "Part"
    if base not in names:
        return base
    number = 2
    while f"{base} {number}" in names:
        number += 1
    return f"{base} {number}"
