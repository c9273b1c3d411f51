"""What every answer carries: a content security policy, no sniffing, no framing; and CSRF on every change."""

from __future__ import annotations

from flask import Flask
from flask_talisman import Talisman
from flask_wtf.csrf import CSRFProtect

POLICY = {
    "default-src": "'none'",
    "script-src": "'self'",
    "style-src": "'self'",
    "font-src": "'self'",
    "img-src": "'self' blob:",
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


def protect(app: Flask) -> None:
    """Put the protections on an application."""
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
