"""Parents and children: waves of equal depth, ancestors, descendants, loops, free names."""

from __future__ import annotations

from collections.abc import Iterable

from jointed_crane.core.errors import RuleError
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


def waves(parts: tuple[Part, ...]) -> list[list[int]]:
    """Places of the parts by depth: all parts of one wave have their parents in the wave before.

    Raises RuleError where parents form a loop or a parent is missing.
    """
    place = {part.id: index for index, part in enumerate(parts)}
    below: dict[str, list[int]] = {}
    wave: list[int] = []
    for index, part in enumerate(parts):
        if part.parent is None:
            wave.append(index)
        else:
            below.setdefault(part.parent, []).append(index)
    found: list[list[int]] = []
    while wave:
        found.append(wave)
        wave = [child for index in wave for child in below.get(parts[index].id, ())]
    reached = sum(len(wave) for wave in found)
    if reached != len(parts):
        seen = {index for wave in found for index in wave}
        lost = [part.name for index, part in enumerate(parts) if index not in seen]
        missing = {part.parent for part in parts if part.parent is not None and part.parent not in place}
        why = "have a parent that is not in the scene" if missing else "are each other's parents in a loop"
        raise RuleError(f"{', '.join(lost[:5])} {why}. Nothing was changed.")
    return found


def uppermost(scene: Scene, part_ids: Iterable[str]) -> list[str]:
    """Of these parts those that hang on none of the others, in painting order; the rest follow them."""
    picked = set(part_ids)
    return [part.id for part in scene.parts if part.id in picked and not picked & set(ancestors(scene, part.id))]


def refuse_loop(scene: Scene, child_id: str, parent_id: str) -> None:
    """RuleError with the names round the loop if joining the child to this parent closes one."""
    way_up = [parent_id, *ancestors(scene, parent_id)]
    if child_id not in way_up:
        return
    names = [scene.part(part_id).name for part_id in way_up[: way_up.index(child_id) + 1]]
    if len(names) == 1:
        raise RuleError(f"{names[0]} cannot be its own parent. Nothing was changed.")
    round_trip = " on ".join([*reversed(names), names[-1]])
    raise RuleError(f"That would close a loop: {round_trip}. Nothing was changed; pick a parent outside {names[-1]}.")


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
