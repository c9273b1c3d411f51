"""Art that somebody looks at before it comes in: at hand for every server over one data folder."""

from __future__ import annotations

import contextlib
import threading
from collections import OrderedDict
from collections.abc import Collection, Mapping
from pathlib import Path

from sqlalchemy import Column, Engine, LargeBinary, MetaData, String, Table, create_engine, select, text
from sqlalchemy.dialects.sqlite import insert
from sqlalchemy.exc import DatabaseError

#: Media type and bytes of one piece of art.
Art = tuple[str, bytes]
#: The file beside the library, which may be deleted at any time.
FILE_NAME = "looked-at.sqlite3"
#: So many bytes stay at hand, in memory and in the file.
_MOST_HELD = 128_000_000
_SECONDS_TO_WAIT, _NAMES_AT_ONCE = 2, 500

_METADATA = MetaData()
_LOOKED_AT = Table(
    "looked_at",
    _METADATA,
    Column("content_hash", String, primary_key=True),
    Column("media_type", String, nullable=False),
    Column("data", LargeBinary, nullable=False),
)
#: The oldest rows, those beyond what may stay, but never the newest.
_TOO_MUCH = text(
    "DELETE FROM looked_at WHERE rowid < (SELECT max(rowid) FROM looked_at) AND rowid IN (SELECT number FROM "
    "(SELECT rowid AS number, sum(length(data)) OVER (ORDER BY rowid DESC) AS with_newer FROM looked_at) "
    "WHERE with_newer > :most)"
)


class ArtAtHand:
    """Pieces of art by the hash of their bytes, in memory and in a file that servers share; the oldest gives way.

    The file is a convenience: where it cannot be written or read, each server knows what it has read itself.
    """

    def __init__(self, folder: Path | None = None) -> None:
        self._held: OrderedDict[str, Art] = OrderedDict()
        self._lock = threading.Lock()
        self._engine: Engine | None = None
        if folder is not None:
            self._engine = create_engine(f"sqlite:///{folder / FILE_NAME}", connect_args={"timeout": _SECONDS_TO_WAIT})

    def put(self, art: Mapping[str, Art]) -> None:
        """Have art at hand from now on."""
        with self._lock:
            for name, result in art.items():
                self._held[name] = result
                self._held.move_to_end(name)
            while sum(len(data) for _, data in self._held.values()) > _MOST_HELD and len(self._held) > 1:
                self._held.popitem(last=False)
        if self._engine is None or not art:
            return
        rows = [{"content_hash": name, "media_type": kind, "data": data} for name, (kind, data) in art.items()]
        with contextlib.suppress(DatabaseError), self._engine.begin() as connection:
            _METADATA.create_all(connection)
            connection.execute(insert(_LOOKED_AT).prefix_with("OR REPLACE"), rows)
            connection.execute(_TOO_MUCH, {"most": _MOST_HELD})

    def of(self, names: Collection[str]) -> dict[str, Art]:
        """Those of some names that are at hand, read by this server or by another one."""
        with self._lock:
            result = {name: self._held[name] for name in names if name in self._held}
        wanted = sorted(set(names) - result.keys())
        if self._engine is None or not wanted:
            return result
        with contextlib.suppress(DatabaseError), self._engine.connect() as connection:
            for begin in range(0, len(wanted), _NAMES_AT_ONCE):
                is_wanted = _LOOKED_AT.c.content_hash.in_(wanted[begin : begin + _NAMES_AT_ONCE])
                for name, kind, data in connection.execute(select(_LOOKED_AT).where(is_wanted)):
                    result[name] = (kind, data)
        return result
