"""Where parts are painted, in a format that has each layer in one place for all time."""

from __future__ import annotations

from collections.abc import Collection

from jointed_crane.core.model.scene import Scene
from jointed_crane.formats.moving.film import SentFilm

#: A part, and the spans of frames in which it is painted there, each from a frame up to but without another.
Place = tuple[str, list[tuple[int, int]]]


def places_in_order(scene: Scene, film: SentFilm, shown: Collection[str]) -> list[Place]:
    """From back to front where each part is painted, with the spans of frames in which it is painted there.

    Parts whose place among the others never changes are there once. The others stand between them wherever they
    ever are, each time for as long as they are there.
    """
    edges = [*(first for first, _ in film.orders), scene.length]
    orders = [[part_id for part_id in painting if part_id in shown] for _, painting in film.orders]
    moving = {part.id for part in scene.parts if "order" in part.channels}
    fixed = [part_id for part_id in orders[0] if part_id not in moving]
    slots: list[list[Place]] = [[] for _ in range(len(fixed) + 1)]
    for number, order in enumerate(orders):
        span, slot = (edges[number], edges[number + 1]), 0
        for part_id in order:
            if part_id not in moving:
                slot += 1
                continue
            last = slots[slot][-1] if slots[slot] else None
            if last is not None and last[0] == part_id and last[1][-1][1] == span[0]:
                last[1][-1] = (last[1][-1][0], span[1])
            else:
                slots[slot].append((part_id, [span]))
    result = list(slots[0])
    for part_id, slot_after in zip(fixed, slots[1:], strict=True):
        result += [(part_id, [(0, scene.length)]), *slot_after]
    return result
