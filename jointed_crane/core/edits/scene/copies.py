"""Edits that make copies of parts: duplicated, pasted, or mirrored across an axis."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.basics.wording import listed
from jointed_crane.core.constraints.constraint import Constraint, Goal
from jointed_crane.core.constraints.reach import Reach
from jointed_crane.core.edits.constraints.constraining import (
    without_constraints,
    without_links,
    without_stray_numbers,
)
from jointed_crane.core.edits.placing.poses import MoveBy
from jointed_crane.core.edits.shared.bends_on_screen import led_through
from jointed_crane.core.edits.shared.changed_links import between_copies
from jointed_crane.core.edits.shared.edit import Edit, named, unlocked
from jointed_crane.core.edits.shared.named_things import exchanged_for
from jointed_crane.core.edits.shared.places import in_parent
from jointed_crane.core.edits.shared.way_back import brought, is_placed_by_constraints
from jointed_crane.core.evaluate.pose_at_frame import pivot_at, world_at
from jointed_crane.core.hierarchy.chains import whole_chain
from jointed_crane.core.hierarchy.sides import other_side
from jointed_crane.core.hierarchy.tree import free_name, limbs
from jointed_crane.core.model.channels import channel_kind
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.soundness.references import is_there
from jointed_crane.core.viewing.projection import carried

Floats = npt.NDArray[np.float64]


def copies_of(
    scene: Scene,
    originals: Iterable[Part],
    id_prefix: str,
    mirrors_names: bool = False,
    known: Mapping[str, Part] | None = None,
) -> dict[str, Part]:
    """Copies of parts by the ids of the originals, hung on each other as those are; names are made unique.

    `known` are the parts among which the originals hung on what they hang on; by default those of the scene.
    """
    originals = list(originals)
    known = known or {part.id: part for part in scene.parts}
    ids = {part.id: f"{id_prefix}{number}" for number, part in enumerate(originals)}
    taken = {part.name for part in scene.parts}
    result = {}
    for part in originals:
        if ids[part.id] in scene.index:
            raise RuleError("A copy would take the id of a part that is there. Nothing was changed.")
        wanted = other_side(part.name) if mirrors_names else part.name
        name = free_name(wanted if wanted != part.name or not mirrors_names else f"{part.name} mirrored", taken)
        taken.add(name)
        eyelets = part.eyelets
        if mirrors_names:
            eyelets = tuple(replace(eyelet, name=other_side(eyelet.name)) for eyelet in eyelets)
        parent = ids.get(part.parent, part.parent) if part.parent else None
        constraints = tuple(one.with_parts(ids) for one in taken_along(known, part, ids))
        links = tuple(between_copies(link, ids) for link in part.links)
        copy = replace(part, id=ids[part.id], name=name, parent=parent, eyelets=eyelets)
        copy = without_stray_numbers(replace(copy, constraints=constraints, links=links))
        result[part.id] = copy if copy.shares else with_drawings_of_its_own(copy)
    return result


def taken_along(known: Mapping[str, Part], part: Part, copied: Collection[str]) -> tuple[Constraint, ...]:
    """The constraints that a copy of a part has, without those whose joints are not copied with it."""
    return tuple(one for one in part.constraints if not _lacks_joints(known, part, one, copied))


def _lacks_joints(known: Mapping[str, Part], part: Part, one: Constraint, copied: Collection[str]) -> bool:
    """Whether a constraint turns joints that are not copied with its part, or has lost what more could turn."""
    if not one.turns_joints:
        return False
    chain = whole_chain(known, part, one)
    above = known[chain[0]].parent if chain else part.parent
    has_lost = len(chain) < one.turned()[0] and above is not None and above not in known
    return not chain or has_lost or not set(chain) <= set(copied)


def said_of_chains(known: Mapping[str, Part], originals: Sequence[Part]) -> str | None:
    """Which copies take no reach along, to be told; None where all do."""
    ids = {part.id for part in originals}
    without = [part.name for part in originals if taken_along(known, part, ids) != part.constraints]
    if not without:
        return None
    return f"The copy of {listed(without)} takes no reach along: its joints were not copied with it."


def with_drawings_of_its_own(part: Part) -> Part:
    """The part with drawings named after it: an id is that of one drawing in a scene, or of one that is shared."""
    return replace(
        part,
        drawings=tuple(
            replace(drawing, id=f"{part.id}-{number}") for number, drawing in enumerate(part.drawings, start=1)
        ),
    )


def with_copies(scene: Scene, originals: set[str], copies: Iterable[Part]) -> Scene:
    """The copies painted directly in front of the foremost original."""
    at = max(scene.index[part_id] for part_id in originals) + 1
    return replace(scene, parts=(*scene.parts[:at], *copies, *scene.parts[at:]))


@dataclass(frozen=True)
class Duplicate(Edit, kind="duplicate"):
    """Copy parts, with everything below them or alone; the copies lie `by` px on the stage beside the originals.

    The copies' ids are `id_prefix` and a number. With `shares` they and the originals share their drawings from now on:
    a drawing changed in one is changed in all.
    """

    parts: tuple[str, ...]
    id_prefix: str
    with_children: bool = True
    shares: bool = False
    by: tuple[float, float] = (0.0, 0.0)
    frame: float | None = None

    def label(self, scene: Scene) -> str:
        return f"Duplicate {named(scene.part(part_id) for part_id in self.parts)}"

    def remark(self, scene: Scene) -> str | None:
        return said_of_chains({part.id: part for part in scene.parts}, self._originals(scene))

    def _originals(self, scene: Scene) -> list[Part]:
        originals = unlocked(scene, self.parts)
        if self.with_children:
            return limbs(scene, (part.id for part in originals))
        return sorted(originals, key=lambda part: scene.index[part.id])

    def apply(self, scene: Scene) -> Scene:
        originals = self._originals(scene)
        if self.shares:
            groups = {
                part.id: part.shares or f"{self.id_prefix}{n}" for n, part in enumerate(originals) if part.drawings
            }
            originals = [replace(part, shares=groups.get(part.id)) for part in originals]
            scene = scene.with_parts(originals)
        else:
            originals = [replace(part, shares=None) for part in originals]
        copies = copies_of(scene, originals, self.id_prefix)
        after = with_copies(scene, {part.id for part in originals}, copies.values())
        if not any(self.by):
            return after
        inside = {copy.id for copy in copies.values()}
        roots = [copy.id for copy in copies.values() if copy.parent not in inside]
        after = after.with_parts(replace(after.part(root), seat=None, locked=False) for root in roots)
        for root in roots:
            after = self._beside(after, after.part(root))
        return after

    def _beside(self, scene: Scene, copy: Part) -> Scene:
        """The scene with a copy resting elsewhere, so that it lies beside its original at the frame and gets no keys;
        by keys where nothing else brings it there.
        """
        if is_placed_by_constraints(copy) or copy.links:
            place = pivot_at(scene, copy.id, self.frame) + np.array([*self.by, 0.0])
            try:
                return brought(scene, copy.id, {"place": place}, self.frame, "throughout", may_lead=False)
            except RuleError:
                return MoveBy((copy.id,), self.by, self.frame, past_limits=True).apply(scene)
        step = in_parent(scene, copy, np.array([*self.by, 0.0]), self.frame)
        return scene.with_parts([copy.with_rest_moved(step.tolist())])


@dataclass(frozen=True)
class Paste(Edit, kind="paste"):
    """Put copied parts into the scene, from this one or another; their art must be stored here.

    Each hangs on the copy of its parent, or on its parent where the scene has it, else on the stage. A limb that
    reaches for what is not here gets a helper in its place, where its end rests, so that it rests as drawn; other
    constraints and links that refer to what is not here are left out.
    """

    parts: tuple[Part, ...]
    id_prefix: str

    def label(self, scene: Scene) -> str:
        return f"Paste {named(self.parts)}"

    def remark(self, scene: Scene) -> str | None:
        after = self._copies(scene)
        lost = [f"{one.name} of {part.name}" for part, one in _that_lose(after) if not isinstance(one, Reach)]
        links = ((part, link) for part in after.parts for link in part.links if link.source not in after.index)
        lost += [f"the link onto {channel_kind(link.onto).label} of {part.name}" for part, link in links]
        made = [part.name for part, one in _that_lose(after) if isinstance(one, Reach)]
        said = [said_of_chains(self._known(scene), self.parts) or ""]
        if lost:
            said.append(f"Left out is what refers to nothing in this scene: {listed(lost)}.")
        if made:
            said.append(f"{listed(made)} reaches for a helper of its own: the goal is not in this scene.")
        return " ".join(filter(None, said)) or None

    def apply(self, scene: Scene) -> Scene:
        if not self.parts:
            raise RuleError("Nothing was copied yet. Pick parts and copy them first.")
        after = self._copies(scene)
        bare = _without_lost(after)
        made = []
        for number, (part, one) in enumerate(_that_lose(after)):
            if isinstance(one, Reach):
                helper = self._helper(bare, part, one, f"{self.id_prefix}goal{number}")
                reach = replace(one, goal=Goal(part=helper.id))
                changed = replace(part, constraints=exchanged_for(after.part(part.id).constraints, one, reach))
                after = replace(after, parts=(*after.with_parts([changed]).parts, helper))
                made.append((part.id, reach))
        after = _without_lost(after)
        for part_id, reach in made:
            after = led_through(after, part_id, reach, bare, None)
        return after

    def _known(self, scene: Scene) -> dict[str, Part]:
        return {part.id: part for part in (*scene.parts, *self.parts)}

    def _copies(self, scene: Scene) -> Scene:
        copied = {part.id for part in self.parts}
        here = [
            part
            if part.parent is None or part.parent in copied or part.parent in scene.index
            else replace(part, parent=None, seat=None)
            for part in self.parts
        ]
        marks = {mark.id for mark in scene.marks}
        originals = (replace(part, shares=None, level=part.level if part.level in marks else None) for part in here)
        copies = copies_of(scene, originals, self.id_prefix, known=self._known(scene))
        return replace(scene, parts=(*scene.parts, *copies.values()))

    @staticmethod
    def _helper(bare: Scene, part: Part, reach: Reach, helper_id: str) -> Part:
        """What a reach goes for instead of a goal that is not here: its end as it rests by itself."""
        x, y, _ = pivot_at(bare, part.id, None)
        if reach.tip is not None:
            x, y, _ = carried(world_at(bare, part.id, None), np.array(reach.tip))
        name = free_name(f"{part.name} goal", (other.name for other in bare.parts))
        return Part(helper_id, name, "helper", rest={"move.x": float(x), "move.y": float(y)}, form="cross")


def _that_lose(scene: Scene) -> list[tuple[Part, Constraint]]:
    """The constraints that refer to what is not in the scene, with their parts."""
    every = ((part, one) for part in scene.parts for one in part.constraints)
    return [(part, one) for part, one in every if one.loses(lambda goal: not is_there(scene, goal))]


def _without_lost(scene: Scene) -> Scene:
    """The scene without constraints and links that refer to what is not in it."""
    scene = without_links(scene, lambda link: link.source not in scene.index)
    return without_constraints(scene, lambda goal: not is_there(scene, goal))
