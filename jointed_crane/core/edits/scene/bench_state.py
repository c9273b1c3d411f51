"""Edits of how parts are shown on the bench: hidden, locked, isolated, coloured, silenced; nothing sent out changes."""

from __future__ import annotations

from dataclasses import dataclass, replace

from jointed_crane.core.edits.shared.edit import Edit, named
from jointed_crane.core.model.scene import Scene, Tag


@dataclass(frozen=True)
class SetBenchState(Edit, kind="set_bench_state"):
    """Hide or show, lock or unlock parts on the bench; nothing that is sent out changes. None keeps a state."""

    parts: tuple[str, ...]
    hidden: bool | None = None
    locked: bool | None = None

    def label(self, scene: Scene) -> str:
        if self.hidden is not None:
            act = "Hide" if self.hidden else "Show"
        else:
            act = "Lock" if self.locked else "Unlock"
        return f"{act} {named(scene.part(part_id) for part_id in self.parts)}"

    def apply(self, scene: Scene) -> Scene:
        return scene.with_parts(
            replace(
                part,
                hidden=part.hidden if self.hidden is None else self.hidden,
                locked=part.locked if self.locked is None else self.locked,
            )
            for part in map(scene.part, self.parts)
        )


@dataclass(frozen=True)
class SetTag(Edit, kind="set_tag"):
    """Give parts a colour in the tree; an empty one takes it away."""

    parts: tuple[str, ...]
    tag: Tag = ""

    def label(self, scene: Scene) -> str:
        return f"Colour {named(scene.part(part_id) for part_id in self.parts)}"

    def apply(self, scene: Scene) -> Scene:
        return scene.with_parts(replace(scene.part(part_id), tag=self.tag) for part_id in self.parts)


@dataclass(frozen=True)
class Isolate(Edit, kind="isolate"):
    """Show only these parts on the bench; none named shows all again. Nothing that is sent out changes."""

    parts: tuple[str, ...] = ()

    def label(self, scene: Scene) -> str:
        return f"Isolate {named(map(scene.part, self.parts))}" if self.parts else "Show all parts again"

    def apply(self, scene: Scene) -> Scene:
        return replace(scene, isolated=tuple(scene.part(part_id).id for part_id in dict.fromkeys(self.parts)))


@dataclass(frozen=True)
class SilenceFinding(Edit, kind="silence_finding"):
    """Stop reporting a finding of the checks for parts, or report it again."""

    parts: tuple[str, ...]
    finding: str
    silent: bool = True

    def label(self, scene: Scene) -> str:
        return f"{'Silence' if self.silent else 'Report'} “{self.finding}”"

    def apply(self, scene: Scene) -> Scene:
        changed = []
        for part in map(scene.part, self.parts):
            left = {*part.silenced, self.finding} if self.silent else {*part.silenced} - {self.finding}
            changed.append(replace(part, silenced=tuple(sorted(left))))
        return scene.with_parts(changed)
