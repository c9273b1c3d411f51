"""Edits of a part's drawings: adding, copying, exchanging and ordering them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Literal

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.edits.shared.edit import Edit, unlocked
from jointed_crane.core.edits.shared.values_on_screen import motion_value, with_value, within_limits
from jointed_crane.core.geometry.coordinates import Bounds
from jointed_crane.core.geometry.nine_points import box_to_box
from jointed_crane.core.hierarchy.tree import free_name
from jointed_crane.core.model.channels import countable
from jointed_crane.core.model.scene import Drawing, Part, Scene

#: How new art is laid where old art was.
Fit = Literal["registration", "box"]


def sharing(scene: Scene, part: Part) -> list[Part]:
    """The part and all copies that share its drawings."""
    return [part] if part.shares is None else [other for other in scene.parts if other.shares == part.shares]


def known_drawing(part: Part, drawing_id: str) -> Drawing:
    """The part's drawing of this id; RuleError where it has none."""
    for drawing in part.drawings:
        if drawing.id == drawing_id:
            return drawing
    raise RuleError(f"{part.name} has no such drawing. Nothing was changed.")


def _with_drawings(scene: Scene, part: Part, drawings: list[Drawing]) -> Scene:
    """The scene with other drawings on a part and its sharing copies; each goes on showing the ones it showed.

    A part shows its drawings by number, so the numbers of rest and keys follow where a drawing comes to lie; one that
    is gone gives its place to the one before it.
    """
    numbers = {drawing.id: number for number, drawing in enumerate(drawings)}
    old = part.drawings

    def renumbered(value: float) -> float:
        at = part.drawing_number(value)
        while at >= 0:
            if old and old[at].id in numbers:
                return float(numbers[old[at].id])
            at -= 1
        return 0.0

    changed = []
    for member in sharing(scene, part):
        now = member.rest_value("drawing")
        member = replace(member, drawings=tuple(drawings))
        if renumbered(now) != now:
            member = member.with_rest({"drawing": renumbered(now)})
        channel = member.channels.get("drawing")
        if channel is not None:
            # As it is evaluated: what a number in a row cannot do outside its keys would count other drawings now.
            channel = countable("drawing", channel)
            keys = tuple(replace(key, value=renumbered(key.value)) for key in channel.keys)
            member = member.with_channel("drawing", replace(channel, keys=keys))
        changed.append(member)
    return scene.with_parts(changed)


def exchanged(scene: Scene, part: Part, drawing_id: str, change: Callable[[Drawing], Drawing]) -> Scene:
    """The scene with one drawing of a part changed, in all copies that share it."""
    known = known_drawing(part, drawing_id)
    changed = change(known)
    return _with_drawings(scene, part, [changed if other is known else other for other in part.drawings])


def _free(part: Part, name: str) -> str:
    return free_name(name, (drawing.name for drawing in part.drawings))


def _refuse_linked(scene: Scene, part: Part) -> None:
    """What links add are numbers in the row, which no other row shows alike."""
    members = {part.id} | {one.id for one in scene.parts if part.shares and one.shares == part.shares}
    for one in scene.parts:
        for link in one.links:
            if (one.id in members and link.onto == "drawing") or (link.source in members and link.channel == "drawing"):
                other = scene.part(link.source if one.id in members else one.id)
                raise RuleError(
                    f"{other.name} is linked to the drawings of {part.name} by their numbers, so that others would "
                    "be shown. Nothing was changed; take the link off first, and set it again."
                )


def _refuse_helper(part: Part) -> None:
    if part.kind == "helper":
        raise RuleError(
            f"{part.name} is a helper and shows no picture. Nothing was changed; bring the art in as a part."
        )


def _shown(scene: Scene, part_id: str, drawing_id: str, frame: float | None) -> Scene:
    """The scene with one drawing of a part shown: at rest, or from a frame on and not before."""
    part = scene.part(part_id)
    number = [drawing.id for drawing in part.drawings].index(drawing_id)
    channel = part.channels.get("drawing")
    if frame is not None and not (channel and any(key.frame < frame for key in channel.keys)):
        before = 0.0 if frame > 0 else frame - 1
        part = with_value(part, "drawing", motion_value(part, "drawing", before), before)
    return scene.with_parts([with_value(part, "drawing", within_limits(part, "drawing", float(number), frame), frame)])


@dataclass(frozen=True)
class AddDrawing(Edit, kind="add_drawing"):
    """Give a part one more drawing, made elsewhere, and show it: at rest, or from the frame on."""

    part: str
    drawing: Drawing
    frame: float | None = None

    def label(self, scene: Scene) -> str:
        return f"Add drawing {self.drawing.name} to {scene.part(self.part).name}"

    def apply(self, scene: Scene) -> Scene:
        (part,) = unlocked(scene, [self.part])
        _refuse_helper(part)
        if any(drawing.id == self.drawing.id for drawing in part.drawings):
            raise RuleError(f"{part.name} has a drawing with the id {self.drawing.id!r} already. Nothing was changed.")
        made = replace(self.drawing, name=_free(part, self.drawing.name))
        after = _with_drawings(scene, part, [*part.drawings, made])
        return _shown(after, part.id, made.id, self.frame)


@dataclass(frozen=True)
class CopyDrawing(Edit, kind="copy_drawing"):
    """Give a part one more drawing that begins as a copy, of its own (`source` None) or of another part's, and show it.

    A copy from another part is laid registration on registration.
    """

    part: str
    drawing: str
    id: str
    source: str | None = None
    frame: float | None = None

    def label(self, scene: Scene) -> str:
        return f"Copy a drawing to {scene.part(self.part).name}"

    def apply(self, scene: Scene) -> Scene:
        original = known_drawing(scene.part(self.source or self.part), self.drawing)
        return AddDrawing(self.part, replace(original, id=self.id), self.frame).apply(scene)


@dataclass(frozen=True)
class RenameDrawing(Edit, kind="rename_drawing"):
    """Give a drawing another name; two drawings of a part never share one."""

    part: str
    drawing: str
    name: str

    def label(self, scene: Scene) -> str:
        return f"Rename drawing to {self.name.strip()}"

    def apply(self, scene: Scene) -> Scene:
        part = scene.part(self.part)
        name = self.name.strip()
        if any(drawing.name == name and drawing.id != self.drawing for drawing in part.drawings):
            raise RuleError(f"{part.name} has a drawing called {name} already. The old name was kept.")
        return exchanged(scene, part, self.drawing, lambda known: replace(known, name=name))


@dataclass(frozen=True)
class DeleteDrawing(Edit, kind="delete_drawing"):
    """Take a drawing away; where it was shown, the one before it shows. The last one stays."""

    part: str
    drawing: str

    def label(self, scene: Scene) -> str:
        return f"Delete drawing of {scene.part(self.part).name}"

    def apply(self, scene: Scene) -> Scene:
        (part,) = unlocked(scene, [self.part])
        known = known_drawing(part, self.drawing)
        if len(part.drawings) == 1:
            raise RuleError(f"{part.name} has one drawing only. Nothing was changed; delete the part instead.")
        return _with_drawings(scene, part, [drawing for drawing in part.drawings if drawing is not known])


@dataclass(frozen=True)
class OrderDrawing(Edit, kind="order_drawing"):
    """Put a drawing to another number in the part's row; what is shown at any frame stays the same."""

    part: str
    drawing: str
    to: int

    def label(self, scene: Scene) -> str:
        return f"Order drawings of {scene.part(self.part).name}"

    def apply(self, scene: Scene) -> Scene:
        (part,) = unlocked(scene, [self.part])
        known = known_drawing(part, self.drawing)
        _refuse_linked(scene, part)
        others = [drawing for drawing in part.drawings if drawing is not known]
        at = min(max(self.to, 0), len(others))
        return _with_drawings(scene, part, [*others[:at], known, *others[at:]])


@dataclass(frozen=True)
class ReplaceDrawing(Edit, kind="replace_drawing"):
    """Put other art in a drawing's place. Pivot, eyelets, children and keys of the part stay.

    With `fit` "registration" the new art is laid registration on registration at its own size; with "box" it is
    stretched so that what is painted fills the old box.
    """

    part: str
    drawing: str
    by: Drawing
    fit: Fit = "registration"

    def label(self, scene: Scene) -> str:
        return f"Replace art of {scene.part(self.part).name}"

    def apply(self, scene: Scene) -> Scene:
        (part,) = unlocked(scene, [self.part])
        _refuse_helper(part)
        return exchanged(scene, part, self.drawing, self._replaced)

    def _replaced(self, known: Drawing) -> Drawing:
        by = replace(self.by, id=known.id, name=known.name)
        return fitted(by, known.bounds) if self.fit == "box" else by


def fitted(drawing: Drawing, bounds: Bounds) -> Drawing:
    """The drawing stretched so that its painted box becomes `bounds`, px in art space; its registration is art zero."""
    stretch = box_to_box(drawing.bounds, bounds)
    x, y = drawing.registration
    left, top = stretch((drawing.box[0] - x, drawing.box[1] - y))
    right, bottom = stretch((drawing.box[2] - x, drawing.box[3] - y))
    return replace(
        drawing,
        box=(left, top, right, bottom),
        registration=(0.0, 0.0),
        bounds=bounds,
        outline=tuple(tuple(map(stretch, ring)) for ring in drawing.outline),
        shape=None,
    )
