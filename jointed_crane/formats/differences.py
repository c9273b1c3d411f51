"""What differs between two scenes, in sentences."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import fields

from jointed_crane.core.basics.wording import listed
from jointed_crane.core.model.scene import Part
from jointed_crane.core.model.scene_change import SceneChange


def differences(change: SceneChange) -> list[str]:
    """A sentence for each part that is new, gone or changed, and for each thing that differs beside the parts; none
    where nothing differs.
    """
    return [*_beside(change), *_parts(change)]


def _beside(change: SceneChange) -> Iterator[str]:
    for name in change.beside:
        before, after = getattr(change.before, name, None), getattr(change.after, name)
        if isinstance(after, int | float | str):
            yield f"The scene's {name} becomes {after} instead of {before}."
        else:
            yield f"The scene's {name} differ."


def _parts(change: SceneChange) -> Iterator[str]:
    names = {} if change.before is None else {part.id: part.name for part in change.before.parts}
    for part_id in change.removed:
        yield f"{names[part_id]} goes."
    for part, before in change.parts:
        if before is None:
            yield f"{part.name} is new."
            continue
        differing = _differing(part, before)
        if differing:
            yield f"{before.name} differs in {listed(differing, 6)}."
    if change.is_ordered_anew and not change.removed and all(before for _, before in change.parts):
        yield "The parts are painted in another order."


def _differing(part: Part, before: Part) -> list[str]:
    """The channels that differ by their names, and the other fields by theirs."""
    result = []
    for field in fields(Part):
        one, other = getattr(part, field.name), getattr(before, field.name)
        if one == other:
            continue
        if field.name in ("channels", "rest"):
            word = "" if field.name == "channels" else "rest of "
            names = sorted(name for name in {*one, *other} if one.get(name) != other.get(name))
            result += [f"{word}{name}" for name in names]
        else:
            result.append(field.name.replace("_", " "))
    return result
