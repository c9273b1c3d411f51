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
#: Folders of static files by the room that they belong to, under which they have their address; "" is for all rooms.
_FOLDERS = {
    "": _WEB / "static",
    "bench": _WEB / "bench" / "static",
    "check": _WEB / "check" / "static",
    "map": _WEB / "joint_map" / "static",
    "shelf": _WEB / "shelf" / "static",
}


def _version() -> str:
    found = hashlib.sha256()
    for folder in _FOLDERS.values():
        for path in sorted(folder.rglob("*.*")):
            found.update(path.relative_to(_WEB).as_posix().encode() + b"\0" + path.read_bytes())
    return found.hexdigest()[:12]


#: Where all of them lie.
ADDRESS = f"/static/{_version()}"


def room_address(room: str) -> str:
    """Where the files of one room lie."""
    return f"{ADDRESS}/{room}"


def send_static_files(app: Flask) -> None:
    """Have the files sent before a request reaches the application: nothing of it is needed for them."""
    files = WhiteNoise(
        app.wsgi_app,
        allow_all_origins=False,
        immutable_file_test=lambda _path, _url: True,
        add_headers_function=_protect,
    )
    for room, folder in _FOLDERS.items():
        files.add_files(folder, prefix=room_address(room))
    app.wsgi_app = files  # type: ignore[method-assign]


def _protect(headers: Headers, _path: str, _url: str) -> None:
    headers["X-Content-Type-Options"] = "nosniff"
    headers["Content-Security-Policy"] = "default-src 'none'"  # for a sign that is opened on its own
