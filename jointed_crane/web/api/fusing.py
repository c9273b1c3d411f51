"""Fusing and splitting in the API: the pictures are put together and taken apart by workers, then the edit is kept."""

from __future__ import annotations

from typing import Any

from flask import Blueprint

from jointed_crane.core.edits.pictures.fusing import Fuse, Split, ensure_splittable, layers, one_piece, staying
from jointed_crane.formats.artwork import drawing_of
from jointed_crane.formats.svg_out.fusion import fused_svg
from jointed_crane.reading import jobs
from jointed_crane.reading.foreign_file import ForeignFile
from jointed_crane.store.library import new_id
from jointed_crane.web.api.answer_models.changes import ChangeAnswer
from jointed_crane.web.api.contract import contract
from jointed_crane.web.api.models import FuseParts, SplitPart
from jointed_crane.web.api.reading import read
from jointed_crane.web.api.scenes import answer_of_edits
from jointed_crane.web.library import library

api = Blueprint("fusing", __name__, url_prefix="/api")


@api.post("/scenes/<scene_id>/fuse")
@contract(body=FuseParts, gives=ChangeAnswer)
def fuse(scene_id: str, body: FuseParts) -> dict[str, Any]:
    """Make parts one, their pictures in painting order; the last named stays, or what is uppermost above it."""
    scene = library().scenes.load(scene_id).scene
    data, (left, top, _, _) = fused_svg(layers(scene, body.parts, body.frame), library().assets.get)
    name = staying(scene, body.parts).name
    artwork = read(jobs.one_piece, ForeignFile(data, name))
    (piece,) = artwork.pieces
    drawing = drawing_of(piece, artwork, new_id()).with_zero_moved((-left, -top))
    edit = Fuse(tuple(body.parts), drawing, body.frame)
    art = [(piece.media_type, piece.data)]
    return answer_of_edits(library().scenes.changed(scene_id, body.version, [edit], art=art), body.frame)


@api.post("/scenes/<scene_id>/split")
@contract(body=SplitPart, gives=ChangeAnswer)
def split(scene_id: str, body: SplitPart) -> dict[str, Any]:
    """Make a part the pieces of its picture; each stands and moves as the part did."""
    scene = library().scenes.load(scene_id).scene
    part = scene.part(body.part)
    ensure_splittable(part)
    media_type, data = library().assets.get(part.drawings[0].art)
    id_prefix = new_id()
    cuts = read(jobs.pieces, data, part.drawings[0], id_prefix) if media_type == "image/svg+xml" else []
    if not cuts:
        raise one_piece(part)
    edit = Split(part.id, tuple(cut.drawing for cut in cuts), id_prefix, body.frame)
    art = [(media_type, cut.data) for cut in cuts]
    return answer_of_edits(library().scenes.changed(scene_id, body.version, [edit], art=art), body.frame)
