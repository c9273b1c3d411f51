"""Artwork in the API: looking at layers before they come in, bringing them in, and bringing a changed file in again."""

from __future__ import annotations

from dataclasses import replace
from typing import Any, cast

from flask import Blueprint, request
from pydantic import TypeAdapter, ValidationError

from jointed_crane.core.edits.drawings import Fit
from jointed_crane.core.errors import RuleError
from jointed_crane.core.scene import Scene
from jointed_crane.core.wording import counted
from jointed_crane.formats.artwork import Artwork, Choices, drawing_of
from jointed_crane.formats.comparing import compared, origins
from jointed_crane.formats.document import drawing_document, parsed_json, refuse_not_finite
from jointed_crane.reading import jobs
from jointed_crane.store.library import new_id
from jointed_crane.web.api.answers import frame_of, version_of
from jointed_crane.web.api.scenes import kept_answer
from jointed_crane.web.library import library
from jointed_crane.web.reading import foreign, read, request_files

api = Blueprint("artwork", __name__, url_prefix="/api")

_CHOICES: TypeAdapter[Choices] = TypeAdapter(Choices)


def _choices(text: str | None) -> Choices:
    document = parsed_json(text or "{}")
    refuse_not_finite(document)
    try:
        return _CHOICES.validate_python(document)
    except ValidationError as error:
        where = ".".join(str(step) for step in error.errors()[0]["loc"])
        raise RuleError(f"The choices cannot be read ({where}). Nothing was brought in.") from None


def _read(choices: Choices) -> Artwork:
    files = [replace(foreign(file), **_as_chosen(choices, number)) for number, file in enumerate(request_files())]
    return read(jobs.artwork, files)


def _as_chosen(choices: Choices, number: int) -> dict[str, Any]:
    opened, marks = choices.for_file(number)
    return {"opened": opened, "marks": marks}


@api.post("/artwork/layers")
def layers() -> dict[str, Any]:
    """The layers of files as they would come in, each with its picture; nothing is stored."""
    document = parsed_json(request.form.get("opened", "[]"))
    if not isinstance(document, list):
        raise RuleError("The list of opened layers cannot be read. Nothing was brought in.")
    artwork = _read(Choices(opened=tuple(map(str, document))))
    library().hold_art(artwork)
    found = [
        {
            "path": piece.path, "name": piece.name, "art": piece.content_hash, "box": piece.box, "bounds": piece.bounds,
            "inner": len(piece.inner), "marks": piece.marks,
        }
        for piece in artwork.pieces
    ]  # fmt: skip
    return {"width": artwork.width, "height": artwork.height, "layers": found, "notes": list(artwork.notes)}


@api.post("/scenes/<scene_id>/artwork")
def bring_in(scene_id: str) -> dict[str, Any]:
    """Bring artwork files in; all of them or, where one cannot be read, none. One row of undo a request.

    The form field `choices` says which layers are taken and how they are registered, scaled and placed.
    """
    known = library().scenes.load(scene_id)
    version = version_of({"version": request.form.get("version", type=int)})
    choices = _choices(request.form.get("choices"))
    artwork = _read(choices)
    kept, ids = library().bring_in(scene_id, version, artwork, choices)
    answer = kept_answer(known.scene, kept, frame_of(request.form.get("frame")))
    return {**answer, "added": ids, "notes": list(artwork.notes)}


@api.post("/drawings")
def one_drawing() -> dict[str, Any]:
    """A file as one drawing, its art at hand: what edits that add or replace drawings take."""
    artwork = read(jobs.artwork, [foreign(request_files()[0])], True)
    library().hold_art(artwork)
    return {"drawing": drawing_document(drawing_of(artwork.pieces[0], artwork, new_id())), "notes": list(artwork.notes)}


def _again(scene: Scene) -> Artwork:
    file = foreign(request_files()[0])
    return read(jobs.artwork_again, file, origins(scene, file.name))


@api.post("/scenes/<scene_id>/artwork/compare")
def compare(scene_id: str) -> dict[str, Any]:
    """What bringing a changed file in again would do, layer by layer; nothing is changed."""
    scene = library().scenes.load(scene_id).scene
    found = compared(scene, _again(scene))
    return {"layers": [{"name": change.name, "state": change.state} for change in found]}


@api.post("/scenes/<scene_id>/artwork/update")
def update(scene_id: str) -> dict[str, Any]:
    """Bring a changed file in again: arts are exchanged by the names of their layers, the rig stays."""
    known = library().scenes.load(scene_id)
    version = version_of({"version": request.form.get("version", type=int)})
    fit = request.form.get("fit", "registration")
    if fit not in ("registration", "box"):
        raise RuleError("New art is laid by its registration or fitted to the old box. Nothing was changed.")
    kept, changes = library().bring_in_again(scene_id, version, _again(known.scene), cast(Fit, fit))
    states = [change.state for change in changes]
    changed, new = counted(states.count("changed"), "changed layer"), counted(states.count("new"), "new part")
    words = f"{changed} and {new} came in; the rig is as it was."
    return {**kept_answer(known.scene, kept, frame_of(request.form.get("frame"))), "words": words}
