"""Scripts, styles, fonts and signs: sent beside the views, under an address that changes with them.

A browser keeps them for good and asks for none of them when a page is opened again; after an update the pages name
other addresses. Scripts name each other relative to themselves, so the address stands here alone.
"""

from __future__ import annotations

import hashlib
from pathlib import Path
from wsgiref.headers import Headers

from flask import Flask
from whitenoise import WhiteNoise

_WEB = Path(__file__).parent


def _version() -> str:
    result = hashlib.sha256()
    for path in sorted(path for path in _WEB.glob("**/static/**/*") if path.is_file()):
        result.update(path.relative_to(_WEB).as_posix().encode() + b"\0" + path.read_bytes())
    return result.hexdigest()[:12]


#: Where all of them lie.
ADDRESS = f"/static/{_version()}"


def room_address(room: str) -> str:
    """Where the files of one room lie."""
    return f"{ADDRESS}/{room}"


def send_static_files(app: Flask) -> None:
    """Have the files of the application and its rooms sent before a request reaches it, which they do not need.

    The rooms have to be registered already.
    """
    files = WhiteNoise(
        app.wsgi_app,
        allow_all_origins=False,
        immutable_file_test=lambda _path, _url: True,
        add_headers_function=_protect,
    )
    for holder in (app, *app.blueprints.values()):
        if holder.static_folder is not None:
            files.add_files(holder.static_folder, prefix=holder.static_url_path)
    app.wsgi_app = files  # type: ignore[method-assign]


def _protect(headers: Headers, _path: str, _url: str) -> None:
    headers["X-Content-Type-Options"] = "nosniff"
    headers["Content-Security-Policy"] = "default-src 'none'"  # for a sign that is opened on its own
