"""Every refusal as problem details (RFC 9457) with a sentence a user can act on; pages get it as a page."""

from __future__ import annotations

from pathlib import Path

from flask import Flask, Response, current_app, json, render_template, request
from flask.globals import request_ctx
from flask_wtf.csrf import CSRFError
from sqlalchemy.exc import DatabaseError
from werkzeug.exceptions import HTTPException

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.store.faults import FaultKind, fault_of
from jointed_crane.store.scenes import SceneMissing, StaleVersion
from jointed_crane.store.sendings import SendingMissing
from jointed_crane.work.workers import Busy

NO_TOKEN = "This page is not yours to change from here. Nothing was changed; load it anew."
TOO_LARGE = "That is too large: 64 MB at once is the most. Nothing was changed."
HEADERS_TOO_LONG = "The header of the request is too long. Nothing was changed."
_TOO_MANY_FILES = (
    "That is too many files at once: 1,000 are the most. Nothing was changed; bring them in in several goes."
)
_SENTENCES = {
    400: "The request could not be read. Nothing was changed.",
    403: NO_TOKEN,
    404: "There is nothing at this address. Go back to the shelf.",
    405: "That cannot be done at this address. Nothing was changed.",
    413: TOO_LARGE,
    415: "The request is not JSON. Nothing was changed.",
}


def register(app: Flask) -> None:
    """Answer errors of all kinds."""
    app.register_error_handler(RuleError, _refused)
    app.register_error_handler(HTTPException, _http)
    app.register_error_handler(DatabaseError, _disk)
    app.register_error_handler(OSError, _disk)
    app.register_error_handler(Exception, _unexpected)


def _refused(error: RuleError) -> Response | tuple[str, int]:
    if isinstance(error, StaleVersion):
        return _problem(409, "Out of date", str(error), version=error.version)
    if isinstance(error, Busy):
        return _problem(503, "Busy", str(error))
    if isinstance(error, SceneMissing):
        return _problem(404, "No such scene", str(error))
    if isinstance(error, SendingMissing):
        return _problem(404, "Not kept", str(error))
    return _problem(422, "Refused", str(error))


#: What is wrong with the disk as a status and a title.
_FAULTS: dict[FaultKind, tuple[int, str]] = {
    "busy": (503, "Busy"),
    "full": (507, "Disk full"),
    "read-only": (403, "Read-only"),
    "damaged": (503, "Library damaged"),
    "unreadable": (503, "Disk fault"),
}


def _disk(error: Exception) -> Response | tuple[str, int]:
    fault = fault_of(error, Path(current_app.config["DATA_FOLDER"]))
    if fault is None:
        return _unexpected(error)
    if fault.kind != "busy":
        current_app.logger.error("The disk at %s: %s", request.path, error)
    return _problem(*_FAULTS[fault.kind], fault.sentence)


def _http(error: HTTPException) -> Response | tuple[str, int]:
    status = error.code or 500
    if isinstance(error, CSRFError):
        return _problem(403, "Refused", _SENTENCES[403])
    if status == 413 and (request.content_length or 0) <= current_app.config["MAX_CONTENT_LENGTH"]:
        return _problem(status, "Too many files", _TOO_MANY_FILES)
    return _problem(status, error.name, _SENTENCES.get(status, "That did not work. Nothing was changed."))


def _unexpected(error: Exception) -> Response | tuple[str, int]:
    # A defect of ours: the log gets the trace, the user a sentence.
    current_app.logger.exception("Unexpected error at %s", request.path, exc_info=error)
    return _problem(500, "Defect", "Something went wrong inside the program. What was stored before is kept.")


def _problem(status: int, title: str, detail: str, **more: object) -> Response | tuple[str, int]:
    if request.path.startswith("/api/") or request.method != "GET":
        body = json.dumps({"type": "about:blank", "title": title, "status": status, "detail": detail, **more})
        return Response(body, status, content_type="application/problem+json")
    if request_ctx.url_adapter is None:  # a host that is turned away gets no page of ours
        return Response(detail, status, content_type="text/plain; charset=utf-8")
    return render_template("problem.html", title=title, detail=detail), status
