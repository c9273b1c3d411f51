"""What differs between two scenes, found once for all that asks: soundness, poses, plans, answers, rows and art."""

from __future__ import annotations

from dataclasses import dataclass, fields
from functools import cached_property

from jointed_crane.core.model.scene import Drawing, Part, Scene

#: The fields of a scene beside its parts; an id says which scene it is and never differs.
_BESIDE = tuple(field.name for field in fields(Scene) if field.name not in ("id", "parts"))


@dataclass(frozen=True, eq=False)
class SceneChange:
    """A scene, and what it was made from.

    Scenes share all that did not change, so what is one and the same value is known to be equal and is not looked at; a
    value that was made anew counts as changed, whatever it holds.

    Attributes
    ----------
    before : None where all of the scene is new
    """

    before: Scene | None
    after: Scene

    @cached_property
    def parts(self) -> tuple[tuple[Part, Part | None], ...]:
        """The parts that differ, in painting order, each with what it was; None for one that is new."""
        known = {} if self.before is None else {part.id: part for part in self.before.parts}
        pairs = ((part, known.get(part.id)) for part in self.after.parts)
        return tuple((part, old) for part, old in pairs if part is not old)

    @cached_property
    def part_ids(self) -> tuple[str, ...]:
        """The ids of the parts that differ."""
        return tuple(part.id for part, _ in self.parts)

    @cached_property
    def removed(self) -> tuple[str, ...]:
        """The ids of parts that are gone."""
        return () if self.before is None else tuple(id for id in self.before.index if id not in self.after.index)

    @cached_property
    def is_ordered_anew(self) -> bool:
        """Whether the parts, by their ids, are painted in another order; parts that come or go count."""
        return self.before is None or list(self.before.index) != list(self.after.index)

    @cached_property
    def beside(self) -> tuple[str, ...]:
        """The fields of the scene beside its parts that differ, such as "name" or "marks"."""
        if self.before is None:
            return _BESIDE
        return tuple(name for name in _BESIDE if getattr(self.before, name) != getattr(self.after, name))

    @cached_property
    def drawings(self) -> tuple[Drawing, ...]:
        """The drawings that the scene did not show before."""
        known = set() if self.before is None else {id(one) for part in self.before.parts for one in part.drawings}
        result = {id(one): one for part, _ in self.parts for one in part.drawings if id(one) not in known}
        return tuple(result.values())

    @cached_property
    def is_of_numbers(self) -> bool:
        """Whether nothing but numbers by channel differs, and what lies beside the parts."""
        return not self.is_ordered_anew and all(old and old.own_values is part.own_values for part, old in self.parts)
