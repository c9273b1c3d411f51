"""Edits that make many parts one, and one part many.

The pictures themselves are put together and taken apart outside the core; here is what becomes of the parts.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.basics.wording import listed
from jointed_crane.core.constraints.constraint import of_kind
from jointed_crane.core.constraints.reach import Reach
from jointed_crane.core.edits.constraints.constraining import without_stray_numbers
from jointed_crane.core.edits.shared.edit import Edit, named, unlocked
from jointed_crane.core.edits.shared.staying import rejoined
from jointed_crane.core.evaluate.pose_at_frame import pose_at, world_at
from jointed_crane.core.hierarchy.tree import ancestors, free_name
from jointed_crane.core.model.channels import SPIN
from jointed_crane.core.model.scene import Drawing, Eyelet, Part, Scene
from jointed_crane.core.shapes.reshaping import shape_channels
from jointed_crane.core.viewing.projection import carried, space_to_art

Floats = npt.NDArray[np.float64]

#: A picture whose plane leans by more than this against the other's cannot be laid flat on it.
_FLAT = 1e-9


@dataclass(frozen=True)
class FusedLayer:
    """One picture of a fused one.

    Attributes
    ----------
    name : of the part that it was
    matrix : its art space to the art space of the part that stays, shape (4, 4)
    opacity : 0 to 1
    """

    name: str
    drawing: Drawing
    matrix: Floats
    opacity: float


def staying(scene: Scene, part_ids: Iterable[str]) -> Part:
    """Of parts to be fused the one that stays: the last named, or what is uppermost among those that it hangs on."""
    ids = list(part_ids)
    above = [part_id for part_id in ancestors(scene, ids[-1]) if part_id in ids]
    return scene.part(above[-1] if above else ids[-1])


def layers(scene: Scene, part_ids: Iterable[str], frame: float | None) -> list[FusedLayer]:
    """The pictures of parts to be fused, in painting order; RuleError with the names where they cannot become one.

    They can where they are drawings that are wholly shown and lie flat on each other, nothing else is painted between
    them, and none but the one that stays moves by keys of its own.
    """
    parts = unlocked(scene, part_ids)
    if len(parts) < 2:
        raise RuleError("One part alone cannot be fused. Pick all that are to become one.")
    stays = staying(scene, [part.id for part in parts])
    pose = pose_at(scene, frame)
    for part in parts:
        _ensure_fusible(part, part is stays, bool(pose.shown[pose.index[part.id], 0]))
    picked = {part.id for part in parts}
    _refuse_between(scene, pose.painting(), picked)
    opacity = {part_id: float(pose.opacity[pose.index[part_id], 0]) for part_id in picked}
    if opacity[stays.id] < 1:
        raise RuleError(
            f"{stays.name} is shown at an opacity of {opacity[stays.id]:g}; fused, the pictures would show through "
            "each other otherwise than now. Nothing was fused; set its opacity to 1 first."
        )
    to_staying = space_to_art(world_at(scene, stays.id, frame), stays)
    result = []
    for part_id in pose.painting():
        if part_id in picked:
            row = pose.index[part_id]
            matrix = to_staying @ pose.world[row, 0]
            _ensure_flat(matrix, scene.part(part_id), stays)
            drawing = scene.part(part_id).drawings[int(pose.drawing[row, 0])]
            result.append(FusedLayer(scene.part(part_id).name, drawing, matrix, opacity[part_id]))
    return result


def _ensure_fusible(part: Part, stays: bool, is_shown: bool) -> None:
    if not part.is_sent or not part.drawings:
        raise RuleError(f"{part.name} has no picture that is sent out. Nothing was fused; leave it out.")
    if len(part.drawings) > 1:
        raise RuleError(
            f"{part.name} has {len(part.drawings)} drawings; what is fused shows one. Nothing was fused; leave it out, "
            "or delete all of its drawings but one."
        )
    if not is_shown:
        raise RuleError(
            f"{part.name} is not shown here. Nothing was fused; go to a frame where it is, or leave it out."
        )
    _refuse_moving_shape(part, "fused")
    if not stays and (part.channels or part.footholds):
        raise RuleError(
            f"{part.name} has keys of its own; fused, it could no longer move by itself. Nothing was fused; leave it "
            "out, or delete its keys and footholds first."
        )
    placed = next((one.name for one in part.constraints if one.is_on), None)
    if not stays and (placed or part.links):
        raise RuleError(
            f"{placed or 'A link'} moves {part.name}; fused, it could no longer move by itself. Nothing was fused; "
            "leave it out, or take that off first."
        )


def _refuse_moving_shape(part: Part, done: str) -> None:
    if shape_channels(part):
        raise RuleError(
            f"The shape of {part.name} moves, and keys of it would be lost. Nothing was {done}; delete them first."
        )


def _refuse_between(scene: Scene, painting: list[str], picked: set[str]) -> None:
    places = [place for place, part_id in enumerate(painting) if part_id in picked]
    between = [scene.part(part_id) for part_id in painting[places[0] : places[-1]] if part_id not in picked]
    names = [part.name for part in between if part.is_sent]
    if names:
        first, last = (scene.part(painting[place]).name for place in (places[0], places[-1]))
        raise RuleError(
            f"Between {first} and {last} lies {listed(names)} in the painting order. Nothing was fused; pick that too, "
            "or change the painting order first."
        )


def _ensure_flat(matrix: Floats, part: Part, stays: Part) -> None:
    leaning = np.abs([matrix[2, 0], matrix[2, 1], matrix[2, 3]]).max()
    if not leaning <= _FLAT * max(1.0, float(np.abs(matrix).max())):
        raise RuleError(
            f"{part.name} does not lie in the plane of {stays.name}. Nothing was fused; turn it flat first, or leave "
            "it out."
        )


def _turning_where_it_did(part: Part) -> Part:
    """The part with the centre that it spins about written down, where other art would shift it."""
    spins = any(name in part.channels or part.rest_value(name) != kind.neutral for name, kind in SPIN.kinds.items())
    return replace(part, spin_centre=part.centre) if spins else part


@dataclass(frozen=True)
class Fuse(Edit, kind="fuse"):
    """Make parts one that shows `drawing`, their pictures put together in the art space of the part that stays.

    That is the last named, or what is uppermost among those that it hangs on; its pivot, keys, parent and eyelets stay.
    What hangs on the others hangs on it from now on, lying where it is shown; their eyelets come along, and what is
    seated in them stays seated.
    """

    parts: tuple[str, ...]
    drawing: Drawing
    frame: float | None = None

    def label(self, scene: Scene) -> str:
        return f"Fuse {named(scene.part(part_id) for part_id in self.parts)}"

    def apply(self, scene: Scene) -> Scene:
        layers(scene, self.parts, self.frame)  # refuses what cannot become one
        stays = staying(scene, self.parts)
        gone = [part for part in scene.parts if part.id in self.parts and part is not stays]
        ids = {part.id for part in gone}
        seats = {part.id: part.seat for part in scene.parts if part.parent in ids and part.id not in self.parts}
        fused = replace(
            _turning_where_it_did(stays),
            kind="drawing",
            drawings=(replace(self.drawing, name=stays.drawings[0].name),),
            eyelets=self._eyelets(scene, stays, gone),
            shares=None,
        ).with_rest({"drawing": 0.0})
        fused = replace(fused, channels={name: known for name, known in stays.channels.items() if name != "drawing"})
        after = scene
        after = rejoined(after, [*seats], stays.id, self.frame)
        after = after.with_parts([fused, *(replace(after.part(child), seat=seat) for child, seat in seats.items())])
        isolated = dict.fromkeys(stays.id if part_id in ids else part_id for part_id in scene.isolated)
        return replace(after, parts=tuple(part for part in after.parts if part.id not in ids), isolated=tuple(isolated))

    def _eyelets(self, scene: Scene, stays: Part, gone: list[Part]) -> tuple[Eyelet, ...]:
        result = list(stays.eyelets)
        to_staying = space_to_art(world_at(scene, stays.id, self.frame), stays)
        for part in gone:
            own = to_staying @ world_at(scene, part.id, self.frame)
            for eyelet in part.eyelets:
                name = free_name(eyelet.name, (known.name for known in result))
                x, y, z = map(float, carried(own, np.array(eyelet.point)))
                result.append(Eyelet(eyelet.id, name, (x, y, z)))
        return tuple(result)


@dataclass(frozen=True)
class Split(Edit, kind="split"):
    """Make a part its pieces, each a part of its own with one of `pieces` in the art space of the part.

    Each piece has the part's parent, pivot and keys, so nothing moves at any frame. The largest piece is the part
    itself from now on, with its children and eyelets; the others' ids are `id_prefix` and a number.
    """

    part: str
    pieces: tuple[Drawing, ...]
    id_prefix: str
    frame: float | None = None

    def label(self, scene: Scene) -> str:
        return f"Split {scene.part(self.part).name}"

    def apply(self, scene: Scene) -> Scene:
        (part,) = unlocked(scene, [self.part])
        ensure_splittable(part)
        if len(self.pieces) < 2:
            raise one_piece(part)
        largest = max(range(len(self.pieces)), key=lambda number: _area(self.pieces[number]))
        taken = {other.name for other in scene.parts if other is not part}
        # The part keeps its name, unless another piece has it: a fused part comes apart into what it was made of.
        keeps_name = all(piece.name != part.name for piece in self.pieces)
        if keeps_name:
            taken.add(part.name)
        made = []
        for number, piece in enumerate(self.pieces):
            own = replace(_turning_where_it_did(part), kind="drawing", drawings=(piece,), shares=None)
            if number != largest:
                own = _without_chains(replace(own, id=f"{self.id_prefix}{number}", eyelets=()))
                if own.id in scene.index:
                    raise RuleError(f"There is a part with the id {own.id!r} already. Nothing was changed.")
            if number != largest or not keeps_name:
                own = replace(own, name=free_name(piece.name, taken))
                taken.add(own.name)
            made.append(own)
        at = scene.index[part.id]
        isolated = scene.isolated
        if part.id in isolated:
            isolated = (*isolated, *(piece.id for piece in made if piece.id != part.id))
        return replace(scene, parts=(*scene.parts[:at], *made, *scene.parts[at + 1 :]), isolated=isolated)


def ensure_splittable(part: Part) -> None:
    """RuleError where a part shows nothing that could be taken apart."""
    if not part.is_sent or not part.drawings:
        raise RuleError(f"{part.name} has no picture that is sent out. Nothing was split.")
    _refuse_moving_shape(part, "split")
    for reach in of_kind(part.constraints, Reach):
        if reach.is_on and (reach.keeps_turn or reach.tip is not None):
            raise RuleError(
                f"{reach.name} turns {part.name} itself, and would turn no other piece. Nothing was split; keep it as "
                "keys first, or have it reach with the pivot and not keep its turn."
            )
    if len(part.drawings) > 1:
        raise RuleError(
            f"{part.name} has {len(part.drawings)} drawings; only one picture can be split. Nothing was changed; "
            "delete all of its drawings but one first."
        )


def _without_chains(part: Part) -> Part:
    """A piece beside the part: of one joint turns one end."""
    others = tuple(one for one in part.constraints if not one.turns_joints)
    return without_stray_numbers(replace(part, constraints=others))


def one_piece(part: Part) -> RuleError:
    """Why a part whose picture holds no pieces is not split."""
    return RuleError(
        f"The picture of {part.name} is one piece, or an effect on the whole (opacity, clip, mask, filter) holds it "
        "together. Nothing was split."
    )


def _area(drawing: Drawing) -> float:
    left, top, right, bottom = drawing.bounds
    return (right - left) * (bottom - top)
