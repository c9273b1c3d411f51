"""Links that go on adding what they added, while the values that drive them are counted from another rest.

A source whose motion value x becomes x' = (x - less) / over drives by amount * (x - home) or by a curve. A curve moves
along; of an amount a constant is left over, which the driven channel then rests at, and which changes what that drives
in turn.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.hierarchy.link_order import links_in_order
from jointed_crane.core.model.channels import LEVER, channel_kind, family_of
from jointed_crane.core.model.levers import Link
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.motion.editing import raised
from jointed_crane.core.shapes.picture import with_shapes_changed

#: A channel of a part, by the part's id.
Driven = tuple[str, str]


@dataclass(frozen=True)
class Shift:
    """How motion values are counted from now on: x' = (x - less) / over."""

    less: float = 0.0
    over: float = 1.0


def with_links_kept(before: Scene, after: Scene, shifts: Mapping[Driven, Shift]) -> Scene:
    """A scene in which channels are counted otherwise than before, `shifts` telling how, and links add what they added.

    RuleError where a driven scale or opacity would have to rest at 0.
    """
    if not any(part.links for part in after.parts):
        return after
    return _Links(before, after, dict(shifts)).kept()


class _Links:
    """The links of a scene, gone through in order: what drives is known before what it drives.

    Attributes
    ----------
    constants : what the links onto a channel no longer add and it is yet to rest at
    """

    def __init__(self, before: Scene, after: Scene, shifts: dict[Driven, Shift]) -> None:
        self._before = before
        self._shifts = shifts
        self._parts = {part.id: part for part in after.parts}
        self._constants: dict[Driven, float] = {}

    def kept(self) -> Scene:
        for part_id, link in links_in_order(self._parts.values()):
            source = (link.source, link.channel)
            self._rest_at_constant(source)
            homes = (self._home(self._before.part(link.source), link), self._home(self._parts[link.source], link))
            shift = self._shifts.get(source, Shift())
            if shift != Shift() or homes[0] != homes[1]:
                self._change(part_id, link, shift, *homes)
        for target in list(self._constants):
            self._rest_at_constant(target)
        return self._before.with_parts(self._parts.values())

    @staticmethod
    def _home(part: Part, link: Link) -> float:
        """Where the source of an amount adds nothing."""
        if part.lever is not None and family_of(link.channel) is LEVER:
            return part.lever.axis(link.channel).neutral
        kind = channel_kind(link.channel)
        return part.rest_value(link.channel) if kind.joins == "replace" else kind.neutral

    def _change(self, part_id: str, link: Link, shift: Shift, home: float, new_home: float) -> None:
        if link.points:
            made = replace(link, points=tuple(sorted(((x - shift.less) / shift.over, y) for x, y in link.points)))
        else:
            made = replace(link, amount=link.amount * shift.over)
            constant = link.amount * (shift.less - home + shift.over * new_home)
            target = (part_id, link.onto)
            self._constants[target] = self._constants.get(target, 0.0) + constant
        self._put(part_id, link, made)

    def _put(self, part_id: str, link: Link, made: Link) -> None:
        part = self._parts[part_id]
        self._parts[part_id] = replace(part, links=tuple(made if one.id == link.id else one for one in part.links))

    def _rest_at_constant(self, target: Driven) -> None:
        """Have a driven channel rest at what its links no longer add."""
        constant = self._constants.pop(target, 0.0)
        if not constant:
            return
        part_id, name = target
        part, kind, known = self._parts[part_id], channel_kind(name), self._shifts.get(target, Shift())
        if kind.joins == "multiply":
            factor = 1 + constant
            if not factor:
                raise RuleError(
                    f"{part.name} would rest at {kind.label.lower()} 0, which nothing scales up again. "
                    "Nothing was changed; choose another frame."
                )
            self._parts[part_id] = part.with_rest({name: part.rest_value(name) * factor})
            for link in [one for one in part.links if one.onto == name]:
                less = replace(link, amount=link.amount / factor, points=_scaled(link, 1 / factor))
                self._put(part_id, link, less)
            self._shifts[target] = replace(known, over=known.over * factor)
        elif family_of(name).moves == "shape":
            self._parts[part_id] = with_shapes_changed(part, {name: constant})
            self._shifts[target] = replace(known, less=known.less + constant)
        elif kind.joins == "add":
            self._parts[part_id] = part.with_rest({name: part.rest_value(name) + constant})
            self._shifts[target] = replace(known, less=known.less + constant)
        elif name in part.channels and part.channels[name].at_hand:
            self._parts[part_id] = part.with_channel(name, raised(part.channels[name], constant))
        else:
            self._parts[part_id] = part.with_rest({name: part.rest_value(name) + constant})


def _scaled(link: Link, by: float) -> tuple[tuple[float, float], ...]:
    return tuple((x, y * by) for x, y in link.points)
