"""The real server as a process of its own, with scenes to measure on; whoever asks it shares nothing with it."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path

from bench.scenes import constrained, dense, planes
from jointed_crane.core.edits import applied
from jointed_crane.core.edits.constraints.levers_and_links import AddLever, SetLink
from jointed_crane.core.edits.joints.eyelets import MakeJoints
from jointed_crane.core.model.levers import Link
from jointed_crane.store.library import Library
from tests.crowds import crowd
from tests.hostile.served import served, stop

#: A lever beside the parts, which one of them is driven by.
_LEVER = [AddLever("lever", "Lever"), SetLink("p102", Link(id="l", source="lever", channel="lever.x", onto="turn.z"))]
_PICTURE = (
    b'<svg xmlns="http://www.w3.org/2000/svg" width="40" height="90"><rect width="40" height="90" rx="16"/></svg>'
)


@contextmanager
def serving(*counts: int, is_seated: bool = False, is_dense: bool = False, is_deep: bool = False) -> Iterator[str]:
    """The address of a server whose shelf holds crowds of so many parts, by the ids crowd-<parts>, the one of 200 with
    40 constraints too, "ruled", and with a lever, "levered", and if wished the dense one, "dense", and 200 planes in
    space of which 20 cut another, "planes".
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
            levered = replace(crowd(200, art), id="levered", name="Levered crowd")
            library.scenes.create(applied(levered, _LEVER))
        if is_dense:
            library.scenes.create(dense(art=art))
        if is_deep:
            library.scenes.create(planes(200, 20, art))
        process, address = served(Path(folder))
        try:
            yield address
        finally:
            stop(process)
