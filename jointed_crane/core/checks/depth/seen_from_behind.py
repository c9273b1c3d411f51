"""Pictures in space whose back is seen: they have one side, so what is on them shows the wrong way round."""

from __future__ import annotations

from collections.abc import Collection, Iterator

import numpy as np
import shapely

from jointed_crane.core.basics.wording import counted
from jointed_crane.core.checks.finding import Finding, Rig
from jointed_crane.core.viewing.cameras import stage_view
from jointed_crane.core.viewing.order import painted
from jointed_crane.core.viewing.painting import before_camera
from jointed_crane.core.viewing.projection import seen_from
from jointed_crane.core.viewing.seeing import seen
from jointed_crane.core.viewing.shown import shown

NAME = "Seen from behind"
#: Frames that are looked at, evenly over the film.
_FRAMES = 12
#: Where on a picture it is looked whether anything hides it: as shares of the way from its middle to each corner.
_SHARES = (0.0, 0.3, 0.6)
#: What is seen beside the edge of what hides the rest of it is a sliver, px: two sides of one card, seen along it.
_SLIVER = 1.0
#: Pieces whose back is shown that are looked at in a frame; of more of them all places would take too long.
_MOST_BACKS = 200


def find(rig: Rig) -> Iterator[Finding]:
    """Pictures of which somewhere the back is what is seen, those on one part together, with the first frame of those
    looked at.
    """
    if not rig.scene.depth:
        return
    film = rig.film
    first: dict[str, float] = {}
    for column in np.unique(np.linspace(0, len(film.frames) - 1, _FRAMES).astype(int)).tolist():
        first |= dict.fromkeys(_backs(rig, column, first), float(film.frames[column]))
    together: dict[str | None, list[str]] = {}
    for part_id in first:
        together.setdefault(rig.scene.part(part_id).parent or part_id, []).append(part_id)
    for part_id, *others in together.values():
        who = rig.scene.part(part_id).name + (f" and {counted(len(others), 'part')} beside it" if others else "")
        are, have, its, it = ("are", "have", "their", "them") if others else ("is", "has", "its", "it")
        sentence = (
            f"{who} {are} seen from behind, at frame {first[part_id]:.0f} first, and {have} one side only: lay a "
            f"picture on {its} back, a little behind and turned round, or turn {it} to the front."
        )
        yield Finding(NAME, part_id, sentence)


def _backs(rig: Rig, column: int, known: Collection[str]) -> list[str]:
    """Parts whose back is seen at a frame of the film, and hidden by nothing at one of the places looked at."""
    scene, film = rig.scene, rig.film
    view = stage_view(scene, film, column)
    faces = seen(film.at(film.frames[[column]], np.array([column])), view).faces[:, 0]
    behind = {film.part_ids[row] for row in np.flatnonzero(faces < 0).tolist()} - set(known)
    if not behind:
        return []
    looked = shown(scene, film, column, [part.id for part in scene.parts if not part.is_sent])
    order = painted(before_camera(looked, view)[0], view)
    corners = [seen_from(np.array(piece.corners), view) for piece in order]
    outlines = shapely.buffer([shapely.Polygon(ring) for ring in corners], _SLIVER)
    shapely.prepare(outlines)
    result: dict[str, None] = {}
    backs = [place for place, piece in enumerate(order) if looked.part_ids[piece.row] in behind]
    for place in backs[-_MOST_BACKS:]:
        middle = corners[place].mean(axis=0)
        at = np.concatenate([middle + share * (corners[place] - middle) for share in _SHARES])
        at = at[((at >= 0) & (at <= (scene.width, scene.height))).all(axis=1)]
        if not shapely.contains_xy(outlines[place + 1 :, None], at[:, 0], at[:, 1]).any(axis=0).all():
            result[looked.part_ids[order[place].row]] = None
    return list(result)
