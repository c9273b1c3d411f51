"""Scenes in the API: reading one, keeping edits, undo and redo, artwork in, and the acts of the shelf."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from flask import Blueprint, request

from jointed_crane.core.errors import RuleError
from jointed_crane.core.scene import Scene
from jointed_crane.core.shown import shown_pose
from jointed_crane.core.soundness import ensure_sound
from jointed_crane.formats.artwork import title_of
from jointed_crane.formats.document import edit_from, scene_document
from jointed_crane.reading import jobs
from jointed_crane.store.library import new_id
from jointed_crane.store.scenes import Kept
from jointed_crane.web.api.answers import (
    change_document,
    frame_of,
    history_document,
    pose_document,
    request_document,
    version_of,
)
from jointed_crane.web.library import examples, library
from jointed_crane.web.reading import foreign, outlined, read, request_files

api = Blueprint("scenes", __name__, url_prefix="/api")

#: More edits than this in one request are a mistake.
MOST_EDITS = 1_000


def edits_of(document: dict[str, Any]) -> list:
    """The edits of a request."""
    found = document.get("edits")
    if not isinstance(found, list) or not 1 <= len(found) <= MOST_EDITS:
        raise RuleError(f"The request holds no list of 1 to {MOST_EDITS} edits. Nothing was changed.")
    return outlined([edit_from(edit) for edit in found])


def kept_answer(before: Scene, kept: Kept, frame: float | None) -> dict[str, Any]:
    """What a page needs after a change: what differs, the whole pose, and the new version."""
    pose = pose_document(shown_pose(kept.scene, frame), frame)
    return {**history_document(kept), **change_document(before, kept.scene), "pose": pose}


@api.get("/scenes/<scene_id>")
def one(scene_id: str) -> dict[str, Any]:
    """The scene as JSON with its version, and its pose at ?frame= (or at rest)."""
    frame = frame_of(request.args.get("frame"))
    kept = library().scenes.load(scene_id)
    pose = pose_document(shown_pose(kept.scene, frame), frame)
    return {**history_document(kept), "scene": scene_document(kept.scene), "pose": pose}


@api.post("/scenes/<scene_id>/edits")
def keep(scene_id: str) -> dict[str, Any]:
    """Keep edits made against a version; one request is one row of undo."""
    return _changed(scene_id, lambda version, document: library().scenes.keep(scene_id, version, edits_of(document)))


@api.post("/scenes/<scene_id>/undo")
def undo(scene_id: str) -> dict[str, Any]:
    """Take the last edit back."""
    return _changed(scene_id, lambda version, _: library().scenes.undo(scene_id, version))


@api.post("/scenes/<scene_id>/redo")
def redo(scene_id: str) -> dict[str, Any]:
    """Do the edit again that was taken back last."""
    return _changed(scene_id, lambda version, _: library().scenes.redo(scene_id, version))


def _changed(scene_id: str, change: Callable[[int, dict[str, Any]], Kept]) -> dict[str, Any]:
    """The answer to a request that changes a scene against a version."""
    document = request_document()
    before = library().scenes.load(scene_id).scene
    kept = change(version_of(document), document)
    return kept_answer(before, kept, frame_of(document.get("frame")))


@api.post("/scenes")
def create() -> tuple[dict[str, Any], int]:
    """Put a new, empty scene on the shelf."""
    document = request_document()
    try:
        scene = Scene(
            id=new_id(),
            name=str(document.get("name", "")).strip(),
            width=float(document.get("width", 1280)),
            height=float(document.get("height", 720)),
            ground=str(document.get("ground", "#e3edf0")).lower(),
            fps=tuple(int(number) for number in document.get("fps", (24, 1))),  # type: ignore[arg-type]
            length=int(document.get("length", 96)),
        )
        ensure_sound(scene)
    except (TypeError, ValueError) as error:
        if isinstance(error, RuleError):
            raise
        raise RuleError("A size, the frame rate or the length is not a number. No scene was made.") from None
    kept = library().shelf.create(scene)
    return {"id": kept.scene.id, **history_document(kept)}, 201


@api.post("/open")
def open_files() -> tuple[dict[str, Any], int]:
    """Open a scene zip, or make a scene from artwork, sized from its first drawing."""
    files = [foreign(file) for file in request_files()]
    if files[0].data.startswith(b"PK"):
        kept = library().open_bundle(read(jobs.bundle, files[0]))
        return {"id": kept.scene.id, **history_document(kept), "notes": []}, 201
    artwork = read(jobs.artwork, files)
    kept = library().new_from(artwork, title_of(files[0].name, "Scene")[:100])
    return {"id": kept.scene.id, **history_document(kept), "notes": list(artwork.notes)}, 201


@api.post("/examples")
def add_examples() -> dict[str, Any]:
    """Put the example scenes on the shelf that are not there yet."""
    add = examples()
    if add is None:
        raise RuleError("This installation has no example scenes. Nothing was changed.")
    return {"names": add(library())}


@api.post("/scenes/<scene_id>/duplicate")
def duplicate(scene_id: str) -> tuple[dict[str, Any], int]:
    """Copy a scene with everything in it."""
    kept = library().shelf.duplicate(scene_id)
    return {"id": kept.scene.id, **history_document(kept)}, 201


@api.post("/scenes/<scene_id>/rename")
def rename(scene_id: str) -> dict[str, Any]:
    """Give a scene another name."""
    kept = library().shelf.rename(scene_id, str(request_document().get("name", "")))
    return {"id": kept.scene.id, **history_document(kept)}


@api.post("/scenes/<scene_id>/delete")
def delete(scene_id: str) -> dict[str, Any]:
    """Take a scene off the shelf; the shelf's undo puts it back."""
    return {"name": library().shelf.delete(scene_id)}


@api.post("/shelf/undo")
def undo_on_shelf() -> dict[str, Any]:
    """Take the shelf's last act back."""
    return {"label": library().shelf.undo()}


@api.post("/shelf/redo")
def redo_on_shelf() -> dict[str, Any]:
    """Do the shelf's act again that was taken back last."""
    return {"label": library().shelf.redo()}
