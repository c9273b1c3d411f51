"""Scenes in the API: reading one, keeping edits, undo and redo, artwork in, and the acts of the shelf."""

from __future__ import annotations

from typing import Any

from flask import Blueprint

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.edits import Edit
from jointed_crane.core.evaluate.pose_at_frame import pose_at
from jointed_crane.core.model.scene import Scene
from jointed_crane.formats.artwork import title_of
from jointed_crane.formats.coming_in import Choices
from jointed_crane.formats.document import scene_document
from jointed_crane.formats.edit_document import edit_from
from jointed_crane.reading import jobs
from jointed_crane.reading.several import is_json, is_zip
from jointed_crane.reading.texts import outlined
from jointed_crane.store.library import new_id
from jointed_crane.store.scenes import Changed
from jointed_crane.web.api.answer_models.answer import Named
from jointed_crane.web.api.answer_models.changes import ChangeAnswer, Labelled, Made, NamesAnswer, SceneAnswer
from jointed_crane.web.api.answers import change_document, history_document, pose_document
from jointed_crane.web.api.contract import contract
from jointed_crane.web.api.models import Edits, FrameQuery, NewScene, NoForm, Nothing, Rename, Step
from jointed_crane.web.api.reading import foreign, read, read_together, request_files
from jointed_crane.web.library import examples, library

api = Blueprint("scenes", __name__, url_prefix="/api")


def edits_of(body: Edits) -> list[Edit]:
    """The edits of a request."""
    return outlined([edit_from(edit) for edit in body.edits], library().assets.get, read)


def answer_of_edits(change: Changed, frame: float | None) -> dict[str, Any]:
    """Keep a change; what a page needs after it: what differs, the whole pose, and the new version.

    The answer is computed before anything is kept: where that fails, nothing was changed.
    """
    pose = pose_document(pose_at(change.after, frame), frame)
    answer = {**change_document(change.change), "pose": pose}
    if change.remarks:
        answer["remarks"] = list(change.remarks)
    return {**history_document(library().scenes.commit(change)), **answer}


@api.get("/scenes/<scene_id>")
@contract(query=FrameQuery, gives=SceneAnswer)
def one(scene_id: str, query: FrameQuery) -> dict[str, Any]:
    """The scene as JSON with its version, and its pose at ?frame= (or at rest)."""
    entry = library().scenes.load(scene_id)
    pose = pose_document(pose_at(entry.scene, query.frame), query.frame)
    return {**history_document(entry), "scene": scene_document(entry.scene), "pose": pose}


@api.post("/scenes/<scene_id>/edits")
@contract(body=Edits, gives=ChangeAnswer)
def keep(scene_id: str, body: Edits) -> dict[str, Any]:
    """Keep edits made against a version; one request is one row of undo."""
    change = library().scenes.changed(scene_id, body.version, edits_of(body), keeps_before=body.keeps_before)
    return answer_of_edits(change, body.frame)


@api.post("/scenes/<scene_id>/undo")
@contract(body=Step, gives=ChangeAnswer)
def undo(scene_id: str, body: Step) -> dict[str, Any]:
    """Take the last edit back."""
    return answer_of_edits(library().scenes.undone(scene_id, body.version), body.frame)


@api.post("/scenes/<scene_id>/redo")
@contract(body=Step, gives=ChangeAnswer)
def redo(scene_id: str, body: Step) -> dict[str, Any]:
    """Do the edit again that was taken back last."""
    return answer_of_edits(library().scenes.redone(scene_id, body.version), body.frame)


@api.post("/scenes")
@contract(body=NewScene, gives=Made, status=201)
def create(body: NewScene) -> dict[str, Any]:
    """Put a new, empty scene on the shelf."""
    scene = Scene(
        new_id(), body.name.strip(), body.width, body.height, body.ground.lower(), fps=body.fps, length=body.length
    )
    entry = library().shelf.create(scene)
    return {"id": entry.scene.id, **history_document(entry)}


@api.post("/open")
@contract(form=NoForm, has_files=True, gives=Made, status=201)
def open_files(form: NoForm) -> dict[str, Any]:
    """Open a scene zip or vector animation, or make a scene from artwork, sized from its largest drawing."""
    files = [foreign(file) for file in request_files()]
    bundle = read(jobs.bundle, files[0]) if len(files) == 1 and is_zip(files[0]) else None
    if len(files) == 1 and is_json(files[0]):
        bundle = read(jobs.vector_animation, files[0])
    if bundle is not None:
        entry = library().open_bundle(bundle)
        return {"id": entry.scene.id, **history_document(entry), "notes": list(bundle.notes)}
    artwork = read_together(files, Choices())
    entry = library().new_from(artwork, title_of(files[0].name, "Scene")[:100])
    return {"id": entry.scene.id, **history_document(entry), "notes": list(artwork.notes)}


@api.post("/examples")
@contract(body=Nothing, gives=NamesAnswer)
def add_examples(body: Nothing) -> dict[str, Any]:
    """Put the example scenes on the shelf that are not there yet."""
    add = examples()
    if add is None:
        raise RuleError("This installation has no example scenes. Nothing was changed.")
    return {"names": add(library())}


@api.post("/scenes/<scene_id>/duplicate")
@contract(body=Nothing, gives=Made, status=201)
def duplicate(scene_id: str, body: Nothing) -> dict[str, Any]:
    """Copy a scene with everything in it."""
    entry = library().shelf.duplicate(scene_id)
    return {"id": entry.scene.id, **history_document(entry)}


@api.post("/scenes/<scene_id>/rename")
@contract(body=Rename, gives=Made)
def rename(scene_id: str, body: Rename) -> dict[str, Any]:
    """Give a scene another name."""
    entry = library().shelf.rename(scene_id, body.name)
    return {"id": entry.scene.id, **history_document(entry)}


@api.post("/scenes/<scene_id>/delete")
@contract(body=Nothing, gives=Named)
def delete(scene_id: str, body: Nothing) -> dict[str, Any]:
    """Take a scene off the shelf; the shelf's undo puts it back."""
    return {"name": library().shelf.delete(scene_id)}


@api.post("/shelf/undo")
@contract(body=Nothing, gives=Labelled)
def undo_on_shelf(body: Nothing) -> dict[str, Any]:
    """Take the shelf's last act back."""
    return {"label": library().shelf.undo()}


@api.post("/shelf/redo")
@contract(body=Nothing, gives=Labelled)
def redo_on_shelf(body: Nothing) -> dict[str, Any]:
    """Do the shelf's act again that was taken back last."""
    return {"label": library().shelf.redo()}
