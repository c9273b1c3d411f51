"""The edit that copies limbs mirrored across an axis."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass, replace
from math import remainder
from typing import Literal

import numpy as np
import numpy.typing as npt

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.basics.wording import listed
from jointed_crane.core.edits.placing.settling import with_motion_changed
from jointed_crane.core.edits.scene.copies import copies_of, said_of_chains, taken_along, with_copies
from jointed_crane.core.edits.scene.mirrored_constraints import (
    refuse_leaning,
    with_links_onto,
    with_own_turned,
    with_sides_swapped,
)
from jointed_crane.core.edits.scene.mirrored_goals import MirroredGoals, mirrored_goals
from jointed_crane.core.edits.shared.changed_links import turned_round
from jointed_crane.core.edits.shared.edit import Edit, named, unlocked
from jointed_crane.core.edits.shared.mirroring import OWN_MIRRORS, Along, sign, turned_numbers
from jointed_crane.core.evaluate.placement import rotation
from jointed_crane.core.evaluate.pose_at_frame import world_at
from jointed_crane.core.geometry.decomposition import angle_about_z, quaternion, rotation_matrices
from jointed_crane.core.geometry.fields import stacked
from jointed_crane.core.hierarchy.chains import chains_of
from jointed_crane.core.hierarchy.sides import other_side
from jointed_crane.core.hierarchy.tree import ancestors, free_name, limbs, uppermost
from jointed_crane.core.model.channels import MOVE, SHEAR, SLIDE, SPIN, TURN, family_of
from jointed_crane.core.model.scene import Eyelet, Inherits, Part, Scene
from jointed_crane.core.viewing.projection import in_art_space, inverse_of, linear_of

Floats = npt.NDArray[np.float64]


@dataclass(frozen=True)
class MirroredCopy(Edit, kind="mirrored_copy"):
    """Copy limbs with everything below them, mirrored: at every frame each copy lies as the reflection of its original.

    The axis is upright or level, or "facing" for the plane of both, which exchanges front and back. It runs through
    `about` (px on the stage; without it through the middle of the parent's art, or of the stage) and is carried by the
    parent, along the parent's own axes, or with `along` "stage" along those of the stage as they lie now. Turning
    sense, limits, names and eyelets are mirrored. A limb that is seated gets an eyelet of the mirrored name on the
    parent.
    """

    parts: tuple[str, ...]
    id_prefix: str
    axis: Literal["upright", "level", "facing"] = "upright"
    along: Literal["parent", "stage"] = "parent"
    about: tuple[float, float] | None = None
    frame: float | None = None

    def label(self, scene: Scene) -> str:
        return f"Mirror {named(scene.part(part_id) for part_id in self.parts)}"

    def apply(self, scene: Scene) -> Scene:
        mirrors = self._mirrors(scene)
        originals = [replace(part, shares=None) for part in _originals(scene, mirrors)]
        copies = copies_of(scene, originals, self.id_prefix, mirrors_names=True)
        goals = self._goals(scene, originals, mirrors)
        refuse_leaning(scene, originals, mirrors)
        own, turned, parents = self._own, dict[str, set[str]](), dict[str, Part]()
        for part in originals:
            copy, reflection = goals.given_to(copies[part.id]), goals.on_stage[part.id]
            turned[copy.id] = {name for name, _ in turned_numbers(copy, reflection)}
            copies[part.id] = with_sides_swapped(scene, part, copy, mirrors, reflection)
        turned_back: dict[str, Floats | None] = {}
        bent = {joint for chain in chains_of(scene.parts).values() for joint in chain}
        for part in sorted(originals, key=lambda found: len(ancestors(scene, found.id))):
            if part.id in mirrors:
                mirror = mirrors[part.id]
                copy = mirrored(copies[part.id], own, mirror[:3, :3], mirror)
                copies[part.id] = self._seated(scene, part, copy, mirror, parents)
                turned[copy.id].update(_turning(own, mirror[:3, :3]))
                turned_back[part.id] = _carried_mirror(OWN_MIRRORS[own], part, True, part.id in bent)
                continue
            assert part.parent is not None
            above = turned_back[part.parent]
            if part.inherits == Inherits():
                turned_back[part.id] = _carried_mirror(above, part, False, part.id in bent)
            else:
                copies[part.id] = self._below_the_root(scene, copies[part.id], part, above)
                turned[copies[part.id].id].update(_turning(own))
                turned_back[part.id] = _carried_mirror(OWN_MIRRORS[own], part, True, part.id in bent)
        made = [_with_sources_turned_round(copy, turned) for copy in copies.values()]
        after = with_copies(scene.with_parts(parents.values()), {part.id for part in originals}, made)
        return replace(after, parts=(*after.parts, *goals.made))

    def remark(self, scene: Scene) -> str | None:
        mirrors = self._mirrors(scene)
        said = [said_of_chains({part.id: part for part in scene.parts}, limbs(scene, mirrors))]
        goals = self._goals(scene, _originals(scene, mirrors), mirrors)
        if goals.names:
            said.append(
                f"{listed(goals.names)} lies outside: a mirrored goal is made for the copy, as it lies "
                f"{'at rest' if self.frame is None else f'at frame {self.frame:g}'}."
            )
        return " ".join(filter(None, said)) or None

    def _goals(self, scene: Scene, originals: list[Part], mirrors: Mapping[str, Floats]) -> MirroredGoals:
        return mirrored_goals(scene, originals, mirrors, self.id_prefix, self.frame)

    @property
    def _own(self) -> Along:
        """The axis of its own along which a root carries the mirror: in the plane of its art, or across that."""
        return "z" if self.axis == "facing" else "x"

    def _mirrors(self, scene: Scene) -> dict[str, Floats]:
        """The reflection of each limb in the space of its parent, shape (4, 4), by the id of its root."""
        roots = uppermost(scene, [part.id for part in unlocked(scene, self.parts)])
        return {root: self._mirror(scene, scene.part(root)) for root in roots}

    def _mirror(self, scene: Scene, part: Part) -> Floats:
        """The reflection in the parent's art space, shape (4, 4)."""
        if part.inherits != Inherits():
            raise RuleError(
                f"{part.name} inherits only some of its parent's placement, so no axis on the parent mirrors it at "
                "every frame. Nothing was changed; let it inherit all, or mirror its parent."
            )
        flip = np.diag([-1.0 if self.axis == axis else 1.0 for axis in ("upright", "level", "facing")])
        world = world_at(scene, part.parent, self.frame)
        to_parent = inverse_of(linear_of(world), part)
        if self.about is not None:
            through = in_art_space(world, np.array([*self.about, 0.0]), part)
        elif part.parent is not None:
            through = np.array(scene.part(part.parent).centre)
        else:
            through = np.array([scene.width / 2, scene.height / 2, 0.0])
        if self.along == "stage":
            flip = to_parent @ flip @ linear_of(world)
            if not np.allclose(flip @ flip.T, np.eye(3), atol=1e-9):
                raise RuleError(
                    f"The parent of {part.name} is scaled unequally or sheared, so a mirror along the stage would bend "
                    "the copy. Nothing was changed; mirror along the parent's axes."
                )
        is_straight = np.allclose(np.abs(flip), np.eye(3), atol=1e-12)
        if not is_straight and any(f"move.{axis}" in part.channels for axis in "xyz"):
            raise RuleError(
                f"{part.name} has keys on its moves, which cannot be mirrored across an axis that is slanted in "
                "its parent. Nothing was changed; mirror along the parent's axes."
            )
        mirror = np.eye(4)
        mirror[:3, :3] = flip
        mirror[:3, 3] = through - flip @ through
        return mirror

    def _seated(self, scene: Scene, part: Part, copy: Part, mirror: Floats, parents: dict[str, Part]) -> Part:
        if part.seat is None or part.parent is None:
            return copy
        parent = parents.get(part.parent, scene.part(part.parent))
        eyelet = parent.eyelet(part.seat)
        if eyelet is None:
            return replace(copy, seat=None)
        x, y, z = (mirror @ np.array([*eyelet.point, 1.0]))[:3]
        wanted = copy.name if eyelet.name == part.name else other_side(eyelet.name)
        name = free_name(wanted, (other.name for other in parent.eyelets))
        made = Eyelet(f"{copy.id}-seat", name, (float(x), float(y), float(z)))
        parents[parent.id] = replace(parent, eyelets=(*parent.eyelets, made))
        return replace(copy, seat=made.id)

    def _below_the_root(self, scene: Scene, copy: Part, part: Part, above: Floats | None) -> Part:
        """A part that takes only the plain rotation of its mirrored parent gets the mirror itself, which no longer
        reaches it: `above`, the mirror as that rotation carries it, shape (3, 3), or None where it changes in time.
        """
        if not part.inherits.position or not part.inherits.turn:
            raise RuleError(
                f"{part.name} does not inherit position and turn, so it does not follow a mirrored limb. "
                "Nothing was changed; let it inherit them."
            )
        if part.footholds or any(family_of(name) is SLIDE for name in part.channels):
            raise RuleError(
                f"{part.name} does not inherit its parent's scale and has footholds or keys on its slide, which no "
                "mirror carries. Nothing was changed; let it inherit the scale."
            )
        if above is None:
            raise RuleError(
                f"{part.name} does not inherit its parent's scale, and a part above it turns or spins in time below "
                "the mirror, so no copy follows it. Nothing was changed; let it inherit the scale."
            )
        made = mirrored(with_own_turned(scene, part, copy, above), self._own, above)
        # Its place already lies mirrored in the parent; only what the turned axes do to the slide is taken back.
        return made.with_rest_moved(_slide(part) - _slide(made))


def _originals(scene: Scene, roots: Collection[str]) -> list[Part]:
    """The parts of limbs, with what constraints their copies take along and no other."""
    known, found = {part.id: part for part in scene.parts}, limbs(scene, roots)
    ids = {part.id for part in found}
    return [replace(part, constraints=taken_along(known, part, ids)) for part in found]


def _with_sources_turned_round(copy: Part, turned: dict[str, set[str]]) -> Part:
    """A copy whose links heed which channels of what drives them have values of the other sign, by part."""
    if not copy.links:
        return copy
    links = (turned_round(link, link.channel in turned.get(link.source, ()), target=False) for link in copy.links)
    return replace(copy, links=tuple(links))


def _carried_mirror(mirror: Floats | None, part: Part, below_turn: bool, is_bent: bool) -> Floats | None:
    """A mirror G as a part's own plain rotation M hands it down, inverse(M) G M, shape (3, 3); None where that changes
    in time.

    `below_turn` says that the mirror lies between the part's turn and its spin, so that only the spin carries it;
    `is_bent`, that a chain turns the part.
    """
    if mirror is None:
        return None
    families = (SPIN,) if below_turn else (TURN, SPIN)
    moving = {name for name in (*part.channels, *(link.onto for link in part.links)) if family_of(name) in families}
    moving |= {"turn.z"} if is_bent and not below_turn else set()
    values = {name: part.rest_value(name) for name in (*TURN.names, *SPIN.names)}
    orientation = np.eye(3) if below_turn else rotation_matrices(np.array(part.orientation))
    if moving:
        # Turned about the axis that it lies across, a mirror stays as it is.
        lying = orientation.T @ mirror @ orientation
        stays = np.allclose(lying, OWN_MIRRORS["z"], rtol=0, atol=1e-12)
        is_about_z = moving <= {"turn.z", "spin.z"} and not any(values[name] for name in values if name[-1] != "z")
        return lying if stays and is_about_z else None
    plain = stacked(rotation(values, "spin", part.turn_order), ())
    if not below_turn:
        plain = orientation @ stacked(rotation(values, "turn", part.turn_order), ()) @ plain
    return np.asarray(plain.T @ mirror @ plain, dtype=np.float64)


def _slide(part: Part) -> Floats:
    """O slide at rest, px in parent space, shape (3,)."""
    slide = [part.rest_value(f"slide.{axis}") for axis in "xyz"]
    return np.asarray(rotation_matrices(np.array(part.orientation)) @ slide, dtype=np.float64)


def _turning(own: Along, place: Floats | None = None) -> list[str]:
    """The channels whose values change their sign where a part carries a mirror along an axis of its own; `place`, of
    shape (3, 3), reflects where it lies too.
    """
    result = [name for name in (*TURN.names, *SLIDE.names, *SHEAR.names) if sign(name, own) < 0]
    return result + [f"move.{axis}" for i, axis in enumerate("xyz") if place is not None and place[i, i] < 0]


def mirrored(part: Part, own: Along, flip: Floats, place: Floats | None = None) -> Part:
    """A part behind a reflection of its parent space, as `mirroring` takes it apart; the art is shared unchanged,
    and with it what acts on the art itself, the spin.

    `flip` is the reflection, shape (3, 3); `place`, shape (4, 4), reflects where the part rests too; `own` is the axis
    along which the part carries the mirror.
    """
    orientation = flip @ rotation_matrices(np.array(part.orientation)) @ OWN_MIRRORS[own]
    turning = _turning(own, None if place is None else flip)
    rest = {name: -part.rest[name] for name in turning if name in part.rest and family_of(name) is not MOVE}
    rest[f"scale.{own}"] = -part.rest_value(f"scale.{own}")
    made = replace(part, orientation=_as_whole(part, own, orientation, flip)).with_rest(rest)
    if place is not None:
        x, y, z = (place @ np.array([*(part.rest_value(f"move.{axis}") for axis in "xyz"), 1.0]))[:3]
        made = made.with_rest({"move.x": x, "move.y": y, "move.z": z})
    for name in turning:
        made = with_links_onto(with_motion_changed(made, name, over=-1.0), name)
    return made


def _as_whole(part: Part, own: Along, orientation: Floats, flip: Floats) -> tuple[float, float, float, float]:
    """The mirrored orientation of a part, of its two quaternions the one with which whole turns of copies that lie
    between each other count as those of their originals do: turned back by as much.
    """
    result = quaternion(orientation)
    about = flip @ OWN_MIRRORS[own]
    turned = sign("turn.z", own) * angle_about_z(part.orientation)
    off = angle_about_z(result) - turned - float(np.arctan2(about[1, 0], about[0, 0]))
    x, y, z, w = result if abs(remainder(off, 4 * np.pi)) < np.pi else (-each for each in result)
    return x, y, z, w
