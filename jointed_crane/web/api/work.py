"""Work that may take long, done by workers; whoever asked for it can see how far it has come and stop it."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, TypeVar, cast

from flask import Blueprint, current_app, request

from jointed_crane.web.api.answer_models.sending import StopAnswer, WorkAnswer
from jointed_crane.web.api.contract import contract
from jointed_crane.web.api.models import NoQuery, Nothing
from jointed_crane.work.bounds import Bounds
from jointed_crane.work.workers import Task, Workers

api = Blueprint("work", __name__, url_prefix="/api/work")

Found = TypeVar("Found")
#: The header by which a page names work that it asks for, so that it can ask how far that is and stop it.
HEADER = "X-Work"


def _tasks() -> dict[str, Task]:
    return cast("dict[str, Task]", current_app.extensions["tasks"])


def done(bounds: Bounds, job: Callable[..., Found], *args: Any) -> Found:
    """What a worker makes of a job; ends when the page that asked leaves or stops it."""
    workers = cast(Workers, current_app.extensions["workers"])
    task = Task(request.environ.get("waitress.client_disconnected", lambda: False))
    name = request.headers.get(HEADER, "")[:64]
    if not name:
        return workers.do(bounds, job, *args, task=task)
    _tasks()[name] = task
    try:
        return workers.do(bounds, job, *args, task=task)
    finally:
        _tasks().pop(name, None)


@api.get("/<name>")
@contract(query=NoQuery, gives=WorkAnswer)
def progress(name: str, query: NoQuery) -> dict[str, Any]:
    """How far the work that a page named has come; `of` is 0 where nothing is known."""
    task = _tasks().get(name)
    told = task.progress if task else None
    done, of, what = told or (0, 0, "")
    return {"is_working": task is not None, "done": done, "of": of, "what": what}


@api.post("/<name>/stop")
@contract(body=Nothing, gives=StopAnswer)
def stop(name: str, body: Nothing) -> dict[str, Any]:
    """End work that a page named; nothing of it is kept."""
    task = _tasks().get(name)
    if task is not None:
        task.stop()
    return {"was_working": task is not None}
