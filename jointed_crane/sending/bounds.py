"""What sending one scene out may take."""

from __future__ import annotations

from jointed_crane.work.bounds import Bounds, Sentences

_SECONDS = 120.0

SENDING = Bounds(
    Sentences(
        busy="Many things are being sent just now. Nothing was changed; try again in a moment.",
        stopped="Sending was stopped. Nothing was sent.",
        too_long=f"Sending took longer than {_SECONDS:.0f} seconds and was ended. Nothing was sent; send a span of it.",
        too_large="Sending took more memory than it may and was ended. Nothing was sent; send a span of it.",
        ended="Sending took more than it may and was ended. Nothing was sent; send a span of it.",
        too_deep="The scene nests too deeply to be sent. Nothing was sent.",
        broken="The scene could not be sent. Nothing was sent, and what is stored is kept; the log says more.",
    ),
    seconds=_SECONDS,
    processor=120,
    memory=2_000_000_000,
    at_once=2,
    waiting=6,
)
