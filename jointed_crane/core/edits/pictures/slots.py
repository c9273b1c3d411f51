"""The edit that names what of a part a table fills."""

from __future__ import annotations

from dataclasses import dataclass, replace

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.edits.shared.edit import Edit
from jointed_crane.core.model.scene import Scene
from jointed_crane.core.model.slots import Slotted, slots_for


@dataclass(frozen=True)
class NameSlot(Edit, kind="name_slot"):
    """Let a thing of a part be filled by the column of this name; without a name it is a slot no more. Slots of one
    name are filled together.
    """

    part: str
    what: Slotted
    name: str = ""

    def label(self, scene: Scene) -> str:
        part = scene.part(self.part)
        name = " ".join(self.name.split())
        if not name:
            return f"Take the slot for the {self.what} of {part.name} away"
        return f"Let {name} fill the {self.what} of {part.name}"

    def apply(self, scene: Scene) -> Scene:
        part = scene.part(self.part)
        name = " ".join(self.name.split())
        if name and self.what not in slots_for(part):
            known = ", ".join(slots_for(part)) or "nothing"
            raise RuleError(
                f"{part.name} has no {self.what} that a table could fill; {known} can be filled. Nothing was changed."
            )
        slots = {what: its for what, its in part.slots.items() if what != self.what}
        if name:
            slots[self.what] = name
        return scene.with_parts([replace(part, slots=slots)])
