"""Artwork in the API: looking at layers before they come in, bringing them in, and bringing a changed file in again."""

from __future__ import annotations

from dataclasses import astuple
from typing import Any

from flask import Blueprint

from jointed_crane.core.basics.wording import counted
from jointed_crane.core.geometry.side_by_side import Lay
from jointed_crane.core.model.scene import Scene
from jointed_crane.formats.artwork import Artwork, drawing_of
from jointed_crane.formats.coming_in import Choices, file_number, lays_of, taken
from jointed_crane.formats.comparing import compared, origins
from jointed_crane.formats.document import drawing_document
from jointed_crane.reading import jobs
from jointed_crane.store.library import new_id
from jointed_crane.web.api.answer_models.changes import BroughtIn, Updated
from jointed_crane.web.api.answer_models.files import (
    CompareAnswer,
    DrawingAnswer,
    LayersAnswer,
    MovingAnswer,
    TracksAnswer,
)
from jointed_crane.web.api.contract import contract
from jointed_crane.web.api.models import BringInForm, LayersForm, NoForm, UpdateForm
from jointed_crane.web.api.reading import foreign, read, read_together, request_files
from jointed_crane.web.api.scenes import answer_of_edits
from jointed_crane.web.library import library

api = Blueprint("artwork", __name__, url_prefix="/api")


def _read(choices: Choices) -> Artwork:
    return read_together(map(foreign, request_files()), choices)


@api.post("/artwork/layers")
@contract(form=LayersForm, has_files=True, gives=LayersAnswer)
def layers(form: LayersForm) -> dict[str, Any]:
    """The layers of files as they would come in, each with its picture and where it would lie; nothing is stored.

    A part of a page at (x, y) px would lie at scale * (x, y) + place on the stage, where its `lay` is [scale, *place].
    """
    artwork = _read(form.choices)
    library().hold_art(artwork)
    lays = lays_of(artwork, taken(artwork, form.choices), form.choices, form.stage)
    result = [
        {
            "path": piece.path, "name": piece.name, "art": piece.content_hash, "box": piece.box, "bounds": piece.bounds,
            "inner": len(piece.inner), "crosses": piece.crosses, "file": file_number(piece),
            "lay": astuple(lays.get(file_number(piece), Lay())),
        }
        for piece in artwork.pieces
    ]  # fmt: skip
    files = [{"name": file.name, "coming": file.coming, "layers": file.layers} for file in artwork.files]
    return {
        "width": artwork.width, "height": artwork.height, "files": files, "layers": result, "notes": list(artwork.notes)
    }  # fmt: skip


@api.post("/scenes/<scene_id>/artwork")
@contract(form=BringInForm, has_files=True, gives=BroughtIn)
def bring_in(scene_id: str, form: BringInForm) -> dict[str, Any]:
    """Bring artwork files in; all of them or, where one cannot be read, none. One row of undo a request.

    The form field `choices` says how each file comes in, which layers are taken and how they are named, fused,
    registered, scaled and placed. A zip is the drawings in it.
    """
    artwork = _read(form.choices)
    change, ids = library().bring_in(scene_id, form.version, artwork, form.choices)
    return {**answer_of_edits(change, form.frame), "added": ids, "notes": list(artwork.notes)}


@api.post("/drawings")
@contract(form=NoForm, has_files=True, gives=DrawingAnswer)
def one_drawing(form: NoForm) -> dict[str, Any]:
    """A file as one drawing, its art at hand: what edits that add or replace drawings take."""
    artwork = read(jobs.one_piece, foreign(request_files()[0]))
    library().hold_art(artwork)
    return {"drawing": drawing_document(drawing_of(artwork.pieces[0], artwork, new_id())), "notes": list(artwork.notes)}


@api.post("/moving")
@contract(form=NoForm, has_files=True, gives=MovingAnswer)
def moving(form: NoForm) -> dict[str, Any]:
    """A moving picture, numbered pictures or a still one as drawings in the order of time, their art at hand.

    `starts` are the seconds at which each begins, one more at the end; null where each is a frame of the scene.
    """
    result = read(jobs.moving, [foreign(file) for file in request_files()])
    library().hold_art(result.artwork)
    drawings = [drawing_document(drawing_of(piece, result.artwork, new_id())) for piece in result.artwork.pieces]
    return {"drawings": drawings, "starts": result.starts, "notes": list(result.artwork.notes)}


@api.post("/tracks")
@contract(form=NoForm, has_files=True, gives=TracksAnswer)
def tracks(form: NoForm) -> dict[str, Any]:
    """A table of frame, x and y, and part where it holds several, as edits `bring_track` take them; nothing is kept."""
    result = read(jobs.tracks, foreign(request_files()[0]))
    return {"tracks": [{"name": one.name, "points": one.points} for one in result]}


def _again(scene: Scene) -> Artwork:
    file = foreign(request_files()[0])
    return read(jobs.artwork_again, file, origins(scene, file.name))


@api.post("/scenes/<scene_id>/artwork/compare")
@contract(form=NoForm, has_files=True, gives=CompareAnswer)
def compare(scene_id: str, form: NoForm) -> dict[str, Any]:
    """What bringing a changed file in again would do, layer by layer; nothing is changed."""
    scene = library().scenes.load(scene_id).scene
    result = compared(scene, _again(scene))
    return {"layers": [{"name": change.name, "state": change.state} for change in result]}


@api.post("/scenes/<scene_id>/artwork/update")
@contract(form=UpdateForm, has_files=True, gives=Updated)
def update(scene_id: str, form: UpdateForm) -> dict[str, Any]:
    """Bring a changed file in again: arts are exchanged, the rig stays."""
    known = library().scenes.load(scene_id)
    change, changes = library().bring_in_again(scene_id, form.version, _again(known.scene), form.fit)
    states = [layer.state for layer in changes]
    changed, new = counted(states.count("changed"), "changed layer"), counted(states.count("new"), "new part")
    words = f"{changed} and {new} came in; the rig is as it was."
    return {**answer_of_edits(change, form.frame), "words": words}
