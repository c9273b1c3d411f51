"""Edits that bring parts in, take them away and name them."""

from __future__ import annotations

from dataclasses import dataclass, replace

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.edits.constraints.constraining import without_constraints, without_links
from jointed_crane.core.edits.shared.edit import Edit, named, unlocked
from jointed_crane.core.edits.shared.staying import kept_as_shown, rejoined
from jointed_crane.core.hierarchy.tree import ancestors, free_name
from jointed_crane.core.model.scene import Part, Scene


@dataclass(frozen=True)
class AddParts(Edit, kind="add_parts"):
    """Put new parts in front of all others, in the order given from back to front; names are made unique."""

    parts: tuple[Part, ...]

    def label(self, scene: Scene) -> str:
        return f"Bring in {named(self.parts)}"

    def apply(self, scene: Scene) -> Scene:
        taken = {part.name for part in scene.parts}
        added = []
        for part in self.parts:
            if part.id in scene.index:
                raise RuleError(f"A part with the id {part.id!r} is in the scene already. Nothing was changed.")
            name = free_name(part.name, taken)
            taken.add(name)
            added.append(replace(part, name=name))
        return replace(scene, parts=(*scene.parts, *added))


@dataclass(frozen=True)
class DeleteParts(Edit, kind="delete_parts"):
    """Take parts away. Their children stay where they are shown and hang on the nearest parent left; constraints that
    refer to them and links from them go too, and what they placed stays where it is shown.
    """

    parts: tuple[str, ...]
    frame: float | None = None

    def label(self, scene: Scene) -> str:
        return f"Delete {named(scene.part(part_id) for part_id in self.parts)}"

    def apply(self, scene: Scene) -> Scene:
        doomed = {part.id for part in unlocked(scene, self.parts)}
        orphans: dict[str | None, list[str]] = {}
        for part in scene.parts:
            if part.id not in doomed and part.parent in doomed:
                left = next((name for name in ancestors(scene, part.id) if name not in doomed), None)
                orphans.setdefault(left, []).append(part.id)
        after = scene
        for left, children in orphans.items():
            after = rejoined(after, children, left, self.frame)
        after = without_constraints(after, lambda goal: goal.part in doomed)
        after = without_links(after, lambda link: link.source in doomed)
        after = replace(
            after,
            parts=tuple(part for part in after.parts if part.id not in doomed),
            isolated=tuple(part_id for part_id in after.isolated if part_id not in doomed),
            cuts=tuple(cut for cut in after.cuts if cut.camera not in doomed),
        )
        return kept_as_shown(scene, after, self.frame)


@dataclass(frozen=True)
class RenamePart(Edit, kind="rename_part"):
    """Give a part another name; two parts of a scene never share one."""

    part: str
    name: str

    def label(self, scene: Scene) -> str:
        return f"Rename {scene.part(self.part).name} to {self.name.strip()}"

    def apply(self, scene: Scene) -> Scene:
        name = self.name.strip()
        if any(part.name == name and part.id != self.part for part in scene.parts):
            raise RuleError(f"There is a part called {name} already. The old name was kept; choose another.")
        return scene.with_parts([replace(scene.part(self.part), name=name)])
