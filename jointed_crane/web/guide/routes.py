"""The guide's pages, its drawing, and the scenes that "Try it here" puts on the shelf."""

from __future__ import annotations

from typing import Any

from flask import Blueprint, Response, abort, render_template, send_file

from jointed_crane.web.api.answer_models.changes import Made
from jointed_crane.web.api.answers import history_document
from jointed_crane.web.api.contract import contract
from jointed_crane.web.api.models import Nothing
from jointed_crane.web.guide.lessons import Lesson, lessons
from jointed_crane.web.guide.starts import DRAWING, begun
from jointed_crane.web.library import library
from jointed_crane.web.static_files import room_address

pages = Blueprint(
    "guide", __name__, template_folder="templates", static_folder="static", static_url_path=room_address("guide")
)


@pages.get("/guide")
def contents() -> str:
    """All pages with what each is about."""
    return render_template("guide/contents.html", lessons=lessons())


@pages.get("/guide/<slug>")
def page(slug: str) -> str:
    """One page: numbered sentences, and a scene to try them on."""
    lesson = _lesson(slug)
    every = lessons()
    place = every.index(lesson)
    after = every[place + 1] if place + 1 < len(every) else None
    return render_template("guide/lesson.html", lesson=lesson, number=place + 1, count=len(every), after=after)


@pages.get("/guide/drawing")
def drawing() -> Response:
    """The drawing of the guide, to be saved and brought in."""
    return send_file(DRAWING, "image/svg+xml", as_attachment=True, download_name=DRAWING.name)


@pages.post("/api/guide/<slug>")
@contract(body=Nothing, gives=Made, status=201)
def try_it(slug: str, body: Nothing) -> dict[str, Any]:
    """Put the scene on the shelf that a page of the guide begins with."""
    lesson = _lesson(slug)
    scene, artwork = begun(lesson.start, lesson.title)
    entry = library().put_new(scene, "Make", artwork)
    return {"id": entry.scene.id, **history_document(entry), "notes": []}


def _lesson(slug: str) -> Lesson:
    lesson = next((lesson for lesson in lessons() if lesson.slug == slug), None)
    if lesson is None:
        abort(404)
    return lesson
