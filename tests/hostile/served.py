"""The real server as a process of its own, asked as a browser asks, and looked at from outside."""

from __future__ import annotations

import json
import re
import signal
import subprocess
import sys
import threading
import time
import uuid
from dataclasses import dataclass, field
from http.cookiejar import CookieJar
from pathlib import Path
from urllib.error import HTTPError
from urllib.request import HTTPCookieProcessor, Request, build_opener


class Client:
    """A browser's worth of HTTP: a session cookie and the CSRF token."""

    def __init__(self, address: str) -> None:
        self.address = address
        self._opener = build_opener(HTTPCookieProcessor(CookieJar()))
        page = self._opener.open(address, timeout=60).read().decode()
        self._token = re.search(r'name="csrf-token" content="([^"]+)"', page)[1]

    def get(self, path: str) -> bytes:
        return self._opener.open(self.address + path, timeout=60).read()

    def post(self, path: str, document: dict) -> dict:
        """What a document is answered; HTTPError where it is refused."""
        headers = {"Content-Type": "application/json", "X-CSRFToken": self._token}
        return json.loads(
            self._opener.open(Request(self.address + path, json.dumps(document).encode(), headers)).read()
        )

    def send(self, path: str, data: bytes, name: str, **fields: str) -> tuple[int, dict]:
        """Status and answer for one file of a form with other fields."""
        edge = uuid.uuid4().hex
        part = f"--{edge}\r\nContent-Disposition: form-data; name="
        head = "".join(f'{part}"{key}"\r\n\r\n{value}\r\n' for key, value in fields.items())
        head += f'{part}"files"; filename="{name}"\r\n\r\n'
        body = head.encode() + data + f"\r\n--{edge}--\r\n".encode()
        headers = {"Content-Type": f"multipart/form-data; boundary={edge}", "X-CSRFToken": self._token}
        try:
            with self._opener.open(Request(self.address + path, body, headers), timeout=60) as answer:
                return answer.status, json.loads(answer.read())
        except HTTPError as error:
            return error.code, json.loads(error.read())


def served(folder: Path, *command: str) -> tuple[subprocess.Popen[str], str]:
    """A server that has just said where it is; `command` is what the command line is asked."""
    run = [
        sys.executable,
        "-u",
        "-X",
        "faulthandler",  # where it hangs, SIGABRT makes it say where
        "-m",
        "jointed_crane.cli",
        *(command or ("serve",)),
        "--port",
        "0",
        "--data",
        str(folder),
    ]
    process = subprocess.Popen(run, stdout=subprocess.PIPE, text=True)
    assert process.stdout is not None
    for line in process.stdout:
        found = re.search(r"http://[\d.:]+", line)
        if found:
            return process, found[0]
    raise RuntimeError(f"the server ended with {process.wait()}")


@dataclass
class Watch:
    """Looks again and again how much a server and its workers take, and how soon somebody else is answered."""

    process: subprocess.Popen[str]
    client: Client
    path: str
    server_bytes: int = 0
    worker_bytes: int = 0
    slowest: float = 0.0
    _over: threading.Event = field(default_factory=threading.Event)

    def __enter__(self) -> Watch:
        self._threads = [threading.Thread(target=work) for work in (self._weigh, self._ask)]
        for thread in self._threads:
            thread.start()
        return self

    def __exit__(self, *_: object) -> None:
        self._over.set()
        for thread in self._threads:
            thread.join()

    def _weigh(self) -> None:
        while not self._over.wait(0.03):
            self.server_bytes = max(self.server_bytes, resident(self.process.pid))
            for worker in descendants(self.process.pid):
                self.worker_bytes = max(self.worker_bytes, resident(worker))

    def _ask(self) -> None:
        while not self._over.wait(0.1):
            begin = time.monotonic()
            self.client.get(self.path)
            self.slowest = max(self.slowest, time.monotonic() - begin)


def resident(pid: int) -> int:
    """Bytes that a process has in memory, 0 where it is gone (Linux: /proc)."""
    try:
        return int(Path(f"/proc/{pid}/statm").read_text().split()[1]) * 4096
    except (OSError, IndexError):
        return 0


def descendants(pid: int) -> list[int]:
    """Processes that a process began, and those that they began."""
    try:
        own = [
            int(child)
            for task in Path(f"/proc/{pid}/task").iterdir()
            for child in (task / "children").read_text().split()
        ]
    except OSError:
        return []
    return [*own, *(below for child in own for below in descendants(child))]


def stop(process: subprocess.Popen[str]) -> None:
    """End a server as Ctrl+C does."""
    process.send_signal(signal.SIGINT)
    process.communicate(timeout=60)
