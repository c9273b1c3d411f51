"""Scenes kept: loading, keeping edits, undo and redo, the newest frozen scene held in memory by its version."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Iterable
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from typing import Any

from sqlalchemy import Connection, Engine, Table, delete, func, insert, select, update
from sqlalchemy.exc import IntegrityError

from jointed_crane.core.edits import Edit, applied
from jointed_crane.core.errors import RuleError
from jointed_crane.core.scene import Scene
from jointed_crane.core.soundness import ensure_sound
from jointed_crane.store.assets import put_made_art
from jointed_crane.store.database import writing
from jointed_crane.store.models import (
    ChannelRow,
    DrawingRow,
    EyeletRow,
    FootholdRow,
    JournalRow,
    MarkRow,
    PartRow,
    SceneRow,
)
from jointed_crane.store.rows import Change, Row, RowKey, difference, scene_from_rows, scene_rows

_SCENES: Table = SceneRow.__table__  # type: ignore[assignment]
_JOURNAL: Table = JournalRow.__table__  # type: ignore[assignment]
#: The tables below a scene, with the columns that make a row's key after its scene.
_TABLES: dict[str, tuple[Table, tuple[str, ...]]] = {
    "parts": (PartRow.__table__, ("id",)),  # type: ignore[dict-item]
    "drawings": (DrawingRow.__table__, ("part_id", "id")),  # type: ignore[dict-item]
    "channels": (ChannelRow.__table__, ("part_id", "name")),  # type: ignore[dict-item]
    "footholds": (FootholdRow.__table__, ("part_id", "frame")),  # type: ignore[dict-item]
    "eyelets": (EyeletRow.__table__, ("part_id", "id")),  # type: ignore[dict-item]
    "marks": (MarkRow.__table__, ("id",)),  # type: ignore[dict-item]
}
#: How many scenes stay in memory.
_HELD = 16


class SceneMissing(RuleError):
    """There is no such scene on the shelf."""

    def __init__(self) -> None:
        super().__init__("This scene is not on the shelf; it may have been deleted. Go back to the shelf.")


class StaleVersion(RuleError):
    """An edit was made against a version that is no longer the newest."""

    def __init__(self, version: int) -> None:
        self.version = version
        super().__init__(
            f"The scene has changed meanwhile; it is at version {version}. "
            "Nothing was changed and nothing was lost: take the edit up again on the new version."
        )


@dataclass(frozen=True)
class Kept:
    """A scene as it is stored: its version, and what undo and redo would do next."""

    scene: Scene
    version: int
    undo_label: str | None
    redo_label: str | None


class SceneStore:
    """The scenes of one data folder. Safe to share between threads; other processes are noticed by the version."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine
        self._held: OrderedDict[str, Kept] = OrderedDict()
        self._lock = threading.RLock()

    def load(self, scene_id: str) -> Kept:
        """The newest state of a scene. One query where it is held in memory, eight otherwise, none a part."""
        with self._engine.connect() as connection:
            return self._load(connection, scene_id)

    def keep(self, scene_id: str, version: int, edits: Iterable[Edit], label: str | None = None) -> Kept:
        """Apply edits and store what changed with one journal row, in one transaction.

        Raises StaleVersion where the scene has moved on, RuleError where the rules refuse. Edits that change
        nothing leave no trace.
        """
        edits = list(edits)
        with self._lock, writing(self._engine).begin() as connection:
            known = self._load(connection, scene_id)
            _expect(known, version)
            after = applied(known.scene, edits)
            before_rows, after_rows = difference(known.scene, after)
            if not after_rows:
                return known
            label = label or edits[0].label(known.scene)
            number = self._journal_at(connection, scene_id) + 1
            connection.execute(delete(_JOURNAL).where(_JOURNAL.c.scene_id == scene_id, _JOURNAL.c.number >= number))
            connection.execute(
                insert(_JOURNAL).values(
                    scene_id=scene_id, number=number, label=label[:200],
                    before=before_rows, after=after_rows, made_at=_now(),
                )
            )  # fmt: skip
            put_made_art(connection, known.scene, after)
            self._write(connection, scene_id, after_rows, known.version + 1, number)
            kept = Kept(after, known.version + 1, label[:200], None)
        return self._hold(kept)

    def undo(self, scene_id: str, version: int) -> Kept:
        """Take the last edit back. RuleError where there is none."""
        return self._walk(scene_id, version, back=True)

    def redo(self, scene_id: str, version: int) -> Kept:
        """Do the edit again that was taken back last. RuleError where there is none."""
        return self._walk(scene_id, version, back=False)

    def create(self, scene: Scene) -> Kept:
        """Store a new scene; its art must be stored already."""
        ensure_sound(scene)
        with self._lock, writing(self._engine).begin() as connection:
            rows = scene_rows(scene)
            connection.execute(
                insert(_SCENES).values(id=scene.id, version=1, journal_at=0, changed_at=_now(), **rows.pop(("scenes",)))
            )
            self._put(connection, scene.id, list(rows.items()))
        return self._hold(Kept(scene, 1, None, None))

    def forget(self, scene_id: str) -> None:
        """Drop a scene from memory; the database still has it."""
        with self._lock:
            self._held.pop(scene_id, None)

    # Reading

    def _load(self, connection: Connection, scene_id: str) -> Kept:
        found = connection.execute(
            select(_SCENES.c.version, _SCENES.c.journal_at).where(
                _SCENES.c.id == scene_id, _SCENES.c.deleted_at.is_(None)
            )
        ).first()
        if found is None:
            raise SceneMissing
        held = self._held.get(scene_id)
        if held is not None and held.version == found.version:
            return held
        scene = scene_from_rows(scene_id, self._rows(connection, scene_id))
        return self._hold(Kept(scene, found.version, *self._labels(connection, scene_id, found.journal_at)))

    def _rows(self, connection: Connection, scene_id: str) -> dict[RowKey, Row]:
        (own,) = connection.execute(select(_SCENES).where(_SCENES.c.id == scene_id)).mappings()
        rows: dict[RowKey, Row] = {("scenes",): dict(own)}
        for name, (table, columns) in _TABLES.items():
            for found in connection.execute(select(table).where(table.c.scene_id == scene_id)).mappings():
                row = dict(found)
                key = tuple(_key_text(row.pop(column)) for column in columns)
                del row["scene_id"]
                rows[name, *key] = row
        return rows

    def _labels(self, connection: Connection, scene_id: str, at: int) -> tuple[str | None, str | None]:
        query = select(_JOURNAL.c.number, _JOURNAL.c.label).where(
            _JOURNAL.c.scene_id == scene_id, _JOURNAL.c.number.in_((at, at + 1))
        )
        found = {number: label for number, label in connection.execute(query)}
        return found.get(at), found.get(at + 1)

    def _journal_at(self, connection: Connection, scene_id: str) -> int:
        return connection.execute(select(_SCENES.c.journal_at).where(_SCENES.c.id == scene_id)).scalar_one()

    def _hold(self, kept: Kept) -> Kept:
        with self._lock:
            self._held[kept.scene.id] = kept
            self._held.move_to_end(kept.scene.id)
            while len(self._held) > _HELD:
                self._held.popitem(last=False)
        return kept

    # Writing

    def _walk(self, scene_id: str, version: int, back: bool) -> Kept:
        with self._lock, writing(self._engine).begin() as connection:
            known = self._load(connection, scene_id)
            _expect(known, version)
            at = self._journal_at(connection, scene_id)
            number = at if back else at + 1
            row = connection.execute(
                select(_JOURNAL).where(_JOURNAL.c.scene_id == scene_id, _JOURNAL.c.number == number)
            ).first()
            if row is None:
                raise RuleError("There is nothing to undo." if back else "There is nothing to redo.")
            changes: list[Change] = [(tuple(key), values) for key, values in (row.before if back else row.after)]
            now_at = number - 1 if back else number
            self._write(connection, scene_id, changes, known.version + 1, now_at)
            changed = {key[1] for key, _ in changes if key[0] not in ("scenes", "marks")}
            scene = scene_from_rows(scene_id, self._rows(connection, scene_id), known.scene, changed)
            kept = Kept(scene, known.version + 1, *self._labels(connection, scene_id, now_at))
        return self._hold(kept)

    def _write(self, connection: Connection, scene_id: str, changes: list[Change], version: int, at: int) -> None:
        own = next((row for key, row in changes if key == ("scenes",)), None) or {}
        connection.execute(
            update(_SCENES)
            .where(_SCENES.c.id == scene_id)
            .values(version=version, journal_at=at, changed_at=_now(), **own)
        )
        below = [(key, row) for key, row in changes if key != ("scenes",)]
        for key, _ in below:
            table, columns = _TABLES[key[0]]
            same = [table.c[column] == _key_value(column, part) for column, part in zip(columns, key[1:], strict=True)]
            connection.execute(delete(table).where(table.c.scene_id == scene_id, *same))
        self._put(connection, scene_id, [(key, row) for key, row in below if row is not None])

    def _put(self, connection: Connection, scene_id: str, rows: list[tuple[RowKey, Row]]) -> None:
        by_table: dict[str, list[dict[str, Any]]] = {}
        for key, row in rows:
            columns = _TABLES[key[0]][1]
            keys = {column: _key_value(column, part) for column, part in zip(columns, key[1:], strict=True)}
            by_table.setdefault(key[0], []).append({"scene_id": scene_id, **keys, **row})
        try:
            for name, values in by_table.items():
                connection.execute(insert(_TABLES[name][0]), values)
        except IntegrityError:
            raise RuleError("A drawing shows art that is not stored here. Nothing was changed.") from None


def copy_of(scene: Scene, scene_id: str, name: str) -> Scene:
    """The same scene under another id and name."""
    return replace(scene, id=scene_id, name=name)


def part_count(connection: Connection) -> dict[str, int]:
    """Number of parts by scene."""
    parts = _TABLES["parts"][0]
    query = select(parts.c.scene_id, func.count()).group_by(parts.c.scene_id)
    return {scene_id: count for scene_id, count in connection.execute(query)}


def _expect(known: Kept, version: int) -> None:
    if known.version != version:
        raise StaleVersion(known.version)


def _key_text(value: Any) -> str:
    return repr(value) if isinstance(value, float) else value


def _key_value(column: str, text: str) -> str | float:
    return float(text) if column == "frame" else text


def _now() -> datetime:
    return datetime.now(UTC).replace(tzinfo=None)
