"""Art by content hash: stored once, never changed."""

from __future__ import annotations

import hashlib

from sqlalchemy import Connection, Engine, Table, select
from sqlalchemy.dialects.sqlite import insert

from jointed_crane.core.errors import RuleError
from jointed_crane.core.scene import Scene
from jointed_crane.core.shape_art import made_art
from jointed_crane.store.database import writing
from jointed_crane.store.models import AssetRow

_ASSETS: Table = AssetRow.__table__  # type: ignore[assignment]


class AssetStore:
    """The art of one data folder."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine

    def put(self, art: dict[str, tuple[str, bytes]]) -> None:
        """Store art by its hash: media type and bytes; what is there already stays."""
        if not art:
            return
        with writing(self._engine).begin() as connection:
            _put(connection, art)

    def add(self, media_type: str, data: bytes) -> str:
        """Store one file; returns its content hash."""
        content_hash = hashlib.sha256(data).hexdigest()
        self.put({content_hash: (media_type, data)})
        return content_hash

    def of_type(self, media_type: str) -> list[str]:
        """Content hashes of everything stored under a media type."""
        with self._engine.connect() as connection:
            query = select(_ASSETS.c.content_hash).where(_ASSETS.c.media_type == media_type)
            return sorted(connection.execute(query).scalars())

    def get(self, content_hash: str) -> tuple[str, bytes]:
        """Media type and bytes; RuleError where there is no such art."""
        with self._engine.connect() as connection:
            found = connection.execute(
                select(_ASSETS.c.media_type, _ASSETS.c.data).where(_ASSETS.c.content_hash == content_hash)
            ).first()
        if found is None:
            raise RuleError("This art is not stored here.")
        return found.media_type, found.data


def put_made_art(connection: Connection, before: Scene, after: Scene) -> None:
    """Store the pictures of the shapes that an edit has brought or changed, in the edit's own transaction."""
    known = {id(drawing) for part in before.parts for drawing in part.drawings}
    made = {
        drawing.art: ("image/svg+xml", made_art(drawing))
        for part in after.parts
        for drawing in part.drawings
        if drawing.shape is not None and id(drawing) not in known
    }
    if made:
        _put(connection, made)


def _put(connection: Connection, art: dict[str, tuple[str, bytes]]) -> None:
    rows = [{"content_hash": name, "media_type": kind, "data": data} for name, (kind, data) in art.items()]
    connection.execute(insert(_ASSETS).on_conflict_do_nothing(), rows)
