"""Art by content hash: stored once, never changed."""

from __future__ import annotations

import hashlib
import re
from collections.abc import Iterable

from sqlalchemy import Connection, Engine, delete, select, text
from sqlalchemy.dialects.sqlite import insert

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.model.scene_change import SceneChange
from jointed_crane.store.art_at_hand import Art, ArtAtHand
from jointed_crane.store.database import writing
from jointed_crane.store.tables import ASSETS, DRAWINGS, SENDINGS

_HASH = re.compile(r"[0-9a-f]{64}")


def content_hash(data: bytes) -> str:
    """The name under which bytes are stored."""
    return hashlib.sha256(data).hexdigest()


class AssetStore:
    """The art of one data folder, and art that somebody looks at before it comes in."""

    def __init__(self, engine: Engine, at_hand: ArtAtHand | None = None) -> None:
        self._engine = engine
        self._at_hand = at_hand or ArtAtHand()

    @property
    def address(self) -> str:
        """Where the stored art can be looked up from another process."""
        return self._engine.url.render_as_string(hide_password=False)

    def hold(self, art: Iterable[Art]) -> list[str]:
        """Keep art at hand without storing it; returns its names. The oldest gives way where it becomes too much."""
        by_name = [(content_hash(result[1]), result) for result in art]
        self._at_hand.put(dict(by_name))
        return [name for name, _ in by_name]

    def put(self, art: Iterable[Art]) -> list[str]:
        """Store art under the hash of its bytes; returns the names. What is there already stays."""
        art = list(art)
        with writing(self._engine).begin() as connection:
            return put_art(connection, art)

    def of_type(self, media_type: str) -> list[str]:
        """Content hashes of everything stored under a media type."""
        with self._engine.connect() as connection:
            query = select(ASSETS.c.content_hash).where(ASSETS.c.media_type == media_type)
            return sorted(connection.execute(query).scalars())

    def get(self, name: str) -> Art:
        """Media type and bytes, of stored art or of art at hand; RuleError where there is no such art."""
        with self._engine.connect() as connection:
            result = connection.execute(
                select(ASSETS.c.media_type, ASSETS.c.data).where(ASSETS.c.content_hash == name)
            ).first()
        if result is not None:
            return result.media_type, result.data
        held = self._at_hand.of([name]).get(name)
        if held is None:
            raise RuleError("This art is not stored here.")
        return held

    def held_for(self, change: SceneChange) -> list[Art]:
        """Art at hand that drawings show which an edit has brought."""
        return list(self._at_hand.of({drawing.art for drawing in change.drawings if drawing.shape is None}).values())

    def sweep(self) -> int:
        """Take art away that no drawing shows, nor anything that was sent, and no undo can bring back; fonts stay.
        Returns how many.
        """
        with writing(self._engine).begin() as connection:
            wanted = set(connection.execute(select(DRAWINGS.c.art)).scalars())
            for before, after in connection.execute(text("SELECT before, after FROM journal")):
                wanted.update(_HASH.findall(before), _HASH.findall(after))
            for art in connection.execute(select(SENDINGS.c.art)).scalars():
                wanted.update(art)
            pictures = select(ASSETS.c.content_hash).where(ASSETS.c.media_type.like("image/%"))
            gone = set(connection.execute(pictures).scalars()) - wanted
            for name in gone:
                connection.execute(delete(ASSETS).where(ASSETS.c.content_hash == name))
        return len(gone)


def put_made_art(connection: Connection, change: SceneChange) -> None:
    """Store the pictures of the shapes that an edit has brought or changed, in the edit's own transaction."""
    fresh = [drawing for drawing in change.drawings if drawing.shape is not None]
    if not fresh:
        return
    from jointed_crane.core.shapes.picture import made_art  # loaded where a shape is drawn

    names = put_art(connection, [("image/svg+xml", made_art(drawing)) for drawing in fresh])
    if names != [drawing.art for drawing in fresh]:
        raise RuleError("The art of a shape is not what the shape is drawn as. Nothing was changed.")


def put_art(connection: Connection, art: Iterable[Art]) -> list[str]:
    """Store art in a transaction that is under way; returns its names."""
    rows = [{"content_hash": content_hash(data), "media_type": kind, "data": data} for kind, data in art]
    if rows:
        connection.execute(insert(ASSETS).on_conflict_do_nothing(), rows)
    return [str(row["content_hash"]) for row in rows]
