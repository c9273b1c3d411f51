"""Who depends on whom: the one graph that waves, previews, deletions and loops ask.

A part depends on everything that has a say in where it lies: its parent, and what its constraints refer to.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import NoReturn

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.basics.frozen import Memory
from jointed_crane.core.hierarchy.chains import chains_of, whole_chain
from jointed_crane.core.model.scene import Part, Scene


def sources_of(parts: Iterable[Part]) -> dict[str, tuple[str, ...]]:
    """Ids of the parts that have a say in where each part lies, by its id.

    What a chain reaches for has its say from the first joint of the chain on.
    """
    by_id = {part.id: part for part in parts}
    result = {part.id: {part.parent: None} if part.parent is not None else {} for part in by_id.values()}
    chains = chains_of(by_id.values())
    for part in by_id.values():
        for constraint in part.constraints:
            goals = {goal.part: None for goal in constraint.every_goal() if goal.part is not None}
            result[part.id] |= goals
            for joint in chains.get((part.id, constraint.id), ())[:1]:
                result[joint] |= goals
    return {part_id: tuple(sources) for part_id, sources in result.items()}


def companions_of(parts: Iterable[Part]) -> dict[str, tuple[str, ...]]:
    """The chains that parts belong to, by id: where one of a chain lies is said by all of it, and which joints a chain
    has by the others that would turn them.
    """
    by_id = {part.id: part for part in parts}
    result: dict[str, set[str]] = {}
    for part in by_id.values():
        for constraint in part.constraints:
            joints = whole_chain(by_id, part, constraint) if constraint.turns_joints else ()
            for joint in (*joints, part.id) if joints else ():
                result.setdefault(joint, set()).update((*joints, part.id))
    return {part_id: tuple(sorted(chain)) for part_id, chain in result.items()}


@dataclass(frozen=True)
class Dependencies:
    """The graph of a scene, by id: what each part is placed from, the chains that move as one, and the parts whose
    channels drive its own.
    """

    sources: dict[str, tuple[str, ...]]
    companions: dict[str, tuple[str, ...]]
    drivers: dict[str, tuple[str, ...]]

    @cached_property
    def dependents(self) -> dict[str, list[str]]:
        """What is placed from each part or driven by it, by id; parts on which nothing hangs are left out."""
        result: dict[str, list[str]] = {}
        for graph in (self.sources, self.drivers):
            for part_id, sources in graph.items():
                for source in sources:
                    result.setdefault(source, []).append(part_id)
        return result

    def with_sources(self, part_ids: Iterable[str]) -> set[str]:
        """The parts and everything that has a say in where they lie."""
        graphs = (self.sources, self.companions, self.drivers)
        return reached(part_ids, lambda part_id: [above for graph in graphs for above in graph.get(part_id, ())])

    def with_dependents(self, part_ids: Iterable[str]) -> set[str]:
        """The parts and everything that may move when they do."""
        return reached(part_ids, lambda part_id: (*self.dependents.get(part_id, ()), *self.companions.get(part_id, ())))

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


_DEPENDENCIES: Memory[Dependencies] = Memory()


def dependencies_of(scene: Scene) -> Dependencies:
    """The graph of a scene, made once for each frozen scene."""

    def compute() -> Dependencies:
        drivers = {part.id: part.drivers for part in scene.parts if part.links}
        return Dependencies(sources_of(scene.parts), companions_of(scene.parts), drivers)

    return _DEPENDENCIES.of(scene, compute)


def reached(start: Iterable[str], following: Callable[[str], Iterable[str]]) -> set[str]:
    """The ids and all that are found by following from them; each is walked once."""
    result = set(start)
    waiting = list(result)
    while waiting:
        for name in following(waiting.pop()):
            if name not in result:
                result.add(name)
                waiting.append(name)
    return result


def waves(parts: Sequence[Part]) -> list[list[int]]:
    """Places of the parts, wave by wave: all that a part is placed from lies in earlier waves.

    Raises RuleError where parts depend on each other in a loop or on one that is missing.
    """
    place = {part.id: index for index, part in enumerate(parts)}
    below: dict[str, list[int]] = {}
    waiting_for: list[int] = []
    placed_from = sources_of(parts)
    for index, part in enumerate(parts):
        sources = placed_from[part.id]
        waiting_for.append(len(sources))
        for source in sources:
            below.setdefault(source, []).append(index)
    result: list[list[int]] = []
    wave = [index for index, count in enumerate(waiting_for) if not count]
    while wave:
        result.append(wave)
        following = []
        for index in wave:
            for child in below.get(parts[index].id, ()):
                waiting_for[child] -= 1
                if not waiting_for[child]:
                    following.append(child)
        wave = following
    lost = [part for part, count in zip(parts, waiting_for, strict=True) if count]
    if lost:
        _refuse(lost, place, placed_from)
    return result


def _refuse(lost: Sequence[Part], place: Mapping[str, int], placed_from: Mapping[str, tuple[str, ...]]) -> NoReturn:
    names = {part.id: part.name for part in lost}
    missing = [part.name for part in lost if any(source not in place for source in placed_from[part.id])]
    if missing:
        raise RuleError(
            f"{', '.join(missing[:5])} would depend on a part that is not in the scene. Nothing was changed."
        )
    # Whoever waits depends on somebody who waits, so the way up from any of them comes round.
    way = [lost[0].id]
    while len(set(way)) == len(way):
        way.append(next(source for source in placed_from[way[-1]] if source in names))
    loop = " on ".join(names[part_id] for part_id in way[way.index(way[-1]) :])
    raise RuleError(f"That would close a loop: {loop}. Nothing was changed; choose a part outside it.")


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
