"""The server: what is too large, or comes without a token, is refused by its header, before any of it is taken in; and
who reads an answer slowly keeps nobody else waiting.
"""

from __future__ import annotations

import json

from flask import Flask
from waitress.channel import HTTPChannel
from waitress.parser import HTTPRequestParser
from waitress.server import TcpWSGIServer, create_server
from waitress.utilities import Error, RequestEntityTooLarge, RequestHeaderFieldsTooLarge

from jointed_crane.web.problems import HEADERS_TOO_LONG, NO_TOKEN, TOO_LARGE

#: No answer is as large as this, bytes.
_MOST_WAITING = 8_000_000_000
#: The header in which pages send their token.
_TOKEN = "X_CSRFTOKEN"


def server_of(app: Flask, port: int, connections: dict[int, object]) -> TcpWSGIServer:
    """A server on loopback. OSError where the port cannot be used."""
    # Many connections may lie idle; a look ahead at each tells when a page has left while its file is being read.
    server = create_server(
        app,
        map=connections,
        host="127.0.0.1",
        port=port,
        threads=24,
        connection_limit=2000,
        asyncore_use_poll=True,
        channel_request_lookahead=1,
        max_request_body_size=app.config["MAX_CONTENT_LENGTH"] + 1,
        # What a reader is slow to take waits in a file, and holds neither memory nor a thread.
        outbuf_high_watermark=_MOST_WAITING,
    )
    server.channel_class = _Channel
    return server


class _Refused(Error):
    """A request that is answered before its body is taken in, as problem details (RFC 9457)."""

    def __init__(self, code: int, reason: str, detail: str) -> None:
        super().__init__(detail)
        self.code, self.reason = code, reason

    def to_response(self, ident: str | None = None) -> tuple[str, list[tuple[str, str]], bytes]:
        """The status, the headers and the body of the answer."""
        document = {"type": "about:blank", "title": self.reason, "status": self.code, "detail": self.body}
        body = json.dumps(document).encode()
        headers = [
            ("Content-Length", str(len(body))),
            ("Content-Type", "application/problem+json"),
            ("Connection", "close"),
            ("X-Content-Type-Options", "nosniff"),
        ]
        return f"{self.code} {self.reason}", headers, body


class _Parser(HTTPRequestParser):
    """Looks at the header of a request before its body comes."""

    error: Error | None

    def received(self, data: bytes) -> int:
        """How much of the data belonged to this request."""
        begins = not self.headers_finished
        consumed: int = super().received(data)
        if isinstance(self.error, RequestEntityTooLarge):
            self.error = _Refused(413, "Too large", TOO_LARGE)
        elif isinstance(self.error, RequestHeaderFieldsTooLarge):
            self.error = _Refused(431, "Header too long", HEADERS_TOO_LONG)
        elif begins and self.headers_finished and self.error is None and self._brings_a_body_without_a_token():
            self.error = _Refused(403, "Refused", NO_TOKEN)
            self.completed = True
        return consumed

    def _brings_a_body_without_a_token(self) -> bool:
        return (self.content_length > 0 or self.chunked) and not self.headers.get(_TOKEN)


class _Channel(HTTPChannel):
    parser_class = _Parser
