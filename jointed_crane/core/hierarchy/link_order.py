"""In which order links act: what drives is known before what it drives; a loop is refused with the names round it."""

from __future__ import annotations

from collections.abc import Iterable

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.model.channels import channel_kind
from jointed_crane.core.model.levers import Link
from jointed_crane.core.model.scene import Part

#: A channel of a part, by the part's id.
Driven = tuple[str, str]


def links_in_order(parts: Iterable[Part]) -> list[tuple[str, Link]]:
    """The links that act, each with the id of the part that has it; whatever drives one has been driven before.

    Raises RuleError where channels drive each other in a loop.
    """
    parts = list(parts)
    links = [(part.id, link) for part in parts for link in part.links if link.is_on]
    onto: dict[Driven, list[int]] = {}
    waiting: dict[Driven, int] = {}
    for place, (part_id, link) in enumerate(links):
        onto.setdefault((link.source, link.channel), []).append(place)
        target = (part_id, link.onto)
        waiting[target] = waiting.get(target, 0) + 1
    result: list[tuple[str, Link]] = []
    ready = [source for source in onto if source not in waiting]
    while ready:
        for place in onto.get(ready.pop(), ()):
            part_id, link = links[place]
            result.append((part_id, link))
            waiting[part_id, link.onto] -= 1
            if not waiting[part_id, link.onto]:
                ready.append((part_id, link.onto))
    if len(result) < len(links):
        _refuse({(part_id, link.onto): (link.source, link.channel) for part_id, link in links}, waiting, parts)
    return result


def _refuse(drivers: dict[Driven, Driven], waiting: dict[Driven, int], parts: list[Part]) -> None:
    names = {part.id: part.name for part in parts}
    stuck = {driven for driven, count in waiting.items() if count}
    way = [next(driven for driven in drivers if driven in stuck and drivers[driven] in stuck)]
    while len(set(way)) == len(way):
        before = drivers[way[-1]]
        if before not in stuck:
            break
        way.append(before)
    words = [f"{channel_kind(channel).label} of {names.get(part_id, '?')}" for part_id, channel in way]
    loop = " by ".join(words[way.index(way[-1]) :])
    raise RuleError(f"That would close a loop: {loop}. Nothing was changed; let something outside it drive.")
