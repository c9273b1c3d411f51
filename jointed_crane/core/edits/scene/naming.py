"""Naming many parts by a pattern."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass, replace
from string import Formatter

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.edits.shared.edit import Edit
from jointed_crane.core.hierarchy.sides import side_of
from jointed_crane.core.model.scene import Scene

#: What a pattern may hold, and what each stands for.
TOKENS = {
    "name": "the part's name",
    "number": "its number",
    "parent": "its parent's name",
    "side": "near, far and so on",
}


def names_by_pattern(scene: Scene, parts: tuple[str, ...], pattern: str, first: int = 1) -> dict[str, str]:
    """New names by part id; RuleError where the pattern holds an unknown word in braces."""
    _ensure_plain(pattern)
    result = {}
    for number, part in enumerate(map(scene.part, parts), start=first):
        parent = scene.part(part.parent).name if part.parent else ""
        values = {"name": part.name, "number": str(number), "parent": parent, "side": side_of(part.name)}
        result[part.id] = " ".join(pattern.format_map(values).split())
    return result


def _ensure_plain(pattern: str) -> None:
    """RuleError where a pattern holds anything in braces but the plain tokens: no widths, no conversions."""
    try:
        pieces = list(Formatter().parse(pattern))
    except ValueError:
        pieces = [("", "?", "", None)]
    if len(pattern) > 200 or any(
        field is not None and (field not in TOKENS or spec or conversion) for _, field, spec, conversion in pieces
    ):
        known = ", ".join(f"{{{token}}}" for token in TOKENS)
        raise RuleError(f"The pattern {pattern[:60]!r} cannot be read; it may hold {known}.")


@dataclass(frozen=True)
class NameByPattern(Edit, kind="name_by_pattern"):
    """Name parts by a pattern such as "{side} {name} {number}"; {number} counts the parts in their order from `first`.

    The tokens are {name}, {number}, {parent} and {side}. Refused as a whole where two parts would share a name.
    """

    parts: tuple[str, ...]
    pattern: str
    first: int = 1

    def label(self, scene: Scene) -> str:
        return f"Name {len(self.parts)} parts “{self.pattern}”"

    def apply(self, scene: Scene) -> Scene:
        result = names_by_pattern(scene, self.parts, self.pattern, self.first)
        after = scene.with_parts(replace(scene.part(part_id), name=name) for part_id, name in result.items())
        clashes = [name for name, count in Counter(part.name for part in after.parts).items() if count > 1]
        if clashes:
            raise RuleError(
                f"Two parts would be called {clashes[0]}. Nothing was changed; put {{number}} in the pattern."
            )
        return after
