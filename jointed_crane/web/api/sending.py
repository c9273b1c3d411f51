"""Sending a scene out as a file to download."""

from __future__ import annotations

import re

from flask import Blueprint, Response

from jointed_crane.formats.bundle import bundle_bytes
from jointed_crane.formats.excerpt import excerpt
from jointed_crane.formats.svg_out import carrying
from jointed_crane.formats.svg_out.animated import animated_svg
from jointed_crane.web.a_few_at_once import a_few_at_once
from jointed_crane.web.api.answer_models import Notes
from jointed_crane.web.api.contract import contract
from jointed_crane.web.api.models import NoQuery, SpanQuery
from jointed_crane.web.library import library
from jointed_crane.web.security import inert

api = Blueprint("sending", __name__, url_prefix="/api")


@api.get("/scenes/<scene_id>/notes")
@contract(query=NoQuery, gives=Notes)
def notes(scene_id: str, query: NoQuery) -> dict[str, list[str]]:
    """What an animated SVG of the scene cannot carry as it is."""
    kept = library().scenes.load(scene_id)
    return {"notes": carrying.notes(kept.scene)}


@api.get("/scenes/<scene_id>/send/svg")
@inert
@contract(query=SpanQuery, gives="image/svg+xml")
@a_few_at_once
def send_svg(scene_id: str, query: SpanQuery) -> Response:
    """One self-contained animated SVG, of all frames or of a span of them."""
    kept = library().scenes.load(scene_id)
    last = kept.scene.length - 1 if query.last is None else query.last
    scene = excerpt(kept.scene, query.first, last)
    spans = {(marker.frame, marker.until): f"{kept.scene.name} {marker.name}" for marker in kept.scene.markers}
    name = spans.get((float(query.first), float(last)), kept.scene.name)
    return _download(animated_svg(scene, library().assets.get), "image/svg+xml", name, "svg")


@api.get("/scenes/<scene_id>/send/zip")
@inert
@contract(query=NoQuery, gives="application/zip")
@a_few_at_once
def send_zip(scene_id: str, query: NoQuery) -> Response:
    """The scene as a zip of JSON and art."""
    kept = library().scenes.load(scene_id)
    return _download(bundle_bytes(kept.scene, library().assets.get), "application/zip", kept.scene.name, "zip")


def _download(data: bytes, media_type: str, name: str, ending: str) -> Response:
    return as_download(Response(data, content_type=media_type), f"{name}.{ending}")


def as_download(answer: Response, name: str) -> Response:
    """An answer that a browser saves under a name of plain letters."""
    stem, _, ending = name.rpartition(".")
    plain = re.sub(r"[^A-Za-z0-9]+", "-", stem).strip("-").lower() or "scene"
    answer.headers["Content-Disposition"] = f'attachment; filename="{plain}.{ending}"'
    return answer
