"""What is refused by its header alone: the server takes none of it in."""

import json
import socket
import tempfile
import threading
import time
import unittest
from pathlib import Path

from flask import Response
from waitress import adjustments, wasyncore

from jointed_crane.web import create_app
from jointed_crane.web.serving import server_of
from tests.demo_library import WORKERS


class ServerTests(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        folder = tempfile.TemporaryDirectory()
        cls.addClassCleanup(folder.cleanup)
        connections = {}
        app = create_app(Path(folder.name), workers=WORKERS)
        app.add_url_rule("/large", view_func=lambda: Response(bytes(17_000_000)))
        server = server_of(app, 0, connections)
        cls.port, is_over = server.effective_port, threading.Event()

        def turn():
            while not is_over.is_set():
                wasyncore.loop(timeout=0.05, use_poll=True, map=connections, count=1)

        thread = threading.Thread(target=turn, daemon=True)
        thread.start()

        def stop():
            is_over.set()
            thread.join()
            server.task_dispatcher.shutdown()
            server.close()

        cls.addClassCleanup(stop)

    def answered(self, *lines, last=""):
        """The answer to a request whose body never comes; the last of its header comes late."""
        with socket.create_connection(("127.0.0.1", self.port), timeout=20) as connection:
            connection.sendall("\r\n".join((*lines, "Host: localhost", last if last else "\r\n")).encode())
            if last:
                time.sleep(0.5)
                connection.sendall(last.encode() * 20)
            data = b""
            while got := connection.recv(65536):
                data += got
        head, _, body = data.partition(b"\r\n\r\n")
        return int(head.split()[1]), json.loads(body)["detail"]

    def test_bodies_that_are_too_large_or_come_without_a_token(self):
        post = "POST /api/scenes/none/edits HTTP/1.1"
        kind = "Content-Type: application/json"
        large = self.answered(post, kind, "X-CSRFToken: any", "Content-Length: 5000000000")
        self.assertEqual(large, (413, "That is too large: 64 MB at once is the most. Nothing was changed."))
        for body in ("Content-Length: 60000000", "Content-Length: 2", "Transfer-Encoding: chunked"):
            status, words = self.answered(post, kind, body)
            self.assertEqual(status, 403)
            self.assertIn("Nothing was changed; load it anew", words)

    def test_long_headers_have_a_sentence_of_their_own(self):
        most = adjustments.Adjustments.max_request_header_size
        line = f"X-Long: {'a' * (most - 200)}"
        status, words = self.answered("GET / HTTP/1.1", line, last="X-Last: and some more")
        self.assertEqual((status, words), (431, "The header of the request is too long. Nothing was changed."))

    def test_readers_that_stand_still_keep_nobody_else_waiting(self):
        request = b"GET /large HTTP/1.1\r\nHost: localhost\r\n\r\n"
        stalled = [socket.create_connection(("127.0.0.1", self.port), timeout=20) for _ in range(26)]
        try:
            for connection in stalled:
                connection.sendall(request)
            for connection in stalled:
                self.assertTrue(connection.recv(1))  # it has begun to be answered, and reads no more
            with socket.create_connection(("127.0.0.1", self.port), timeout=20) as quick:
                quick.sendall(b"GET / HTTP/1.0\r\nHost: localhost\r\n\r\n")
                self.assertTrue(quick.recv(100).startswith(b"HTTP/1.0 200"))
        finally:
            for connection in stalled:
                connection.close()
