"""The files of a request, read by workers; whoever sent them can see how far it has come and stop it."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, TypeVar, cast

from flask import Blueprint, current_app, request
from werkzeug.datastructures import FileStorage

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.edits import Edit
from jointed_crane.core.model.forms import Text
from jointed_crane.formats.lettering import FONT_TYPE, SHIPPED, no_typeface, with_outlines
from jointed_crane.reading import jobs
from jointed_crane.reading.foreign_file import ForeignFile
from jointed_crane.reading.reader import Reader, Task
from jointed_crane.web.api.answer_models import ReadingAnswer, StopAnswer
from jointed_crane.web.api.contract import contract
from jointed_crane.web.api.models import NoQuery, Nothing
from jointed_crane.web.library import library

api = Blueprint("reading", __name__, url_prefix="/api/reading")

Found = TypeVar("Found")
#: The header by which a page names a reading, so that it can ask for it and stop it.
HEADER = "X-Reading"


def _tasks() -> dict[str, Task]:
    return cast("dict[str, Task]", current_app.extensions["reading_tasks"])


def read(job: Callable[..., Found], *args: Any) -> Found:
    """What a worker finds in foreign bytes; ends when the page that asked leaves or stops it."""
    reader = cast(Reader, current_app.extensions["reader"])
    task = Task(request.environ.get("waitress.client_disconnected", lambda: False))
    name = request.headers.get(HEADER, "")[:64]
    if not name:
        return reader.read(job, *args, task=task)
    _tasks()[name] = task
    try:
        return reader.read(job, *args, task=task)
    finally:
        _tasks().pop(name, None)


def request_files() -> list[FileStorage]:
    """The files of a form, at least one."""
    files = request.files.getlist("files")
    if not files:
        raise RuleError("No file came with the request. Nothing was brought in.")
    return files


def foreign(file: FileStorage, otherwise: str = "artwork") -> ForeignFile:
    """A file of a form with its name, `otherwise` where it has none."""
    return ForeignFile(file.read(), (file.filename or otherwise)[:200])


def outlined(edits: list[Edit]) -> list[Edit]:
    """Edits with the outlines of every text they bring; uploaded fonts are foreign and read by a worker."""

    def lettered(text: Text) -> Text:
        media_type, data = library().assets.get(text.font)
        if media_type != FONT_TYPE:
            raise no_typeface(text.font)
        return read(jobs.letters, text, data)

    return with_outlines(edits, lambda text: None if text.font in SHIPPED else lettered(text))


@api.get("/<name>")
@contract(query=NoQuery, gives=ReadingAnswer)
def progress(name: str, query: NoQuery) -> dict[str, Any]:
    """How far the reading that a page named has come; `of` is 0 where nothing is known."""
    task = _tasks().get(name)
    told = task.progress if task else None
    done, of, what = told or (0, 0, "")
    return {"is_reading": task is not None, "done": done, "of": of, "what": what}


@api.post("/<name>/stop")
@contract(body=Nothing, gives=StopAnswer)
def stop(name: str, body: Nothing) -> dict[str, Any]:
    """End a reading; nothing of the file is kept."""
    task = _tasks().get(name)
    if task is not None:
        task.stop()
    return {"was_reading": task is not None}
