"""The web application: pages, the API behind them, and what keeps both safe."""

from __future__ import annotations

import hashlib
import logging
import os
import re
import secrets
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

from flask import Flask
from flask.json.provider import DefaultJSONProvider
from pydantic_core import to_json

from jointed_crane.core.basics.limits import MOST_REQUEST_BYTES
from jointed_crane.reading.read_before import ReadBefore
from jointed_crane.sending.sender import Sender
from jointed_crane.store.database import is_writable
from jointed_crane.store.library import Library
from jointed_crane.web import art, problems, security
from jointed_crane.web.api import artwork, fusing, keys, rig, scenes, sending, sendings, work
from jointed_crane.web.api.motion import blocks, courses, evaluation, views
from jointed_crane.web.bench import routes as bench
from jointed_crane.web.check import routes as check
from jointed_crane.web.docs import routes as docs
from jointed_crane.web.guide import routes as guide
from jointed_crane.web.joint_map import routes as joint_map
from jointed_crane.web.send_out import routes as send_out
from jointed_crane.web.shelf import routes as shelf
from jointed_crane.web.static_files import ADDRESS, send_static_files
from jointed_crane.work.workers import Workers

#: What workers have loaded before they are asked for anything.
JOBS = ("jointed_crane.reading.jobs", "jointed_crane.sending.jobs")

#: What a session key looks like.
_KEY = re.compile(rb"[0-9a-f]{64}")


def create_app(
    folder: Path,
    examples: Callable[[Library], list[str]] | None = None,
    workers: Workers | None = None,
    farm: str = "",
) -> Flask:
    """The application for one data folder; `examples` puts example scenes on a shelf and returns their names.

    `workers` do what may take long; without them the application has its own. `farm` is the address of a scheduler
    whose workers draw frames.
    """
    app = Flask(__name__, static_url_path=ADDRESS)
    app.json = _FastJson(app)
    secret = _secret(folder)
    mark = hashlib.sha256(secret.encode()).hexdigest()[:12]
    app.config.update(
        SECRET_KEY=secret,
        DATA_FOLDER=str(folder),
        LIBRARY_MARK=mark,
        # A browser sends cookies to every port of a host: each library has a session of its own name.
        SESSION_COOKIE_NAME=f"jointed-crane-{mark}",
        MAX_CONTENT_LENGTH=MOST_REQUEST_BYTES,
        MAX_FORM_MEMORY_SIZE=1_000_000,
        # A bench stays open all day; its token lasts as long as its session.
        WTF_CSRF_TIME_LIMIT=None,
        TRUSTED_HOSTS=["localhost", "127.0.0.1"],
    )
    app.extensions["library"] = Library(folder)
    app.extensions["examples"] = examples
    app.extensions["workers"] = workers or Workers(modules=JOBS)
    app.extensions["sender"] = Sender(app.extensions["library"], app.extensions["workers"], farm)
    app.extensions["tasks"] = {}
    app.extensions["read_before"] = ReadBefore()
    security.protect(app)
    problems.register(app)
    for room in (shelf, bench, send_out, joint_map, check, docs, guide, art):
        app.register_blueprint(room.pages)
    for room in (scenes, artwork, fusing, evaluation, blocks, views, courses, keys, rig, sending, sendings, work):
        app.register_blueprint(room.api)
    send_static_files(app)
    return app


class _FastJson(DefaultJSONProvider):
    """Writes answers with pydantic's own writer: a preview of 200 parts has to go out within a frame."""

    def dumps(self, obj: Any, **kwargs: Any) -> str:
        """Any JSON values as text."""
        return to_json(obj).decode()


def _secret(folder: Path) -> str:
    """The key that signs sessions: made once for a data folder, readable by its owner only.

    It is written aside and put in its place whole, so that no moment leaves an empty one behind; what is not ours is
    made anew, which the log tells. In a folder that is read-only it lasts as long as the server.
    """
    path = folder / "session.key"
    known = path.read_bytes() if path.exists() else b""
    if _KEY.fullmatch(known):
        return known.decode()
    secret = secrets.token_hex(32)
    if not is_writable(folder):
        return secret
    if known:
        logging.getLogger(__name__).warning("The session key in %s was not one; it is made anew.", folder)
    folder.mkdir(parents=True, exist_ok=True)
    with tempfile.NamedTemporaryFile("w", dir=folder, prefix="session.", delete=False) as aside:
        aside.write(secret)
    os.chmod(aside.name, 0o600)
    os.replace(aside.name, path)
    return secret
