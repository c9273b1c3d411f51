"""Who depends on whom: the one graph that waves, previews, deletions and loops ask.

A part depends on everything that has a say in where it lies: today its parent. Constraints and levers will add their
goals and sources to `placed_from`, and nowhere else.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from functools import cached_property

from jointed_crane.core.errors import RuleError
from jointed_crane.core.scene import Part, Scene


def placed_from(part: Part) -> tuple[str, ...]:
    """Ids of the parts that have a say in where a part lies."""
    return () if part.parent is None else (part.parent,)


@dataclass(frozen=True)
class Dependencies:
    """The graph of a scene: what each part is placed from, by id."""

    sources: dict[str, tuple[str, ...]]

    @cached_property
    def dependents(self) -> dict[str, list[str]]:
        """What is placed from each part, by id; parts that nothing is placed from are left out."""
        found: dict[str, list[str]] = {}
        for part_id, sources in self.sources.items():
            for source in sources:
                found.setdefault(source, []).append(part_id)
        return found

    def with_sources(self, part_ids: Iterable[str]) -> set[str]:
        """The parts and everything that has a say in where they lie."""
        return reached(part_ids, lambda part_id: self.sources.get(part_id, ()))

    def with_dependents(self, part_ids: Iterable[str]) -> set[str]:
        """The parts and everything that may move when they do."""
        return reached(part_ids, lambda part_id: self.dependents.get(part_id, ()))

    def way(self, start: str, to: str) -> list[str]:
        """Ids from a part along what it is placed from up to another, both included; empty where none leads."""
        came_from: dict[str, str | None] = {start: None}
        waiting = [start]
        for part_id in waiting:
            if part_id == to:
                way = [part_id]
                while (before := came_from[way[-1]]) is not None:
                    way.append(before)
                return way[::-1]
            for source in self.sources.get(part_id, ()):
                if source not in came_from:
                    came_from[source] = part_id
                    waiting.append(source)
        return []


def dependencies_of(scene: Scene) -> Dependencies:
    """The graph of a scene, made once for each frozen scene."""
    known: Dependencies | None = vars(scene).get("_dependencies")
    if known is None:
        known = Dependencies({part.id: placed_from(part) for part in scene.parts})
        vars(scene)["_dependencies"] = known
    return known


def reached(start: Iterable[str], following: Callable[[str], Iterable[str]]) -> set[str]:
    """The ids and all that are found by following from them; each is walked once."""
    found = set(start)
    waiting = list(found)
    while waiting:
        for name in following(waiting.pop()):
            if name not in found:
                found.add(name)
                waiting.append(name)
    return found


def waves(parts: Sequence[Part]) -> list[list[int]]:
    """Places of the parts, wave by wave: all that a part is placed from lies in earlier waves.

    Raises RuleError where parts depend on each other in a loop or on one that is missing.
    """
    place = {part.id: index for index, part in enumerate(parts)}
    below: dict[str, list[int]] = {}
    waiting_for: list[int] = []
    for index, part in enumerate(parts):
        sources = placed_from(part)
        waiting_for.append(len(sources))
        for source in sources:
            below.setdefault(source, []).append(index)
    found: list[list[int]] = []
    wave = [index for index, count in enumerate(waiting_for) if not count]
    while wave:
        found.append(wave)
        following = []
        for index in wave:
            for child in below.get(parts[index].id, ()):
                waiting_for[child] -= 1
                if not waiting_for[child]:
                    following.append(child)
        wave = following
    lost = [part for part, count in zip(parts, waiting_for, strict=True) if count]
    if lost:
        is_missing = any(source not in place for part in lost for source in placed_from(part))
        why = "have a parent that is not in the scene" if is_missing else "are each other's parents in a loop"
        raise RuleError(f"{', '.join(part.name for part in lost[:5])} {why}. Nothing was changed.")
    return found


def refuse_loop(scene: Scene, part_id: str, source_id: str) -> None:
    """RuleError with the names round the loop if placing a part from this source closes one."""
    way_up = dependencies_of(scene).way(source_id, part_id)
    if not way_up:
        return
    names = [scene.part(name).name for name in way_up]
    if len(names) == 1:
        raise RuleError(f"{names[0]} cannot be its own parent. Nothing was changed.")
    round_trip = " on ".join([*reversed(names), names[-1]])
    raise RuleError(f"That would close a loop: {round_trip}. Nothing was changed; pick a parent outside {names[-1]}.")
