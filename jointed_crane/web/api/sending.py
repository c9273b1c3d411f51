"""Sending a scene out as a file to download."""

from __future__ import annotations

import os
import re
import tempfile
from collections.abc import Callable

from flask import Blueprint, Response, request
from werkzeug.wsgi import wrap_file

from jointed_crane.formats.svg_out import carrying
from jointed_crane.sending import jobs
from jointed_crane.sending.bounds import SENDING
from jointed_crane.web.api.answer_models import Notes
from jointed_crane.web.api.contract import contract
from jointed_crane.web.api.models import NoQuery, SpanQuery
from jointed_crane.web.api.work import done
from jointed_crane.web.library import library
from jointed_crane.web.security import inert

api = Blueprint("sending", __name__, url_prefix="/api")


@api.get("/scenes/<scene_id>/notes")
@contract(query=NoQuery, gives=Notes)
def notes(scene_id: str, query: NoQuery) -> dict[str, list[str]]:
    """What an animated SVG of the scene cannot carry as it is."""
    entry = library().scenes.load(scene_id)
    return {"notes": carrying.notes(entry.scene)}


@api.get("/scenes/<scene_id>/send/svg")
@inert
@contract(query=SpanQuery, gives="image/svg+xml")
def send_svg(scene_id: str, query: SpanQuery) -> Response:
    """One self-contained animated SVG, of all frames or of a span of them."""
    entry = library().scenes.load(scene_id)
    last = entry.scene.length - 1 if query.last is None else query.last
    spans = {(marker.frame, marker.until): f"{entry.scene.name} {marker.name}" for marker in entry.scene.markers}
    name = spans.get((float(query.first), float(last)), entry.scene.name)
    return _made(scene_id, jobs.svg, query.first, last, media_type="image/svg+xml", name=f"{name}.svg")


@api.get("/scenes/<scene_id>/send/zip")
@inert
@contract(query=NoQuery, gives="application/zip")
def send_zip(scene_id: str, query: NoQuery) -> Response:
    """The scene as a zip of JSON and art."""
    entry = library().scenes.load(scene_id)
    return _made(scene_id, jobs.bundle, media_type="application/zip", name=f"{entry.scene.name}.zip")


def _made(scene_id: str, job: Callable[..., None], *args: int, media_type: str, name: str) -> Response:
    """A file as a worker writes it. It has no name in any folder, so that it is gone with whoever holds it open."""
    file = tempfile.TemporaryFile()  # noqa: SIM115 - whoever sends it closes it
    try:
        order = jobs.Order(scene_id, library().assets.address, f"/proc/{os.getpid()}/fd/{file.fileno()}")
        done(SENDING, job, order, *args)
        size = os.fstat(file.fileno()).st_size
    except BaseException:
        file.close()
        raise
    answer = Response(wrap_file(request.environ, file), content_type=media_type, direct_passthrough=True)
    answer.content_length = size
    return as_download(answer, name)


def as_download(answer: Response, name: str) -> Response:
    """An answer that a browser saves under a name of plain letters."""
    stem, _, ending = name.rpartition(".")
    plain = re.sub(r"[^A-Za-z0-9]+", "-", stem).strip("-").lower() or "scene"
    answer.headers["Content-Disposition"] = f'attachment; filename="{plain}.{ending}"'
    return answer
