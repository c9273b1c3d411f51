"""What reading one foreign file may take."""

from __future__ import annotations

from jointed_crane.formats.artwork import ArtworkError
from jointed_crane.work.bounds import Bounds, Sentences

_SECONDS = 12.0

READING = Bounds(
    Sentences(
        busy="Other files are being read just now. Nothing was changed; try again in a moment.",
        stopped="Reading was stopped. Nothing was brought in.",
        too_long=f"Reading took longer than {_SECONDS:.0f} seconds and was ended. Nothing was brought in; "
        "simplify the file or split it into several.",
        too_large="Reading took more memory than a file may and was ended. Nothing was brought in; "
        "make the file smaller or split it into several.",
        ended="Reading took more than a file may, and the reader ended. Nothing was brought in; "
        "make the file smaller or split it into several.",
        too_deep="The file nests too deeply to be read. Nothing was brought in.",
        broken="The file could not be read; it is damaged. Nothing was brought in.",
    ),
    seconds=_SECONDS,
    processor=60,
    memory=800_000_000,
    at_once=2,
    waiting=8,
    refusal=ArtworkError,
)
