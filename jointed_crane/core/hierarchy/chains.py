"""Which joints a constraint turns: those above its part that no other one turns before it."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence

from jointed_crane.core.constraints.constraint import Constraint
from jointed_crane.core.model.scene import Inherits, Part

#: Ids of joints, from the first down, by the ids of a part and of its constraint that turns them.
Chains = Mapping[tuple[str, str], Sequence[str]]


def chains_of(parts: Iterable[Part]) -> Chains:
    """The chain of every constraint that turns joints.

    A joint is turned by one of them: of those that act, the first in the order of the tree. Another that shares joints
    with it has only those that are left between them and its part.
    """
    by_id = {part.id: part for part in parts}
    turning = {part.id for part in by_id.values() if any(one.turns_joints for one in part.constraints)}
    if not turning:
        return {}
    result: dict[tuple[str, str], list[str]] = {}
    taken: set[str] = set()
    for part in _in_tree_order(by_id.values(), by_id):
        for one in part.constraints if part.id in turning else ():
            if one.turns_joints:
                whole = whole_chain(by_id, part, one)
                left = len(whole)
                while one.is_on and left and whole[left - 1] not in taken:
                    left -= 1
                result[part.id, one.id] = whole[left:] if one.is_on else whole
                taken.update(result[part.id, one.id] if one.is_on else ())
    return result


def whole_chain(by_id: Mapping[str, Part], part: Part, constraint: Constraint) -> list[str]:
    """Ids of the joints that a constraint would turn if it were alone, from the first down; fewer where the stage comes
    before, or a part that takes over its parent's placement only partly.
    """
    count, is_own = constraint.turned()
    result = [part.id] if is_own else []
    below = part
    while len(result) < count and below.inherits == Inherits():
        above = by_id.get(below.parent or "")
        if above is None or above.inherits != Inherits() or above.id in result:
            break
        result.append(above.id)
        below = above
    return result[::-1]


def _in_tree_order(parts: Iterable[Part], by_id: Mapping[str, Part]) -> Iterable[Part]:
    """Parts as a tree lists them: each before all that hangs on it, and that before the next beside it."""
    below: dict[str | None, list[Part]] = {}
    for part in parts:
        below.setdefault(part.parent if part.parent in by_id else None, []).append(part)
    waiting = below.get(None, [])[::-1]
    while waiting:
        part = waiting.pop()
        yield part
        waiting += below.get(part.id, [])[::-1]
