"""Edits of levers and of the links by which channels drive others."""

from __future__ import annotations

from dataclasses import dataclass, field, replace

import numpy as np

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.basics.wording import counted
from jointed_crane.core.edits.constraints.constraining import without_links, without_stray_numbers
from jointed_crane.core.edits.shared.changed_links import with_point
from jointed_crane.core.edits.shared.edit import Edit, unlocked
from jointed_crane.core.edits.shared.named_things import all_but, exchanged_for
from jointed_crane.core.edits.shared.values_on_screen import value_on_screen
from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.evaluate.pose_at_frame import world_at
from jointed_crane.core.evaluate.values import motion_values
from jointed_crane.core.hierarchy.tree import free_name
from jointed_crane.core.model.channels import CHANNELS, channel_kind
from jointed_crane.core.model.levers import LEVER_CHANNELS, Lever, Link
from jointed_crane.core.model.scene import OWN_FIELDS, Part, Scene
from jointed_crane.core.shapes.reshaping import is_alike, numbers_of_shape, shape_channels
from jointed_crane.core.viewing.projection import in_art

#: What a part that is posed keeps; its pictures may keep all but the numbers of their shapes.
_NOT_TAUGHT = [field for field in OWN_FIELDS if field != "drawings"]


@dataclass(frozen=True)
class AddLever(Edit, kind="add_lever"):
    """Make a lever, at its neutral. It lies at a place on the stage, px, and goes along with a parent."""

    id: str
    name: str
    lever: Lever = field(default_factory=Lever)
    parent: str | None = None
    at: tuple[float, float] = (40.0, 40.0)
    frame: float | None = None

    def label(self, scene: Scene) -> str:
        return f"Add the lever {self.name}"

    def apply(self, scene: Scene) -> Scene:
        if self.id in scene.index:
            raise RuleError("The lever would take the id of a part that is there. Nothing was changed.")
        x, y = self.at
        if self.parent is not None:
            parent = scene.part(self.parent)
            x, y = in_art(world_at(scene, parent.id, self.frame), np.array([x, y]), parent.name)
        rest = {"move.x": float(x), "move.y": float(y)}
        for channel, axis in zip(LEVER_CHANNELS, self.lever.axes, strict=False):
            rest |= {channel: axis.neutral} if axis.neutral else {}
        name = free_name(self.name.strip() or "Lever", (part.name for part in scene.parts))
        made = Part(self.id, name, "lever", parent=self.parent, rest=rest, lever=self.lever)
        return replace(scene, parts=(*scene.parts, made))


@dataclass(frozen=True)
class ChangeLever(Edit, kind="change_lever"):
    """Give a lever another range, neutral or step, make it a slider or a pad, show it on the stage or not. Links from
    an axis that it loses go with it.
    """

    part: str
    lever: Lever

    def label(self, scene: Scene) -> str:
        return f"Change the lever {scene.part(self.part).name}"

    def apply(self, scene: Scene) -> Scene:
        part = _lever_part(scene, self.part)
        made = without_stray_numbers(replace(part, lever=self.lever))
        for channel, axis in zip(LEVER_CHANNELS, self.lever.axes, strict=False):
            rest = float(axis.within(np.array(made.rest_value(channel))))
            made = made.with_rest({channel: rest}) if rest != made.rest_value(channel) else made
        after = scene.with_parts([made])
        lost = set(part.numbers) - set(made.numbers)
        return without_links(after, lambda link: link.source == part.id and link.channel in lost)


@dataclass(frozen=True)
class SetLink(Edit, kind="link"):
    """Have a channel of a part driven; a link of the same id is exchanged."""

    part: str
    link: Link

    def label(self, scene: Scene) -> str:
        drives = named_channel(scene, self.link.source, self.link.channel)
        return f"{drives} drives {named_channel(scene, self.part, self.link.onto)}"

    def apply(self, scene: Scene) -> Scene:
        (part,) = unlocked(scene, [self.part])
        scene.part(self.link.source)  # the next edit of a list may look at the scene before it is known to be sound
        if self.link.onto in part.fixed:
            raise RuleError(
                f"{named_channel(scene, part.id, self.link.onto)} is fixed. Nothing was changed; free it first."
            )
        known = next((link for link in part.links if link.id == self.link.id), None)
        links = (*part.links, self.link) if known is None else exchanged_for(part.links, known, self.link)
        return scene.with_parts([replace(part, links=links)])


@dataclass(frozen=True)
class Unlink(Edit, kind="unlink"):
    """Take a link away; what it drove goes by its own values again."""

    part: str
    link: str

    def label(self, scene: Scene) -> str:
        link = link_of(scene.part(self.part), self.link)
        return f"Free {named_channel(scene, self.part, link.onto)} from {scene.part(link.source).name}"

    def apply(self, scene: Scene) -> Scene:
        (part,) = unlocked(scene, [self.part])
        return scene.with_parts([replace(part, links=all_but(part.links, link_of(part, self.link)))])


@dataclass(frozen=True)
class Teach(Edit, kind="teach"):
    """Teach a lever by posing: what edits would do to values of parts at a frame becomes what the lever adds to them
    where it stands now. The parts' own values stay as they are, and nothing moves against what the edits show.

    Links that are made get the ids `id_prefix` and a number. Poses between those that were taught follow.
    """

    lever: str
    id_prefix: str
    edits: tuple[Edit, ...]
    channel: str = "lever.x"
    frame: float | None = None

    def label(self, scene: Scene) -> str:
        changes = self._changes(scene, self._posed(scene))
        return f"Teach {scene.part(self.lever).name} {counted(len({part for part, _ in changes}), 'part')}"

    def apply(self, scene: Scene) -> Scene:
        lever = _lever_part(scene, self.lever)
        if self.channel not in lever.numbers or lever.lever is None:
            raise RuleError(f"{lever.name} has no such axis. Nothing was changed.")
        axis = lever.lever.axis(self.channel)
        at = float(axis.within(np.array(value_on_screen(lever, self.channel, self.frame))))
        posed = self._posed(scene)
        changes = self._changes(scene, posed)
        if not changes:
            raise RuleError(f"Nothing was posed for {lever.name}. Nothing was changed; move a part first.")
        # As posed: what a posed channel drives in turn is driven by what is taught as well.
        driven = evaluate(posed.shown_as(self.frame), [self.frame or 0.0]).driven
        after = {part_id: scene.part(part_id) for part_id, _ in changes}
        for number, ((part_id, channel), (before, now)) in enumerate(changes.items(), start=1):
            part = after[part_id]
            more = float(driven[part_id, channel][0]) if (part_id, channel) in driven else 0.0
            is_times = channel_kind(channel).joins == "multiply"
            if is_times and not before:
                raise RuleError(
                    f"{named_channel(scene, part_id, channel)} is 0 there, and nothing is a multiple of it. Nothing "
                    "was changed; go to a frame where it has a size."
                )
            step = (1 + more) * (now / before - 1) if is_times else now - before
            link = next((one for one in part.links if self._is_taught(one, channel)), None)
            made = link or Link(
                id=f"{self.id_prefix}{number}", source=lever.id, channel=self.channel, onto=channel, amount=0.0,
                points=((axis.neutral, 0.0),),
            )  # fmt: skip
            taught = with_point(made, axis, at, step)
            links = (*part.links, taught) if link is None else exchanged_for(part.links, link, taught)
            after[part_id] = replace(part, links=links)
        return scene.with_parts(after.values())

    def _is_taught(self, link: Link, channel: str) -> bool:
        return (link.source, link.channel, link.onto) == (self.lever, self.channel, channel) and link.is_on

    def _posed(self, scene: Scene) -> Scene:
        """The scene as the edits would have it."""
        for edit in self.edits:
            scene = edit.apply(scene)
        return scene

    def _changes(self, scene: Scene, posed: Scene) -> dict[tuple[str, str], tuple[float, float]]:
        """Values before and after the edits by part and channel, of those that differ; RuleError where they do more."""
        if [part.id for part in posed.parts] != [part.id for part in scene.parts]:
            raise RuleError("A lever is taught values, not parts. Nothing was changed.")
        result = {}
        for old, new in zip(scene.parts, posed.parts, strict=True):
            if new is old:
                continue
            shape = _shape_changes(old, new, self.frame)
            if shape is None or any(getattr(old, field) != getattr(new, field) for field in _NOT_TAUGHT):
                raise RuleError(
                    f"More than values of {old.name} would change, which no lever does. Nothing was changed."
                )
            # Numbers of constraints and of other levers are values too.
            for channel in (*CHANNELS, *old.numbers):
                before, after = (value_on_screen(part, channel, self.frame) for part in (old, new))
                if before != after:
                    result[old.id, channel] = (before, after)
            result |= {(old.id, channel): values for channel, values in shape.items()}
        if any(part_id == self.lever for part_id, _ in result):
            raise RuleError(f"{scene.part(self.lever).name} cannot be taught to drive itself. Nothing was changed.")
        return result


def _shape_changes(old: Part, new: Part, frame: float | None) -> dict[str, tuple[float, float]] | None:
    """Numbers of shapes before and after by channel, of those that differ: in Rest the shapes themselves say them, in
    Motion their channels. None where pictures differ in more than that.
    """
    result = {}
    if frame is not None:
        for channel in dict.fromkeys((*shape_channels(old), *shape_channels(new))):
            before, after = (float(motion_values(part, channel, np.array([frame]))[0]) for part in (old, new))
            if before != after:
                result[channel] = (before, after)
        return result if old.drawings == new.drawings else None
    if [drawing.id for drawing in old.drawings] != [drawing.id for drawing in new.drawings]:
        return None
    for one, other in zip(old.drawings, new.drawings, strict=True):
        if one == other:
            continue
        if one.shape is None or other.shape is None or not is_alike(one.shape, other.shape):
            return None
        before_of, after_of = numbers_of_shape(one.shape), numbers_of_shape(other.shape)
        result |= {name: (value, after_of[name]) for name, value in before_of.items() if after_of[name] != value}
    return result


def _lever_part(scene: Scene, part_id: str) -> Part:
    (part,) = unlocked(scene, [part_id])
    if part.lever is None:
        raise RuleError(f"{part.name} is no lever. Nothing was changed.")
    return part


def link_of(part: Part, link_id: str) -> Link:
    for link in part.links:
        if link.id == link_id:
            return link
    raise RuleError(f"{part.name} has no such link. Nothing was changed.")


def named_channel(scene: Scene, part_id: str, channel: str) -> str:
    part = scene.part(part_id)
    return (
        part.name if part.kind == "lever" and channel == "lever.x" else f"{channel_kind(channel).label} of {part.name}"
    )
