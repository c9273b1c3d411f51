"""Checks that the committed style sheet is what its source makes: `python -m assets.fresh`."""

from __future__ import annotations

import sys
import tempfile
from pathlib import Path

from assets.node import install, run

HERE = Path(__file__).parent
COMMITTED = HERE.parent / "jointed_crane" / "web" / "static" / "app.css"


def main() -> int:
    """Build it aside and compare; 1 where it differs."""
    if status := install(HERE):
        return status
    with tempfile.TemporaryDirectory() as folder:
        made = Path(folder) / "app.css"
        tailwind = HERE / "node_modules" / "@tailwindcss" / "cli" / "dist" / "index.mjs"
        if status := run(HERE, tailwind, "-i", "app.css", "-o", made, "--minify", quiet=True):
            return status
        if made.read_bytes() == COMMITTED.read_bytes():
            return 0
    print("The style sheet is not what assets/app.css and the templates make; run `make assets`.", file=sys.stderr)
    return 1


if __name__ == "__main__":
    sys.exit(main())
