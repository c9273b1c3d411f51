"""Installs the wheel in an environment of its own, away from the checkout, and starts the app from it.

It stands for itself: it may use nothing of the checkout but the wheel and the pinned versions of what that needs.
"""

from __future__ import annotations

import re
import signal
import subprocess
import sys
import tempfile
import urllib.request
import venv
from pathlib import Path

ROOT = Path(__file__).parents[1]
PIP = ("-m", "pip", "install", "--quiet", "--disable-pip-version-check", "--no-compile")


def main() -> int:
    """0 where the demo answers with a scene on its shelf, its bench and a picture of it."""
    (wheel,) = (ROOT / "dist").glob("*.whl")
    with tempfile.TemporaryDirectory() as folder:
        home = Path(folder)
        venv.create(home / "venv", with_pip=True)
        python = str(home / "venv" / "bin" / "python")
        subprocess.run([python, *PIP, "--no-deps", "-r", ROOT / "requirements.txt"], check=True, cwd=home)
        subprocess.run([python, *PIP, "--no-deps", wheel], check=True, cwd=home)
        subprocess.run([python, "-m", "pip", "check"], check=True, cwd=home)
        command = [str(home / "venv" / "bin" / "jointed-crane"), "demo", "--port", "0", "--data", str(home / "data")]
        with subprocess.Popen(command, stdout=subprocess.PIPE, text=True, cwd=home) as program:
            try:
                looked_at(program)
            finally:
                program.send_signal(signal.SIGINT)
                program.communicate(timeout=30)
    print(f"{wheel.name} runs by itself.")
    return 0


def looked_at(program: subprocess.Popen[str]) -> None:
    """Ask for a page of each kind, and for what they are made of."""
    assert program.stdout is not None
    line = next(line for line in program.stdout if "http://" in line)
    address = re.search(r"http://[^/]+", line)
    assert address is not None
    shelf = get(address[0] + "/")
    scene = re.search(r"/scenes/([0-9a-z]+)", shelf)
    assert scene is not None, "the shelf shows no scene"
    bench = get(f"{address[0]}{scene[0]}")
    for page in ("/check", "/map", "/send", ""):
        get(f"{address[0]}{scene[0]}{page}")
    get(f"{address[0]}/guide/reach")
    get(f"{address[0]}/docs/edits")
    for path in re.findall(r'(?:src|href)="(/[^"]+\.(?:js|css|svg|woff2))"', shelf + bench):
        get(address[0] + path)
    get(f"{address[0]}/api{scene[0]}/send/still?frame=12")


def get(address: str) -> str:
    """What stands there."""
    with urllib.request.urlopen(address, timeout=60) as answer:
        return str(answer.read().decode("utf-8", "replace"))


if __name__ == "__main__":
    sys.exit(main())
