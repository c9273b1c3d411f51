"""Scenes kept: loading, keeping edits, undo and redo, the newest frozen scene held in memory by its version."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Iterable
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from typing import Any

from sqlalchemy import Connection, Engine, Table, bindparam, delete, insert, select, update
from sqlalchemy.dialects import sqlite
from sqlalchemy.exc import IntegrityError

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.edits import Edit, changed_by
from jointed_crane.core.edits.shared.first_keys import with_what_came_before
from jointed_crane.core.evaluate.packing.plan import hand_plan_on
from jointed_crane.core.model.scene import Scene
from jointed_crane.core.model.scene_change import SceneChange
from jointed_crane.core.soundness.whole_scene import ensure_sound, ensure_sound_after
from jointed_crane.store import tables
from jointed_crane.store.art_at_hand import Art
from jointed_crane.store.assets import AssetStore, put_art, put_made_art
from jointed_crane.store.database import writing
from jointed_crane.store.rows import (
    OWN,
    PAINTING,
    Row,
    RowChange,
    RowKey,
    changed_rows,
    scene_from_rows,
    scene_rows,
    with_rows,
)
from jointed_crane.store.tables import JOURNAL, SCENES

#: The tables below a scene, with the columns that make a row's key after its scene.
_TABLES: dict[str, tuple[Table, tuple[str, ...]]] = {
    "parts": (tables.PARTS, ("id",)),
    "drawings": (tables.DRAWINGS, ("part_id", "id")),
    "channels": (tables.CHANNELS, ("part_id", "name")),
    "footholds": (tables.FOOTHOLDS, ("part_id", "frame")),
    "constraints": (tables.CONSTRAINTS, ("part_id", "id")),
    "links": (tables.LINKS, ("part_id", "id")),
    "eyelets": (tables.EYELETS, ("part_id", "id")),
    "marks": (tables.MARKS, ("id",)),
    "markers": (tables.MARKERS, ("id",)),
    "poses": (tables.POSES, ("id",)),
}
#: How many scenes stay in memory.
_HELD = 16
#: Asked with every request, so it is put together once.
_STANDING = select(SCENES.c.version, SCENES.c.journal_at).where(
    SCENES.c.id == bindparam("scene_id"), SCENES.c.deleted_at.is_(None)
)
_STANDING_AS_TEXT = str(_STANDING.compile(dialect=sqlite.dialect()))  # type: ignore[no-untyped-call]


class SceneMissing(RuleError):
    """There is no such scene on the shelf."""

    def __init__(
        self, sentence: str = "This scene is not on the shelf; it may have been deleted. Go back to the shelf."
    ) -> None:
        super().__init__(sentence)  # given where a worker's refusal is raised anew


class StaleVersion(RuleError):
    """An edit was made against a version that is no longer the newest."""

    def __init__(self, version: int) -> None:
        self.version = version
        super().__init__(
            f"The scene has changed meanwhile; it is at version {version}. "
            "Nothing was changed and nothing was lost: take the edit up again on the new version."
        )


@dataclass(frozen=True)
class Entry:
    """A scene as it is stored: its version, and what undo and redo would do next."""

    scene: Scene
    version: int
    undo_label: str | None
    redo_label: str | None


@dataclass(frozen=True)
class Changed:
    """What would be written: the rows that differ, as they were and as they are, and art that comes along.

    Attributes
    ----------
    known : the scene as it is stored
    change : what differs in it
    label : what undo calls it; None for a step along the journal
    at : where the scene then stands in its journal, for a step along it
    remarks : what its edits say of themselves once they are done
    """

    known: Entry
    change: SceneChange
    before_rows: list[RowChange]
    after_rows: list[RowChange]
    label: str | None
    art: list[Art]
    at: int | None = None
    remarks: tuple[str, ...] = ()

    @property
    def after(self) -> Scene:
        """The scene as it would be."""
        return self.change.after


def _summed(said: list[str]) -> list[str]:
    """Sentences, or where they are many one with their number."""
    many = f"{len(said)} channels keep what they were before by keys where their parts begin."
    return said if len(said) <= 2 else [many]


class SceneStore:
    """The scenes of one data folder. Safe to share between threads; other processes are noticed by the version."""

    def __init__(self, engine: Engine, assets: AssetStore) -> None:
        self._engine = engine
        self._assets = assets
        self._held: OrderedDict[str, Entry] = OrderedDict()
        self._lock = threading.RLock()

    def load(self, scene_id: str) -> Entry:
        """The newest state of a scene. One query where it is held in memory, eight otherwise, none a part."""
        held = self._held.get(scene_id)
        if held is not None and held.version == self._version(scene_id):
            return held
        with self._engine.connect() as connection:
            return self._load(connection, scene_id)

    def keep(
        self,
        scene_id: str,
        version: int,
        edits: Iterable[Edit],
        label: str | None = None,
        art: Iterable[Art] = (),
    ) -> Entry:
        """Apply edits and store what changed with one journal row, and art that came along, in one transaction.

        Raises StaleVersion where the scene has moved on, RuleError where the rules refuse. Edits that change
        nothing leave no trace. Everything is computed before the database is locked; then the version is compared.
        """
        return self.commit(self.changed(scene_id, version, edits, label, art))

    def commit(self, change: Changed) -> Entry:
        """Store what was computed. Raises StaleVersion where the scene has moved on meanwhile."""
        if not change.after_rows:
            return change.known
        with writing(self._engine).begin() as connection:
            entry = self.write(connection, change)
        return self._hold(entry)

    def changed(
        self,
        scene_id: str,
        version: int,
        edits: Iterable[Edit],
        label: str | None = None,
        art: Iterable[Art] = (),
        keeps_before: bool = False,
    ) -> Changed:
        """What edits would write, computed without a lock; with `keeps_before` what was before the first key of a
        channel is kept by another one.
        """
        edits = list(edits)
        known = self.load(scene_id)
        _expect(known.version, version)
        change = changed_by(known.scene, edits)
        said: list[str] = []
        if keeps_before and all(edit.KEYS_VALUES for edit in edits):
            after, said = with_what_came_before(known.scene, change.after)
            if said:
                change = SceneChange(known.scene, after)
                ensure_sound_after(change)
        before_rows, after_rows = changed_rows(change)
        if not after_rows:  # made anew, but what they were
            change = SceneChange(known.scene, known.scene)
        hand_plan_on(change)
        held = [*art, *self._assets.held_for(change)]
        words = label or (edits[0].label(known.scene) if edits else "")
        remarks = (*(edit.remark(known.scene) for edit in edits), *_summed(said)) if after_rows else ()
        result = tuple(dict.fromkeys(remark for remark in remarks if remark))
        return Changed(known, change, before_rows, after_rows, words[:200], held, remarks=result)

    def undone(self, scene_id: str, version: int) -> Changed:
        """What taking the last edit back would write. RuleError where there is none."""
        return self._stepped(scene_id, version, back=True)

    def redone(self, scene_id: str, version: int) -> Changed:
        """What doing the edit again that was taken back last would write. RuleError where there is none."""
        return self._stepped(scene_id, version, back=False)

    def undo(self, scene_id: str, version: int) -> Entry:
        """Take the last edit back. RuleError where there is none."""
        return self.commit(self.undone(scene_id, version))

    def redo(self, scene_id: str, version: int) -> Entry:
        """Do the edit again that was taken back last. RuleError where there is none."""
        return self.commit(self.redone(scene_id, version))

    def write(self, connection: Connection, change: Changed) -> Entry:
        """Write a change in a transaction under way. Raises StaleVersion where the scene has moved on meanwhile."""
        scene_id = change.known.scene.id
        result = self._standing(connection, scene_id)
        _expect(result.version, change.known.version)
        at = change.at
        if at is None:
            at = result.journal_at + 1
            connection.execute(delete(JOURNAL).where(JOURNAL.c.scene_id == scene_id, JOURNAL.c.number >= at))
            connection.execute(
                insert(JOURNAL).values(
                    scene_id=scene_id, number=at, label=change.label,
                    before=change.before_rows, after=change.after_rows, made_at=_now(),
                )
            )  # fmt: skip
            put_art(connection, change.art)
            put_made_art(connection, change.change)
        self._write(connection, scene_id, change.after_rows, result.version + 1, at)
        labels = (change.label, None) if change.at is None else self._labels(connection, scene_id, at)
        return Entry(change.after, result.version + 1, *labels)

    def create(self, scene: Scene, art: Iterable[Art] = ()) -> Entry:
        """Store a new scene, and art that comes along, whole or not at all."""
        ensure_sound(scene)
        with writing(self._engine).begin() as connection:
            return self.write_new(connection, scene, art)

    def write_new(self, connection: Connection, scene: Scene, art: Iterable[Art] = ()) -> Entry:
        """Write a new, sound scene in a transaction under way."""
        rows = scene_rows(scene)
        connection.execute(
            insert(SCENES).values(
                id=scene.id, version=1, journal_at=0, changed_at=_now(), **rows.pop(OWN), **rows.pop(PAINTING)
            )
        )
        put_art(connection, [*art, *self._assets.held_for(SceneChange(None, scene))])
        put_made_art(connection, SceneChange(None, scene))
        self._put(connection, scene.id, list(rows.items()))
        return Entry(scene, 1, None, None)

    def forget(self, scene_id: str) -> None:
        """Drop a scene from memory; the database still has it."""
        with self._lock:
            self._held.pop(scene_id, None)

    # Reading

    def _load(self, connection: Connection, scene_id: str) -> Entry:
        result = self._standing(connection, scene_id)
        held = self._held.get(scene_id)
        if held is not None and held.version == result.version:
            return held
        scene = scene_from_rows(scene_id, self._rows(connection, scene_id))
        return self._hold(Entry(scene, result.version, *self._labels(connection, scene_id, result.journal_at)))

    def _version(self, scene_id: str) -> int | None:
        """The version of a scene on the shelf, asked of the driver itself: each preview of a drag asks for it first."""
        connection = self._engine.raw_connection()
        try:
            result = connection.cursor().execute(_STANDING_AS_TEXT, (scene_id,)).fetchone()
        finally:
            connection.close()
        return result and result[0]

    def _standing(self, connection: Connection, scene_id: str) -> Any:
        """The version of a scene, and where it stands in its journal; SceneMissing where it is not on the shelf."""
        result = connection.execute(_STANDING, {"scene_id": scene_id}).first()
        if result is None:
            raise SceneMissing
        return result

    def _rows(self, connection: Connection, scene_id: str) -> dict[RowKey, Row]:
        (own,) = connection.execute(select(SCENES).where(SCENES.c.id == scene_id)).mappings()
        rows: dict[RowKey, Row] = {OWN: dict(own), PAINTING: {"painting": own["painting"]}}
        for name, (table, columns) in _TABLES.items():
            for result in connection.execute(select(table).where(table.c.scene_id == scene_id)).mappings():
                row = dict(result)
                key = tuple(_key_text(row.pop(column)) for column in columns)
                del row["scene_id"]
                rows[name, *key] = row
        return rows

    def _labels(self, connection: Connection, scene_id: str, at: int) -> tuple[str | None, str | None]:
        query = select(JOURNAL.c.number, JOURNAL.c.label).where(
            JOURNAL.c.scene_id == scene_id, JOURNAL.c.number.in_((at, at + 1))
        )
        result = {number: label for number, label in connection.execute(query)}
        return result.get(at), result.get(at + 1)

    def _hold(self, entry: Entry) -> Entry:
        with self._lock:
            self._held[entry.scene.id] = entry
            self._held.move_to_end(entry.scene.id)
            while len(self._held) > _HELD:
                self._held.popitem(last=False)
        return entry

    # Writing

    def _stepped(self, scene_id: str, version: int, back: bool) -> Changed:
        """One step along the journal; nothing of the scene is read but what its row says."""
        known = self.load(scene_id)
        _expect(known.version, version)
        with self._engine.connect() as connection:
            result = self._standing(connection, scene_id)
            _expect(result.version, version)
            number = result.journal_at if back else result.journal_at + 1
            row = connection.execute(
                select(JOURNAL).where(JOURNAL.c.scene_id == scene_id, JOURNAL.c.number == number)
            ).first()
        if row is None:
            raise RuleError("There is nothing to undo." if back else "There is nothing to redo.")
        rows: list[RowChange] = [(tuple(key), values) for key, values in (row.before if back else row.after)]
        change = SceneChange(known.scene, with_rows(known.scene, rows))
        hand_plan_on(change)
        return Changed(known, change, [], rows, None, [], at=number - 1 if back else number)

    def _write(self, connection: Connection, scene_id: str, changes: list[RowChange], version: int, at: int) -> None:
        own = {name: value for key, row in changes if key in (OWN, PAINTING) and row for name, value in row.items()}
        connection.execute(
            update(SCENES)
            .where(SCENES.c.id == scene_id)
            .values(version=version, journal_at=at, changed_at=_now(), **own)
        )
        below = [(key, row) for key, row in changes if key not in (OWN, PAINTING)]
        for name, keys in _by_table(scene_id, (key for key, _ in below)).items():
            table, columns = _TABLES[name]
            # Many rows are one statement: telling the database of each by itself takes longer than writing it.
            same = (table.c[column] == bindparam(f"its_{column}") for column in ("scene_id", *columns))
            named = [{f"its_{column}": value for column, value in key.items()} for key in keys]
            connection.execute(delete(table).where(*same), named)
        self._put(connection, scene_id, [(key, row) for key, row in below if row is not None])

    def _put(self, connection: Connection, scene_id: str, rows: list[tuple[RowKey, Row]]) -> None:
        fields: dict[str, list[Row]] = {}
        by_table = _by_table(scene_id, (key for key, _ in rows))
        for key, row in rows:  # in the same order
            fields.setdefault(key[0], []).append(row)
        try:
            for name, keys in by_table.items():
                values = [{**key, **row} for key, row in zip(keys, fields[name], strict=True)]
                connection.execute(insert(_TABLES[name][0]), values)
        except IntegrityError:
            raise RuleError("A drawing shows art that is not stored here. Nothing was changed.") from None


def copy_of(scene: Scene, scene_id: str, name: str) -> Scene:
    """The same scene under another id and name."""
    return replace(scene, id=scene_id, name=name)


def _expect(newest: int, version: int) -> None:
    if newest != version:
        raise StaleVersion(newest)


def _by_table(scene_id: str, keys: Iterable[RowKey]) -> dict[str, list[dict[str, Any]]]:
    """The columns by which rows are found, by the names of their tables."""
    result: dict[str, list[dict[str, Any]]] = {}
    for key in keys:
        columns = _TABLES[key[0]][1]
        parts = {column: _key_value(column, part) for column, part in zip(columns, key[1:], strict=True)}
        result.setdefault(key[0], []).append({"scene_id": scene_id, **parts})
    return result


def _key_text(value: Any) -> str:
    return repr(value) if isinstance(value, float) else value


def _key_value(column: str, text: str) -> str | float:
    return float(text) if column == "frame" else text


def _now() -> datetime:
    return datetime.now(UTC).replace(tzinfo=None)
