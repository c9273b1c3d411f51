"""Sending a scene out as a file to download."""

from __future__ import annotations

import os
import re
import tempfile
from collections.abc import Callable

from flask import Blueprint, Response, request
from werkzeug.wsgi import wrap_file

from jointed_crane.sending import jobs
from jointed_crane.sending.bounds import SENDING
from jointed_crane.sending.choices.base import WayChoices
from jointed_crane.sending.choices.scenes import AnimatedSvg
from jointed_crane.sending.ways import WAYS, WayOut
from jointed_crane.web.api.answer_models.sending import Notes
from jointed_crane.web.api.contract import contract
from jointed_crane.web.api.models import NoQuery
from jointed_crane.web.api.work import done
from jointed_crane.web.library import library
from jointed_crane.web.security import inert

api = Blueprint("sending", __name__, url_prefix="/api")


@api.get("/scenes/<scene_id>/notes")
@contract(query=NoQuery, gives=Notes)
def notes(scene_id: str, query: NoQuery) -> dict[str, list[str]]:
    """What an animated SVG of the scene cannot carry as it is."""
    entry = library().scenes.load(scene_id)
    return {"notes": AnimatedSvg().notes(entry.scene, library().assets.get)}


def _sends(way: WayOut) -> None:
    """Give a way out its address, with what may be chosen as its query."""

    @inert
    @contract(query=way.choices, gives=way.media_type)
    def send(scene_id: str, query: WayChoices) -> Response:
        scene = library().scenes.load(scene_id).scene
        return made(scene_id, way, way.file_name(scene, query), jobs.sent, query)

    send.__doc__ = f"{way.words}: {way.use}. {way.choices.__doc__}"
    api.add_url_rule(f"/scenes/<scene_id>/send/{way.name}", f"send_{way.name}", send)


for _way in WAYS.values():
    _sends(_way)


def made(scene_id: str, way: WayOut, name: str, job: Callable[..., None], *given: object) -> Response:
    """A file as a job of a worker writes it. It has no name in any folder: it is gone with whoever holds it open."""
    file = tempfile.TemporaryFile()  # noqa: SIM115 - whoever sends it closes it
    try:
        path = f"/proc/{os.getpid()}/fd/{file.fileno()}"
        done(SENDING, job, jobs.Order(scene_id, library().assets.address, path), *given)
        size = os.fstat(file.fileno()).st_size
    except BaseException:
        file.close()
        raise
    answer = Response(wrap_file(request.environ, file), content_type=way.media_type, direct_passthrough=True)
    answer.content_length = size
    return as_download(answer, name)


def as_download(answer: Response, name: str) -> Response:
    """An answer that a browser saves under a name of plain letters."""
    stem, _, ending = name.rpartition(".")
    plain = re.sub(r"[^A-Za-z0-9]+", "-", stem).strip("-").lower() or "scene"
    answer.headers["Content-Disposition"] = f'attachment; filename="{plain}.{ending}"'
    return answer
