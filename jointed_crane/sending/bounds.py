"""What sending one scene out may take."""

from __future__ import annotations

from jointed_crane.work.bounds import Bounds, Sentences

_SECONDS = 120.0

#: What it may take beside everything else to draw a stretch of frames, and to write the file of a film.
_STRETCH_SECONDS, _FILE_SECONDS = 600, 4 * 3600

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


def _in_background(seconds: int, at_once: int) -> Bounds:
    kept = "What is drawn is kept"
    return Bounds(
        Sentences(
            busy=f"Too much is being sent just now. {kept}; go on in a moment.",
            stopped=f"It was stopped. {kept}; it can go on.",
            too_long=f"It took longer than {seconds // 60} minutes and was ended. {kept}; send a span of it.",
            too_large=f"It took more memory than it may and was ended. {kept}; send a smaller size.",
            ended=f"It ended without a word, or took more than it may. {kept}; go on, or send a smaller size.",
            too_deep="The scene nests too deeply to be sent. Nothing was sent.",
            broken="The scene could not be sent. Nothing was sent, and what is stored is kept; the log says more.",
        ),
        seconds=float(seconds),
        processor=seconds,
        memory=4_000_000_000,
        at_once=at_once,
        waiting=8,
    )


#: Drawing frames of what is sent beside everything else, and writing its file.
DRAWING, WRITING = _in_background(_STRETCH_SECONDS, 2), _in_background(_FILE_SECONDS, 1)
