"""Edits of named places in time: frames and spans of frames."""

from __future__ import annotations

from dataclasses import dataclass, replace

from jointed_crane.core.edits.shared.edit import Edit
from jointed_crane.core.edits.shared.named_things import all_but, exchanged_for, the_one
from jointed_crane.core.hierarchy.tree import free_name
from jointed_crane.core.model.markers import Marker
from jointed_crane.core.model.scene import Scene


@dataclass(frozen=True)
class AddMarker(Edit, kind="add_marker"):
    """Name a frame or, with `until`, a span of frames; the name is made unique."""

    id: str
    frame: float
    until: float | None = None
    name: str = "Marker"

    def label(self, scene: Scene) -> str:
        return f"Add {self.name} at frame {self.frame:g}"

    def apply(self, scene: Scene) -> Scene:
        name = free_name(self.name, (marker.name for marker in scene.markers))
        return replace(scene, markers=(*scene.markers, Marker(self.id, name, self.frame, self.until)))


@dataclass(frozen=True)
class SetMarker(Edit, kind="set_marker"):
    """Say anew where a marker stands and what it is called; None keeps its name."""

    marker: str
    frame: float
    until: float | None = None
    name: str | None = None

    def label(self, scene: Scene) -> str:
        return f"Change {marker_of(scene, self.marker).name}"

    def apply(self, scene: Scene) -> Scene:
        known = marker_of(scene, self.marker)
        changed = replace(known, frame=self.frame, until=self.until, name=(self.name or known.name).strip())
        return replace(scene, markers=exchanged_for(scene.markers, known, changed))


@dataclass(frozen=True)
class DeleteMarker(Edit, kind="delete_marker"):
    """Take a marker away."""

    marker: str

    def label(self, scene: Scene) -> str:
        return f"Delete {marker_of(scene, self.marker).name}"

    def apply(self, scene: Scene) -> Scene:
        return replace(scene, markers=all_but(scene.markers, marker_of(scene, self.marker)))


def marker_of(scene: Scene, marker_id: str) -> Marker:
    """The marker of this id; RuleError where there is none."""
    return the_one(scene.markers, marker_id, "marker on the ruler")
