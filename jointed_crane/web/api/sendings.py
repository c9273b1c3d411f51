"""Sending beside everything else: a queue of what is sent, its files, and what sending would come to."""

from __future__ import annotations

import io
from collections.abc import Mapping
from dataclasses import asdict
from typing import Any, cast

from flask import Blueprint, Response, current_app, send_file
from PIL import Image

from jointed_crane.core.model.scene import Scene
from jointed_crane.reading import jobs as reading_jobs
from jointed_crane.sending import jobs
from jointed_crane.sending.bounds import SENDING
from jointed_crane.sending.choices.base import WayChoices
from jointed_crane.sending.filling import Filling
from jointed_crane.sending.presets import Preset
from jointed_crane.sending.sender import Sender
from jointed_crane.sending.variants import slots_of
from jointed_crane.sending.ways import WAYS, WayOut, way_named
from jointed_crane.store.library import new_id
from jointed_crane.store.sendings import Sending, SendingMissing
from jointed_crane.web.api.answer_models.answer import Named
from jointed_crane.web.api.answer_models.files import TableAnswer
from jointed_crane.web.api.answer_models.sending import ForecastAnswer, PresetsAnswer, SendingAnswer, SendingsAnswer
from jointed_crane.web.api.contract import contract
from jointed_crane.web.api.models import (
    NoForm,
    NoQuery,
    Nothing,
    PictureQuery,
    PresetsBody,
    SendAgain,
    SendBody,
    VariantBody,
)
from jointed_crane.web.api.reading import foreign, read, request_files
from jointed_crane.web.api.sending import as_download, made
from jointed_crane.web.api.work import done
from jointed_crane.web.library import library
from jointed_crane.web.security import inert

api = Blueprint("sendings", __name__, url_prefix="/api")

_PRESETS = "presets"
#: How wide the picture of something is that is sent, px.
_PICTURE_WIDTH = 640


def sender() -> Sender:
    """This application's hand in the queue of its library."""
    return cast(Sender, current_app.extensions["sender"])


def own_presets() -> list[Preset]:
    """Choices that people keep under names."""
    return [Preset(**one) for one in library().settings.get(_PRESETS) or []]


def row_of(sending: Sending) -> dict[str, Any]:
    """A sending as it is answered."""
    told = asdict(sending)
    rows = len(told.pop("filling").get("rows", ()))
    made_at = sending.made_at.isoformat(timespec="seconds") + "Z"
    return {**told, "rows": rows, "made_at": made_at, "words": WAYS[sending.way].words}


@api.get("/scenes/<scene_id>/sendings")
@contract(query=NoQuery, gives=SendingsAnswer)
def look(scene_id: str, query: NoQuery) -> dict[str, Any]:
    """What of a scene is being sent and was, the newest first."""
    library().scenes.load(scene_id)
    return {"sendings": [row_of(one) for one in library().sendings.of_scene(scene_id)]}


@api.post("/scenes/<scene_id>/sendings")
@contract(body=SendBody, gives=SendingAnswer, status=201)
def send(scene_id: str, body: SendBody) -> dict[str, Any]:
    """Begin to send a scene as it is now; with a table a file for each of its rows, in a zip."""
    return _begun(scene_id, body.way, body.choices, {} if body.filling is None else body.filling.model_dump())


def _begun(scene_id: str, way_name: str, given: Mapping[str, Any], filling: Mapping[str, Any]) -> dict[str, Any]:
    entry = library().scenes.load(scene_id)
    way, choices = _chosen(way_name, given)
    name = way.file_name(entry.scene, choices)
    if filling:
        _ensure_fills(entry.scene, filling, way)
        name = f"{choices.name_for(entry.scene)} by table.zip"
    return _added(entry.scene, entry.version, way_name, given, name, filling)


def _ensure_fills(scene: Scene, filling: Mapping[str, Any], way: WayOut) -> Filling:
    """The table, the art of its pictures stored; RuleError where a column fills nothing, or names are not apart."""
    result = Filling.read(filling)
    result.file_names(way.ending)
    for column in dict.fromkeys(column for row in result.rows for column in row):
        slots_of(scene, column)
    library().assets.put([library().assets.get(name) for name in result.art])
    return result


def _added(
    scene: Scene, version: int, way: str, given: Mapping[str, Any], name: str, filling: Mapping[str, Any]
) -> dict[str, Any]:
    art = Filling.read(filling).art if filling else ()
    result = library().sendings.add(new_id(), scene, version, way, given, name, filling, art)
    sender().wake()
    return row_of(result)


@api.post("/scenes/<scene_id>/variant")
@inert
@contract(body=VariantBody, gives="application/octet-stream")
def variant(scene_id: str, body: VariantBody) -> Response:
    """The file of a scene that the first row of a table has filled; nothing is kept."""
    scene = library().scenes.load(scene_id).scene
    way, choices = _chosen(body.way, body.choices)
    filling = _ensure_fills(scene, body.filling.model_dump(), way)
    return made(scene_id, way, way.file_name(scene, choices), jobs.variant_sent, choices, filling)


@api.post("/tables")
@contract(form=NoForm, has_files=True, gives=TableAnswer)
def table(form: NoForm) -> dict[str, Any]:
    """A table of variants, read; nothing is kept."""
    rows = read(reading_jobs.table, foreign(request_files()[0], "table.csv"))
    return {"columns": list(dict.fromkeys(column for row in rows for column in row)), "rows": rows}


def _chosen(name: str, given: Mapping[str, Any]) -> tuple[WayOut, WayChoices]:
    way = way_named(name)
    return way, way.chosen(given)


@api.post("/scenes/<scene_id>/forecast")
@contract(body=SendBody, gives=ForecastAnswer)
def foretell(scene_id: str, body: SendBody) -> dict[str, Any]:
    """What sending would come to, from a few frames drawn, and what cannot be carried."""
    _, choices = _chosen(body.way, body.choices)
    return asdict(done(SENDING, jobs.foretold, jobs.Order(scene_id, library().assets.address, ""), choices))


@api.post("/sendings/<sending_id>/stop")
@contract(body=Nothing, gives=SendingAnswer)
def stop(sending_id: str, body: Nothing) -> dict[str, Any]:
    """Work on it no more; what is drawn is kept."""
    return row_of(library().sendings.stop(sending_id))


@api.post("/sendings/<sending_id>/go-on")
@contract(body=Nothing, gives=SendingAnswer)
def go_on(sending_id: str, body: Nothing) -> dict[str, Any]:
    """Take it up again where it stood."""
    result = library().sendings.go_on(sending_id)
    sender().wake()
    return row_of(result)


@api.post("/sendings/<sending_id>/again")
@contract(body=SendAgain, gives=SendingAnswer, status=201)
def again(sending_id: str, body: SendAgain) -> dict[str, Any]:
    """Send the same once more, from the scene as it was then or as it is now."""
    known = library().sendings.get(sending_id)
    if body.from_now:
        return _begun(known.scene_id, known.way, known.choices, known.filling)
    scene = library().sendings.scene(sending_id)
    return _added(scene, known.scene_version, known.way, known.choices, known.file_name, known.filling)


@api.post("/sendings/<sending_id>/delete")
@contract(body=Nothing, gives=Named)
def remove(sending_id: str, body: Nothing) -> dict[str, Any]:
    """Take it and its file away, for good when another is sent or the app is started anew."""
    known = library().sendings.get(sending_id)
    library().sendings.delete(sending_id)
    return {"name": known.file_name}


@api.post("/sendings/<sending_id>/restore")
@contract(body=Nothing, gives=SendingAnswer)
def restore(sending_id: str, body: Nothing) -> dict[str, Any]:
    """Have it be there again after it was deleted."""
    return row_of(library().sendings.restore(sending_id))


@api.get("/sendings/<sending_id>/file")
@inert
@contract(query=NoQuery, gives="application/octet-stream")
def download(sending_id: str, query: NoQuery) -> Response:
    """The file of what was sent."""
    known = library().sendings.get(sending_id)
    path = sender().file(known)
    if known.state != "done" or not path.exists():
        raise SendingMissing("There is no file of it yet, or any more. Send it again.")
    media_type = "application/zip" if known.filling else WAYS[known.way].media_type
    answer = send_file(path, mimetype=media_type, conditional=True)
    return as_download(answer, known.file_name)


@api.get("/sendings/<sending_id>/picture")
@inert
@contract(query=PictureQuery, gives="image/png")
def picture(sending_id: str, query: PictureQuery) -> Response:
    """The last frame that was drawn of it."""
    known = library().sendings.get(sending_id)
    pixels = sender().newest_frame(known)
    if pixels is None:
        raise SendingMissing("No frame of it is drawn yet. Look again in a moment.")
    image = Image.fromarray(pixels, "RGBa").convert("RGBA")
    image.thumbnail((_PICTURE_WIDTH, _PICTURE_WIDTH), reducing_gap=2.0)
    stream = io.BytesIO()
    image.save(stream, "PNG", compress_level=1)
    return Response(stream.getvalue(), content_type="image/png")


@api.get("/presets")
@contract(query=NoQuery, gives=PresetsAnswer)
def presets(query: NoQuery) -> dict[str, Any]:
    """Choices that people keep under names."""
    return {"presets": [asdict(one) for one in own_presets()]}


@api.post("/presets")
@contract(body=PresetsBody, gives=PresetsAnswer)
def put_presets(body: PresetsBody) -> dict[str, Any]:
    """Keep these choices under names, and no others."""
    for one in body.presets:
        _chosen(one.way, one.choices)
    result = [one.model_dump() for one in body.presets]
    library().settings.put(_PRESETS, result)
    return {"presets": result}
