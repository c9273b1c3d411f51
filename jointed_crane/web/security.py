"""What every answer carries: a content security policy, no sniffing, no framing; and CSRF on every change."""

from __future__ import annotations

from typing import Any

from flask import Flask
from flask_talisman import Talisman
from flask_wtf.csrf import CSRFProtect

POLICY = {
    "default-src": "'none'",
    "script-src": "'self'",
    "style-src": "'self'",
    "font-src": "'self'",
    "img-src": "'self' blob:",
    "media-src": "'self'",
    "connect-src": "'self'",
    "form-action": "'self'",
    "frame-ancestors": "'none'",
    "base-uri": "'none'",
}


#: For pictures and downloads: opened on their own they may do nothing at all.
INERT_POLICY = {"default-src": "'none'", "img-src": "data:", "sandbox": ""}

_talisman = Talisman()

#: Gives a view the inert policy instead of the page's.
inert = _talisman(content_security_policy=INERT_POLICY)


class _LoopbackNames:
    """Names of this machine in the one way in which trusted hosts are compared: in small letters, and "[::1]", of which
    that comparison sees the bracket alone, as "localhost".
    """

    def __init__(self, app: Any) -> None:
        self._app = app

    def __call__(self, environ: Any, start_response: Any) -> Any:
        host = environ.get("HTTP_HOST")
        if host:
            host = host.lower()
            address, _, port = host.partition("]")
            environ["HTTP_HOST"] = f"localhost{port}" if address == "[::1" else host
        return self._app(environ, start_response)


def protect(app: Flask) -> None:
    """Put the protections on an application."""
    app.wsgi_app = _LoopbackNames(app.wsgi_app)  # type: ignore[method-assign]
    # The server speaks plain HTTP on loopback; there is no certificate to force.
    _talisman.init_app(
        app,
        force_https=False,
        strict_transport_security=False,
        session_cookie_secure=False,
        session_cookie_samesite="Strict",
        content_security_policy=POLICY,
        referrer_policy="same-origin",
        frame_options="DENY",
    )
    CSRFProtect(app)
