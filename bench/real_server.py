"""The real server as a process of its own, with scenes to measure on; whoever asks it shares nothing with it."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path

from bench.scenes import constrained, crowd, dense
from jointed_crane.core.edits import applied
from jointed_crane.core.edits.joints.eyelets import MakeJoints
from jointed_crane.store.library import Library
from tests.hostile.served import served, stop

_PICTURE = (
    b'<svg xmlns="http://www.w3.org/2000/svg" width="40" height="90"><rect width="40" height="90" rx="16"/></svg>'
)


@contextmanager
def serving(*counts: int, is_seated: bool = False, is_dense: bool = False) -> Iterator[str]:
    """The address of a server whose shelf holds crowds of so many parts, by the ids crowd-<parts>, the one of 200 with
    40 constraints too, "ruled", and if wished the dense one, "dense".
    """
    with tempfile.TemporaryDirectory() as folder:
        library = Library(Path(folder))
        (art,) = library.assets.put([("image/svg+xml", _PICTURE)])
        for count in counts:
            scene = replace(crowd(count, art), id=f"crowd-{count}", name=f"Crowd of {count}")
            seats = [MakeJoints(tuple(part.id for part in scene.parts if part.parent), "e")] if is_seated else []
            library.scenes.create(applied(scene, seats))
        if 200 in counts:
            library.scenes.create(replace(constrained(crowd(200, art))[1], id="ruled", name="Ruled crowd"))
        if is_dense:
            library.scenes.create(dense(art=art))
        process, address = served(Path(folder))
        try:
            yield address
        finally:
            stop(process)
